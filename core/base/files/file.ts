/** Files as the core meets them: something with a name that can be opened, and, once open, read at any place. */

/**
 * Names a file so that a worker can open it: structured-cloneable, cheap to copy. `path` is the name within what was
 * brought in.
 */
export type FileRef =
  | { readonly kind: 'blob'; readonly path: string; readonly size: number; readonly blob: Blob }
  | {
      readonly kind: 'disk'
      readonly path: string
      readonly size: number
      readonly location: string
      /** What it was when it was found: disk and number, size, times, and a digest of its head and tail. */
      readonly is?: string
    }
  | { readonly kind: 'bytes'; readonly path: string; readonly size: number; readonly bytes: Uint8Array<ArrayBuffer> }
  | {
      readonly kind: 'zipped'
      readonly path: string
      readonly size: number
      readonly archive: FileRef
      /** Where the entry's local header begins, and what the central directory says of its bytes. */
      readonly offset: number
      readonly packedSize: number
      readonly method: 'stored' | 'deflated'
      readonly crc: number
      /** SHA-256 of its bytes in hexadecimal digits, where whoever packed it noted that. */
      readonly sha256?: string
      /** When it was last changed before it was packed, in milliseconds. */
      readonly modified?: number
    }

export interface ByteReader {
  /** The file's name, for messages. */
  readonly name: string
  readonly size: number
  /** Bytes [offset, offset + length), cut short at the end of the file. */
  read(offset: number, length: number): Promise<Uint8Array>
  close(): Promise<void>
}

/** The last part of a path. */
export function baseName(path: string): string {
  return path.slice(path.lastIndexOf('/') + 1)
}

/** The folder part of a path, without the closing slash; empty at the top. */
export function folderName(path: string): string {
  return path.slice(0, Math.max(0, path.lastIndexOf('/')))
}

/** A reader over bytes in memory. */
export function memoryReader(name: string, bytes: Uint8Array): ByteReader {
  return {
    name,
    size: bytes.length,
    read: (offset, length) => Promise.resolve(bytes.subarray(offset, offset + length)),
    close: () => Promise.resolve()
  }
}

/** The whole file in memory; for formats whose files are single pictures. */
export async function readAll(reader: ByteReader): Promise<Uint8Array> {
  return reader.read(0, reader.size)
}
