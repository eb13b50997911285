/** Colour that was meant in another space, brought to sRGB. BT.709 codes are taken as sRGB's, as everywhere here. */
import type { Triple } from '../base/colour'
import type { ColourTags } from '../frame/colour-tags'
import { toCoded, toLinearLight } from '../frame/transfer'
import { BT601, BT709, type Weights } from '../frame/weights'
import type { PixelChange } from './carried'
import { drawnIn, hlgGain, hlgScene, pqLight } from '../frame/hdr'
import { clamp01 } from '../frame/kernels/pixel'

type Matrix = readonly [Triple, Triple, Triple]

/** Linear light of Display P3 (SMPTE EG 432-1 primaries, D65), of BT.2020 and of opRGB (IEC 61966-2-5) to BT.709's. */
export const TO_709: Record<'p3' | 'bt2020' | 'op-rgb', Matrix> = {
  'op-rgb': [
    [1.3983558, -0.3983558, 0],
    [0, 1, 0],
    [0, -0.042929, 1.042929]
  ],
  p3: [
    [1.2249402, -0.2249402, 0],
    [-0.042057, 1.042057, 0],
    [-0.0196376, -0.0786361, 1.0982737]
  ],
  bt2020: [
    [1.660491, -0.5876411, -0.0728499],
    [-0.1245505, 1.1328999, -0.0083494],
    [-0.0181508, -0.1005789, 1.1187297]
  ]
}

/** R'G'B' that was made of Y'CbCr by the coefficients of one standard, as the other's would have made it. */
function rematrixed(made: Weights, { kr, kb }: Weights): Matrix {
  const [r, g, b] = [made.kr, 1 - made.kr - made.kb, made.kb]
  const kg = 1 - kr - kb
  const luma: Triple = [r, g, b]
  const cb: Triple = [-r / (2 * (1 - b)), -g / (2 * (1 - b)), 0.5]
  const cr: Triple = [0.5, -g / (2 * (1 - r)), -b / (2 * (1 - r))]
  const mix = (u: number, v: number): Triple =>
    [0, 1, 2].map(n => luma[n]! + u * cb[n]! + v * cr[n]!) as unknown as Triple
  return [mix(0, 2 * (1 - kr)), mix((-2 * (1 - kb) * kb) / kg, (-2 * (1 - kr) * kr) / kg), mix(2 * (1 - kb), 0)]
}

/**
 * A curve by 65,536 values, and how it is read: the straight way between them, within 1e-6 of the curve from 0 to 1,
 * where it is clamped.
 */
const tableOf = (curve: (v: number) => number): Float64Array =>
  Float64Array.from({ length: 65537 }, (_, i) => curve(Math.min(1, i / 65535)))

function read(table: Float64Array, v: number): number {
  const at = clamp01(v) * 65535
  const low = at | 0
  const below = table[low]!
  return below + (table[low + 1]! - below) * (at - low)
}

let tables: { linear: Float64Array; coded: Float64Array } | null = null

function multiply(rgba: Float32Array, i: number, [x, y, z]: Matrix, [r, g, b]: Triple): void {
  rgba[i] = x[0] * r + x[1] * g + x[2] * b
  rgba[i + 1] = y[0] * r + y[1] * g + y[2] * b
  rgba[i + 2] = z[0] * r + z[1] * g + z[2] * b
}

function code(rgba: Float32Array, i: number, coded: Float64Array): void {
  rgba[i] = read(coded, rgba[i]!)
  rgba[i + 1] = read(coded, rgba[i + 1]!)
  rgba[i + 2] = read(coded, rgba[i + 2]!)
}

export const SPACES = [
  'p3',
  'bt2020',
  'bt2020-pq',
  'bt2020-hlg',
  'op-rgb',
  'linear',
  'limited',
  'bt601-read-as-bt709',
  'bt709-read-as-bt601'
] as const
export type Space = (typeof SPACES)[number]

/**
 * What has to be brought to sRGB when colour that the file calls `said` is taken as `meant`, both in words; null where
 * codes may stay as they are.
 */
export function spaceOf(meant: string, said: string | null): Space | null {
  if (meant === 'Display P3') return 'p3'
  if (meant === 'BT.2020') return 'bt2020'
  if (meant === 'BT.2020, PQ') return 'bt2020-pq'
  if (meant === 'BT.2020, HLG') return 'bt2020-hlg'
  if (meant === 'linear light') return 'linear'
  if (meant.startsWith('BT.601') && said?.includes('BT.709')) return 'bt601-read-as-bt709'
  return meant.startsWith('BT.709') && said?.includes('BT.601') ? 'bt709-read-as-bt601' : null
}

/** The space that tags mean; null where they mean sRGB's, or one that is not computed here. */
export function spaceOfTags([primaries, transfer]: ColourTags): Space | null {
  const usual = ![4, 8, 16, 18].includes(transfer)
  if (primaries === 9) return transfer === 16 ? 'bt2020-pq' : transfer === 18 ? 'bt2020-hlg' : usual ? 'bt2020' : null
  if (primaries === 12) return usual ? 'p3' : null
  return [0, 1, 2].includes(primaries) && transfer === 8 ? 'linear' : null
}

/** What makes sRGB of colour that is, or was read, as `space` says; what sRGB cannot hold is clamped. */
export function toSrgb(space: Space): PixelChange {
  const { linear: srgb, coded } = (tables ??= { linear: tableOf(toLinearLight), coded: tableOf(toCoded) })
  switch (space) {
    case 'linear':
      return rgba => {
        for (let i = 0; i < rgba.length; i += 4) code(rgba, i, coded)
      }
    case 'limited':
      return rgba => {
        for (let i = 0; i < rgba.length; i += 4)
          for (let c = 0; c < 3; c++) rgba[i + c] = clamp01((rgba[i + c]! * 255 - 16) / 219)
      }
    case 'bt2020-pq':
    case 'bt2020-hlg': {
      const light = tableOf(space === 'bt2020-pq' ? pqLight : hlgScene)
      return rgba => {
        for (let i = 0; i < rgba.length; i += 4) {
          if (rgba[i] === 0 && rgba[i + 1] === 0 && rgba[i + 2] === 0) continue
          let [r, g, b] = [read(light, rgba[i]!), read(light, rgba[i + 1]!), read(light, rgba[i + 2]!)]
          const gain = space === 'bt2020-hlg' ? hlgGain(0.2627 * r + 0.678 * g + 0.0593 * b) : 1
          ;[r, g, b] = [r * gain, g * gain, b * gain]
          multiply(rgba, i, TO_709.bt2020, [r, g, b])
          // the brightest of the three is drawn in, and the others with it, so that hue stays
          const most = Math.max(rgba[i]!, rgba[i + 1]!, rgba[i + 2]!)
          const share = most > 0 ? drawnIn(most) / most : 0
          for (let c = 0; c < 3; c++) rgba[i + c]! *= share
          code(rgba, i, coded)
        }
      }
    }
    case 'p3':
    case 'op-rgb':
    case 'bt2020': {
      const matrix = TO_709[space]
      // its curve is a power of 563/256 and nothing else
      const linear = space === 'op-rgb' ? tableOf(v => v ** (563 / 256)) : srgb
      return rgba => {
        for (let i = 0; i < rgba.length; i += 4) {
          // black stays black, which most of an animation is
          if (rgba[i] === 0 && rgba[i + 1] === 0 && rgba[i + 2] === 0) continue
          multiply(rgba, i, matrix, [read(linear, rgba[i]!), read(linear, rgba[i + 1]!), read(linear, rgba[i + 2]!)])
          code(rgba, i, coded)
        }
      }
    }
    default: {
      const matrix = space === 'bt601-read-as-bt709' ? rematrixed(BT709, BT601) : rematrixed(BT601, BT709)
      return rgba => {
        for (let i = 0; i < rgba.length; i += 4) {
          multiply(rgba, i, matrix, [rgba[i]!, rgba[i + 1]!, rgba[i + 2]!])
          for (let c = 0; c < 3; c++) rgba[i + c] = clamp01(rgba[i + c]!)
        }
      }
    }
  }
}
