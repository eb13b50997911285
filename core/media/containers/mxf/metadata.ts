/**
 * The header's metadata of what Pour writes (SMPTE ST 377-1, annexes A to F): one material package over one file
 * package.
 */
import { matrixFor } from '../../../frame/colour-tags'
import { concatenate } from '../../../base/files/bytes'
import { nominalRate, timecodeToFrame } from '../../../base/timecode'
import { reduceRate, type Rate } from '../../../base/rate'
import type { Essence, MuxPlan } from '../container'
import { batch, bytesOfHex, localSet, number, triplet } from './klv'
import { BT709, KEY, LABEL, labelOf, MATRICES, PRIMARIES, SET, TRANSFERS } from './labels'

/** Tracks: time code, pictures, sound; and the numbers that their elements carry. */
export const PICTURES = 2

const essenceOf = ({ entry }: MuxPlan): Essence => {
  if (!entry.essence) throw new TypeError(`${entry.name} does not say how MXF carries it`)
  return entry.essence
}
const numberOfPictures = (plan: MuxPlan): string => `1501${essenceOf(plan).element}00`
/** The key of each picture's element. */
export const pictureElement = (plan: MuxPlan): string => KEY.essence + numberOfPictures(plan)

/** A track of sound of so many, from 0: its number tells how many there are, and which it is (SMPTE ST 379-1, 7.1). */
export function soundTrackOf(n: number, of: number): { id: number; number: string; element: string } {
  const hex = (value: number): string => value.toString(16).padStart(2, '0')
  const own = `16${hex(of)}01${hex(n)}`
  return { id: 3 + n, number: own, element: KEY.essence + own }
}

/** The body's streams: of essence, and of its index. */
export const BODY = 1
export const INDEX = 2

const wide = (text: string): Uint8Array =>
  concatenate([...Array.from(text, letter => number(2, letter.charCodeAt(0))), number(2, 0)])
const ratioOf = ([n, d]: readonly [number, number]): Uint8Array => concatenate([number(4, n), number(4, d)])
const label = bytesOfHex

/** Every set has a number of its own, by which others refer to it. */
const own = (n: number): Uint8Array => concatenate([bytesOfHex('506f75720000400080000000'), number(4, n)])

/** A package's name: a fixed head, and 16 bytes that no two films share (SMPTE ST 330). */
const packageName = (unique: Uint8Array, which: number): Uint8Array => {
  const name = concatenate([bytesOfHex('060a2b340101010501010d2013000000'), unique])
  name[31] = name[31]! ^ which
  return name
}

/** The labels of what essence a film's tracks hold, pictures first. */
export function containersOf(plan: MuxPlan): Uint8Array[] {
  const pictures = label(essenceOf(plan).label)
  return plan.sounds.length ? [pictures, label(LABEL.wave), label(LABEL.several)] : [pictures]
}

type Tag = readonly [number, Uint8Array]

/** Sets, each with its own number, gathered as they are made. */
class Sets {
  private next = 1
  readonly parts: Uint8Array[] = []

  /** A number to be used later, for what others refer to first. */
  name(): Uint8Array {
    return own(this.next++)
  }

  add(kind: string, tags: readonly Tag[], name = this.name()): Uint8Array {
    this.parts.push(localSet(KEY.set(kind), [[0x3c0a, name], ...tags]))
    return name
  }
}

interface TrackHow {
  id: number
  number: string
  data: string
  rate: Rate
  length: number
  name?: string | undefined
  /** What the track refers to: a package's track, or nothing. */
  clip: { name: Uint8Array; track: number } | null
}

function track(sets: Sets, { clip, ...how }: TrackHow): Uint8Array {
  const { data, length } = how
  const component = sets.add(SET.clip, [
    [0x0201, label(data)],
    [0x0202, number(8, length)],
    [0x1201, number(8, 0)],
    [0x1101, clip ? clip.name : new Uint8Array(32)],
    [0x1102, number(4, clip ? clip.track : 0)]
  ])
  return sequenced(sets, how, component)
}

function sequenced(
  sets: Sets,
  { id, number: count, data, rate, length, name }: Omit<TrackHow, 'clip'>,
  component: Uint8Array
): Uint8Array {
  const sequence = sets.add(SET.sequence, [
    [0x0201, label(data)],
    [0x0202, number(8, length)],
    [0x1001, batch(16, [component])]
  ])
  return sets.add(SET.track, [
    [0x4801, number(4, id)],
    ...(name ? ([[0x4802, wide(name)]] as const) : []),
    [0x4804, label(count)],
    [0x4b01, ratioOf(rate)],
    [0x4b02, number(8, 0)],
    [0x4803, sequence]
  ])
}

function timecodeTrack(sets: Sets, plan: MuxPlan): Uint8Array {
  const text = String(plan.options.timecode ?? '')
  const component = sets.add(SET.timecode, [
    [0x0201, label(LABEL.timecodes)],
    [0x0202, number(8, plan.frames)],
    [0x1501, number(8, text ? timecodeToFrame(text, plan.rate) : 0)],
    [0x1502, number(2, nominalRate(plan.rate))],
    [0x1503, number(1, text.includes(';') ? 1 : 0)]
  ])
  return sequenced(
    sets,
    { id: 1, number: '00000000', data: LABEL.timecodes, rate: plan.rate, length: plan.frames },
    component
  )
}

/** The essence tracks of a package; lengths are in frames for both, as the body is wrapped by frames. */
function essenceTracks(sets: Sets, plan: MuxPlan, clips: Uint8Array | null): Uint8Array[] {
  const { rate, frames: length } = plan
  const one = (of: { id: number; number: string }, data: string, name?: string): Uint8Array =>
    track(sets, {
      id: of.id,
      name,
      // a material package's tracks lie in no file, and have no number
      number: clips ? '00000000' : of.number,
      data,
      rate,
      length,
      clip: clips && { name: clips, track: of.id }
    })
  const { length: count } = plan.sounds
  return [
    one({ id: PICTURES, number: numberOfPictures(plan) }, LABEL.pictures),
    ...plan.sounds.map(({ name }, n) => one(soundTrackOf(n, count), LABEL.sounds, name))
  ]
}

/** Bits of alpha that the frames hold, as the plan's setting has it. */
const alphaBits = ({ alpha, options }: MuxPlan): number =>
  alpha.mode === 'none' ? 0 : options['alpha-bits'] === '8' ? 8 : 16

/** Transfer and primaries: BT.709's, or those of the source's tags as far as there are labels for them. */
function coloursOf({ tags }: MuxPlan): [number, Uint8Array][] {
  const transfer = tags ? labelOf(TRANSFERS, tags[1]) : BT709.transfer
  const primaries = tags ? labelOf(PRIMARIES, tags[0]) : BT709.primaries
  return [
    ...(transfer ? ([[0x3210, label(transfer)]] as [number, Uint8Array][]) : []),
    ...(primaries ? ([[0x3219, label(primaries)]] as [number, Uint8Array][]) : [])
  ]
}

function pictureDescriptor(sets: Sets, plan: MuxPlan): Uint8Array {
  const {
    width,
    height,
    pixelAspect: [w, h],
    fields
  } = plan
  const { label: wrapped, colours, bits } = essenceOf(plan)
  const interlaced = fields !== 'progressive'
  return sets.add(colours === 'rgb' ? SET.rgba : SET.picture, [
    [0x3006, number(4, PICTURES)],
    [0x3001, ratioOf(plan.rate)],
    [0x3002, number(8, plan.frames)],
    [0x3004, label(wrapped)],
    [0x3203, number(4, width)],
    [0x3202, number(4, height)],
    [0x3205, number(4, width)],
    [0x3204, number(4, height)],
    [0x3209, number(4, width)],
    [0x3208, number(4, height)],
    [0x320c, number(1, interlaced ? 3 : 0)],
    ...(interlaced ? ([[0x3212, number(1, fields === 'bottom-first' ? 2 : 1)]] as const) : []),
    [0x320d, batch(4, [number(4, 0), number(4, 0)])],
    [0x320e, ratioOf(reduceRate([width * w, height * h]))],
    [0x3201, label(plan.entry.code)],
    ...coloursOf(plan),
    ...(colours === 'rgb' ? componentsOf(bits) : lumaOf(plan))
  ])
}

/** Red, green and blue of full range, and how they lie: their letters and bits (SMPTE ST 377-1, G.2.40). */
function componentsOf(bits: number): Tag[] {
  const lies = new Uint8Array(16)
  lies.set([0x52, bits, 0x47, bits, 0x42, bits])
  return [
    [0x3401, lies],
    [0x3406, number(4, 2 ** bits - 1)],
    [0x3407, number(4, 0)]
  ]
}

/** Luma and chroma of limited range, and bits of alpha where there is some. */
function lumaOf(plan: MuxPlan): Tag[] {
  const { bits, colours } = essenceOf(plan)
  const alpha = alphaBits(plan)
  const unit = 2 ** (bits - 8)
  return [
    [0x321a, label(plan.tags?.[0] === 9 ? labelOf(MATRICES, matrixFor(plan.tags))! : BT709.matrix)],
    [0x3301, number(4, bits)],
    [0x3302, number(4, colours === 'half' ? 2 : 1)],
    [0x3308, number(4, 1)],
    [0x3303, number(1, 0)],
    [0x3304, number(4, 16 * unit)],
    [0x3305, number(4, 235 * unit)],
    [0x3306, number(4, 224 * unit + 1)],
    ...(alpha ? ([[0x3309, number(2, alpha)]] as const) : [])
  ]
}

function soundDescriptor(sets: Sets, plan: MuxPlan, n: number): Uint8Array {
  const { rate, channels, bits } = plan.sounds[n]!
  const block = (channels * bits) / 8
  return sets.add(SET.wave, [
    [0x3006, number(4, soundTrackOf(n, plan.sounds.length).id)],
    [0x3001, ratioOf(plan.rate)],
    [0x3002, number(8, plan.frames)],
    [0x3004, label(LABEL.wave)],
    [0x3d03, ratioOf([rate, 1])],
    [0x3d02, number(1, 1)],
    [0x3d07, number(4, channels)],
    [0x3d01, number(4, bits)],
    [0x3d0a, number(2, block)],
    [0x3d09, number(4, block * rate)]
  ])
}

/** The primer: every tag is one that the standard fixes, and stands here by its number alone. */
function primer(): Uint8Array {
  const entries = STATIC.map(([tag, name]) => concatenate([number(2, tag), label(name)]))
  return triplet(KEY.primer, batch(18, entries))
}

/** Tags with the labels that the standard fixes for them (SMPTE ST 377-1, ST 380 and ST 381 name the rest). */
const STATIC: readonly (readonly [number, string])[] = [
  [0x3c0a, '060e2b34010101010101150200000000'],
  [0x3b02, '060e2b34010101020702011002040000'],
  [0x3b05, '060e2b34010101020301020105000000'],
  [0x3b06, '060e2b34010101020601010406040000'],
  [0x3b03, '060e2b34010101020601010402010000'],
  [0x3b09, '060e2b34010101050102020300000000'],
  [0x3b0a, '060e2b34010101050102021002010000'],
  [0x3b0b, '060e2b34010101050102021002020000'],
  [0x3c09, '060e2b34010101020520070101000000'],
  [0x3c01, '060e2b34010101020520070102010000'],
  [0x3c02, '060e2b34010101020520070103010000'],
  [0x3c04, '060e2b34010101020520070105010000'],
  [0x3c05, '060e2b34010101020520070107000000'],
  [0x3c06, '060e2b34010101020702011002030000'],
  [0x1901, '060e2b34010101020601010405010000'],
  [0x1902, '060e2b34010101020601010405020000'],
  [0x2701, '060e2b34010101020601010601000000'],
  [0x3f06, '060e2b34010101040103040500000000'],
  [0x3f07, '060e2b34010101040103040400000000'],
  [0x4401, '060e2b34010101010101151000000000'],
  [0x4405, '060e2b34010101020702011001030000'],
  [0x4404, '060e2b34010101020702011002050000'],
  [0x4403, '060e2b34010101020601010406050000'],
  [0x4701, '060e2b34010101020601010402030000'],
  [0x4801, '060e2b34010101020107010100000000'],
  [0x4802, '060e2b34010101020107010201000000'],
  [0x4804, '060e2b34010101020104010300000000'],
  [0x4b01, '060e2b34010101020530040500000000'],
  [0x4b02, '060e2b34010101020702010301030000'],
  [0x4803, '060e2b34010101020601010402040000'],
  [0x0201, '060e2b34010101020407010000000000'],
  [0x0202, '060e2b34010101020702020101030000'],
  [0x1001, '060e2b34010101020601010406090000'],
  [0x1201, '060e2b34010101020702010301040000'],
  [0x1101, '060e2b34010101020601010301000000'],
  [0x1102, '060e2b34010101020601010302000000'],
  [0x1501, '060e2b34010101020702010301050000'],
  [0x1502, '060e2b34010101020404010102060000'],
  [0x1503, '060e2b34010101010404010105000000'],
  [0x3006, '060e2b34010101050601010305000000'],
  [0x3001, '060e2b34010101010406010100000000'],
  [0x3002, '060e2b34010101010406010200000000'],
  [0x3004, '060e2b34010101020601010401020000'],
  [0x3f01, '060e2b340101010406010104060b0000'],
  [0x3203, '060e2b34010101010401050202000000'],
  [0x3202, '060e2b34010101010401050201000000'],
  [0x3205, '060e2b34010101010401050108000000'],
  [0x3204, '060e2b34010101010401050107000000'],
  [0x3209, '060e2b3401010101040105010c000000'],
  [0x3208, '060e2b3401010101040105010b000000'],
  [0x320c, '060e2b34010101010401030104000000'],
  [0x3212, '060e2b34010101020401030106000000'],
  [0x320d, '060e2b34010101020401030205000000'],
  [0x320e, '060e2b34010101010401010101000000'],
  [0x3201, '060e2b34010101020401060100000000'],
  [0x3210, '060e2b34010101020401020101010200'],
  [0x3219, '060e2b34010101090401020101060100'],
  [0x321a, '060e2b34010101020401020101030100'],
  [0x3301, '060e2b3401010102040105030a000000'],
  [0x3302, '060e2b34010101010401050105000000'],
  [0x3308, '060e2b34010101020401050110000000'],
  [0x3303, '060e2b34010101010401050106000000'],
  [0x3304, '060e2b34010101010401050303000000'],
  [0x3305, '060e2b34010101010401050304000000'],
  [0x3306, '060e2b34010101020401050305000000'],
  [0x3309, '060e2b34010101020401050307000000'],
  [0x3d03, '060e2b34010101050402030101010000'],
  [0x3d02, '060e2b34010101040402030104000000'],
  [0x3d07, '060e2b34010101050402010104000000'],
  [0x3d01, '060e2b34010101040402030304000000'],
  [0x3d0a, '060e2b34010101050402030201000000'],
  [0x3d09, '060e2b34010101050402030305000000']
]

/** All metadata of a film: the primer, then the sets. `unique` are 16 bytes that name the film's packages. */
export function metadata(plan: MuxPlan, unique: Uint8Array): Uint8Array {
  const sets = new Sets()
  const [prefaceName, storageName] = [sets.name(), sets.name()]
  const [materialName, sourceName] = [packageName(unique, 0), packageName(unique, 1)]
  const identification = sets.add(SET.identification, [
    [0x3c09, own(0xffff0001)],
    [0x3c01, wide('Pour')],
    [0x3c02, wide('Pour')],
    [0x3c04, wide('1')],
    [0x3c05, own(0xffff0002)],
    [0x3c06, new Uint8Array(8)]
  ])
  const material = sets.add(SET.material, [
    [0x4401, materialName],
    [0x4405, new Uint8Array(8)],
    [0x4404, new Uint8Array(8)],
    [0x4403, batch(16, [timecodeTrack(sets, plan), ...essenceTracks(sets, plan, sourceName)])]
  ])
  const picture = pictureDescriptor(sets, plan)
  const descriptor = plan.sounds.length
    ? sets.add(SET.multiple, [
        [0x3001, ratioOf(plan.rate)],
        [0x3002, number(8, plan.frames)],
        [0x3004, label(LABEL.several)],
        [0x3f01, batch(16, [picture, ...plan.sounds.map((_, n) => soundDescriptor(sets, plan, n))])]
      ])
    : picture
  const source = sets.add(SET.source, [
    [0x4401, sourceName],
    [0x4405, new Uint8Array(8)],
    [0x4404, new Uint8Array(8)],
    [0x4403, batch(16, [timecodeTrack(sets, plan), ...essenceTracks(sets, plan, null)])],
    [0x4701, descriptor]
  ])
  const data = sets.add(SET.essenceData, [
    [0x2701, sourceName],
    [0x3f06, number(4, INDEX)],
    [0x3f07, number(4, BODY)]
  ])
  sets.add(
    SET.storage,
    [
      [0x1901, batch(16, [material, source])],
      [0x1902, batch(16, [data])]
    ],
    storageName
  )
  const first = localSet(KEY.set(SET.preface), [
    [0x3c0a, prefaceName],
    [0x3b02, new Uint8Array(8)],
    [0x3b05, number(2, 0x0103)],
    [0x3b06, batch(16, [identification])],
    [0x3b03, storageName],
    [0x3b09, label(LABEL.oneItem)],
    [0x3b0a, batch(16, containersOf(plan))],
    [0x3b0b, batch(16, [])]
  ])
  return concatenate([primer(), first, ...sets.parts])
}
