/** How paths are described. */
import { z } from 'zod'
import { length, MOST, Paint, size, Stroke } from '../../values'

/** A point of a path, from the element's place, with the handles of the curve before and after it. */
export const Point = z.object({
  x: length,
  y: length,
  before: z.tuple([length, length]).nullable(),
  after: z.tuple([length, length]).nullable()
})
export type Point = z.infer<typeof Point>

export const schema = z.object({
  kind: z.literal('path'),
  points: z.array(Point).min(2).max(MOST.points),
  closed: z.boolean(),
  fill: Paint.nullable(),
  stroke: Stroke.nullable(),
  /** What follows the head of a path that is traced, turned along it. */
  rider: z.enum(['none', 'arrow', 'dot']),
  riderSize: size.max(2000)
})
export type PathLook = z.infer<typeof schema>
