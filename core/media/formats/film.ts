/** Rows that are films: a container with a codec in it. */
import type { Carrying } from './traits/carrying'
import { bareTrack, fieldFindings, type Capability, type Container, type MuxPlan } from '../containers/container'
import { packetsOf, type Decoder, type VideoCodec } from '../codecs/codec'
import { isWide, sayTags } from '../../frame/colour-tags'
import { impossible } from '../../base/errors'
import { oriented, orientedSize } from '../../frame/orient'
import { turnedFindings } from '../../source/turned'
import type { ByteReader, FileRef } from '../../base/files/file'
import type { Host } from '../../frame/host'
import { isSampled, soundFacts, soundsOf, type SoundFeed } from '../../source/sound'
import type { Source } from '../../source/source'
import { asShown, inTurn, oneByOne, shownAt } from '../../source/turns'
import type { Assembler, FrameReader, Target } from './traits/writing'
import type { Deliverable } from './deliverable'
import type { Format } from './format'
import type { OnPage } from './traits/on-page'
import type { Purpose } from './traits/described'
import { unknownCodec } from './unread'
import { readStacked, sayStacked } from '../../frame/stacked'

export interface FilmRow<I extends string = string> {
  id: I
  name: string
  tag: string
  container: Container
  codec: VideoCodec
  uses: readonly Purpose[]
  page?: OnPage
  carries?: string
  /** Why it is read and not written; needed where the codec has no coder. */
  readOnly?: string
  /** Where this pairing says or holds less, or more, than its container. */
  alpha?: Partial<Record<'straight' | 'premultiplied' | 'none', Capability>>
  declaredMattes?: readonly string[]
}

/** Opens a film of a row, for looking at or for a proof. */
function openFilm(row: FilmRow, how: 'open' | 'proof') {
  return async (name: string, files: readonly FileRef[], host: Host): Promise<Source> => {
    const { container, codec } = row
    const [file] = files
    const reader = await host.openFile(file!)
    const { picture: track, sounds } = await container.demux(reader)
    if (!codec.names[container.id]?.includes(track.code)) throw unknownCodec(reader, track.code)
    const packets = packetsOf(reader, track)
    const about = await codec.about(track, await packets.data(0), reader.name)
    const decoder = await ((how === 'proof' && codec.proofDecoder) || codec.decoder)(packets, host)
    const stored = track.packets.length
    const tags = about.tags ?? track.colour
    const shown = track.shown ?? null
    const lies = track.orientation ?? 1
    const turns = inTurn(reader.name, stored, async (index, signal) =>
      oriented(await decoder.frame(index, signal), lies)
    )
    const at = (index: number): number => shownAt(shown, index, stored)
    const square = track.pixelAspect[0] === track.pixelAspect[1]
    const [across, down] = square ? (about.pixelAspect ?? track.pixelAspect) : track.pixelAspect
    // pictures that are coded as fields are fields, whatever the container says of them
    const coded = about.fields && about.fields !== 'progressive' ? about.fields : null
    // lines that run down the picture hold no fields
    const fields = lies < 5 ? (coded ?? track.fields ?? about.fields ?? null) : null
    return {
      facts: {
        name,
        format: row.id,
        kind: `${track.kind} ${about.kind}`,
        ...orientedSize({ width: track.width, height: track.height }, lies),
        frames: shown?.length ?? stored,
        ...(track.packets.every(({ key }) => key) ? { intra: true } : {}),
        ...(shown ? { each: { frames: stored, rate: track.rate } } : {}),
        rate: track.rate,
        rateFrom: track.rate ? 'file' : 'unknown',
        bitDepth: about.bitDepth,
        claim: track.claim(about.carriesAlpha),
        ...(track.name && readStacked(track.name) ? { stacked: readStacked(track.name)! } : {}),
        colour: tags && isWide(tags) ? sayTags(tags) : (about.colour ?? (tags ? `nclc ${tags.join('-')}` : null)),
        ...(tags ? { tags: [...tags] } : {}),
        ...(track.levels ? { levels: track.levels } : {}),
        pixelAspect: lies < 5 ? [across, down] : [down, across],
        plays: null,
        timecode: track.timecode,
        ...soundFacts(sounds.map(({ facts }) => facts)),
        fields,
        bytes: file!.size,
        findings: [...turnedFindings(lies), ...track.findings, ...fieldFindings(fields), ...(about.findings ?? [])]
      },
      ...asShown(turns, shown, stored),
      encoded: index => packets.data(at(index)),
      async close() {
        await turns.settled()
        await decoder.close()
        await reader.close()
      }
    }
  }
}

/** Reads what a codec has just encoded through the proof's decoder, as a film of that one frame. */
async function readBack(row: FilmRow, deliverable: Deliverable, host: Host): Promise<FrameReader> {
  const { container, codec } = row
  const track = bareTrack(container.id, deliverable, codec.coder!.entry(deliverable, container.id))
  let held: Uint8Array = new Uint8Array(0)
  const packets = {
    file: 'the encoded frame',
    track,
    data: () => Promise.resolve(held),
    side: () => Promise.resolve(null)
  }
  const decoder: Decoder = await (codec.proofDecoder ?? codec.decoder)(packets, host)
  const turns = oneByOne()
  return {
    frame: encoded =>
      turns.run(() => {
        held = encoded
        track.packets = [{ offset: 0, size: encoded.length, key: true }]
        return decoder.frame(0)
      }),
    async close() {
      await turns.settled()
      await decoder.close()
    }
  }
}

function planOf({ container, codec }: FilmRow, deliverable: Deliverable): MuxPlan {
  const coder = codec.coder!
  const { width, height, frames, rate, alpha, pixelAspect, fields, tags, levels, options, content } = deliverable
  return {
    entry: coder.entry(deliverable, container.id),
    width,
    height,
    frames,
    rate: rate!,
    alpha,
    pixelAspect,
    fields: coder.wholeFrames ? 'progressive' : fields,
    tags: tags ?? null,
    levels: levels ?? null,
    options,
    ...(content.kind === 'stacked' && deliverable.joined
      ? { name: sayStacked({ alpha: content.half, ...deliverable.joined }) }
      : {}),
    sounds: soundsOf(deliverable),
    isKey: position => position === 0 || !coder.buildsOn?.(position, deliverable)
  }
}

async function assemble(
  row: FilmRow,
  target: Target,
  deliverable: Deliverable,
  host: Host,
  feeds: readonly SoundFeed[]
): Promise<Assembler> {
  if (target.kind !== 'film') throw new TypeError(`a film in ${row.container.name} is delivered as one file`)
  const coder = await row.codec.coder!.inOrder?.(deliverable, host)
  const muxer = await row.container.mux(target.sink, planOf(row, deliverable), feeds).catch(async (error: unknown) => {
    await coder?.close()
    throw error
  })
  if (coder)
    return {
      async add(index, prepared) {
        const { data, ...beside } = await coder.code(prepared, index)
        await muxer.add(data, beside)
      },
      async finish() {
        await coder.close()
        await muxer.finish()
      },
      abort: () => coder.close()
    }
  return { add: (_, encoded) => muxer.add(encoded), finish: () => muxer.finish() }
}

/** Bytes of sound that a delivery holds: exact for PCM, and for AAC at the usual 16 bytes a millisecond. */
function soundBytes(deliverable: Deliverable): number {
  return soundsOf(deliverable).reduce(
    (sum, sound) =>
      sum +
      (isSampled(sound) ? (sound.samples * sound.channels * sound.bits) / 8 : (sound.samples / sound.rate) * 16_000),
    0
  )
}

/** A film says what colours mean by its container, or by pictures that do so themselves. */
function labelsOf({ container, codec }: FilmRow): Pick<Carrying, 'labels' | 'says'> {
  const labels = container.labels ?? codec.coder?.labels
  const { says } = container
  return { ...(labels ? { labels } : {}), ...(says && !codec.coder?.labels ? { says } : {}) }
}

/** A row of the format table whose deliveries are films. */
export function filmFormat<const I extends string>(row: FilmRow<I>): Format<I> {
  const { container, codec } = row
  const { coder } = codec
  const limits = {
    width: Math.min(container.limits.width, coder?.limits?.width ?? Infinity),
    height: Math.min(container.limits.height, coder?.limits?.height ?? Infinity),
    rate: container.limits.rate
  }
  const notWritten = (): Error => impossible(`${row.name} is read, not written`)
  return {
    id: row.id,
    name: row.name,
    tag: row.tag,
    extension: container.extension,
    mime: container.mime,
    delivers: 'film',
    carries: row.carries ?? 'colour and alpha in one film',
    ...(row.readOnly ? { readOnly: row.readOnly } : {}),
    lossless: coder?.lossless ?? true,
    exactAlpha: coder?.exactAlpha ?? true,
    depths: coder?.depths ?? [{ depth: 8, colourBits: 8, alphaBits: 8 }],
    alpha: { ...container.alpha, ...row.alpha },
    declaredMattes: row.declaredMattes ?? container.declaredMattes,
    ...labelsOf(row),
    limits,
    options: { ...coder?.options, ...container.options },
    ...(coder?.alphaBits ? { alphaBits: coder.alphaBits.bind(coder) } : {}),
    ...(coder?.codeBits ? { codeBits: coder.codeBits.bind(coder) } : {}),
    uses: row.uses,
    ...(row.page ? { page: row.page } : {}),
    ...(coder?.needs ? { needs: coder.needs } : {}),
    ...(coder?.inOrder ? { stateful: true } : {}),
    sound: container.sound,
    soundTracks: container.soundTracks,
    proofReader: codec.proofReader,
    refusesRate: rate => container.refusesRate(rate),
    refuses: (options, rate) => container.refuses?.(options, rate) ?? null,
    ...(coder?.refusesClip ? { refusesClip: coder.refusesClip.bind(coder) } : {}),
    container: container.id,
    reads: track => codec.names[container.id]?.includes(track.code) ?? false,
    recognise: () => Promise.resolve(null),
    async measure(reader: ByteReader) {
      const { width, height } = (await container.demux(reader)).picture
      return { width, height }
    },
    // of code-exact formats a fingerprint tells as much, and costs less
    ...(!coder || coder.lossless || coder.buildsOn || coder.inOrder
      ? {}
      : { readBack: (deliverable: Deliverable, host: Host) => readBack(row, deliverable, host) }),
    open: openFilm(row, 'open'),
    openForProof: openFilm(row, 'proof'),
    ...(coder?.buildsOn ? { buildsOn: coder.buildsOn.bind(coder) } : {}),
    ...(coder?.keyEvery ? { keyEvery: coder.keyEvery.bind(coder) } : {}),
    encode: (host, frame, deliverable, before) =>
      coder
        ? coder.encode(host, frame, deliverable, { before, container: container.id })
        : Promise.reject(notWritten()),
    assemble: (target, deliverable, host, feeds) =>
      coder ? assemble(row, target, deliverable, host, feeds ?? []) : Promise.reject(notWritten()),
    wrappedSize: (encoded, deliverable) =>
      coder ? encoded + soundBytes(deliverable) + container.overhead(planOf(row, deliverable)) : encoded
  }
}
