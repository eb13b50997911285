/** What pictures and other sources share: a size whose shape stays. */
import type { z } from 'zod'
import type { Box } from '../ink'
import { boundsOf, entryOf, heldTo, rounded, type Entry } from './entry'
import type { Size } from './kind'
import { lookOwner } from './painted'

/** Made smaller, if need be, to lie within a room. */
export function fitted({ width, height }: Size, room: Size): Size {
  const by = Math.min(1, room.width / width, room.height / height)
  return { width: width * by, height: height * by }
}

/** The box of a size about its middle. */
export const boxOfSize = ({ width, height }: Size): Box => [-width / 2, -height / 2, width / 2, height / 2]

/** Its width; the height follows. */
export function widthEntry<L extends Size & { kind: string }>(
  look: L,
  shape: { width: z.ZodNumber; height: z.ZodNumber }
): Entry<L> {
  const max = Math.min(1, look.width / look.height) * boundsOf(shape.width).max
  const value = rounded(look.width)
  const field = { type: 'number', label: 'Width', typed: true, step: 'any', min: 1, max, default: value } as const
  return entryOf(lookOwner<L>(look), { field, value }, (now, entered) => {
    const width = heldTo(shape.width, Number(entered))
    now.height = heldTo(shape.height, (now.height * width) / now.width)
    now.width = width
  })
}
