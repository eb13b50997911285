/** What the alpha plane alone shows of a frame: islands, what shines through, fields, and where it stands among its neighbours. */
import type { Frame } from '../frame/frame'

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

interface Run {
  from: number
  to: number
  island: number
}

/** Islands of pixels with any alpha, touching at sides or corners, by runs of rows. */
function findIslands(samples: Uint16Array, width: number, height: number): { size: number[]; most: number[]; root(i: number): number } {
  const parent: number[] = []
  const size: number[] = []
  const most: number[] = []
  const root = (i: number): number => {
    while (parent[i] !== i) i = parent[i] = parent[parent[i]!]!
    return i
  }
  const join = (a: number, b: number): number => {
    const [x, y] = [root(a), root(b)]
    if (x === y) return x
    parent[y] = x
    size[x]! += size[y]!
    most[x] = Math.max(most[x]!, most[y]!)
    return x
  }
  let above: Run[] = []
  for (let y = 0; y < height; y++) {
    const row: Run[] = []
    const start = 4 * y * width + 3
    let n = 0
    for (let x = 0; x < width; x++) {
      if (samples[start + 4 * x] === 0) continue
      const from = x
      let high = 0
      for (; x < width && samples[start + 4 * x]! > 0; x++) high = Math.max(high, samples[start + 4 * x]!)
      let island = parent.length
      parent.push(island)
      size.push(x - from)
      most.push(high)
      while (n < above.length && above[n]!.to < from - 1) n++
      for (let m = n; m < above.length && above[m]!.from <= x; m++) island = join(above[m]!.island, island)
      row.push({ from, to: x - 1, island })
    }
    above = row
  }
  return { size, most, root }
}

function islandsOf(samples: Uint16Array, width: number, height: number): Pick<Plane, 'islands' | 'specks' | 'speckMost' | 'faint' | 'faintMost'> {
  const { size, most, root } = findIslands(samples, width, height)
  const found = { islands: 0, specks: 0, speckMost: 0, faint: 0, faintMost: 0 }
  size.forEach((pixels, i) => {
    if (root(i) !== i) return
    found.islands++
    if (pixels <= SPECK) {
      found.specks++
      found.speckMost = Math.max(found.speckMost, pixels)
    } else if (most[i]! < FAINT) {
      found.faint++
      found.faintMost = Math.max(found.faintMost, most[i]! / FULL)
    }
  })
  return found
}

/** From here on an area counts as nearly solid; what is meant to be translucent seldom is so slightly. */
const NEARLY = Math.round(0.92 * FULL)
/** How far from other alpha a pixel must lie to be within an area. */
const WITHIN = 3

function bleedOf(samples: Uint16Array, width: number, height: number): Pick<Plane, 'bleed' | 'bleedLeast'> {
  let bleed = 0
  let least = FULL
  const nearly = (x: number, y: number): boolean => samples[4 * (y * width + x) + 3]! >= NEARLY
  for (let y = WITHIN; y < height - WITHIN; y += 2) {
    for (let x = WITHIN; x < width - WITHIN; x += 2) {
      const a = samples[4 * (y * width + x) + 3]!
      if (a < NEARLY || a === FULL) continue
      if (!nearly(x - WITHIN, y) || !nearly(x + WITHIN, y) || !nearly(x, y - WITHIN) || !nearly(x, y + WITHIN)) continue
      bleed += 4
      least = Math.min(least, a)
    }
  }
  return { bleed, bleedLeast: least / FULL }
}

/** A change from line to line that counts, and lines in a row that must go to and fro. */
const CHANGE = 0.25 * FULL
const LINES = 6

function combOf(samples: Uint16Array, width: number, height: number): number {
  let comb = 0
  const columns = Math.ceil(width / 2)
  // of every other column: its alpha a line ago, which way it last went, and for how many lines it has gone to and fro
  const before = new Uint16Array(columns)
  const last = new Int8Array(columns)
  const runs = new Uint16Array(columns)
  for (let n = 0; n < columns; n++) before[n] = samples[8 * n + 3]!
  for (let y = 1; y < height; y++) {
    let at = 4 * y * width + 3
    for (let n = 0; n < columns; n++, at += 8) {
      const a = samples[at]!
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
  if (alpha.mode === 'none') return { islands: 1, specks: 0, speckMost: 0, faint: 0, faintMost: 0, bleed: 0, bleedLeast: 1, comb: 0, points: pointsOf(codes, width, height) }
  return { ...islandsOf(codes, width, height), ...bleedOf(codes, width, height), comb: combOf(codes, width, height), points: pointsOf(codes, width, height) }
}

/** Mean distance of two lattices, in codes of 255. */
export function pointsApart(a: Uint8Array, b: Uint8Array): number {
  let sum = 0
  for (let i = 0; i < a.length; i++) sum += Math.abs(a[i]! - b[i]!)
  return sum / a.length
}
