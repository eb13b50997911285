/** What filters a picture of sRGB codes, done in linear light where that is asked for. */
import { toCoded, toLinearLight } from '../frame/transfer'
import type { Picture } from './picture'

export const computedIn = {
  type: 'choice',
  label: 'Computed in',
  help:
    'In light, fine bright detail keeps its brightness, as a lens would show it; in codes, it comes out ' +
    'as most programs make it. Pictures that hold light are always computed in it.',
  choices: [
    { value: 'codes', label: 'Codes, as they are stored' },
    { value: 'light', label: 'Linear light' }
  ],
  default: 'codes'
} as const

/** Linear light of every 16-bit code: what comes from codes of 8 or 16 bits lies on one. */
let linear: Float32Array | null = null

function toLight(rgba: Float32Array): void {
  linear ??= Float32Array.from({ length: 65536 }, (_, code) => toLinearLight(code / 65535))
  for (let i = 0; i < rgba.length; i += 4)
    for (let c = 0; c < 3; c++) {
      const at = rgba[i + c]! * 65535
      const code = Math.round(at)
      const exact = code >= 0 && code < 65536 && Math.abs(at - code) < 0.01
      rgba[i + c] = exact ? linear[code]! : toLinearLight(rgba[i + c]!)
    }
}

function toCodes(rgba: Float32Array): void {
  for (let i = 0; i < rgba.length; i += 4)
    if (rgba[i + 3] !== 0) for (let c = 0; c < 3; c++) rgba[i + c] = toCoded(rgba[i + c]!)
}

/** What `make` makes of a straight, coded picture, which it may write into: in codes, or in light and back. */
export function computed(picture: Picture, space: string, make: (picture: Picture) => Picture): Picture {
  if (space !== 'light') return make(picture)
  toLight(picture.rgba)
  const made = make(picture)
  toCodes(made.rgba)
  return made
}
