/** Animation chunks of PNG (third edition, 11.3.6): acTL, fcTL, fdAT. */
import { unreadable } from '../../../base/errors'
import { concatenate } from '../../../base/files/bytes'
import type { ByteReader } from '../../../base/files/file'
import { chunk, readChunk, readU16, readU32, writeU32, type ChunkPlace } from '../png/chunks'
import type { CanvasPart } from '../animation/canvas'
import type { PngInfo } from '../png/header'

export interface FrameControl extends CanvasPart {
  /** Delay as a fraction of a second; a denominator of 0 stands for 100 and is set so here. */
  delay: readonly [number, number]
  /** IDAT or fdAT chunks with the frame's pixels. */
  data: ChunkPlace[]
}

const DISPOSE = ['leave', 'clear', 'previous'] as const
const BLEND = ['source', 'over'] as const

/** Walks the chunks and returns the frames of the animation in order, every field checked against the canvas. */
export async function readFrames(reader: ByteReader, info: PngInfo): Promise<FrameControl[]> {
  const frames: FrameControl[] = []
  let current: FrameControl | null = null
  let sequence = 0
  for (const place of info.chunks) {
    const where = `chunk ${place.type} at byte ${place.offset - 8}`
    if (place.type === 'fcTL') {
      const data = await readChunk(reader, place)
      if (data.length !== 26) throw unreadable(reader.name, where, 'a frame control is not 26 bytes long')
      if (readU32(data, 0) !== sequence++) throw unreadable(reader.name, where, 'the frames are out of order')
      const [width, height, x, y] = [4, 8, 12, 16].map(at => readU32(data, at)) as [number, number, number, number]
      if (width < 1 || height < 1 || x + width > info.header.width || y + height > info.header.height)
        throw unreadable(reader.name, where, 'a frame lies outside the canvas')
      const dispose = DISPOSE[data[24]!]
      const blend = BLEND[data[25]!]
      if (!dispose || !blend) throw unreadable(reader.name, where, 'a frame names a way to blend that does not exist')
      current = { width, height, x, y, delay: [readU16(data, 20), readU16(data, 22) || 100], dispose, blend, data: [] }
      frames.push(current)
    } else if (place.type === 'IDAT' && current) {
      current.data.push(place)
    } else if (place.type === 'fdAT') {
      if (!current || place.length < 4) throw unreadable(reader.name, where, 'picture data without a frame')
      const number = await reader.read(place.offset, 4)
      if (readU32(number, 0) !== sequence++) throw unreadable(reader.name, where, 'the frames are out of order')
      current.data.push(place)
    }
  }
  if (frames.length === 0 || frames.length !== info.animation?.frames)
    throw unreadable(
      reader.name,
      'chunk acTL',
      `the file promises ${info.animation?.frames ?? 0} frames and holds ${frames.length}`
    )
  const empty = frames.findIndex(frame => frame.data.length === 0)
  if (empty >= 0) throw unreadable(reader.name, `frame ${empty + 1}`, 'the frame has no picture data')
  return frames
}

/** The zlib stream of a frame: its IDAT data, or its fdAT data without their sequence numbers. */
export async function frameData(reader: ByteReader, frame: FrameControl): Promise<Uint8Array> {
  const parts: Uint8Array[] = []
  for (const place of frame.data) {
    const data = await readChunk(reader, place)
    parts.push(place.type === 'fdAT' ? data.subarray(4) : data)
  }
  return concatenate(parts)
}

/** The chunk that says how many frames follow, and how often they play; 0 is for ever. */
export function animationControl(frames: number, plays: number): Uint8Array {
  const data = new Uint8Array(8)
  writeU32(data, 0, frames)
  writeU32(data, 4, plays)
  return chunk('acTL', data)
}

/** How a frame is laid: its box, its blending, and what becomes of the box before the next. */
export function frameControl(sequence: number, part: CanvasPart, delay: readonly [number, number]): Uint8Array {
  const data = new Uint8Array(26)
  ;[sequence, part.width, part.height, part.x, part.y].forEach((value, i) => writeU32(data, 4 * i, value))
  data[20] = delay[0] >> 8
  data[21] = delay[0]
  data[22] = delay[1] >> 8
  data[23] = delay[1]
  data[24] = DISPOSE.indexOf(part.dispose)
  data[25] = BLEND.indexOf(part.blend)
  return chunk('fcTL', data)
}

/** A chunk of a frame's packed pixels, with its place in the sequence. */
export function frameDataChunk(sequence: number, pixels: Uint8Array): Uint8Array {
  const number = new Uint8Array(4)
  writeU32(number, 0, sequence)
  return chunk('fdAT', number, pixels)
}
