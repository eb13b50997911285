/** Lettering as outlines: glyphs of the shipped faces, laid line by line. */
import type { Font } from 'opentype.js'
import { damagedBy, impossible, unreadable } from '../../../../base/errors'
import type { Host } from '../../../../frame/host'
import { accentsIn } from './accents'
import type { LetteringLook } from './look'
import { fontsOf } from '../../../type/fonts'
import { follow, type Line } from '../../../raster/line'
import type { OwnFace, Paint } from '../../values'

/** One letter: its outlines from the element's place, its colour, and which word and line it is of. */
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

/** Corners and curves of one letter; drawn ones have hundreds. */
const MOST_COMMANDS = 20_000

function outlinesOf(font: Font, index: number, size: number, [x, y]: readonly [number, number]): Line[] {
  const lines: Line[] = []
  let points: number[] = []
  let at: [number, number] = [0, 0]
  const end = (): void => {
    if (points.length >= 6) lines.push(Float64Array.from(points))
    points = []
  }
  const { commands } = font.glyphs.get(index).getPath(x, y, size)
  if (commands.length > MOST_COMMANDS) throw impossible(`a letter of the type face has ${commands.length} corners`)
  for (const command of commands) {
    if (command.type === 'M') {
      end()
      points.push(command.x, command.y)
    } else if (command.type === 'L') points.push(command.x, command.y)
    else if (command.type === 'C')
      follow(points, at, [command.x1, command.y1], [command.x2, command.y2], [command.x, command.y])
    else if (command.type === 'Q') {
      // a quadratic as the cubic it is
      const third = (a: number, b: number): number => a + (2 / 3) * (b - a)
      follow(
        points,
        at,
        [third(at[0], command.x1), third(at[1], command.y1)],
        [third(command.x, command.x1), third(command.y, command.y1)],
        [command.x, command.y]
      )
    }
    if (command.type === 'Z') end()
    else at = [command.x, command.y]
  }
  end()
  return lines
}

export interface LaidGlyphs {
  letters: Letter[]
  /** Letters that none of the face's files has. */
  missing: string[]
  /** Left, top, right and bottom of the lines, from the element's place. */
  box: readonly [number, number, number, number]
}

/**
 * Lays lettering out about its place: the base line of its first line at 0. `faces` are the scene's own. Rejects with
 * one clear error where a type face cannot be read.
 */
export async function layLettering(
  look: LetteringLook,
  host: Host,
  faces: readonly OwnFace[] = []
): Promise<LaidGlyphs> {
  const styles: Style[] = []
  for (const { face, colour, scale } of [{ ...look, scale: 1 }, ...(look.accents ?? [])]) {
    const name = faces.find(({ id }) => id === face)?.name ?? face
    styles.push({ name, fonts: await fontsOf(host, face, faces), size: scale * look.size, colour })
  }
  return laidIn(look, styles)
}

/** How letters are set: the lettering's own way first, then that of each of its accents. */
interface Style {
  /** Of the type face, for errors. */
  name: string
  fonts: readonly Font[]
  size: number
  colour: Paint
}

/** Does what reads letters of a face, which are read from their file when they are first drawn. */
function reading<T>({ name }: Style, work: () => T): T {
  try {
    return work()
  } catch (error) {
    throw damagedBy(error, why => unreadable(name, null, `the type face is damaged (${why})`))
  }
}

function laidIn(look: LetteringLook, styles: readonly Style[]): LaidGlyphs {
  const letters: Letter[] = []
  const missing = new Set<string>()
  const spread = (look.tracking / 1000) * look.size
  const lines = look.text.split('\n')
  let [letter, word] = [0, 0]
  let [left, right] = [0, 0]
  for (const [row, text] of lines.entries()) {
    const characters = [...text]
    const accents = accentsIn(characters, look.accents ?? [])
    const found = characters.map((character, n) => {
      const style = styles[accents[n]! + 1]!
      return reading(style, () => {
        const font = style.fonts.find(font => font.charToGlyphIndex(character) > 0) ?? style.fonts[0]!
        const index = font.charToGlyphIndex(character)
        if (index === 0 && character.trim()) missing.add(character)
        return { character, style, font, index }
      })
    })
    let x = 0
    const places = found.map(({ style, font, index }, n) =>
      reading(style, () => {
        const before = found[n - 1]
        const unit = style.size / font.unitsPerEm
        if (before?.font === font && before.style.size === style.size)
          x += font.getKerningValue(font.glyphs.get(before.index), font.glyphs.get(index)) * unit
        const place = x
        x += (font.glyphs.get(index).advanceWidth ?? 0) * unit + spread
        return place
      })
    )
    const width = Math.max(0, x - spread)
    const shift = look.align === 'left' ? 0 : look.align === 'centre' ? -width / 2 : -width
    const y = row * look.leading * look.size
    left = Math.min(left, shift)
    right = Math.max(right, shift + width)
    let within = false
    for (const [n, { character, style, font, index }] of found.entries()) {
      if (!character.trim()) {
        within = false
        continue
      }
      if (!within) word++
      within = true
      const at = [shift + places[n]!, y] as const
      letters.push({
        outlines: reading(style, () => outlinesOf(font, index, style.size, at)),
        colour: style.colour,
        x: at[0],
        y,
        letter: letter++,
        word: word - 1,
        line: row
      })
    }
  }
  const largest = Math.max(...styles.map(({ size }) => size))
  const bottom = (lines.length - 1) * look.leading * look.size + 0.25 * largest
  return { letters, missing: [...missing], box: [left, -0.75 * largest, right, bottom] }
}
