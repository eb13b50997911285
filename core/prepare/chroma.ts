/**
 * Chroma key. A pixel's chroma is measured along the screen's own and across it: along says how much of the screen is in it, across says
 * that it is another colour. The screen's light may be uneven: its colour is taken from one sample, from a plate fitted to the picture,
 * or from a clean plate.
 */
import type { Triple } from '../colour'
import type { PixelChange } from './carried'
import { clamp01, luma, ramp, type Picture } from './picture'
import { takeOut } from './unmatte'

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

/** What makes Cb and Cr of BT.709 of the distance of blue and red from luma. */
const CB = 1 / 1.8556
const CR = 1 / 1.5748

function chroma(r: number, g: number, b: number): [number, number] {
  const y = luma(r, g, b)
  return [(b - y) * CB, (r - y) * CR]
}

/** Writes the screen's colour along row `y` into `row`: r, g, b interleaved. */
export type Plate = (y: number, row: Float32Array) => void

/** The tangent of half the hue width: how far across counts against how far along. */
const reachOf = (width: number): number => Math.tan((Math.min(179, width) * Math.PI) / 360)

/** How much of the screen is in a colour: 1 for the screen itself, 0 for none. */
function share(rgba: Float32Array, i: number, r: number, g: number, b: number, reach: number): number {
  // written out: this runs for every pixel
  const ky = luma(r, g, b)
  const ku = (b - ky) * CB
  const kv = (r - ky) * CR
  const strength = ku * ku + kv * kv
  if (strength < 1e-8) return 0
  const y = luma(rgba[i]!, rgba[i + 1]!, rgba[i + 2]!)
  const u = (rgba[i + 2]! - y) * CB
  const v = (rgba[i]! - y) * CR
  return clamp01((u * ku + v * kv - Math.abs(u * kv - v * ku) / reach) / strength)
}

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
  return (y, row) => {
    const v = y / height
    for (let c = 0; c < 3; c++) {
      const s = surfaces[c]!
      const [start, slope, bend] = [s[0]! + s[2]! * v + s[5]! * v * v, s[1]! + s[4]! * v, s[3]!]
      for (let x = 0, o = c; x < width; x++, o += 3) {
        const u = x / width
        row[o] = clamp01(start + u * (slope + u * bend))
      }
    }
  }
}

/** Solves a small symmetric system by elimination; null when it has no one answer. */
function solve(matrix: number[][], right: number[]): number[] | null {
  const n = right.length
  const rows = matrix.map((row, i) => [...row, right[i]!])
  for (let k = 0; k < n; k++) {
    const pivot = rows.slice(k).reduce((best, row, i) => (Math.abs(row[k]!) > Math.abs(rows[best]![k]!) ? i + k : best), k)
    ;[rows[k], rows[pivot]] = [rows[pivot]!, rows[k]!]
    if (Math.abs(rows[k]![k]!) < 1e-9) return null
    for (let i = k + 1; i < n; i++) {
      const f = rows[i]![k]! / rows[k]![k]!
      for (let j = k; j <= n; j++) rows[i]![j]! -= f * rows[k]![j]!
    }
  }
  const answer = new Array<number>(n).fill(0)
  for (let k = n - 1; k >= 0; k--) answer[k] = (rows[k]![n]! - answer.slice(k + 1).reduce((sum, a, j) => sum + a * rows[k]![k + 1 + j]!, 0)) / rows[k]![k]!
  return answer
}

/**
 * A plate of the screen alone, fitted through what is surely screen, twice: at first anything near the sampled hue, then only what lies
 * near the first fit. One even colour where there is too little screen to fit. `rows` gives every so many-th row of the picture.
 */
export function estimatePlate(rows: (every: number) => Picture, width: number, height: number, screen: Triple): Plate {
  let surfaces: number[][] | null = null
  const every = Math.max(1, Math.floor(Math.sqrt((width * height) / SAMPLES)))
  const { rgba } = rows(every)
  const reach = reachOf(60)
  for (let round = 0; round < 3; round++) {
    const matrix = Array.from({ length: 6 }, () => new Array<number>(6).fill(0))
    const rights = [0, 1, 2].map(() => new Array<number>(6).fill(0))
    let count = 0
    for (let y = 0; y < height; y += every) {
      for (let x = 0; x < width; x += every) {
        const i = 4 * ((y / every) * width + x)
        const [u, v] = [x / width, y / height]
        const [r, g, b]: Triple = surfaces ? [heightOf(surfaces[0]!, u, v), heightOf(surfaces[1]!, u, v), heightOf(surfaces[2]!, u, v)] : screen
        const s = share(rgba, i, r, g, b, reach)
        // the first time light may vary much; later only what the fit explains is kept
        if (round === 0 ? s < 0.6 : s < 0.9 || Math.abs(luma(rgba[i]!, rgba[i + 1]!, rgba[i + 2]!) / luma(r, g, b) - 1) > 0.12) continue
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

export function evenPlate(screen: Triple): Plate {
  return (_, row) => {
    for (let i = 0; i < row.length; i += 3) row.set(screen, i)
  }
}

export function plateOf({ width, rgba }: Picture): Plate {
  return (y, row) => {
    for (let x = 0, i = 4 * y * width; x < width; x++, i += 4) {
      row[3 * x] = rgba[i]!
      row[3 * x + 1] = rgba[i + 1]!
      row[3 * x + 2] = rgba[i + 2]!
    }
  }
}

/**
 * Takes the screen's light off a colour: the screen's channel is held to the larger of the other two, and the brightness it loses is
 * given to all three alike.
 */
export function withoutSpill(rgba: Float32Array, i: number, channel: number, amount: number): void {
  const [one, other] = [rgba[i + (channel === 0 ? 1 : 0)]!, rgba[i + (channel === 2 ? 1 : 2)]!]
  const excess = (rgba[i + channel]! - (one > other ? one : other)) * amount
  if (excess <= 0) return
  rgba[i + channel]! -= excess
  const lost = excess * (channel === 1 ? 0.7152 : channel === 0 ? 0.2126 : 0.0722)
  rgba[i] = clamp01(rgba[i]! + lost)
  rgba[i + 1] = clamp01(rgba[i + 1]! + lost)
  rgba[i + 2] = clamp01(rgba[i + 2]! + lost)
}

export const mainChannel = (colour: Triple): number => colour.indexOf(Math.max(...colour))

/** Pulls alpha from pictures of a width; alpha there is already is multiplied in. */
export function pullChroma(plate: Plate, pictureWidth: number, { screen, low, high, width, spill }: ChromaSettings): PixelChange {
  const channel = mainChannel(screen)
  const reach = reachOf(width)
  const row = new Float32Array(3 * pictureWidth)
  let at = -1
  return (rgba, first) => {
    for (let i = 0, pixel = first; i < rgba.length; ) {
      const y = Math.floor(pixel / pictureWidth)
      const x = pixel - y * pictureWidth
      if (y !== at) plate((at = y), row)
      const end = Math.min(rgba.length, i + 4 * (pictureWidth - x))
      for (let k = 3 * x; i < end; i += 4, k += 3, pixel++) {
        const [r, g, b] = [row[k]!, row[k + 1]!, row[k + 2]!]
        const a = ramp(1 - share(rgba, i, r, g, b, reach), low, high)
        takeOut(rgba, i, a, r, g, b)
        if (spill > 0) withoutSpill(rgba, i, channel, spill)
        rgba[i + 3]! *= a
      }
    }
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
      const [u, v] = chroma(rgba[i]!, rgba[i + 1]!, rgba[i + 2]!)
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
