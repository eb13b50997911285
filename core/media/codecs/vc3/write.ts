/** A frame of VC-3 from its coded lines (SMPTE ST 2019-1, 7): what goes before them and behind. */
import type { Vc3Coded } from '../../../frame/kernels/coded'
import { macroblocksOf, type Vc3Written } from './written'

const TRAILER = 0x600dc0de
const TRAILER_BYTES = 4
const LINES_AT = 0x170

/** Bytes before the first line: more than usual where a list of many lines needs them. */
const headerBytes = (height: number): number => Math.max(0x280, LINES_AT + 4 * macroblocksOf(height))

/** Bytes that the coded lines of a frame may take. */
export const roomFor = ({ frameBytes, height }: Vc3Written): number => frameBytes - headerBytes(height) - TRAILER_BYTES

/** The bytes of a frame, filled up to the size that all frames of its kind have. */
export function writeFrame(written: Vc3Written, { data, lines }: Vc3Coded): Uint8Array {
  const { kind, width, height, whole, anySize, frameBytes } = written
  const out = new Uint8Array(frameBytes)
  const view = new DataView(out.buffer)
  const begins = headerBytes(height)
  view.setUint32(0, begins)
  // the edition that knows any size, or the one before; whole frames, one behind the other
  out.set([anySize ? 3 : 1, 1, 0x80, 0xa0], 4)
  view.setUint16(0x18, height)
  view.setUint16(0x1a, width)
  view.setUint16(0x1d, height)
  out.set([kind.bits === 10 ? 0x58 : 0x38, 0x88], 0x21)
  view.setUint32(0x28, kind.id)
  out[0x2c] = whole ? 0xc0 : 0x80
  out[0x5f] = 1
  view.setUint32(0x164, 2)
  view.setUint32(0x168, 4 * lines.length + 4)
  view.setUint16(0x16c, lines.length)
  view.setUint16(0x16e, 16)
  for (const [i, at] of lines.entries()) view.setUint32(LINES_AT + 4 * i, at)
  out.set(data, begins)
  view.setUint32(frameBytes - TRAILER_BYTES, TRAILER)
  return out
}
