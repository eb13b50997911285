/** The proof's reader of PNG pictures: a library's decoder, which shares no code with Pour's writer. */
import { damagedBy, unreadable } from '../../../base/errors'
import { OPAQUE, STRAIGHT, type Frame } from '../../../frame/frame'
import type { Host } from '../../../frame/host'
import { parseHeader } from './header'

/** Where the content of the first chunk lies, and how long a header's is. */
const HEADER_AT = 16
const HEADER_LENGTH = 13

/** Decodes RGB or RGBA files of 8 or 16 bits, which is what Pour writes; anything else is an error here. */
export async function decodeIndependently(host: Host, bytes: Uint8Array, name: string): Promise<Frame> {
  // the header tells what to ask of the decoder, and keeps it from taking memory for a picture beyond all bounds
  const { bitDepth, colourType } = parseHeader(name, bytes.subarray(HEADER_AT, HEADER_AT + HEADER_LENGTH))
  if ((colourType !== 2 && colourType !== 6) || (bitDepth !== 8 && bitDepth !== 16))
    throw unreadable(
      name,
      null,
      `it is of colour type ${colourType} at ${bitDepth} bits; a delivery is RGB or RGBA of 8 or 16`
    )
  try {
    const { width, height, samples } = await host.png.decode(bytes, bitDepth)
    return { width, height, depth: bitDepth, samples, alpha: colourType === 6 ? STRAIGHT : OPAQUE, transfer: 'srgb' }
  } catch (error) {
    throw damagedBy(error, why => unreadable(name, null, `${host.png.name} could not read it: ${why}`))
  }
}
