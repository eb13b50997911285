/** What every QuickTime format shares: it is told by its codec's four letters, written by one writer, and read through one index. */
import { unreadable } from '../errors'
import type { ByteReader, FileRef } from '../files/file'
import type { Frame } from '../frame/frame'
import type { Host } from '../host'
import type { Source, SourceFacts } from '../source/source'
import { inTurn, oneByOne } from '../source/turns'
import { TIMECODE_PATTERN, timecodeProblem } from '../timecode'
import type { Deliverable, Format, FrameReader, OptionField } from './format'
import { claimOf } from '../containers/quicktime/declare'
import { looksLikeQuickTime, readFilm, unknownCodec, type VideoTrack } from '../containers/quicktime/read'
import { assembleFilm, filmOverhead, type FilmCodec } from '../containers/quicktime/write'

/** Turns a film's samples into frames. `frame` is called for one frame at a time. */
export interface FilmDecoder {
  frame(index: number, signal?: AbortSignal): Promise<Frame>
  close(): Promise<void>
}

/** What a film says of itself once its first sample is known. */
export interface FilmAbout {
  kind: string
  bitDepth: SourceFacts['bitDepth']
  carriesAlpha: boolean
  /** Colour tags in words, when the codec carries its own. */
  colour?: string | null
  findings?: SourceFacts['findings']
}

export interface QuickTimeCodec {
  /** Four letters it reads; those it writes come from `writes`. */
  reads: readonly string[]
  writes(deliverable: Deliverable): FilmCodec
  about(film: VideoTrack, first: Uint8Array, file: string): FilmAbout | Promise<FilmAbout>
  decoder(film: VideoTrack, reader: ByteReader, host: Host): Promise<FilmDecoder>
  /** The proof's decoder, where another than the format's own can be had. */
  proofDecoder?(film: VideoTrack, reader: ByteReader, host: Host): Promise<FilmDecoder>
}

/** A sample's bytes; a clear error beyond the end. */
export async function sampleBytes(reader: ByteReader, film: VideoTrack, index: number): Promise<Uint8Array> {
  const sample = film.samples[index]
  if (!sample) throw unreadable(reader.name, `frame ${index + 1}`, `the film has ${film.samples.length} frames`)
  return reader.read(sample.offset, sample.size)
}

/** A decoder for codecs whose frames all stand alone. */
export function standalone(
  reader: ByteReader,
  film: VideoTrack,
  decode: (data: Uint8Array, place: string) => Promise<Frame>
): FilmDecoder {
  return {
    frame: async index => decode(await sampleBytes(reader, film, index), `frame ${index + 1}`),
    close: () => Promise.resolve()
  }
}

async function openFilm(
  codec: QuickTimeCodec,
  id: string,
  name: string,
  file: FileRef,
  host: Host,
  proof: boolean
): Promise<Source> {
  const reader = await host.openFile(file)
  const film = await readFilm(reader)
  if (!codec.reads.includes(film.codec)) throw unknownCodec(reader, film.codec)
  const about = await codec.about(film, await sampleBytes(reader, film, 0), reader.name)
  const decoder = await ((proof && codec.proofDecoder) || codec.decoder)(film, reader, host)
  const turns = inTurn(reader.name, film.samples.length, (index, signal) => decoder.frame(index, signal))
  return {
    facts: {
      name,
      format: id,
      kind: about.kind,
      width: film.width,
      height: film.height,
      frames: film.samples.length,
      rate: film.rate,
      rateFrom: film.rate ? 'file' : 'unknown',
      bitDepth: about.bitDepth,
      claim: claimOf(film.graphicsMode, film.opcolor, about.carriesAlpha, film.depth),
      colour: about.colour ?? (film.colour ? `nclc ${film.colour.join('-')}` : null),
      pixelAspect: [...film.pixelAspect],
      plays: null,
      timecode: film.timecode,
      sound: film.sound,
      bytes: file.size,
      findings: [...film.findings, ...(about.findings ?? [])]
    },
    frame: turns.frame,
    encoded: index => sampleBytes(reader, film, index),
    async close() {
      await turns.settled()
      await decoder.close()
      await reader.close()
    }
  }
}

/** Reads what a codec has just encoded through the proof's decoder, as a film of that one frame. */
async function readBack(codec: QuickTimeCodec, deliverable: Deliverable, host: Host): Promise<FrameReader> {
  const { width, height, rate } = deliverable
  const { code, depth } = codec.writes(deliverable)
  const film: VideoTrack = {
    codec: code,
    width,
    height,
    depth,
    graphicsMode: 0,
    opcolor: [0, 0, 0],
    colour: null,
    pixelAspect: [1, 1],
    fields: 1,
    rate,
    timecode: null,
    sound: null,
    samples: [],
    findings: []
  }
  let held: Uint8Array = new Uint8Array(0)
  const reader: ByteReader = {
    name: 'the encoded frame',
    size: 0,
    read: (offset, length) => Promise.resolve(held.subarray(offset, offset + length)),
    close: () => Promise.resolve()
  }
  const decoder = await (codec.proofDecoder ?? codec.decoder)(film, reader, host)
  const turns = oneByOne()
  return {
    frame: encoded =>
      turns.run(() => {
        held = encoded
        film.samples = [{ offset: 0, size: encoded.length, key: true }]
        return decoder.frame(0)
      }),
    async close() {
      await turns.settled()
      await decoder.close()
    }
  }
}

type Shared =
  | 'extension'
  | 'mime'
  | 'delivers'
  | 'recognise'
  | 'measure'
  | 'open'
  | 'openForProof'
  | 'assemble'
  | 'wrappedSize'
  | 'refusesRate'
  | 'limits'
  | 'runs'
  | 'declaredMattes'
  | 'carries'

/** Settings of the container, the same for every codec. */
const CONTAINER: readonly OptionField[] = [
  {
    key: 'timecode',
    label: 'Starts at',
    help: 'Time code of the first frame, HH:MM:SS:FF; a semicolon before the frames makes it drop-frame. Left empty, none is written.',
    kind: 'text',
    pattern: TIMECODE_PATTERN,
    example: '01:00:00:00',
    default: ''
  },
  {
    key: 'fast-start',
    label: 'Index first',
    help: 'Places the index before the frames, so that a film can be played while it is still arriving.',
    kind: 'switch',
    default: false
  }
]

/** A format whose container is QuickTime. */
export function quickTimeFormat(
  own: Omit<Format, Shared> & { limits?: Format['limits'] },
  codec: QuickTimeCodec
): Format {
  const isKey = (deliverable: Deliverable) => (position: number) =>
    position === 0 || !own.buildsOn?.(position, deliverable)
  return {
    extension: 'mov',
    mime: 'video/quicktime',
    delivers: 'film',
    carries: 'colour and alpha in one film',
    declaredMattes: ['#000000', '#ffffff'],
    limits: { width: 65535, height: 65535, rate: 'any fraction' },
    runs: { browser: true, node: true },
    refusesRate: () => null,
    refuses: (options, rate) => (options.timecode && rate ? timecodeProblem(String(options.timecode), rate) : null),
    ...own,
    options: [...own.options, ...CONTAINER],
    async recognise(head, reader) {
      return looksLikeQuickTime(head) && codec.reads.includes((await readFilm(reader)).codec) ? 'film' : null
    },
    async measure(reader) {
      const { width, height } = await readFilm(reader)
      return { width, height }
    },
    // of code-exact formats a fingerprint tells as much, and costs less
    ...(own.lossless || own.buildsOn
      ? {}
      : { readBack: (deliverable: Deliverable, host: Host) => readBack(codec, deliverable, host) }),
    open: (name, files, host) => openFilm(codec, own.id, name, files[0]!, host, false),
    openForProof: (name, files, host) => openFilm(codec, own.id, name, files[0]!, host, true),
    assemble(target, deliverable) {
      if (target.kind !== 'film') throw new TypeError('a QuickTime film is delivered as one file')
      return assembleFilm(target.sink, codec.writes(deliverable), deliverable, isKey(deliverable))
    },
    wrappedSize: (encoded, deliverable) =>
      encoded + filmOverhead(codec.writes(deliverable), deliverable, isKey(deliverable))
  }
}

/** How QuickTime declares each mode. */
export const DECLARED = {
  straight: { can: true, declares: 'sample depth 32, graphics mode 0x100' },
  premultiplied: { can: true, declares: 'sample depth 32, graphics mode 0x102 on black, 0x101 on white' },
  none: { can: true, declares: 'sample depth 24' }
} as const
