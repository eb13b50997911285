/** A source: what is known of an animation before its pixels are judged, and its frames at random. */
import { sayTags, type ColourTags } from '../frame/colour-tags'
import { z } from 'zod'
import { HexColour } from '../base/colour'
import { Halves } from '../frame/stacked'
import { LightLevels } from './light-levels'
import type { FileRef } from '../base/files/file'
import { AlphaMode, Depth, type Frame } from '../frame/frame'
import { Rate } from '../base/rate'
import { SoundFacts, soundOfWords } from './sound'

export const Severity = z.enum(['note', 'warning', 'fault'])

/** What one click can do about a finding: decide how the source is read, or add a step to its preparation. */
export const Mend = z.discriminatedUnion('id', [
  z.object({
    id: z.enum(['hold-gaps', 'ask-rate', 'each-picture', 'hold-damaged', 'skip-damaged', 'keep-codes']),
    label: z.string()
  }),
  z.object({ id: z.literal('step'), label: z.string(), kind: z.string(), settings: z.record(z.string(), z.unknown()) })
])
export type Mend = z.infer<typeof Mend>

/** One thing found out about a source or a pour. */
export const Finding = z.object({
  id: z.string(),
  severity: Severity,
  /** Frame numbers counted from 1; empty when it concerns the whole. */
  frames: z.array(z.number().int().min(1)),
  sentence: z.string(),
  /** What it will cause, and where. */
  causes: z.string().optional(),
  /** The one-click mend on offer, if Pour knows one. */
  mend: Mend.optional(),
  /** Another one, where there are two ways. */
  orElse: Mend.optional()
})
export type Finding = z.infer<typeof Finding>

/** What may be decided about colour that not every format can say: codes kept, whoever shows them. */
export const KEEP_CODES: Mend = { id: 'keep-codes', label: 'Keep the codes' }

/** The two ways on from so many pictures of a sequence that cannot be read. */
export const waysOn = (pictures: number): Required<Pick<Finding, 'mend' | 'orElse'>> => ({
  mend: { id: 'hold-damaged', label: 'Hold the picture before' },
  orElse: { id: 'skip-damaged', label: pictures === 1 ? 'Leave it out' : 'Leave them out' }
})

/** What a file says of its alpha, as opposed to what its pixels show. */
export const AlphaClaim = z.object({
  mode: z.enum(['straight', 'premultiplied', 'none', 'unknown']),
  matte: HexColour.nullable(),
  /** How the file says so: "graphics mode 0x102", "PNG is straight by its standard". */
  says: z.string()
})
export type AlphaClaim = z.infer<typeof AlphaClaim>

/** Which of a frame's two fields is shown first, where it has any. */
export const FieldOrder = z.enum(['progressive', 'top-first', 'bottom-first'])
export type FieldOrder = z.infer<typeof FieldOrder>

export const SourceFacts = z.object({
  name: z.string(),
  /** Id of the format that reads it. */
  format: z.string(),
  /** Container and codec in a technician's words. */
  kind: z.string(),
  width: z.number().int().min(1),
  height: z.number().int().min(1),
  frames: z.number().int().min(1),
  /** Every frame is coded by itself, so that any one costs as much as the next. */
  intra: z.boolean().optional(),
  /** Why nothing is poured of it until somebody decides, in a sentence. */
  stops: z.string().optional(),
  rate: Rate.nullable(),
  /** Where the rate comes from: the file, a file name, a note, or an answer. */
  rateFrom: z.enum(['file', 'name', 'note', 'asked', 'unknown']),
  bitDepth: Depth,
  claim: AlphaClaim,
  /** Colour tags in words; null when the file has none. */
  colour: z.string().nullable(),
  /** The same by ITU-T H.273: primaries, transfer and matrix, where the file says them by number. */
  tags: z.tuple([z.number(), z.number(), z.number()]).nullable().optional(),
  /** Mastering display and light levels, where the file says them. */
  levels: LightLevels.nullable().optional(),
  pixelAspect: z.tuple([z.number().positive(), z.number().positive()]),
  /** Times it plays; 0 is for ever, null where the format cannot say. */
  plays: z.number().int().min(0).nullable(),
  /** Time code of the first frame, where the file says one. */
  timecode: z.string().nullable().optional(),
  /** Sound beside the pictures; null or absent where there is none. Earlier versions kept words alone. */
  sound: z
    .union([SoundFacts, z.string().transform(soundOfWords)])
    .nullable()
    .optional(),
  /** Further tracks of sound, in their order. */
  moreSounds: z.array(SoundFacts).max(64).optional(),
  /** What the file says of fields; null or absent where it says nothing. */
  fields: FieldOrder.nullable().optional(),
  /** The stored pictures, where the clip shows some of them longer, more than once or not at all. */
  each: z
    .object({ frames: z.number().int().min(1), rate: Rate.nullable() })
    .nullable()
    .optional(),
  /** Pictures that lie over each other in each file, by name, and which of them is taken; absent where there is one. */
  layers: z.array(z.string()).optional(),
  layer: z.string().optional(),
  /**
   * What those are: pictures over each other, or the sizes that a drawing may be drawn at. Layers where it does not
   * say.
   */
  layersAre: z.enum(['layers', 'sizes']).optional(),
  /** How its picture is made up of colour and alpha, where the file says so, or it is taken apart so. */
  stacked: Halves.optional(),
  /** Stretches that the file names, frames from 1. */
  marked: z
    .array(z.object({ name: z.string().max(60), from: z.number().int().min(1), to: z.number().int().min(1) }))
    .max(200)
    .optional(),
  /**
   * The number that the first picture of a sequence had; absent where pictures had none, or frames no longer run on as
   * they did.
   */
  firstNumber: z.number().int().min(0).optional(),
  /** What it was called as it came. */
  original: z.string().optional(),
  bytes: z.number().min(0),
  /** What the structure alone shows. */
  findings: z.array(Finding)
})
export type SourceFacts = z.infer<typeof SourceFacts>

/** A step's alpha and how sure it is of it, a value a pixel. */
export interface Sureness {
  width: number
  height: number
  alpha: Float32Array
  sure: Float32Array
}

export interface Source {
  readonly facts: SourceFacts
  /**
   * Frame `index`, counted from 0, as stored, with the alpha mode the source is taken to have. Its samples are the
   * caller's: nobody else keeps them. Rejects beyond the end.
   */
  frame(index: number, signal?: AbortSignal): Promise<Frame>
  /** Picture `index` as it is stored, of sources whose facts say `each`. */
  each?(index: number, signal?: AbortSignal): Promise<Frame>
  /**
   * The bytes that frame `index` is coded in, where a format's frames stand alone and may have been read back as they
   * were poured.
   */
  encoded?(index: number): Promise<Uint8Array>
  /** Of a prepared source: how sure one of its steps is of the alpha it makes; null for steps that cannot say. */
  sureness?(stepId: string, index: number): Promise<Sureness | null>
  close(): Promise<void>
}

/** What was decided about a source by hand or by evidence; null leaves it to the file. */
export const Interpretation = z.object({
  rate: Rate.nullable(),
  rateFrom: z.enum(['name', 'note', 'asked']).nullable(),
  alpha: AlphaMode.nullable(),
  holdGaps: z.boolean(),
  /** Pictures of a sequence that could not be read, by the numbers in their names; null while nobody has decided. */
  damaged: z
    .object({ numbers: z.array(z.number().int()).max(1_000_000), as: z.enum(['hold', 'skip']).nullable() })
    .optional(),
  /** Whether stored pictures are taken one by one, whatever the times they are shown for. */
  eachPicture: z.boolean().optional(),
  /** The layer taken of files that hold several; the one meant to be seen where this is absent. */
  layer: z.string().max(1000).optional(),
  /** How its pictures are taken apart into colour and alpha; null where they are not, whatever the file says. */
  stacked: Halves.nullable().optional(),
  /** Width and height of a pixel, where the file's word is overruled. */
  pixelAspect: z.tuple([z.number().positive(), z.number().positive()]).nullable().optional(),
  /** Colour tags in words, where the file's are overruled. */
  colour: z.string().min(1).max(80).nullable().optional(),
  /** The colour, in words, of which somebody decided that codes are kept where a format cannot say what they mean. */
  codesKept: z.string().min(1).max(80).optional()
})
export type Interpretation = z.infer<typeof Interpretation>

/** Whether it was decided of codes under these tags that they are kept; of other tags it counts for nothing. */
export const keepsCodes = ({ codesKept }: Interpretation, tags: ColourTags | null | undefined): boolean =>
  codesKept !== undefined && !!tags && codesKept === sayTags(tags)

export const AS_FOUND: Interpretation = { rate: null, rateFrom: null, alpha: null, holdGaps: false }

/** A step of a preparation, as a description names it. */
export interface StepSpec {
  id: string
  /** Id of its kind. */
  kind: string
  on: boolean
  /** Id of the finding that it mends. */
  mends?: string | undefined
  settings: Record<string, unknown>
}

/** What every description has. Same id, same frames: workers keep sources open by it. */
interface Described {
  readonly id: string
  readonly name: string
}

/** A source as it lies in files. */
export interface FilesSpec extends Described {
  readonly kind: 'files'
  /** Id of the format that reads it. */
  readonly format: string
  /** One file for a film; the pictures in order for a sequence. */
  readonly files: readonly FileRef[]
  /** The key's files, where `files` are the fill of a pair. */
  readonly key?: readonly FileRef[] | null
  /** The number each picture carries in its name; null for films. */
  readonly numbers: readonly number[] | null
  /** What all pictures of a sequence are brought to, where they may not be of one depth or some may have no alpha. */
  readonly common?: Pick<SourceFacts, 'bitDepth' | 'claim'> | null
  readonly interpretation: Interpretation
  readonly findings: readonly Finding[]
}

/** Another source with something done to its frames before anything else sees them. */
export interface PreparedSpec extends Described {
  readonly kind: 'prepared'
  readonly of: SourceSpec
  readonly steps: readonly StepSpec[]
  /** The sources that its steps look at, by id. */
  readonly others: Readonly<Record<string, SourceSpec>>
}

/** A scene that shows other sources: its own file, and theirs by the names it gives them. */
export interface SceneSpec extends Described {
  readonly kind: 'scene'
  readonly of: FilesSpec
  readonly others: Readonly<Record<string, SourceSpec>>
}

/**
 * All that a worker needs to open a source: cheap to copy between threads. A further kind is a row here and an opener
 * in `open/openers`.
 */
export type SourceSpec = FilesSpec | PreparedSpec | SceneSpec

/** The files that a source is read from in the end. */
export function beneath(spec: SourceSpec): FilesSpec {
  return spec.kind === 'files' ? spec : beneath(spec.of)
}

/** Every file that a source's frames are made of, those its steps look at with it. */
export function filesOf(spec: SourceSpec | Omit<FilesSpec, 'id'>): FileRef[] {
  const own = spec.kind === 'files' ? [...spec.files, ...(spec.key ?? [])] : filesOf(spec.of)
  return spec.kind === 'files' ? own : [...new Set([...own, ...Object.values(spec.others).flatMap(filesOf)])]
}

/** The description of a source that its steps make of another; itself where none of them is on. */
export function preparedSpec(
  of: SourceSpec,
  steps: readonly StepSpec[],
  others: Readonly<Record<string, SourceSpec>>
): SourceSpec {
  return steps.some(step => step.on) ? { kind: 'prepared', id: of.id, name: of.name, of, steps, others } : of
}
