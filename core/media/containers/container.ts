/**
 * Containers: what a file is told by, where its packets lie, and how packets are put into a file. A container knows
 * nothing of what is in a packet; a codec (`core/media/codecs`) knows nothing of where it lies.
 */
import type { ColourTags } from '../../frame/colour-tags'
import type { LightLevels } from '../../source/light-levels'
import type { ByteReader } from '../../base/files/file'
import type { ByteSink } from '../../base/files/sinks'
import type { AlphaMode } from '../../frame/frame'
import type { Orientation } from '../../frame/orient'
import type { Rate } from '../../base/rate'
import type { Fields, OptionValues } from '../../base/settings/field'
import type { SoundFeed, SoundForm, SoundTrack } from '../../source/sound'
import type { AlphaClaim, FieldOrder, Finding } from '../../source/source'

export type ContainerId = 'quicktime' | 'matroska' | 'avi' | 'mxf'

/** Where one packet lies in its file, and whether it can be decoded without those before. */
export interface Packet {
  offset: number
  size: number
  key: boolean
  /** A second picture coded beside it, its alpha. */
  side?: { offset: number; size: number }
}

/** A track of pictures, as its container describes it. */
export interface PictureTrack {
  container: ContainerId
  /**
   * What the container calls the codec: four letters in QuickTime and AVI, "V_..." in Matroska, a label in hexadecimal
   * in MXF.
   */
  code: string
  /** The container's name as it is shown. */
  kind: string
  /** What the codec keeps outside its packets; empty where there is none. */
  config: Uint8Array
  /** What the track is called, where the container says it. */
  name?: string
  width: number
  height: number
  /** Bits a pixel, as the container says: 24 without alpha, 32 with; 0 where it does not say. */
  depth: number
  /** Whether rows of uncompressed pictures begin at the bottom. */
  bottomUp: boolean
  /** What the container says of alpha, given whether the codec has any. */
  claim(carriesAlpha: boolean): AlphaClaim
  /** Primaries, transfer and matrix by ITU-T H.273, where the container says them. */
  colour: readonly [number, number, number] | null
  /** Mastering display and light levels, where the container says them. */
  levels?: LightLevels | null
  /** Whether codes of Y'CbCr take their whole range, where the container says so or not. */
  range?: 'full' | 'limited' | null
  pixelAspect: readonly [number, number]
  fields: FieldOrder | null
  rate: Rate | null
  /** Time code of the first frame. */
  timecode: string | null
  packets: Packet[]
  /**
   * The packet of each frame as the film shows it, where some are held, shown again or left out; null where all are
   * shown once.
   */
  shown?: readonly number[] | null
  /** How its pictures lie, where they are to be turned or mirrored before they are shown. */
  orientation?: Orientation
  findings: Finding[]
}

/** What a file holds: its first track of pictures, and its tracks of sound in their order. */
export interface Film {
  picture: PictureTrack
  sounds: SoundTrack[]
}

/** The packets of a track, to be read at any place. */
export interface Packets {
  /** The file's name, for errors. */
  readonly file: string
  readonly track: PictureTrack
  /** The bytes of a packet; a clear error beyond the end. */
  data(index: number): Promise<Uint8Array>
  /** The bytes of what is coded beside it; null where there is nothing. */
  side(index: number): Promise<Uint8Array | null>
}

/** How a codec enters a file. */
/** What MXF says of pictures beside the label of their coding (SMPTE ST 377-1, annex F; ST 379-2). */
export interface Essence {
  /** The label of how they are wrapped, and the kind of their elements: two digits. */
  label: string
  element: string
  bits: number
  /** Red, green and blue, with alpha where there is some; else luma, and chroma for every pixel or each second one. */
  colours: 'rgb' | 'whole' | 'half'
}

/** An atom by its four letters, and what is in it. */
export interface Beside {
  name: string
  content: Uint8Array
}

export interface CodecEntry {
  code: string
  /** The codec's name in words, where the container carries one. */
  name: string
  /** Bits a pixel: 24 without alpha, 32 with; 64 with 16 a sample. */
  depth: number
  /** Whether rows of uncompressed pictures begin at the bottom. */
  bottomUp?: boolean
  config?: Uint8Array
  /** What QuickTime's description of it says beside. */
  atoms?: readonly Beside[]
  /** How MXF carries it; needed of what is written there. */
  essence?: Essence
  /** What its codes are where the source says nothing else, and the matrix that they are coded with. */
  colour?: ColourTags
}

/** What goes with a packet that its coder alone could say. */
export interface PacketNotes {
  side: Uint8Array | null
  key: boolean
}

/** What a container has to be told of a film before its first packet comes. */
export interface MuxPlan {
  entry: CodecEntry
  width: number
  height: number
  frames: number
  rate: Rate
  alpha: AlphaMode
  pixelAspect: readonly [number, number]
  fields: FieldOrder
  /** Colour tags of the codes, where they are not the usual ones. */
  tags?: ColourTags | null
  levels?: LightLevels | null
  options: OptionValues
  /** Whether the packet at a position needs no other. */
  isKey(position: number): boolean
  /** What the track of pictures is called, where the container can say it. */
  name?: string
  /** Sound that the feeds will give, one a track. */
  sounds: readonly SoundForm[]
}

/** Puts packets, in order, into a file. */
export interface Muxer {
  /** `beside` is given by codecs that code in order; of others `isKey` tells. */
  add(packet: Uint8Array, beside?: PacketNotes): Promise<void>
  /** Writes what closes the file. The sink itself is closed by the caller. */
  finish(): Promise<void>
}

/**
 * How a container says each alpha mode, or why it cannot; and the one matte colour that its word means, where it means
 * one.
 */
export type Capability = { can: true; declares: string; matte?: string } | { can: false; because: string }

export interface Container {
  readonly id: ContainerId
  readonly name: string
  readonly extension: string
  readonly mime: string
  /** Settings that every film in it has. */
  readonly options: Fields
  readonly alpha: { readonly straight: Capability; readonly premultiplied: Capability; readonly none: Capability }
  /** Matte colours it can declare. */
  readonly declaredMattes: readonly string[]
  /** How its films say what colours mean; not at all where this is absent, unless their codec does. */
  readonly labels?: 'numbers'
  /** Whether it has labels for these tags; for all of them where this is absent. */
  says?(tags: ColourTags): boolean
  readonly limits: { readonly width: number; readonly height: number; readonly rate: string }
  /** Forms of sound it takes: samples that are whole numbers or floats, and packets of AAC. */
  readonly sound: readonly SoundForm['coding'][]
  /** Tracks of sound it takes at most. */
  readonly soundTracks: number
  /** A sentence if this rate cannot be written exactly, else null. */
  refusesRate(rate: Rate): string | null
  /** A sentence if these settings cannot be kept at this rate, else null. */
  refuses?(options: OptionValues, rate: Rate | null): string | null
  /** Whether a file begins as one of this container. `head` is the first 4 KiB. */
  recognise(head: Uint8Array): boolean
  /** True for files of other names that are built the same way, and may hold a codec that is read here. */
  resembles?(head: Uint8Array): boolean
  /** Reads where everything lies. Rejects with one clear error where the file is damaged. */
  demux(reader: ByteReader): Promise<Film>
  /** Begins a file. `feeds` give the sounds that `plan.sounds` announces, one each. */
  mux(sink: ByteSink, plan: MuxPlan, feeds: readonly SoundFeed[]): Promise<Muxer>
  /** Bytes of everything but the packets of pictures and sound. */
  overhead(plan: MuxPlan): number
}

/** What has to be told of a track whose frames hold two moments each. */
export function fieldFindings(fields: FieldOrder | null): Finding[] {
  if (!fields || fields === 'progressive') return []
  const sentence = 'The film says it is interlaced; Pour shows both fields of a frame together.'
  return [{ id: 'interlaced', severity: 'warning', frames: [], sentence }]
}

/** A track that nothing but a codec and a size is known of; what reads back a packet that has just been encoded. */
export function bareTrack(
  container: ContainerId,
  { width, height, rate }: { width: number; height: number; rate: Rate | null },
  entry: CodecEntry
): PictureTrack {
  return {
    container,
    code: entry.code,
    kind: '',
    config: entry.config ?? new Uint8Array(0),
    width,
    height,
    depth: entry.depth,
    bottomUp: entry.bottomUp ?? false,
    claim: carriesAlpha => ({ mode: carriesAlpha ? 'unknown' : 'none', matte: null, says: '' }),
    colour: null,
    pixelAspect: [1, 1],
    fields: null,
    rate,
    timecode: null,
    packets: [],
    findings: []
  }
}
