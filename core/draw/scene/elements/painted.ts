/** What shapes, paths and rings share: an area that is filled, a line along its edge; their fields, and their ink. */
import type { z } from 'zod'
import type { HexColour } from '../../../base/colour'
import type { Ink, Painter } from '../ink'
import { placed, scaleOf, traced, type Head, type Line } from '../../raster/line'
import { areaOf } from '../../raster/coverage'
import { strokeOf } from '../../raster/stroke'
import { Stroke, type Paint } from '../values'
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

/** The look itself as the owner of its fields. */
export const lookOwner = <L extends { kind: string }>(look: L): Owner<L, L> => ({
  name: 'look',
  undo: 'Change the style',
  now: look,
  at: changed => (changed.kind === look.kind ? changed : null)
})

/** Two fields of the line along something. */
export function strokeEntries<L extends { kind: string; stroke: Stroke | null }>(
  look: L,
  colour: string
): FormEntry<L>[] {
  if (!look.stroke) return []
  const owner: Owner<L, Stroke> = {
    ...lookOwner(look),
    name: 'stroke',
    now: look.stroke,
    at: changed => changed.stroke
  }
  return [
    colourEntry(owner, colour, look.stroke.colour, (now, hex) => void (now.colour = hex)),
    numberEntry(owner, 'Line width', ['width', Stroke.shape.width], { step: 0.5 })
  ]
}

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
    ...strokeEntries(look, 'Outline')
  ]
}

/** The fill of a new area. */
export const FIRST_FILL: HexColour = '#175c4e'

/** The same paints with another in place of the one that `paint` of a kind gives. */
export const repainted = <P extends { fill: Paint | null; stroke: { colour: Paint; width: number } | null }>(
  { fill, stroke }: P,
  paint: Paint | null,
  first: 'fill' | 'stroke'
): Pick<P, 'fill' | 'stroke'> => {
  if (!paint) return { fill, stroke }
  const ofFill = first === 'fill' ? fill !== null : stroke === null
  return ofFill ? { fill: paint, stroke } : { fill, stroke: stroke && { ...stroke, colour: paint } }
}

export interface Outlined {
  fill: Paint | null
  fillOpacity: number
  stroke: { colour: Paint; width: number } | null
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

/** Inks one outline as far as it is traced; gives back the head of its line, null where no line is drawn. */
export function inkOutline(painter: Painter, { fill, fillOpacity, stroke, line, closed }: Outlined): Head | null {
  const { at, clip } = painter.ink
  const share = tracedShare(painter.ink)
  const whole = placed(line, at)
  // an area that is traced fills as its outline closes
  if (fill) painter.add(areaOf([whole], clip), fill, fillOpacity * (stroke ? share ** 4 : share))
  if (!stroke || share <= 0) return null
  const round = closed ? Float64Array.from([...whole, whole[0]!, whole[1]!]) : whole
  const { line: drawn, head } = traced(round, share)
  const seen = { line: share < 1 ? drawn : whole, closed: closed && share >= 1 }
  painter.add(strokeOf([seen], stroke.width * scaleOf(at), clip), stroke.colour)
  return head
}

/** The box of lines with half the width of what is drawn along them. */
export function boxOfLines(lines: readonly Line[], width: number): readonly [number, number, number, number] {
  const half = width / 2
  const box: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity]
  for (const line of lines)
    for (let i = 0; i < line.length; i += 2) {
      box[0] = Math.min(box[0], line[i]! - half)
      box[1] = Math.min(box[1], line[i + 1]! - half)
      box[2] = Math.max(box[2], line[i]! + half)
      box[3] = Math.max(box[3], line[i + 1]! + half)
    }
  return box
}
