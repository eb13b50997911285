/** Rings and arcs: a band about a place, as far round as it goes; drawn round as it is traced. */
import { z } from 'zod'
import { Painter } from '../../ink'
import { arcInto, placed, type Line } from '../../../raster/line'
import { areaOf } from '../../../raster/area'
import { lacking, Paint, share, size, Stroke } from '../../values'
import { numberEntry } from '../entry'
import { elementKind } from '../kind'
import { lookOwner } from '../owner'
import { fillEntries, FIRST_FILL, repainted, tracedShare } from '../painted'
import { boxOfLines, strokeAlong, strokeInk } from '../stroked'

const schema = z.object({
  kind: z.literal('ring'),
  /** Across, from outer edge to outer edge. */
  across: size,
  /** Of the band; as far as the middle at most. */
  thickness: size,
  /** Where it begins, in degrees clockwise from the top. */
  begins: lacking(z.number().min(-360).max(360), 0),
  /** How much of the round is left open. */
  gap: lacking(share, 0),
  fill: lacking(Paint.nullable(), '#ffffff'),
  fillOpacity: lacking(share, 1),
  stroke: lacking(Stroke.nullable(), null)
})
type RingLook = z.infer<typeof schema>

/** The edges of the band as far as `drawn` of it, 0 to 1: two rounds for a whole one, else a single one. */
export function ringLines({ across, thickness, begins, gap }: RingLook, drawn: number): Line[] {
  const outer = across / 2
  const inner = Math.max(0, outer - thickness)
  const sweep = (1 - gap) * drawn * 2 * Math.PI
  if (sweep <= 0 || outer <= inner) return []
  const from = (begins * Math.PI) / 180 - Math.PI / 2
  const out: number[] = []
  arcInto(out, [0, 0], [outer, outer], from, from + sweep)
  if (sweep < 2 * Math.PI) {
    if (inner > 0) arcInto(out, [0, 0], [inner, inner], from + sweep, from)
    else out.push(0, 0)
    return [Float64Array.from(out)]
  }
  const hole: number[] = []
  if (inner > 0) arcInto(hole, [0, 0], [inner, inner], from + sweep, from)
  return [out, hole].filter(({ length }) => length > 0).map(line => Float64Array.from(line))
}

export const ring = elementKind({
  schema,
  name: 'Ring',
  help: 'A ring or an arc: a band of any thickness, open as far as its gap; drawn round when it is traced.',
  begins: {
    from: 'size',
    fresh: ({ height }): RingLook => ({
      kind: 'ring',
      across: Math.round(height / 3),
      thickness: Math.max(1, Math.round(height / 30)),
      begins: 0,
      gap: 0.25,
      fill: FIRST_FILL,
      fillOpacity: 1,
      stroke: null
    })
  },
  comes: 'trace',
  moves: ['trace'],
  called: ({ gap }) => (gap > 0 ? 'Arc' : 'Ring'),
  paint: ({ fill, stroke }) => fill ?? stroke?.colour ?? null,
  entries(look) {
    const owner = lookOwner(look)
    const { across, thickness, begins, gap, fillOpacity } = schema.shape
    return [
      numberEntry(owner, 'Wide', ['across', across]),
      numberEntry(owner, 'Thickness', ['thickness', thickness]),
      numberEntry(owner, 'Begins at, °', ['begins', begins], { help: 'Clockwise from the top' }),
      numberEntry(owner, 'Gap', ['gap', gap], { step: 0.05, help: 'How much of the round is open: 0 is a whole ring' }),
      ...fillEntries(look, fillOpacity)
    ]
  },
  lay(look, { name }) {
    const { stroke: line, told } = strokeAlong(ringLines(look, 1), look.stroke, name)
    return {
      // what is drawn round turns about the middle of the whole
      box: boxOfLines(ringLines({ ...look, gap: 0 }, 1), look.stroke),
      missing: [],
      told,
      draw(drawing) {
        const painter = new Painter(drawing)
        const { at, clip } = drawing
        const { fill, stroke } = repainted({ ...look, stroke: line }, drawing.moment.tint, 'fill')
        const lines = ringLines(look, tracedShare(drawing))
        const band = lines.map(line => placed(line, at))
        if (fill) painter.add(areaOf(band, clip), fill, look.fillOpacity)
        const runs = lines.map(line => ({ line, closed: true }))
        if (stroke && runs.length) painter.add(strokeInk(runs, stroke, drawing), stroke.colour)
        return painter.done()
      }
    }
  }
})
