/** How frames lie in a sheet: in rows from the top left, all of one size, with a gap between them. */
import { z } from 'zod'
import { MAX_PIXELS } from '../../../frame/frame'
import { Rate } from '../../../base/rate'

export interface Grid {
  columns: number
  rows: number
  gap: number
}

/** What stands in a sheet of its frames. */
export const SheetNote = z.object({
  sheet: z.literal(1),
  frames: z.number().int().min(1).max(MAX_PIXELS),
  columns: z.number().int().min(1).max(MAX_PIXELS),
  rows: z.number().int().min(1).max(MAX_PIXELS),
  gap: z.number().int().min(0).max(1024),
  width: z.number().int().min(1).max(MAX_PIXELS),
  height: z.number().int().min(1).max(MAX_PIXELS),
  rate: Rate.nullable(),
  alpha: z.enum(['straight', 'premultiplied', 'none'])
})
export type SheetNote = z.infer<typeof SheetNote>

/** Sides that textures may have nearly everywhere, and pixels of a sheet at most: memory holds all of them at once. */
export const MOST_SIDE = 8192
export const MOST_PIXELS = { 8: 2 ** 25, 16: 2 ** 24 } as const

/** Width and height of a sheet. */
export const sheetSize = (
  { columns, rows, gap }: Grid,
  { width, height }: { width: number; height: number }
): { width: number; height: number } => ({
  width: columns * (width + gap) - gap,
  height: rows * (height + gap) - gap
})

/**
 * So many columns as were asked for, or with 0 as many as make the sheet nearest to a square; the fewest rows that hold
 * all frames. Of grids that are alike in this the widest is taken.
 */
export function gridOf(
  { width, height, frames }: { width: number; height: number; frames: number },
  { columns: asked, gap }: { columns: number; gap: number }
): Grid {
  if (asked > 0) {
    const columns = Math.min(asked, frames)
    return { columns, rows: Math.ceil(frames / columns), gap }
  }
  let best: Grid = { columns: 1, rows: frames, gap }
  for (let columns = 1; columns <= frames; columns++) {
    const grid = { columns, rows: Math.ceil(frames / columns), gap }
    const side = (of: Grid): number => {
      const size = sheetSize(of, { width, height })
      return Math.max(size.width, size.height)
    }
    if (side(grid) <= side(best)) best = grid
    // from here on it only grows wider
    if (columns * (width + gap) > grid.rows * (height + gap)) break
  }
  return best
}

/** Where a frame's first pixel lies. */
export const placeIn = (
  { columns, gap }: Pick<Grid, 'columns' | 'gap'>,
  { width, height }: { width: number; height: number },
  index: number
): { x: number; y: number } => ({
  x: (index % columns) * (width + gap),
  y: Math.floor(index / columns) * (height + gap)
})
