/** Profiles (ISO 15076-1, version 4.3) for colours that H.273 has a number for, for pictures that can hold one. */
import { profileMatrix, toD50 } from './colour-profile'
import type { ColourTags } from '../frame/colour-tags'
import { concatenate } from '../base/files/bytes'

const HEAD = 128

const fixed = (view: DataView, at: number, value: number): void => view.setInt32(at, Math.round(value * 65536))

function element(type: string, bytes: number, write: (view: DataView) => void): Uint8Array {
  const data = new Uint8Array(8 + bytes)
  data.set(new TextEncoder().encode(type))
  write(new DataView(data.buffer))
  return data
}

/** 10.15: one record, English. */
const text = (words: string): Uint8Array =>
  element('mluc', 20 + 2 * words.length, view => {
    view.setUint32(8, 1)
    view.setUint32(12, 12)
    view.setUint16(16, 0x656e)
    view.setUint16(18, 0x5553)
    view.setUint32(20, 2 * words.length)
    view.setUint32(24, 28)
    for (let i = 0; i < words.length; i++) view.setUint16(28 + 2 * i, words.charCodeAt(i))
  })

const xyz = (values: readonly number[]): Uint8Array =>
  element('XYZ ', 12, view => values.forEach((value, n) => fixed(view, 8 + 4 * n, value)))

/** 10.18: a power alone, or sRGB's power with its straight foot. */
const curve = (transfer: number): Uint8Array => {
  const [kind, values] =
    transfer === 4 ? [0, [2.2]] : transfer === 8 ? [0, [1]] : [3, [2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045]]
  return element('para', 4 + 4 * values.length, view => {
    view.setUint16(8, kind)
    values.forEach((value, n) => fixed(view, 12 + 4 * n, value))
  })
}

const NAMES: Readonly<Record<number, string>> = { 1: 'BT.709', 9: 'BT.2020', 12: 'Display P3' }
const CURVES: Readonly<Record<number, string>> = { 4: ', gamma 2.2', 8: ', linear light' }

/**
 * A profile that says what tags do: primaries of BT.709, BT.2020 or Display P3 by a plain curve; null for others, and
 * for PQ and HLG. The same tags give the same bytes.
 */
export function writeProfile(tags: ColourTags | null | undefined): Uint8Array | null {
  if (!tags || [16, 18].includes(tags[1])) return null
  const primaries = tags[0] === 0 || tags[0] === 2 ? 1 : tags[0]
  const matrix = profileMatrix(primaries)
  if (!matrix) return null
  const column = (n: number): Uint8Array => xyz(matrix.map(row => row[n]!))
  const trc = curve(tags[1])
  const elements: [string, Uint8Array][] = [
    ['desc', text(`${NAMES[primaries]!}${CURVES[tags[1]] ?? ''}`)],
    ['cprt', text('No rights are claimed.')],
    ['wtpt', xyz([0.9642, 1, 0.8249])],
    [
      'chad',
      element('sf32', 36, view =>
        toD50()
          .flat()
          .forEach((value, n) => fixed(view, 8 + 4 * n, value))
      )
    ],
    ['rXYZ', column(0)],
    ['gXYZ', column(1)],
    ['bXYZ', column(2)],
    ['rTRC', trc],
    ['gTRC', trc],
    ['bTRC', trc]
  ]
  const table = new Uint8Array(4 + 12 * elements.length)
  const rows = new DataView(table.buffer)
  rows.setUint32(0, elements.length)
  const parts: Uint8Array[] = []
  const places = new Map<Uint8Array, number>()
  let at = HEAD + table.length
  elements.forEach(([name, data], n) => {
    // curves are one element that three tags point at
    if (!places.has(data)) {
      places.set(data, at)
      const padded = new Uint8Array((data.length + 3) & ~3)
      padded.set(data)
      parts.push(padded)
      at += padded.length
    }
    table.set(new TextEncoder().encode(name), 4 + 12 * n)
    rows.setUint32(8 + 12 * n, places.get(data)!)
    rows.setUint32(12 + 12 * n, data.length)
  })
  return concatenate([head(at), table, ...parts])
}

/** 7.2: a display's profile from RGB to XYZ, perceptual intent. */
function head(size: number): Uint8Array {
  const bytes = new Uint8Array(HEAD)
  const view = new DataView(bytes.buffer)
  const put = (at: number, letters: string): void => bytes.set(new TextEncoder().encode(letters), at)
  view.setUint32(0, size)
  view.setUint32(8, 0x04300000)
  put(12, 'mntr')
  put(16, 'RGB ')
  put(20, 'XYZ ')
  // one day for all, so that equal tags are equal bytes
  ;[2026, 1, 1, 0, 0, 0].forEach((part, n) => view.setUint16(24 + 2 * n, part))
  put(36, 'acsp')
  ;[0.9642, 1, 0.8249].forEach((part, n) => fixed(view, 68 + 4 * n, part))
  return bytes
}
