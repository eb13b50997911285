/** Paints a picture into a scene, the way a program takes it. */
import { hexAtDepth } from '../../base/colour'
import { readAs, withAlphaMode } from '../../frame/alpha'
import { withDepth } from '../../frame/depth'
import { STRAIGHT, type Frame } from '../../frame/frame'
import { toCoded, toLinearLight } from '../../frame/transfer'
import type { Kernels } from '../../frame/kernels/kernels'
import { backdropPaint, isInPlace, standInAt, type StationScene } from './scene'
import { compose } from './show'
import { BLACK_MATTE, type Taking } from './station'

interface Texture {
  width: number
  height: number
  samples: Float32Array
}

/**
 * The picture as the program holds it: float, in the mode its filter works on. Light outside alpha is kept where
 * nothing divides it.
 */
function textureOf(frame: Frame, taking: Taking, kernels: Kernels): Texture {
  const read = withDepth(readAs(frame, taking.alpha), 32, kernels)
  const held =
    taking.alpha.mode === 'none'
      ? read
      : withAlphaMode(read, taking.texture === 'straight' ? STRAIGHT : BLACK_MATTE, kernels)
  return { width: frame.width, height: frame.height, samples: held.samples as Float32Array }
}

/** Half the size, each pixel the mean of four: a mip level. An odd last row or column counts twice. */
function halved({ width, height, samples }: Texture): Texture {
  const [w, h] = [Math.max(1, width >> 1), Math.max(1, height >> 1)]
  const half = new Float32Array(4 * w * h)
  for (let y = 0; y < h; y++) {
    const [top, bottom] = [2 * y, Math.min(height - 1, 2 * y + 1)]
    for (let x = 0; x < w; x++) {
      const [left, right] = [2 * x, Math.min(width - 1, 2 * x + 1)]
      for (let c = 0; c < 4; c++)
        half[4 * (y * w + x) + c] =
          (samples[4 * (top * width + left) + c]! +
            samples[4 * (top * width + right) + c]! +
            samples[4 * (bottom * width + left) + c]! +
            samples[4 * (bottom * width + right) + c]!) /
          4
    }
  }
  return { width: w, height: h, samples: half }
}

/** The colour at a place of the texture in pixels, corners at whole numbers; clear outside. */
function sample({ width, height, samples }: Texture, u: number, v: number, smooth: boolean, out: Float32Array): void {
  out.fill(0)
  if (!smooth) {
    const [x, y] = [Math.floor(u), Math.floor(v)]
    if (x >= 0 && y >= 0 && x < width && y < height)
      for (let c = 0; c < 4; c++) out[c] = samples[4 * (y * width + x) + c]!
    return
  }
  const [x, y] = [Math.floor(u - 0.5), Math.floor(v - 0.5)]
  const [fx, fy] = [u - 0.5 - x, v - 0.5 - y]
  for (let n = 0; n < 4; n++) {
    const weight = (n & 1 ? fx : 1 - fx) * (n & 2 ? fy : 1 - fy)
    if (weight === 0) continue
    // textures are drawn with their edge pixels going on, so that no rim is cut where a picture fills its frame
    const px = Math.max(0, Math.min(width - 1, x + (n & 1)))
    const py = Math.max(0, Math.min(height - 1, y + (n >> 1)))
    const at = 4 * (py * width + px)
    for (let c = 0; c < 4; c++) out[c]! += weight * samples[at + c]!
  }
}

const curve = (linear: boolean, v: number): number => (linear ? toLinearLight(v) : v)
const back = (linear: boolean, v: number): number => (linear ? toCoded(v) : v)

/**
 * The station's screen: opaque RGBA of 8 bits, of the frame's own size. Where the picture stands in place over one
 * colour, nothing is resampled and every code is exact. Time is linear in the frame's pixels.
 */
export function paint(
  frame: Frame,
  taking: Taking,
  scene: StationScene,
  kernels: Kernels
): Uint8ClampedArray<ArrayBuffer> {
  const { width, height } = frame
  const drawn = taking.drawn ?? 1
  const plain =
    isInPlace(scene) && drawn === 1 && scene.standIn === 'none' && taking.light === 'coded' && taking.cut === undefined
  if (plain && !taking.blank && (taking.onto || scene.backdrop.kind === 'colour'))
    return compose(
      readAs(frame, taking.alpha),
      taking.onto ?? (scene.backdrop.kind === 'colour' ? scene.backdrop.colour : '#000000'),
      kernels
    )
  const pixels = new Uint8ClampedArray(4 * width * height)
  const behind = backdropPaint(scene.backdrop, width / height)
  const lay = layer(frame, taking, scene, kernels)
  const rgb = new Float32Array(3)
  const pot = new Float32Array(3)
  for (let y = 0, i = 0; y < height; y++) {
    const v = (y + 0.5) / height
    for (let x = 0; x < width; x++, i += 4) {
      const u = (x + 0.5) / width
      behind(u, v, rgb)
      const inPot = scene.standIn !== 'none' && standInAt(u, v, pot)
      if (inPot && scene.standIn === 'behind') rgb.set(pot)
      lay(x + 0.5, y + 0.5, rgb)
      if (inPot && scene.standIn === 'before') rgb.set(pot)
      for (let c = 0; c < 3; c++) pixels[i + c] = Math.floor(rgb[c]! * 255 + 0.5)
      pixels[i + 3] = 255
    }
  }
  return pixels
}

/** Lays the picture over what is there at one place of the frame. */
function layer(
  frame: Frame,
  taking: Taking,
  { place, filter }: StationScene,
  kernels: Kernels
): (x: number, y: number, rgb: Float32Array) => void {
  if (taking.blank) return () => undefined
  const { width, height } = frame
  const scale = place.scale * (taking.drawn ?? 1)
  let texture = textureOf(frame, taking, kernels)
  // a mip level no smaller than what is drawn
  for (let left = scale; left <= 0.5 && filter === 'smooth'; left *= 2) texture = halved(texture)
  const level = width / texture.width
  const turn = (place.turn * Math.PI) / 180
  const [cos, sin] = [Math.cos(turn), Math.sin(turn)]
  const [middleX, middleY] = [width * (0.5 + place.x), height * (0.5 + place.y)]
  const straight = taking.texture === 'straight' && taking.alpha.mode !== 'none'
  const linear = taking.light === 'linear'
  const onto = taking.onto ? hexAtDepth(taking.onto, 32) : null
  const hit = new Float32Array(4)
  return (x, y, rgb) => {
    const [dx, dy] = [x - middleX, y - middleY]
    const u = width / 2 + (dx * cos + dy * sin) / scale
    const v = height / 2 + (dy * cos - dx * sin) / scale
    if (u < 0 || v < 0 || u >= width || v >= height) return
    sample(
      texture,
      u / level,
      v / level,
      filter === 'smooth' &&
        (scale !== 1 || place.turn % 90 !== 0 || (place.x * width) % 1 !== 0 || (place.y * height) % 1 !== 0),
      hit
    )
    let a = hit[3]!
    if (taking.cut !== undefined) a = a >= taking.cut ? 1 : 0
    for (let c = 0; c < 3; c++) {
      const ground = curve(linear, onto ? onto[c]! : rgb[c]!)
      if (!linear && taking.cut === undefined) rgb[c] = (straight ? hit[c]! * a : hit[c]!) + ground * (1 - a)
      else {
        const own = straight ? hit[c]! : hit[3]! > 0 ? hit[c]! / hit[3]! : hit[c]!
        rgb[c] = back(linear, curve(linear, own) * a + ground * (1 - a))
      }
    }
  }
}
