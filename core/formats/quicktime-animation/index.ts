/** Animation RLE in QuickTime: 8 bits, exact, read by editors of every age. */
import { unreadable } from '../../errors'
import { OPAQUE, STRAIGHT, type Frame } from '../../frame/frame'
import type { ByteReader } from '../../files/file'
import { DECLARED, quickTimeFormat, sampleBytes, type FilmDecoder } from '../quicktime/film'
import type { VideoTrack } from '../quicktime/read'
import { decodeRle, encodeRle, type RleDepth } from './rle'

/** Frames build on those before, back to a key frame. */
class RleDecoder implements FilmDecoder {
  private canvas: Uint8Array | null = null
  private next = 0

  constructor(
    private readonly reader: ByteReader,
    private readonly film: VideoTrack
  ) {}

  async frame(index: number, signal?: AbortSignal): Promise<Frame> {
    const { width, height, samples, depth } = this.film
    if (!samples[index]) throw unreadable(this.reader.name, `frame ${index + 1}`, `the film has ${samples.length} frames`)
    let key = index
    while (key > 0 && !samples[key]!.key) key--
    if (!this.canvas || index < this.next - 1 || key >= this.next) {
      // without alpha the canvas begins solid black, with alpha clear
      this.canvas = new Uint8Array(width * height * 4)
      if (depth !== 32) new Uint32Array(this.canvas.buffer).fill(0xff000000)
      this.next = key
    }
    for (; this.next <= index; this.next++) {
      signal?.throwIfAborted()
      const data = await sampleBytes(this.reader, this.film, this.next)
      try {
        decodeRle(data, this.canvas, width, height, depth as RleDepth, this.reader.name, `frame ${this.next + 1}`)
      } catch (error) {
        this.canvas = null
        throw error
      }
    }
    return { width, height, depth: 8, samples: this.canvas.slice(), alpha: depth === 32 ? STRAIGHT : OPAQUE, transfer: 'srgb' }
  }

  close(): Promise<void> {
    this.canvas = null
    return Promise.resolve()
  }
}

export const quicktimeAnimation = quickTimeFormat(
  {
    id: 'quicktime-animation',
    name: 'QuickTime Animation RLE',
    tag: 'MOV Animation RLE',
    lossless: true,
    exactAlpha: true,
    depths: [{ depth: 8, colourBits: 8, alphaBits: 8 }],
    alpha: DECLARED,
    options: [],
    proofReader: { name: "Pour's own Animation reader, tested on films of other writers", independent: false },
    encode: (_, frame) => Promise.resolve(encodeRle(frame.samples as Uint8Array, frame.width, frame.height, frame.alpha.mode === 'none' ? 24 : 32))
  },
  {
    reads: ['rle '],
    writes: ({ alpha }) => ({ code: 'rle ', name: 'Animation', depth: alpha.mode === 'none' ? 24 : 32 }),
    about(film, _, file) {
      if (film.depth !== 16 && film.depth !== 24 && film.depth !== 32) throw unreadable(file, 'atom stsd', `Animation RLE at depth ${film.depth} uses a palette; only 16, 24 and 32 bits are read`)
      return { kind: `QuickTime Animation RLE, ${film.depth} bit`, bitDepth: 8, carriesAlpha: film.depth === 32 }
    },
    decoder: (film, reader) => Promise.resolve(new RleDecoder(reader, film))
  }
)
