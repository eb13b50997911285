/**
 * Kerning of a type face from its GPOS table (OpenType 1.9, GPOS: pair adjustment, lookups of type 2, and of type 9
 * that lead to them), which the library reads only in part.
 */
import type { Font } from 'opentype.js'
import { tableOf } from './font-check'

/** How much nearer two letters stand, in units of the face, by their numbers. */
export type Kerning = (left: number, right: number) => number

const NONE: Kerning = () => 0
const PAIRS = 2
const EXTENSION = 9
/** Scripts whose pairs count: those of the letters that ship, and the usual ones of a face. */
const SCRIPTS: ReadonlySet<string> = new Set(['DFLT', 'latn', 'cyrl', 'grek'])
const X_ADVANCE = 4

const tagAt = (view: DataView, at: number): string =>
  String.fromCharCode(...[0, 1, 2, 3].map(n => view.getUint8(at + n)))

/** Numbers of the lookups that kerning of the known scripts uses, in their order. */
function lookupsOf(gpos: DataView): number[] {
  const [scripts, features] = [gpos.getUint16(4), gpos.getUint16(6)]
  const found = new Set<number>()
  for (let i = 0; i < gpos.getUint16(scripts); i++) {
    const record = scripts + 2 + 6 * i
    if (!SCRIPTS.has(tagAt(gpos, record))) continue
    const script = scripts + gpos.getUint16(record + 4)
    const usual = gpos.getUint16(script)
    if (usual === 0) continue
    const language = script + usual
    for (let f = 0; f < gpos.getUint16(language + 4); f++) {
      const entry = features + 2 + 6 * gpos.getUint16(language + 6 + 2 * f)
      if (tagAt(gpos, entry) !== 'kern') continue
      const feature = features + gpos.getUint16(entry + 4)
      for (let l = 0; l < gpos.getUint16(feature + 2); l++) found.add(gpos.getUint16(feature + 4 + 2 * l))
    }
  }
  return [...found].sort((a, b) => a - b)
}

/** Where pair tables of a lookup begin; none where it is of another kind. */
function pairTables(gpos: DataView, number: number): number[] {
  const list = gpos.getUint16(8)
  const lookup = list + gpos.getUint16(list + 2 + 2 * number)
  const kind = gpos.getUint16(lookup)
  return Array.from(
    { length: gpos.getUint16(lookup + 4) },
    (_, i) => lookup + gpos.getUint16(lookup + 6 + 2 * i)
  ).flatMap(at => {
    if (kind === PAIRS) return [at]
    return kind === EXTENSION && gpos.getUint16(at + 2) === PAIRS ? [at + gpos.getUint32(at + 4)] : []
  })
}

/** The place of a letter among those that a coverage table names; -1 where it is none of them. */
function covered(view: DataView, at: number, glyph: number): number {
  const [format, count] = [view.getUint16(at), view.getUint16(at + 2)]
  const size = format === 1 ? 2 : 6
  let [low, high] = [0, count - 1]
  while (low <= high) {
    const middle = (low + high) >> 1
    const entry = at + 4 + size * middle
    const first = view.getUint16(entry)
    const last = format === 1 ? first : view.getUint16(entry + 2)
    if (glyph < first) high = middle - 1
    else if (glyph > last) low = middle + 1
    else return format === 1 ? middle : view.getUint16(entry + 4) + glyph - first
  }
  return -1
}

/** The class of a letter; 0 for those that no range names. */
function classOf(view: DataView, at: number, glyph: number): number {
  if (view.getUint16(at) === 1) {
    const n = glyph - view.getUint16(at + 2)
    return n >= 0 && n < view.getUint16(at + 4) ? view.getUint16(at + 6 + 2 * n) : 0
  }
  let [low, high] = [0, view.getUint16(at + 2) - 1]
  while (low <= high) {
    const middle = (low + high) >> 1
    const entry = at + 4 + 6 * middle
    if (glyph < view.getUint16(entry)) high = middle - 1
    else if (glyph > view.getUint16(entry + 2)) low = middle + 1
    else return view.getUint16(entry + 4)
  }
  return 0
}

const bits = (value: number): number => value.toString(2).replaceAll('0', '').length

/** What a pair table moves the second letter by; null where it says nothing of the two. */
function inTable(gpos: DataView, at: number, left: number, right: number): number | null {
  const place = covered(gpos, at + gpos.getUint16(at + 2), left)
  if (place < 0) return null
  const [first, second] = [gpos.getUint16(at + 4), gpos.getUint16(at + 6)]
  const advance = (record: number): number =>
    first & X_ADVANCE ? gpos.getInt16(record + 2 * bits(first & (X_ADVANCE - 1))) : 0
  const size = 2 * (bits(first) + bits(second))
  if (gpos.getUint16(at) === 1) {
    const set = at + gpos.getUint16(at + 10 + 2 * place)
    let [low, high] = [0, gpos.getUint16(set) - 1]
    while (low <= high) {
      const middle = (low + high) >> 1
      const record = set + 2 + (2 + size) * middle
      const other = gpos.getUint16(record)
      if (right < other) high = middle - 1
      else if (right > other) low = middle + 1
      else return advance(record + 2)
    }
    return null
  }
  const a = classOf(gpos, at + gpos.getUint16(at + 8), left)
  const b = classOf(gpos, at + gpos.getUint16(at + 10), right)
  const across = gpos.getUint16(at + 14)
  if (a >= gpos.getUint16(at + 12) || b >= across) return null
  return advance(at + 16 + size * (a * across + b))
}

/** The kerning of a font file, WOFF or bare; none where it has no such table, or one that is damaged. */
export function kerningIn(bytes: Uint8Array): Kerning {
  try {
    const table = tableOf(bytes, 'GPOS')
    if (!table) return NONE
    const gpos = new DataView(table.buffer, table.byteOffset, table.length)
    const tables = lookupsOf(gpos).map(number => pairTables(gpos, number))
    return (left, right) => {
      try {
        let sum = 0
        for (const lookup of tables)
          for (const at of lookup) {
            const found = inTable(gpos, at, left, right)
            if (found === null) continue
            sum += found
            break
          }
        return sum
      } catch {
        // a table that leads outside itself moves nothing
        return 0
      }
    }
  } catch {
    return NONE
  }
}

const known = new WeakMap<Font, Kerning>()

/** Notes the kerning of a face that was read from these bytes. */
export function noteKerning(font: Font, bytes: Uint8Array): void {
  known.set(font, kerningIn(bytes))
}

/** The kerning that was noted for a face. */
export const kerningOf = (font: Font): Kerning => known.get(font) ?? NONE
