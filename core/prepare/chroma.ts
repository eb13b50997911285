/**
 * Chroma key. A pixel's chroma is measured along the screen's own and across it: along says how much of the screen is in it, across says
 * that it is another colour. The screen's light may be uneven: its colour is taken from one sample, from a plate fitted to the picture,
 * or from a clean plate.
 */
import type { Triple } from '../colour'
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

/** Cb and Cr of BT.709, unscaled. */
function chroma(r: number, g: number, b: number): [number, number] {
  const y = luma(r, g, b)
  return [(b - y) / 1.8556, (r - y) / 1.5748]
}

/** Screen colour at each pixel: r, g, b interleaved. */
export type Plate = Float32Array

/** The tangent of half the hue width: how far across counts against how far along. */
const reachOf = (width: number): number => Math.tan((Math.min(179, width) * Math.PI) / 360)

/** How much of the screen is in a colour: 1 for the screen itself, 0 for none. */
function share(rgba: Float32Array, i: number, r: number, g: number, b: number, reach: number): number {
  // written out: this runs for every pixel
  const ky = luma(r, g, b)
  const [ku, kv] = [(b - ky) / 1.8556, (r - ky) / 1.5748]
  const strength = ku * ku + kv * kv
  if (strength < 1e-8) return 0
  const y = luma(rgba[i]!, rgba[i + 1]!, rgba[i + 2]!)
  const [u, v] = [(rgba[i + 2]! - y) / 1.8556, (rgba[i]! - y) / 1.5748]
  return clamp01((u * ku + v * kv - Math.abs(u * kv - v * ku) / reach) / strength)
}

/** Terms of a surface of second order over the picture. */
function terms(x: number, y: number): number[] {
  return [1, x, y, x * x, x * y, y * y]
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
 * near the first fit. One even colour where there is too little screen to fit.
 */
export function estimatePlate({ width, height, rgba }: Picture, screen: Triple): Plate {
  let plate: Plate | null = null
  const even = (): Plate => {
    const flat = new Float32Array(width * height * 3)
    for (let i = 0; i < flat.length; i++) flat[i] = screen[i % 3]!
    return flat
  }
  const every = Math.max(1, Math.floor(Math.sqrt((width * height) / 20000)))
  for (let round = 0; round < 3; round++) {
    const matrix = Array.from({ length: 6 }, () => new Array<number>(6).fill(0))
    const rights = [0, 1, 2].map(() => new Array<number>(6).fill(0))
    let count = 0
    for (let y = 0; y < height; y += every) {
      for (let x = 0; x < width; x += every) {
        const p = y * width + x
        const [r, g, b] = plate ? [plate[3 * p]!, plate[3 * p + 1]!, plate[3 * p + 2]!] : screen
        const s = share(rgba, 4 * p, r, g, b, reachOf(60))
        // the first time light may vary much; later only what the fit explains is kept
        if (round === 0 ? s < 0.6 : s < 0.9 || Math.abs(luma(rgba[4 * p]!, rgba[4 * p + 1]!, rgba[4 * p + 2]!) / luma(r, g, b) - 1) > 0.12) continue
        const t = terms(x / width, y / height)
        for (let i = 0; i < 6; i++) {
          for (let j = 0; j < 6; j++) matrix[i]![j]! += t[i]! * t[j]!
          for (let c = 0; c < 3; c++) rights[c]![i]! += t[i]! * rgba[4 * p + c]!
        }
        count++
      }
    }
    if (count < 60) return plate ?? even()
    const surfaces = rights.map(right => solve(matrix, right))
    if (surfaces.some(surface => surface === null)) return plate ?? even()
    const next = new Float32Array(width * height * 3)
    for (let y = 0; y < height; y++) {
      for (let x = 0; x < width; x++) {
        const [u, v] = [x / width, y / height]
        for (let c = 0; c < 3; c++) {
          const s = surfaces[c]!
          next[3 * (y * width + x) + c] = clamp01(s[0]! + s[1]! * u + s[2]! * v + s[3]! * u * u + s[4]! * u * v + s[5]! * v * v)
        }
      }
    }
    plate = next
  }
  return plate ?? even()
}

export function evenPlate({ width, height }: Picture, screen: Triple): Plate {
  const flat = new Float32Array(width * height * 3)
  for (let i = 0; i < flat.length; i += 3) flat.set(screen, i)
  return flat
}

export function plateOf({ width, height, rgba }: Picture): Plate {
  const plate = new Float32Array(width * height * 3)
  for (let p = 0; p < width * height; p++) plate.set(rgba.subarray(4 * p, 4 * p + 3), 3 * p)
  return plate
}

/**
 * Takes the screen's light off a colour: the screen's channel is held to the larger of the other two, and the brightness it loses is
 * given to all three alike.
 */
export function withoutSpill(rgba: Float32Array, i: number, channel: number, amount: number): void {
  const limit = Math.max(rgba[i + ((channel + 1) % 3)]!, rgba[i + ((channel + 2) % 3)]!)
  const excess = (rgba[i + channel]! - limit) * amount
  if (excess <= 0) return
  rgba[i + channel]! -= excess
  const lost = excess * (channel === 1 ? 0.7152 : channel === 0 ? 0.2126 : 0.0722)
  for (let c = 0; c < 3; c++) rgba[i + c] = clamp01(rgba[i + c]! + lost)
}

export const mainChannel = (colour: Triple): number => colour.indexOf(Math.max(...colour))

/** The picture with alpha pulled from it; alpha it had already is multiplied in. */
export function pullChroma(picture: Picture, plate: Plate, { screen, low, high, width, spill }: ChromaSettings): Picture {
  const { rgba } = picture
  const channel = mainChannel(screen)
  const reach = reachOf(width)
  for (let i = 0, k = 0; i < rgba.length; i += 4, k += 3) {
    const [r, g, b] = [plate[k]!, plate[k + 1]!, plate[k + 2]!]
    const a = ramp(1 - share(rgba, i, r, g, b, reach), low, high)
    takeOut(rgba, i, a, plate[k]!, plate[k + 1]!, plate[k + 2]!)
    if (spill > 0) withoutSpill(rgba, i, channel, spill)
    rgba[i + 3]! *= a
  }
  return picture
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
