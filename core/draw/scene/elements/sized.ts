/** What pictures and other sources share: a size whose shape stays. */
import type { z } from 'zod'
import type { Extent } from '../ink'
import { boundsOf, entryOf, heldTo, rounded, type FormEntry } from './entry'
import type { PixelSize } from './kind'
import { lookOwner } from './owner'

/** Made smaller, if need be, to lie within a room. */
export function fitted({ width, height }: PixelSize, room: PixelSize): PixelSize {
  const by = Math.min(1, room.width / width, room.height / height)
  return { width: width * by, height: height * by }
}

/** The box of a size about its middle. */
export const boxOfSize = ({ width, height }: PixelSize): Extent => [-width / 2, -height / 2, width / 2, height / 2]

/** Its width; the height follows. */
export function widthEntry<L extends PixelSize & { kind: string }>(
  look: L,
  shape: { width: z.ZodNumber; height: z.ZodNumber }
): FormEntry<L> {
  const max = Math.min(1, look.width / look.height) * boundsOf(shape.width).max
  const value = rounded(look.width)
  const field = { type: 'number', label: 'Width', typed: true, step: 'any', min: 1, max, default: value } as const
  return entryOf(lookOwner<L>(look), { field, value }, (now, entered) => {
    const width = heldTo(shape.width, Number(entered))
    now.height = heldTo(shape.height, (now.height * width) / now.width)
    now.width = width
  })
}
