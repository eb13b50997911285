/**
 * Chroma key. A pixel's chroma is measured along the screen's own and across it: along says how much of the screen is
 * in it, across says that it is another colour. The screen's light may be uneven: its colour is taken from one sample,
 * from a plate fitted to the picture, or from a clean plate.
 */
import type { Triple } from '../base/colour'
import type { PixelChange } from './carried'
import type { ChromaHow, Kernels, ScreenPlate, Surface } from '../frame/kernels/kernels'
import { plateRows } from '../frame/kernels/plate'
import { chromaOf, clamp01, luma, shareOf } from '../frame/kernels/pixel'
import type { Picture } from './picture'

export interface ChromaSettings {
  screen: Triple
  /** Alpha below `low` becomes clear, above `high` solid. */
  low: number
  high: number
  /** How far from the screen's hue a colour may lie, in degrees, and still be taken for partly screen. */
  width: number
  /** 0 leaves the screen's light on the subject, 1 takes all of it. */
  spill: number
  /** What the screen's channel is held to: 1 is the larger of the other two, 0 the smaller, between is between. */
  lean: number
}

/**
 * How much a colour's distance across the hue counts, so that one `width` degrees wide lies between none of it and all.
 */
const acrossFor = (width: number): number => 1 / Math.tan((Math.min(179, width) * Math.PI) / 360)

/** A surface's value for one channel. */
function heightOf(s: readonly number[], x: number, y: number): number {
  return clamp01(s[0]! + s[1]! * x + s[2]! * y + s[3]! * x * x + s[4]! * x * y + s[5]! * y * y)
}

/** Pixels that a plate is fitted through, about. */
const SAMPLES = 8000

/** Solves a small symmetric system by elimination; null when it has no one answer. */
function solve(matrix: number[][], right: number[]): number[] | null {
  const n = right.length
  const rows = matrix.map((row, i) => [...row, right[i]!])
  for (let k = 0; k < n; k++) {
    const pivot = rows
      .slice(k)
      .reduce((best, row, i) => (Math.abs(row[k]!) > Math.abs(rows[best]![k]!) ? i + k : best), k)
    ;[rows[k], rows[pivot]] = [rows[pivot]!, rows[k]!]
    if (Math.abs(rows[k]![k]!) < 1e-9) return null
    for (let i = k + 1; i < n; i++) {
      const f = rows[i]![k]! / rows[k]![k]!
      for (let j = k; j <= n; j++) rows[i]![j]! -= f * rows[k]![j]!
    }
  }
  const answer = new Array<number>(n).fill(0)
  for (let k = n - 1; k >= 0; k--)
    answer[k] =
      (rows[k]![n]! - answer.slice(k + 1).reduce((sum, a, j) => sum + a * rows[k]![k + 1 + j]!, 0)) / rows[k]![k]!
  return answer
}

/**
 * A plate of the screen alone, fitted through what is surely screen, twice: at first anything near the sampled hue,
 * then only what lies near the first fit. One even colour where there is too little screen to fit. `rows` gives every
 * so many-th row of the picture.
 */
export function estimatePlate(
  rows: (every: number) => Picture,
  width: number,
  height: number,
  screen: Triple
): ScreenPlate {
  let surfaces: number[][] | null = null
  const every = Math.max(1, Math.floor(Math.sqrt((width * height) / SAMPLES)))
  const { rgba } = rows(every)
  const across = acrossFor(60)
  const term = new Float64Array(6)
  for (let round = 0; round < 3; round++) {
    const sums = new Float64Array(36)
    const products = new Float64Array(18)
    const fit = surfaces
    let [r, g, b] = screen
    let count = 0
    for (let y = 0; y < height; y += every)
      for (let x = 0; x < width; x += every) {
        const i = 4 * ((y / every) * width + x)
        const u = x / width
        const v = y / height
        if (fit) {
          r = heightOf(fit[0]!, u, v)
          g = heightOf(fit[1]!, u, v)
          b = heightOf(fit[2]!, u, v)
        }
        const s = shareOf(rgba, i, [r, g, b], across)
        // the first time light may vary much; later only what the fit explains is kept
        if (round === 0 ? s < 0.6 : s < 0.9) continue
        if (round > 0 && Math.abs(luma(rgba[i]!, rgba[i + 1]!, rgba[i + 2]!) / luma(r, g, b) - 1) > 0.12) continue
        term[0] = 1
        term[1] = u
        term[2] = v
        term[3] = u * u
        term[4] = u * v
        term[5] = v * v
        for (let m = 0; m < 6; m++) {
          for (let n = 0; n < 6; n++) sums[6 * m + n]! += term[m]! * term[n]!
          for (let c = 0; c < 3; c++) products[6 * c + m]! += term[m]! * rgba[i + c]!
        }
        count++
      }
    const matrix = Array.from({ length: 6 }, (_, m) => [...sums.subarray(6 * m, 6 * m + 6)])
    const rights = [0, 1, 2].map(c => [...products.subarray(6 * c, 6 * c + 6)])
    if (count < 60) break
    const next = rights.map(right => solve(matrix, right))
    if (next.some(surface => surface === null)) break
    surfaces = next as number[][]
  }
  return surfaces ? { surfaces: surfaces as unknown as [Surface, Surface, Surface] } : evenPlate(screen)
}

/** A screen of one colour over the whole picture. */
export function evenPlate(screen: Triple): ScreenPlate {
  const [red, green, blue] = screen.map((v): Surface => [v, 0, 0, 0, 0, 0]) as [Surface, Surface, Surface]
  return { surfaces: [red, green, blue] }
}

const mainChannel = (colour: Triple): number => colour.indexOf(Math.max(...colour))

/** What the kernels take for settings. */
export const chromaHow = ({ screen, low, high, width, spill, lean }: ChromaSettings): ChromaHow => ({
  low,
  high,
  spill,
  lean,
  across: acrossFor(width),
  channel: mainChannel(screen)
})

/** Pulls alpha from pictures of a width; alpha there is already is multiplied in. */
export function pullChroma(
  plate: ScreenPlate,
  { width: pictureWidth, height }: { width: number; height: number },
  how: ChromaHow,
  kernels: Kernels
): PixelChange {
  const row = new Float32Array(4 * pictureWidth)
  const draw = plateRows(plate, pictureWidth, height)
  let drawnRow = -1
  let beneath = new Float32Array(0)
  return (rgba, first) => {
    if (beneath.length !== rgba.length) beneath = new Float32Array(rgba.length)
    for (let o = 0, pixel = first; o < beneath.length;) {
      const y = Math.floor(pixel / pictureWidth)
      const x = pixel - y * pictureWidth
      if (y !== drawnRow) draw((drawnRow = y), row)
      const part = row.subarray(4 * x, 4 * x + Math.min(beneath.length - o, 4 * (pictureWidth - x)))
      beneath.set(part, o)
      o += part.length
      pixel += part.length / 4
    }
    kernels.chromaKey(rgba, beneath, how)
  }
}

/** The hue that fills most of the picture's rim: what a screen is found by. */
export function findScreen({ width, height, rgba }: Picture): Triple {
  const sums = Array.from({ length: 24 }, () => [0, 0, 0, 0] as [number, number, number, number])
  const rim = Math.max(2, Math.round(Math.min(width, height) / 12))
  for (let y = 0; y < height; y += 2) {
    for (let x = 0; x < width; x += 2) {
      if (x >= rim && x < width - rim && y >= rim && y < height - rim) continue
      const i = 4 * (y * width + x)
      const [u, v] = chromaOf(rgba[i]!, rgba[i + 1]!, rgba[i + 2]!)
      const strength = Math.hypot(u, v)
      if (strength < 0.04) continue
      const bin = sums[Math.min(23, Math.floor(((Math.atan2(v, u) + Math.PI) / (2 * Math.PI)) * 24))]!
      for (let c = 0; c < 3; c++) bin[c]! += rgba[i + c]! * strength
      bin[3] += strength
    }
  }
  const best = sums.reduce((a, b) => (b[3] > a[3] ? b : a))
  return best[3] > 0 ? [best[0] / best[3], best[1] / best[3], best[2] / best[3]] : [0, 0.7, 0.2]
}
