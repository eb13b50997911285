/**
 * The layout of sheet data that many engines share: `frames` as an object or an array, and `meta`, one file a page.
 * Written for those who read nothing else, and read where a sheet comes from elsewhere.
 */
import { z } from 'zod'
import { sayIssue } from '../../../../base/say-issue'
import { unreadable } from '../../../../base/errors'
import { naturally } from '../../../../base/natural'
import { framesPerSecond, nearestRate, type Rate } from '../../../../base/rate'
import { checked, MOST_FRAMES, type PackedSheet } from './data'

const Whole = z.number().int().min(0).max(16_384)
const Box = z.object({ x: Whole, y: Whole, w: Whole, h: Whole })
const Size = z.object({ w: Whole.min(1), h: Whole.min(1) })

const SharedFrame = z.object({
  /** Where it lies; `w` and `h` are as it stands in its frame, whether it is turned in the page or not. */
  frame: Box,
  rotated: z.boolean().default(false),
  trimmed: z.boolean().optional(),
  spriteSourceSize: Box.optional(),
  sourceSize: Size.optional(),
  pivot: z.object({ x: z.number(), y: z.number() }).optional(),
  /** Milliseconds. */
  duration: z.number().positive().max(3_600_000).optional()
})

export const SharedSheet = z.object({
  frames: z.union([
    z.record(z.string().max(300), SharedFrame),
    z.array(SharedFrame.extend({ filename: z.string().max(300) })).max(MOST_FRAMES)
  ]),
  animations: z.record(z.string().max(60), z.array(z.string().max(300)).max(MOST_FRAMES)).optional(),
  meta: z.object({
    image: z.string().min(1).max(255),
    size: Size,
    scale: z.union([z.string(), z.number()]).optional()
  })
})
export type SharedSheet = z.infer<typeof SharedSheet>

/** JSON Schema of the shared layout, as it is written here. */
export const sharedSchema = (): object => ({
  title: 'Frames of a sheet, in the layout that engines share',
  ...z.toJSONSchema(SharedSheet, { io: 'input' })
})

/** What each frame is called: by its action, and its number in it; by the sheet, where it is in no action. */
export function frameNames({ name, frames, actions }: PackedSheet): string[] {
  const digits = Math.max(4, String(frames.length).length)
  const called = (of: string, number: number): string => `${of}_${String(number).padStart(digits, '0')}`
  return frames.map((_, index) => {
    const action = actions.find(({ from, to }) => index + 1 >= from && index + 1 <= to)
    return action ? called(action.name, index + 2 - action.from) : called(name, index + 1)
  })
}

/** One file for each page, in the order of the pages. */
export function sharedData(sheet: PackedSheet, as: 'hash' | 'array'): SharedSheet[] {
  const names = frameNames(sheet)
  const duration = sheet.rate ? Math.round(1e6 / framesPerSecond(sheet.rate)) / 1000 : null
  const actions = sheet.actions.length ? sheet.actions : [{ name: sheet.name, from: 1, to: sheet.frames.length }]
  const animations = Object.fromEntries(actions.map(({ name, from, to }) => [name, names.slice(from - 1, to)]))
  return sheet.pages.map((page, n) => {
    const own = sheet.frames.flatMap((piece, index) => {
      if (piece.page !== n) return []
      const { x, y, width, height, left, top, rotated } = piece
      const trimmed = width !== sheet.width || height !== sheet.height
      const frame = {
        frame: { x, y, w: width, h: height },
        rotated,
        trimmed,
        spriteSourceSize: { x: left, y: top, w: width, h: height },
        sourceSize: { w: sheet.width, h: sheet.height },
        pivot: sheet.pivot,
        ...(duration === null ? {} : { duration })
      }
      return [[names[index]!, frame] as const]
    })
    return {
      frames: as === 'hash' ? Object.fromEntries(own) : own.map(([filename, frame]) => ({ filename, ...frame })),
      // they run over all pages, and are told once
      ...(n === 0 ? { animations } : {}),
      meta: { image: page.image, size: { w: page.width, h: page.height }, scale: '1' }
    }
  })
}

/** The rate that lengths in milliseconds speak of, where all frames are alike; null where they are not, or say none. */
function rateOf(lengths: readonly (number | undefined)[]): Rate | null {
  const [first] = lengths
  if (first === undefined || lengths.some(length => length !== first)) return null
  const rate = nearestRate([1000, first], 1001)
  // thousandths of a second name 24000/1001 only nearly: a whole number within their reach is meant rather
  const whole = Math.round(1000 / first)
  return whole > 0 && Math.abs(1000 / whole - first) < 0.5 ? [whole, 1] : rate
}

export interface FromElsewhere {
  sheet: PackedSheet
  /** Sentences on what could not be taken as it is. */
  told: string[]
}

/** Reads the shared layout's parsed text; rejects with one error that names the file, the place and the matter. */
export function readShared(told: unknown, file: string, bits: 8 | 16): FromElsewhere {
  const read = SharedSheet.safeParse(told)
  if (!read.success) throw unreadable(file, 'the frames of the sheet', sayIssue(read.error.issues[0]!))
  const { frames, animations = {}, meta } = read.data
  const named = Array.isArray(frames)
    ? frames.map(({ filename, ...frame }) => ({ name: filename, frame }))
    : Object.entries(frames)
        .map(([name, frame]) => ({ name, frame }))
        .sort((a, b) => naturally(a.name, b.name))
  if (named.length === 0) throw unreadable(file, 'the frames of the sheet', 'there are none')
  const sentences: string[] = []
  const sizes = named.map(({ frame }) => frame.sourceSize ?? { w: frame.frame.w, h: frame.frame.h })
  const [width, height] = [Math.max(...sizes.map(({ w }) => w)), Math.max(...sizes.map(({ h }) => h))]
  const others = sizes.filter(({ w, h }) => w !== width || h !== height).length
  if (others)
    sentences.push(
      `${others} of ${named.length} frames are smaller than ${width}x${height}; they stand at its top left.`
    )
  const empty = named.filter(({ frame }) => frame.frame.w === 0 || frame.frame.h === 0)
  if (empty.length) throw unreadable(file, `frame "${empty[0]!.name}"`, 'it has no width or no height')
  const rate = rateOf(named.map(({ frame }) => frame.duration))
  if (!rate && named.some(({ frame }) => frame.duration !== undefined))
    sentences.push('Its frames stand for different lengths of time, which is not kept: give it one rate.')
  const places = new Map(named.map(({ name }, index) => [name, index + 1]))
  const actions = Object.entries(animations).flatMap(([name, list]) => {
    const numbers = list.map(each => places.get(each) ?? 0)
    const inRow = numbers.length > 0 && numbers.every((n, i) => n > 0 && n === numbers[0]! + i)
    if (!inRow) sentences.push(`Its action "${name}" is not a run of frames in their order, and is left out.`)
    return inRow ? [{ name, from: numbers[0]!, to: numbers.at(-1)! }] : []
  })
  const pivot = named[0]!.frame.pivot ?? { x: 0.5, y: 0.5 }
  const within = (part: number): number => Math.min(1, Math.max(0, part))
  const sheet: PackedSheet = {
    sheet: 'packed',
    version: 1,
    name: meta.image.replace(/\.[^.]*$/, ''),
    width,
    height,
    rate,
    alpha: 'straight',
    bits,
    padding: 0,
    extrude: 0,
    pivot: { x: within(pivot.x), y: within(pivot.y) },
    pages: [{ image: meta.image, width: meta.size.w, height: meta.size.h }],
    frames: named.map(({ frame: { frame, rotated, spriteSourceSize } }) => ({
      page: 0,
      x: frame.x,
      y: frame.y,
      width: frame.w,
      height: frame.h,
      left: spriteSourceSize?.x ?? 0,
      top: spriteSourceSize?.y ?? 0,
      rotated
    })),
    actions
  }
  return { sheet: checked(sheet, file), told: sentences }
}
