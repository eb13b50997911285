/** Bits of a sample, changed within the preparation. */
import type { Depth } from '../../frame/frame'
import { stepKind } from '../step'

export const depth = stepKind({
  id: 'depth',
  group: 'Depth',
  name: 'Depth',
  help:
    'Bits of each sample from here on. Dither spreads what eight bits cannot hold as fine noise, so that ' +
    'soft ramps show no steps; what is a code already takes none, so clear stays clear and solid solid.',
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
    dither: { type: 'switch', label: 'Dither', default: true },
    moves: {
      type: 'choice',
      label: 'Its noise',
      help:
        'Moving, it is not seen as a pattern, and the mean over time is exact; standing, still parts stay ' +
        'the same and pack smaller.',
      choices: [
        { value: 'stands', label: 'Stands still' },
        { value: 'moves', label: 'Moves from frame to frame' }
      ],
      default: 'stands',
      fresh: 'moves',
      when: { field: 'bits', is: '8' }
    }
  },
  still: ({ bits, dither }, { bitDepth }) => Number(bits) === bitDepth && !(bits === '8' && dither),
  facts: (_, { bits }) => ({ bitDepth: Number(bits) as Depth }),
  pixels({ bits, dither, moves }, { kernels, index }) {
    if (bits !== '8' || !dither) return null
    // far from each other, so that no frame's noise is another's moved by a little
    const from = moves === 'moves' ? Math.imul(index, 0x9e3779b1) : 0
    return (rgba, first) => kernels.dither8(rgba, (4 * first + from) | 0)
  }
})
