/**
 * A step of a preparation: fields that describe its settings (form, schema and defaults are drawn from them), what it
 * does to a source's facts, and one of the things it does to frames: `pixels` changes each pixel by itself and `plane`
 * alpha alone, which is faster than `paint`, which computes on whole straight float pictures; `move` rearranges samples
 * of any depth, `order` chooses frames. All are pure.
 */
import type { FrameSize, Kernels } from '../frame/kernels/kernels'
import type { z } from 'zod'
import type { Box } from '../base/settings/box'
import type { Frame } from '../frame/frame'
import type { Rate } from '../base/rate'
import type { SourceFacts, Sureness } from '../source/source'
import { freshValues, schemaOf, type Fields, type SettingsOf } from '../base/settings/field'
import type { PixelChange } from './carried'
import type { Picture } from './picture'

/** What a step may look at besides the frame it is given. */
export interface Surroundings {
  /** Frame number of the picture, counted from 0, as the step is given them. */
  index: number
  frames: number
  width: number
  height: number
  /** Facts of what the step is to make. */
  made: Shaped
  kernels: Kernels
  /** Whether pictures of light are linear; they are sRGB-coded where not. */
  linear?: boolean
  /** The picture as the step is given it so many frames on, or before; null where there is none. It is only read. */
  near(frames: number): Promise<Picture | null>
  /** Every `every`-th row of the picture, from the first on, as the step is given it. */
  rows(every: number): Picture
  /**
   * The picture of another source that belongs to this frame: the same number, the last one beyond its end. Null where
   * there is none.
   */
  other(id: string): Promise<Picture | null>
}

/** One frame, or two mixed: `mix` of 0 is all `from`. */
export interface Use {
  from: number
  to?: number
  mix?: number
}

/** What a clip is, as far as steps change it. */
export type Shaped = Pick<
  SourceFacts,
  | 'width'
  | 'height'
  | 'frames'
  | 'rate'
  | 'rateFrom'
  | 'bitDepth'
  | 'claim'
  | 'pixelAspect'
  | 'colour'
  | 'tags'
  | 'levels'
>

/** Facts where values come to lie between codes: 8 bits grow to 16. */
export const finer = ({ bitDepth }: Shaped): Pick<Shaped, 'bitDepth'> => ({ bitDepth: bitDepth === 8 ? 16 : bitDepth })

export const GROUPS = ['Pull', 'Alpha', 'Colour', 'Frame', 'Time', 'Depth'] as const
export type Group = (typeof GROUPS)[number]

/** A box that is taken hold of in the picture in place of numbers. */
export interface Handle<F extends Fields = Fields> {
  /** What it is called where it is taken up. */
  readonly name: string
  /** The picture it lies over, whose pixels it counts in: the one the step is given, or the one it makes. */
  readonly over: 'given' | 'made'
  /** Whether it can be sized, or only moved. */
  readonly sized: boolean
  /** Where it stands; facts are those the step is given. */
  box(facts: Shaped, settings: SettingsOf<F>): Box
  /** Settings by which it comes to stand there, or as near as they allow. */
  set(box: Box, facts: Shaped): Partial<SettingsOf<F>>
}

export interface StepKind<F extends Fields = Fields> {
  readonly id: string
  readonly group: Group
  readonly name: string
  /** What it does, in one sentence. */
  readonly help: string
  readonly fields: F
  readonly handle?: Handle<F>
  /** Whether it keeps a part of the frame, and so may cut off what is seen. */
  readonly crops?: true
  /** Facts of what comes out; as they were, unless said. */
  facts?(facts: Shaped, settings: SettingsOf<F>): Partial<Shaped>
  /** How each pixel is to be changed; null leaves the picture as it is, or to `paint` where a kind has both. */
  pixels?(settings: SettingsOf<F>, around: Surroundings): PixelChange | null | Promise<PixelChange | null>
  /** Another alpha, one value a pixel by rows; it may be written into the one given. */
  plane?(alpha: Float32Array, settings: SettingsOf<F>, around: Surroundings): Float32Array | Promise<Float32Array>
  /**
   * The same on a frame of codes, straight or without alpha and coded, as a straight one of 16 bits: for what a kernel
   * does faster to a whole frame. Null leaves it to the others.
   */
  codes?(frame: Frame, settings: SettingsOf<F>, around: Surroundings): Promise<Frame | null>
  paint?(picture: Picture, settings: SettingsOf<F>, around: Surroundings): Picture | Promise<Picture>
  /**
   * The same for pictures of light: premultiplied floats without bounds, in the transfer they have. What filters gives
   * this beside `paint`.
   */
  light?(picture: Picture, settings: SettingsOf<F>, around: Surroundings): Picture | Promise<Picture>
  /** What a step on alpha leaves of light that no alpha covers; all of it, unless said. */
  dims?(settings: SettingsOf<F>): number
  /**
   * What it computes on lies between 0 and 1. Of colour beyond, its hue decides ('hue': it is brought down, and as
   * bright again after), or what it is once cut off ('level': what was cut off comes back after).
   */
  readonly bounded?: 'hue' | 'level'
  /** Whether cutting off or dropping light is what it is for. */
  readonly cuts?: true
  /**
   * How many pixels each pixel of the picture becomes, of what spreads light and neither adds to it nor takes any away;
   * null where its settings cut some off. `made` is the size of the frame that it makes.
   */
  area?(given: FrameSize, made: FrameSize, settings: SettingsOf<F>): number | null
  /** Whether it changes nothing with these settings: it is then passed over, and every bit stays. */
  still?(settings: SettingsOf<F>, facts: Shaped): boolean
  /** How sure it is of each pixel's alpha, 0 to 1, with that alpha; null where its settings make it sure by rule. */
  sureness?(picture: Picture, settings: SettingsOf<F>, around: Surroundings): Promise<Sureness | null>
  move?(frame: Frame, settings: SettingsOf<F>, kernels: Kernels): Frame
  order?(facts: Shaped, settings: SettingsOf<F>): { frames: Use[]; rate: Rate | null }
  /** Why sound does not go along, where it does not; null lets it. */
  silences?(settings: SettingsOf<F>): string | null
  /** A sentence when the settings cannot be carried out on such a clip. */
  problem?(facts: Shaped, settings: SettingsOf<F>): string | null
}

/** Makes a kind with its settings typed by its fields. */
export function stepKind<const F extends Fields>(kind: StepKind<F>): StepKind {
  return kind as unknown as StepKind
}

/** The schema of a kind's settings: every field, none besides; a missing one takes its default. */
export const settingsSchema = (kind: Pick<StepKind, 'fields'>): z.ZodType<Record<string, unknown>> =>
  schemaOf(kind.fields)

/** The defaults of a kind of step, by key. */
export const freshSettings = (kind: Pick<StepKind, 'fields'>): Record<string, unknown> => freshValues(kind.fields)
