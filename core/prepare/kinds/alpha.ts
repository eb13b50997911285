/** What alpha is made into once it is there. */
import { ramp } from '../../frame/kernels/pixel'
import { unit } from '../picture'
import { islandsOf } from '../../frame/islands'
import { soften } from '../../frame/soften'
import { grow } from '../plane'
import { finer, stepKind } from '../step'

export const unmatteColour = stepKind({
  id: 'take-matte-out',
  bounded: 'level',
  group: 'Alpha',
  name: 'Take matte colour out',
  help: 'For pictures premultiplied on a colour that were read as straight: the colour is taken out of every soft edge.',
  fields: { matte: { type: 'colour', label: 'Matte colour', default: '#000000' } },
  facts: facts => ({
    ...finer(facts),
    claim: { mode: 'straight', matte: null, says: 'matte colour taken out in preparation' }
  }),
  pixels({ matte }, { kernels }) {
    const colour = unit(matte)
    return rgba => kernels.takeOut(rgba, colour)
  }
})

export const levels = stepKind({
  id: 'alpha-levels',
  group: 'Alpha',
  name: 'Levels',
  help: 'What lies below the one point becomes clear, above the other solid; between them alpha is stretched.',
  fields: {
    low: { type: 'number', label: 'Clear to', min: 0, max: 100, step: 0.1, unit: '%', default: 2 },
    high: { type: 'number', label: 'Solid from', min: 0, max: 100, step: 0.1, unit: '%', default: 98 },
    middle: {
      type: 'number',
      label: 'Middle',
      min: 0.2,
      max: 5,
      step: 0.05,
      default: 1,
      help: 'Above 1 thickens soft edges, below thins them.'
    }
  },
  facts: finer,
  still: ({ low, high, middle }) => low === 0 && high === 100 && middle === 1,
  plane(alpha, { low, high, middle }) {
    const [from, to, power] = [low / 100, high / 100, 1 / middle]
    for (let p = 0; p < alpha.length; p++) {
      const a = ramp(alpha[p]!, from, to)
      alpha[p] = power === 1 || a === 0 ? a : a ** power
    }
    return alpha
  }
})

export const invertAlpha = stepKind({
  id: 'alpha-invert',
  group: 'Alpha',
  name: 'Invert',
  help: 'Clear becomes solid, and solid clear.',
  fields: {},
  plane(alpha) {
    for (let p = 0; p < alpha.length; p++) alpha[p] = 1 - alpha[p]!
    return alpha
  }
})

export const threshold = stepKind({
  id: 'alpha-threshold',
  group: 'Alpha',
  name: 'Threshold',
  help: 'Alpha becomes on or off.',
  fields: { at: { type: 'number', label: 'Solid from', min: 0.4, max: 100, step: 0.1, unit: '%', default: 50 } },
  plane(alpha, { at }) {
    for (let p = 0; p < alpha.length; p++) alpha[p] = alpha[p]! >= at / 100 ? 1 : 0
    return alpha
  }
})

export const fullRange = stepKind({
  id: 'alpha-full-range',
  group: 'Alpha',
  name: 'Limited range to full',
  help: 'Alpha stored as video levels, 16 to 235 of 255, is stretched to clear and solid.',
  fields: {},
  facts: finer,
  plane(alpha) {
    for (let p = 0; p < alpha.length; p++) alpha[p] = ramp(alpha[p]!, 16 / 255, 235 / 255)
    return alpha
  }
})

export const specks = stepKind({
  id: 'alpha-specks',
  group: 'Alpha',
  name: 'Remove specks',
  help: 'Islands smaller than a size become clear; holes as small become solid.',
  fields: {
    size: { type: 'number', label: 'Smaller than', min: 1, max: 100000, step: 1, unit: 'px', default: 12 },
    above: { type: 'number', label: 'Counting alpha above', min: 0, max: 99, step: 1, unit: '%', default: 1 },
    holes: { type: 'switch', label: 'Fill holes too', default: true }
  },
  still: ({ size }) => size <= 1,
  plane(alpha, { size, above, holes }, { width, height }) {
    const least = above / 100
    const mask = new Uint8Array(alpha.length)
    for (let p = 0; p < mask.length; p++) mask[p] = alpha[p]! > least ? 1 : 0
    const specks = smallRuns(mask, width, height, size, false)
    let filled: [number, number][] = []
    if (holes) {
      for (let p = 0; p < mask.length; p++) mask[p] = alpha[p]! < 1 - least ? 1 : 0
      // a hole at the rim is none
      filled = smallRuns(mask, width, height, size, true)
    }
    for (const [from, end] of specks) alpha.fill(0, from, end)
    for (const [from, end] of filled) alpha.fill(1, from, end)
    return alpha
  }
})

/**
 * Stretches of pixels of islands of fewer than `size`; with `within`, only of those that nowhere touch the picture's
 * rim.
 */
function smallRuns(
  mask: Uint8Array,
  width: number,
  height: number,
  size: number,
  within: boolean
): [from: number, end: number][] {
  const { runs, root } = islandsOf(mask, width, height)
  const sizes = new Map<number, number>()
  for (let n = 0; n < runs.length; n += 4) {
    const [y, from, to, label] = [runs[n]!, runs[n + 1]!, runs[n + 2]!, root(runs[n + 3]!)]
    const atRim = within && (y === 0 || y === height - 1 || from === 0 || to === width - 1)
    sizes.set(label, (sizes.get(label) ?? 0) + (atRim ? size : to - from + 1))
  }
  const small: [number, number][] = []
  for (let n = 0; n < runs.length; n += 4) {
    if (sizes.get(root(runs[n + 3]!))! < size)
      small.push([runs[n]! * width + runs[n + 1]!, runs[n]! * width + runs[n + 2]! + 1])
  }
  return small
}

export const haze = stepKind({
  id: 'alpha-haze',
  group: 'Alpha',
  name: 'Remove haze',
  help: 'Alpha up to a level becomes clear; all above keeps its value.',
  fields: { below: { type: 'number', label: 'Up to', min: 0, max: 50, step: 0.1, unit: '%', default: 2 } },
  still: ({ below }) => below === 0,
  plane(alpha, { below }) {
    for (let p = 0; p < alpha.length; p++) if (alpha[p]! <= below / 100) alpha[p] = 0
    return alpha
  }
})

export const growAlpha = stepKind({
  id: 'alpha-grow',
  group: 'Alpha',
  name: 'Shrink or grow',
  help: 'Moves the edge inward (below zero) or outward.',
  fields: { by: { type: 'number', label: 'By', min: -40, max: 40, step: 0.25, unit: 'px', default: -0.5 } },
  facts: finer,
  still: ({ by }) => by === 0,
  plane: (alpha, { by }, { kernels, width, height }) => grow(alpha, width, height, by, kernels)
})

export const softenAlpha = stepKind({
  id: 'alpha-soften',
  group: 'Alpha',
  name: 'Soften',
  help: 'Softens the edge; colour stays as it is.',
  fields: { by: { type: 'number', label: 'By', min: 0, max: 100, step: 0.25, unit: 'px', default: 1 } },
  facts: finer,
  still: ({ by }) => by === 0,
  plane: (alpha, { by }, { kernels, width, height }) => soften(alpha, width, height, by, kernels)
})

export const opacity = stepKind({
  id: 'alpha-opacity',
  group: 'Alpha',
  name: 'Opacity',
  help: 'Makes everything more transparent.',
  fields: { to: { type: 'number', label: 'To', min: 0, max: 100, step: 1, unit: '%', default: 80 } },
  facts: finer,
  still: ({ to }) => to === 100,
  dims: ({ to }) => to / 100,
  plane(alpha, { to }) {
    for (let p = 0; p < alpha.length; p++) alpha[p]! *= to / 100
    return alpha
  }
})

/** Whether alpha, and colour as far as it is seen, differ by no more than this between two pictures, 0 to 1. */
function alike(a: Float32Array, b: Float32Array, i: number, within: number): boolean {
  const [one, other] = [a[i + 3]!, b[i + 3]!]
  if (Math.abs(one - other) > within) return false
  for (let c = 0; c < 3; c++) if (Math.abs(a[i + c]! * one - b[i + c]! * other) > within) return false
  return true
}

export const steady = stepKind({
  id: 'alpha-steady',
  group: 'Alpha',
  name: 'Steady over time',
  help:
    'Where a pixel hardly changes, its alpha becomes the middle one of three frames: edges and noise stop ' +
    'flickering. What moves stays as it is.',
  fields: {
    within: {
      type: 'number',
      label: 'Changes up to',
      min: 1,
      max: 40,
      step: 1,
      unit: '%',
      default: 10,
      help: 'What changes by more from one frame to the next is taken for motion.'
    }
  },
  facts: finer,
  still: (_, { frames }) => frames < 3,
  async paint(picture, { within }, around) {
    const [before, after] = [await around.near(-1), await around.near(1)]
    // the first and the last frame have no middle
    if (!before || !after) return picture
    const { rgba } = picture
    const most = within / 100
    for (let i = 0; i < rgba.length; i += 4) {
      const [a, b, c] = [before.rgba[i + 3]!, rgba[i + 3]!, after.rgba[i + 3]!]
      if (a === b && b === c) continue
      const middle = Math.max(Math.min(a, b), Math.min(Math.max(a, b), c))
      if (middle === b || !alike(rgba, before.rgba, i, most) || !alike(rgba, after.rgba, i, most)) continue
      // what comes to be seen takes the colour it is seen in
      if (b === 0) for (let k = 0; k < 3; k++) rgba[i + k] = (middle === a ? before : after).rgba[i + k]!
      rgba[i + 3] = middle
    }
    return picture
  }
})
