/**
 * What a kind of element is: how it is described, spoken of, entered in a form, laid out and drawn. One folder holds
 * one kind, and `kinds.ts` lists it.
 */
import type { z } from 'zod'
import type { Choice } from '../../../base/settings/field'
import type { Host } from '../../../frame/host'
import type { KnownFinding } from '../../../source/finding-kinds'
import type { Finding } from '../../../source/source'
import type { Affine, Line } from '../../raster/line'
import type { Bitmap } from '../bitmap'
import type { Extent, Ink } from '../ink'
import type { Layer } from '../layer'
import type { Move, OwnFace, Paint } from '../values'
import type { FormEntry } from './entry'

export type LookSchema = z.ZodObject<{ kind: z.ZodLiteral<string> }>

/** What is at hand when an element is laid out. */
export interface Laying {
  /** What it is called, for errors. */
  name: string
  host: Host
  /** Type faces of the scene's own. */
  faces: readonly OwnFace[]
  /** The box of what lies in it, from its place; of nothing where it holds nothing. */
  members: Extent
  /** How often what it lies in is drawn. */
  outer: number
  /** The line of a path beside it, from its place and at its scale; null where there is none of that id. */
  path(id: string): Line | null
  /** Where a lettering beside it rests, from its place and at its scale; null where there is none of that id. */
  lettering(id: string): Promise<Extent | null>
}

/** What an element is drawn from at a moment. */
export interface ElementDrawing extends Ink {
  /** The picture of another source that it shows then. */
  picture: () => Bitmap
  /** Seconds since it came. */
  since: number
  /**
   * What lies in it, laid together, null where nothing of it is to be seen. As a copy of it, to be looked at only; as
   * it is, to be changed at will.
   */
  members: (copy?: Copy) => Layer | null
}

/** What lies in an element once more: the how manieth, from 0, moved by a transform, so many seconds later. */
export interface Copy {
  n: number
  by: Affine
  later: number
}

/** What is to be said of an element as it is laid out: what is otherwise than it was asked for. */
export type LaidFinding = Pick<Finding, 'severity' | 'sentence'> & { id: KnownFinding }

/** An element laid out, in its own coordinates. */
export interface LaidOut {
  box: Extent
  /** Letters that no type face has. */
  missing: readonly string[]
  told?: readonly LaidFinding[]
  /** What it is at a moment, before anything lies under it; null where there is nothing. */
  draw(drawing: ElementDrawing): Layer | null
}

/** What of the scene the form of an element offers. */
export interface Offers {
  /** Type faces of the scene's own. */
  faces: readonly Choice[]
  /** Letterings that lie where the element does. */
  letterings: readonly Choice[]
  /** Elements that lie where it does. */
  beside: readonly Choice[]
  /** Paths among them. */
  paths: readonly Choice[]
  /** Whether the scene is looked at through a camera, so that depths count. */
  camera: boolean
}
export const NO_OFFERS: Offers = { faces: [], letterings: [], beside: [], paths: [], camera: false }

export interface PixelSize {
  width: number
  height: number
}

/** What a new one is made from: the size of the scene alone, a PNG file, another source of the job. */
export type Begins<L> =
  | { from: 'size'; fresh(scene: PixelSize): L }
  | { from: 'picture'; fresh(scene: PixelSize, picture: PixelSize & { data: string }): L }
  | { from: 'source'; fresh(scene: PixelSize, source: PixelSize & { id: string; name: string }): L }

export interface ElementKind<S extends LookSchema, L = z.infer<S>> {
  /** Of its look; the literal of `kind` names it in files. */
  readonly schema: S
  /** What the button that adds one says, and the documentation's heading. */
  readonly name: string
  /** In one sentence, for the documentation and the button. */
  readonly help: string
  /** Makes a new one. */
  readonly begins: Begins<L>
  /** How a new one comes. */
  readonly comes: Move['kind']
  /** Movements that it can make beside those of every element. */
  readonly moves: readonly Move['kind'][]
  /** What a sentence calls it, where that differs from its name. */
  called?(look: L): string
  /**
   * Makes a look whose size is its own wider and taller by so much, about its middle, and gives by how much it became
   * so; looks without it are stretched.
   */
  resize?(look: L, wider: number, taller: number): readonly [wider: number, taller: number]
  /** The form of its look, in order. */
  entries(look: L, offers: Offers): FormEntry<L>[]
  /** What of it has the colour that colours over time take the place of. */
  paint?(look: L): Paint | null
  /** Words that it shows, which can be changed where they stand and filled from a table. */
  readonly words?: {
    of(look: L): string
    set(look: L, words: string): void
    /** The column of a table that fills it; null where it stays as it is. */
    column(look: L): string | null
    takeColumn(look: L, column: string | null): void
  }
  /** What else of it a table fills: the number that it shows, the picture that it carries, a PNG file in base64. */
  readonly fills?: {
    number?(look: L, value: number): void
    picture?(look: L, picture: PixelSize & { data: string }): void
  }
  /** What of it is lettered in a type face; each is changed in place. */
  lettered?(look: L): { face: string }[]
  /** Gives other elements that it goes by another id, as `to` says, in place. */
  goesBy?(look: L, to: (id: string) => string): void
  /** Other elements name it in `inside` and move as one with it. */
  readonly holds?: true
  /** It is not seen itself: the scene is looked at through it. */
  readonly unseen?: true
  /** How often what lies in it is drawn, and how much later each time; undefined for once. */
  copies?(look: L): { count: number; later: number } | undefined
  /** The line that others go along; its last point is its first where it is closed. */
  line?(look: L): Line
  /** Whether it is another from moment to moment by itself. */
  runs?(look: L): boolean
  /** Lays it out. Rejects with one clear error that names the element. */
  lay(look: L, laying: Laying): LaidOut | Promise<LaidOut>
}

export const elementKind = <S extends LookSchema>(kind: ElementKind<S>): ElementKind<S> => kind
