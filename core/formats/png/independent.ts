/** The proof's reader of PNG pictures: a library's decoder, which shares no code with Pour's writer. */
import { decode } from 'fast-png'
import { unreadable } from '../../errors'
import { allocateSamples, OPAQUE, STRAIGHT, type Frame } from '../../frame/frame'

/** Decodes RGB or RGBA files of 8 or 16 bits, which is what Pour writes; anything else is an error here. */
export function decodeIndependently(bytes: Uint8Array, name: string): Promise<Frame> {
  let image: ReturnType<typeof decode>
  try {
    image = decode(bytes, { checkCrc: true })
  } catch (error) {
    return Promise.reject(unreadable(name, null, `fast-png could not read it: ${error instanceof Error ? error.message : String(error)}`))
  }
  const { width, height, channels, data } = image
  const depth = image.depth === 16 ? 16 : 8
  if (channels !== 3 && channels !== 4) return Promise.reject(unreadable(name, null, `it has ${channels} channels; a delivery has three or four`))
  const samples = allocateSamples(width, height, depth)
  if (channels === 4) samples.set(data)
  else {
    const full = depth === 8 ? 255 : 65535
    for (let i = 0, o = 0; i < data.length; i += 3, o += 4) {
      samples[o] = data[i]!
      samples[o + 1] = data[i + 1]!
      samples[o + 2] = data[i + 2]!
      samples[o + 3] = full
    }
  }
  return Promise.resolve({ width, height, depth, samples, alpha: channels === 4 ? STRAIGHT : OPAQUE, transfer: 'srgb' })
}
