/** What lettering comes to at a moment. */
import { Painter, type Ink } from '../../ink'
import type { Layer } from '../../layer'
import { placed, placing, type Line } from '../../../raster/line'
import { areaOf } from '../../../raster/area'
import type { Letter } from './outlines'
import { apartBy, PARTS } from './parts'

/** Lettering at a moment, null where there is none: whole, or letter by letter, word by word, line by line. */
export function inkOfLetters(size: number, letters: readonly Letter[], ink: Ink): Layer | null {
  const painter = new Painter(ink)
  const {
    element: { entrance, exit },
    moment: { come, gone },
    at,
    clip
  } = ink
  const moving = (entrance.kind in PARTS && come < 1) || (exit.kind in PARTS && gone > 0)
  if (!moving) {
    // what has one colour is one area, so that letters that touch show no seam
    for (const colour of new Set(letters.map(letter => letter.colour))) {
      const lines = letters.filter(letter => letter.colour === colour).flatMap(({ outlines }) => outlines)
      painter.add(
        areaOf(
          lines.map(line => placed(line, at)),
          clip
        ),
        colour
      )
    }
    return painter.done()
  }
  const counts = {
    letter: letters.length,
    word: (letters.at(-1)?.word ?? 0) + 1,
    line: (letters.at(-1)?.line ?? 0) + 1
  }
  for (const letter of letters) {
    const coming = apartBy(entrance, come, letter, counts, size)
    const going = apartBy(exit, 1 - gone, letter, counts, size)
    const own = placing(coming.x + going.x, coming.y + going.y, 1, coming.turned + going.turned)
    const about = (line: Line): Line => {
      if (!coming.turned && !going.turned) return placed(placed(line, own), at)
      const centred = placed(line, { a: 1, b: 0, c: 0, d: 1, e: -letter.x, f: -letter.y })
      return placed(placed(placed(centred, own), { a: 1, b: 0, c: 0, d: 1, e: letter.x, f: letter.y }), at)
    }
    painter.add(areaOf(letter.outlines.map(about), clip), letter.colour, coming.opacity * going.opacity)
  }
  return painter.done()
}
