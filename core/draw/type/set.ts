/**
 * One line of letters as glyphs: in the order of its directions (Unicode Standard Annex 9), in the fonts that have
 * them, each run shaped as a whole (ISO/IEC 14496-22, GSUB and GPOS).
 */
import bidiFactory from 'bidi-js'
import type { TypeFile } from '../../frame/host'
import { clustersOf, has } from './fonts'

/** A character of a line, and how it is set. */
export interface SetLetter {
  character: string
  /** Files in which it is sought, in order. */
  fonts: readonly TypeFile[]
  /** Pixels of the em. */
  size: number
  /** Added after it, in pixels. */
  spacing: number
  /** Features of OpenType that are switched, with commas between them. */
  features: string
  /** Letters of one style are shaped together. */
  style: unknown
}

/** Which way a line runs as a whole; by its first letter that has a direction, if nothing else is said. */
export type Direction = 'auto' | 'ltr' | 'rtl'

export interface PlacedGlyph {
  file: TypeFile
  glyph: number
  /** From the left end of the line, and down from its base line. */
  x: number
  y: number
}

/** Letters that cannot be taken apart: one and its marks, or several that the font draws as one. */
export interface Cluster {
  /** Which letters of the line, the last excluded. */
  from: number
  to: number
  x: number
  advance: number
  /** What was added after it. */
  spacing: number
  glyphs: PlacedGlyph[]
  file: TypeFile
  size: number
}

export interface SetLine {
  /** From left to right. */
  clusters: Cluster[]
  /** Without the spacing after the last. */
  width: number
  rightToLeft: boolean
  /** Letters that no file has. */
  missing: string[]
  /** Whether letters that join were left together where spacing was asked for. */
  keptJoined: boolean
}

const bidi = bidiFactory()

/** Scripts whose runs are shaped apart; letters of none of them go with those before. */
const SCRIPTS = [
  ...['Latin', 'Greek', 'Cyrillic', 'Hebrew', 'Arabic', 'Thai', 'Devanagari', 'Han', 'Hiragana', 'Katakana', 'Hangul'],
  ...['Armenian', 'Georgian', 'Bengali', 'Gujarati', 'Gurmukhi', 'Kannada', 'Khmer', 'Lao', 'Malayalam', 'Myanmar'],
  ...['Sinhala', 'Syriac', 'Tamil', 'Telugu', 'Tibetan', 'Ethiopic', 'Mongolian', 'Nko', 'Thaana']
].map(name => ({ name, letters: new RegExp(`\\p{Script=${name}}`, 'u') }))
/** Those whose letters join. */
const JOINED: ReadonlySet<string> = new Set(['Arabic', 'Syriac', 'Mongolian', 'Nko'])

const scripts = new Map<string, string | null>()
function scriptOf(character: string): string | null {
  let found = scripts.get(character)
  if (found === undefined) {
    found = SCRIPTS.find(({ letters }) => letters.test(character))?.name ?? null
    if (scripts.size > 10_000) scripts.clear()
    scripts.set(character, found)
  }
  return found
}

/** Letters that are shaped together, by their places in UTF-16. */
interface Run {
  from: number
  to: number
  file: TypeFile
  script: string | null
  level: number
  letter: SetLetter
}

/** What of a line is of one style, font, script and direction, in the order in which it is read. */
function runsOf(text: string, letters: readonly SetLetter[], at: readonly number[], levels: Uint8Array): Run[] {
  const runs: Run[] = []
  // by the place in UTF-16, the number of the letter that begins there
  const number = new Map(at.map((place, n) => [place, n]))
  for (const { segment, index } of clustersOf(text)) {
    const letter = letters[number.get(index)!]!
    const before = runs.at(-1)
    const script = scriptOf(segment)
    const same = before?.letter.style === letter.style ? before : undefined
    // what every script has, such as a space or a comma, stays in the font that is at work
    const file =
      same && !script && has(same.file, segment)
        ? same.file
        : (letter.fonts.find(file => has(file, segment)) ?? letter.fonts[0]!)
    const level = levels[index]!
    const [joins, to] = [same?.file === file && same.level === level, index + segment.length]
    if (before && joins && (!script || !before.script || before.script === script)) {
      before.to = to
      before.script ??= script
    } else runs.push({ from: index, to, file, script, level, letter })
  }
  return runs
}

/** Runs from left to right (UAX 9, rule L2). */
function leftToRight(runs: readonly Run[]): Run[] {
  const order = [...runs]
  const most = Math.max(0, ...runs.map(({ level }) => level))
  for (let level = most; level > 0; level--)
    for (let from = 0; from < order.length; from++) {
      if (order[from]!.level < level) continue
      let to = from
      while (to < order.length && order[to]!.level >= level) to++
      order.splice(from, to - from, ...order.slice(from, to).reverse())
      from = to
    }
  return order
}

/** Levels of direction, white space at the end among them (UAX 9, rule L1), and that of the whole. */
function levelsOf(text: string, direction: Direction): { levels: Uint8Array; base: number } {
  const { levels, paragraphs } = bidi.getEmbeddingLevels(text, direction === 'auto' ? undefined : direction)
  const base = paragraphs[0]?.level ?? (direction === 'rtl' ? 1 : 0)
  for (let n = text.length - 1; n >= 0 && /\s/.test(text[n]!); n--) levels[n] = base
  return { levels, base }
}

/** Sets a line of letters. */
export function setLine(letters: readonly SetLetter[], direction: Direction = 'auto'): SetLine {
  const text = letters.map(({ character }) => character).join('')
  const at: number[] = []
  let place = 0
  for (const { character } of letters) {
    at.push(place)
    place += character.length
  }
  const { levels, base } = levelsOf(text, direction)
  const clusters: Cluster[] = []
  const missing = new Set<string>()
  let [x, keptJoined] = [0, false]
  const letterAt = (index: number): number => {
    let [low, high] = [0, at.length - 1]
    while (low < high) {
      const middle = (low + high + 1) >> 1
      if (at[middle]! <= index) low = middle
      else high = middle - 1
    }
    return low
  }
  for (const run of leftToRight(runsOf(text, letters, at, levels))) {
    const { file, from, to, letter, level } = run
    const unit = letter.size / file.unitsPerEm
    const joined = run.script !== null && JOINED.has(run.script)
    if (joined && letter.spacing !== 0) keptJoined = true
    const glyphs = file.shape(text, { from, to, rightToLeft: level % 2 === 1, features: letter.features })
    const starts = [...new Set(glyphs.map(({ cluster }) => cluster))].sort((a, b) => a - b)
    const ends = new Map(starts.map((start, n) => [start, starts[n + 1] ?? to]))
    for (let n = 0; n < glyphs.length;) {
      const { cluster: start } = glyphs[n]!
      const end = ends.get(start)!
      const own: Cluster = {
        ...{ from: letterAt(start), to: letterAt(end - 1) + 1 },
        ...{ x, advance: 0, spacing: 0, glyphs: [], file, size: letter.size }
      }
      const blank = !text.slice(start, end).trim()
      for (; n < glyphs.length && glyphs[n]!.cluster === start; n++) {
        const { glyph, advance, x: right, y: up } = glyphs[n]!
        if (glyph === 0 && !blank) missing.add(text.slice(start, end))
        if (!blank) own.glyphs.push({ file, glyph, x: x + right * unit, y: -up * unit })
        x += advance * unit
      }
      own.advance = x - own.x
      own.spacing = joined && !blank ? 0 : letters[own.to - 1]!.spacing
      x += own.spacing
      clusters.push(own)
    }
  }
  const width = Math.max(0, x - (clusters.at(-1)?.spacing ?? 0))
  return { clusters, width, rightToLeft: base % 2 === 1, missing: [...missing], keptJoined }
}
