/**
 * Writing Matroska (RFC 9559): times in whole milliseconds, the length of a frame in nanoseconds beside them, clusters
 * of half a second or eight MiB, whichever is less, and an index of them at the end.
 */
import { concatenate } from '../../../base/files/bytes'
import type { ByteSink } from '../../../base/files/sinks'
import { reduceRate } from '../../../base/rate'
import { isSampled, samplesBefore, soundStride, type SoundFeed, type SoundForm } from '../../../source/sound'
import type { ColourTags } from '../../../frame/colour-tags'
import type { LightLevels } from '../../../source/light-levels'
import { bitmapHeader } from '../bitmap-header'
import type { Muxer, MuxPlan } from '../container'
import { element, openElement, lengthBytes, real, text, whole, wholeOfEight } from './ebml'
import { ID } from './ids'

const CLUSTER = 8 << 20
const PICTURE = 1
/** The number of the first track of sound; others follow. */
const SOUND = 2
const MATROSKA: MatroskaKind = { docType: 'matroska', side: false }
const ORDERS = { progressive: 0, 'top-first': 1, 'bottom-first': 6 } as const

/**
 * What sets the two kinds of Matroska apart: how the file is named in its head, and whether alpha lies beside the
 * pictures.
 */
export interface MatroskaKind {
  docType: 'matroska' | 'webm'
  side: boolean
}

function head({ docType }: MatroskaKind): Uint8Array {
  return element(
    ID.ebml,
    whole(0x4286, 1),
    whole(0x42f7, 1),
    whole(0x42f2, 4),
    whole(0x42f3, 8),
    text(ID.docType, docType),
    whole(0x4287, 4),
    whole(0x4285, 2)
  )
}

/** Shown size in pixels where pixels are square, else the shape of the whole. */
function display({ width, height, pixelAspect: [w, h] }: MuxPlan): Uint8Array[] {
  if (w === h) return []
  const [a, b] = reduceRate([width * w, height * h])
  return [whole(ID.displayWidth, a), whole(ID.displayHeight, b), whole(ID.displayUnit, 3)]
}

/** What the codec is: by its own name, or, where letters name it, by the header that AVI has for it. */
function codecOf({ entry: { code, depth, config = new Uint8Array(0) }, width, height }: MuxPlan): Uint8Array[] {
  if (code.startsWith('V_'))
    return [text(ID.codecId, code), ...(config.length ? [element(ID.codecPrivate, config)] : [])]
  const header = bitmapHeader({ width, height, depth, code, size: (width * height * depth) / 8, config })
  return [text(ID.codecId, 'V_MS/VFW/FOURCC'), element(ID.codecPrivate, header)]
}

function pictureEntry(plan: MuxPlan, side: boolean): Uint8Array {
  const { entry, width, height, rate, fields } = plan
  return element(
    ID.trackEntry,
    whole(ID.trackNumber, PICTURE),
    whole(ID.trackUid, PICTURE),
    whole(ID.trackType, 1),
    whole(ID.flagLacing, 0),
    ...(plan.name ? [element(ID.name, new TextEncoder().encode(plan.name))] : []),
    ...codecOf(plan),
    ...(side ? [whole(ID.maxBlockAdditionId, 1)] : []),
    whole(ID.defaultDuration, Math.round((1e9 * rate[1]) / rate[0])),
    element(
      ID.video,
      whole(ID.pixelWidth, width),
      whole(ID.pixelHeight, height),
      ...(side ? [whole(ID.alphaMode, 1)] : []),
      ...display(plan),
      whole(ID.flagInterlaced, fields === 'progressive' ? 2 : 1),
      ...(fields === 'progressive' ? [] : [whole(ID.fieldOrder, ORDERS[fields])]),
      // codecs that say nothing of a matrix keep RGB, in its whole range
      ...(entry.colour
        ? [colourOf(tagged(entry.colour, plan.tags), true, plan.levels)]
        : plan.tags
          ? [colourOf([plan.tags[0], plan.tags[1], 0], false, plan.levels)]
          : [])
    )
  )
}

/** What the source's tags say of its colours, under the matrix that they are coded with. */
const tagged = ([p, t, matrix]: ColourTags, tags: ColourTags | null | undefined): ColourTags =>
  tags ? [tags[0], tags[1], matrix] : [p, t, matrix]

/** Colour tags (RFC 9559, 5.1.4.1.28.16). */
function colourOf(
  [primaries, transfer, matrix]: ColourTags,
  limited: boolean,
  levels: LightLevels | null | undefined
): Uint8Array {
  const { mastering, content } = levels ?? {}
  return element(
    ID.colour,
    ...(content ? [whole(ID.maxCll, Math.round(content.most)), whole(ID.maxFall, Math.round(content.mean))] : []),
    ...(mastering
      ? [
          element(
            ID.mastering,
            ...mastering.places.flat().map((value, n) => real(ID.masteredRedX + n, value)),
            real(ID.luminanceMost, mastering.most),
            real(ID.luminanceLeast, mastering.least)
          )
        ]
      : []),
    whole(ID.matrix, matrix),
    whole(ID.range, limited ? 1 : 2),
    whole(ID.transfer, transfer),
    whole(ID.primaries, primaries)
  )
}

/**
 * Samples by which sound that begins later is put off once more, so that its first block stands at a whole millisecond;
 * its delay takes them back, to the sample.
 */
function putOff({ delay = 0, rate }: SoundForm): number {
  return (Math.ceil((1000 * delay) / rate) * rate) / 1000 - delay
}

function soundEntry(form: SoundForm, n: number): Uint8Array {
  const pcm = isSampled(form)
  const delay = form.lead + putOff(form)
  return element(
    ID.trackEntry,
    whole(ID.trackNumber, SOUND + n),
    whole(ID.trackUid, SOUND + n),
    whole(ID.trackType, 2),
    whole(ID.flagLacing, 0),
    ...(form.name ? [element(ID.name, new TextEncoder().encode(form.name))] : []),
    text(ID.codecId, form.coding === 'float' ? 'A_PCM/FLOAT/IEEE' : pcm ? 'A_PCM/INT/LIT' : 'A_AAC'),
    ...(pcm ? [] : [element(ID.codecPrivate, form.config)]),
    ...(delay > 0 ? [whole(ID.codecDelay, Math.round((1e9 * delay) / form.rate))] : []),
    element(
      ID.audio,
      real(ID.samplingFrequency, form.rate),
      whole(ID.channels, form.channels),
      ...(pcm ? [whole(ID.bitDepth, form.bits)] : [])
    )
  )
}

/** What stands before the first cluster, its lengths as they are known. */
function headers(plan: MuxPlan, kind: MatroskaKind, { length, cues } = { length: 0, cues: 0 }): Uint8Array {
  const seek = element(
    ID.seekHead,
    element(0x4dbb, element(0x53ab, Uint8Array.from([0x1c, 0x53, 0xbb, 0x6b])), wholeOfEight(0x53ac, cues))
  )
  const info = element(
    ID.info,
    whole(ID.timestampScale, 1_000_000),
    real(ID.duration, (1000 * plan.frames * plan.rate[1]) / plan.rate[0]),
    text(ID.muxingApp, 'Pour'),
    text(ID.writingApp, 'Pour')
  )
  const tracks = element(ID.tracks, pictureEntry(plan, kind.side), ...plan.sounds.map(soundEntry))
  return concatenate([head(kind), openElement(ID.segment, length), seek, info, tracks])
}

const segmentAt = (kind: MatroskaKind): number => head(kind).length + 12

function block(track: number, time: number, key: boolean, bytes: Uint8Array): Uint8Array[] {
  const about = new Uint8Array(4)
  about[0] = 0x80 | track
  new DataView(about.buffer).setInt16(1, time)
  about[3] = key ? 0x80 : 0
  return [concatenate([Uint8Array.from([ID.simpleBlock]), lengthBytes(4 + bytes.length)]), about, bytes]
}

/** A block with what lies beside it, in a group; one that builds on others says on which, by how long ago it was. */
function blockWithSide(
  about: { track: number; time: number; since: number | null },
  bytes: Uint8Array,
  side: Uint8Array
): Uint8Array[] {
  const [, flags, picture] = block(about.track, about.time, false, bytes)
  const reference = new Uint8Array(2)
  if (about.since !== null) new DataView(reference.buffer).setInt16(0, -about.since)
  const more = element(
    ID.blockAdditions,
    element(ID.blockMore, whole(ID.blockAddId, 1), element(ID.blockAdditional, side))
  )
  return [
    element(
      ID.blockGroup,
      element(ID.block, flags!, picture!),
      more,
      ...(about.since === null ? [] : [element(ID.referenceBlock, reference)])
    )
  ]
}

const BLOCK = 13

/** Bytes of everything but frames and sound. */
export function matroskaOverhead(plan: MuxPlan, kind: MatroskaKind = MATROSKA): number {
  const stretches = Math.ceil(plan.frames / soundStride(plan.rate))
  return headers(plan, kind).length + plan.frames * BLOCK + stretches * (BLOCK * plan.sounds.length + 24 + 20) + 12
}

/** Writes a film of one track of pictures, and one of sound for each feed. */
export async function assembleMatroska(
  sink: ByteSink,
  plan: MuxPlan,
  feeds: readonly SoundFeed[],
  kind: MatroskaKind = MATROSKA
): Promise<Muxer> {
  const [n, d] = plan.rate
  const first = headers(plan, kind)
  await sink.append(first)
  const segment = segmentAt(kind)
  let at = first.length
  let frames = 0
  let held: Uint8Array[] = []
  let heldBytes = 0
  let begins = 0
  let begun = { withKey: true, builds: false }
  const cues: Uint8Array[] = []
  const stride = soundStride(plan.rate)
  const millisecond = (frame: number): number => Math.round((1000 * frame * d) / n)

  async function closeCluster(): Promise<void> {
    if (held.length === 0) return
    const stamp = wholeOfEight(ID.timestamp, begins)
    const opening = concatenate([openElement(ID.cluster, stamp.length + heldBytes), stamp])
    // only what can be decoded from there on is a place to begin at
    if (begun.withKey)
      cues.push(
        element(
          ID.cuePoint,
          whole(ID.cueTime, begins),
          element(ID.cueTrackPositions, whole(ID.cueTrack, PICTURE), whole(ID.cueClusterPosition, at - segment))
        )
      )
    for (const part of [opening, ...held]) {
      at += part.length
      await sink.append(part)
    }
    held = []
    heldBytes = 0
  }

  function put(parts: readonly Uint8Array[]): void {
    held.push(...parts)
    heldBytes += parts.reduce((sum, part) => sum + part.length, 0)
  }

  /** Samples of each sound that were put, or are silent, counted from where the first picture begins. */
  const stored = plan.sounds.map(form => (form.delay ?? 0) + putOff(form))
  async function putSound(n: number): Promise<void> {
    const { rate } = plan.sounds[n]!
    const parts = (await feeds[n]?.upTo(samplesBefore(Math.min(frames + stride, plan.frames), plan.rate, rate))) ?? []
    for (const { bytes, samples } of parts) {
      put(block(SOUND + n, Math.round((1000 * stored[n]!) / rate) - begins, true, bytes))
      stored[n]! += samples
    }
  }

  return {
    async add(packet, beside) {
      const time = millisecond(frames)
      const key = beside?.key ?? plan.isKey(frames)
      const size = packet.length + (beside?.side?.length ?? 0)
      // a place to begin at stands first in its cluster
      const begin = key && begun.builds
      if (held.length === 0 || frames % stride === 0 || heldBytes + size > CLUSTER || begin) {
        await closeCluster()
        begins = time
        begun = { withKey: key, builds: false }
        if (frames % stride === 0) for (const n of plan.sounds.keys()) await putSound(n)
      }
      begun.builds ||= !key
      const since = key ? null : time - millisecond(frames - 1)
      put(
        beside?.side
          ? blockWithSide({ track: PICTURE, time: time - begins, since }, packet, beside.side)
          : block(PICTURE, time - begins, key, packet)
      )
      frames++
    },
    async finish() {
      await closeCluster()
      const index = element(ID.cues, ...cues)
      await sink.append(index)
      await sink.patch(0, headers(plan, kind, { length: at + index.length - segment, cues: at - segment }))
    }
  }
}
