/**
 * A scene: an animation that Pour renders itself. Plain data, in a job or in a file of its own; the first element lies
 * in front. Lengths are pixels of the scene, angles degrees clockwise, times seconds.
 */
import { z } from 'zod'
import { HexColour } from '../../base/colour'
import { Rate } from '../../base/rate'
import { FACES } from './faces'

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

const length = z
  .number()
  .min(-4 * MOST.side)
  .max(4 * MOST.side)
const size = z
  .number()
  .min(0)
  .max(4 * MOST.side)
const share = z.number().min(0).max(1)
const seconds = z.number().min(0).max(3600)

export const EASES = ['linear', 'soft', 'slow in', 'slow out', 'beyond'] as const
/** A named course of a movement, or a curve by the two handles of a cubic from 0, 0 to 1, 1. */
export const Ease = z.union([
  z.enum(EASES),
  z.tuple([share, z.number().min(-2).max(3), share, z.number().min(-2).max(3)])
])
export type Ease = z.infer<typeof Ease>

export const MOVES = ['none', 'fade', 'slide', 'grow', 'wipe', 'trace', 'letters', 'words', 'lines', 'scatter'] as const
export const SIDES = ['left', 'right', 'top', 'bottom'] as const

/** How an element comes or goes. */
export const Move = z.object({
  kind: z.enum(MOVES),
  seconds,
  ease: Ease,
  /** Where a slide comes from or goes to, and where a wipe begins. */
  side: z.enum(SIDES)
})
export type Move = z.infer<typeof Move>

export const Gradient = z.object({ from: HexColour, to: HexColour, angle: z.number().min(-360).max(360) })
export const Paint = z.union([HexColour, Gradient])
export type Gradient = z.infer<typeof Gradient>
export type Paint = z.infer<typeof Paint>

export const Stroke = z.object({ colour: HexColour, width: size.min(0.1).max(1000) })
export type Stroke = z.infer<typeof Stroke>

/** A font file that goes along with the description, in base64. */
export const OwnFace = z.object({
  id: z.string().regex(/^own-\d{1,4}$/),
  name: z.string().min(1).max(80),
  data: z.string().max(MOST.font)
})
export type OwnFace = z.infer<typeof OwnFace>

/** Words that are set otherwise than the rest of their lettering. */
export const Accent = z.object({
  words: z.string().max(200),
  face: z.string().min(1).max(60),
  colour: Paint,
  /** Their size, as a share of the lettering's. */
  scale: z.number().min(0.1).max(4)
})
export type Accent = z.infer<typeof Accent>

export const Lettering = z.object({
  kind: z.literal('text'),
  text: z.string().max(MOST.letters),
  /** The column of a table that fills it; null where it stays as it is. */
  field: z.string().min(1).max(60).nullable(),
  /** One that ships with Pour, or one of the scene's own. */
  face: z.string().min(1).max(60),
  size: size.min(1).max(2000),
  colour: Paint,
  /** Between letters, in thousandths of the size. */
  tracking: z.number().min(-200).max(2000),
  /** From line to line, as a share of the size. */
  leading: z.number().min(0.5).max(4),
  align: z.enum(['left', 'centre', 'right']),
  accents: z.array(Accent).max(MOST.accents).optional()
})

export const Figure = z.object({
  kind: z.literal('shape'),
  form: z.enum(['rectangle', 'ellipse', 'polygon', 'star']),
  width: size,
  height: size,
  /** Radius of a rectangle's corners. */
  corner: size,
  /** Of polygons and stars. */
  points: z.number().int().min(3).max(60),
  /** How far in the inner points of a star lie, as a share of the outer ones. */
  inner: share,
  fill: Paint.nullable(),
  /** Of the fill alone: a bar of 60 % under solid lettering. */
  fillOpacity: share,
  stroke: Stroke.nullable()
})

/** A point of a path, from the element's place, with the handles of the curve before and after it. */
export const PathPoint = z.object({
  x: length,
  y: length,
  before: z.tuple([length, length]).nullable(),
  after: z.tuple([length, length]).nullable()
})
export type PathPoint = z.infer<typeof PathPoint>

export const Path = z.object({
  kind: z.literal('path'),
  points: z.array(PathPoint).min(2).max(MOST.points),
  closed: z.boolean(),
  fill: Paint.nullable(),
  stroke: Stroke.nullable(),
  /** What follows the head of a path that is traced, turned along it. */
  rider: z.enum(['none', 'arrow', 'dot']),
  riderSize: size.max(2000)
})

/** A PNG file that goes along with the description, in base64, and the size it is shown in. */
export const Picture = z.object({
  kind: z.literal('picture'),
  data: z.string().max(MOST.picture),
  width: size.min(0.1),
  height: size.min(0.1)
})

/** Another source of the job, shown from the moment the element comes. */
export const ClipLook = z.object({
  kind: z.literal('clip'),
  /** Its id in the job; in a file by itself the path of its file, from where the scene's lies. */
  source: z.string().min(1).max(1000),
  /** What it is called. */
  title: z.string().max(80),
  width: size.min(0.1),
  height: size.min(0.1),
  /** The first of its pictures that is shown, from 0. */
  from: z.number().int().min(0).max(1_000_000),
  /** What comes after its last picture: that one again, or the first. */
  ends: z.enum(['holds', 'repeats'])
})

/** Other elements taken together: moved, turned, faded and shadowed as one. They name it in `inside`. */
export const Group = z.object({ kind: z.literal('group') })

export const Look = z.discriminatedUnion('kind', [Lettering, Figure, Path, Picture, ClipLook, Group])
export type Look = z.infer<typeof Look>

export const KEYED = ['x', 'y', 'scale', 'rotation', 'opacity', 'trace'] as const
export type Keyed = (typeof KEYED)[number]

/** Values at times, and the course from each to the next. */
export const Key = z.object({ at: seconds, value: length, ease: Ease })
export type Key = z.infer<typeof Key>
/** A colour at a time, and the course to the next. */
export const ColourKey = z.object({ at: seconds, colour: HexColour, ease: Ease })
export type ColourKey = z.infer<typeof ColourKey>

export const Track = z.object({
  of: z.enum(KEYED),
  keys: z.array(Key).min(1).max(MOST.keys)
})
export type Track = z.infer<typeof Track>

export const Shadow = z.object({ x: length, y: length, soft: size.max(500), colour: HexColour, opacity: share })
export type Shadow = z.infer<typeof Shadow>
export const Glow = z.object({
  soft: size.max(500),
  colour: HexColour,
  opacity: share,
  /** Light that is added to what lies behind, and covers nothing of it; no straight picture can hold it. */
  added: z.boolean().optional()
})
export type Glow = z.infer<typeof Glow>

export const Element = z.object({
  id: z.string().min(1).max(60),
  name: z.string().max(80),
  hidden: z.boolean(),
  /** Shown without the others. */
  alone: z.boolean(),
  locked: z.boolean(),
  /** The group it belongs to; its place is then counted from the group's. */
  inside: z.string().max(60).optional(),
  /** Where its middle lies; of lettering its first line's left, middle or right end on the base line. */
  x: length,
  y: length,
  scale: z.number().min(0).max(100),
  rotation: z.number().min(-36_000).max(36_000),
  opacity: share,
  /** The corner or edge whose distance it keeps when the scene takes another size. */
  pin: z.enum(['middle', 'top left', 'top right', 'bottom left', 'bottom right']),
  /** From when on it is there: a time, or once the entrance of another element has ended; and how much later. */
  after: z.string().max(60).nullable(),
  delay: seconds,
  entrance: Move,
  /** Between entrance and exit; null until the exit ends with the scene. */
  hold: seconds.nullable(),
  exit: Move,
  tracks: z.array(Track).max(KEYED.length),
  /** Colours that the element takes over time, in place of its own. */
  colours: z.array(ColourKey).min(1).max(MOST.keys).optional(),
  shadow: Shadow.nullable(),
  glow: Glow.nullable(),
  look: Look
})
export type Element = z.infer<typeof Element>

/** The type faces that a look is lettered in, its own first. */
export const facesOf = (look: Look): string[] =>
  look.kind === 'text' ? [look.face, ...(look.accents ?? []).map(({ face }) => face)] : []

export const Span = z.object({
  name: z.string().min(1).max(60),
  from: z.number().int().min(1),
  to: z.number().int().min(1)
})

export const Scene = z
  .object({
    pour: z.literal('scene'),
    version: z.literal(1),
    name: z.string().min(1).max(80),
    width: z.number().int().min(1).max(MOST.side),
    height: z.number().int().min(1).max(MOST.side),
    rate: Rate,
    frames: z.number().int().min(1).max(MOST.frames),
    /** What lies behind everything, which makes alpha solid; null for none. */
    backdrop: HexColour.nullable(),
    /** Moments of one frame that are laid together, and for how much of the frame's time the picture is open. */
    blur: z.object({ moments: z.number().int().min(1).max(64), open: share }),
    elements: z.array(Element).max(MOST.elements),
    /** Type faces of its own. */
    faces: z.array(OwnFace).max(MOST.fonts).optional(),
    spans: z.array(Span).max(200)
  })
  .superRefine((scene, context) => {
    if (scene.width * scene.height > MOST.pixels)
      context.addIssue({
        code: 'custom',
        path: ['width'],
        message: `a picture of ${scene.width}x${scene.height} is larger than a scene may be`
      })
    const ids = new Set<string>()
    for (const [n, { id }] of scene.elements.entries()) {
      if (ids.has(id))
        context.addIssue({ code: 'custom', path: ['elements', n, 'id'], message: `"${id}" is there twice` })
      ids.add(id)
    }
    for (const [n, { after }] of scene.elements.entries())
      if (after !== null && !ids.has(after))
        context.addIssue({ code: 'custom', path: ['elements', n, 'after'], message: `no element is called "${after}"` })
    const faces = new Set([...FACES, ...(scene.faces ?? [])].map(face => face.id as string))
    for (const [n, { look }] of scene.elements.entries())
      for (const face of facesOf(look))
        if (!faces.has(face))
          context.addIssue({
            code: 'custom',
            path: ['elements', n, 'look', 'face'],
            message: `no type face is called "${face}"`
          })
    const byId = new Map(scene.elements.map(element => [element.id, element]))
    for (const [n, { id, inside }] of scene.elements.entries()) {
      if (inside === undefined) continue
      const wrong = (message: string): void =>
        context.addIssue({ code: 'custom', path: ['elements', n, 'inside'], message })
      if (byId.get(inside)?.look.kind !== 'group') wrong(`no group is called "${inside}"`)
      let depth = 0
      for (let at: string | undefined = inside; at !== undefined; at = byId.get(at)?.inside)
        if (at === id || ++depth > MOST.depth) {
          wrong(at === id ? 'a group lies within itself' : `groups lie more than ${MOST.depth} deep`)
          break
        }
    }
  })
export type Scene = z.infer<typeof Scene>

/** Seconds that a scene lasts. */
export const lastsOf = ({ frames, rate: [n, d] }: Pick<Scene, 'frames' | 'rate'>): number => (frames * d) / n

/** Whether anything that is drawn adds light, so that its frames can only be said premultiplied. */
export const addsLight = ({ elements }: Scene): boolean => elements.some(({ glow, hidden }) => !hidden && !!glow?.added)
