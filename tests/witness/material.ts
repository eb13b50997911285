/**
 * Small clips of what the trade hands over: soft edges, all alphas over all colours, noise, clear and solid pictures.
 */
import { type Frame } from '../../core/frame/frame'
import { OPAQUE, STRAIGHT } from '../../core/frame/frame'
import { random } from '../unit/support'

export const COUNT = 6

type Paint = (x: number, y: number, next: () => number) => readonly [number, number, number, number]

/** A bar of 60 % with a hard edge and lettering-like strokes in it over a soft shadow, moved along by `t`. */
const strap =
  (width: number, height: number, t: number): Paint =>
  (x, y) => {
    const u = (x + 0.5) / width - 0.08 * t
    const v = (y + 0.5) / height
    const shadow = Math.max(0, 0.7 - 2.2 * Math.hypot(u - 0.55, v - 0.6))
    const bar = u > 0.2 && u < 0.8 && v > 0.3 && v < 0.7
    const stroke = bar && Math.floor(u * 40) % 3 === 0 && v > 0.42 && v < 0.58
    if (stroke) return [0.96, 0.94, 0.9, 1]
    if (bar) return [0.1, 0.45, 0.38, 0.6 + 0.4 * shadow]
    return [0.03, 0.02, 0.05, shadow]
  }

/** Alpha from 0 to full across, colour round its circle down. */
const ramps =
  (width: number, height: number): Paint =>
  (x, y) => {
    const a = width === 1 ? 0.5 : x / (width - 1)
    const h = (6 * y) / Math.max(1, height)
    const colour = [0, 2, 4].map(o => Math.min(1, Math.max(0, Math.abs(((h + o) % 6) - 3) - 1)))
    return [colour[0]!, colour[1]!, colour[2]!, a]
  }

const noise: Paint = (_x, _y, next) => [next(), next(), next(), next() < 0.3 ? 0 : next() < 0.3 ? 1 : next()]
const clear: Paint = () => [0, 0, 0, 0]
const solid: Paint = (x, y) => [(x % 17) / 16, (y % 13) / 12, ((x + y) % 7) / 6, 1]

/** Six pictures that differ, or the first of them, of 16 bits, straight; solid everywhere where no alpha is wanted. */
export function clip(width: number, height: number, alpha = true, count = COUNT): Frame[] {
  const paints = [strap(width, height, 0), ramps(width, height), noise, clear, solid, strap(width, height, 1)]
  return paints.slice(0, count).map((paint, n) => {
    const next = random(n + 1)
    const samples = new Uint16Array(4 * width * height)
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const pixel = paint(x, y, next)
        for (let c = 0; c < 4; c++)
          samples[4 * (y * width + x) + c] = c === 3 && !alpha ? 65535 : Math.round(65535 * pixel[c]!)
      }
    return { width, height, depth: 16, samples, alpha: alpha ? STRAIGHT : OPAQUE, transfer: 'srgb' }
  })
}
