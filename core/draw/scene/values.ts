/** What scenes and their elements are described in: lengths, courses, paints and keys, each with its bounds. */
import { z } from 'zod'
import { HexColour } from '../../base/colour'

/** How many frames, elements and points a scene may have: far beyond what anybody draws, and bounded. */
export const MOST = {
  frames: 20_000,
  elements: 200,
  points: 400,
  letters: 2000,
  side: 8192,
  pixels: 7680 * 4320,
  keys: 200,
  picture: 3_000_000,
  depth: 8,
  /** Letters of a font file in base64, and font files. */
  font: 4_000_000,
  fonts: 8,
  /** Kinds of words in one lettering that are set otherwise than the rest. */
  accents: 4
} as const

export const length = z
  .number()
  .min(-4 * MOST.side)
  .max(4 * MOST.side)
export const size = z
  .number()
  .min(0)
  .max(4 * MOST.side)
export const share = z.number().min(0).max(1)
export const seconds = z.number().min(0).max(3600)

/**
 * What stands where a scene's file leaves a field out: told by the published schema, filled in by `written.ts`. The
 * schema itself asks for every field, as what is in memory has it.
 */
export const lacking = <S extends z.ZodType>(schema: S, value: z.infer<S>): S => schema.meta({ default: value }) as S

export const EASES = ['linear', 'soft', 'slow in', 'slow out', 'beyond'] as const
/** A named course of a movement, or a curve by the two handles of a cubic from 0, 0 to 1, 1. */
export const Ease = z.union([
  z.enum(EASES),
  z.tuple([share, z.number().min(-2).max(3), share, z.number().min(-2).max(3)])
])
export type Ease = z.infer<typeof Ease>

export const MOVES = ['none', 'fade', 'slide', 'grow', 'wipe', 'trace', 'letters', 'words', 'lines', 'scatter'] as const
/** Those that every element can make. */
export const EVERY_MOVE: readonly (typeof MOVES)[number][] = ['none', 'fade', 'slide', 'grow', 'wipe']
export const SIDES = ['left', 'right', 'top', 'bottom'] as const

/** How an element comes or goes. */
export const Move = z.object({
  kind: lacking(z.enum(MOVES), 'none'),
  seconds: lacking(seconds, 0.5),
  ease: lacking(Ease, 'soft'),
  /** Where a slide comes from or goes to, and where a wipe begins. */
  side: lacking(z.enum(SIDES), 'left')
})
export type Move = z.infer<typeof Move>

/** A move that moves nothing, with what it would have if it were given a kind. */
export const still = (): Move => ({ kind: 'none', seconds: 0.5, ease: 'soft', side: 'left' })

export const Gradient = z.object({ from: HexColour, to: HexColour, angle: lacking(z.number().min(-360).max(360), 0) })
export const Paint = z.union([HexColour, Gradient])
export type Gradient = z.infer<typeof Gradient>
export type Paint = z.infer<typeof Paint>

const dash = size.min(0.1).max(10_000)
/** A line along something: what is not said is round, without dashes. */
export const Stroke = z.object({
  colour: HexColour,
  width: size.min(0.1).max(1000),
  /** How it ends, and how its dashes do. */
  cap: z.enum(['round', 'flat', 'square']).optional(),
  /** How it turns corners; a pointed one that would reach beyond so many half widths is bevelled. */
  join: z.enum(['round', 'pointed', 'bevelled']).optional(),
  pointLimit: z.number().min(1).max(100).optional(),
  /** How long each dash is, and what is left open behind it. */
  dashes: z.tuple([dash, dash]).optional(),
  /** How far along the dashes begin; values over time take its place. */
  dashOffset: length.optional()
})
export type Stroke = z.infer<typeof Stroke>

/** A font file that goes along with the description, in base64. */
export const OwnFace = z.object({
  id: z.string().regex(/^own-\d{1,4}$/),
  name: z.string().min(1).max(80),
  data: z.string().max(MOST.font)
})
export type OwnFace = z.infer<typeof OwnFace>

export const KEYED = [
  'x',
  'y',
  'scale',
  'rotation',
  'wide',
  'tall',
  'opacity',
  'trace',
  'dashes',
  'along',
  'depth',
  'seconds'
] as const
export type Keyed = (typeof KEYED)[number]

/** What stands between thousands, and before decimals. */
export const Marks = z.enum(['1000.5', '1 000.5', '1,000.5', '1 000,5', '1.000,5'])

const Column = z.string().min(1).max(60)
/** Columns of a table that fill what is not words, and how numbers from a column are lettered. */
export const Columns = z.object({
  number: Column.optional(),
  colour: Column.optional(),
  picture: Column.optional(),
  figures: z
    .object({ decimals: lacking(z.number().int().min(0).max(6), 0), marks: lacking(Marks, '1,000.5') })
    .optional()
})
export type Columns = z.infer<typeof Columns>

/** When a key stands and how it goes on: on its course to the next, or `holds`, as it is until the next. */
const Timed = z.object({ at: seconds, ease: lacking(Ease, 'linear'), holds: z.boolean().optional() })
/** Values at times, and the course from each to the next. */
export const Key = Timed.extend({ value: length })
export type Key = z.infer<typeof Key>
/** A colour at a time, and the course to the next. */
export const ColourKey = Timed.extend({ colour: HexColour })
export type ColourKey = z.infer<typeof ColourKey>

export const Track = z.object({
  of: z.enum(KEYED),
  keys: z.array(Key).min(1).max(MOST.keys)
})
export type Track = z.infer<typeof Track>

/** How an element is laid on what lies behind it (W3C Compositing and Blending 1, 5; `add` is the sum, held to 1). */
export const Blend = z.enum(['normal', 'add', 'screen', 'multiply', 'overlay', 'lighten', 'darken'])
export type Blend = z.infer<typeof Blend>

/** Another element, which is not drawn itself, cuts this one: it is seen only where that one is, or is not. */
export const Matte = z.object({
  by: z.string().max(60),
  /** Of the other: its alpha, what that leaves, its brightness on black, and what that leaves. */
  takes: lacking(z.enum(['where it is', 'where it is not', 'where it is bright', 'where it is dark']), 'where it is'),
  /** Softness of its edge, as that of a shadow. */
  soft: lacking(size.max(500), 0)
})
export type Matte = z.infer<typeof Matte>

const [black, solid] = [lacking(HexColour, '#000000'), lacking(share, 1)]
export const Shadow = z.object({
  x: lacking(length, 0),
  y: lacking(length, 0),
  soft: lacking(size.max(500), 0),
  ...{ colour: black, opacity: solid }
})
export type Shadow = z.infer<typeof Shadow>
export const Glow = z.object({
  soft: size.max(500),
  colour: HexColour,
  opacity: solid,
  /** Light that is added to what lies behind, and covers nothing of it; no straight picture can hold it. */
  added: z.boolean().optional()
})
export type Glow = z.infer<typeof Glow>
