/** Pictures that the machine decodes: size and damage checked on the way. */
import { damagedBy, impossible, unreadable } from '../../../base/errors'
import { MAX_PIXELS, type AlphaMode, type Frame } from '../../../frame/frame'
import type { Host, PictureDecoder } from '../../../frame/host'

/**
 * The picture as a frame of 8 bits. Throws an error that names the file when it is damaged, and one of kind
 * `impossible` where there is no decoder.
 */
export async function decodeByMachine(
  host: Host,
  file: string,
  bytes: Uint8Array,
  mime: Parameters<PictureDecoder['decode']>[1],
  alpha: AlphaMode
): Promise<Frame> {
  if (!host.pictures) throw impossible('this machine has no decoder for it', file)
  let picture
  try {
    picture = await host.pictures.decode(bytes, mime)
  } catch (error) {
    throw damagedBy(error, why =>
      unreadable(file, null, `its picture data is damaged, or of a kind this machine does not decode (${why})`)
    )
  }
  const { width, height, rgba } = picture
  if (width * height > MAX_PIXELS) throw unreadable(file, null, `a picture of ${width}x${height} cannot be taken`)
  return { width, height, depth: 8, samples: rgba, alpha, transfer: 'srgb' }
}
