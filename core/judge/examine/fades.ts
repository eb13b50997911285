/**
 * What one place does as it fades over time: straight keeps its colour, premultiplied turns it to the matte as alpha
 * falls.
 */
import { codesToHex, type HexColour, type Triple } from '../../base/colour'
import type { Frame } from '../../frame/frame'

const COLUMNS = 32
const ROWS = 18
const FULL = 65535

/** Alpha must change by so much, colour move by so many codes of 255 under one reading, and be met within so many. */
const CHANGE = 0.12 * FULL
const MOVES = 8
const STEADY = 2.5

/** Stored RGBA as 16-bit codes at a lattice of places of a frame of 8 or 16 bits. */
export function latticeOf({ samples, width, height }: Frame): Uint16Array {
  const scale = samples instanceof Uint8Array ? 257 : 1
  const lattice = new Uint16Array(COLUMNS * ROWS * 4)
  for (let row = 0, n = 0; row < ROWS; row++) {
    const y = Math.floor(((row + 0.5) * height) / ROWS)
    for (let column = 0; column < COLUMNS; column++, n += 4) {
      const i = 4 * (y * width + Math.floor(((column + 0.5) * width) / COLUMNS))
      for (let c = 0; c < 4; c++) lattice[n + c] = scale * samples[i + c]!
    }
  }
  return lattice
}

/** Votes for straight and for premultiplied on `matte` (codes of 255), from lattices in the order of time. */
export function fadesOver(
  lattices: readonly Uint16Array[],
  matte: Triple
): { straight: number; premultiplied: number; neither: number } {
  const votes = { straight: 0, premultiplied: 0, neither: 0 }
  for (let n = 0; n < COLUMNS * ROWS * 4; n += 4) {
    let before: Uint16Array | null = null
    for (const now of lattices) {
      const a = now[n + 3]!
      if (a === 0) before = null
      else if (!before) before = now
      else if (Math.abs(a - before[n + 3]!) >= CHANGE) {
        const vote = a > before[n + 3]! ? voteOf(before, now, n, matte) : voteOf(now, before, n, matte)
        if (vote) votes[vote]++
        before = now
      }
    }
  }
  return votes
}

type Vote = 'straight' | 'premultiplied' | 'neither'

function voteOf(low: Uint16Array, high: Uint16Array, n: number, matte: Triple): Vote | null {
  const ratio = low[n + 3]! / high[n + 3]!
  let [moves, missStraight, missPremultiplied] = [0, 0, 0]
  for (let c = 0; c < 3; c++) {
    const [c0, c1, m] = [low[n + c]! / 257, high[n + c]! / 257, matte[c]!]
    moves = Math.max(moves, (1 - ratio) * Math.abs(c1 - m))
    missStraight = Math.max(missStraight, Math.abs(c0 - c1))
    missPremultiplied = Math.max(missPremultiplied, Math.abs(c0 - m - ratio * (c1 - m)))
  }
  if (moves <= MOVES) return null
  return missStraight <= STEADY ? 'straight' : missPremultiplied <= STEADY ? 'premultiplied' : 'neither'
}

/** The colours that lines through pairs of a place lead to where alpha ends, over time: 256 bins a channel. */
export function meetingOver(lattices: readonly Uint16Array[]): Uint32Array {
  const bins = new Uint32Array(3 * 256)
  for (let n = 0; n < COLUMNS * ROWS * 4; n += 4) {
    let before: Uint16Array | null = null
    for (const now of lattices) {
      const [a, b] = [now[n + 3]!, before?.[n + 3] ?? 0]
      if (a === 0) before = null
      else if (!before) before = now
      else if (Math.abs(a - b) >= CHANGE) {
        for (let c = 0; c < 3; c++) {
          const code = Math.round((now[n + c]! * b - before[n + c]! * a) / (b - a) / 257)
          if (code >= 0 && code < 256) bins[256 * c + code]!++
        }
        before = now
      }
    }
  }
  return bins
}

/**
 * The colour at which lines through both ends of premultiplied edges meet, if they do so within 3 codes over the whole
 * clip.
 */
export function interceptOf(bins: ArrayLike<number>): HexColour | null {
  const matte: number[] = []
  for (let c = 0; c < 3; c++) {
    let total = 0
    let best = 0
    let at = 0
    for (let code = 0; code < 256; code++) {
      total += bins[256 * c + code]!
      let near = 0
      for (let n = Math.max(0, code - 3); n <= Math.min(255, code + 3); n++) near += bins[256 * c + n]!
      // the middle of a peak that is as high over several codes
      if (near > best) [best, at] = [near, code]
    }
    if (total < 50 || best < 0.6 * total) return null
    let [sum, weight] = [0, 0]
    for (let n = Math.max(0, at - 3); n <= Math.min(255, at + 3); n++) {
      sum += n * bins[256 * c + n]!
      weight += bins[256 * c + n]!
    }
    matte.push(Math.round(sum / weight))
  }
  return codesToHex(matte as [number, number, number])
}
