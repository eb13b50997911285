/** Pictures within a scene: PNG files that its description carries along, laid at any place, size and turn. */
import { unreadable } from '../../base/errors'
import { fromBase64 } from '../../base/files/base64'
import { memoryReader } from '../../base/files/file'
import { withAlphaMode } from '../../frame/alpha'
import { withDepth } from '../../frame/depth'
import type { Host } from '../../frame/host'
import { decodePngFile } from '../../media/pictures/png/file'
import type { Layer } from './layer'
import { placed, type Affine } from '../raster/line'
import { boundsOf, within, type Bounds } from '../raster/coverage'

/** Premultiplied RGBA of 0 to 1. */
export interface Bitmap {
  width: number
  height: number
  pixels: Float32Array
}

/** The PNG file that stands in a description as base64. Rejects with one clear error where it is none. */
export async function bitmapOf(data: string, name: string, host: Host): Promise<Bitmap> {
  const bytes = fromBase64(data)
  if (!bytes) throw unreadable(name, null, 'its picture is not a PNG file in base64')
  const frame = await decodePngFile(host, memoryReader(name, bytes))
  const { width, height, samples } = withAlphaMode(
    withDepth(frame, 32, host.kernels),
    { mode: 'premultiplied', matte: '#000000' },
    host.kernels
  )
  return { width, height, pixels: samples as Float32Array }
}

/** Samples along one side of a pixel, so that what is made smaller is the mean of what lies in it. */
const MOST_SAMPLES = 8

/** The picture, its middle at the place, as a layer within `clip`; null where none of it lies there. */
export function layBitmap(
  bitmap: Bitmap,
  size: { width: number; height: number },
  at: Affine,
  clip: Bounds
): Layer | null {
  const [w, h] = [size.width / 2, size.height / 2]
  const corners = placed(Float64Array.from([-w, -h, w, -h, w, h, -w, h]), at)
  const bounds = within(boundsOf([corners], 1), clip)
  if (bounds.right <= bounds.left || bounds.bottom <= bounds.top) return null
  const layer: Layer = {
    ...bounds,
    pixels: new Float32Array(4 * (bounds.right - bounds.left) * (bounds.bottom - bounds.top))
  }
  const det = at.a * at.d - at.b * at.c || 1e-12
  const [sx, sy] = [bitmap.width / size.width, bitmap.height / size.height]
  // from a place of the scene to one of the bitmap
  const [ua, uc] = [(at.d / det) * sx, (-at.c / det) * sx]
  const [vb, vd] = [(-at.b / det) * sy, (at.a / det) * sy]
  const steps = Math.min(MOST_SAMPLES, Math.max(1, Math.ceil(Math.max(Math.hypot(ua, vb), Math.hypot(uc, vd)))))
  const share = 1 / (steps * steps)
  const out = layer.pixels
  let to = 0
  for (let y = bounds.top; y < bounds.bottom; y++)
    for (let x = bounds.left; x < bounds.right; x++, to += 4)
      for (let j = 0; j < steps; j++)
        for (let i = 0; i < steps; i++) {
          const [px, py] = [x + (i + 0.5) / steps - at.e, y + (j + 0.5) / steps - at.f]
          addSample(bitmap, ua * px + uc * py + bitmap.width / 2 - 0.5, vb * px + vd * py + bitmap.height / 2 - 0.5, {
            out,
            to,
            share
          })
        }
  return layer
}

/** Adds what lies between four pixels; beyond the picture is nothing. */
function addSample(
  { width, height, pixels }: Bitmap,
  u: number,
  v: number,
  { out, to, share }: { out: Float32Array; to: number; share: number }
): void {
  const [x, y] = [Math.floor(u), Math.floor(v)]
  if (x < -1 || y < -1 || x >= width || y >= height) return
  const [tx, ty] = [u - x, v - y]
  for (let dy = 0; dy < 2; dy++)
    for (let dx = 0; dx < 2; dx++) {
      const [px, py] = [x + dx, y + dy]
      const weight = (dx ? tx : 1 - tx) * (dy ? ty : 1 - ty) * share
      if (weight === 0 || px < 0 || py < 0 || px >= width || py >= height) continue
      const from = 4 * (py * width + px)
      for (let c = 0; c < 4; c++) out[to + c]! += pixels[from + c]! * weight
    }
}
