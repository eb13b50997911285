/** Shots before a screen as cameras and codecs hand them over, with their truth; and how well keys find it. */
import { ellipse, stroke } from '../../demo/canvas'
import { STRAIGHT, type Frame } from '../../core/frame/frame'
import type { Host } from '../../core/frame/host'
import { stepKindById } from '../../core/prepare/kinds'
import { newStep, prepared, Step } from '../../core/prepare/preparation'
import type { SourceFacts } from '../../core/source/source'
import { drawn, hash, HEIGHT, mean, shaded, WIDTH, type Plate } from './paint'
import { keyErrors, screenAt, shots, type KeyErrors, type Shot } from './screen'

type Colour = readonly [number, number, number]

/** A disc with a soft rim beside a hard one, and thin strokes, all of one colour. */
const figure = (colour: Colour): Plate =>
  drawn(c => {
    c.fill(ellipse(110, 90, 40, 40), colour, 1, 6)
    c.fill(ellipse(220, 90, 44, 44), colour, 1, 1)
    for (let n = 0; n < 8; n++)
      c.fill(
        stroke(
          [
            [150 + 8 * n, 20],
            [166 + 8 * n, 46]
          ] as const,
          0.8 + 0.15 * n
        ),
        colour
      )
  })

const smoke = (): Plate =>
  shaded((x, y) => {
    const wave = Math.sin(x / 17 + 2 * Math.sin(y / 23)) * Math.sin(y / 13 + Math.sin(x / 31))
    const far = Math.hypot((x - WIDTH / 2) / 110, (y - HEIGHT / 2) / 66)
    return [0.82, 0.83, 0.85, Math.max(0, Math.min(1, (1 - far) * (0.75 + 0.4 * wave)))]
  })

/** Lettering: strokes of one width, slanting. */
const lettering = (): Plate =>
  drawn(c => {
    for (let n = 0; n < 12; n++) {
      const [x, y] = [60 + 16 * n, 60 + 20 * (n % 3)]
      c.fill(
        stroke(
          [
            [x, y],
            [x + 6, y + 24]
          ],
          1 + 0.2 * n
        ),
        [244, 240, 230]
      )
    }
  })

const moving = (colour: Colour): Plate =>
  mean(Array.from({ length: 48 }, (_, n) => drawn(c => c.fill(ellipse(120 + n, 90, 40, 44), colour, 1, 2))))

export const keyShots: readonly Shot[] = [
  ...shots,
  { name: 'smoke', truth: smoke() },
  { name: 'lettering', truth: lettering() },
  { name: 'skin in motion', truth: moving([214, 160, 132]) },
  { name: 'white', truth: figure([238, 238, 236]) },
  { name: 'grey', truth: figure([128, 128, 128]) },
  { name: 'black', truth: figure([16, 16, 18]) },
  { name: 'blue', truth: figure([50, 80, 190]) },
  { name: 'olive', truth: figure([128, 128, 50]) },
  { name: 'cyan', truth: figure([60, 180, 190]) },
  { name: 'yellow', truth: figure([236, 212, 60]) }
]

export interface Filming {
  name: string
  /** Deviation of the noise of each channel, 0 to 1. */
  noise?: number
  /** How many pixels across and down share one chroma sample. */
  chroma?: readonly [number, number]
  /** Share of the screen's light that falls upon what stands before it. */
  spill?: number
}

export const filmings: readonly Filming[] = [
  { name: 'clean' },
  { name: 'noise of 0.8 %', noise: 0.008 },
  { name: 'noise of 2 %', noise: 0.02 },
  { name: '4:2:2', chroma: [2, 1] },
  { name: '4:2:0', chroma: [2, 2] },
  { name: '4:2:0 with noise of 0.8 %', chroma: [2, 2], noise: 0.008 },
  { name: 'spill of 8 %', spill: 0.08 }
]

/** Noise of the normal distribution, the same each time. */
function normal(n: number): number {
  const [a, b] = [hash(n, 11, 5), hash(n, 12, 5)]
  return Math.sqrt(-2 * Math.log(Math.max(1e-9, a))) * Math.cos(2 * Math.PI * b)
}

/** Chroma as the mean of blocks of pixels, drawn up again between their middles; BT.709. */
function shared(rgb: Float32Array, width: number, height: number, [w, h]: readonly [number, number]): void {
  const [cw, ch] = [Math.ceil(width / w), Math.ceil(height / h)]
  const [kr, kb] = [0.2126, 0.0722]
  const luma = new Float32Array(width * height)
  const sums = [new Float32Array(cw * ch), new Float32Array(cw * ch), new Float32Array(cw * ch)] as const
  for (let y = 0, p = 0; y < height; y++)
    for (let x = 0; x < width; x++, p++) {
      const [r, g, b] = [rgb[3 * p]!, rgb[3 * p + 1]!, rgb[3 * p + 2]!]
      luma[p] = kr * r + (1 - kr - kb) * g + kb * b
      const at = Math.floor(y / h) * cw + Math.floor(x / w)
      sums[0][at]! += b - luma[p]!
      sums[1][at]! += r - luma[p]!
      sums[2][at]! += 1
    }
  const up = (sum: Float32Array, x: number, y: number): number => {
    const [u, v] = [(x + 0.5) / w - 0.5, (y + 0.5) / h - 0.5]
    const [x0, y0] = [Math.floor(u), Math.floor(v)]
    let total = 0
    for (const [dx, dy] of [
      [0, 0],
      [1, 0],
      [0, 1],
      [1, 1]
    ] as const) {
      const [cx, cy] = [Math.max(0, Math.min(cw - 1, x0 + dx)), Math.max(0, Math.min(ch - 1, y0 + dy))]
      const weight = (dx ? u - x0 : 1 - u + x0) * (dy ? v - y0 : 1 - v + y0)
      total += (weight * sum[cy * cw + cx]!) / sums[2][cy * cw + cx]!
    }
    return total
  }
  for (let y = 0, p = 0; y < height; y++)
    for (let x = 0; x < width; x++, p++) {
      const [b, r] = [luma[p]! + up(sums[0], x, y), luma[p]! + up(sums[1], x, y)]
      rgb[3 * p] = r
      rgb[3 * p + 1] = (luma[p]! - kr * r - kb * b) / (1 - kr - kb)
      rgb[3 * p + 2] = b
    }
}

/** A plate drawn up `by` times, between its pixels: as a larger camera sees the same shot. */
export function enlarged({ width, height, pixels }: Plate, by: number): Plate {
  const [w, h] = [width * by, height * by]
  const result = new Float32Array(4 * w * h)
  for (let y = 0, o = 0; y < h; y++)
    for (let x = 0; x < w; x++)
      for (let c = 0; c < 4; c++, o++) {
        const [u, v] = [(x + 0.5) / by - 0.5, (y + 0.5) / by - 0.5]
        const [x0, y0] = [Math.floor(u), Math.floor(v)]
        const at = (dx: number, dy: number): number =>
          pixels[
            4 * (Math.max(0, Math.min(height - 1, y0 + dy)) * width + Math.max(0, Math.min(width - 1, x0 + dx))) + c
          ]!
        const [a, b] = [u - x0, v - y0]
        result[o] = (1 - b) * ((1 - a) * at(0, 0) + a * at(1, 0)) + b * ((1 - a) * at(0, 1) + a * at(1, 1))
      }
  return { width: w, height: h, pixels: result }
}

/** The shot as it comes: solid, 8 bits. `take` tells apart the noise of several frames. */
export function filmedAs({ width, height, pixels }: Plate, { noise = 0, chroma, spill = 0 }: Filming, take = 0): Frame {
  const rgb = new Float32Array(3 * width * height)
  for (let p = 0; p < width * height; p++) {
    const screen = screenAt(((p % width) * WIDTH) / width, (Math.floor(p / width) * HEIGHT) / height)
    const a = pixels[4 * p + 3]!
    for (let c = 0; c < 3; c++) {
      const light = pixels[4 * p + c]! + spill * a * screen[c]! + (1 - a) * screen[c]!
      rgb[3 * p + c] = light + noise * normal(3 * (p + take * width * height) + c)
    }
  }
  if (chroma) shared(rgb, width, height, chroma)
  const samples = new Uint8Array(4 * width * height)
  for (let p = 0; p < width * height; p++) {
    for (let c = 0; c < 3; c++) samples[4 * p + c] = Math.round(255 * Math.min(1, Math.max(0, rgb[3 * p + c]!)))
    samples[4 * p + 3] = 255
  }
  return { width, height, depth: 8, samples, alpha: STRAIGHT, transfer: 'srgb' }
}

const factsOf = ({ width, height, depth }: Frame, frames: number): SourceFacts => ({
  name: 'shot',
  format: 'png-sequence',
  kind: 'made',
  width,
  height,
  frames,
  rate: [25, 1],
  rateFrom: 'file',
  bitDepth: depth,
  claim: { mode: 'none', matte: null, says: '' },
  colour: null,
  pixelAspect: [1, 1],
  plays: null,
  bytes: 0,
  findings: []
})

/** The middle frame of a shot keyed by steps, as straight floats. */
export async function keyed(
  frames: readonly Frame[],
  steps: readonly { kind: string; settings: Record<string, unknown> }[],
  { kernels }: Host
): Promise<Float32Array> {
  const source = {
    facts: factsOf(frames[0]!, frames.length),
    frame: (n: number) => Promise.resolve(frames[n]!),
    close: () => Promise.resolve()
  }
  const list = steps.map(({ kind, settings }, n) => Step.parse(newStep(`${n}`, stepKindById(kind), settings)))
  const made = prepared(source, list, new Map(), kernels)
  const { samples, depth } = await made.frame(Math.floor(frames.length / 2))
  const full = depth === 8 ? 255 : depth === 16 ? 65535 : 1
  return Float32Array.from(samples, v => v / full)
}

export interface KeyFigures extends KeyErrors {
  /** Share of what is clear in truth that was left with more than half a code of alpha. */
  haze: number
  /** Share of what is solid in truth that lost more than two codes. */
  holes: number
}

export function keyFigures(found: Float32Array, truth: Plate): KeyFigures {
  let [clear, hazy, solid, holed] = [0, 0, 0, 0]
  for (let i = 3; i < found.length; i += 4) {
    const due = truth.pixels[i]!
    if (due < 0.001) {
      clear++
      if (found[i]! > 0.5 / 255) hazy++
    } else if (due > 0.999) {
      solid++
      if (found[i]! < 1 - 2 / 255) holed++
    }
  }
  return { ...keyErrors(found, truth), haze: clear ? hazy / clear : 0, holes: solid ? holed / solid : 0 }
}
