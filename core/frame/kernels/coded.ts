/** What coded pictures are made of, as kernels take and give it: textures, planes, VC-3, wavelets, Animation, FFV1. */

/**
 * What the blocks of a texture hold: colour (BC1), colour and alpha (BC3), alpha or grey alone (BC4), luma and scaled
 * chroma (laid out as BC3).
 */
export type TextureKind = 'colour' | 'colour-alpha' | 'alpha' | 'grey' | 'scaled'

/** How blocks are sought: 0 at once, 1 by the line that colours lie along, 2 by trying what lies around as well. */
export interface TextureHow {
  kind: Exclude<TextureKind, 'grey'>
  effort: 0 | 1 | 2
  /** Colour counts by how much of it is seen. */
  byAlpha: boolean
}

/** One plane of a picture as what its samples differ by from those beside them, and how often each value occurs. */
export interface PlanarPart {
  values: Uint8Array
  counts: Uint32Array
}

/** How a codec of planes predicts and packs. */
export interface PlanarWay {
  /** Expected of the first sample, and what stands for no distance from green. */
  start: 0 | 128
  /** The first sample of every line is expected to be the one above; else only the second line's. */
  lines: boolean
  /** Bits lie in little-endian words of 32; else in bytes. */
  words: boolean
}

/** Codes of up to 256 values: by the next 12 bits, and all of them, ascending, left-aligned in 32 bits. */
export interface PlanarTable {
  /** Length times 256 and value; 0 where the code is longer. */
  quick: Uint16Array
  codes: Uint32Array
  lengths: Uint8Array
  symbols: Uint8Array
}

/** A picture of VC-3: where its lines of macroblocks lie in the packet, and by which codes and weights they go. */
export interface Vc3Picture {
  /** Macroblocks in a line. */
  across: number
  lines: readonly { at: number; bytes: number }[]
  bits: number
  /** Chroma for every pixel, or three components of colour; else for every second one across. */
  whole: boolean
  /** Bits that go before a size that has more. */
  more: number
  /** Luma weights of red and blue; null for green, blue and red as they are. */
  luma: { kr: number; kb: number } | null
  /** See `media/codecs/vc3/books.ts`. */
  codes: Uint32Array
  /** 64 of luma, 64 of chroma, in the order of the scan. */
  weights: Float32Array
}

/** What a picture of VC-3 is coded by, and how large it may become. */
export interface Vc3How extends Pick<Vc3Picture, 'bits' | 'whole' | 'more' | 'luma' | 'weights'> {
  /** See `codesFor` in `media/codecs/vc3/codes.ts`. */
  codes: Uint32Array
  /** Bytes that all of its lines may take. */
  budget: number
}

/** A coded picture of VC-3: its lines one behind the other, each of whole fours of bytes. */
export interface Vc3Coded {
  data: Uint8Array
  /** Where each line begins. */
  lines: number[]
  quantiser: number
}

export interface Vc3Fault {
  line: number
  fault: 'ends-early' | 'too-far'
}

/** One band of a channel of a wavelet picture: where its codes lie in the packet, and how they are meant. */
export interface WaveletBand {
  at: number
  bytes: number
  width: number
  height: number
  /** What a coefficient is multiplied by. */
  quantiser: number
  /** Large sizes lie further apart. */
  companded: boolean
  /** Each of a line is the difference from the one before. */
  summed: boolean
}

/** One channel of a wavelet picture: its low band of 16 bits, big-endian, and nine others, coarsest first. */
export interface WaveletPlane {
  /** Of the coded picture: three times halved it is that of the low band. */
  width: number
  height: number
  low: number
  bands: readonly WaveletBand[]
  /** By how many bits low bands are made smaller before each level: two bits a level, from the highest of 16 on. */
  prescale: number
}

/** Where the codes of a band break off or say too much. */
export interface WaveletFault {
  channel: number
  band: number
}

/** How a wavelet picture is coded. */
export interface WaveletHow {
  /**
   * Of the nine bands of colour, and of those of alpha where it has any, coarsest first. One that would not hold a
   * band's largest coefficient is made larger.
   */
  colour: readonly number[]
  alpha: readonly number[] | null
  /** Clear pixels beside others take their colour first. */
  fill: boolean
}

/** A coded channel: its low band, big-endian, and the codes of nine others with the quantiser of each. */
export interface WaveletCoded {
  low: Uint8Array
  bands: { codes: Uint8Array; quantiser: number }[]
}

export type RleDepth = 16 | 24 | 32

/** Where Animation data breaks its own rules: byte of the sample, and line of the picture. */
export interface RleFault {
  fault: 'ends-at-line' | 'ends-within' | 'too-wide'
  at: number
  line: number
}

/** One slice of FFV1: its size, the bits of a sample, and the tables that contexts and states follow. */
export interface Ffv1Plan {
  width: number
  height: number
  bits: number
  planes: 3 | 4
  /** Of three sets, green, blue with red, and alpha: five tables of 256 each. */
  tables: Int16Array
  /** Contexts of each set. */
  contexts: readonly [number, number, number]
  /** 512 bytes; see `range-coder.ts`. */
  transitions: Uint8Array
}

/** A coded slice: its bytes, where the decoder stands in them, and what its states have learnt. */
export interface Ffv1Slice {
  data: Uint8Array
  start: Ffv1Start
  states: Uint8Array
}

/** Where the pixels of a slice belong: the first of them, as a pixel of rows that are `stride` pixels long. */
export interface Ffv1Place {
  samples: Uint8Array | Uint16Array
  first: number
  stride: number
}

/** Where a range decoder stands. */
export interface Ffv1Start {
  at: number
  low: number
  range: number
}

/**
 * Where a range encoder stands: the byte a carry may still raise, how many of 255 follow it, and what it has written.
 */
export interface Ffv1Begun {
  held: number
  run: number
  low: number
  range: number
  out: number[]
}
