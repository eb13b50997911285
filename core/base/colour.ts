/** Hex colours as people write them, and the codes they stand for at a depth. */
import { z } from 'zod'

export const HexColour = z.string().regex(/^#[0-9a-f]{6}$/, 'a colour is written #rrggbb')
export type HexColour = z.infer<typeof HexColour>
export type Triple = readonly [number, number, number]

/** 0 to 255 for each channel. */
export function hexToCodes(hex: HexColour): Triple {
  const value = Number.parseInt(hex.slice(1), 16)
  return [value >> 16, (value >> 8) & 255, value & 255]
}

/** Rounds and clamps three values of 0 to 255 to "#rrggbb". */
export function codesToHex(codes: Triple): HexColour {
  return (
    '#' +
    codes
      .map(code =>
        Math.max(0, Math.min(255, Math.round(code)))
          .toString(16)
          .padStart(2, '0')
      )
      .join('')
  )
}

/** The hex colour in codes of a depth: 8-bit codes times 257 at 16 bits, 0 to 1 for float. */
export function hexAtDepth(hex: HexColour, depth: 8 | 16 | 32): Triple {
  const [r, g, b] = hexToCodes(hex)
  const scale = depth === 8 ? 1 : depth === 16 ? 257 : 1 / 255
  return [r * scale, g * scale, b * scale]
}

/** A few colours have names that say more than their code. */
export function colourName(hex: HexColour): string {
  if (hex === '#000000') return 'black'
  if (hex === '#ffffff') return 'white'
  return hex
}
