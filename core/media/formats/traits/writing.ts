/** How a delivery is coded and put together, and what it comes to. */
import type { ByteSink, FilesSink } from '../../../base/files/sinks'
import type { OptionValues } from '../../../base/settings/field'
import type { Frame } from '../../../frame/frame'
import type { Host } from '../../../frame/host'
import type { SoundFeed } from '../../../source/sound'
import type { Deliverable } from '../deliverable'

/** What a machine may lack: codecs of films, by name, or decoders of pictures. */
export type HostNeed = 'video' | 'films' | 'webp' | 'pictures' | 'jxl' | 'j2k' | 'vectors' | 'models'

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

/** How frames of a format are coded, each by itself or on those before. */
export interface Encodable {
  /** The codec that the machine must have; without one, it runs everywhere. */
  readonly needs?: HostNeed
  /**
   * Whether frames build on those before, so that `encode` only prepares them and the assembler codes; sizes are then
   * judged from a stretch of frames.
   */
  readonly stateful?: boolean
  readonly survey?: Survey
  /**
   * Whether the frame at a position is coded as what changed since the one before, which `encode` then is given as
   * well.
   */
  buildsOn?(position: number, deliverable: Deliverable): boolean
  /** Of a stateful format: frames from one key frame to the next; one key frame alone where it does not say. */
  keyEvery?(options: OptionValues): number
  /**
   * Encodes one frame that has the deliverable's size, depth and alpha mode. Runs in a worker; keeps nothing between
   * calls.
   */
  encode(host: Host, frame: Frame, deliverable: Deliverable, before: Frame | null): Promise<Uint8Array>
  /**
   * For lossy formats whose frames stand alone: what is encoded can be read back at once, while the frame it was made
   * of is at hand. Their sources give `encoded`, by which a proof knows such a frame in the file.
   */
  readBack?(deliverable: Deliverable, host: Host): Promise<FrameReader>
}

/** What coded frames come to, without coding all of them. */
export interface Sized {
  /** Bytes of the delivery when its frames come to `encoded` bytes. */
  wrappedSize(encoded: number, deliverable: Deliverable): number
}

export interface Writable extends Encodable, Sized {
  /** Why it is read and not written; absent for formats that are written. */
  readonly readOnly?: string
  /** `feeds` give the sounds that the deliverable announces, one each. */
  assemble(target: Target, deliverable: Deliverable, host: Host, feeds?: readonly SoundFeed[]): Promise<Assembler>
}
