/** What a chunk of an OpenEXR file holds ("OpenEXR File Layout"). */
export interface Channel {
  name: string
  /** 0 uint, 1 half, 2 float. */
  type: number
  /** Whether its values are logarithmic already, so that lossy kinds take them as they are. */
  linear: boolean
}

/** What a chunk holds: lines of all channels, one channel behind the other in each line. */
export interface ChunkShape {
  channels: readonly Channel[]
  width: number
  lines: number
}

/** Exactly so many bytes from a zlib stream, or null when it is damaged. */
export type Inflate = (packed: Uint8Array, size: number) => Promise<Uint8Array | null>
