/** How the files of a format are told from others, opened, and read back for a proof. */
import type { ByteReader, FileRef } from '../../../base/files/file'
import type { Depth } from '../../../frame/frame'
import type { Host } from '../../../frame/host'
import type { AlphaClaim, Source } from '../../../source/source'
import type { Container, PictureTrack } from '../../containers/container'

/** What a picture's header says; of pictures of a sequence, depth and alpha too. */
export interface Measured {
  width: number
  height: number
  bitDepth?: Depth
  claim?: AlphaClaim
}

export interface Readable {
  /** Who reads it back in a proof: the name of the decoder, and whether it is the writer's own code. */
  readonly proofReader: { readonly name: string; readonly independent: boolean }
  /** Of films whose container Pour reads itself: that container, and whether a track in it is this format's. */
  readonly container?: Container['id']
  reads?(track: PictureTrack): boolean
  /**
   * 'film' or 'picture' if these bytes are of this format; of films with a container, its own word counts. `head` is
   * the first 4 KiB.
   */
  recognise(head: Uint8Array, reader: ByteReader): Promise<'film' | 'picture' | null>
  /** Of a file that others beside it belong to: their names. */
  beside?(reader: ByteReader): Promise<readonly string[]>
  /** What one picture is, read from its header alone. */
  measure(reader: ByteReader): Promise<Measured>
  /** Opens one film, or the pictures of a sequence; of pictures that hold layers the one of that name. */
  open(name: string, files: readonly FileRef[], host: Host, layer?: string): Promise<Source>
  /**
   * A source over the same files read by the proof's decoder; falls back to `open` where `proofReader` is the format's
   * own.
   */
  openForProof(name: string, files: readonly FileRef[], host: Host, layer?: string): Promise<Source>
}
