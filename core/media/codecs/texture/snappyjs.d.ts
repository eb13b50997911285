declare module 'snappyjs' {
  /** The bytes, packed. */
  export function compress(bytes: Uint8Array): Uint8Array
  /** Unpacks; throws where that comes to more than `most` bytes, or the stream is broken. */
  export function uncompress(packed: Uint8Array, most?: number): Uint8Array
}
