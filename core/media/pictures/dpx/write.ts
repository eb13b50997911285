/** Writing DPX (SMPTE ST 268-1): RGB and RGBA of 8, 10, 12 and 16 bits in one element, both byte orders. */
import type { OptionValues } from '../../../base/settings/field'
import { framesPerSecond } from '../../../base/rate'
import { fullCode, type Frame } from '../../../frame/frame'
import type { Deliverable } from '../../formats/deliverable'
import { bytesOfLine, tenBitsAt } from './read'

/** Bytes before the picture: the headers of the file, of film and of television. */
const HEAD = 2048
const TIMECODE_AT = 1920
const NAME_AT = 36

/** Descriptors of an element (6.1): red, green and blue; with alpha. */
const RGB = 50
const RGBA = 51

/** Transfer and colorimetry that no number stands for: video of no kind that is named (6.2, 6.3). */
const UNSPECIFIED = 4

/** Bits of a sample in the file. */
export const bitsOf = ({ depth, bits }: Pick<Deliverable, 'depth' | 'bits'>): number => bits ?? depth

/** Whether the low byte comes first. */
const isLittle = (options: OptionValues): boolean => options['byte-order'] === 'little'

/** Bytes of a picture, its headers with it. */
export function dpxBytes(deliverable: Pick<Deliverable, 'width' | 'height' | 'depth' | 'bits' | 'alpha'>): number {
  const channels = deliverable.alpha.mode === 'none' ? 3 : 4
  return HEAD + deliverable.height * bytesOfLine(deliverable.width * channels, bitsOf(deliverable))
}

/**
 * 0 "SDPX" high byte first, "XPDS" low byte first, 4 u32 place of the picture, 8 "V2.0", 16 u32 bytes of the file,
 * 20 u32 1, 24 u32 1664 and 28 u32 384 of headers, 36 name, 160 who made it, 660 u32 no key;
 * 768 u16 way of the lines, 770 u16 elements, 772 u32 width, 776 u32 height, 788 u32 largest code, 800 u8 descriptor,
 * 801 u8 transfer, 802 u8 colorimetry, 803 u8 bits, 804 u16 packing, 806 u16 encoding, 808 u32 place;
 * 1628 u32 twice, the shape of a pixel; 1724 f32 and 1940 f32 frames a second; 1920 u32 time code. What is not said is
 * all bits set.
 */
function writeHead(view: DataView, deliverable: Deliverable, little: boolean): void {
  const { width, height, alpha, rate, pixelAspect, fields } = deliverable
  const bits = bitsOf(deliverable)
  const bytes = new Uint8Array(view.buffer)
  const letters = (at: number, text: string): void => bytes.set(new TextEncoder().encode(text), at)
  bytes.fill(0xff, 24, HEAD)
  // texts are empty, not undefined
  for (const [from, to] of [
    [NAME_AT, 660],
    [820, 852],
    [1432, 1628],
    [1664, 1712],
    [1732, 1864]
  ] as const)
    bytes.fill(0, from, to)
  letters(0, little ? 'XPDS' : 'SDPX')
  view.setUint32(4, HEAD, little)
  letters(8, 'V2.0')
  view.setUint32(16, view.byteLength, little)
  view.setUint32(20, 1, little)
  view.setUint32(24, 1664, little)
  view.setUint32(28, HEAD - 1664, little)
  view.setUint32(32, 0, little)
  letters(160, 'Pour')
  view.setUint16(768, 0, little)
  view.setUint16(770, 1, little)
  view.setUint32(772, width, little)
  view.setUint32(776, height, little)
  view.setUint32(780, 0, little)
  view.setUint32(784, 0, little)
  view.setUint32(792, 2 ** bits - 1, little)
  view.setUint8(800, alpha.mode === 'none' ? RGB : RGBA)
  view.setUint8(801, UNSPECIFIED)
  view.setUint8(802, UNSPECIFIED)
  view.setUint8(803, bits)
  view.setUint16(804, bits === 10 || bits === 12 ? 1 : 0, little)
  view.setUint16(806, 0, little)
  view.setUint32(808, HEAD, little)
  view.setUint32(812, 0, little)
  view.setUint32(816, 0, little)
  view.setUint32(1628, pixelAspect[0], little)
  view.setUint32(1632, pixelAspect[1], little)
  view.setUint8(1928, fields === 'progressive' ? 0 : 1)
  if (!rate) return
  view.setFloat32(1724, framesPerSecond(rate), little)
  view.setFloat32(1940, framesPerSecond(rate), little)
}

/** A picture; its name and time code are put in by `placed`, which knows which of the clip it is. */
export function encode(frame: Frame, deliverable: Deliverable): Uint8Array {
  const { width, height, samples } = frame
  const bits = bitsOf(deliverable)
  const little = isLittle(deliverable.options)
  const channels = frame.alpha.mode === 'none' ? 3 : 4
  const file = new Uint8Array(dpxBytes({ ...deliverable, width, height, alpha: frame.alpha }))
  const view = new DataView(file.buffer)
  writeHead(view, { ...deliverable, width, height, alpha: frame.alpha }, little)
  const line = bytesOfLine(width * channels, bits)
  const scale = (2 ** bits - 1) / fullCode(frame.depth)
  for (let y = 0; y < height; y++) {
    const from = HEAD + y * line
    let n = 0
    let word = 0
    for (let i = 4 * y * width; i < 4 * (y + 1) * width; i += 4)
      for (let c = 0; c < channels; c++, n++) {
        const code = Math.floor(samples[i + c]! * scale + 0.5)
        if (bits === 8) file[from + n] = code
        else if (bits === 16) view.setUint16(from + 2 * n, code, little)
        else if (bits === 12) view.setUint16(from + 2 * n, code << 4, little)
        else {
          word |= code << tenBitsAt(n % 3, channels)
          if (n % 3 < 2 && n < width * channels - 1) continue
          view.setUint32(from + 4 * Math.floor(n / 3), word >>> 0, little)
          word = 0
        }
      }
  }
  return file
}

/** A picture with its name, and its time code where it has one, in the header. */
export function placed(
  picture: Uint8Array,
  { name, timecode, options }: { name: string; timecode: string | null; options: OptionValues }
): Uint8Array {
  const file = picture.slice()
  const view = new DataView(file.buffer)
  file.set(new TextEncoder().encode(name).subarray(0, 99), NAME_AT)
  if (timecode) view.setUint32(TIMECODE_AT, parseInt(timecode.replaceAll(/\D/g, ''), 16), isLittle(options))
  return file
}
