/** Material before a green screen whose light is uneven, with its truth: for keys that have not seen it. */
import { ellipse, stroke } from '../../demo/canvas'
import { drawn, hash, HEIGHT, mean, WIDTH, type Plate } from './paint'
import { ciede2000, toLab, toLinear } from '../../core/frame/kernels/ciede2000'
import type { Frame } from '../../core/frame/frame'
import { STRAIGHT } from '../../core/frame/frame'

export interface Shot {
  name: string
  /** What stands before the screen: premultiplied, with the alpha that a key should find. */
  truth: Plate
}

const ball = (t: number, colour: readonly [number, number, number]): Plate =>
  drawn(c => {
    c.fill(ellipse(90 + 140 * t, 90, 44, 44), colour, 1, 3)
    c.fill(ellipse(78 + 140 * t, 74, 12, 9), [250, 226, 230], 1, 6)
  })

const hair = (): Plate =>
  drawn(c => {
    c.fill(ellipse(160, 130, 56, 64), [150, 96, 66])
    for (let n = 0; n < 70; n++) {
      const angle = -Math.PI * (0.08 + (0.84 * n) / 70)
      const [r, bend] = [18 + 34 * hash(n, 1, 3), 9 * Math.sin(n)]
      const points = [0, 0.5, 1].map(
        k => [160 + (54 + k * r) * Math.cos(angle) + bend * k * k, 130 + (60 + k * r) * Math.sin(angle)] as const
      )
      const shade = 0.85 + 0.3 * hash(n, 2, 3)
      c.fill(stroke(points, 0.7 + 0.9 * hash(n, 3, 3)), [120 * shade, 74 * shade, 48 * shade])
    }
  })

const glass = (): Plate =>
  drawn(c => {
    c.fill(ellipse(160, 96, 70, 66), [196, 206, 214], 0.35, 2)
    c.fill(ellipse(160, 96, 70, 66), [120, 130, 140], 0.25, 24)
    c.fill(ellipse(136, 66, 20, 12, -0.5), [255, 255, 255], 0.9, 10)
    c.fill(ellipse(160, 168, 50, 8), [110, 96, 88], 1, 2)
  })

export const shots: readonly Shot[] = [
  { name: 'pink ball with soft edges', truth: ball(0.5, [226, 112, 160]) },
  {
    name: 'pink ball in motion',
    truth: mean(Array.from({ length: 16 }, (_, n) => ball(0.3 + 0.012 * n, [226, 112, 160])))
  },
  {
    name: 'ochre ball in motion',
    truth: mean(Array.from({ length: 16 }, (_, n) => ball(0.3 + 0.012 * n, [206, 150, 70])))
  },
  { name: 'hair', truth: hair() },
  { name: 'glass', truth: glass() }
]

/** The screen's own colour, 0 to 1, at a place: brighter in the middle. */
export function screenAt(x: number, y: number): [number, number, number] {
  const light = 1 - 0.22 * ((x - 130) / WIDTH) ** 2 * 4 - 0.14 * (y / HEIGHT)
  return [0.17 * light, 0.64 * light, 0.28 * light]
}

/** The shot as a camera sees it: solid, 8 bits. */
export function filmed({ width, height, pixels }: Plate): Frame {
  const samples = new Uint8Array(pixels.length)
  for (let i = 0; i < samples.length; i += 4) {
    const screen = screenAt((i / 4) % width, Math.floor(i / 4 / width))
    for (let c = 0; c < 3; c++)
      samples[i + c] = Math.round(255 * Math.min(1, pixels[i + c]! + (1 - pixels[i + 3]!) * screen[c]!))
    samples[i + 3] = 255
  }
  return { width, height, depth: 8, samples, alpha: STRAIGHT, transfer: 'srgb' }
}

export interface KeyErrors {
  /** Mean alpha error over the whole picture, and over pixels that are partly clear in truth or as found, 0 to 1. */
  alpha: number
  softAlpha: number
  /** Mean CIEDE2000 over such pixels, laid over mid grey. */
  edge: number
}

/** How far a keyed picture (straight RGBA, 0 to 1) is off the truth. */
export function keyErrors(found: Float32Array, { pixels }: Plate): KeyErrors {
  let [sum, soft, softSum, edgeSum] = [0, 0, 0, 0]
  const lab = new Float64Array(6)
  for (let i = 0; i < found.length; i += 4) {
    const [due, is] = [pixels[i + 3]!, found[i + 3]!]
    sum += Math.abs(due - is)
    const partial = (due > 0.01 && due < 0.99) || (is > 0.01 && is < 0.99)
    if (!partial) continue
    soft++
    softSum += Math.abs(due - is)
    const [one, other] = [0, 1].map(which =>
      [0, 1, 2].map(c => (which ? found[i + c]! * is + 0.5 * (1 - is) : pixels[i + c]! + 0.5 * (1 - due)))
    ) as [number[], number[]]
    toLab(toLinear(one[0]!), toLinear(one[1]!), toLinear(one[2]!), lab, 0)
    toLab(toLinear(other[0]!), toLinear(other[1]!), toLinear(other[2]!), lab, 3)
    edgeSum += ciede2000(lab, 0, 3)
  }
  return { alpha: sum / (found.length / 4), softAlpha: softSum / soft, edge: edgeSum / soft }
}
