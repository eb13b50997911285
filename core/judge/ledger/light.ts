/**
 * What a step makes of a frame's light: sums of premultiplied colour and of alpha, the extremes, and the pixels whose
 * light was cut off at white or black, or dropped where no alpha covers it.
 */
import { hexAtDepth } from '../../base/colour'
import { fullCode, type Frame } from '../../frame/frame'
import { toCoded, toLinearLight } from '../../frame/transfer'
import { ROUNDING } from '../../prepare/lit'

/** Each pair is before and after the step. Light is premultiplied, in the transfer of the frame before. */
export interface LightFigures {
  /** Sums over all pixels of the mean of the three channels. */
  light: [number, number]
  alpha: [number, number]
  /** The largest and the least value of any channel. */
  brightest: [number, number]
  darkest: [number, number]
  /** Sums of what lies beyond alpha, or below black, as a distance. */
  beyond: [number, number]
  /** Pixels beyond white, alpha or black that came out at that very bound, with alpha left. */
  clipped: number
  /** Pixels with light and no alpha that came out with neither. */
  dropped: number
}

/** Figures of light before any frame was counted. */
export const noLight = (): LightFigures => ({
  light: [0, 0],
  alpha: [0, 0],
  brightest: [-Infinity, -Infinity],
  darkest: [Infinity, Infinity],
  beyond: [0, 0],
  clipped: 0,
  dropped: 0
})

/** Adds the figures of one more frame to a sum. */
export function addLight(sum: LightFigures, more: LightFigures): void {
  for (const n of [0, 1] as const) {
    for (const key of ['light', 'alpha', 'beyond'] as const) sum[key][n] += more[key][n]
    sum.brightest[n] = Math.max(sum.brightest[n], more.brightest[n])
    sum.darkest[n] = Math.min(sum.darkest[n], more.darkest[n])
  }
  sum.clipped += more.clipped
  sum.dropped += more.dropped
}

/** Colour may lie so far above its alpha by rounding and coding. */
const BEYOND = ROUNDING / 255

/** At a bound, or at nothing. */
const AT = 1 / 255

/** Alpha below this is none: half a code of 16 bits. */
const NONE = 0.5 / 65535

/** Gives the pixels of row `y` as premultiplied floats in `linear` light or coded, into `row`. */
function lightRows(frame: Frame, linear: boolean): (y: number, row: Float32Array) => void {
  const { width, samples, alpha, transfer } = frame
  const full = fullCode(frame.depth)
  const matte = alpha.mode === 'premultiplied' ? hexAtDepth(alpha.matte, 32) : null
  const curve = linear === (transfer === 'linear') ? null : linear ? toLinearLight : toCoded
  return (y, row) => {
    for (let i = 4 * y * width, o = 0; o < row.length; i += 4, o += 4) {
      const a = alpha.mode === 'none' ? 1 : samples[i + 3]! / full
      row[o + 3] = a
      for (let c = 0; c < 3; c++) {
        const v = samples[i + c]! / full
        if (!curve) row[o + c] = matte ? v - (1 - a) * matte[c]! : v * a
        else row[o + c] = a === 0 ? 0 : a * curve(matte ? (v - (1 - a) * matte[c]!) / a : v)
      }
    }
  }
}

/** Adds one row's sums and extremes, `n` is 0 for before and 1 for after; gives whether anything lies beyond. */
function addRow(row: Float32Array, n: 0 | 1, to: LightFigures): boolean {
  let [light, alpha, beyond, most, least] = [0, 0, 0, to.brightest[n], to.darkest[n]]
  for (let i = 0; i < row.length; i += 4) {
    const [r, g, b, a] = [row[i]!, row[i + 1]!, row[i + 2]!, row[i + 3]!]
    const sum = r + g + b
    // what is no number has no place in a sum; it is a finding of its own
    if (!Number.isFinite(sum) || !Number.isFinite(a)) continue
    const [high, low] = [Math.max(r, g, b), Math.min(r, g, b)]
    light += sum
    alpha += a
    if (high > most) most = high
    if (low < least) least = low
    if (high > a + BEYOND) beyond += high - a
    if (low < -BEYOND) beyond -= low
  }
  to.light[n] += light / 3
  to.alpha[n] += alpha
  to.beyond[n] += beyond
  to.brightest[n] = most
  to.darkest[n] = least
  return beyond > 0
}

/** Whether a pixel's light came to lie at a bound that it lay beyond, or went with no alpha to go with. */
function lost(before: Float32Array, after: Float32Array, i: number): 'clipped' | 'dropped' | null {
  const [was, is] = [before[i + 3]!, after[i + 3]!]
  if (was <= NONE) {
    if (is > NONE) return null
    for (let c = 0; c < 3; c++) if (Math.abs(before[i + c]!) > BEYOND && Math.abs(after[i + c]!) < AT) return 'dropped'
    return null
  }
  if (is <= NONE) return null
  for (let c = 0; c < 3; c++) {
    const [from, to] = [before[i + c]!, after[i + c]!]
    const due = (from * is) / was
    const high = Math.abs(to - is) < AT || Math.abs(to - 1) < AT
    if (from > was + BEYOND && due > is + BEYOND && due > to + BEYOND && high) return 'clipped'
    if (from < -BEYOND && due < -BEYOND && Math.abs(to) < AT) return 'clipped'
  }
  return null
}

/** What a step made of a frame's light. Pixels are held against each other where the step leaves them `inPlace`. */
export function lightFigures(before: Frame, after: Frame, inPlace: boolean): LightFigures {
  const figures = noLight()
  const linear = before.transfer === 'linear'
  const [from, to] = [lightRows(before, linear), lightRows(after, linear)]
  const [was, is] = [new Float32Array(4 * before.width), new Float32Array(4 * after.width)]
  const alike = inPlace && before.width === after.width && before.height === after.height
  for (let y = 0; y < Math.max(before.height, after.height); y++) {
    let shines = false
    if (y < before.height) {
      from(y, was)
      shines = addRow(was, 0, figures)
    }
    if (y < after.height) {
      to(y, is)
      addRow(is, 1, figures)
    }
    // what lies within its alpha has nothing to lose
    if (!alike || !shines) continue
    for (let i = 0; i < was.length; i += 4) {
      const what = lost(was, is, i)
      if (what) figures[what]++
    }
  }
  return figures
}

/** Least share of the light beyond alpha that a step which only spreads it leaves. */
const LEFT = 0.01

/** Light may differ so much by rounding and rims, of 1. */
const DIFFERS = 0.005

/** What is to be told of a step's light. */
export interface LightTold {
  /** Short pieces of a sentence: "the brightest value 4 became 1". */
  told: string[]
  /** A sentence of what was lost beyond the step's purpose, or null. */
  loss: string | null
}

const two = (value: number): string => String(Math.round(value * 100) / 100)

/** Light beyond what alpha covers that went where a step only spreads it: more of the sum than rounding and rims. */
function spreadAway({ light, beyond }: LightFigures, area: number): boolean {
  const [was, is] = [light[0] * area, light[1]]
  const gone = beyond[0] * area - beyond[1]
  // a small bright place among dark ones is no longer beyond once spread; the sum of light tells it from what is cut
  // off
  return beyond[0] > 0 && beyond[1] < LEFT * beyond[0] * area && was - is > Math.max(DIFFERS * was, (0.25 * gone) / 3)
}

/**
 * Puts a step's figures into words. `area` is how many pixels each pixel became, null where light need not be kept;
 * `purpose` says that cutting light off is what the step is for.
 */
export function sayLight(
  figures: LightFigures,
  { name, area, purpose }: { name: string; area: number | null; purpose: boolean }
): LightTold {
  const { light, brightest, darkest, clipped, dropped } = figures
  const told: string[] = []
  const was = light[0] * (area ?? 1)
  const share = was > 0 ? light[1] / was : 1
  if (area !== null && Math.abs(share - 1) > DIFFERS)
    told.push(`light is ${Math.round(1000 * share) / 10} % of what it was`)
  if (brightest[0] > 1 + BEYOND && Math.abs(brightest[0] - brightest[1]) > 0.01 * brightest[0])
    told.push(`the brightest value ${two(brightest[0])} became ${two(brightest[1])}`)
  if (darkest[0] < -BEYOND && Math.abs(darkest[0] - darkest[1]) > -0.01 * darkest[0])
    told.push(`the darkest ${two(darkest[0])} became ${two(darkest[1])}`)
  if (purpose) return { told, loss: null }
  const count = (n: number): string => `${n.toLocaleString('en')} ${n === 1 ? 'pixel' : 'pixels'}`
  const losses = [
    ...(clipped ? [`light beyond white or below black is cut off in ${count(clipped)}`] : []),
    ...(dropped ? [`light that no alpha covers is dropped in ${count(dropped)}`] : []),
    ...(area !== null && !clipped && !dropped && spreadAway(figures, area)
      ? ['light beyond what its alpha covers is gone']
      : [])
  ]
  return { told, loss: losses.length ? `${name}: ${losses.join(', and ')}.` : null }
}
