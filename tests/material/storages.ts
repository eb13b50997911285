/**
 * The ways in which a plate may be stored: straight with this or that under clear pixels, premultiplied on this or
 * that.
 */
import { hexToCodes } from '../../core/base/colour'
import { nearestFill } from './fill'
import { hash, type Plate } from './paint'
import type { AlphaMode, Frame } from '../../core/frame/frame'
import { STRAIGHT } from '../../core/frame/frame'

export interface Storage {
  name: string
  /** What the samples are, whatever they are labelled. */
  mode: AlphaMode
  /** Colour of a pixel that alpha clears, 0 to 1; null to fill it from the nearest that is not clear. */
  under?: 'black' | 'white' | 'edge fill' | 'picture'
}

export const storages: readonly Storage[] = [
  { name: 'straight, black under', mode: STRAIGHT, under: 'black' },
  { name: 'straight, white under', mode: STRAIGHT, under: 'white' },
  { name: 'straight, edge fill', mode: STRAIGHT, under: 'edge fill' },
  { name: 'straight, picture under', mode: STRAIGHT, under: 'picture' },
  ...(
    [
      ['black', '#000000'],
      ['white', '#ffffff'],
      ['mid grey', '#808080'],
      ['a colour', '#2c7a4e']
    ] as const
  ).map(([name, matte]): Storage => ({ name: `premultiplied on ${name}`, mode: { mode: 'premultiplied', matte } }))
]

/** The plate's samples in a storage, labelled straight, as a file that says nothing hands them over. */
export function stored(plate: Plate, storage: Storage, depth: 8 | 16): Frame {
  const { width, height, pixels } = plate
  const full = depth === 8 ? 255 : 65535
  const samples = depth === 8 ? new Uint8Array(pixels.length) : new Uint16Array(pixels.length)
  const filled = storage.under === 'edge fill' ? nearestFill(plate) : null
  const matte = storage.mode.mode === 'premultiplied' ? hexToCodes(storage.mode.matte).map(code => code / 255) : null
  for (let i = 0; i < pixels.length; i += 4) {
    const code = Math.round(pixels[i + 3]! * full)
    // alpha is rounded first, as a renderer does that writes codes
    const a = code / full
    for (let c = 0; c < 3; c++) {
      let value: number
      if (matte) value = pixels[i + c]! + (1 - a) * matte[c]!
      else if (code > 0) value = pixels[i + c]! / pixels[i + 3]!
      else value = under(storage.under!, i, c, width, filled)
      samples[i + c] = Math.round(Math.max(0, Math.min(1, value)) * full)
    }
    samples[i + 3] = code
  }
  return { width, height, depth, samples, alpha: STRAIGHT, transfer: 'srgb' }
}

function under(kind: string, i: number, c: number, width: number, filled: Float32Array | null): number {
  if (filled) return filled[i + c]!
  if (kind === 'picture') {
    const [x, y] = [(i / 4) % width, Math.floor(i / 4 / width)]
    return 0.3 + 0.5 * hash(x >> 4, y >> 4, c)
  }
  return kind === 'white' ? 1 : 0
}
