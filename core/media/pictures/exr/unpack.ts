/** Unpacking one chunk of an OpenEXR file ("OpenEXR File Layout"), whichever way it is packed. */
import { unpackB44 } from './b44'
import { unpackDwa } from './dwa'
import { unpackRuns, unpredict } from './pack'
import { unpackPiz } from './piz'
import type { Channel, ChunkShape, Inflate } from './chunk'
import { joinPxr24 } from './pxr24'

export const COMPRESSIONS = ['none', 'RLE', 'ZIPS', 'ZIP', 'PIZ', 'PXR24', 'B44', 'B44A', 'DWAA', 'DWAB'] as const

/** Scan lines in one chunk, by compression. */
export const LINES: readonly number[] = [1, 1, 1, 16, 32, 16, 32, 32, 32, 256]

/** What does not come back code for code. */
export const LOSSY = new Set<number>([5, 6, 7, 8, 9])

/** Bytes of one pixel of these channels. */
export const pixelBytes = (channels: readonly Channel[]): number =>
  channels.reduce((sum, { type }) => sum + (type === 1 ? 2 : 4), 0)

/** The chunk's lines, or null when its data is damaged. What packing would not have made smaller is stored as it is. */
export async function unpackChunk(
  compression: number,
  packed: Uint8Array,
  shape: ChunkShape,
  inflate: Inflate
): Promise<Uint8Array | null> {
  const { channels, width, lines } = shape
  const raw = width * lines * pixelBytes(channels)
  if (compression === 0 || packed.length >= raw) return packed.length >= raw ? packed : null
  switch (COMPRESSIONS[compression]) {
    case 'RLE': {
      const sorted = unpackRuns(packed, raw)
      return sorted && unpredict(sorted)
    }
    case 'ZIPS':
    case 'ZIP': {
      const sorted = await inflate(packed, raw)
      return sorted && unpredict(sorted)
    }
    case 'PIZ':
      return unpackPiz(packed, raw, { each: channels.map(({ type }) => (type === 1 ? 1 : 2)), width, lines })
    case 'PXR24': {
      const stored = channels.reduce((sum, { type }) => sum + (type === 1 ? 2 : type === 2 ? 3 : 4), 0)
      const sorted = await inflate(packed, width * lines * stored)
      return sorted && joinPxr24(sorted, shape)
    }
    case 'B44':
    case 'B44A':
      return unpackB44(packed, shape)
    default:
      return unpackDwa(packed, shape, inflate)
  }
}
