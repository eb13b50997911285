/** Alpha from colour. */
import { allocateSamples, fullCode, STRAIGHT } from '../../frame/frame'
import { clamp01, luma, ramp, takeOutAt } from '../../frame/kernels/pixel'
import { unit } from '../picture'
import { fitted, percent, pulled } from '../pulled'
import { pullGrounded } from '../grounded'
import { coverage, shapeAt } from '../../base/settings/shape'
import { stepKind } from '../step'

export const lumaKey = stepKind({
  id: 'luma-key',
  bounded: 'level',
  group: 'Pull',
  name: 'Luma key',
  help: 'Alpha from brightness, for what stands before black or white.',
  fields: {
    background: {
      type: 'choice',
      label: 'Background',
      choices: [
        { value: 'black', label: 'Black' },
        { value: 'white', label: 'White' }
      ],
      default: 'black'
    },
    low: percent('Clear to', 4),
    high: percent('Solid from', 30),
    take: {
      type: 'switch',
      label: 'Take background out',
      help: 'Removes the black or white that soft edges are mixed with.',
      default: true
    }
  },
  facts: pulled,
  pixels: ({ background, low, high, take }) => {
    const back = background === 'white' ? 1 : 0
    const matte = [back, back, back]
    return rgba => {
      for (let i = 0; i < rgba.length; i += 4) {
        const y = luma(rgba[i]!, rgba[i + 1]!, rgba[i + 2]!)
        const a = ramp(back ? 1 - y : y, low / 100, high / 100)
        if (take) takeOutAt(rgba, i, a, matte)
        rgba[i + 3]! *= a
      }
    }
  }
})

export const glow = stepKind({
  id: 'glow-to-alpha',
  cuts: true,
  group: 'Pull',
  name: 'Glow to alpha',
  help:
    'Light on black becomes light with alpha: over black it looks exactly as before, over anything else ' +
    'it is laid on and not added.',
  fields: {
    keep: {
      type: 'switch',
      label: 'Keep alpha there is',
      help: 'For pictures that have alpha already, with light beside it. Off, only what shines is seen.',
      default: false
    }
  },
  facts: pulled,
  // on stored samples: light where premultiplied alpha is zero would be lost on the way to straight
  move(frame, { keep }) {
    const { width, height, depth, samples: from } = frame
    const [full, wide] = [fullCode(depth), depth === 8 ? 16 : depth]
    const samples = allocateSamples(width, height, wide)
    const most = fullCode(wide)
    const matte = frame.alpha.mode === 'premultiplied' ? unit(frame.alpha.matte) : ([0, 0, 0] as const)
    const store = (v: number): number => (depth === 32 ? v : Math.round(clamp01(v) * most))
    const { mode } = frame.alpha
    for (let i = 0; i < from.length; i += 4) {
      if (from[i] === 0 && from[i + 1] === 0 && from[i + 2] === 0 && (!keep || from[i + 3] === 0)) continue
      const a = mode === 'none' ? 1 : from[i + 3]! / full
      const seen = mode === 'straight' ? a / full : 1 / full
      const r = Math.max(0, from[i]! * seen - (1 - a) * matte[0])
      const g = Math.max(0, from[i + 1]! * seen - (1 - a) * matte[1])
      const b = Math.max(0, from[i + 2]! * seen - (1 - a) * matte[2])
      const light = clamp01(Math.max(r, g, b, keep ? a : 0))
      if (light === 0) continue
      samples[i] = store(r / light)
      samples[i + 1] = store(g / light)
      samples[i + 2] = store(b / light)
      samples[i + 3] = store(light)
    }
    return { ...frame, depth: wide, samples, alpha: STRAIGHT }
  }
})

/** Alpha that a pull finds is a part of the alpha there was: what was clear stays clear. */
function withinAlpha(rgba: Float32Array, pull: () => void): void {
  let before: Float32Array | null = null
  for (let i = 3; i < rgba.length && !before; i += 4) if (rgba[i] !== 1) before = rgba.slice()
  pull()
  if (before) for (let i = 3; i < rgba.length; i += 4) rgba[i]! *= before[i]!
}

export const shadow = stepKind({
  id: 'shadow-to-alpha',
  bounded: 'level',
  group: 'Pull',
  name: 'Shadow on white to alpha',
  help: 'Darkness on white becomes black with alpha: over white it looks exactly as before.',
  fields: {},
  facts: pulled,
  pixels:
    (_, { kernels }) =>
    rgba =>
      withinAlpha(rgba, () => kernels.takeBackground(rgba, [1, 1, 1], 1))
})

export const subjectAndShadow = stepKind({
  id: 'subject-and-shadow',
  bounded: 'level',
  group: 'Pull',
  name: 'Subject with its shadow',
  help: 'Takes a plain background out and keeps both: the subject solid, its soft shadow as black with alpha.',
  fields: {
    background: { type: 'colour', label: 'Background', default: '#ffffff' },
    deepest: percent('Deepest shadow', 75, 'What is darker than so much shadow would be is taken for the subject.'),
    tint: percent('Tint allowed', 6, 'How coloured a shadow may be before it is taken for the subject.'),
    through: {
      type: 'switch',
      label: 'Seen through gaps',
      help: 'Light areas that the subject encloses are the background, as within a handle. Off, they are its own.',
      default: false
    }
  },
  facts: pulled,
  paint: (picture, { background, deepest, tint, through }) =>
    pullGrounded(picture, { background: unit(background), deepest: deepest / 100, tint: tint / 100, through })
})

export const flatBackground = stepKind({
  id: 'flat-background',
  bounded: 'level',
  group: 'Pull',
  name: 'Flat background out',
  help: 'Takes one even colour out exactly: laid over that colour again, the picture is what it was.',
  fields: {
    colour: { type: 'colour', label: 'Background', default: '#ffffff' },
    solid: {
      type: 'number',
      label: 'Solid from',
      min: 1,
      max: 100,
      step: 1,
      unit: '%',
      default: 100,
      help: 'Lower makes the inside of what is drawn fully solid; edges are then no longer exact.'
    }
  },
  facts: pulled,
  pixels({ colour, solid }, { kernels }) {
    const background = unit(colour)
    return rgba => withinAlpha(rgba, () => kernels.takeBackground(rgba, background, solid / 100))
  }
})

export const difference = stepKind({
  id: 'difference-key',
  bounded: 'level',
  group: 'Pull',
  name: 'Difference from a plate',
  help: 'Alpha where the picture differs from the same view without the subject.',
  fields: {
    plate: { type: 'source', label: 'Clean plate', help: 'A still, or a film of the same length.', default: '' },
    low: percent('Clear to', 4),
    high: percent('Solid from', 16)
  },
  facts: pulled,
  problem: (_, { plate }) => (plate === '' ? 'Choose the source that is the clean plate.' : null),
  async pixels({ plate, low, high }, around) {
    const other = plate ? await around.other(plate) : null
    if (!other) return null
    const back = fitted(other, around).rgba
    return (rgba, first) => {
      for (let i = 0, k = 4 * first; i < rgba.length; i += 4, k += 4) {
        const apart = Math.max(
          Math.abs(rgba[i]! - back[k]!),
          Math.abs(rgba[i + 1]! - back[k + 1]!),
          Math.abs(rgba[i + 2]! - back[k + 2]!)
        )
        const a = ramp(apart, low / 100, high / 100)
        takeOutAt(rgba, i, a, back, k)
        rgba[i + 3]! *= a
      }
    }
  }
})

export const matteFrom = stepKind({
  id: 'matte-from',
  group: 'Pull',
  name: 'Matte from another source',
  help: 'Alpha from a key file: its brightness, or its own alpha.',
  fields: {
    matte: { type: 'source', label: 'Matte', default: '' },
    channel: {
      type: 'choice',
      label: 'Taken from',
      choices: [
        { value: 'luma', label: 'Brightness' },
        { value: 'alpha', label: 'Alpha' }
      ],
      default: 'luma'
    },
    invert: { type: 'switch', label: 'Inverted', default: false },
    how: {
      type: 'choice',
      label: 'Takes effect as',
      choices: [
        { value: 'instead', label: 'The alpha' },
        { value: 'within', label: 'A limit to alpha' }
      ],
      default: 'instead'
    }
  },
  facts: pulled,
  problem: (_, { matte }) => (matte === '' ? 'Choose the source that holds the matte.' : null),
  async plane(alpha, { matte, channel, invert, how }, around) {
    const other = matte ? await around.other(matte) : null
    if (!other) return alpha
    const key = fitted(other, around).rgba
    for (let p = 0, i = 0; p < alpha.length; p++, i += 4) {
      const grey =
        key[i] === key[i + 1] && key[i + 1] === key[i + 2] ? key[i]! : luma(key[i]!, key[i + 1]!, key[i + 2]!)
      const value = channel === 'alpha' ? key[i + 3]! : grey
      const a = invert ? 1 - value : value
      alpha[p] = how === 'within' ? alpha[p]! * a : a
    }
    return alpha
  }
})

export const drawnMask = stepKind({
  id: 'drawn-mask',
  group: 'Pull',
  name: 'Drawn mask',
  help: 'A shape drawn in the picture keeps what lies inside it. Draw it again at another frame and it moves between.',
  fields: {
    shape: { type: 'shape', label: 'Shape', default: [] },
    softness: { type: 'number', label: 'Softness', min: 1, max: 400, step: 1, unit: 'px', default: 1 },
    invert: { type: 'switch', label: 'Keep the outside', default: false }
  },
  facts: pulled,
  problem: (_, { shape }) => (shape.length === 0 ? 'Draw the shape in the picture.' : null),
  plane(alpha, { shape, softness, invert }, { index, width, height }) {
    const now = shapeAt(shape, index + 1)
    if (!now) return alpha
    const inside = coverage(now, width, height, softness)
    for (let p = 0; p < alpha.length; p++) alpha[p]! *= invert ? 1 - inside[p]! : inside[p]!
    return alpha
  }
})
