/**
 * The format table's row. Everything the house knows of a format stands in one of these: the outlet form, validation,
 * size estimates, the command line and the documentation are drawn from it.
 */
import type { ColourTags } from '../../frame/colour-tags'
import type { LightLevels } from '../../source/light-levels'
import type { Capability, Container, PictureTrack } from '../containers/container'
import type { ByteReader, FileRef } from '../../base/files/file'
import type { ByteSink, FilesSink } from '../../base/files/sinks'
import type { Depth, Frame, Transfer } from '../../frame/frame'
import type { Host } from '../../frame/host'
import type { Rate } from '../../base/rate'
import type { SoundFeed, SoundForm } from '../../source/sound'
import type { AlphaClaim, FieldOrder, Source, SourceFacts } from '../../source/source'
import type { Fields, OptionValues } from '../../base/settings/field'
import type { Form } from './form'

/**
 * What a format is good for: kept and handed on whole; read by engines; alpha only on or off; played in real time by
 * editors and playout; open and exact, to be kept for years; taken by slide decks; by messengers; opened by nearly
 * everything; small for what it shows; all frames in one picture; asked for by few.
 */
export type Trait =
  | 'master'
  | 'for-engines'
  | 'hard-edges'
  | 'edits-live'
  | 'archival'
  | 'decks'
  | 'stickers'
  | 'everywhere'
  | 'compact'
  | 'sheet'
  | 'seldom'

/** How a web page shows a format. */
export interface OnPage {
  element: 'film' | 'picture'
  /** Media type, with the codec where that decides whether it plays. */
  type: string
  /** Whether a page shows it move; else one picture of it. */
  moves: boolean
  /** Place among what a page may offer, best first: small and exact before widely known. Only of what moves. */
  order: number
}

/** What a machine may lack: codecs of films, by name, or decoders of pictures. */
export type HostNeed = 'video' | 'films' | 'webp' | 'pictures' | 'jxl' | 'vectors' | 'models'

export interface DepthChoice {
  depth: Depth
  colourBits: number
  alphaBits: number
}

/** What a delivered file holds, frame for frame; made by the plan of a pour. */
export interface Deliverable extends Form {
  width: number
  height: number
  frames: number
  rate: Rate | null
  pixelAspect: readonly [number, number]
  fields: FieldOrder
  /**
   * Colour tags that its codes came with, where they are not those of sRGB; they go along, or the ledger says that they
   * do not.
   */
  tags?: ColourTags | null
  /** Mastering display and light levels that go with them. */
  levels?: LightLevels | null
  /** Sound that goes with it, its first track; null where there is none, or none is wanted. */
  sound: SoundForm | null
  /** Further tracks of it. */
  moreSounds?: readonly SoundForm[]
  options: OptionValues
  /** File name of each picture, for formats that deliver pictures. */
  names: readonly string[]
  /** What the format's survey of the clip found. */
  survey?: Uint8Array
}

/**
 * A first pass over the clip, for what all frames share: each frame is looked at in a worker, then the findings become
 * one.
 */
export interface Survey {
  wanted(deliverable: Deliverable): boolean
  look(frame: Frame): Uint8Array
  join(looks: readonly Uint8Array[]): Uint8Array
}

/** Puts encoded frames, in order, into the delivered file or files. */
export interface Assembler {
  add(index: number, encoded: Uint8Array): Promise<void>
  /** Writes what closes the file. The sink itself is closed by the caller. */
  finish(): Promise<void>
  /** Lets go of what it holds, when the pour is given up. */
  abort?(): Promise<void>
}

/** Reads frames that were just encoded, one at a time, as the proof's decoder will read them from the file. */
export interface FrameReader {
  frame(encoded: Uint8Array): Promise<Frame>
  close(): Promise<void>
}

/**
 * Where a delivery goes. A pair of films has a second sink for its key; a pair of picture sequences shares one place.
 */
export type Target = { kind: 'film'; sink: ByteSink; key?: ByteSink } | { kind: 'pictures'; sink: FilesSink }

/** What a picture's header says; of pictures of a sequence, depth and alpha too. */
export interface Measured {
  width: number
  height: number
  bitDepth?: Depth
  claim?: AlphaClaim
}

/** Who shares no code with Pour and has seen files of a format. */
export type Stranger =
  | { readonly seen: true; readonly by: string }
  /** Why no stranger could be had. */
  | { readonly seen: false; readonly because: string }

/** A row of the table; `I` is its id. */
export interface Format<I extends string = string> {
  readonly id: I
  readonly name: string
  /** The short line over an outlet: container and codec. */
  readonly tag: string
  readonly extension: string
  readonly mime: string
  /** One file, or one picture for each frame. */
  readonly delivers: 'film' | 'pictures'
  readonly carries: string
  /** Why it is read and not written; absent for formats that are written. */
  readonly readOnly?: string
  /** Whether every code of colour and alpha comes back, and whether alpha alone does. */
  readonly lossless: boolean
  readonly exactAlpha: boolean
  readonly depths: readonly DepthChoice[]
  readonly alpha: { readonly straight: Capability; readonly premultiplied: Capability; readonly none: Capability }
  /** Matte colours a file can declare; others are held by the pixels alone and need a note to the receiver. */
  readonly declaredMattes: readonly string[]
  /**
   * How its files say what colours mean that are not sRGB's: by the numbers of H.273, or by a profile; not at all where
   * this is absent.
   */
  readonly labels?: 'numbers' | 'profile'
  readonly limits: { readonly width: number; readonly height: number; readonly rate: string }
  readonly options: Fields
  /** Bits of alpha under these options, where an option decides them; else the depth's. */
  alphaBits?(options: OptionValues): number
  /** Linear light for formats that hold it; else sRGB-coded. */
  readonly transfer?: Transfer
  halfFloat?(options: OptionValues): boolean
  cut?(options: OptionValues): Form['cut']
  readonly traits: readonly Trait[]
  /** Absent for what no page shows. */
  readonly page?: OnPage
  /** Codings of sound that its files take; none where this is absent. */
  readonly sound?: Container['sound']
  /** Tracks of sound they take at most. */
  readonly soundTracks?: number
  /** The codec that the machine must have; without one, it runs everywhere. */
  readonly needs?: HostNeed
  /**
   * Whether frames build on those before, so that `encode` only prepares them and the assembler codes; sizes are then
   * judged from a stretch of frames.
   */
  readonly stateful?: boolean
  /** Who reads it back in a proof: the name of the decoder, and whether it is the writer's own code. */
  readonly proofReader: { readonly name: string; readonly independent: boolean }
  /** Who else has seen its files; given by the registry. */
  readonly stranger?: Stranger
  /**
   * Units a second that its times are whole numbers of; a rate between them is held so that it does not drift. Absent
   * where rates are exact.
   */
  readonly clock?: number
  /** A sentence if this rate cannot be written exactly, else null. */
  refusesRate(rate: Rate): string | null
  /** A sentence if these options cannot be kept at this rate, else null. */
  refuses?(options: OptionValues, rate: Rate | null): string | null
  /** A sentence if a clip of this size and length cannot be held, else null. */
  refusesClip?(clip: Pick<Deliverable, 'width' | 'height' | 'frames' | 'depth' | 'options'>): string | null
  /** How the frames of a clip will lie in the file, in words, where a receiver must know it. */
  layout?(clip: Pick<Deliverable, 'width' | 'height' | 'frames' | 'options'>): string

  /** Of films whose container Pour reads itself: that container, and whether a track in it is this format's. */
  readonly container?: Container['id']
  reads?(track: PictureTrack): boolean
  /**
   * 'film' or 'picture' if these bytes are of this format; of films with a container, its own word counts. `head` is
   * the first 4 KiB.
   */
  recognise(head: Uint8Array, reader: ByteReader): Promise<'film' | 'picture' | null>
  /** What one picture is, read from its header alone. */
  measure(reader: ByteReader): Promise<Measured>
  /** Opens one film, or the pictures of a sequence; of pictures that hold layers the one of that name. */
  open(name: string, files: readonly FileRef[], host: Host, layer?: string): Promise<Source>
  /**
   * A source over the same files read by the proof's decoder; falls back to `open` where `proofReader` is the format's
   * own.
   */
  openForProof(name: string, files: readonly FileRef[], host: Host, layer?: string): Promise<Source>

  /**
   * For lossy formats whose frames stand alone: what is encoded can be read back at once, while the frame it was made
   * of is at hand. Their sources give `encoded`, by which a proof knows such a frame in the file.
   */
  readBack?(deliverable: Deliverable, host: Host): Promise<FrameReader>

  /**
   * Whether the frame at a position is coded as what changed since the one before, which `encode` then is given as
   * well.
   */
  buildsOn?(position: number, deliverable: Deliverable): boolean
  /** Of a stateful format: frames from one key frame to the next; one key frame alone where it does not say. */
  keyEvery?(options: OptionValues): number
  readonly survey?: Survey
  /**
   * Encodes one frame that has the deliverable's size, depth and alpha mode. Runs in a worker; keeps nothing between
   * calls.
   */
  encode(host: Host, frame: Frame, deliverable: Deliverable, before: Frame | null): Promise<Uint8Array>
  /** `feeds` give the sounds that the deliverable announces, one each. */
  assemble(target: Target, deliverable: Deliverable, host: Host, feeds?: readonly SoundFeed[]): Promise<Assembler>
  /** Bytes of the delivery when its frames come to `encoded` bytes. */
  wrappedSize(encoded: number, deliverable: Deliverable): number
}

/** A source whose row in the table is not said yet. */
export type OpenedPictures = Omit<Source, 'facts'> & { readonly facts: Omit<SourceFacts, 'format'> }

/** What pictures, single or moving, are made of: all of a row but what it is called and good for. */
export type PictureKind = Omit<
  Format,
  'id' | 'name' | 'tag' | 'traits' | 'page' | 'readOnly' | 'open' | 'openForProof'
> & {
  open(name: string, files: readonly FileRef[], host: Host, layer?: string): Promise<OpenedPictures>
  openForProof(name: string, files: readonly FileRef[], host: Host, layer?: string): Promise<OpenedPictures>
}
