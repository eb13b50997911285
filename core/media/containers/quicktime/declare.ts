/**
 * How a QuickTime film says what its alpha is: the graphics mode of the video media header (QuickTime File Format,
 * "Graphics modes").
 */
import type { AlphaMode } from '../../../frame/frame'
import { codesToHex, hexAtDepth } from '../../../base/colour'
import type { AlphaClaim } from '../../../source/source'

export const STRAIGHT_ALPHA = 0x100
export const PREMULTIPLIED_WHITE = 0x101
export const PREMULTIPLIED_BLACK = 0x102
const STRAIGHT_BLEND = 0x104

/**
 * Graphics mode and opcolor (16-bit codes) for a mode. Matte colours other than black and white cannot be declared:
 * mode 0 with the colour in opcolor.
 */
export function graphicsMode(alpha: AlphaMode): { mode: number; opcolor: readonly [number, number, number] } {
  if (alpha.mode === 'straight') return { mode: STRAIGHT_ALPHA, opcolor: [0, 0, 0] }
  if (alpha.mode === 'none') return { mode: 0, opcolor: [0, 0, 0] }
  const opcolor = hexAtDepth(alpha.matte, 16)
  if (alpha.matte === '#ffffff') return { mode: PREMULTIPLIED_WHITE, opcolor }
  if (alpha.matte === '#000000') return { mode: PREMULTIPLIED_BLACK, opcolor }
  return { mode: 0, opcolor }
}

/**
 * What a film's graphics mode and sample depth say of its alpha. `carriesAlpha` is whether the codec and depth leave
 * room for one.
 */
export function claimOf(
  mode: number,
  opcolor: readonly [number, number, number],
  carriesAlpha: boolean,
  depth: number
): AlphaClaim {
  if (!carriesAlpha) return { mode: 'none', matte: null, says: `sample depth ${depth}, which leaves no room for alpha` }
  const called = `graphics mode 0x${mode.toString(16)}`
  if (mode === STRAIGHT_ALPHA || mode === STRAIGHT_BLEND)
    return { mode: 'straight', matte: null, says: `${called}, straight` }
  if (mode === PREMULTIPLIED_WHITE)
    return { mode: 'premultiplied', matte: '#ffffff', says: `${called}, premultiplied on white` }
  if (mode === PREMULTIPLIED_BLACK)
    return { mode: 'premultiplied', matte: '#000000', says: `${called}, premultiplied on black` }
  if (mode === 0 && opcolor.some(code => code !== 0)) {
    const matte = codesToHex([opcolor[0] / 257, opcolor[1] / 257, opcolor[2] / 257])
    return { mode: 'unknown', matte, says: `${called}, which declares nothing; the colour ${matte} stands beside it` }
  }
  return { mode: 'unknown', matte: null, says: `${called}, which says nothing of alpha` }
}
