/** Reading DPX (SMPTE ST 268-1): grey, RGB and RGBA of 8, 10, 12 and 16 bits, both byte orders. */
import type { Finding } from '../../../source/source'
import { unreadable } from '../../../base/errors'
import { readAll, type ByteReader } from '../../../base/files/file'
import { Cursor } from '../../../base/files/view'
import { allocateSamples, MAX_PIXELS, OPAQUE, STRAIGHT, type Frame } from '../../../frame/frame'
import { MOST_OF_SHAPE, nearestRate, parseRate, type Rate } from '../../../base/rate'

export interface DpxInfo {
  cursor: Cursor
  width: number
  height: number
  channels: 1 | 3 | 4
  reversed: boolean
  bits: 8 | 10 | 12 | 16
  offset: number
  lineBytes: number
  rate: Rate | null
  pixelAspect: [number, number]
  /** Of its first element (SMPTE ST 268-1, 6.2). */
  transfer: number
  timecode: string | null
}

/** What transfers are called, of those that mean another curve than that of screens. */
const FILM: Readonly<Record<number, string>> = { 1: 'printing density', 3: 'logarithmic' }
export const SCREENS: Readonly<Record<number, string>> = {
  5: 'BT.709',
  6: 'BT.709',
  7: 'BT.601 (625 lines)',
  8: 'BT.601 (525 lines)'
}
const LINEAR = 2

/** What is to be told of a transfer: codes are kept as they are, whatever it says. */
export function transferFindings(transfer: number): Finding[] {
  const tell = (severity: Finding['severity'], sentence: string, more: Partial<Finding> = {}): Finding[] => [
    { id: 'colour-transfer', severity, frames: [], sentence, ...more }
  ]
  if (FILM[transfer])
    return tell(
      'warning',
      `The file says that its codes are ${FILM[transfer]}, as film is scanned. They are kept and taken for ` +
        'those of sRGB, which shows them flat and grey.',
      {
        causes: 'What is keyed, scaled and laid over anything is then mixed in film’s codes, not in those of a screen.'
      }
    )
  return transfer === LINEAR
    ? tell(
        'note',
        'The file says that its codes are linear light. Many programs write that whatever they hold, so they ' +
          'are taken for those of sRGB; where it looks too dark, it is light indeed.',
        { mend: { id: 'step', label: 'Take it as light', kind: 'bring-to-srgb', settings: { from: 'linear' } } }
      )
    : []
}

/** A time code of eight decimal digits, a digit in four bits; null where it is undefined or none that there can be. */
function timecodeOf(word: number): string | null {
  const digits = word.toString(16).padStart(8, '0')
  // zero is what those leave who write none
  if (word === 0xffffffff || word === 0 || !/^[0-2]\d[0-5]\d[0-5]\d\d\d$/.test(digits)) return null
  return digits.match(/../g)!.join(':')
}

const DESCRIPTORS: Record<number, { channels: 1 | 3 | 4; reversed: boolean }> = {
  6: { channels: 1, reversed: false },
  50: { channels: 3, reversed: false },
  51: { channels: 4, reversed: false },
  52: { channels: 4, reversed: true }
}

/** Whether a file of these first bytes is a DPX picture, of either byte order. */
export function looksLikeDpx(head: Uint8Array): boolean {
  const magic = String.fromCharCode(...head.subarray(0, 4))
  return magic === 'SDPX' || magic === 'XPDS'
}

/** Bytes of one line: 8 and 16 bits whole, 12 in words of 16, 10 three to a word of 32; lines begin on words of 32. */
export function bytesOfLine(samples: number, bits: number): number {
  const bytes = bits === 8 ? samples : bits === 10 ? Math.ceil(samples / 3) * 4 : samples * 2
  return Math.ceil(bytes / 4) * 4
}

/** `size` is the file's, of which `bytes` may be the beginning. */
export function readInfo(bytes: Uint8Array, file: string, size = bytes.length): DpxInfo {
  const fail = (matter: string): Error => unreadable(file, 'the header', matter)
  if (!looksLikeDpx(bytes)) throw fail('this is not a DPX file')
  const cursor = new Cursor(bytes, file, bytes[0] === 0x58)
  const [width, height] = [cursor.u32(772), cursor.u32(776)]
  const [kind, bits, packing, encoding] = [cursor.u8(800), cursor.u8(803), cursor.u16(804), cursor.u16(806)]
  const shape = DESCRIPTORS[kind]
  if (!shape) throw fail(`its first element is of kind ${kind}; luma, RGB, RGBA and ABGR are read`)
  if (![8, 10, 12, 16].includes(bits) || encoding !== 0 || ((bits === 10 || bits === 12) && packing !== 1))
    throw fail(`samples of ${bits} bits in packing ${packing}, encoding ${encoding}, are not read`)
  if (width < 1 || height < 1 || width * height > MAX_PIXELS)
    throw fail(`a picture of ${width}x${height} cannot be taken`)
  if (cursor.u16(768) !== 0) throw fail('its lines do not run from left to right and top to bottom, which is not read')
  const padding = cursor.u32(812)
  const lineBytes = bytesOfLine(width * shape.channels, bits) + (padding === 0xffffffff ? 0 : padding)
  const offset = cursor.u32(808) || cursor.u32(4)
  if (offset + lineBytes * height > size)
    throw unreadable(file, null, `${size} bytes cannot hold a picture of ${width}x${height}; the file was cut short`)
  const told =
    bytes.length >= 1944 && offset >= 1944
      ? cursor.f32(1940) || cursor.f32(1724)
      : bytes.length >= 1728 && offset >= 1728
        ? cursor.f32(1724)
        : 0
  const rate = told > 0 && told < 1000 ? parseRate(told.toFixed(3)) : null
  // undefined is all bits set, and some leave zeros
  const [across, down] = bytes.length >= 1636 && offset >= 1636 ? [cursor.u32(1628), cursor.u32(1632)] : [0, 0]
  const pixelAspect: [number, number] = (across !== 0xffffffff && nearestRate([across, down], MOST_OF_SHAPE)) || [1, 1]
  return {
    cursor,
    width,
    height,
    ...shape,
    bits: bits as DpxInfo['bits'],
    offset,
    lineBytes,
    rate,
    pixelAspect,
    transfer: cursor.u8(801),
    timecode: bytes.length >= 1924 && offset >= 1924 ? timecodeOf(cursor.u32(1920)) : null
  }
}

/** Where the three samples of ten bits in a word begin: colours from the highest bits down, luma from the lowest up. */
export const tenBitsAt = (n: number, channels: number): number => (channels === 1 ? 2 + 10 * n : 22 - 10 * n)

/** The picture of a file; codes of 10 and 12 bits are scaled to 16. */
export async function decode(_: unknown, reader: ByteReader): Promise<Frame> {
  const info = readInfo(await readAll(reader), reader.name)
  const { cursor, width, height, channels, reversed, bits, offset, lineBytes } = info
  const depth = bits === 8 ? 8 : 16
  const samples = allocateSamples(width, height, depth)
  const full = depth === 8 ? 255 : 65535
  const widest = 2 ** bits - 1
  for (let y = 0; y < height; y++) {
    const line = offset + y * lineBytes
    for (let x = 0; x < width; x++) {
      const to = 4 * (y * width + x)
      samples[to + 3] = full
      for (let c = 0; c < channels; c++) {
        const n = x * channels + c
        const code =
          bits === 8
            ? cursor.u8(line + n)
            : bits === 16
              ? cursor.u16(line + 2 * n)
              : bits === 12
                ? cursor.u16(line + 2 * n) >> 4
                : (cursor.u32(line + 4 * Math.floor(n / 3)) >>> tenBitsAt(n % 3, channels)) & 1023
        const value = depth === 8 || bits === 16 ? code : Math.round((code * full) / widest)
        if (channels === 1) samples.fill(value, to, to + 3)
        else samples[to + (reversed ? 3 - c : c)] = value
      }
    }
  }
  return { width, height, depth, samples, alpha: channels === 4 ? STRAIGHT : OPAQUE, transfer: 'srgb' }
}
