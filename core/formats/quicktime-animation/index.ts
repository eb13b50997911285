/** Animation RLE in QuickTime: 8 bits, exact, read by editors of every age. */
import { unreadable } from '../../errors'
import { OPAQUE, STRAIGHT, type Frame } from '../../frame/frame'
import type { Format } from '../format'
import { claimOf } from '../quicktime/declare'
import { looksLikeQuickTime, readFilm, unknownCodec, type VideoTrack } from '../quicktime/read'
import { assembleFilm, filmOverhead, type FilmCodec } from '../quicktime/write'
import type { ByteReader, FileRef } from '../../files/file'
import type { Host } from '../../host'
import type { Source } from '../../source/source'
import { decodeRle, encodeRle, type RleDepth } from './rle'

class RleSource implements Source {
  private canvas: Uint8Array | null = null
  private next = 0
  private busy: Promise<unknown> = Promise.resolve()

  constructor(
    readonly facts: Source['facts'],
    private readonly reader: ByteReader,
    private readonly film: VideoTrack
  ) {}

  frame(index: number, signal?: AbortSignal): Promise<Frame> {
    const turn = this.busy.then(() => this.show(index, signal))
    this.busy = turn.catch(() => undefined)
    return turn
  }

  private async show(index: number, signal?: AbortSignal): Promise<Frame> {
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
      const { offset, size } = samples[this.next]!
      const data = await this.reader.read(offset, size)
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
    return this.reader.close()
  }
}

async function openRle(name: string, file: FileRef, host: Host): Promise<Source> {
  const reader = await host.openFile(file)
  const film = await readFilm(reader)
  if (film.codec !== 'rle ') throw unknownCodec(reader, film.codec)
  if (film.depth !== 16 && film.depth !== 24 && film.depth !== 32) throw unreadable(reader.name, 'atom stsd', `Animation RLE at depth ${film.depth} uses a palette; only 16, 24 and 32 bits are read`)
  return new RleSource(
    {
      name,
      format: 'quicktime-animation',
      kind: `QuickTime Animation RLE, ${film.depth} bit`,
      width: film.width,
      height: film.height,
      frames: film.samples.length,
      rate: film.rate,
      rateFrom: film.rate ? 'file' : 'unknown',
      bitDepth: 8,
      claim: claimOf(film.graphicsMode, film.opcolor, film.depth === 32, film.depth),
      colour: film.colour ? `nclc ${film.colour.join('-')}` : null,
      pixelAspect: [...film.pixelAspect],
      plays: null,
      bytes: file.size,
      findings: film.findings
    },
    reader,
    film
  )
}

const CODEC: FilmCodec = { code: 'rle ', name: 'Animation', depth: 32 }

export const quicktimeAnimation: Format = {
  id: 'quicktime-animation',
  name: 'QuickTime Animation RLE',
  tag: 'MOV Animation RLE',
  extension: 'mov',
  mime: 'video/quicktime',
  delivers: 'film',
  carries: 'colour and alpha in one film',
  lossless: true,
  depths: [{ depth: 8, colourBits: 8, alphaBits: 8 }],
  alpha: {
    straight: { can: true, declares: 'sample depth 32, graphics mode 0x100' },
    premultiplied: { can: true, declares: 'sample depth 32, graphics mode 0x102 on black, 0x101 on white' },
    none: { can: false, because: 'this outlet writes 32 bit with alpha; the 24 bit form is not written yet' }
  },
  declaredMattes: ['#000000', '#ffffff'],
  limits: { width: 65535, height: 65535, rate: 'any fraction' },
  options: [],
  runs: { browser: true, node: true },
  proofReader: { name: "Pour's own Animation reader, tested on films of other writers", independent: false },
  refusesRate: () => null,

  async recognise(head, reader) {
    if (!looksLikeQuickTime(head)) return null
    const film = await readFilm(reader)
    if (film.codec !== 'rle ') throw unknownCodec(reader, film.codec)
    return 'film'
  },
  async measure(reader) {
    const { width, height } = await readFilm(reader)
    return { width, height }
  },
  open: (name, files, host) => openRle(name, files[0]!, host),
  openForProof: (name, files, host) => openRle(name, files[0]!, host),

  encode: (_, frame) => Promise.resolve(encodeRle(frame.samples as Uint8Array, frame.width, frame.height, 32)),
  assemble(target, deliverable) {
    if (target.kind !== 'film') throw new TypeError('a QuickTime film is delivered as one file')
    return assembleFilm(target.sink, CODEC, deliverable)
  },
  wrappedSize: (encoded, deliverable) => encoded + filmOverhead(CODEC, deliverable)
}
