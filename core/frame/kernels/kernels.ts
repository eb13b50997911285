/**
 * The hot loops, as the rest of the core sees them. `plainKernels` (`tests/oracles`) and the WASM build promise the
 * same codes to the last bit; tests hold one against the other.
 */
import type {
  TextureKind,
  TextureHow,
  PlanarPart,
  PlanarTable,
  PlanarWay,
  Vc3Picture,
  Vc3Coded,
  Vc3Fault,
  Vc3How,
  WaveletPlane,
  WaveletFault,
  WaveletHow,
  WaveletCoded,
  RleDepth,
  RleFault,
  Ffv1Plan,
  Ffv1Slice,
  Ffv1Place,
  Ffv1Begun
} from './coded'
import type { Ended } from './lease'
import type { Triple } from '../../base/colour'

/** How a frame's samples stand to its alpha, for a comparison: the matte in 16-bit codes. */
export interface Stored {
  mode: 'straight' | 'premultiplied' | 'none'
  matte: Triple
}

/** Bins of the difference histogram are 0.02 wide; the last takes all of 20 and more. */
export const BIN = 0.02
export const BINS = 1000

/**
 * What a comparison of two frames counts. Alpha in 16-bit codes, and pixels by alpha in 256 bins for either frame;
 * colour in CIEDE2000, the worst of five backdrops for each pixel.
 */
export interface Differences {
  /** Pixels with any code different, and those of them that are clear in both and straight in both. */
  changed: number
  changedUnderClear: number
  alpha: {
    max: number
    sum: number
    squares: number
    changed: number
    clearLost: number
    solidLost: number
    clear: number
    solid: number
    foundLeast: number
    foundMost: number
    dueLevels: Uint32Array
    foundLevels: Uint32Array
  }
  colour: { max: number; sum: number; visible: number; bins: Uint32Array }
  /** Within two pixels of partial alpha of the frame due; counted only when something differs. */
  edge: { max: number; sum: number; pixels: number }
  /** Pixels of either frame with a code that is no 8-bit code times 257. */
  fine: { due: number; found: number }
}

/** What one pass over a frame's codes shows; see `Look`. */
export interface Counts {
  histogram: Uint32Array
  /** One bit for each alpha code that occurs. */
  levels: Uint8Array
  clear: number
  solid: number
  least: number
  most: number
  /** Pixels with a code that is no 8-bit code times 257. */
  fine: number
  /** Pixels that are not solid and whose colour exceeds their alpha. */
  excess: number
  /** Index of the first clear pixel, or -1, and how far colour under other clear pixels strays from its. */
  firstClear: number
  spread: number
}

/**
 * What triples of neighbouring pixels say of how a frame is stored; see `tests/oracles/triples.ts`. Colours in codes of
 * 255, `clear` and `deep` in pixels.
 */
export interface Triples {
  /** Triples that only one storage explains; `twice` is premultiplied two times over. */
  straight: number
  premultiplied: number
  twice: number
  /** Those of either that reach down to a clear pixel. */
  rims: [number, number]
  /**
   * Where one colour fades: how often it stays, and how often it turns to the clear pixels' colour, or to black and
   * white without any.
   */
  slopes: { matte: [number, number]; black: [number, number]; white: [number, number] }
  /** Of premultiplied triples: the colour they lead to where alpha ends, 256 bins a channel. */
  intercepts: Uint32Array
  /**
   * Partial pixels brighter, or darker, than premultiplied on the clear pixels' colour can be; the darker where both.
   * Without clear pixels: brighter than on black, and darker than on white.
   */
  above: number
  below: number
  /** Partial pixels of about the clear pixels' colour, which look the same either way. */
  alike: number
  clear: number
  /** The median colour of clear pixels. */
  matte: [number, number, number]
  /**
   * Clear pixels, one in sixteen, that lie deep within clear areas, and those of them that are brighter or darker than
   * the median.
   */
  deep: number
  deepAbove: number
  deepBelow: number
  /** Clear pixels anywhere whose colour lies far from the median. */
  clearOff: number
  /**
   * Faint pixels beside clear ones whose colour leaps from theirs by more than alpha lets it, and those where it does
   * not.
   */
  torn: number
  joined: number
  /** Partial pixels that were asked for their vote: all of a small frame, fewer of a large one. */
  asked: number
}

/** How a ProRes frame is to be coded: bits of alpha, and the luma weights of red and blue. */
export interface ProresHow {
  alphaBits: 0 | 8 | 16
  /** Whether clear pixels of a block that also has others take the mean colour of those. */
  fill: boolean
  kr: number
  kb: number
  /** Whether the picture is the lines of one field, whose coefficients stand in another order (RDD 36, figure 5). */
  field?: boolean
}

/**
 * Three planes of limited-range Y'CbCr, rows of `stride` samples, one plane behind the other: of `planeSize` samples;
 * or chroma of half as many columns, `stride` / 2 rounded up in a row.
 */
export interface YccPlanes {
  planes: Uint16Array
  stride: number
  planeSize: number
  width: number
  height: number
  /** Of a sample; 12 where this is absent, and never more. */
  bits?: number
  /** Chroma lies on the even columns (ITU-R BT.601, BT.709); between two of its samples lies their mean. */
  half?: boolean
}

/**
 * Chooses the quantisation index (1 to 224) of each slice; `cost` tells the bytes of colour a slice would take at an
 * index.
 */
export type ChooseQuantisers = (slices: number, cost: (slice: number, index: number) => number) => ArrayLike<number>

/** Where the coded alpha of one slice lies, and which macroblocks it is of. */
export interface AlphaSlice {
  x: number
  y: number
  mbs: number
  offset: number
  size: number
}

export interface ProresSlices {
  /** All slices, one behind the other. */
  data: Uint8Array
  sizes: Uint16Array
}

/**
 * How the places of a line are weighed from those of another: for each, its first source place, which may lie beyond
 * the rim, and `count` weights.
 */
export interface Taps {
  first: Int32Array
  count: number
  /** `count` for each place, one after another; they add up to 1. */
  shares: Float32Array
}

/** How a screen's light is taken off. */
export interface SpillHow {
  /** The screen's strongest channel. */
  channel: number
  /** 0 leaves all of it on the subject, 1 takes all of it. */
  spill: number
  /** What the channel is held to: 1 is the larger of the other two, 0 the smaller, between is between. */
  lean: number
}

/** How a chroma key takes a screen out; see `prepare/chroma.ts`. */
export interface ChromaHow extends SpillHow {
  /** Alpha below `low` becomes clear, above `high` solid. */
  low: number
  high: number
  /** How much a colour's distance across the screen's hue counts against its distance along it. */
  across: number
}

/**
 * Deviations of what a screen's pixels are: along its chroma and across it, as shares of its strength; of a channel.
 */
export interface ScreenNoise {
  away: number
  cross: number
  colour: number
}

/**
 * Terms of a surface of second order over a picture: 1, x, y, x * x, x * y, y * y, with x and y from 0 to 1 over its
 * width and height.
 */
export type Surface = readonly [number, number, number, number, number, number]

/**
 * A screen's colour over a picture, 0 to 1: a surface for each channel, or RGBA for each pixel, of which three count.
 */
export type ScreenPlate = { surfaces: readonly [Surface, Surface, Surface] } | { rgba: Float32Array }

/** Pixels across and down. */
/** Lines of a picture that a sample changes: the first of them and how many. */
export interface RleLines extends FrameSize {
  line: number
  lines: number
  depth: RleDepth
}

export interface FrameSize {
  width: number
  height: number
}

/** What a key by the colour beside each edge makes. */
export interface KeyedSamples {
  samples: Uint16Array | Float32Array
  /** How sure it is of each pixel's alpha, 0 to 1; null where it was not asked for. */
  sure: Float32Array | null
}

/**
 * How chroma lies along one axis: each pixel's own, repeated, or drawn between samples that lie in the middle of two
 * pixels or at the first of them.
 */
export type Siting = 'own' | 'repeated' | 'middle' | 'first'

export interface SharedChroma {
  across: Siting
  down: Siting
}

/** How a key by the colour beside each edge takes a screen out; see `tests/oracles/beside.ts`. */
export interface BesideHow extends SpillHow {
  /** Alpha below `clear` becomes clear, above `solid` solid, 0 to 1. */
  clear: number
  solid: number
  /** What is told from alpha as noise; all 0 for none. */
  noise: ScreenNoise
  /** Whether to tell how sure it is. */
  sure: boolean
}

/**
 * Where the first pixel of a turned picture comes from, and how far from it the next one to its right does; the one
 * below lies at right angles.
 */
export interface SamplingPath {
  u: number
  v: number
  du: number
  dv: number
}

/** Connected areas of alpha above zero; pixels that touch at sides or corners belong together. */
export interface IslandCounts {
  all: number
  /** Those of a few pixels, and pixels of the largest of them. */
  specks: number
  speckMost: number
  /** Larger ones that are barely there, and their highest alpha, as a code of 16 bits. */
  faint: number
  faintMost: number
}

/** What alpha by itself shows. */
export interface AlphaPlane {
  islands: IslandCounts
  /**
   * Of every fourth pixel within nearly solid areas, those that are not solid and on no slope, and the lowest alpha
   * among them (full if none).
   */
  bleed: number
  bleedLeast: number
  /** Places where alpha changes to and fro from line to line, over many lines. */
  comb: number
}

/** `alpha` false leaves out what has to do with it; `same` are four codes of 16 bits. */
export interface ExamineHow {
  width: number
  height: number
  same: readonly [number, number, number, number]
  alpha: boolean
}

export interface Examined {
  counts: Counts
  /** Pixels that are exactly `same`. */
  same: number
  /** That of the 16-bit codes. */
  fingerprint: string
  alpha: { triples: Triples; plane: AlphaPlane } | null
}

export interface StripHow {
  width: number
  channels: 3 | 4
  predicted: boolean
  pack: 'none' | 'lzw' | 'zlib'
}

export interface Kernels {
  readonly name: 'plain' | 'wasm'
  /**
   * Straight to premultiplied on `matte` (codes of the depth): round((c*a + m*(full-a)) / full). Alpha is copied.
   * Returns new samples.
   */
  premultiply8(samples: Uint8Array, matte: Triple): Uint8Array
  premultiply16(samples: Uint16Array, matte: Triple): Uint16Array
  /** Premultiplied on `matte` back to straight: round((c*full - m*(full-a)) / a), clamped; black where alpha is 0. */
  unpremultiply8(samples: Uint8Array, matte: Triple): Uint8Array
  unpremultiply16(samples: Uint16Array, matte: Triple): Uint16Array
  /** Takes back samples whose leases have ended: others of their size may be made in their memory. */
  takeBack(ended: Ended): void
  /** 8-bit codes to 16, times 257; and back, rounded to nearest. */
  widen(codes: Uint8Array): Uint16Array
  narrow(codes: Uint16Array): Uint8Array
  /** Codes as floats of 0 to 1; into `room`, which has their length, where it is given, and in new memory where not. */
  toFloats(codes: Uint8Array | Uint16Array, room?: Float32Array): Float32Array
  /**
   * Floats as codes of a depth, rounded to nearest and clamped; what is not a number becomes 0. Into `room` as above.
   */
  toCodes8(values: Float32Array, room?: Uint8Array): Uint8Array
  toCodes16(values: Float32Array, room?: Uint16Array): Uint16Array
  /**
   * Compares two frames of 16-bit RGBA codes; `opposite` is the fourth backdrop, in codes. The WASM build computes
   * CIEDE2000 in single precision: its differences are within 0.01 of the plain ones, above 10 within half a per cent;
   * every count is exact.
   */
  compare(
    expected: Uint16Array,
    found: Uint16Array,
    width: number,
    height: number,
    how: { expected: Stored; found: Stored; opposite: Triple }
  ): Differences
  /** Counts codes of a frame of 16-bit RGBA. */
  look(samples: Uint16Array): Counts
  /**
   * All that an examination takes of a frame's pixels in one go; 8-bit codes are looked at as 16-bit ones. Both builds
   * give the same.
   */
  examine(samples: Uint8Array | Uint16Array, how: ExamineHow): Examined
  /**
   * How triples of a frame of 16-bit RGBA vote. `marks`, one byte a pixel, takes what its triples say of each partial
   * pixel: 1 straight, 2 premultiplied, 3 neither. Both builds count the same.
   */
  triples(samples: Uint16Array, width: number, height: number, marks?: Uint8Array): Triples
  /** 32 hexadecimal digits, equal for equal samples; see `fingerprint.ts`. Both builds give the same. */
  fingerprint(samples: Uint8Array | Uint16Array | Float32Array): string
  /**
   * Three boxes of a whole radius of at least 1 along each axis; the outermost value goes on beyond the rim. New
   * values; the builds agree within 1e-6.
   */
  blur(plane: Float32Array, width: number, height: number, radius: number): Float32Array
  /**
   * The largest value, not below zero, within a disc of a whole radius around each pixel; beyond the rim is nothing.
   */
  largest(plane: Float32Array, width: number, height: number, radius: number): Float32Array
  /**
   * RGBA weighed along rows, then along columns; the outermost pixel goes on beyond the rim. The builds agree within
   * 1e-5.
   */
  resample(rgba: Float32Array, width: number, height: number, across: Taps, down: Taps): Float32Array
  /**
   * Straight RGBA turned into a frame of another size, on premultiplied values, by cubic convolution; beyond the rim is
   * clear. The builds agree within 1e-5 of what is seen.
   */
  turn(rgba: Float32Array, from: FrameSize, to: FrameSize, way: SamplingPath): Float32Array
  /**
   * Takes `matte` out of straight float RGBA, in place, where each pixel's alpha says how much of it is mixed in. The
   * builds agree within 1e-5 of what is seen.
   */
  takeOut(rgba: Float32Array, matte: Triple): void
  /**
   * Gives each pixel the least alpha with which a colour between black and white, over `background`, makes the one it
   * has, and that colour, in place. Alpha from `solid` on is full. As above.
   */
  takeBackground(rgba: Float32Array, background: Triple, solid: number): void
  /**
   * Takes a screen out, in place: `plate` has its colour for each pixel, four floats of which three count. As above.
   */
  chromaKey(rgba: Float32Array, plate: Float32Array, how: ChromaHow): void
  /**
   * The same of a whole straight picture of codes, as codes of 16 bits. The builds may differ by a code.
   */
  keyHue(codes: Uint8Array | Uint16Array, plate: ScreenPlate, size: FrameSize, how: ChromaHow): Uint16Array
  /**
   * Takes a screen out of a whole straight picture by the colour beside each edge: floats in place, codes as codes of
   * 16 bits. The builds differ by the rounding of single precision, and where a pixel lies at a bound.
   */
  keyBeside(
    samples: Uint8Array | Uint16Array | Float32Array,
    plate: ScreenPlate,
    size: FrameSize,
    how: BesideHow
  ): KeyedSamples
  /**
   * Leads chroma that a film shares between pixels back to edges by luma. Straight and coded; alpha and luma stay.
   * Codes come back as codes of 16 bits; floats of 0 to 1 are changed in place and given back.
   */
  ledByLuma(
    samples: Uint8Array | Uint16Array | Float32Array,
    size: FrameSize,
    shared: SharedChroma
  ): Uint16Array | Float32Array
  /**
   * Brings floats to those that are 8-bit codes, in place, with noise that the place of a sample decides, `first` that
   * of the first. Both builds give the same.
   */
  dither8(rgba: Float32Array, first: number): void
  /** A zlib stream (RFC 1950) of the bytes. The two builds pack differently; either inflates to the same bytes. */
  zlib(bytes: Uint8Array): Uint8Array
  /** RGBA of 8 bits as the blocks of a texture, row by row; what lies beyond the rim is as the rim. */
  textureEncode(pixels: Uint8Array, size: FrameSize, how: TextureHow): Uint8Array
  /**
   * RGBA of 8 bits from the blocks of a texture, as many as its size asks for; of alpha alone, the picture `onto` with
   * that alpha. Values between two are rounded to the nearest code.
   */
  textureDecode(blocks: Uint8Array, size: FrameSize, kind: TextureKind, onto?: Uint8Array): Uint8Array
  /**
   * RGBA of 8 bits as green, blue and red as their distances from it, and alpha if asked; of each what samples differ
   * by from the median of their neighbours. What begins at each of `tops`, rows, stands alone.
   */
  planarSplit(
    samples: Uint8Array,
    size: FrameSize,
    how: { alpha: boolean; tops: readonly number[]; way: PlanarWay }
  ): PlanarPart[]
  /** The codes of values, highest bit first, in whole words: of each its bits (from bit 32 on) and the code. */
  planarCode(values: Uint8Array, codes: BigUint64Array, way: Pick<PlanarWay, 'words'>): Uint8Array
  /** So many values from such codes, or null where they hold fewer; with `median` what samples differ by is summed. */
  planarDecode(
    bytes: Uint8Array,
    table: PlanarTable,
    how: { count: number; width: number; median: boolean; way: PlanarWay }
  ): Uint8Array | null
  /** RGBA from three such planes or four, each of whole samples. */
  planarJoin(planes: readonly Uint8Array[], way: Pick<PlanarWay, 'start'>): Uint8Array
  /** Solid RGBA of 16 bits from a picture of VC-3; as much of it as `size` shows, from the top left. */
  vc3Rgba(packet: Uint8Array, picture: Vc3Picture, size: FrameSize): Uint16Array | Vc3Fault
  /**
   * RGBA of 16 bits as the lines of a picture of VC-3, without its alpha: at the finest quantiser that keeps to the
   * budget, the same throughout. Null where none does.
   */
  vc3Encode(samples: Uint16Array, size: FrameSize, how: Vc3How): Vc3Coded | null
  /**
   * The channels of a wavelet picture, as they are coded, in codes of so many bits; their coded size, not what is shown
   * of it.
   */
  waveletPlanes(packet: Uint8Array, planes: readonly WaveletPlane[], bits: number): Uint16Array[] | WaveletFault
  /**
   * RGBA of 16 bits from green, red, blue and, where there are four, alpha, of 12 bits; as much of it as `size` shows,
   * from the top left.
   */
  waveletRgba(packet: Uint8Array, planes: readonly WaveletPlane[], size: FrameSize): Uint16Array | WaveletFault
  /**
   * RGBA of 16 bits as green, red, blue and, if asked, alpha of a wavelet picture of 12 bits. Its width is a multiple
   * of 8 and at least 24; its last line is repeated to a multiple of 8, and to 24. What a decoder makes of it differs
   * as quantisers say.
   */
  waveletEncode(samples: Uint16Array, size: FrameSize, how: WaveletHow): WaveletCoded[]
  /**
   * RGBA of 8 bits as one Animation RLE sample; with `before`, only what changed since. At 24 bits alpha is left out
   * and tells no pixels apart. Both builds write the same bytes.
   */
  rleEncode(pixels: Uint8Array, before: Uint8Array | null, width: number, height: number, depth: 24 | 32): Uint8Array
  /**
   * Lays the lines of a sample, which begin at byte `from`, onto a copy of `canvas`; onto a clear or black one for
   * null.
   */
  rleDecode(sample: Uint8Array, from: number, canvas: Uint8Array | null, lines: RleLines): Uint8Array | RleFault
  /**
   * Puts the RGBA of a slice of FFV1 in RGB where it belongs, from a range decoder that has read the slice's head.
   * `states` go on with the stream, and are changed. False where the stream breaks; then nothing was put. Both builds
   * give the same.
   */
  ffv1Decode(slice: Ffv1Slice, plan: Ffv1Plan, to: Ffv1Place): boolean
  /**
   * Codes the top left of `samples`, whose rows are `stride` pixels long, behind a head. Both builds write the same
   * bytes.
   */
  ffv1Encode(samples: Uint8Array | Uint16Array, stride: number, begun: Ffv1Begun, plan: Ffv1Plan): Uint8Array
  /** LZW of TIFF 6.0, section 13. Both builds write the same bytes. */
  lzw(bytes: Uint8Array): Uint8Array
  /**
   * Whole rows of RGBA as a TIFF strip holds them, little-endian: without alpha for 3 `channels`, `predicted` as
   * differences from the pixel before (section 14). Packed by LZW or zlib where asked.
   */
  strip(samples: Uint8Array | Uint16Array, how: StripHow): Uint8Array
  /** CRC-32 of PNG and ZIP, continued from `crc`. */
  crc32(bytes: Uint8Array, crc?: number): number
  /**
   * RGBA samples as the content of PNG's IDAT: rows filtered and packed in one go. With 3 `channels` alpha is left out.
   */
  pngPack(samples: Uint8Array | Uint16Array, width: number, height: number, channels: 3 | 4): Uint8Array
  /**
   * Filtered rows of RGB or RGBA, as inflated from IDAT, to RGBA samples of `depth`; alpha is full for 3 `channels`.
   * Null if a row names a filter type that does not exist.
   */
  pngUnpack(
    filtered: Uint8Array,
    width: number,
    height: number,
    channels: 3 | 4,
    depth: 8 | 16
  ): Uint8Array | Uint16Array | null
  /**
   * Y'CbCr to RGBA of 16-bit codes, rounded and clamped; `alpha` has one code a pixel, or is null for full. The builds
   * may differ by one code.
   */
  yccToRgba(picture: YccPlanes, alpha: Uint16Array | null, weights: { kr: number; kb: number }): Uint16Array
  /**
   * Codes RGBA as the slices of one progressive 4:4:4 picture of SMPTE RDD 36, limited range, all quantiser weights 4.
   * The builds differ by the rounding of single precision: a coefficient may come out one step apart.
   */
  prores(samples: Uint16Array, width: number, height: number, how: ProresHow, choose: ChooseQuantisers): ProresSlices
  /**
   * Alpha of a progressive ProRes picture, one code a pixel, scaled to 16 bits; or the index of the first slice that is
   * damaged.
   */
  proresAlpha(
    data: Uint8Array,
    slices: readonly AlphaSlice[],
    width: number,
    height: number,
    bits: 8 | 16
  ): Uint16Array | number
  /** Place of the first alpha of 16 bits that lies further than `most` from the one of 12 bits beside it, or -1. */
  readingsApart(ours: Uint16Array, theirs: Uint16Array, most: number): number
  /**
   * PNG filtering (ISO/IEC 15948, clause 9): `rows` are `height` rows of `stride` bytes; returns `height` rows of
   * `stride + 1` bytes, each led by the filter type with the least sum of absolute differences.
   */
  pngFilter(rows: Uint8Array, stride: number, height: number, pixelBytes: number): Uint8Array
  /** Undoes filtering. Returns null if a row names a filter type above 4. */
  pngUnfilter(filtered: Uint8Array, stride: number, height: number, pixelBytes: number): Uint8Array | null
}
