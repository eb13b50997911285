/** How paths are described. */
import { z } from 'zod'
import { lacking, length, MOST, Paint, size, Stroke } from '../../values'

/** A point of a path, from the element's place, with the handles of the curve before and after it. */
export const Point = z.object({
  x: length,
  y: length,
  before: lacking(z.tuple([length, length]).nullable(), null),
  after: lacking(z.tuple([length, length]).nullable(), null)
})
export type Point = z.infer<typeof Point>

const Tip = z.enum(['none', 'arrow', 'dot', 'bar'])
export type Tip = z.infer<typeof Tip>

export const schema = z.object({
  kind: z.literal('path'),
  points: z.array(Point).min(2).max(MOST.points),
  closed: lacking(z.boolean(), false),
  fill: lacking(Paint.nullable(), null),
  stroke: lacking(Stroke.nullable(), { colour: '#ffffff', width: 6 }),
  /** What follows the head of a path that is traced, turned along it. */
  rider: lacking(Tip, 'none'),
  riderSize: lacking(size.max(2000), 40),
  /** What stands where the path begins, turned away from it. */
  tail: Tip.optional()
})
export type PathLook = z.infer<typeof schema>
