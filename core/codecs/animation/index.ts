/** Animation RLE in QuickTime: 8 bits, exact, read by editors of every age. */
import { unreadable } from '../../errors'
import { OPAQUE, STRAIGHT, type Frame } from '../../frame/frame'
import type { ByteReader } from '../../files/file'
import { DECLARED, quickTimeFormat, sampleBytes, type FilmDecoder } from '../../formats/film'
import type { VideoTrack } from '../../containers/quicktime/read'
import type { Kernels, RleDepth } from '../../kernels/kernels'
import type { OptionValues } from '../../formats/format'
import { decodeRle } from './rle'

/** Frames build on those before, back to a key frame. */
class RleDecoder implements FilmDecoder {
  /** The picture of frame `next - 1`. Pictures are values, so it is the very one handed out. */
  private canvas: Uint8Array | null = null
  private next = 0

  constructor(
    private readonly reader: ByteReader,
    private readonly film: VideoTrack,
    private readonly kernels: Kernels
  ) {}

  async frame(index: number, signal?: AbortSignal): Promise<Frame> {
    const { width, height, samples, depth } = this.film
    if (!samples[index])
      throw unreadable(this.reader.name, `frame ${index + 1}`, `the film has ${samples.length} frames`)
    let key = index
    while (key > 0 && !samples[key]!.key) key--
    if (!this.canvas || index < this.next - 1 || key >= this.next) {
      this.canvas = null
      this.next = key
    }
    for (; this.next <= index; this.next++) {
      signal?.throwIfAborted()
      const data = await sampleBytes(this.reader, this.film, this.next)
      try {
        this.canvas = decodeRle(
          data,
          this.canvas,
          width,
          height,
          depth as RleDepth,
          this.kernels,
          this.reader.name,
          `frame ${this.next + 1}`
        )
      } catch (error) {
        this.canvas = null
        throw error
      }
    }
    const shown = this.canvas!
    // who receives a frame may hand its memory on: it is kept only as a copy, and only where the next frame builds on it
    const next = samples[index + 1]
    this.canvas = next && !next.key ? shown.slice() : null
    return { width, height, depth: 8, samples: shown, alpha: depth === 32 ? STRAIGHT : OPAQUE, transfer: 'srgb' }
  }

  close(): Promise<void> {
    this.canvas = null
    return Promise.resolve()
  }
}

const interval = (options: OptionValues): number => Number(options['key-interval'] ?? 1)

export const quicktimeAnimation = quickTimeFormat(
  {
    id: 'quicktime-animation',
    name: 'QuickTime Animation RLE',
    tag: 'MOV Animation RLE',
    lossless: true,
    exactAlpha: true,
    depths: [{ depth: 8, colourBits: 8, alphaBits: 8 }],
    alpha: DECLARED,
    options: [
      {
        key: 'key-interval',
        label: 'Key frame every',
        help: 'Frames from one whole frame to the next. 1 keeps every frame whole, which editors scrub fastest; more store only what changed between.',
        kind: 'integer',
        min: 1,
        max: 600,
        default: 1
      }
    ],
    proofReader: { name: "Pour's own Animation reader, tested on films of other writers", independent: false },
    buildsOn: (position, { options }) => position % interval(options) !== 0,
    encode: (host, { samples, width, height, alpha }, _, before) =>
      Promise.resolve(
        host.kernels.rleEncode(
          samples as Uint8Array,
          before && (before.samples as Uint8Array),
          width,
          height,
          alpha.mode === 'none' ? 24 : 32
        )
      )
  },
  {
    reads: ['rle '],
    writes: ({ alpha }) => ({ code: 'rle ', name: 'Animation', depth: alpha.mode === 'none' ? 24 : 32 }),
    about(film, _, file) {
      if (film.depth !== 16 && film.depth !== 24 && film.depth !== 32)
        throw unreadable(
          file,
          'atom stsd',
          `Animation RLE at depth ${film.depth} uses a palette; only 16, 24 and 32 bits are read`
        )
      return { kind: `QuickTime Animation RLE, ${film.depth} bit`, bitDepth: 8, carriesAlpha: film.depth === 32 }
    },
    decoder: (film, reader, host) => Promise.resolve(new RleDecoder(reader, film, host.kernels))
  }
)
