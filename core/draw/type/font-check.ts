/**
 * Font files brought down to what outlines need (ISO/IEC 14496-22): a parser then meets no table whose counts could
 * keep it busy for hours, and no letter that is made of itself.
 */
import { unzlibSync } from 'fflate'
import { checkPrograms } from './font-programs'

/** Whether a file begins as TrueType (1.0 or "true"), OpenType with PostScript outlines, or WOFF 1. */
export function isFont(bytes: Uint8Array): boolean {
  const four = String.fromCharCode(...bytes.subarray(0, 4))
  return four === '\0\x01\0\0' || four === 'true' || four === 'OTTO' || four === 'wOFF'
}

/** Tables that must be there, those of either kind of outlines, and the one that may be. */
const NEEDED = ['cmap', 'head', 'hhea', 'hmtx', 'maxp'] as const
const OUTLINES = { curves: ['glyf', 'loca'], programs: ['CFF '] } as const
const KEPT: readonly string[] = [...NEEDED, ...OUTLINES.curves, ...OUTLINES.programs, 'kern']
const MOST = { table: 16 << 20, mapped: 300_000, parts: 256, depth: 6 }

type Tables = Map<string, Uint8Array>

const viewOf = (bytes: Uint8Array): DataView => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)

/** What its outlines are: curves of TrueType, or programs of PostScript. */
const kindOf = (tables: Tables): keyof typeof OUTLINES => (tables.has('CFF ') ? 'programs' : 'curves')

/** One table of a font, WOFF or bare; null where it has none. Throws a plain Error where it lies outside of it. */
export const tableOf = (bytes: Uint8Array, tag: string): Uint8Array | null => listed(bytes, [tag]).get(tag) ?? null

function listed(bytes: Uint8Array, wanted: readonly string[]): Tables {
  const view = viewOf(bytes)
  const packed = view.getUint32(0) === 0x774f4646
  const count = view.getUint16(packed ? 12 : 4)
  const tables: Tables = new Map()
  for (let n = 0; n < count; n++) {
    const at = packed ? 44 + 20 * n : 12 + 16 * n
    const tag = String.fromCharCode(...bytes.subarray(at, at + 4))
    if (!wanted.includes(tag)) continue
    const from = view.getUint32(at + (packed ? 4 : 8))
    const stored = view.getUint32(at + (packed ? 8 : 12))
    const length = packed ? view.getUint32(at + 12) : stored
    if (from + stored > bytes.length || length > MOST.table) throw new Error(`its table "${tag}" lies outside of it`)
    const data = bytes.subarray(from, from + stored)
    const whole = stored < length ? unzlibSync(data, { out: new Uint8Array(length) }) : data
    if (whole.length !== length) throw new Error(`its table "${tag}" is not whole`)
    tables.set(tag, whole)
  }
  return tables
}

function tablesOf(bytes: Uint8Array): Tables {
  const tables = listed(bytes, KEPT)
  const missing = [...NEEDED, ...OUTLINES[kindOf(tables)]].find(tag => !tables.has(tag))
  if (missing) throw new Error(`it has no table "${missing}"`)
  return tables
}

/** Characters that the maps of a font speak of, of the formats that go by ranges. */
function checkMaps(table: Uint8Array): void {
  const view = viewOf(table)
  const count = view.getUint16(2)
  let mapped = 0
  for (let n = 0; n < count; n++) {
    const at = view.getUint32(4 + 8 * n + 4)
    const format = view.getUint16(at)
    if (format === 4) {
      const segments = view.getUint16(at + 6) >> 1
      for (let s = 0; s < segments; s++)
        mapped += Math.max(0, view.getUint16(at + 14 + 2 * s) - view.getUint16(at + 16 + 2 * (segments + s)) + 1)
    } else if (format === 12 || format === 13) {
      const groups = view.getUint32(at + 12)
      for (let g = 0; g < groups && mapped <= MOST.mapped; g++)
        mapped += Math.max(0, view.getUint32(at + 20 + 12 * g) - view.getUint32(at + 16 + 12 * g) + 1)
    }
    if (mapped > MOST.mapped) throw new Error('it maps more characters than there are')
  }
}

/** Letters made of others: how many parts each comes to. */
function checkParts(tables: Tables): void {
  const [head, loca, glyf] = [tables.get('head')!, tables.get('loca')!, tables.get('glyf')!]
  const long = viewOf(head).getInt16(50) === 1
  const [places, outlines] = [viewOf(loca), viewOf(glyf)]
  const glyphs = viewOf(tables.get('maxp')!).getUint16(4)
  const known = new Map<number, number>()
  const partsOf = (glyph: number, depth: number): number => {
    const found = known.get(glyph)
    if (found !== undefined) return found
    if (depth > MOST.depth) throw new Error('its letters are made of letters without end')
    if (glyph >= glyphs) return 1
    const at = long ? places.getUint32(4 * glyph) : 2 * places.getUint16(2 * glyph)
    const end = long ? places.getUint32(4 * glyph + 4) : 2 * places.getUint16(2 * glyph + 2)
    let parts = 1
    if (end > at && outlines.getInt16(at) < 0) {
      let flags = 0x20
      for (let next = at + 10; flags & 0x20;) {
        flags = outlines.getUint16(next)
        parts += partsOf(outlines.getUint16(next + 2), depth + 1)
        if (parts > MOST.parts) throw new Error('a letter of it has too many parts')
        next += (flags & 1 ? 8 : 6) + (flags & 8 ? 2 : flags & 0x40 ? 4 : flags & 0x80 ? 8 : 0)
      }
    }
    known.set(glyph, parts)
    return parts
  }
  for (let glyph = 0; glyph < glyphs; glyph++) partsOf(glyph, 0)
}

/** No names, neither of the font nor of its letters ("post" of version 3): what is shown is the file's. */
const NO_NAMES = new Uint8Array([0, 0, 0, 0, 0, 6])
const NO_LETTER_NAMES = Uint8Array.from({ length: 32 }, (_, n) => (n === 1 ? 3 : 0))

/**
 * The font with its outlines, widths, map of characters and kerning pairs, and nothing else. Throws in words where that
 * cannot be had, or would be more than a font has.
 */
export function bareFont(bytes: Uint8Array): Uint8Array<ArrayBuffer> {
  const tables = tablesOf(bytes)
  checkMaps(tables.get('cmap')!)
  if (kindOf(tables) === 'programs') checkPrograms(tables.get('CFF ')!)
  else checkParts(tables)
  tables.set('name', NO_NAMES)
  tables.set('post', NO_LETTER_NAMES)
  const sorted = [...tables].sort(([a], [b]) => (a < b ? -1 : 1))
  const size = sorted.reduce((sum, [, { length }]) => sum + ((length + 3) & ~3), 12 + 16 * sorted.length)
  const bare = new Uint8Array(size)
  const view = viewOf(bare)
  view.setUint32(0, kindOf(tables) === 'programs' ? 0x4f54544f : 0x00010000)
  view.setUint16(4, sorted.length)
  let at = 12 + 16 * sorted.length
  for (const [n, [tag, data]] of sorted.entries()) {
    const entry = 12 + 16 * n
    for (let c = 0; c < 4; c++) bare[entry + c] = tag.charCodeAt(c)
    view.setUint32(entry + 8, at)
    view.setUint32(entry + 12, data.length)
    bare.set(data, at)
    at += (data.length + 3) & ~3
  }
  return bare
}
