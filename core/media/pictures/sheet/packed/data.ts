/** What the data file of a packed sheet says: which piece of which page is which frame, and where it stands in it. */
import { z } from 'zod'
import { sayIssue } from '../../../../base/say-issue'
import { unreadable } from '../../../../base/errors'
import { Rate } from '../../../../base/rate'

/** Pages and frames that a data file may tell of, and how wide and high a page or a frame may be. */
export const MOST_PAGES = 64
export const MOST_FRAMES = 20_000
const MOST_SIDE = 16_384

const Side = z.number().int().min(1).max(MOST_SIDE)
const Place = z.number().int().min(0).max(MOST_SIDE)

export const SheetPage = z.object({
  image: z.string().min(1).max(255).describe('Name of the picture, which lies beside this file.'),
  width: Side,
  height: Side
})

export const SheetPiece = z.object({
  page: z.number().int().min(0).max(MOST_PAGES).describe('Which of the pages it lies in, counted from 0.'),
  x: Place.describe('Its left edge in the page, in pixels from the left.'),
  y: Place.describe('Its top edge in the page, in pixels from the top.'),
  width: Side.describe('Its width as it stands in the frame.'),
  height: Side.describe('Its height as it stands in the frame.'),
  left: Place.describe('Where its left edge stands in the frame.'),
  top: Place.describe('Where its top edge stands in the frame.'),
  rotated: z
    .boolean()
    .describe('Whether it lies in the page turned by a quarter clockwise: it is as wide there as it is high here.')
})
export type SheetPiece = z.infer<typeof SheetPiece>

export const SheetAction = z.object({
  name: z.string().min(1).max(60),
  from: z.number().int().min(1).describe('Its first frame, counted from 1.'),
  to: z.number().int().min(1).describe('Its last frame, which belongs to it.')
})
export type SheetAction = z.infer<typeof SheetAction>

export const PackedSheet = z.object({
  sheet: z.literal('packed'),
  version: z.literal(1),
  name: z.string().min(1).max(255),
  width: Side.describe('Width of every frame before it was trimmed.'),
  height: Side.describe('Height of every frame before it was trimmed.'),
  rate: Rate.nullable().describe('Frames a second as two whole numbers; null where nobody knows.'),
  alpha: z
    .enum(['straight', 'premultiplied', 'none'])
    .describe('How colour stands to alpha in the pages; premultiplied means on black.'),
  bits: z.union([z.literal(8), z.literal(16)]).describe('Bits of a channel in the pages.'),
  padding: Place.describe('Clear pixels between two pieces.'),
  extrude: Place.describe('Pixels that each piece is repeated by around itself, within the page.'),
  pivot: z
    .object({ x: z.number().min(0).max(1), y: z.number().min(0).max(1) })
    .describe('The point that every frame is held by, as parts of its width and height from the top left.'),
  pages: z.array(SheetPage).min(1).max(MOST_PAGES),
  frames: z.array(SheetPiece).min(1).max(MOST_FRAMES),
  actions: z.array(SheetAction).max(1000)
})
export type PackedSheet = z.infer<typeof PackedSheet>

/** JSON Schema of the data file. */
export const sheetSchema = (): object => ({ title: 'Data of a packed sheet', ...z.toJSONSchema(PackedSheet) })

/** How a piece lies in its page: as wide as it is high, where it is turned. */
export const sizeInPage = ({ width, height, rotated }: SheetPiece): { width: number; height: number } =>
  rotated ? { width: height, height: width } : { width, height }

/** Throws an error that names the file where a piece lies outside its page or frame, or an action outside the clip. */
export function checked(sheet: PackedSheet, file: string): PackedSheet {
  const fail = (where: string, matter: string): Error => unreadable(file, where, matter)
  sheet.frames.forEach((piece, index) => {
    const where = `frame ${index + 1}`
    const page = sheet.pages[piece.page]
    if (!page) throw fail(where, `it lies in page ${piece.page + 1}, and there are ${sheet.pages.length}`)
    const { width, height } = sizeInPage(piece)
    if (piece.x + width > page.width || piece.y + height > page.height)
      throw fail(where, `it lies outside ${page.image}, which has ${page.width}x${page.height}`)
    if (piece.left + piece.width > sheet.width || piece.top + piece.height > sheet.height)
      throw fail(where, `its piece stands outside the frame of ${sheet.width}x${sheet.height}`)
  })
  for (const { name, from, to } of sheet.actions)
    if (from > to || to > sheet.frames.length)
      throw fail(`action "${name}"`, `it runs from ${from} to ${to}, and there are ${sheet.frames.length} frames`)
  return sheet
}

/** Reads a data file's text; rejects with one error that names the file, the place and the matter. */
export function readPackedSheet(told: unknown, file: string): PackedSheet {
  const read = PackedSheet.safeParse(told)
  if (!read.success) throw unreadable(file, 'the data of the sheet', sayIssue(read.error.issues[0]!))
  return checked(read.data, file)
}
