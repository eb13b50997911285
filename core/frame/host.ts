/**
 * What the core needs from the machine it runs on. `platform/` makes one for the browser's workers and one for Node;
 * nothing else in the core knows where it runs.
 */
import type { InputVideoTrack } from 'mediabunny'
import type { ByteReader, FileRef } from '../base/files/file'
import type { Deflate } from '../base/files/zip'
import type { Kernels } from './kernels/kernels'

export interface Host {
  readonly kernels: Kernels
  /** Opens a file for reading at any place. */
  openFile(file: FileRef): Promise<ByteReader>
  /**
   * Changes whenever the file's bytes do: its size, and when it was last changed where the machine knows. Rejects as
   * unreachable when it is gone.
   */
  stamp(file: FileRef): Promise<string>
  readonly deflate: Deflate
  /** Begins a SHA-256 (FIPS 180-4) of `total` bytes, which come in pieces. */
  sha256(total: number): Hasher
  /** Absent where there is no codec. */
  readonly webp?: WebpCodec
  readonly avif?: AvifEncoder
  readonly video?: VideoCoder
  readonly films?: FilmDecoders
  readonly pictures?: PictureDecoder
  readonly jxl?: JxlDecoder
  readonly jxlEncoder?: JxlEncoder
  readonly j2k?: J2kDecoder
  /** Absent where vector animations cannot be drawn. */
  readonly vectors?: VectorPlayer
  /** Absent where models cannot be drawn: they need a browser. */
  readonly models?: ModelPlayer
  /** Absent where letters cannot be set. */
  readonly shaper?: Shaper
  /**
   * A file of a type face that ships with Pour, by its name (`core/draw/type/faces.ts`). Absent where there are none.
   */
  font?(name: string): Promise<ArrayBuffer>
  /** A library's decoder of PNG, by which deliveries are proven. */
  readonly png: PngDecoder
}

/** Opens fonts. */
export interface Shaper {
  /** A font of TrueType or OpenType (ISO/IEC 14496-22). One that is damaged has no letters, or odd ones. */
  open(sfnt: Uint8Array): Promise<TypeFile>
  /** The font in a file of WOFF 2. Rejects with a plain Error where it is damaged. */
  unpack(woff2: Uint8Array): Promise<Uint8Array>
}

/** A piece of a text, by its places in UTF-16; what stands before and after it decides how letters join. */
export interface TextRun {
  from: number
  to: number
  rightToLeft: boolean
  /** Features of OpenType that are switched, such as "-liga", with commas between them. */
  features: string
}

/** One glyph of a text, in units of its font. */
export interface ShapedGlyph {
  /** Its number; 0 for a letter that the font does not have. */
  glyph: number
  /** Where in the text the first of the characters stands that it belongs to. */
  cluster: number
  advance: number
  /** Where it is drawn, from where it stands, rightwards and upwards. */
  x: number
  y: number
}

/** A piece of an outline, in units of the font, upwards. */
export interface OutlinePiece {
  type: 'M' | 'L' | 'Q' | 'C' | 'Z'
  values: readonly number[]
}

/** A font, opened. */
export interface TypeFile {
  readonly unitsPerEm: number
  /** How many glyphs it has; 0 of what is no font. */
  readonly glyphs: number
  /** Above and, negative, below the base line. */
  readonly ascender: number
  readonly descender: number
  /** Glyphs of a piece of a text, from left to right. */
  shape(text: string, run: TextRun): ShapedGlyph[]
  outline(glyph: number): readonly OutlinePiece[]
}

/** How a model is looked at: degrees around and above it, and as shares of what is usual. */
export interface ModelLook {
  turned: number
  tilted: number
  near: number
  /** The angle of view from the lower edge to the upper. */
  lens: number
  /** By the file's own camera, if it brings one. */
  own: boolean
  sun: number
  high: number
  strong: number
  /** How solid its shadow on the floor is, 0 to 1. */
  shadow: number
}

/** Draws models. */
export interface ModelPlayer {
  /**
   * Rejects with a plain Error where the file cannot be drawn. Nothing that it names outside itself is fetched. `moves`
   * says whether it has an animation of its own.
   */
  open(
    bytes: Uint8Array,
    how: { width: number; height: number; moves: boolean; view: ModelLook }
  ): Promise<{
    /** Premultiplied RGBA, coded, at a second of its animation and a share of a whole turn. */
    frame(at: { seconds: number; turn: number }): Float32Array
    close(): void
  }>
}

/** Draws vector animations. */
export interface VectorPlayer {
  /**
   * Rejects with a plain Error where the text cannot be played. Nothing that it names is fetched, and no program in it
   * runs.
   */
  open(
    text: string,
    size: { width: number; height: number }
  ): Promise<{
    /** Premultiplied RGBA of a frame by its own number; the array is the player's, and holds until the next frame. */
    frame(number: number): Float32Array
    close(): void
  }>
}

/** Whole films of codecs without alpha, decoded by the machine. */
export interface FilmDecoders {
  /** Rejects with a plain Error if the machine has no decoder for the track. */
  open(track: InputVideoTrack): Promise<{
    /** RGBA, 8 bits, of the frame that begins at `time` seconds. Quick for the frame after the one given last. */
    at(time: number): Promise<Uint8Array>
    close(): Promise<void>
  }>
}

/**
 * Still pictures of formats that only the machine decodes: RGBA, straight, 8 bits. Rejects with a plain Error when the
 * file is damaged.
 */
export interface PictureDecoder {
  decode(
    file: Uint8Array,
    mime: 'image/jpeg' | 'image/avif'
  ): Promise<{ width: number; height: number; rgba: Uint8Array }>
}

/**
 * A JPEG XL picture as PNG: in sRGB of 8 bits, or, where it is `deep`, in its own colours of 16. Rejects with a plain
 * Error when the file is damaged.
 */
export type JxlDecoder = (file: Uint8Array, deep: boolean) => Promise<Uint8Array>

/**
 * RGB and RGBA pictures of 8 or 16 bits, as RGBA of the depth asked for, which is the file's. Rejects with a plain
 * Error when the file is damaged.
 */
export interface PngDecoder {
  readonly name: string
  decode(file: Uint8Array, depth: 8 | 16): Promise<{ width: number; height: number; samples: Uint8Array | Uint16Array }>
}

/** How a WebP picture is to be coded. Alpha is exact but for near-lossless. */
export interface WebpCoding {
  coding: 'lossless' | 'near-lossless' | 'lossy'
  /** 0 to 100; without meaning for lossless. */
  quality: number
}

/** libwebp, by whatever way the machine has it. Samples are RGBA, straight, 8 bits. */
export interface WebpCodec {
  /** A still file. Lossless keeps colour under clear pixels as well. */
  encode(rgba: Uint8Array, width: number, height: number, how: WebpCoding): Promise<Uint8Array>
  /** Rejects with a plain Error when the file is damaged. */
  decode(file: Uint8Array): Promise<{ width: number; height: number; rgba: Uint8Array }>
}

/** A still file of RGBA, straight, 8 bits, at a quality of 1 to 99; for null with every code, hidden colour too. */
export type JxlEncoder = (
  rgba: Uint8Array,
  width: number,
  height: number,
  quality: number | null
) => Promise<Uint8Array>

/** A picture of JPEG 2000 as it is coded: samples of each pixel one behind the other, of up to 8 or up to 16 bits. */
export interface J2kPicture {
  width: number
  height: number
  components: number
  bits: number
  samples: Uint8Array | Uint16Array
}

/** The picture of a codestream. Rejects with a plain Error when it is damaged. */
export type J2kDecoder = (codestream: Uint8Array) => Promise<J2kPicture>

/** How an AVIF picture is to be coded: colour at a quality of 1 to 99, or every code for null. Alpha is exact. */
export interface AvifCoding {
  quality: number | null
  effort: 'fast' | 'small'
}

/** A still file of RGBA, straight, 8 bits. */
export type AvifEncoder = (rgba: Uint8Array, width: number, height: number, how: AvifCoding) => Promise<Uint8Array>

export interface VideoCoding {
  codec: 'vp8' | 'vp9'
  width: number
  height: number
  framesPerSecond: number
  /** 0 to 100, for VP8; VP9 is told a quantiser with each frame. */
  quality: number
  /** Bits a second to aim at instead of a quality. */
  bitrate: number | null
  /** Whether every luma code should come back, as far as the codec can. */
  exact: boolean
  matrix: 'bt709' | 'smpte170m'
  /** 4:4:4 is VP9's alone (profile 1). */
  chroma: '4:2:0' | '4:4:4'
}

export interface CodedPicture {
  data: Uint8Array
  key: boolean
}

/** Video codecs that take and give the planes of pictures (luma, then Cb and Cr), one at a time and in order. */
export interface VideoCoder {
  /**
   * Whether VP9's quantiser may change from frame to frame; where not, the first counts, and a size is aimed at by bits
   * a second.
   */
  readonly quantisersByFrame: boolean
  encoder(how: VideoCoding): Promise<{
    encode(planes: Uint8Array, index: number, key: boolean, quantiser: number): Promise<CodedPicture>
    close(): Promise<void>
  }>
  decoder(codec: VideoCoding['codec']): {
    decode(data: Uint8Array, key: boolean, index: number): Promise<Uint8Array>
    close(): Promise<void>
  }
}

/** A checksum under way. */
export interface Hasher {
  update(bytes: Uint8Array): void
  /** The sum in hexadecimal digits. */
  end(): Promise<string>
}
