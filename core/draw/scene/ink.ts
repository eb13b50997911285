/** What lettering, shapes and paths come to at a moment: coverage, laid under its colours. */
import { clearLayer, paint, type Along, type Layer } from './layer'
import type { Letter } from './lettering'
import { arrowLine, figureLine, inverse, placed, placing, traced, type Affine, type Line } from './outline'
import { apartBy, PARTS } from './parts'
import { areaOf, isEmpty, joined, strokeOf, type Bounds, type Coverage } from './raster'
import type { Element, Look, Paint } from './scene'
import { isTint } from './tint'
import type { Moment } from './timing'

/** A box in an element's own coordinates. */
export type Box = readonly [left: number, top: number, right: number, bottom: number]

/** When and where something is drawn; `at` lays the element's coordinates into the picture. */
export interface Ink {
  moment: Moment
  at: Affine
  clip: Bounds
  box: Box
}

/** Adds a layer under the coverage it takes. */
class Painter {
  private readonly parts: { coverage: Coverage; paint: Paint; opacity: number }[] = []
  private bounds: Bounds = { left: 0, top: 0, right: 0, bottom: 0 }

  add(coverage: Coverage | null, colour: Paint, opacity = 1): void {
    if (!coverage || opacity <= 0) return
    this.parts.push({ coverage, paint: colour, opacity })
    this.bounds = joined(this.bounds, coverage)
  }

  done(along: (paint: Paint) => Along): Layer | null {
    if (isEmpty(this.bounds)) return null
    const layer = clearLayer(this.bounds)
    for (const { coverage, paint: colour, opacity } of this.parts)
      paint(layer, coverage, { paint: colour, opacity, along: along(colour) })
    return layer
  }
}

/** Lettering at a moment, null where there is none: whole, or letter by letter, word by word, line by line. */
export function inkOfLetters(
  { entrance, exit }: Element,
  look: Extract<Look, { kind: 'text' }>,
  letters: readonly Letter[],
  { moment: { come, gone }, at, clip, box }: Ink
): Layer | null {
  const painter = new Painter()
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
    return painter.done(colour => alongOf(colour, box, at))
  }
  const counts = {
    letter: letters.length,
    word: (letters.at(-1)?.word ?? 0) + 1,
    line: (letters.at(-1)?.line ?? 0) + 1
  }
  for (const letter of letters) {
    const coming = apartBy(entrance, come, letter, counts, look.size)
    const going = apartBy(exit, 1 - gone, letter, counts, look.size)
    const own = placing(coming.x + going.x, coming.y + going.y, 1, coming.turned + going.turned)
    const about = (line: Line): Line => {
      if (!coming.turned && !going.turned) return placed(placed(line, own), at)
      const centred = placed(line, { a: 1, b: 0, c: 0, d: 1, e: -letter.x, f: -letter.y })
      return placed(placed(placed(centred, own), { a: 1, b: 0, c: 0, d: 1, e: letter.x, f: letter.y }), at)
    }
    painter.add(areaOf(letter.outlines.map(about), clip), letter.colour, coming.opacity * going.opacity)
  }
  return painter.done(colour => alongOf(colour, box, at))
}

/** A shape or a path at a moment, with its outline as far as it is traced; null where there is nothing. */
export function inkOfFigure(
  { entrance, exit }: Element,
  look: Extract<Look, { kind: 'shape' | 'path' }>,
  { line, closed }: { line: Line | null; closed: boolean },
  { moment: { come, gone, values }, at, clip, box }: Ink
): Layer | null {
  if (!line) return null
  const painter = new Painter()
  const done = (): Layer | null => painter.done(colour => alongOf(colour, box, at))
  const share =
    values.trace *
    (entrance.kind === 'trace' ? Math.min(1, Math.max(0, come)) : 1) *
    (exit.kind === 'trace' ? Math.min(1, Math.max(0, 1 - gone)) : 1)
  const scale = Math.hypot(at.a, at.b)
  const whole = placed(line, at)
  if (look.fill) {
    const opacity = look.kind === 'shape' ? look.fillOpacity : 1
    // an area that is traced fills as its outline closes
    painter.add(areaOf([whole], clip), look.fill, opacity * (look.stroke ? share ** 4 : share))
  }
  if (!look.stroke || share <= 0) return done()
  const ring = closed ? Float64Array.from([...whole, whole[0]!, whole[1]!]) : whole
  const { line: drawnLine, head } = traced(ring, share)
  painter.add(
    strokeOf([{ line: share < 1 ? drawnLine : whole, closed: closed && share >= 1 }], look.stroke.width * scale, clip),
    look.stroke.colour
  )
  if (look.kind !== 'path' || look.rider === 'none') return done()
  const size = look.riderSize * scale
  const rider =
    look.rider === 'arrow'
      ? arrowLine(size)
      : figureLine({
          kind: 'shape',
          form: 'ellipse',
          width: size,
          height: size,
          corner: 0,
          points: 3,
          inner: 1,
          fill: null,
          fillOpacity: 1,
          stroke: null
        })
  painter.add(areaOf([placed(rider, placing(head.x, head.y, 1, head.turned))], clip), look.stroke.colour)
  return done()
}

/** Along a gradient's direction, across the element's box. */
function alongOf(colour: Paint, [left, top, right, bottom]: Box, at: Affine): Along {
  if (typeof colour === 'string') return () => 0
  if (isTint(colour)) return () => colour.share
  const back = inverse(at)
  const turn = (colour.angle * Math.PI) / 180
  const [ux, uy] = [Math.cos(turn), Math.sin(turn)]
  const reach = (Math.abs(ux) * (right - left) + Math.abs(uy) * (bottom - top)) / 2 || 1
  const [cx, cy] = [(left + right) / 2, (top + bottom) / 2]
  return (x, y) => {
    const [u, v] = [back.a * x + back.c * y + back.e - cx, back.b * x + back.d * y + back.f - cy]
    return 0.5 + (u * ux + v * uy) / (2 * reach)
  }
}
