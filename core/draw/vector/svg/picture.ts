/** PNG and JPEG pictures within a drawing (SVG 2, 12.3), as paints of the place they stand in. */
import { damagedBy, unreadable } from '../../../base/errors'
import { fromBase64 } from '../../../base/files/base64'
import { memoryReader } from '../../../base/files/file'
import { withAlphaMode } from '../../../frame/alpha'
import { withDepth } from '../../../frame/depth'
import { MAX_PIXELS, OPAQUE } from '../../../frame/frame'
import type { Host } from '../../../frame/host'
import { readJpegInfo } from '../../../media/pictures/jpeg'
import { decodePngFile } from '../../../media/pictures/png/file'
import { decodeByMachine } from '../../../media/pictures/sequence/machine'
import type { Bitmap } from '../../scene/bitmap'
import { combined, inverse, type Affine, type Line } from '../../raster/line'
import type { Size, Spread, Styles } from './around'
import { STILL, type Painting, type Shade } from './paint'
import { lengthOf } from './shapes'
import { fitted } from './viewport'

const KINDS: Readonly<Record<string, 'png' | 'jpeg'>> = {
  'image/png': 'png',
  'image/jpeg': 'jpeg',
  'image/jpg': 'jpeg'
}

/** The bytes of a picture that an address carries along; null where it carries none, or of another kind. */
function carried(href: string): { kind: 'png' | 'jpeg'; bytes: Uint8Array<ArrayBuffer> } | null {
  const [, mime, data] = /^data:([^;,]+)(?:;[^,;]*)*;base64,(.*)$/s.exec(href.trim()) ?? []
  const kind = KINDS[mime?.trim().toLowerCase() ?? '']
  const bytes = kind && data !== undefined ? fromBase64(data.replace(/\s+/g, '')) : null
  return bytes ? { kind: kind!, bytes } : null
}

/** Whether an address carries a picture that can be drawn. */
export const isCarried = (href: string): boolean =>
  KINDS[/^\s*data:([^;,]+)(?:;[^,;]*)*;base64,/.exec(href)?.[1]?.trim().toLowerCase() ?? ''] !== undefined

/** A picture that an address carries. Rejects with one clear error where it cannot be read. */
export async function pictureIn(href: string, file: string, host: Host): Promise<Bitmap> {
  const found = carried(href)
  const name = `a picture within ${file}`
  if (!found) throw unreadable(name, null, 'it is not a file in base64')
  try {
    const reader = memoryReader(name, found.bytes)
    if (found.kind === 'jpeg') {
      const { width, height } = await readJpegInfo(reader)
      if (width * height > MAX_PIXELS) throw unreadable(name, null, `a picture of ${width}x${height} cannot be taken`)
    }
    const frame =
      found.kind === 'png'
        ? await decodePngFile(host, reader)
        : await decodeByMachine(host, name, found.bytes, 'image/jpeg', OPAQUE)
    const deep = withDepth(frame, 32, host.kernels)
    const { width, height, samples } =
      deep.alpha.mode === 'none' ? deep : withAlphaMode(deep, { mode: 'premultiplied', matte: '#000000' }, host.kernels)
    return { width, height, pixels: samples as Float32Array }
  } catch (error) {
    throw damagedBy(error, why => unreadable(name, null, why))
  }
}

/** Samples along one side of a pixel at most: what is made smaller is the mean of what lies in it. */
const MOST_SAMPLES = 8

/**
 * The picture as a paint, `at` placing its pixels in the drawing; beyond its rim its last pixels go on. `smooth` takes
 * what lies between pixels.
 */
export function bitmapPaint({ width, height, pixels }: Bitmap, at: Affine, smooth: boolean): Painting {
  const back = inverse(at)
  const finer = Math.max(Math.hypot(back.a, back.b), Math.hypot(back.c, back.d))
  const steps = smooth ? Math.min(MOST_SAMPLES, Math.max(1, Math.ceil(finer))) : 1
  const held = (value: number, most: number): number => Math.min(most, Math.max(0, value))
  const sum: [number, number, number, number] = [0, 0, 0, 0]
  const add = (x: number, y: number, weight: number): void => {
    const from = 4 * (held(y, height - 1) * width + held(x, width - 1))
    for (let c = 0; c < 4; c++) sum[c]! += pixels[from + c]! * weight
  }
  const shade = (px: number, py: number): Shade => {
    sum.fill(0)
    for (let j = 0; j < steps; j++)
      for (let i = 0; i < steps; i++) {
        const [x, y] = [px + (i + 0.5) / steps - 0.5, py + (j + 0.5) / steps - 0.5]
        const [u, v] = [back.a * x + back.c * y + back.e, back.b * x + back.d * y + back.f]
        if (!smooth) add(Math.floor(u), Math.floor(v), 1)
        else {
          const [cu, cv] = [Math.floor(u - 0.5), Math.floor(v - 0.5)]
          const [tu, tv] = [u - 0.5 - cu, v - 0.5 - cv]
          const share = 1 / (steps * steps)
          add(cu, cv, (1 - tu) * (1 - tv) * share)
          add(cu + 1, cv, tu * (1 - tv) * share)
          add(cu, cv + 1, (1 - tu) * tv * share)
          add(cu + 1, cv + 1, tu * tv * share)
        }
      }
    const a = sum[3]
    return a > 0 ? [sum[0] / a, sum[1] / a, sum[2] / a, a] : [0, 0, 0, 0]
  }
  return Object.assign(shade, { looks: steps * steps * 4 })
}

/** Where a picture stands, by what an element says of it and by its own measure; null where that is nowhere. */
export function picturePlace(bitmap: Bitmap, own: Styles, [w, h]: Size): Spread | null {
  const [width, height] = [lengthOf(own.width, w, NaN), lengthOf(own.height, h, NaN)]
  const ratio = bitmap.width / bitmap.height
  const across = width >= 0 ? width : height >= 0 ? height * ratio : bitmap.width
  const down = height >= 0 ? height : width >= 0 ? width / ratio : bitmap.height
  if (!(across > 0 && down > 0)) return null
  const [x, y] = [lengthOf(own.x, w), lengthOf(own.y, h)]
  return [x, y, x + across, y + down]
}

/** How a picture is laid into its place, and the rim of what is seen of it. */
export function pictureFitted(
  { width, height }: Bitmap,
  [l, t, r, b]: Spread,
  preserve: string | undefined
): { laid: Affine; rim: Line } {
  const fit = fitted([0, 0, width, height], [r - l, b - t], preserve)
  const laid = combined({ ...STILL, e: l, f: t }, fit)
  const [left, top] = [Math.max(l, laid.e), Math.max(t, laid.f)]
  const [right, bottom] = [Math.min(r, laid.e + fit.a * width), Math.min(b, laid.f + fit.d * height)]
  return { laid, rim: Float64Array.from([left, top, right, top, right, bottom, left, bottom]) }
}
