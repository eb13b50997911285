/** The header of a frame of VC-3 (SMPTE ST 2019-1, 7): what kind it is, its size, and where its lines lie. */
import { unreadable } from '../../../base/errors'
import { KINDS, type Vc3Kind } from './kinds'

export interface Vc3Header {
  kind: Vc3Kind
  width: number
  height: number
  bits: 8 | 10
  /** Three components for every pixel. */
  whole: boolean
  /** Red, green and blue rather than luma and chroma. */
  rgb: boolean
  /** Where each line of macroblocks lies, and how long it is at most. */
  lines: { at: number; bytes: number }[]
}

const LINES_AT = 0x170

/** Reads the header. Throws an error that names file and place where it is damaged or of a kind that is not read. */
export function readHeader(data: Uint8Array, { file, place }: { file: string; place: string }): Vc3Header {
  const fail = (matter: string): Error => unreadable(file, place, matter)
  const view = new DataView(data.buffer, data.byteOffset, data.byteLength)
  if (data.length < 0x280) throw fail('its header is cut short')
  const begins = view.getUint32(0)
  if (begins < 0x280 || begins > 0x10000) throw fail('this is not a frame of VC-3')
  const id = view.getUint32(0x28)
  const kind = KINDS.get(id)
  if (!kind) throw fail(`it is of VC-3's kind ${id}, which is not read`)
  if (view.getUint8(5) & 2) throw fail('its fields are coded apart, which is not read')
  if (view.getUint8(6) & 0x20) throw fail('its macroblocks are of frames and fields in turn, which is not read')
  if (view.getUint8(7) & 1)
    throw fail('it has a plane of alpha, which is not read: no other program at hand says what it holds')
  const depth = view.getUint8(0x21) >> 5
  const bits = depth === 1 ? 8 : depth === 2 ? 10 : 0
  if (!bits) throw fail('its codes have more than 10 bits, which is not read')
  if ((bits === 10) !== (kind.bits === 10)) throw fail(`its codes have ${bits} bits, where its kind has ${kind.bits}`)
  const [height, width] = [view.getUint16(0x18), view.getUint16(0x1a)]
  if (!width || !height) throw fail('it has no picture')
  const flags = view.getUint8(0x2c)
  const count = view.getUint16(0x16c)
  if (count !== Math.ceil(height / 16)) throw fail(`it has ${count} lines of macroblocks for ${height} lines of pixels`)
  if (LINES_AT + 4 * count > begins) throw fail('its list of lines lies within its data')
  const starts = Array.from({ length: count }, (_, i) => begins + view.getUint32(LINES_AT + 4 * i))
  const lines = starts.map((at, i) => {
    const next = starts[i + 1] ?? data.length
    if (at >= data.length || next < at) throw fail(`line ${i + 1} of its macroblocks lies beyond its data`)
    return { at, bytes: Math.min(next, data.length) - at }
  })
  const whole = (flags & 0x40) !== 0
  return { kind, width, height, bits, whole, rgb: whole && (flags & 1) === 0, lines }
}
