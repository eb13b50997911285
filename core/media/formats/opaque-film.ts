/**
 * Films without alpha, read only: MP4, QuickTime, Matroska and WebM with H.264, HEVC, VP8, VP9 or AV1, brought in to
 * pull a matte from. The container is read here, the pictures are decoded by the browser.
 */
import { EncodedPacketSink, MATROSKA, MP4, QTFF, WEBM, type InputVideoTrack } from 'mediabunny'
import { damagedBy, impossible, sentenceOf, unreadable } from '../../base/errors'
import type { ByteReader, FileRef } from '../../base/files/file'
import { MAX_PIXELS, OPAQUE } from '../../frame/frame'
import type { Host } from '../../frame/host'
import type { Finding, Source } from '../../source/source'
import { asShown, inTurn } from '../../source/turns'
import { timesOf } from '../../source/timing'
import { checkMatroska } from '../containers/matroska/check'
import { looksLikeEbml } from '../containers/matroska/ebml'
import { inputOver } from '../containers/matroska/input'
import { silentFacts } from '../../source/sound'
import type { Format } from './format'

const NAMES: Record<string, string> = { avc: 'H.264', hevc: 'HEVC', vp8: 'VP8', vp9: 'VP9', av1: 'AV1' }

const FORMATS = [MP4, QTFF, MATROSKA, WEBM]

async function checkEbml(reader: ByteReader): Promise<void> {
  if (looksLikeEbml(await reader.read(0, 4))) await checkMatroska(reader)
}

/** Does something with the film's first video track; the container's own errors become one that names the file. */
async function withTrack<T>(reader: ByteReader, work: (track: InputVideoTrack | null) => Promise<T>): Promise<T> {
  await checkEbml(reader)
  const input = inputOver(reader, FORMATS)
  try {
    return await work((await input.canRead()) ? await input.getPrimaryVideoTrack() : null)
  } catch (error) {
    throw damagedBy(error, why => unreadable(reader.name, null, `the film is damaged (${why})`))
  } finally {
    input.dispose()
  }
}

async function codecOf(reader: ByteReader): Promise<string | null> {
  return withTrack(reader, async track => {
    const codec = (await track?.getCodec()) ?? null
    return codec && NAMES[codec] ? codec : null
  })
}

/** Container files that could hold such a film, by their first bytes. */
function looksLikeFilm(head: Uint8Array): boolean {
  const box = String.fromCharCode(...head.subarray(4, 8))
  return ['ftyp', 'moov', 'mdat', 'wide', 'free', 'skip'].includes(box) || looksLikeEbml(head)
}

interface Times {
  starts: number[]
  ticks: number[]
  perSecond: number
}

/** When each frame begins, in the order shown, and how long it stands, in ticks of the track. */
async function placesOf(track: InputVideoTrack): Promise<Times> {
  const starts: number[] = []
  let last = 0
  for await (const packet of new EncodedPacketSink(track).packets(undefined, undefined, { metadataOnly: true })) {
    // frames before the start of the film's edit are not shown
    if (packet.timestamp + packet.duration <= 0) continue
    starts.push(packet.timestamp)
    last = Math.max(last, packet.timestamp + packet.duration)
  }
  starts.sort((a, b) => a - b)
  const perSecond = Math.min(await track.getTimeResolution(), 1_000_000)
  return {
    starts,
    ticks: starts.map((start, i) => Math.round(((starts[i + 1] ?? last) - start) * perSecond)),
    perSecond
  }
}

async function open(name: string, file: FileRef, host: Host): Promise<Source> {
  const reader = await host.openFile(file)
  const input = inputOver(reader, FORMATS)
  try {
    await checkEbml(reader)
    const track = await input.getPrimaryVideoTrack()
    if (!track) throw unreadable(reader.name, null, 'it has no video track')
    const codec = NAMES[(await track.getCodec()) ?? ''] ?? 'an unknown codec'
    if (!host.films) throw impossible(`${codec} is decoded by the browser; do this in the page`, reader.name)
    const [width, height] = [await track.getDisplayWidth(), await track.getDisplayHeight()]
    if (width * height > MAX_PIXELS)
      throw unreadable(reader.name, null, `a picture of ${width}x${height} cannot be taken`)
    const { starts, ticks, perSecond } = await placesOf(track)
    if (starts.length === 0) throw unreadable(reader.name, null, 'it holds no frames')
    const { rate, shown, findings } = timesOf(ticks, perSecond)
    const decoder = await host.films.open(track).catch((error: unknown) => {
      throw impossible(`this browser does not decode ${codec} (${sentenceOf(error)})`, reader.name)
    })
    const sounding = await input.getPrimaryAudioTrack()
    const { matrix, primaries, fullRange } = await track.getColorSpace()
    const aspect = await track.getPixelAspectRatio()
    const more: Finding[] = [
      {
        id: 'no-alpha-codec',
        severity: 'note',
        frames: [],
        sentence:
          `${codec} has no alpha: every pixel is solid. Pull a matte from its colour, or bring in its ` +
          'key beside it.'
      }
    ]
    const turns = inTurn(reader.name, starts.length, async (index, signal) => {
      signal?.throwIfAborted()
      try {
        const samples = await decoder.at(starts[index]!)
        if (samples.length !== 4 * width * height)
          throw new Error(`it came out with ${samples.length / 4} pixels instead of ${width * height}`)
        return { width, height, depth: 8, samples, alpha: OPAQUE, transfer: 'srgb' }
      } catch (error) {
        throw damagedBy(error, why => unreadable(reader.name, `frame ${index + 1}`, `it cannot be decoded (${why})`))
      }
    })
    return {
      facts: {
        name,
        format: 'opaque-film',
        kind: `${(await input.getFormat()).name}, ${codec}`,
        width,
        height,
        frames: shown?.length ?? starts.length,
        ...(shown ? { each: { frames: starts.length, rate } } : {}),
        rate,
        rateFrom: rate ? 'file' : 'unknown',
        bitDepth: 8,
        claim: { mode: 'none', matte: null, says: `${codec} in this container has no alpha` },
        colour:
          matrix || primaries
            ? `${[primaries, matrix].filter(Boolean).join(', ')}, ${fullRange ? 'full' : 'limited'} range`
            : null,
        pixelAspect: [aspect.num, aspect.den],
        plays: null,
        sound: sounding
          ? silentFacts(
              (await sounding.getCodec()) ?? 'a sound track',
              'sound is carried from films that have alpha, and from AVI, MXF and QuickTime'
            )
          : null,
        bytes: file.size,
        findings: [...findings, ...more]
      },
      ...asShown(turns, shown, starts.length),
      async close() {
        await turns.settled()
        await decoder.close()
        input.dispose()
        await reader.close()
      }
    }
  } catch (error) {
    input.dispose()
    await reader.close()
    throw damagedBy(error, why => unreadable(reader.name, null, `the film is damaged (${why})`))
  }
}

const NO_ALPHA = { can: false, because: 'These codecs have no alpha.' } as const

export const opaqueFilm: Format<'opaque-film'> = {
  id: 'opaque-film',
  name: 'Film without alpha',
  tag: 'MP4, MOV, MKV, WebM',
  extension: 'mp4',
  mime: 'video/mp4',
  delivers: 'film',
  carries: 'colour alone',
  readOnly: 'Films without alpha are read so that a matte can be pulled from them.',
  lossless: false,
  exactAlpha: true,
  depths: [{ depth: 8, colourBits: 8, alphaBits: 0 }],
  alpha: { straight: NO_ALPHA, premultiplied: NO_ALPHA, none: { can: true, declares: 'always' } },
  declaredMattes: [],
  limits: { width: 65535, height: 65535, rate: 'any fraction' },
  options: {},
  uses: [],
  needs: 'films',
  proofReader: { name: "the browser's own decoder", independent: true },
  refusesRate: () => null,
  async recognise(head, reader) {
    return looksLikeFilm(head) && (await codecOf(reader)) ? 'film' : null
  },
  measure: reader =>
    withTrack(reader, async track => {
      if (!track) throw unreadable(reader.name, null, 'it has no video track')
      return { width: await track.getDisplayWidth(), height: await track.getDisplayHeight() }
    }),
  open: (name, files, host) => open(name, files[0]!, host),
  openForProof: (name, files, host) => open(name, files[0]!, host),
  encode: () => Promise.reject(impossible('films without alpha are read, not written')),
  assemble: () => Promise.reject(impossible('films without alpha are read, not written')),
  wrappedSize: encoded => encoded
}
