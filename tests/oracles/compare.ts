/** The plain twins of the kernels that compare and look: the definition of what those must count. */
import { EDGE_REACH, noDifferences, waveX, waveY } from '../../core/frame/kernels/terms'
import type { Triple } from '../../core/base/colour'
import { ciede2000, toLab } from '../../core/frame/kernels/ciede2000'
import { BIN, BINS, type Counts, type Differences, type Stored } from '../../core/frame/kernels/kernels'

const FULL = 65535
/** True near partial alpha: within two pixels of one. */
function edgeMap(samples: Uint16Array, width: number, height: number): Uint8Array {
  const rows = new Uint8Array(width * height)
  const map = new Uint8Array(width * height)
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const a = samples[4 * (y * width + x) + 3]!
      if (a > 0 && a < FULL)
        rows.fill(1, y * width + Math.max(0, x - EDGE_REACH), y * width + Math.min(width, x + EDGE_REACH + 1))
    }
  }
  for (let y = 0; y < height; y++) {
    for (let v = Math.max(0, y - EDGE_REACH); v <= Math.min(height - 1, y + EDGE_REACH); v++) {
      for (let x = 0; x < width; x++) if (rows[v * width + x]) map[y * width + x] = 1
    }
  }
  return map
}

/** One channel of a pixel over a backdrop value, all 0..1. */
function over(colour: number, a: number, backdrop: number, stored: Stored, channel: 0 | 1 | 2): number {
  if (stored.mode === 'straight') return colour * a + backdrop * (1 - a)
  if (stored.mode === 'none') return colour
  return colour + (backdrop - stored.matte[channel] / FULL) * (1 - a)
}

function differenceAt(
  frames: readonly [Uint16Array, Uint16Array],
  stored: readonly [Stored, Stored],
  i: number,
  backdrops: readonly Triple[],
  lab: Float64Array
): number {
  let worst = 0
  for (const backdrop of backdrops) {
    for (const n of [0, 1] as const) {
      const s = frames[n]
      const a = stored[n].mode === 'none' ? 1 : s[i + 3]! / FULL
      toLab(
        over(s[i]! / FULL, a, backdrop[0], stored[n], 0),
        over(s[i + 1]! / FULL, a, backdrop[1], stored[n], 1),
        over(s[i + 2]! / FULL, a, backdrop[2], stored[n], 2),
        lab,
        3 * n
      )
    }
    worst = Math.max(worst, ciede2000(lab, 0, 3))
  }
  return worst
}

/** Whether any code of the pixel is no 8-bit code brought to 16 bits. */
function isFine(samples: Uint16Array, at: number): boolean {
  for (let c = 0; c < 4; c++) if (samples[at + c]! >> 8 !== (samples[at + c]! & 255)) return true
  return false
}

export function compare(
  e: Uint16Array,
  f: Uint16Array,
  width: number,
  height: number,
  how: { expected: Stored; found: Stored; opposite: Triple }
): Differences {
  const result = noDifferences()
  const { alpha, colour, edge } = result
  const lab = new Float64Array(6)
  let edges: Uint8Array | null = null
  const opposite = how.opposite.map(code => code / FULL) as unknown as Triple
  // where colour stands beside alpha, colour of clear pixels has no meaning
  const clearHasNoColour = how.expected.mode === 'straight' && how.found.mode === 'straight'
  for (let p = 0, i = 0; i < e.length; p++, i += 4) {
    const ea = e[i + 3]!
    const fa = f[i + 3]!
    alpha.dueLevels[ea >> 8]!++
    alpha.foundLevels[fa >> 8]!++
    if (isFine(e, i)) result.fine.due++
    if (isFine(f, i)) result.fine.found++
    if (ea === 0) alpha.clear++
    else if (ea === FULL) alpha.solid++
    if (fa < alpha.foundLeast) alpha.foundLeast = fa
    if (fa > alpha.foundMost) alpha.foundMost = fa
    const visible = ea > 0 || fa > 0
    if (visible) colour.visible++
    if (ea === fa && e[i] === f[i] && e[i + 1] === f[i + 1] && e[i + 2] === f[i + 2]) continue
    result.changed++
    if (ea !== fa) {
      const error = Math.abs(ea - fa)
      alpha.changed++
      alpha.sum += error
      alpha.squares += error * error
      if (error > alpha.max) alpha.max = error
      if (ea === 0) alpha.clearLost++
      if (ea === FULL) alpha.solidLost++
    }
    if (!visible && clearHasNoColour) {
      result.changedUnderClear++
      continue
    }
    const [x, y] = [p % width, Math.floor(p / width)]
    const picture = [0, 1, 2].map(c => 0.5 + waveX(x, c) * waveY(y, c)) as unknown as Triple
    const difference = differenceAt(
      [e, f],
      [how.expected, how.found],
      i,
      [[0, 0, 0], [1, 1, 1], [0.5, 0.5, 0.5], opposite, picture],
      lab
    )
    colour.sum += difference
    if (difference > colour.max) colour.max = difference
    colour.bins[Math.min(BINS, Math.floor(difference / BIN))]!++
    edges ??= edgeMap(e, width, height)
    if (edges[p]) {
      edge.sum += difference
      if (difference > edge.max) edge.max = difference
    }
  }
  if (edges) for (const near of edges) edge.pixels += near
  return result
}

/** Slack for colour above alpha: one 8-bit code, which rounding may add. */
const SLACK = 257

export function look(samples: Uint16Array): Counts {
  const counts = {
    histogram: new Uint32Array(256),
    levels: new Uint8Array(8192),
    clear: 0,
    solid: 0,
    least: FULL,
    most: 0,
    fine: 0,
    excess: 0,
    firstClear: -1,
    spread: 0
  }
  let clearAt = 0
  for (let i = 0; i < samples.length; i += 4) {
    const [r, g, b, a] = [samples[i]!, samples[i + 1]!, samples[i + 2]!, samples[i + 3]!]
    counts.histogram[a >> 8]!++
    counts.levels[a >> 3]! |= 1 << (a & 7)
    counts.least = Math.min(counts.least, a)
    counts.most = Math.max(counts.most, a)
    if (a === FULL) counts.solid++
    if (a === 0) {
      counts.clear++
      if (counts.firstClear < 0) {
        counts.firstClear = i / 4
        clearAt = i
      } else
        counts.spread = Math.max(
          counts.spread,
          Math.abs(r - samples[clearAt]!),
          Math.abs(g - samples[clearAt + 1]!),
          Math.abs(b - samples[clearAt + 2]!)
        )
    }
    if (a < FULL && Math.max(r, g, b) > a + SLACK) counts.excess++
    if (a % 257 || r % 257 || g % 257 || b % 257) counts.fine++
  }
  return counts
}
