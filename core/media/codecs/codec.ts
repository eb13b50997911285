/** Picture codecs: what a packet means, whichever container it came in. */
import type { ColourTags } from '../../frame/colour-tags'
import { unreadable } from '../../base/errors'
import type { PacketNotes, CodecEntry, ContainerId, Packet, Packets, PictureTrack } from '../containers/container'
import type { ByteReader } from '../../base/files/file'
import type { Deliverable } from '../formats/deliverable'
import type { DepthChoice } from '../formats/traits/carrying'
import type { HostNeed } from '../formats/traits/writing'
import type { Frame } from '../../frame/frame'
import type { Host } from '../../frame/host'
import type { Fields, OptionValues } from '../../base/settings/field'
import type { FieldOrder, SourceFacts } from '../../source/source'

/** Turns packets into frames. `frame` is called for one frame at a time. */
export interface Decoder {
  frame(index: number, signal?: AbortSignal): Promise<Frame>
  close(): Promise<void>
}

/** What a track says of itself once its first packet is known. */
export interface About {
  /** The codec in words: "ProRes 4444, 16 bit alpha". */
  kind: string
  bitDepth: SourceFacts['bitDepth']
  carriesAlpha: boolean
  /** Colour tags in words, when the codec carries its own. */
  colour?: string | null
  tags?: ColourTags | null
  /** How its frames hold fields, when the codec says so itself; that they do counts before the container's word. */
  fields?: FieldOrder
  /** The shape of its pixels, when the codec says so itself and the container does not. */
  pixelAspect?: readonly [number, number]
  findings?: SourceFacts['findings']
}

/** What encodes: how its packets enter a container, and what it is set to. */
export interface Coder {
  /** How its packets say by themselves what their colours mean, whatever container they lie in. */
  readonly labels?: 'numbers'
  readonly lossless: boolean
  readonly exactAlpha: boolean
  readonly depths: readonly DepthChoice[]
  readonly options: Fields
  /** Largest picture it codes; the container may hold less. */
  readonly limits?: { readonly width: number; readonly height: number }
  alphaBits?(options: OptionValues): number
  /** Whether its frames say that they are whole ones: a film of it says nothing else of fields. */
  readonly wholeFrames?: true
  /** Bits that codes of 16 are written with under these options, where an option decides them. */
  codeBits?(options: OptionValues): number
  /** A sentence if it has no pictures of this size, else null. */
  refusesClip?(clip: { width: number; height: number }): string | null
  entry(deliverable: Deliverable, container: ContainerId): CodecEntry
  /** Whether the frame at a position is coded as what changed since the one before. */
  buildsOn?(position: number, deliverable: Deliverable): boolean
  /** Of a coder that keeps its own count: frames from one key frame to the next. */
  keyEvery?(options: OptionValues): number
  /** The codec of films that its machine must have. */
  readonly needs?: HostNeed
  /**
   * Of codecs whose frames build on each other in ways that only a coder kept open knows: `encode` prepares frames, and
   * this codes what it prepared, in order.
   */
  inOrder?(deliverable: Deliverable, host: Host): Promise<InOrder>
  /** Encodes one frame of the deliverable's size, depth and mode. Runs in a worker; keeps nothing between calls. */
  encode(
    host: Host,
    frame: Frame,
    deliverable: Deliverable,
    about: { before: Frame | null; container: ContainerId }
  ): Promise<Uint8Array>
}

/** A coder that is kept open for a film. */
export interface InOrder {
  code(prepared: Uint8Array, index: number): Promise<PacketNotes & { data: Uint8Array }>
  close(): Promise<void>
}

export interface VideoCodec {
  /** What it is called in each container that it is read from. */
  readonly names: Partial<Record<ContainerId, readonly string[]>>
  about(track: PictureTrack, first: Uint8Array, file: string): About | Promise<About>
  decoder(packets: Packets, host: Host): Promise<Decoder>
  /** The proof's decoder, where another than the codec's own can be had. */
  proofDecoder?(packets: Packets, host: Host): Promise<Decoder>
  readonly proofReader: { readonly name: string; readonly independent: boolean }
  /** Absent for codecs that are read only. */
  readonly coder?: Coder
}

/** A track's packets in a file. */
export function packetsOf(reader: ByteReader, track: PictureTrack): Packets {
  const packetAt = (index: number): Packet => {
    const packet = track.packets[index]
    if (!packet) throw unreadable(reader.name, `frame ${index + 1}`, `the film has ${track.packets.length} frames`)
    return packet
  }
  const bytesOf = async ({ offset, size }: { offset: number; size: number }, index: number): Promise<Uint8Array> => {
    const bytes = await reader.read(offset, size)
    if (bytes.length < size)
      throw unreadable(reader.name, `frame ${index + 1}`, 'its data ends early; the film was cut short')
    return bytes
  }
  return {
    file: reader.name,
    track,
    data: async index => bytesOf(packetAt(index), index),
    async side(index) {
      const { side } = packetAt(index)
      return side ? bytesOf(side, index) : null
    }
  }
}

/** A decoder for codecs whose frames all stand alone. */
export function standalone(packets: Packets, decode: (data: Uint8Array, place: string) => Promise<Frame>): Decoder {
  return {
    frame: async index => decode(await packets.data(index), `frame ${index + 1}`),
    close: () => Promise.resolve()
  }
}

/** The error for a film whose picture is not of the size that the container says; the first frame, unless another. */
export function sizeApart(
  file: string,
  found: { width: number; height: number },
  { width, height, place = 'frame 1' }: { width: number; height: number; place?: string }
): Error {
  return unreadable(file, place, `its picture is ${found.width}x${found.height}; the film is ${width}x${height}`)
}
