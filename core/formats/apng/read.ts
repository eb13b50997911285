/** Reading animated PNG: frames are laid on the canvas in order, by their dispose and blend operations. */
import { unreadable } from '../../errors'
import { concatenate } from '../../files/bytes'
import { baseName, type ByteReader, type FileRef } from '../../files/file'
import { allocateSamples, OPAQUE, STRAIGHT, type Frame, type Samples } from '../../frame/frame'
import type { Host } from '../../host'
import { reduceRate, type Rate } from '../../rate'
import type { Finding, Source } from '../../source/source'
import { chunk, SIGNATURE, writeU32 } from '../png/chunks'
import { decodePixels } from '../png/decode'
import { hasAlpha, readPngInfo, type PngInfo } from '../png/header'
import { frameData, readFrames, type FrameControl } from './control'

/** Decodes one frame's own rectangle from its zlib stream. */
type DecodeRectangle = (host: Host, name: string, info: PngInfo, packed: Uint8Array, width: number, height: number) => Promise<Frame>

/** The common rate of all frames, or the mean with a finding when delays differ. */
function rateOf(frames: readonly FrameControl[]): { rate: Rate | null; findings: Finding[] } {
  const [n, d] = frames[0]!.delay
  const even = frames.every(frame => frame.delay[0] * d === n * frame.delay[1])
  if (even) return n === 0 ? { rate: null, findings: [] } : { rate: reduceRate([d, n]), findings: [] }
  const seconds = frames.reduce((sum, frame) => sum + frame.delay[0] / frame.delay[1], 0)
  const rate = reduceRate([Math.round(frames.length * 1000), Math.max(1, Math.round(seconds * 1000))])
  const odd = frames.flatMap((frame, i) => (frame.delay[0] * d === n * frame.delay[1] ? [] : [i + 1]))
  return {
    rate,
    findings: [{ id: 'uneven-timing', severity: 'warning', frames: odd, sentence: `The frames are shown for different times; ${frames.length} frames take ${Math.round(seconds * 1000) / 1000} s. Their mean rate is taken.` }]
  }
}

/** Over in straight alpha (PNG third edition, 11.3.6.2, APNG_BLEND_OP_OVER). */
function layOver(canvas: Samples, at: number, from: Samples, i: number, full: number): void {
  const a = from[i + 3]!
  if (a === full) for (let c = 0; c < 4; c++) canvas[at + c] = from[i + c]!
  else if (a > 0) {
    const under = (canvas[at + 3]! * (full - a)) / full
    const alpha = a + under
    for (let c = 0; c < 3; c++) canvas[at + c] = Math.floor((from[i + c]! * a + canvas[at + c]! * under) / alpha + 0.5)
    canvas[at + 3] = Math.floor(alpha + 0.5)
  }
}

class ApngSource implements Source {
  private canvas: Samples | null = null
  private next = 0
  private busy: Promise<unknown> = Promise.resolve()

  constructor(
    readonly facts: Source['facts'],
    private readonly reader: ByteReader,
    private readonly info: PngInfo,
    private readonly frames: readonly FrameControl[],
    private readonly host: Host,
    private readonly decode: DecodeRectangle
  ) {}

  /** Whether a frame wipes the whole canvas, so that decoding may begin with it. */
  private standsAlone(index: number): boolean {
    const frame = this.frames[index]!
    const { width, height } = this.info.header
    return index === 0 || (frame.width === width && frame.height === height && frame.blend === 'source')
  }

  frame(index: number, signal?: AbortSignal): Promise<Frame> {
    const turn = this.busy.then(() => this.show(index, signal))
    this.busy = turn.catch(() => undefined)
    return turn
  }

  private async show(index: number, signal?: AbortSignal): Promise<Frame> {
    const { width, height } = this.info.header
    if (!this.frames[index]) throw unreadable(this.reader.name, `frame ${index + 1}`, `the file has ${this.frames.length} frames`)
    const depth = this.facts.bitDepth
    if (this.standsAlone(index)) {
      this.canvas = null
      this.next = index
    } else if (!this.canvas || index < this.next) {
      let start = index
      while (!this.standsAlone(start)) start--
      this.canvas = null
      this.next = start
    }
    let shown: Samples | null = null
    while (this.next <= index) {
      signal?.throwIfAborted()
      const control = this.frames[this.next]!
      const packed = await frameData(this.reader, control)
      const picture = await this.decode(this.host, this.reader.name, this.info, packed, control.width, control.height)
      const covers = control.width === width && control.height === height
      const before = this.canvas ?? (covers ? null : allocateSamples(width, height, depth))
      shown = before ? lay(before.slice(), picture, control, width) : picture.samples
      this.canvas = disposed(before, shown, control, width)
      this.next++
    }
    return { width, height, depth, samples: shown!.slice(), alpha: this.facts.claim.mode === 'none' ? OPAQUE : STRAIGHT, transfer: 'srgb' }
  }

  close(): Promise<void> {
    return this.reader.close()
  }
}

function lay(canvas: Samples, picture: Frame, control: FrameControl, width: number): Samples {
  const full = picture.depth === 16 ? 65535 : 255
  for (let y = 0; y < control.height; y++) {
    const at = 4 * ((control.y + y) * width + control.x)
    const from = 4 * y * control.width
    if (control.blend === 'source') canvas.set(picture.samples.subarray(from, from + 4 * control.width), at)
    else for (let i = 0; i < 4 * control.width; i += 4) layOver(canvas, at + i, picture.samples, from + i, full)
  }
  return canvas
}

/** The canvas the next frame begins with. */
function disposed(before: Samples | null, shown: Samples, control: FrameControl, width: number): Samples {
  if (control.dispose === 'leave') return shown
  if (control.dispose === 'previous' && before) return before
  // clear, and "previous" on the first frame, which counts as clear
  const canvas = shown.slice()
  for (let y = 0; y < control.height; y++) {
    const at = 4 * ((control.y + y) * width + control.x)
    canvas.fill(0, at, at + 4 * control.width)
  }
  return canvas
}

/** Opens an animated PNG; `decode` turns each frame's stream into pixels. */
export async function openApng(name: string, file: FileRef, host: Host, decode: DecodeRectangle = decodePixels): Promise<Source> {
  const reader = await host.openFile(file)
  const info = await readPngInfo(reader)
  const frames = await readFrames(reader, info)
  const { rate, findings } = rateOf(frames)
  const alpha = hasAlpha(info) || frames.some(f => f.width < info.header.width || f.height < info.header.height)
  return new ApngSource(
    {
      name: name || baseName(file.path),
      format: 'apng',
      kind: 'animated PNG',
      width: info.header.width,
      height: info.header.height,
      frames: frames.length,
      rate,
      rateFrom: rate ? 'file' : 'unknown',
      bitDepth: info.header.bitDepth === 16 ? 16 : 8,
      claim: alpha ? { mode: 'straight', matte: null, says: 'PNG is straight by its standard' } : { mode: 'none', matte: null, says: `colour type ${info.header.colourType} without transparency` },
      colour: info.colour,
      pixelAspect: [1, 1],
      plays: info.animation!.plays,
      bytes: file.size,
      findings
    },
    reader,
    info,
    frames,
    host,
    decode
  )
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
