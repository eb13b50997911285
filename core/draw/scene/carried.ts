/** A frame as the picture that a scene carries along: a PNG file, straight, at 8 or 16 bits. */
import { impossible } from '../../base/errors'
import { toBase64 } from '../../base/files/base64'
import { withAlphaMode } from '../../frame/alpha'
import { withDepth } from '../../frame/depth'
import type { Frame } from '../../frame/frame'
import type { Host } from '../../frame/host'
import { coded } from '../../frame/transfer'
import { encodePng } from '../../media/pictures/png/encode'
import type { CarriedPicture } from './tables'

/** Bytes of a picture that a scene carries along. */
export const MOST_CARRIED = 2_000_000

/**
 * `frame` as screens see it, at 8 bits if it has no more and at 16 if it has. Rejects where the file would be longer
 * than a scene carries; `name` is called then.
 */
export async function carriedPicture(frame: Frame, host: Host, name: string): Promise<CarriedPicture> {
  const { kernels } = host
  const plain = withDepth(coded(frame, kernels), frame.depth === 8 ? 8 : 16, kernels)
  const straight = plain.alpha.mode === 'none' ? plain : withAlphaMode(plain, { mode: 'straight' }, kernels)
  const bytes = await encodePng(host, straight)
  if (bytes.length > MOST_CARRIED)
    throw impossible(
      `it comes to ${(bytes.length / 1e6).toFixed(1)} MB; a scene carries pictures of up to 2 MB. Bring it in as a ` +
        'source, which a scene shows at any size',
      name
    )
  return { data: toBase64(bytes), width: frame.width, height: frame.height }
}
