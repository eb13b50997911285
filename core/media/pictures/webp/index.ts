/** WebP, as a sequence of stills and as an animation: 8 bits, exact or lossy. */
import { profiled } from '../../colour-profile'
import type { ColourTags } from '../../../frame/colour-tags'
import { writeProfile } from '../../profile-write'
import { PLAYS } from '../animation/plays'
import { damagedBy, impossible, unreadable } from '../../../base/errors'
import { readAll, type ByteReader, type FileRef } from '../../../base/files/file'
import { MAX_PIXELS, OPAQUE, STRAIGHT, type Frame } from '../../../frame/frame'
import type { Host, WebpCoding } from '../../../frame/host'
import { asShown, inTurn } from '../../../source/turns'
import { PartPlayer } from '../animation/canvas'
import { timesOf, ticksOf } from '../../../source/timing'
import type { Deliverable } from '../../formats/deliverable'
import type { OpenedPictures, PictureKind } from '../../formats/format'
import type { AlphaClaim } from '../../../source/source'
import { picturesOf } from '../sequence/pictures'
import {
  animationFrame,
  animationHead,
  looksLikeWebp,
  readWebp,
  stillFile,
  withAlphaKept,
  type WebpFrame,
  type WebpInfo
} from './container'
import type { Fields, OptionValues } from '../../../base/settings/field'

const OPTIONS: Fields = {
  coding: {
    label: 'Colour',
    help:
      'Lossless keeps every code. Lossy changes colour only; its alpha is exact. Near-lossless may move ' +
      'colour and alpha by a few codes.',
    type: 'choice',
    choices: [
      { value: 'lossless', label: 'Lossless' },
      { value: 'near-lossless', label: 'Near-lossless' },
      { value: 'lossy', label: 'Lossy' }
    ],
    default: 'lossless'
  },
  quality: {
    label: 'Quality',
    help: 'For near-lossless and lossy colour: 1 is smallest, 100 best.',
    type: 'number',
    whole: true,
    lightens: true,
    min: 1,
    max: 100,
    default: 85
  }
}

const codingOf = (options: OptionValues): WebpCoding => ({
  coding: String(options.coding ?? 'lossless') as WebpCoding['coding'],
  quality: Number(options.quality ?? 85)
})

function codec(host: Host, file = 'WebP'): NonNullable<Host['webp']> {
  if (!host.webp) throw impossible('there is no WebP codec on this machine', file)
  return host.webp
}

async function decodeFrame(
  host: Host,
  frame: Pick<WebpFrame, 'width' | 'height' | 'data'>,
  file: string,
  place: string | null
): Promise<Uint8Array> {
  if (frame.width * frame.height > MAX_PIXELS)
    throw unreadable(file, place, `a picture of ${frame.width}x${frame.height} cannot be taken`)
  try {
    const picture = await codec(host, file).decode(stillFile(frame))
    if (picture.width !== frame.width || picture.height !== frame.height)
      throw new Error(`it came out as ${picture.width}x${picture.height}`)
    return picture.rgba
  } catch (error) {
    throw damagedBy(error, why => unreadable(file, place, `its picture data is damaged (${why})`))
  }
}

async function decodeStill(host: Host, reader: ByteReader): Promise<Frame> {
  const info = readWebp(await readAll(reader), reader.name)
  const samples = await decodeFrame(host, info.frames[0]!, reader.name, null)
  return {
    width: info.width,
    height: info.height,
    depth: 8,
    samples,
    alpha: info.alpha ? STRAIGHT : OPAQUE,
    transfer: 'srgb'
  }
}

/** Bytes of the chunk that holds a profile. */
function profileBytes(tags: ColourTags | null | undefined): number {
  const profile = writeProfile(tags)
  return profile ? 8 + profile.length + (profile.length & 1) : 0
}

/** The chunks of one encoded picture. */
async function encodePicture(host: Host, frame: Frame, { options }: Deliverable): Promise<Uint8Array> {
  const file = await codec(host).encode(frame.samples as Uint8Array, frame.width, frame.height, codingOf(options))
  const { frames, alpha } = readWebp(file, 'the encoded picture')
  const { data } = frames[0]!
  return frame.alpha.mode === 'none' || alpha ? data : withAlphaKept(data)
}

const claimOf = (info: WebpInfo): AlphaClaim =>
  info.alpha
    ? { mode: 'straight', matte: null, says: 'WebP is straight by its standard' }
    : { mode: 'none', matte: null, says: 'no alpha in the file' }

const SHARED = {
  labels: 'profile',
  lossless: false,
  exactAlpha: false,
  exact: ({ coding }: OptionValues) => (coding ?? 'lossless') === 'lossless',
  depths: [{ depth: 8, colourBits: 8, alphaBits: 8 }],
  alpha: {
    straight: { can: true, declares: 'WebP is straight by its standard; the alpha bit of the header is set' },
    premultiplied: { can: false, because: 'WebP is defined as straight, and no program expects anything else of it.' },
    none: { can: true, declares: 'no alpha bit' }
  },
  declaredMattes: [],
  proofReader: { name: "libwebp's decoder behind Pour's own reader of the container", independent: false }
} as const

export const webpSequence = picturesOf(
  {
    ...SHARED,
    extension: 'webp',
    limits: { width: 16383, height: 16383, rate: 'carries no rate; the name and the note do' },
    needs: 'webp',
    options: OPTIONS
  },
  {
    async recognises(head, reader) {
      return looksLikeWebp(head) && !readWebp(await readAll(reader), reader.name).animated
    },
    async about(reader) {
      const info = readWebp(await readAll(reader), reader.name)
      return {
        kind: info.lossless ? 'WebP, lossless' : 'WebP, lossy',
        width: info.width,
        height: info.height,
        bitDepth: 8,
        claim: claimOf(info),
        ...profiled(info.profile)
      }
    },
    decode: decodeStill,
    encode: async (host, frame, deliverable) =>
      stillFile(
        { width: frame.width, height: frame.height, data: await encodePicture(host, frame, deliverable) },
        writeProfile(deliverable.tags)
      )
  }
)

async function openAnimation(name: string, file: FileRef, host: Host): Promise<OpenedPictures> {
  const reader = await host.openFile(file)
  const info = readWebp(await readAll(reader), reader.name)
  const { width, height, frames } = info
  if (width * height > MAX_PIXELS)
    throw unreadable(reader.name, 'the header', `a picture of ${width}x${height} cannot be taken`)
  const { rate, shown, findings } = timesOf(
    frames.map(frame => frame.duration),
    1000
  )
  const colours = profiled(info.profile)
  const alpha = info.alpha ? STRAIGHT : OPAQUE
  const player = new PartPlayer({ width, height, depth: 8, alpha }, frames, i =>
    decodeFrame(host, frames[i]!, reader.name, `frame ${i + 1}`)
  )
  const turns = inTurn(reader.name, frames.length, (index, signal) => player.frame(index, signal))
  return {
    facts: {
      name,
      kind: `animated WebP, ${info.lossless ? 'lossless' : 'lossy'}`,
      width,
      height,
      frames: shown?.length ?? frames.length,
      ...(shown ? { each: { frames: frames.length, rate } } : {}),
      rate,
      rateFrom: rate ? 'file' : 'unknown',
      bitDepth: 8,
      claim: claimOf(info),
      ...colours,
      pixelAspect: [1, 1],
      plays: info.plays,
      bytes: file.size,
      findings: [...findings, ...colours.findings]
    },
    ...asShown(turns, shown, frames.length),
    async close() {
      await turns.settled()
      await reader.close()
    }
  }
}

export const webpAnimated: PictureKind = {
  ...SHARED,
  extension: 'webp',
  mime: 'image/webp',
  delivers: 'film',
  carries: 'colour and alpha in one animated picture',
  limits: { width: 16383, height: 16383, rate: 'times are whole milliseconds, written so that they do not drift' },
  options: {
    ...OPTIONS,
    plays: PLAYS
  },
  needs: 'webp',
  clock: 1000,
  refusesRate: ([n, d]) =>
    n / d > 1000 ? 'WebP holds times in whole milliseconds; this rate is faster than that.' : null,

  async recognise(head, reader) {
    return looksLikeWebp(head) && readWebp(await readAll(reader), reader.name).animated ? 'film' : null
  },
  async measure(reader) {
    const { width, height } = readWebp(await readAll(reader), reader.name)
    return { width, height }
  },
  open: (name, files, host) => openAnimation(name, files[0]!, host),
  openForProof: (name, files, host) => openAnimation(name, files[0]!, host),
  encode: encodePicture,
  async assemble(target, { width, height, alpha, rate, options, tags }) {
    if (target.kind !== 'film') throw new TypeError('an animated WebP is delivered as one file')
    const { sink } = target
    const profile = writeProfile(tags)
    const head = animationHead({ width, height, alpha: alpha.mode !== 'none', profile }, Number(options.plays ?? 0))
    let size = head.length
    await sink.append(head)
    return {
      async add(index, encoded) {
        const frame = animationFrame(width, height, ticksOf(index, rate!, 1000), encoded)
        size += frame.length
        if (size > 0xfffffffe) throw impossible('an animated WebP cannot be larger than 4 GiB')
        await sink.append(frame)
      },
      async finish() {
        const field = new Uint8Array(4)
        new DataView(field.buffer).setUint32(0, size - 8, true)
        await sink.patch(4, field)
      }
    }
  },
  wrappedSize: (encoded, { frames, tags }) => encoded + 12 + 18 + 14 + frames * 24 + profileBytes(tags)
}
