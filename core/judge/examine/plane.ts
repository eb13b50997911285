/**
 * What the alpha plane alone shows of a frame: islands, what shines through, fields, and where it stands among its
 * neighbours.
 */
import type { Frame } from '../../frame/frame'
import type { AlphaPlane } from '../../frame/kernels/kernels'

const FULL = 65535

export interface AlphaFaults {
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

const COLUMNS = 32
const ROWS = 18

function pointsOf({ samples, width, height }: Frame): Uint8Array {
  const points = new Uint8Array(COLUMNS * ROWS * 4)
  const full = samples instanceof Uint8Array ? 255 : FULL
  for (let row = 0, n = 0; row < ROWS; row++) {
    const y = Math.floor(((row + 0.5) * height) / ROWS)
    for (let column = 0; column < COLUMNS; column++) {
      const i = 4 * (y * width + Math.floor(((column + 0.5) * width) / COLUMNS))
      const a = (samples[i + 3]! / full) * 255
      for (let c = 0; c < 3; c++) points[n++] = (samples[i + c]! * a) / full
      points[n++] = a
    }
  }
  return points
}

const NO_PLANE: Omit<AlphaFaults, 'points'> = {
  islands: 1,
  specks: 0,
  speckMost: 0,
  faint: 0,
  faintMost: 0,
  bleed: 0,
  bleedLeast: 1,
  comb: 0
}

/** What a frame of 8 or 16-bit codes shows, from what the kernel found of its alpha; null where it has none. */
export function readPlane(frame: Frame, found: AlphaPlane | null): AlphaFaults {
  const points = pointsOf(frame)
  if (!found) return { ...NO_PLANE, points }
  const { bleed, bleedLeast, comb } = found
  const { all: islands, specks, speckMost, faint, faintMost } = found.islands
  // every other pixel of every other row was asked
  return {
    islands,
    specks,
    speckMost,
    faint,
    faintMost: faintMost / FULL,
    bleed: 4 * bleed,
    bleedLeast: bleedLeast / FULL,
    comb,
    points
  }
}

/** Mean distance of two lattices, in codes of 255. */
export function pointsApart(a: Uint8Array, b: Uint8Array): number {
  let sum = 0
  for (let i = 0; i < a.length; i++) sum += Math.abs(a[i]! - b[i]!)
  return sum / a.length
}
