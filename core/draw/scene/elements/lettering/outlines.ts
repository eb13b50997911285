/** Lettering as outlines: its letters set line by line, in a box or as they were entered. */
import { damagedBy, unreadable } from '../../../../base/errors'
import type { Host, TypeFile } from '../../../../frame/host'
import type { Line } from '../../../raster/line'
import { fontsFor } from '../../../type/fonts'
import { linesOf } from '../../../type/outlines'
import { setLine, type SetLetter, type SetLine } from '../../../type/set'
import type { OwnFace, Paint } from '../../values'
import type { LaidFinding } from '../kind'
import { accentsIn } from './accents'
import type { LetteringLook } from './look'
import { fitted, lineEntered, type Row } from './rows'

/** One letter, or several that are drawn as one: outlines from the element's place, its colour, its word and line. */
export interface Letter {
  outlines: Line[]
  colour: Paint
  /** Where it stands, for movements of its own. */
  x: number
  y: number
  letter: number
  word: number
  line: number
}

export interface LaidGlyphs {
  /** In the order in which they are read. */
  letters: Letter[]
  /** Letters that no type face has. */
  missing: string[]
  /** Left, top, right and bottom of the lines, from the element's place. */
  box: readonly [number, number, number, number]
  /** Left and right of the box that it is set in; null where it is in none. */
  within: readonly [number, number] | null
  told: LaidFinding[]
}

/** How letters are set: the lettering's own way first, then that of each of its accents. */
interface Style {
  /** Of the type face, for errors. */
  name: string
  files: readonly TypeFile[]
  size: number
  colour: Paint
}

interface Styled extends SetLetter {
  style: Style
}

/** Does what reads letters of a face, which are read from their file when they are first drawn. */
function reading<T>({ name }: Style, work: () => T): T {
  try {
    return work()
  } catch (error) {
    throw damagedBy(error, why => unreadable(name, null, `the type face is damaged (${why})`))
  }
}

const percent = (share: number): string => `${Math.round(1000 * share) / 10} %`

interface LetteringAt {
  name: string
  host: Host
  faces: readonly OwnFace[]
}

/**
 * Lays lettering out about its place: the base line of its first line at 0. `faces` are the scene's own; `name` is the
 * element's, for what is told. Rejects with one clear error where a type face cannot be read.
 */
export async function layLettering(look: LetteringLook, at: LetteringAt): Promise<LaidGlyphs> {
  const laid = await openLettering(look, at)
  return laid(look.text)
}

/**
 * Opens what lettering is set in, and gives what lays out words of it: of the letters that its own text has. `features`
 * are of the type face, beside its usual ones. Rejects as `layLettering` does.
 */
export async function openLettering(
  look: LetteringLook,
  { name, host, faces }: LetteringAt,
  features = ''
): Promise<(text: string) => LaidGlyphs> {
  const foundOtherwise: LaidFinding[] = []
  const styles: Style[] = []
  for (const { face, colour, scale } of [{ ...look, scale: 1 }, ...(look.accents ?? [])]) {
    const fonts = await fontsFor(host, face, look.text, faces)
    for (const sentence of fonts.told) foundOtherwise.push({ id: 'letters-otherwise', severity: 'warning', sentence })
    styles.push({
      name: faces.find(({ id }) => id === face)?.name ?? face,
      ...{ files: fonts.files, size: scale * look.size, colour }
    })
  }
  return text => {
    const told = [...foundOtherwise]
    const laid = layIn({ ...look, text }, { name, styles, features, told })
    return { ...laid, told: once(told) }
  }
}

/** Lays the words of a lettering out in styles that are open; what is to be said of it is added to `told`. */
function layIn(
  look: LetteringLook,
  { name, styles, features: own, told }: { name: string; styles: Style[]; features: string; told: LaidFinding[] }
): Omit<LaidGlyphs, 'told'> {
  const spacing = (look.tracking / 1000) * look.size
  // letters that stand apart are not drawn as one (CSS Text 3, 8.2)
  const features = [own, spacing === 0 ? '' : '-liga,-clig'].filter(Boolean).join()
  const direction = look.direction ?? 'auto'
  const letters: Styled[] = []
  const entered: Row[] = []
  for (const text of look.text.split('\n')) {
    const characters = [...text]
    const accents = accentsIn(characters, look.accents ?? [])
    const from = letters.length
    for (const [n, character] of characters.entries()) {
      const style = styles[accents[n]! + 1]!
      letters.push({ character, fonts: style.files, size: style.size, spacing, features, style })
    }
    entered.push({ from, to: letters.length })
  }
  const setAs = (part: readonly Styled[]): SetLine => reading(styles[0]!, () => setLine(part, direction))
  let [rows, share, within] = [entered, 1, null as LaidGlyphs['within']]
  if (look.box) {
    const lines = entered.map(({ from, to }) => {
      const own = letters.slice(from, to)
      return lineEntered(from, own, setAs(own))
    })
    const found = fitted(lines, look.box)
    ;({ rows, share } = found)
    const left = look.align === 'left' ? 0 : look.align === 'centre' ? -look.box.width / 2 : -look.box.width
    within = [left, left + look.box.width]
    if (!found.fits) {
      const { clip } = look.box
      const over = clip ? 'what is too much is cut off' : 'it sticks out'
      const at = share < 1 ? ` even at ${percent(share)} of its size` : ''
      told.push({
        id: clip ? 'letters-clipped' : 'letters-over',
        severity: 'warning',
        sentence: `The lettering “${name}” does not fit its box${at}: ${over}.`
      })
    } else if (share < 1)
      told.push({
        id: 'letters-shrunk',
        severity: 'warning',
        sentence: `The lettering “${name}” is set at ${percent(share)} of its size, to fit its box.`
      })
  }
  const { keptJoined, ...laid } = laidIn(look, letters, { rows, share, setAs, styles })
  if (keptJoined)
    told.push({
      id: 'letters-otherwise',
      severity: 'warning',
      sentence: `Letters of “${name}” that join are set without its tracking.`
    })
  return { ...laid, within }
}

/** Each sentence once: several styles may say the same. */
const once = (told: readonly LaidFinding[]): LaidFinding[] =>
  told.filter((one, n) => told.findIndex(({ sentence }) => sentence === one.sentence) === n)

/** Rows of letters at a share of their size, in the order in which they are read. */
function laidIn(
  look: LetteringLook,
  all: readonly Styled[],
  {
    rows,
    share,
    setAs,
    styles
  }: { rows: readonly Row[]; share: number; setAs: (part: readonly Styled[]) => SetLine; styles: readonly Style[] }
): Pick<LaidGlyphs, 'letters' | 'missing' | 'box'> & { keptJoined: boolean } {
  const letters: Letter[] = []
  const missing = new Set<string>()
  let [word, keptJoined] = [-1, false]
  let [left, right] = [0, 0]
  const shown = look.box?.clip ? rows.slice(0, look.box.lines) : rows
  for (const [line, { from, to }] of shown.entries()) {
    const whole = all.slice(from, to)
    // in a box, what a line is broken at takes no room
    let end = whole.length
    while (look.box && end > 0 && !whole[end - 1]!.character.trim()) end--
    const part = whole
      .slice(0, end)
      .map(letter => ({ ...letter, size: letter.size * share, spacing: letter.spacing * share }))
    const { clusters, width, ...found } = setAs(part)
    for (const letter of found.missing) missing.add(letter)
    keptJoined ||= found.keptJoined
    const shift = look.align === 'left' ? 0 : look.align === 'centre' ? -width / 2 : -width
    const y = line * look.leading * look.size * share
    left = Math.min(left, shift)
    right = Math.max(right, shift + width)
    let inWord = false
    for (const { x, glyphs, size, from: n } of [...clusters].sort((a, b) => a.from - b.from)) {
      const { character, style } = part[n]!
      if (!character.trim()) {
        inWord = false
        continue
      }
      if (!inWord) word++
      inWord = true
      const outlines = glyphs.flatMap(glyph =>
        reading(style, () => linesOf({ ...glyph, x: shift + glyph.x, y: y + glyph.y }, size))
      )
      letters.push({ outlines, colour: style.colour, x: shift + x, y, letter: letters.length, word, line })
    }
  }
  const largest = share * Math.max(...styles.map(({ size }) => size))
  const bottom = (shown.length - 1) * look.leading * look.size * share + 0.25 * largest
  return { letters, missing: [...missing], box: [left, -0.75 * largest, right, bottom], keptJoined }
}
