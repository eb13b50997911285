/** Picture codecs: what a packet means, whichever container it came in. */
import { unreadable } from '../errors'
import type { CodecEntry, ContainerId, Packets, PictureTrack } from '../containers/container'
import type { ByteReader } from '../files/file'
import type { Deliverable, DepthChoice } from '../formats/format'
import type { Frame } from '../frame/frame'
import type { Host } from '../host'
import type { OptionField, OptionValues } from '../settings/field'
import type { SourceFacts } from '../source/source'

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
  findings?: SourceFacts['findings']
}

/** What encodes: how its packets enter a container, and what it is set to. */
export interface Coder {
  readonly lossless: boolean
  readonly exactAlpha: boolean
  readonly depths: readonly DepthChoice[]
  readonly options: readonly OptionField[]
  /** Largest picture it codes; the container may hold less. */
  readonly limits?: { readonly width: number; readonly height: number }
  alphaBits?(options: OptionValues): number
  entry(deliverable: Deliverable, container: ContainerId): CodecEntry
  /** Whether the frame at a position is coded as what changed since the one before. */
  buildsOn?(position: number, deliverable: Deliverable): boolean
  /** Encodes one frame of the deliverable's size, depth and mode. Runs in a worker; keeps nothing between calls. */
  encode(
    host: Host,
    frame: Frame,
    deliverable: Deliverable,
    about: { before: Frame | null; container: ContainerId }
  ): Promise<Uint8Array>
}

export interface PictureCodec {
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
  return {
    file: reader.name,
    track,
    async data(index) {
      const packet = track.packets[index]
      if (!packet) throw unreadable(reader.name, `frame ${index + 1}`, `the film has ${track.packets.length} frames`)
      const bytes = await reader.read(packet.offset, packet.size)
      if (bytes.length < packet.size)
        throw unreadable(reader.name, `frame ${index + 1}`, 'its data ends early; the film was cut short')
      return bytes
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

/** The error for a film whose picture is not of the size that the container says. */
export function sizeApart(
  file: string,
  found: { width: number; height: number },
  track: { width: number; height: number }
): Error {
  return unreadable(
    file,
    'frame 1',
    `its picture is ${found.width}x${found.height}; the film is ${track.width}x${track.height}`
  )
}
