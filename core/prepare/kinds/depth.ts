/** Bits of a sample, changed within the preparation. */
import type { Depth } from '../../frame/frame'
import { clamp01 } from '../picture'
import { stepKind } from '../step'

/** A repeatable value from -0.5 to 0.5 for a sample: the same picture dithers the same way each time. */
function noise(n: number): number {
  let h = Math.imul(n ^ (n >>> 16), 0x45d9f3b)
  h = Math.imul(h ^ (h >>> 13), 0x119de1f3)
  return ((h ^ (h >>> 16)) >>> 0) / 2 ** 32 - 0.5
}

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
  facts: (_, { bits }) => ({ bitDepth: Number(bits) as Depth }),
  pixels({ bits, dither }) {
    if (bits !== '8' || !dither) return null
    return (rgba, first) => {
      for (let i = 0; i < rgba.length; i++) {
        const value = rgba[i]!
        // black and clear, which most of an animation is
        if (value === 0) continue
        // dither may not make something of clear, nor let solid through
        if (i % 4 === 3 && value === 1) continue
        const codes = clamp01(value) * 255
        const whole = Math.round(codes)
        // what is a code already, clear and solid with it, takes no noise
        if (Math.abs(codes - whole) < 1e-4) rgba[i] = whole / 255
        else rgba[i] = clamp01(Math.round(codes + noise(4 * first + i)) / 255)
      }
    }
  }
})
