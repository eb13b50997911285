/** What shapes, paths and rings share: an area that is filled, a line along its edge; their fields, and their ink. */
import type { z } from 'zod'
import type { HexColour } from '../../../base/colour'
import type { Ink, Painter } from '../ink'
import { placed, traced, type Head, type Line } from '../../raster/line'
import { areaOf } from '../../raster/area'
import type { Paint, Stroke } from '../values'
import {
  colourEntry,
  firstOf,
  fromColour,
  numberEntry,
  secondOf,
  switchEntry,
  toColour,
  type FormEntry,
  type Owner
} from './entry'
import { lookOwner } from './owner'
import { strokeEntries, strokeInk, type PaintedStroke } from './stroked'

interface Filled {
  kind: string
  fill: Paint | null
  fillOpacity: number
  stroke: Stroke | null
}

/** Whether it is filled and outlined, in which colours, and how solid. */
export function fillEntries<L extends Filled>(look: L, opacity: z.ZodNumber): FormEntry<L>[] {
  const owner = lookOwner<Filled>(look) as unknown as Owner<L, Filled>
  const { fill } = look
  const paint = (now: Filled, change: (paint: Paint) => Paint): void => void (now.fill = change(now.fill ?? fill!))
  const filled = (): FormEntry<L>[] => [
    colourEntry(owner, 'Fill', firstOf(fill!), (now, hex) => paint(now, was => fromColour(was, hex))),
    switchEntry(owner, 'To another', typeof fill !== 'string', (now, on) =>
      paint(now, was => (on ? toColour(was, secondOf(was)) : firstOf(was)))
    ),
    ...(typeof fill === 'string'
      ? []
      : [colourEntry(owner, 'Other', secondOf(fill!), (now, hex) => paint(now, was => toColour(was, hex)))]),
    numberEntry(owner, 'Solid', ['fillOpacity', opacity], {
      step: 0.05,
      help: 'How solid the fill is: 0.6 lets 40 % of what lies behind through'
    })
  ]
  return [
    switchEntry(owner, 'Filled', fill !== null, (now, on) => void (now.fill = on ? FIRST_FILL : null)),
    ...(fill === null ? [] : filled()),
    switchEntry(owner, 'Outlined', look.stroke !== null, (now, on) => {
      now.stroke = on ? { colour: '#e2b242', width: 6 } : null
    }),
    ...strokeEntries(look, 'Outline', { ends: false })
  ]
}

/** The fill of a new area. */
export const FIRST_FILL: HexColour = '#175c4e'

/** The same paints with another in place of the one that `paint` of a kind gives. */
export const repainted = (
  { fill, stroke }: { fill: Paint | null; stroke: Stroke | null },
  paint: Paint | null,
  first: 'fill' | 'stroke'
): Pick<Outlined, 'fill' | 'stroke'> => {
  if (!paint) return { fill, stroke }
  const ofFill = first === 'fill' ? fill !== null : stroke === null
  return ofFill ? { fill: paint, stroke } : { fill, stroke: stroke && { ...stroke, colour: paint } }
}

export interface Outlined {
  fill: Paint | null
  fillOpacity: number
  stroke: PaintedStroke | null
  line: Line
  closed: boolean
}

/** How far an element is traced at a moment, from 0 to 1: by its keys, its entrance and its exit. */
export function tracedShare({ element: { entrance, exit }, moment: { come, gone, values } }: Ink): number {
  return (
    values.trace *
    (entrance.kind === 'trace' ? Math.min(1, Math.max(0, come)) : 1) *
    (exit.kind === 'trace' ? Math.min(1, Math.max(0, 1 - gone)) : 1)
  )
}

/**
 * Inks one outline as far as it is traced; gives back the head of its line in the
 * element, null where no line is drawn.
 */
export function inkOutline(painter: Painter, { fill, fillOpacity, stroke, line, closed }: Outlined): Head | null {
  const { at, clip } = painter.ink
  const share = tracedShare(painter.ink)
  // an area that is traced fills as its outline closes
  if (fill) painter.add(areaOf([placed(line, at)], clip), fill, fillOpacity * (stroke ? share ** 4 : share))
  if (!stroke || share <= 0) return null
  const round = closed ? Float64Array.from([...line, line[0]!, line[1]!]) : line
  const { line: drawn, head } = traced(round, share)
  const seen = { line: share < 1 ? drawn : line, closed: closed && share >= 1 }
  painter.add(strokeInk([seen], stroke, painter.ink), stroke.colour)
  return head
}
