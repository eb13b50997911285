/** How shapes are described. */
import { z } from 'zod'
import { lacking, length, Paint, share, size, Stroke } from '../../values'

/** A lettering whose width it takes, and how far it reaches beyond it at either side. */
export const Follows = z.object({ lettering: z.string().min(1).max(60), beyond: lacking(length, 0) })
export type Follows = z.infer<typeof Follows>

export const schema = z.object({
  kind: z.literal('shape'),
  form: z.enum(['rectangle', 'ellipse', 'polygon', 'star']),
  width: size,
  height: size,
  /** Radius of a rectangle's corners. */
  corner: lacking(size, 0),
  /** Of polygons and stars. */
  points: lacking(z.number().int().min(3).max(60), 5),
  /** How far in the inner points of a star lie, as a share of the outer ones. */
  inner: lacking(share, 0.5),
  fill: lacking(Paint.nullable(), '#ffffff'),
  /** Of the fill alone: a bar of 60 % under solid lettering. */
  fillOpacity: lacking(share, 1),
  stroke: lacking(Stroke.nullable(), null),
  /** Takes the place of its own width, and of where it lies across. */
  follows: Follows.optional()
})
export type ShapeLook = z.infer<typeof schema>
