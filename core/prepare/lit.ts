/**
 * Steps on pictures that hold more than sRGB between 0 and 1: floats, linear light, and light that runs on where alpha
 * ends. They stay floats without bounds, in the form they came in; what filters works on premultiplied values, in
 * which light adds up.
 */
import { withDepth } from '../frame/depth'
import { STRAIGHT, type AlphaMode, type Frame } from '../frame/frame'
import { toCoded, toLinearLight } from '../frame/transfer'
import type { Kernels } from '../frame/kernels/kernels'
import type { Picture } from './picture'
import type { StepKind, Surroundings } from './step'

const BLACK: AlphaMode = { mode: 'premultiplied', matte: '#000000' }

const onBlack = ({ alpha }: Frame): boolean => alpha.mode === 'premultiplied' && alpha.matte === '#000000'

/** Codes that a premultiplied colour may lie above its alpha by rounding and coding, of 255. */
export const ROUNDING = 3
/** So many such pixels are light, and no accident. */
const FEW = 16

/** Whether a frame premultiplied on black has light that its alpha does not cover. */
function runsOver({ samples, depth }: Frame): boolean {
  const beyond = depth === 8 ? ROUNDING : depth === 16 ? 257 * ROUNDING : ROUNDING / 255
  let count = 0
  for (let i = 0; i < samples.length; i += 4) {
    const most = samples[i + 3]! + beyond
    if ((samples[i]! > most || samples[i + 1]! > most || samples[i + 2]! > most) && ++count >= FEW) return true
  }
  return false
}

/** Whether steps are to be done to a frame as light, not as codes of sRGB. */
export function isLit(frame: Frame): boolean {
  // what is laid on another colour holds that colour, and is taken apart as codes are
  if (frame.alpha.mode === 'premultiplied' && !onBlack(frame)) return false
  return frame.depth === 32 || frame.transfer === 'linear' || (onBlack(frame) && runsOver(frame))
}

/**
 * Alpha that stands for none where there is light: colour divided by it and multiplied again is as it was. Far below
 * what any format holds.
 */
const THINNEST = 2 ** -40

/** Float samples of their own. */
function floats(frame: Frame, kernels: Kernels): Float32Array {
  const wide = withDepth(frame, 32, kernels).samples as Float32Array
  return wide === frame.samples ? wide.slice() : wide
}

/** Premultiplied on black, in the transfer it has. */
function toLight(frame: Frame, kernels: Kernels): Picture {
  const rgba = floats(frame, kernels)
  if (frame.alpha.mode === 'straight')
    for (let i = 0; i < rgba.length; i += 4) for (let c = 0; c < 3; c++) rgba[i + c]! *= rgba[i + 3]!
  return { width: frame.width, height: frame.height, rgba }
}

/** Back in the form of the frame it was made of: premultiplied where that was, else straight. */
function ofLight({ width, height, rgba }: Picture, { alpha, transfer }: Frame): Frame {
  if (alpha.mode === 'premultiplied') return { width, height, depth: 32, samples: rgba, alpha: BLACK, transfer }
  for (let i = 0; i < rgba.length; i += 4) {
    const a = rgba[i + 3]!
    if (a !== 0 && a !== 1) for (let c = 0; c < 3; c++) rgba[i + c]! /= a
  }
  return { width, height, depth: 32, samples: rgba, alpha: STRAIGHT, transfer }
}

/** Straight and sRGB-coded, beyond 0 and 1 as well; light without alpha lies on the thinnest one. */
function toStraight(frame: Frame, kernels: Kernels): Picture {
  const rgba = floats(frame, kernels)
  const divided = frame.alpha.mode === 'premultiplied'
  const linear = frame.transfer === 'linear'
  for (let i = 0; i < rgba.length; i += 4) {
    let a = rgba[i + 3]!
    if (divided) {
      if (a === 0 && (rgba[i] !== 0 || rgba[i + 1] !== 0 || rgba[i + 2] !== 0)) rgba[i + 3] = a = THINNEST
      if (a !== 0 && a !== 1) for (let c = 0; c < 3; c++) rgba[i + c]! /= a
    }
    if (linear) for (let c = 0; c < 3; c++) rgba[i + c] = toCoded(rgba[i + c]!)
  }
  return { width: frame.width, height: frame.height, rgba }
}

/** Back in the form of the frame it was made of. */
function ofStraight({ width, height, rgba }: Picture, { alpha, transfer }: Frame): Frame {
  const multiplied = alpha.mode === 'premultiplied'
  for (let i = 0; i < rgba.length; i += 4) {
    if (transfer === 'linear') for (let c = 0; c < 3; c++) rgba[i + c] = toLinearLight(rgba[i + c]!)
    if (!multiplied) continue
    const a = rgba[i + 3]!
    if (a !== 1) for (let c = 0; c < 3; c++) rgba[i + c]! *= a
    if (a > 0 && a <= THINNEST) rgba[i + 3] = 0
  }
  return { width, height, depth: 32, samples: rgba, alpha: multiplied ? BLACK : STRAIGHT, transfer }
}

/**
 * The frame with another alpha. Premultiplied colour goes with it; light where alpha ended stays, but for `dims` of it.
 */
async function withOtherAlpha(
  frame: Frame,
  kernels: Kernels,
  dims: number,
  make: (alpha: Float32Array) => Float32Array | Promise<Float32Array>
): Promise<Frame> {
  const samples = floats(frame, kernels)
  const was = new Float32Array(samples.length / 4)
  for (let p = 0, i = 3; p < was.length; p++, i += 4) was[p] = samples[i]!
  const now = await make(was.slice())
  const goes = frame.alpha.mode === 'premultiplied'
  for (let p = 0, i = 0; p < was.length; p++, i += 4) {
    const [from, to] = [was[p]!, now[p]!]
    samples[i + 3] = to
    if (!goes || from === to) {
      if (goes && from === 0 && dims !== 1) for (let c = 0; c < 3; c++) samples[i + c]! *= dims
      continue
    }
    const by = from === 0 ? dims : to / from
    for (let c = 0; c < 3; c++) samples[i + c]! *= by
  }
  return { ...frame, depth: 32, samples, alpha: goes ? BLACK : STRAIGHT }
}

/** What a step makes of a frame that holds light; `around` is what it may look at. */
export async function litStep(kind: StepKind, settings: never, frame: Frame, around: Surroundings): Promise<Frame> {
  const { kernels } = around
  if (kind.move) return kind.move(frame, settings, kernels)
  if (kind.light) {
    const linear = frame.transfer === 'linear'
    return ofLight(await kind.light(toLight(frame, kernels), settings, { ...around, linear }), frame)
  }
  if (kind.plane) {
    const { plane } = kind
    return withOtherAlpha(frame, kernels, kind.dims?.(settings) ?? 1, alpha => plane(alpha, settings, around))
  }
  const picture = toStraight(frame, kernels)
  const beyond = kind.bounded ? broughtDown(picture.rgba, kind.bounded) : null
  const change = (await kind.pixels?.(settings, around)) ?? null
  if (change) change(picture.rgba, 0)
  const made = kind.paint && !change ? await kind.paint(picture, settings, around) : picture
  beyond?.(made.rgba)
  return ofStraight(made, frame)
}

/**
 * Brings straight colour to between 0 and 1 and gives what brings it back: by its brightness as a whole, or channel by
 * channel. What is darker than black comes back as it was.
 */
function broughtDown(rgba: Float32Array, by: 'hue' | 'level'): (rgba: Float32Array) => void {
  const back: [at: number, gain: number, rest: readonly [number, number, number]][] = []
  for (let i = 0; i < rgba.length; i += 4) {
    const [r, g, b] = [rgba[i]!, rgba[i + 1]!, rgba[i + 2]!]
    const most = Math.max(r, g, b)
    // no number is neither, and is left to the step
    if (!(most > 1 || Math.min(r, g, b) < 0)) continue
    const gain = by === 'hue' && most > 1 ? most : 1
    const held = (v: number): number => Math.min(1, Math.max(0, v / gain))
    const rest = [r - held(r) * gain, g - held(g) * gain, b - held(b) * gain] as const
    for (let c = 0; c < 3; c++) rgba[i + c] = held(rgba[i + c]!)
    back.push([i, gain, rest])
  }
  return made => {
    for (const [i, gain, rest] of back) for (let c = 0; c < 3; c++) made[i + c] = made[i + c]! * gain + rest[c]!
  }
}

/** Two frames of the same form as one, weighed as light. */
export function litMixed(a: Frame, b: Frame, mix: number, kernels: Kernels): Frame {
  const [one, two] = [toLight(a, kernels), toLight(b, kernels)]
  for (let i = 0; i < one.rgba.length; i++) one.rgba[i] = one.rgba[i]! * (1 - mix) + two.rgba[i]! * mix
  return ofLight(one, a)
}
