/** Animation RLE: 8 bits, exact, read by editors of every age. */
import type { Packets } from '../../containers/container'
import { unreadable } from '../../../base/errors'
import { OPAQUE, STRAIGHT, type Frame } from '../../../frame/frame'
import type { RleDepth } from '../../../frame/kernels/coded'
import type { Kernels } from '../../../frame/kernels/kernels'
import type { OptionValues } from '../../../base/settings/field'
import type { Decoder, VideoCodec } from '../codec'
import { decodeRle } from './rle'

/** Frames build on those before, back to a key frame. */
class RleDecoder implements Decoder {
  /** The picture of frame `next - 1`. Pictures are values, so it is the very one handed out. */
  private canvas: Uint8Array | null = null
  private next = 0

  constructor(
    private readonly given: Packets,
    private readonly kernels: Kernels
  ) {}

  async frame(index: number, signal?: AbortSignal): Promise<Frame> {
    const { width, height, packets, depth } = this.given.track
    if (!packets[index])
      throw unreadable(this.given.file, `frame ${index + 1}`, `the film has ${packets.length} frames`)
    let key = index
    while (key > 0 && !packets[key]!.key) key--
    if (!this.canvas || index < this.next - 1 || key >= this.next) {
      this.canvas = null
      this.next = key
    }
    for (; this.next <= index; this.next++) {
      signal?.throwIfAborted()
      const data = await this.given.data(this.next)
      try {
        this.canvas = decodeRle(data, this.canvas, { width, height, depth: depth as RleDepth }, this.kernels, {
          file: this.given.file,
          place: `frame ${this.next + 1}`
        })
      } catch (error) {
        this.canvas = null
        throw error
      }
    }
    const shown = this.canvas!
    // who receives a frame may hand its memory on: it is kept only as a copy, and only where the next frame builds on
    // it
    const next = packets[index + 1]
    this.canvas = next && !next.key ? shown.slice() : null
    return { width, height, depth: 8, samples: shown, alpha: depth === 32 ? STRAIGHT : OPAQUE, transfer: 'srgb' }
  }

  close(): Promise<void> {
    this.canvas = null
    return Promise.resolve()
  }
}

const interval = (options: OptionValues): number => Number(options['key-interval'] ?? 1)

export const animation: VideoCodec = {
  names: { quicktime: ['rle '], matroska: ['V_QUICKTIME/rle '] },
  about({ depth }, _, file) {
    if (depth !== 16 && depth !== 24 && depth !== 32)
      throw unreadable(
        file,
        'atom stsd',
        `Animation RLE at depth ${depth} uses a palette; only 16, 24 and 32 bits are read`
      )
    return { kind: `Animation RLE, ${depth} bit`, bitDepth: 8, carriesAlpha: depth === 32 }
  },
  decoder: (packets, host) => Promise.resolve(new RleDecoder(packets, host.kernels)),
  proofReader: { name: "Pour's own Animation reader, tested on films of other writers", independent: false },
  coder: {
    lossless: true,
    exactAlpha: true,
    depths: [{ depth: 8, colourBits: 8, alphaBits: 8 }],
    options: {
      'key-interval': {
        label: 'Key frame every',
        help:
          'Frames from one whole frame to the next. 1 keeps every frame whole, which editors scrub ' +
          'fastest; more store only what changed between.',
        type: 'number',
        whole: true,
        min: 1,
        max: 600,
        default: 1
      }
    },
    entry: ({ alpha }) => ({ code: 'rle ', name: 'Animation', depth: alpha.mode === 'none' ? 24 : 32 }),
    buildsOn: (position, { options }) => position % interval(options) !== 0,
    encode: (host, { samples, width, height, alpha }, _, { before }) =>
      Promise.resolve(
        host.kernels.rleEncode(
          samples as Uint8Array,
          before && (before.samples as Uint8Array),
          width,
          height,
          alpha.mode === 'none' ? 24 : 32
        )
      )
  }
}
