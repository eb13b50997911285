/** Which kind of frames of VC-3 is written, by what is asked and the picture's size, and how large its frames are. */
import type { Choice, OptionValues } from '../../../base/settings/field'
import { KINDS, type Vc3Kind } from './kinds'

export interface Vc3Written {
  kind: Vc3Kind
  width: number
  height: number
  /** Green, blue and red for every pixel; else luma, and chroma for every second one across. */
  whole: boolean
  /** Of the kinds that hold any size; else of those made for 1080 or 720 lines. */
  anySize: boolean
  /** All frames of a film are as large. */
  frameBytes: number
}

/** Macroblocks across or down, of 16 pixels each. */
export const macroblocksOf = (pixels: number): number => Math.ceil(pixels / 16)

/** Bytes of a frame of the kinds for one size (SMPTE ST 2019-1, table of compression ids). */
const HD_BYTES: Readonly<Record<number, number>> = {
  1235: 917504,
  1237: 606208,
  1238: 917504,
  1250: 458752,
  1251: 458752,
  1252: 303104,
  1253: 188416
}

/** Bytes that 255 macroblocks take in kinds of any size. */
const BYTES_OF_255: Readonly<Record<number, number>> = {
  1270: 57344,
  1271: 28672,
  1272: 28672,
  1273: 18944,
  1274: 5888
}

/** What can be asked for: the kind of any size, and those of 1920x1080 and 1280x720. */
const ASKED: Readonly<Record<string, readonly [number, number | null, number | null]>> = {
  rgb: [1270, null, null],
  'high-10': [1271, 1235, 1250],
  high: [1272, 1238, 1251],
  standard: [1273, 1237, 1252],
  light: [1274, 1253, null]
}

export const CODINGS: readonly Choice[] = [
  { value: 'rgb', label: 'RGB, 10 bit' },
  { value: 'high-10', label: '4:2:2, 10 bit' },
  { value: 'high', label: '4:2:2, 8 bit' },
  { value: 'standard', label: '4:2:2, 8 bit, standard' },
  { value: 'light', label: '4:2:2, 8 bit, light' }
]
export const USUAL_CODING = 'high-10'

const codingOf = ({ coding }: OptionValues): string => (String(coding) in ASKED ? String(coding) : USUAL_CODING)

/** Bits that codes are written with. */
export const bitsFor = (options: OptionValues): number => (['rgb', 'high-10'].includes(codingOf(options)) ? 10 : 8)

/** What is written of a picture of this size. */
export function writtenOf({ width, height }: { width: number; height: number }, options: OptionValues): Vc3Written {
  const coding = codingOf(options)
  const [any, full, small] = ASKED[coding]!
  const made = width === 1920 && height === 1080 ? full : width === 1280 && height === 720 ? small : null
  const hd = options.hd === false ? null : made
  const blocks = macroblocksOf(width) * macroblocksOf(height)
  // whole blocks of 4096 bytes, and no fewer than two
  const bytes = hd ? HD_BYTES[hd]! : Math.max(8192, 4096 * Math.ceil((blocks * BYTES_OF_255[any]!) / 255 / 4096))
  return {
    kind: KINDS.get(hd ?? any)!,
    width,
    height,
    whole: coding === 'rgb',
    anySize: hd === null,
    frameBytes: bytes
  }
}
