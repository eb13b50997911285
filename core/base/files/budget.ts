/**
 * What a file may cost, judged by its header before memory is taken or a loop begins: alike in the page, on the command
 * line and in the service. Honest files of any size that fits pass; a few bytes that claim a great deal do not.
 */
import { noRoom, unreadable, type PourError } from '../errors'

export interface Claim {
  width: number
  height: number
  depth: 8 | 16 | 32
  frames: number
  /** Of the files that claim it. */
  bytes: number
}

/**
 * Bytes of one frame's samples, RGBA: half a GiB, an 8-bit frame of 16384x8192. Several of them are at hand while
 * frames are worked on.
 */
export const MOST_FRAME = 2 ** 29

/** A frame of 4096x4096 at 8 bits is believed of any file: clear pictures of that size come to a few hundred bytes. */
const SURE_FRAME = 2 ** 26
/**
 * Larger ones have at least a byte for so many pixels; deflate of one-bit samples comes to 8,256, the most of any
 * coding with rows.
 */
const PIXELS_A_BYTE = 2 ** 14
/** A clip of so many pixels in all is believed of any file: two minutes of 640x360. */
const SURE_CLIP = 2 ** 29
/**
 * Larger ones have a byte for so many pixels: thirty bytes for a 1080p frame in which nothing changes come to half of
 * it.
 */
const CLIP_PIXELS_A_BYTE = 2 ** 17

const gigabytes = (bytes: number): string => `${(bytes / 1e9).toFixed(1)} GB`

/** What stands against a claim, or null. `file` names it. */
export function overBudget({ width, height, depth, frames, bytes }: Claim, file: string): PourError | null {
  const pixels = width * height
  const samples = (pixels * 4 * depth) / 8
  if (!(samples <= MOST_FRAME))
    return noRoom(
      `${file}: a frame of ${width}x${height} at ${depth} bits needs ${gigabytes(samples)}; ` +
        `${gigabytes(MOST_FRAME)} is the most Pour takes`
    )
  if (samples > SURE_FRAME && pixels > bytes * PIXELS_A_BYTE)
    return unreadable(file, null, `${bytes} bytes cannot hold a picture of ${width}x${height}`)
  if (pixels * frames > SURE_CLIP && pixels * frames > bytes * CLIP_PIXELS_A_BYTE)
    return unreadable(file, null, `${bytes} bytes cannot hold ${frames} frames of ${width}x${height}`)
  return null
}
