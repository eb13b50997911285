/** Pictures of JPEG 2000 from their codestreams, by the machine's decoder. */
import { damagedBy, impossible, unreadable } from '../../../base/errors'
import { allocateSamples, MAX_PIXELS, OPAQUE, type Frame } from '../../../frame/frame'
import type { Host } from '../../../frame/host'
import { readJ2kInfo, type J2kChannel } from './header'

/** Where each channel goes in a pixel of RGBA. */
const PLACES: Readonly<Record<J2kChannel, readonly number[]>> = {
  red: [0],
  green: [1],
  blue: [2],
  grey: [0, 1, 2]
}

/** The frame that a file or packet holds: 8 bits where it has no more, else 16, its codes scaled to all of them. */
export async function decodeJ2k(host: Host, bytes: Uint8Array, file: string, place: string | null): Promise<Frame> {
  const { width, height, bits, channels, from, to } = readJ2kInfo(bytes, place ? `${file}, ${place}` : file)
  // sizes are checked before memory is taken
  if (width < 1 || height < 1 || width * height > MAX_PIXELS)
    throw unreadable(file, place, `a picture of ${width}x${height} cannot be taken`)
  if (!host.j2k) throw impossible('this machine has no decoder for it', file)
  const picture = await host.j2k(bytes.subarray(from, to)).catch((error: unknown) => {
    throw damagedBy(error, why => unreadable(file, place, `its picture is damaged (${why})`))
  })
  const told = [picture.width, picture.height, picture.components, picture.bits]
  if (String(told) !== String([width, height, channels.length, bits]))
    throw unreadable(file, place, `it came out as ${told.join(', ')} instead of ${width}x${height} of ${bits} bits`)
  const depth = bits <= 8 ? 8 : 16
  const samples = allocateSamples(width, height, depth)
  const full = depth === 8 ? 255 : 65535
  const scale = full / (2 ** bits - 1)
  const count = channels.length
  for (let i = 3; i < samples.length; i += 4) samples[i] = full
  for (const [c, channel] of channels.entries())
    for (const at of PLACES[channel])
      for (let p = 0; p < width * height; p++)
        samples[4 * p + at] = Math.floor(picture.samples[p * count + c]! * scale + 0.5)
  return { width, height, depth, samples, alpha: OPAQUE, transfer: 'srgb' }
}
