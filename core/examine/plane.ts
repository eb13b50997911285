/** What the alpha plane alone shows of a frame: islands, what shines through, fields, and where it stands among its neighbours. */
import type { Frame } from '../frame/frame'
import { islandsOf } from '../frame/islands'

const FULL = 65535

/** Islands of at most this many pixels are specks; larger ones whose alpha stays below `FAINT` are faint. */
export const SPECK = 4
const FAINT = 0.08 * FULL

export interface Plane {
  /** Islands, those of a few pixels, and pixels of the largest of them. */
  islands: number
  specks: number
  speckMost: number
  /** Larger islands that are barely there, and their highest alpha, 0 to 1. */
  faint: number
  faintMost: number
  /** Pixels within nearly solid areas that are not solid, and the highest alpha below solid among them, 0 to 1. */
  bleed: number
  bleedLeast: number
  /** Places where alpha changes to and fro from line to line, over many lines. */
  comb: number
  /** Alpha, and colour as it is seen over black, at a lattice of points, in codes of 255. */
  points: Uint8Array
}

/** The alpha of every pixel by itself: what looks at alpha alone then walks a quarter of the memory. */
function alphaOf(samples: Uint16Array): Uint16Array {
  const alpha = new Uint16Array(samples.length >> 2)
  for (let p = 0, i = 3; p < alpha.length; p++, i += 4) alpha[p] = samples[i]!
  return alpha
}

function islands(
  plane: Uint16Array,
  width: number,
  height: number
): Pick<Plane, 'islands' | 'specks' | 'speckMost' | 'faint' | 'faintMost'> {
  const mask = new Uint8Array(width * height)
  for (let p = 0; p < mask.length; p++) mask[p] = plane[p]! > 0 ? 1 : 0
  const { runs, root } = islandsOf(mask, width, height)
  const sizes = new Map<number, { pixels: number; most: number }>()
  for (let n = 0; n < runs.length; n += 4) {
    const label = root(runs[n + 3]!)
    let island = sizes.get(label)
    if (!island) sizes.set(label, (island = { pixels: 0, most: 0 }))
    const row = runs[n]! * width
    const [from, to] = [row + runs[n + 1]!, row + runs[n + 2]!]
    island.pixels += to - from + 1
    // how strong a larger one is matters only until it is known not to be faint
    for (let p = from; p <= to && island.most < FAINT; p++) if (plane[p]! > island.most) island.most = plane[p]!
  }
  const found = { islands: sizes.size, specks: 0, speckMost: 0, faint: 0, faintMost: 0 }
  for (const { pixels, most } of sizes.values()) {
    if (pixels <= SPECK) {
      found.specks++
      found.speckMost = Math.max(found.speckMost, pixels)
    } else if (most < FAINT) {
      found.faint++
      found.faintMost = Math.max(found.faintMost, most / FULL)
    }
  }
  return found
}

/** From here on an area counts as nearly solid; what is meant to be translucent seldom is so slightly. */
const NEARLY = Math.round(0.92 * FULL)
/** How far from other alpha a pixel must lie to be within an area. */
const WITHIN = 3

function bleedOf(plane: Uint16Array, width: number, height: number): Pick<Plane, 'bleed' | 'bleedLeast'> {
  let bleed = 0
  let least = FULL
  const [across, down] = [WITHIN, WITHIN * width]
  for (let y = WITHIN; y < height - WITHIN; y += 2) {
    for (let p = y * width + WITHIN; p < (y + 1) * width - WITHIN; p += 2) {
      const a = plane[p]!
      if (a < NEARLY || a === FULL) continue
      if (plane[p - across]! < NEARLY || plane[p + across]! < NEARLY) continue
      if (plane[p - down]! < NEARLY || plane[p + down]! < NEARLY) continue
      bleed += 4
      least = Math.min(least, a)
    }
  }
  return { bleed, bleedLeast: least / FULL }
}

/** A change from line to line that counts, and lines in a row that must go to and fro. */
const CHANGE = 0.25 * FULL
const LINES = 6

function combOf(plane: Uint16Array, width: number, height: number): number {
  let comb = 0
  const columns = Math.ceil(width / 2)
  // of every other column: its alpha a line ago, which way it last went, and for how many lines it has gone to and fro
  const before = new Uint16Array(columns)
  const last = new Int8Array(columns)
  const runs = new Uint16Array(columns)
  for (let n = 0; n < columns; n++) before[n] = plane[2 * n]!
  for (let y = 1; y < height; y++) {
    let at = y * width
    for (let n = 0; n < columns; n++, at += 2) {
      const a = plane[at]!
      const step = a - before[n]!
      before[n] = a
      const sign = step > CHANGE ? 1 : step < -CHANGE ? -1 : 0
      if (sign === 0) {
        last[n] = 0
        runs[n] = 0
        continue
      }
      const run = sign === -last[n]! ? runs[n]! + 1 : 1
      last[n] = sign
      runs[n] = run
      if (run === LINES) comb++
    }
  }
  return comb
}

const COLUMNS = 32
const ROWS = 18

function pointsOf(samples: Uint16Array, width: number, height: number): Uint8Array {
  const points = new Uint8Array(COLUMNS * ROWS * 4)
  for (let row = 0, n = 0; row < ROWS; row++) {
    const y = Math.floor(((row + 0.5) * height) / ROWS)
    for (let column = 0; column < COLUMNS; column++) {
      const i = 4 * (y * width + Math.floor(((column + 0.5) * width) / COLUMNS))
      const a = samples[i + 3]!
      for (let c = 0; c < 3; c++) points[n++] = (samples[i + c]! * a) / FULL / 257
      points[n++] = a / 257
    }
  }
  return points
}

/** Reads the plane of a frame of 16-bit codes. Time is linear in its pixels. */
export function readPlane({ samples, width, height, alpha }: Frame): Plane {
  const codes = samples as Uint16Array
  if (alpha.mode === 'none')
    return {
      islands: 1,
      specks: 0,
      speckMost: 0,
      faint: 0,
      faintMost: 0,
      bleed: 0,
      bleedLeast: 1,
      comb: 0,
      points: pointsOf(codes, width, height)
    }
  const plane = alphaOf(codes)
  return {
    ...islands(plane, width, height),
    ...bleedOf(plane, width, height),
    comb: combOf(plane, width, height),
    points: pointsOf(codes, width, height)
  }
}

/** Mean distance of two lattices, in codes of 255. */
export function pointsApart(a: Uint8Array, b: Uint8Array): number {
  let sum = 0
  for (let i = 0; i < a.length; i++) sum += Math.abs(a[i]! - b[i]!)
  return sum / a.length
}
