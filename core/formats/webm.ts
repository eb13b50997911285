/**
 * WebM with VP9 or VP8, alpha as side data (WebM Container Guidelines, "Alpha channel"): AlphaMode 1, the alpha of each frame in
 * BlockAdditional 1, coded as a picture of its own. Coding and decoding are the machine's: the browser's, or the codec library's on Node.
 */
import {
  EncodedPacket,
  EncodedPacketSink,
  EncodedVideoPacketSource,
  MATROSKA,
  Output,
  WEBM,
  WebMOutputFormat
} from 'mediabunny'
import { damagedBy, impossible, unreadable } from '../errors'
import type { ByteReader, FileRef } from '../files/file'
import { MAX_PIXELS, OPAQUE, STRAIGHT, type Frame } from '../frame/frame'
import type { CodedPicture, Host, VideoCoding } from '../host'
import { reduceRate } from '../rate'
import type { Source } from '../source/source'
import { inTurn } from '../source/turns'
import { rateOfTicks } from '../timing'
import type { Assembler, Deliverable, Format, FormatId, Target } from './format'
import { inputOver } from '../containers/matroska/input'
import { targetInto } from '../containers/matroska/output'
import { checkMatroska } from '../containers/matroska/check'
import { looksLikeEbml } from '../containers/matroska/ebml'
import { readMatroska } from '../containers/matroska/read'
import { fromPlanes, i420Size, matrixFor, planesSize, toPlanes, type Chroma } from '../codecs/vpx/planes'
import { budgetFor, quantiserOf } from '../codecs/vpx/rate'
import type { OptionField, OptionValues } from '../settings/field'

type Codec = 'vp8' | 'vp9'

function video(host: Host, file: string | null = null): NonNullable<Host['video']> {
  if (!host.video) throw impossible('there is no coder of VP8 and VP9 on this machine', file)
  return host.video
}

/** The part of a target size that VP8's colour aims at, when there is alpha beside it. */
const VP8_COLOUR_SHARE = 0.6

/** Two encoders side by side, colour and alpha, whose packets leave in pairs. */
async function assembleFilm(codec: Codec, target: Target, deliverable: Deliverable, host: Host): Promise<Assembler> {
  if (target.kind !== 'film') throw new TypeError('a WebM is delivered as one file')
  const { width, height, rate, options, alpha } = deliverable
  const [n, d] = rate!
  const quality = Number(options.quality ?? 100)
  const every = Math.max(1, Number(options['key-interval'] ?? 60))
  const total = 1000 * Number(options.size ?? 0)
  const steered = codec === 'vp9' && video(host).quantisersByFrame
  const budget =
    total > 0 && steered ? budgetFor(total, deliverable.frames, every, width * height, quantiserOf(quality)) : null
  // what VP8 makes of alpha is not known beforehand; colour is given the larger share
  const share = alpha.mode === 'none' ? 0.97 : VP8_COLOUR_SHARE
  const bitrate = total > 0 && !steered ? (8 * total * share * n) / (d * deliverable.frames) : null
  const how: VideoCoding = {
    codec,
    width,
    height,
    framesPerSecond: n / d,
    quality,
    bitrate,
    exact: false,
    matrix: matrixFor(height).name,
    chroma: chromaOf(codec, options)
  }
  const output = new Output({ format: new WebMOutputFormat(), target: targetInto(target.sink) })
  const track = new EncodedVideoPacketSource(codec)
  output.addVideoTrack(track, { frameRate: n / d })
  await output.start()
  const colour = await video(host).encoder(how)
  const matte =
    alpha.mode === 'none' ? null : await video(host).encoder({ ...how, bitrate: null, exact: true, chroma: '4:2:0' })
  const grey = new Uint8Array(i420Size({ width, height })).fill(128)
  let first = true
  async function put(index: number, picture: CodedPicture, side: CodedPicture | null): Promise<void> {
    const packet = new EncodedPacket(
      picture.data,
      picture.key ? 'key' : 'delta',
      (index * d) / n,
      d / n,
      undefined,
      undefined,
      side ? { alpha: side.data } : undefined
    )
    await track.add(
      packet,
      first
        ? {
            decoderConfig: {
              codec: codec === 'vp8' ? 'vp8' : how.chroma === '4:4:4' ? 'vp09.01.10.08' : 'vp09.00.10.08',
              codedWidth: width,
              codedHeight: height,
              colorSpace: { primaries: 'bt709', transfer: 'bt709', matrix: matrixFor(height).name, fullRange: false }
            }
          }
        : undefined
    )
    first = false
  }
  const stop = async (): Promise<void> => {
    await Promise.all([colour.close(), matte?.close()])
  }
  return {
    async add(index, planes) {
      const key = index % every === 0
      const size = planesSize({ width, height }, how.chroma)
      const side = grey.slice()
      side.set(planes.subarray(size))
      const quantiser = budget?.quantiser(key) ?? quantiserOf(quality)
      const [picture, alphaPicture] = await Promise.all([
        colour.encode(planes.subarray(0, size), index, key, quantiser),
        matte ? matte.encode(side, index, key, 0) : Promise.resolve(null)
      ])
      budget?.spent(key, picture.data.length, alphaPicture?.data.length ?? 0)
      await put(index, picture, alphaPicture)
    },
    async finish() {
      await stop()
      await output.finalize()
    },
    async abort() {
      await stop()
      await output.cancel()
    }
  }
}

interface Packet {
  key: boolean
  timestamp: number
  sequence: number
}

async function openFilm(id: FormatId, codec: Codec, name: string, file: FileRef, host: Host): Promise<Source> {
  const reader = await host.openFile(file)
  const input = inputOver(reader, [WEBM, MATROSKA])
  try {
    await checkMatroska(reader)
    const track = await input.getPrimaryVideoTrack()
    if (!track) throw unreadable(reader.name, null, 'it has no video track')
    const [width, height] = [await track.getCodedWidth(), await track.getCodedHeight()]
    if (width * height > MAX_PIXELS)
      throw unreadable(reader.name, null, `a picture of ${width}x${height} cannot be taken`)
    const sink = new EncodedPacketSink(track)
    const packets: EncodedPacket[] = []
    const places: Packet[] = []
    for await (const packet of sink.packets(undefined, undefined, { metadataOnly: true })) {
      packets.push(packet)
      places.push({ key: packet.type === 'key', timestamp: packet.timestamp, sequence: packet.sequenceNumber })
    }
    if (packets.length === 0) throw unreadable(reader.name, null, 'it holds no frames')
    const head = await sink.getFirstPacket()
    const alpha = head?.sideData.alpha !== undefined
    const ends = [...places.slice(1).map(p => p.timestamp), places.at(-1)!.timestamp + packets.at(-1)!.duration]
    const ticks = places.map((p, i) => Math.round((ends[i]! - p.timestamp) * 1000))
    // the length of a frame, where the film says one that its times agree with, tells more than times in milliseconds
    const told = (await readMatroska(reader)).picture
    const { rate, findings } =
      told.rate && told.findings.length === 0
        ? { rate: told.rate, findings: [] }
        : places.length === 1
          ? {
              rate:
                packets[0]!.duration > 0
                  ? reduceRate([1000, Math.max(1, Math.round(packets[0]!.duration * 1000))])
                  : null,
              findings: []
            }
          : rateOfTicks(ticks, 1000, { lastRounded: true })
    const decoders = {
      colour: video(host, reader.name).decoder(codec),
      matte: alpha ? video(host, reader.name).decoder(codec) : null
    }
    const matrix = matrixFor(height, (await track.getColorSpace()).matrix ?? null)
    let next = 0
    let held: Frame | null = null
    /** What is held, for somebody who may hand its memory on. */
    const copied = (frame: Frame): Frame => ({ ...frame, samples: frame.samples.slice() })
    async function show(index: number, signal?: AbortSignal): Promise<Frame> {
      if (held && index === next - 1) return copied(held)
      let key = index
      while (key > 0 && !places[key]!.key) key--
      if (index < next || key > next) next = key
      for (; next <= index; next++) {
        signal?.throwIfAborted()
        const place = `frame ${next + 1}`
        try {
          const packet = await sink.getPacket(places[next]!.timestamp)
          if (!packet) throw new Error('its data is missing')
          const side = packet.sideData.alpha
          const [colour, matte] = await Promise.all([
            decoders.colour.decode(packet.data, places[next]!.key, next),
            decoders.matte && side ? decoders.matte.decode(side, places[next]!.key, next) : Promise.resolve(null)
          ])
          if (next === index)
            held = {
              width,
              height,
              depth: 8,
              samples: fromPlanes(colour, matte, width, height, matrix, host.kernels),
              alpha: alpha ? STRAIGHT : OPAQUE,
              transfer: 'srgb'
            }
        } catch (error) {
          next = 0
          held = null
          throw damagedBy(error, why => unreadable(reader.name, place, `it cannot be decoded (${why})`))
        }
      }
      return copied(held!)
    }
    const turns = inTurn(reader.name, places.length, show)
    return {
      facts: {
        name,
        format: id,
        kind: `${(await input.getFormat()).name} ${codec.toUpperCase()}${alpha ? ' with alpha' : ''}`,
        width,
        height,
        frames: places.length,
        rate,
        rateFrom: rate ? 'file' : 'unknown',
        bitDepth: 8,
        claim: alpha
          ? { mode: 'straight', matte: null, says: 'AlphaMode 1, alpha as side data' }
          : { mode: 'none', matte: null, says: 'no alpha beside the frames' },
        colour: `${matrix.name === 'bt709' ? 'BT.709' : 'BT.601'}, limited range`,
        pixelAspect: [1, 1],
        plays: null,
        bytes: file.size,
        findings
      },
      frame: turns.frame,
      async close() {
        await turns.settled()
        await Promise.all([decoders.colour.close(), decoders.matte?.close()])
        input.dispose()
        await reader.close()
      }
    }
  } catch (error) {
    await reader.close()
    throw damagedBy(error, why => unreadable(reader.name, null, `the film is damaged (${why})`))
  }
}

async function codecOf(reader: ByteReader): Promise<string | null> {
  await checkMatroska(reader)
  const input = inputOver(reader, [WEBM, MATROSKA])
  try {
    return (await (await input.getPrimaryVideoTrack())?.getCodec()) ?? null
  } catch (error) {
    throw damagedBy(error, why => unreadable(reader.name, null, `the film is damaged (${why})`))
  } finally {
    input.dispose()
  }
}

const CHROMA: OptionField = {
  key: 'chroma',
  label: 'Colour detail',
  help: 'Full keeps the colour of lettering and thin lines, which halved colour smears onto what lies beside them. Halved is for players that do not decode VP9 of profile 1.',
  kind: 'choice',
  choices: [
    { value: '4:2:0', label: 'Halved, 4:2:0' },
    { value: '4:4:4', label: 'Full, 4:4:4' }
  ],
  default: '4:2:0',
  fresh: '4:4:4'
}

const chromaOf = (codec: Codec, options: OptionValues): Chroma =>
  codec === 'vp9' && options.chroma === '4:4:4' ? '4:4:4' : '4:2:0'

const OPTIONS: readonly OptionField[] = [
  {
    key: 'quality',
    label: 'Quality',
    help: 'Of colour: 0 is smallest, 100 best. At 100 VP9 loses nothing but rounding, and flat graphics come out smallest; film and grain want 80 to 90.',
    kind: 'integer',
    min: 0,
    max: 100,
    default: 100
  },
  {
    key: 'size',
    label: 'Aim at size, kB',
    help: 'Kilobytes for the whole film, alpha with it; 0 leaves the size to the quality. The quality is then the best that is spent, so an easy film stays smaller. VP8 keeps to it only roughly.',
    kind: 'integer',
    min: 0,
    max: 4_000_000,
    default: 0
  },
  {
    key: 'key-interval',
    label: 'Key frame every',
    help: 'Frames from one key frame to the next. Shorter seeks faster, longer is smaller.',
    kind: 'integer',
    min: 1,
    max: 600,
    default: 60
  }
]

function webm(codec: Codec, exactAlpha: boolean): Format {
  const id: FormatId = codec === 'vp9' ? 'webm-vp9' : 'webm-vp8'
  const name = `WebM ${codec.toUpperCase()}`
  return {
    id,
    name,
    tag: name,
    extension: 'webm',
    mime: 'video/webm',
    delivers: 'film',
    carries: 'colour and alpha in one film for web pages',
    lossless: false,
    exactAlpha,
    depths: [{ depth: 8, colourBits: 8, alphaBits: 8 }],
    alpha: {
      straight: { can: true, declares: 'AlphaMode 1, alpha as side data of each frame' },
      premultiplied: { can: false, because: 'browsers take the alpha of WebM as straight.' },
      none: { can: true, declares: 'no AlphaMode' }
    },
    declaredMattes: [],
    limits: { width: 16383, height: 16383, rate: 'times are whole milliseconds' },
    options: codec === 'vp9' ? [CHROMA, ...OPTIONS] : OPTIONS,
    traits: ['for-engines'],
    page: { element: 'film', type: `video/webm; codecs=${codec}`, moves: true, order: codec === 'vp9' ? 1 : 2 },
    needs: 'video',
    stateful: true,
    proofReader: { name: "the codec's own library, in the browser or on Node", independent: true },
    refusesRate: ([n, d]) =>
      n / d > 500 ? 'WebM holds times in whole milliseconds; this rate is too fast for that.' : null,
    async recognise(head, reader) {
      return looksLikeEbml(head) && (await codecOf(reader)) === codec ? 'film' : null
    },
    async measure(reader) {
      const input = inputOver(reader, [WEBM, MATROSKA])
      try {
        const track = (await input.getPrimaryVideoTrack())!
        return { width: await track.getCodedWidth(), height: await track.getCodedHeight() }
      } finally {
        input.dispose()
      }
    },
    open: (title, files, host) => openFilm(id, codec, title, files[0]!, host),
    openForProof: (title, files, host) => openFilm(id, codec, title, files[0]!, host),
    // workers prepare the planes; the encoders, which know the frames before, take them in order
    encode: (_, { samples, width, height }, { options }) =>
      Promise.resolve(toPlanes(samples as Uint8Array, width, height, matrixFor(height), chromaOf(codec, options))),
    assemble: (target, deliverable, host) => assembleFilm(codec, target, deliverable, host),
    wrappedSize: encoded => encoded
  }
}

export const webmVp9 = webm('vp9', true)
export const webmVp8 = webm('vp8', false)
