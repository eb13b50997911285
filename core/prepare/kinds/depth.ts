/** Bits of a sample, changed within the preparation. */
import type { Depth } from '../../frame/frame'
import { stepKind } from '../step'

export const depth = stepKind({
  id: 'depth',
  group: 'Depth',
  name: 'Depth',
  help: 'Bits of each sample from here on. Dither spreads what eight bits cannot hold as fine noise, so that soft ramps show no steps.',
  fields: {
    bits: {
      type: 'choice',
      label: 'Bits',
      choices: [
        { value: '8', label: '8' },
        { value: '16', label: '16' },
        { value: '32', label: '32 float' }
      ],
      default: '8'
    },
    dither: { type: 'switch', label: 'Dither', default: true }
  },
  still: ({ bits, dither }, { bitDepth }) => Number(bits) === bitDepth && !(bits === '8' && dither),
  facts: (_, { bits }) => ({ bitDepth: Number(bits) as Depth }),
  pixels: ({ bits, dither }, { kernels }) =>
    bits === '8' && dither ? (rgba, first) => kernels.dither8(rgba, 4 * first) : null
})
