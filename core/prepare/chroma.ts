/**
 * Chroma key. A pixel's chroma is measured along the screen's own and across it: along says how much of the screen is
 * in it, across says that it is another colour. The screen's light may be uneven: its colour is taken from one sample,
 * from a plate fitted to the picture, or from a clean plate.
 */
import type { Triple } from '../colour'
import type { PixelChange } from './carried'
import type { Kernels } from '../kernels/kernels'
import { chromaOf, clamp01, luma, shareOf } from '../kernels/pixel'
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
}

/** Writes the screen's colour along row `y` into `row`: four floats a pixel, of which three count. */
export type Plate = (y: number, row: Float32Array) => void

/**
 * How much a colour's distance across the hue counts, so that one `width` degrees wide lies between none of it and all.
 */
const acrossFor = (width: number): number => 1 / Math.tan((Math.min(179, width) * Math.PI) / 360)

/** Terms of a surface of second order over the picture. */
function terms(x: number, y: number): number[] {
  return [1, x, y, x * x, x * y, y * y]
}

/** A surface's value for one channel. */
function heightOf(s: readonly number[], x: number, y: number): number {
  return clamp01(s[0]! + s[1]! * x + s[2]! * y + s[3]! * x * x + s[4]! * x * y + s[5]! * y * y)
}

/** Pixels that a plate is fitted through, about. */
const SAMPLES = 8000

/** The plate that three surfaces make: along a row each is a parabola. */
function drawn(surfaces: readonly (readonly number[])[], width: number, height: number): Plate {
  const [red, green, blue] = surfaces as [readonly number[], readonly number[], readonly number[]]
  const per = 1 / width
  return (y, row) => {
    const v = y / height
    const [r0, r1, r2] = alongRow(red, v)
    const [g0, g1, g2] = alongRow(green, v)
    const [b0, b1, b2] = alongRow(blue, v)
    for (let x = 0, o = 0; x < width; x++, o += 4) {
      const u = x * per
      row[o] = clamp01(r0 + u * (r1 + u * r2))
      row[o + 1] = clamp01(g0 + u * (g1 + u * g2))
      row[o + 2] = clamp01(b0 + u * (b1 + u * b2))
    }
  }
}

/** Start, slope and bend of a surface along the row at `v`. */
function alongRow(s: readonly number[], v: number): [number, number, number] {
  return [s[0]! + s[2]! * v + s[5]! * v * v, s[1]! + s[4]! * v, s[3]!]
}

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
export function estimatePlate(rows: (every: number) => Picture, width: number, height: number, screen: Triple): Plate {
  let surfaces: number[][] | null = null
  const every = Math.max(1, Math.floor(Math.sqrt((width * height) / SAMPLES)))
  const { rgba } = rows(every)
  const across = acrossFor(60)
  for (let round = 0; round < 3; round++) {
    const matrix = Array.from({ length: 6 }, () => new Array<number>(6).fill(0))
    const rights = [0, 1, 2].map(() => new Array<number>(6).fill(0))
    let count = 0
    for (let y = 0; y < height; y += every) {
      for (let x = 0; x < width; x += every) {
        const i = 4 * ((y / every) * width + x)
        const [u, v] = [x / width, y / height]
        const [r, g, b]: Triple = surfaces
          ? [heightOf(surfaces[0]!, u, v), heightOf(surfaces[1]!, u, v), heightOf(surfaces[2]!, u, v)]
          : screen
        const s = shareOf(rgba, i, r, g, b, across)
        // the first time light may vary much; later only what the fit explains is kept
        if (
          round === 0
            ? s < 0.6
            : s < 0.9 || Math.abs(luma(rgba[i]!, rgba[i + 1]!, rgba[i + 2]!) / luma(r, g, b) - 1) > 0.12
        )
          continue
        const t = terms(u, v)
        for (let m = 0; m < 6; m++) {
          for (let n = 0; n < 6; n++) matrix[m]![n]! += t[m]! * t[n]!
          for (let c = 0; c < 3; c++) rights[c]![m]! += t[m]! * rgba[i + c]!
        }
        count++
      }
    }
    if (count < 60) break
    const next = rights.map(right => solve(matrix, right))
    if (next.some(surface => surface === null)) break
    surfaces = next as number[][]
  }
  return surfaces ? drawn(surfaces, width, height) : evenPlate(screen)
}

export function evenPlate([r, g, b]: Triple): Plate {
  return (_, row) => {
    for (let i = 0; i < row.length; i += 4) {
      row[i] = r
      row[i + 1] = g
      row[i + 2] = b
    }
  }
}

export function plateOf({ width, rgba }: Picture): Plate {
  return (y, row) => row.set(rgba.subarray(4 * y * width, 4 * (y + 1) * width))
}

const mainChannel = (colour: Triple): number => colour.indexOf(Math.max(...colour))

/** Pulls alpha from pictures of a width; alpha there is already is multiplied in. */
export function pullChroma(
  plate: Plate,
  pictureWidth: number,
  { screen, low, high, width, spill }: ChromaSettings,
  kernels: Kernels
): PixelChange {
  const how = { low, high, spill, across: acrossFor(width), channel: mainChannel(screen) }
  const row = new Float32Array(4 * pictureWidth)
  let drawnRow = -1
  let beneath = new Float32Array(0)
  return (rgba, first) => {
    if (beneath.length !== rgba.length) beneath = new Float32Array(rgba.length)
    for (let o = 0, pixel = first; o < beneath.length;) {
      const y = Math.floor(pixel / pictureWidth)
      const x = pixel - y * pictureWidth
      if (y !== drawnRow) plate((drawnRow = y), row)
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
