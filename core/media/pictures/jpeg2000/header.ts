/**
 * What a JPEG 2000 file says of itself: the SIZ marker of its codestream (ISO/IEC 15444-1, A.5.1), and the boxes of a
 * JP2 file about it (annex I).
 *
 * SIZ from the codestream's beginning: 0 FF4F, 2 FF51, 8 u32 width and 12 u32 height of the grid, 16 and 20 where the
 * picture begins on it, 40 u16 components, then for each u8 bits less one (highest bit: signed), u8 and u8 grid steps
 */
import { unreadable } from '../../../base/errors'
import { Cursor } from '../../../base/files/view'

/** What a component holds. */
export type J2kChannel = 'red' | 'green' | 'blue' | 'grey'

export interface J2kInfo {
  width: number
  height: number
  bits: number
  /** Of each component, in order. */
  channels: J2kChannel[]
  /** Bytes of a profile, null where there is none. */
  profile: Uint8Array | null
  /** Where the codestream lies. */
  from: number
  to: number
}

const STARTS = [0xff, 0x4f, 0xff, 0x51]
const BOXED = [0, 0, 0, 12, 0x6a, 0x50, 0x20, 0x20]
const begins = (bytes: Uint8Array, wanted: readonly number[], at = 0): boolean =>
  wanted.every((byte, i) => bytes[at + i] === byte)

/** Whether a file of these first bytes is JPEG 2000, a bare codestream or in the boxes of JP2. */
export const looksLikeJ2k = (head: Uint8Array): boolean => begins(head, STARTS) || begins(head, BOXED)

/** A channel's number, kind (0 colour, 1 and 2 opacity), and which colour it is of. */
interface Definition {
  channel: number
  kind: number
  of: number
}

interface Boxes {
  bytes: Uint8Array
  from: number
  to: number
  definitions: Definition[]
  profile: Uint8Array | null
  /** Enumerated colour space: 16 sRGB, 17 grey, 18 luma and chroma. */
  space: number | null
  palette: boolean
}

/** Boxes lie one within another no deeper than this. */
const MOST_DEPTH = 3

function readBoxes(cursor: Cursor, at: number, end: number, found: Boxes, depth = 0): void {
  while (at + 8 <= end) {
    const short = cursor.u32(at)
    const type = cursor.text(at + 4, 4)
    const head = short === 1 ? 16 : 8
    const length = short === 0 ? end - at : short === 1 ? cursor.u32(at + 8) * 2 ** 32 + cursor.u32(at + 12) : short
    const next = at + Math.max(head, length)
    const content = at + head
    const within = Math.min(end, next)
    if (type === 'jp2h' && depth < MOST_DEPTH) readBoxes(cursor, content, within, found, depth + 1)
    else if (type === 'cdef')
      for (let n = 0; n < Math.min(cursor.u16(content), 16); n++) {
        const entry = content + 2 + 6 * n
        found.definitions.push({ channel: cursor.u16(entry), kind: cursor.u16(entry + 2), of: cursor.u16(entry + 4) })
      }
    else if (type === 'colr' && found.space === null && !found.profile) {
      if (cursor.u8(content) === 1) found.space = cursor.u32(content + 3)
      else if (within > content + 3) {
        // asked for, so that a head that ends within it is no whole one
        cursor.u8(within - 1)
        found.profile = found.bytes.subarray(content + 3, within)
      }
    } else if (type === 'pclr') found.palette = true
    else if (type === 'jp2c') {
      Object.assign(found, { from: content, to: within })
      return
    }
    at = next
  }
}

/** What each component holds. Throws for what the decoder at hand does not take: any but one or three of colour. */
function channelsOf(count: number, { definitions }: Boxes, fail: (matter: string) => Error): J2kChannel[] {
  if (count === 2 || count === 4)
    throw fail(
      `it has ${count} components, one of them likely alpha, and the decoder at hand takes one or three: it is read ` +
        'where alpha is in a film or picture of its own'
    )
  if (count !== 1 && count !== 3) throw fail(`a picture of ${count} components is not read`)
  const channels: J2kChannel[] = count === 1 ? ['grey'] : ['red', 'green', 'blue']
  const usual = [...channels]
  for (const { channel, kind, of } of definitions) {
    const colour = usual[of - 1]
    if (channel >= count || kind !== 0 || !colour)
      throw fail(`its channel ${channel + 1} is of a kind that is not read`)
    channels[channel] = colour
  }
  if (new Set(channels).size !== count) throw fail('two of its channels say that they are the same')
  return channels
}

/** Reads the header; throws one clear error where it says what is not read. `size` is the file's. */
export function readJ2kInfo(bytes: Uint8Array, file: string, size = bytes.length): J2kInfo {
  const fail = (matter: string): Error => unreadable(file, 'the header', matter)
  const cursor = new Cursor(bytes, file, false)
  const boxes: Boxes = { bytes, from: 0, to: size, definitions: [], profile: null, space: null, palette: false }
  if (!begins(bytes, STARTS)) {
    boxes.from = -1
    readBoxes(cursor, 0, size, boxes)
    if (boxes.from < 0) throw fail('no picture is in its boxes; it was cut short')
  }
  const { from, to, profile } = boxes
  if (!begins(bytes, STARTS, from)) throw fail('its picture does not begin as one')
  if (boxes.palette) throw fail('its colours come from a palette, which is not read')
  const width = cursor.u32(from + 8) - cursor.u32(from + 16)
  const height = cursor.u32(from + 12) - cursor.u32(from + 20)
  const count = cursor.u16(from + 40)
  const channels = channelsOf(count, boxes, fail)
  if (boxes.space === 18) throw fail('its colour is luma and chroma, which is not read')
  const depths = new Set<number>()
  for (let n = 0; n < count; n++) {
    const at = from + 42 + 3 * n
    if (cursor.u8(at) > 127) throw fail('its samples have a sign, which is not read')
    depths.add(cursor.u8(at))
    if (cursor.u8(at + 1) !== 1 || cursor.u8(at + 2) !== 1)
      throw fail('some of its components have fewer pixels than others, which is not read')
  }
  const bits = [...depths][0]! + 1
  if (depths.size > 1 || bits > 16) throw fail('components of differing bits, or of more than 16, are not read')
  return {
    width,
    height,
    bits,
    channels,
    profile,
    from,
    to
  }
}
