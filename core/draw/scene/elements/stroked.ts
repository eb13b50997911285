/** Lines along something: their fields, how far they reach, and their ink. */
import { areaOf } from '../../raster/area'
import type { Coverage } from '../../raster/coverage'
import { combined, lengthOf, placed, scaleOf, type Affine, type Line, type Run } from '../../raster/line'
import { MOST_DASHES, strokeAreas, strokeOf, type StrokeStyle } from '../../raster/stroke'
import type { Extent, Ink } from '../ink'
import { Stroke, type Paint } from '../values'
import {
  alike,
  choiceEntry,
  colourEntry,
  entryOf,
  numberEntry,
  rounded,
  switchEntry,
  type FormEntry,
  type Owner
} from './entry'
import type { LaidFinding } from './kind'
import { lookOwner } from './owner'

/** A stroke whose colour may be on its way, or run from one to another. */
export type PaintedStroke = Omit<Stroke, 'colour'> & { colour: Paint }

const CAPS = { round: 'round', flat: 'butt', square: 'square' } as const
const JOINS = { round: 'round', pointed: 'miter', bevelled: 'bevel' } as const
/** Of corners whose limit is not said (SVG 2, 13.5.4). */
const POINT_LIMIT = 4

/** The style at a scale, its dashes moved on by what values over time say. */
function styleOf(
  { width, cap, join, pointLimit, dashes, dashOffset }: Omit<Stroke, 'colour'>,
  by = 1,
  on = 0
): StrokeStyle {
  return {
    width: width * by,
    cap: CAPS[cap ?? 'round'],
    join: JOINS[join ?? 'round'],
    miterLimit: pointLimit ?? POINT_LIMIT,
    dashes: (dashes ?? []).map(each => each * by),
    // what runs on moves towards the end of the line
    dashOffset: -((dashOffset ?? 0) + on) * by
  }
}

/** Whether a transform turns and scales alike in every direction. */
const keepsShape = ({ a, b, c, d }: Affine): boolean => {
  const near = 1e-9 * (Math.abs(a) + Math.abs(b) + Math.abs(c) + Math.abs(d))
  return Math.abs(a - d) <= near && Math.abs(b + c) <= near
}

/**
 * What a stroke along runs of an element covers; its width is stretched along with the element. Throws where its dashes
 * are more than can be drawn.
 */
export function strokeInk(runs: readonly Run[], stroke: PaintedStroke, { at, clip, moment }: Ink): Coverage | null {
  const on = moment.values.dashes
  const along = (by: Affine): Run[] => runs.map(({ line, closed }) => ({ line: placed(line, by), closed }))
  if (keepsShape(at)) return strokeOf(along(at), styleOf(stroke, scaleOf(at), on), clip)
  // drawn at the larger of its scales, so that arcs are round, and stretched from there
  const by = Math.max(Math.hypot(at.a, at.b), Math.hypot(at.c, at.d))
  if (by === 0) return null
  const scaled: Affine = { a: by, b: 0, c: 0, d: by, e: 0, f: 0 }
  const rest = combined(at, { a: 1 / by, b: 0, c: 0, d: 1 / by, e: 0, f: 0 })
  const areas = strokeAreas(along(scaled), styleOf(stroke, by, on))
  return areaOf(
    areas.map(area => placed(area, rest)),
    clip
  )
}

/** A stroke as it is drawn along lines, without dashes where they would be too many; and what is to be said of that. */
export function strokeAlong(
  lines: readonly Line[],
  stroke: Stroke | null,
  name: string
): { stroke: Stroke | null; told: LaidFinding[] } {
  if (!stroke?.dashes) return { stroke, told: [] }
  const { dashes, ...solid } = stroke
  const whole = lines.reduce((sum, line) => sum + lengthOf(line), 0)
  if (whole / (dashes[0] + dashes[1]) < MOST_DASHES / 2) return { stroke, told: [] }
  const sentence = `The line of “${name}” would have ${MOST_DASHES / 2} dashes or more, and is drawn without.`
  return { stroke: solid, told: [{ id: 'dashes-solid', severity: 'warning', sentence }] }
}

/** The box of lines and of what is drawn along them. */
export function boxOfLines(lines: readonly Line[], stroke: Stroke | null, closed = true): Extent {
  const half = (stroke?.width ?? 0) / 2
  const box: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity]
  const add = (line: Line, beyond: number): void => {
    for (let i = 0; i < line.length; i += 2) {
      box[0] = Math.min(box[0], line[i]! - beyond)
      box[1] = Math.min(box[1], line[i + 1]! - beyond)
      box[2] = Math.max(box[2], line[i]! + beyond)
      box[3] = Math.max(box[3], line[i + 1]! + beyond)
    }
  }
  for (const line of lines) add(line, half)
  // points and square ends reach beyond half the width
  if (stroke && (stroke.join === 'pointed' || stroke.cap === 'square')) {
    const { dashes: _, ...solid } = stroke
    const runs = lines.map(line => ({ line, closed }))
    for (const area of strokeAreas(runs, styleOf(solid))) add(area, 0)
  }
  return box
}

/** The fields of the line along something; what has no ends shows none. */
export function strokeEntries<L extends { kind: string; stroke: Stroke | null }>(
  look: L,
  colour: string,
  { ends }: { ends: boolean }
): FormEntry<L>[] {
  const { stroke } = look
  if (!stroke) return []
  const owner: Owner<L, Stroke> = {
    ...lookOwner(look),
    name: 'stroke',
    now: stroke,
    at: changed => changed.stroke
  }
  const { shape } = Stroke
  const usual = { cap: 'round', join: 'round', pointLimit: POINT_LIMIT, dashOffset: 0 } as const
  const filled = { ...owner, now: { ...usual, ...stroke } }
  const dashed = stroke.dashes !== undefined
  const part = (label: string, n: 0 | 1): FormEntry<L> => {
    const value = rounded(stroke.dashes![n])
    const { minValue: min, maxValue: max } = shape.dashes.unwrap().def.items[n]
    const field = { type: 'number', label, typed: true, step: 'any', min: min!, max: max!, default: value } as const
    return entryOf(owner, { field, value }, (now, entered) => {
      if (now.dashes) now.dashes[n] = Math.min(max!, Math.max(min!, Number(entered) || 0))
    })
  }
  return [
    colourEntry(owner, colour, stroke.colour, (now, hex) => void (now.colour = hex)),
    numberEntry(owner, 'Line width', ['width', shape.width], { step: 0.5 }),
    choiceEntry(filled, 'Its corners', ['join', alike(shape.join.unwrap().options)]),
    ...(stroke.join === 'pointed'
      ? [
          numberEntry(filled, 'Points reach, × half', ['pointLimit', shape.pointLimit.unwrap()], {
            help: 'A corner that would reach beyond so many half widths is bevelled'
          })
        ]
      : []),
    ...(ends || dashed ? [choiceEntry(filled, 'Its ends', ['cap', alike(shape.cap.unwrap().options)])] : []),
    switchEntry(owner, 'Dashed', dashed, (now, on) => {
      if (on) now.dashes ??= [rounded(3 * now.width), rounded(2 * now.width)]
      else delete now.dashes
    }),
    ...(dashed
      ? [
          part('Dash', 0),
          part('Open', 1),
          numberEntry(filled, 'Dashes begin at', ['dashOffset', shape.dashOffset.unwrap()], {
            help: 'Over time: Dashes run on'
          })
        ]
      : [])
  ]
}
