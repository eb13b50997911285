/** What alpha by itself shows: its runs, what shines through nearly solid areas, and combs; the plain twin. */
import type { AlphaPlane } from './kernels'

const FULL = 65535

/** From here on an area counts as nearly solid; what is meant to be translucent seldom is so slightly. */
export const NEARLY = Math.round(0.92 * FULL)
/** How far from other alpha a pixel must lie to be within an area. */
export const WITHIN = 3
/** A change from line to line beyond this counts, and so many lines in a row must go to and fro. */
export const CHANGE = Math.floor(0.25 * FULL)
export const LINES = 6

/** Alpha of RGBA of 16-bit codes, and what its plane shows; see `Kernels.examine`. */
export function alphaPlane(samples: Uint16Array, width: number, height: number): AlphaPlane {
  const plane = new Uint16Array(width * height)
  for (let p = 0, i = 3; p < plane.length; p++, i += 4) plane[p] = samples[i]!
  return { runs: runsOf(plane, width), ...bleedOf(plane, width, height), comb: combOf(plane, width, height) }
}

function runsOf(plane: Uint16Array, width: number): Int32Array {
  const runs: number[] = []
  for (let row = 0; row < plane.length; row += width) {
    for (let x = 0; x < width; x++) {
      if (plane[row + x] === 0) continue
      const first = x
      let most = 0
      for (; x < width && plane[row + x] !== 0; x++) most = Math.max(most, plane[row + x]!)
      runs.push(row / width, first, x - 1, most)
    }
  }
  return Int32Array.from(runs)
}

function bleedOf(plane: Uint16Array, width: number, height: number): Pick<AlphaPlane, 'bleed' | 'bleedLeast'> {
  let bleed = 0
  let least = FULL
  const [across, down] = [WITHIN, WITHIN * width]
  for (let y = WITHIN; y < height - WITHIN; y += 2) {
    for (let x = WITHIN; x < width - WITHIN; x += 2) {
      const p = y * width + x
      const a = plane[p]!
      if (a < NEARLY || a === FULL) continue
      if ([p - across, p + across, p - down, p + down].some(beside => plane[beside]! < NEARLY)) continue
      bleed++
      least = Math.min(least, a)
    }
  }
  return { bleed, bleedLeast: least }
}

function combOf(plane: Uint16Array, width: number, height: number): number {
  let comb = 0
  for (let x = 0; x < width; x += 2) {
    let last = 0
    let run = 0
    for (let y = 1; y < height; y++) {
      const step = plane[y * width + x]! - plane[(y - 1) * width + x]!
      const sign = step > CHANGE ? 1 : step < -CHANGE ? -1 : 0
      run = sign === 0 ? 0 : sign === -last ? run + 1 : 1
      last = sign
      if (run === LINES) comb++
    }
  }
  return comb
}
