/** What alpha by itself shows: its runs, what shines through nearly solid areas, and combs; the plain twin. */
import { CHANGE, FAINT_BELOW, LINES, NEARLY, SPECK, WITHIN } from '../../core/frame/kernels/terms'
import type { AlphaPlane, IslandCounts } from '../../core/frame/kernels/kernels'
import { joinRuns } from '../../core/frame/kernels/join-runs'

const FULL = 65535

/** How far a gentle slope is looked for. */
const SLOPE = 16

/** Alpha of RGBA of 16-bit codes, and what its plane shows; see `Kernels.examine`. */
export function alphaPlane(samples: Uint16Array, width: number, height: number): AlphaPlane {
  const plane = new Uint16Array(width * height)
  for (let p = 0, i = 3; p < plane.length; p++, i += 4) plane[p] = samples[i]!
  return {
    islands: islandsOf(runsOf(plane, width)),
    ...bleedOf(plane, width, height),
    comb: combOf(plane, width, height)
  }
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

function islandsOf(runs: Int32Array): IslandCounts {
  const root = joinRuns(runs)
  const sizes = new Map<number, { pixels: number; most: number }>()
  for (let n = 0; n < runs.length; n += 4) {
    const label = root(n / 4)
    let island = sizes.get(label)
    if (!island) sizes.set(label, (island = { pixels: 0, most: 0 }))
    island.pixels += runs[n + 2]! - runs[n + 1]! + 1
    island.most = Math.max(island.most, runs[n + 3]!)
  }
  const found = { all: sizes.size, specks: 0, speckMost: 0, faint: 0, faintMost: 0 }
  for (const { pixels, most } of sizes.values()) {
    if (pixels <= SPECK) {
      found.specks++
      found.speckMost = Math.max(found.speckMost, pixels)
    } else if (most < FAINT_BELOW) {
      found.faint++
      found.faintMost = Math.max(found.faintMost, most)
    }
  }
  return found
}

const isBetween = (a: number, one: number, other: number): boolean => (one < a && a < other) || (other < a && a < one)

function bleedOf(plane: Uint16Array, width: number, height: number): Pick<AlphaPlane, 'bleed' | 'bleedLeast'> {
  let bleed = 0
  let least = FULL
  const [across, down] = [WITHIN, WITHIN * width]
  for (let y = WITHIN; y < height - WITHIN; y += 2) {
    for (let x = WITHIN; x < width - WITHIN; x += 2) {
      const p = y * width + x
      const a = plane[p]!
      if (a < NEARLY || a === FULL) continue
      const sides = [p - across, p + across, p - down, p + down].map(beside => plane[beside]!)
      if (sides.some(beside => beside < NEARLY)) continue
      // a soft edge on its way to solid, as blur and motion leave it, is as it should be; eight bits flatten a gentle
      // one
      if (isBetween(a, sides[0]!, sides[1]!) || isBetween(a, sides[2]!, sides[3]!)) continue
      const ahead = Math.min(x, width - 1 - x, SLOPE)
      const away = width * Math.min(y, height - 1 - y, SLOPE)
      if (isBetween(a, plane[p - ahead]!, plane[p + ahead]!) || isBetween(a, plane[p - away]!, plane[p + away]!))
        continue
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
      // two moments in alternate lines: each of them goes on evenly
      const drift = Math.abs(plane[y * width + x]! - plane[Math.max(0, y - 2) * width + x]!)
      run = sign === 0 ? 0 : sign === -last && drift <= CHANGE >> 1 ? run + 1 : 1
      last = sign
      if (run === LINES) comb++
    }
  }
  return comb
}
