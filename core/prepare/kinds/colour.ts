/** Colour beneath and beside alpha. */
import { withoutSpill } from '../../frame/kernels/pixel'
import { withAlphaMode } from '../../frame/alpha'
import { STRAIGHT } from '../../frame/frame'
import { mendedValues } from '../../frame/numbers'
import { coded, toLinearLight } from '../../frame/transfer'
import { edgeFilled } from '../../frame/edge-fill'
import { heldTo, leanOf } from '../spill'
import { SPACES, toSrgb, type Space } from '../gamut'
import { unit } from '../picture'
import { finer, stepKind } from '../step'

export const edgeFill = stepKind({
  id: 'edge-fill',
  group: 'Colour',
  name: 'Edge fill',
  help: 'Clear pixels near an edge take its colour, so that filtering and lossy coding leave no rim.',
  fields: { reach: { type: 'number', label: 'Reach', min: 1, max: 512, step: 1, unit: 'px', default: 32 } },
  move: (frame, { reach }, kernels) => edgeFilled(withAlphaMode(coded(frame, kernels), STRAIGHT, kernels), reach)
})

export const clearToBlack = stepKind({
  id: 'clear-to-black',
  cuts: true,
  group: 'Colour',
  name: 'Clear to black',
  help: 'Colour under clear pixels becomes black: nothing hidden is handed over, and files pack smaller.',
  fields: {},
  pixels: () => rgba => {
    for (let i = 0; i < rgba.length; i += 4) if (rgba[i + 3] === 0) rgba[i] = rgba[i + 1] = rgba[i + 2] = 0
  }
})

const CHANNELS: Record<string, number> = { red: 0, green: 1, blue: 2 }

export const spill = stepKind({
  id: 'spill',
  bounded: 'hue',
  group: 'Colour',
  name: 'Remove spill',
  help: 'Takes a screen’s light off the subject without changing its brightness.',
  fields: {
    channel: {
      type: 'choice',
      label: 'Screen',
      choices: [
        { value: 'green', label: 'Green' },
        { value: 'blue', label: 'Blue' },
        { value: 'red', label: 'Red' }
      ],
      default: 'green'
    },
    held: heldTo,
    amount: { type: 'number', label: 'Amount', min: 0, max: 100, step: 1, unit: '%', default: 100 }
  },
  still: ({ amount }) => amount === 0,
  pixels({ channel, amount, held }) {
    const how = { channel: CHANNELS[channel] ?? 1, spill: amount / 100, lean: leanOf(held) }
    return rgba => {
      for (let i = 0; i < rgba.length; i += 4) withoutSpill(rgba, i, how)
    }
  }
})

export const flatten = stepKind({
  id: 'flatten',
  group: 'Colour',
  name: 'Flatten on a colour',
  help: 'Lays the picture on a colour; it is solid from then on.',
  fields: { colour: { type: 'colour', label: 'On', default: '#000000' } },
  facts: () => ({ claim: { mode: 'none', matte: null, says: 'flattened in preparation' } }),
  pixels({ colour }) {
    const [r, g, b] = unit(colour)
    return rgba => {
      for (let i = 0; i < rgba.length; i += 4) {
        const a = rgba[i + 3]!
        const rest = 1 - a
        rgba[i] = rgba[i]! * a + r * rest
        rgba[i + 1] = rgba[i + 1]! * a + g * rest
        rgba[i + 2] = rgba[i + 2]! * a + b * rest
        rgba[i + 3] = 1
      }
    }
  },
  light(picture, { colour }, { linear }) {
    const below = unit(colour).map(v => (linear ? toLinearLight(v) : v))
    const { rgba } = picture
    for (let i = 0; i < rgba.length; i += 4) {
      const rest = 1 - rgba[i + 3]!
      for (let c = 0; c < 3; c++) rgba[i + c]! += below[c]! * rest
      rgba[i + 3] = 1
    }
    return picture
  }
})

const SPACE_NAMES: Record<Space, string> = {
  p3: 'Display P3',
  bt2020: 'BT.2020',
  'bt2020-pq': 'BT.2020 with PQ',
  'bt2020-hlg': 'BT.2020 with HLG',
  'op-rgb': 'opRGB',
  linear: 'Linear light',
  limited: 'Limited range, 16 to 235',
  'bt601-read-as-bt709': 'BT.601, was read as BT.709',
  'bt709-read-as-bt601': 'BT.709, was read as BT.601'
}

export const bringToSrgb = stepKind({
  id: 'bring-to-srgb',
  cuts: true,
  group: 'Colour',
  name: 'Bring colour to sRGB',
  help:
    'For colour that is another kind than its file says, or than receivers expect. What sRGB cannot hold ' +
    'is clamped; of PQ and HLG reference white becomes white, and highlights are drawn in.',
  fields: {
    from: {
      type: 'choice',
      label: 'What it is',
      choices: SPACES.map(value => ({ value, label: SPACE_NAMES[value] })),
      default: 'p3'
    }
  },
  facts: facts => ({ ...finer(facts), colour: 'sRGB', tags: null, levels: null }),
  pixels: ({ from }) => toSrgb(from as Space)
})

export const mendValues = stepKind({
  id: 'mend-values',
  cuts: true,
  group: 'Colour',
  name: 'Mend broken values',
  help: 'Of floats: values that are no numbers or have no end become those around them, or 0; alpha is held to 0 to 1.',
  fields: {
    from: {
      type: 'choice',
      label: 'In their place',
      choices: [
        { value: 'around', label: 'The mean around' },
        { value: 'zero', label: '0' }
      ],
      default: 'around'
    },
    holds: { type: 'switch', label: 'Alpha from 0 to 1', default: true }
  },
  still: (_, { bitDepth }) => bitDepth !== 32,
  move: (frame, { from, holds }) => mendedValues(frame, { around: from === 'around', holds })
})
