/** Reading animated PNG: frames are laid on the canvas in order, by their dispose and blend operations. */
import { concatenate } from '../../../base/files/bytes'
import { baseName, type FileRef } from '../../../base/files/file'
import { OPAQUE, STRAIGHT, type Frame } from '../../../frame/frame'
import type { Host } from '../../../frame/host'
import { reduceRate } from '../../../base/rate'
import type { OpenedPictures } from '../../formats/format'
import { asShown, inTurn } from '../../../source/turns'
import { timesOf, type Conformed } from '../../../source/timing'
import { PartPlayer } from '../animation/canvas'
import { chunk, SIGNATURE, writeU32 } from '../png/chunks'
import { decodePixels } from '../png/decode'
import { colourFindings, hasAlpha, readPngInfo, type PngInfo } from '../png/header'
import { frameData, readFrames, type FrameControl } from './control'

/** Decodes one frame's own rectangle from its zlib stream. */
type DecodeRectangle = (
  host: Host,
  name: string,
  info: PngInfo,
  packed: Uint8Array,
  size: { width: number; height: number }
) => Promise<Frame>

/** Finer clocks than this are none that a writer meant. */
const MOST_UNITS = 10_000_000

/**
 * When frames are shown: their delays, fractions of a second each, on one clock that holds them all, or milliseconds.
 */
function timesOfFrames(frames: readonly FrameControl[]): Conformed {
  let clock = 1
  for (const [, units] of frames.map(({ delay }) => delay)) {
    // the least common multiple, by the fraction that the two make in lowest terms
    clock *= reduceRate([units, clock])[0]
    if (clock > MOST_UNITS) {
      clock = 1000
      break
    }
  }
  return timesOf(
    frames.map(({ delay: [n, d] }) => Math.round((n * clock) / d)),
    clock
  )
}

/** Opens an animated PNG; `decode` turns each frame's stream into pixels. */
export async function openApng(
  name: string,
  file: FileRef,
  host: Host,
  decode: DecodeRectangle = decodePixels
): Promise<OpenedPictures> {
  const reader = await host.openFile(file)
  const info = await readPngInfo(reader)
  const frames = await readFrames(reader, info)
  const { rate, shown, findings } = timesOfFrames(frames)
  const alpha = hasAlpha(info) || frames.some(f => f.width < info.header.width || f.height < info.header.height)
  const player = new PartPlayer(
    {
      width: info.header.width,
      height: info.header.height,
      depth: info.header.bitDepth === 16 ? 16 : 8,
      alpha: alpha ? STRAIGHT : OPAQUE
    },
    frames,
    async i => {
      const control = frames[i]!
      return (await decode(host, reader.name, info, await frameData(reader, control), control)).samples
    }
  )
  const turns = inTurn(reader.name, frames.length, (index, signal) => player.frame(index, signal))
  return {
    facts: {
      name: name || baseName(file.path),
      kind: 'animated PNG',
      width: info.header.width,
      height: info.header.height,
      frames: shown?.length ?? frames.length,
      ...(shown ? { each: { frames: frames.length, rate } } : {}),
      rate,
      rateFrom: rate ? 'file' : 'unknown',
      bitDepth: info.header.bitDepth === 16 ? 16 : 8,
      claim: alpha
        ? { mode: 'straight', matte: null, says: 'PNG is straight by its standard' }
        : { mode: 'none', matte: null, says: `colour type ${info.header.colourType} without transparency` },
      colour: info.colour,
      tags: info.tags && [...info.tags],
      ...(info.levels ? { levels: info.levels } : {}),
      pixelAspect: info.pixelAspect,
      plays: info.animation!.plays,
      bytes: file.size,
      findings: [...findings, ...colourFindings(info)]
    },
    ...asShown(turns, shown, frames.length),
    async close() {
      await turns.settled()
      await reader.close()
    }
  }
}

/** Wraps a frame's stream as a PNG file of its own, for a decoder that reads only whole files. */
export function asStandalonePng(info: PngInfo, packed: Uint8Array, width: number, height: number): Uint8Array {
  const header = new Uint8Array(13)
  writeU32(header, 0, width)
  writeU32(header, 4, height)
  header.set([info.header.bitDepth, info.header.colourType, 0, 0, info.header.interlaced ? 1 : 0], 8)
  const parts = [SIGNATURE, chunk('IHDR', header)]
  if (info.palette) parts.push(chunk('PLTE', info.palette))
  if (info.transparency) parts.push(chunk('tRNS', info.transparency))
  parts.push(chunk('IDAT', packed), chunk('IEND'))
  return concatenate(parts)
}
