/** The plan of a pour: which frames, in what form, under which names; or why it cannot be. */
import type { Carrying } from '../../media/formats/traits/carrying'
import type { Described } from '../../media/formats/traits/described'
import { isTagged } from '../../frame/colour-tags'
import { carriageById } from '../../media/carriage/carriages'
import type { Content, Form } from '../../media/formats/form'
import type { Deliverable } from '../../media/formats/deliverable'
import { formatById } from '../../open/registry'
import type { Marks } from '../marks'
import { formatRate, MOST_OF_SHAPE, nearestRate, rateFraction } from '../../base/rate'
import { preparedFacts, type Step } from '../../prepare/preparation'
import type { SourceFacts } from '../../source/source'
import { OPAQUE } from '../../frame/frame'
import { curveOf } from '../../frame/light-curve'
import { soundFacts, soundForm, soundsOf, type SoundForm } from '../../source/sound'
import { rangeTaken } from './range'
import { fillName, frameNumber, unknownFields } from './names'
import { alphaBitsOf, outletProblems, type Outlet } from './outlet'
import { timecodeAfter } from '../../base/timecode'
import { optionValues } from '../../base/settings/field'
import { stackedSize } from '../../frame/stacked'

export interface PourPlan {
  outlet: Outlet
  /** What the outlet does to the source first; absent where it does nothing, and in plans from before it could. */
  steps?: readonly Step[]
  /** Source frames in the order they are delivered, counted from 0: of the source as those steps make it. */
  frames: number[]
  deliverable: Deliverable
  /** The second delivery of a fill and key, where this is the fill. */
  key: { deliverable: Deliverable; fileName: string } | null
  /** The form frames have once read back; of a fill and key, once put together again. */
  due: Form
  /**
   * How the pictures are called, those of the key with them; absent for films, and in plans from before it was noted.
   */
  pictures?: readonly PictureNames[]
  /** Name of the film, or of the ZIP or folder of pictures, without extension. */
  name: string
  /** Name of the file as it is handed out: the film, or the pictures' ZIP. */
  fileName: string
}

/** Names of numbered pictures: what stands around the number, and the digits it has at least; 0 for no number. */
export interface PictureNames {
  before: string
  after: string
  digits: number
}

/** Whether a name is one that such pictures have, whatever their number. */
export function isCalled(name: string, { before, after, digits }: PictureNames): boolean {
  if (digits === 0) return name === before + after
  if (!name.startsWith(before) || !name.endsWith(after) || name.length < before.length + after.length) return false
  const number = name.slice(before.length, name.length - after.length).replace(/^-/, '')
  return /^\d+$/.test(number) && (number.length === digits || (number.length > digits && !number.startsWith('0')))
}

/** Whether all that keeps a source from this outlet is that nothing says how fast it plays. */
export function needsRate(facts: SourceFacts, outlet: Outlet): boolean {
  const rate = facts.rate ?? preparedFacts(facts, outlet.steps).rate
  return formatById(outlet.format).delivers === 'film' && rate === null
}

/** The size of the pictures that an outlet stores of a source. */
function storedSize({ width, height }: SourceFacts, outlet: Outlet): { width: number; height: number } {
  const { half } = carriageById(outlet.parts)
  return half ? stackedSize({ alpha: half, width, height }) : { width, height }
}

/** Whether stored pictures have to be put together, or taken apart, before they are what is due. */
export const isApart = ({ key, deliverable }: Pick<PourPlan, 'key' | 'deliverable'>): boolean =>
  key !== null || deliverable.content.kind === 'stacked'

/** Everything that stands against this pour, in sentences that say what to do; empty when it can go. */
export function pourProblems(facts: SourceFacts, outlet: Outlet, marks: Marks | null): string[] {
  const format = formatById(outlet.format)
  const problems = outletProblems(outlet)
  if (facts.stops) problems.push(facts.stops)
  const { width, height } = storedSize(facts, outlet)
  if (width > format.limits.width || height > format.limits.height)
    problems.push(
      `${width}x${height} is larger than ${format.name} can be ` +
        `(${format.limits.width}x${format.limits.height}).`
    )
  if (format.delivers === 'film') {
    if (!facts.rate)
      problems.push('A film needs a rate, and nothing says how fast this source plays. Give its rate first.')
    else {
      const refused = format.refusesRate(facts.rate)
      if (refused) problems.push(refused)
    }
  }
  const unkept = format.refuses?.(optionValues(format.options, outlet.options), facts.rate)
  if (unkept && !problems.includes(unkept)) problems.push(unkept)
  const { from, to } = rangeTaken(outlet, facts, marks)
  const options = optionValues(format.options, outlet.options)
  const clip = { width, height, frames: to - from + 1, depth: outlet.depth, options }
  const unheld = to < from ? null : format.refusesClip?.(clip)
  if (unheld) problems.push(unheld)
  if (to < from) problems.push(`The outlet takes frames ${from} to ${to}, but the source has ${facts.frames}.`)
  const unknown = [
    ...unknownFields(outlet.namePattern),
    ...(format.delivers === 'pictures' ? unknownFields(outlet.framePattern) : [])
  ]
  if (unknown.length) problems.push(`The name pattern has {${unknown[0]}}, which Pour does not know.`)
  return problems
}

function pictureNames(
  format: Described,
  outlet: Outlet,
  fields: Record<string, string>,
  [start, count]: readonly [number, number],
  part: string
): string[] {
  if (format.delivers === 'film') return []
  if (format.delivers === 'folder') return [`${fillName(outlet.namePattern, fields)}.${format.extension}`]
  return Array.from(
    { length: count },
    (_, i) =>
      `${fillName(outlet.framePattern, { ...fields, frame: part + frameNumber(start + i, outlet.digits) })}.${format.extension}`
  )
}

/** What stands around the number in the names of pictures: where names of two numbers differ, the number is. */
function calledAs(format: Described, outlet: Outlet, fields: Record<string, string>, part: string): PictureNames[] {
  // pages of a folder and what is told of each are numbered after its name
  if (format.delivers === 'folder') {
    const stem = fillName(outlet.namePattern, fields)
    return [
      ...['.png', '.frames.json'].map(after => ({ before: `${stem}-`, after, digits: 1 })),
      ...['.png', '.frames.json', '.css', '.html'].map(after => ({ before: stem, after, digits: 0 }))
    ]
  }
  const { digits } = outlet
  const [ones, twos] = ['1', '2'].map(
    digit => `${fillName(outlet.framePattern, { ...fields, frame: part + digit.repeat(digits) })}.${format.extension}`
  ) as [string, string]
  let from = 0
  while (from < ones.length && ones[from] === twos[from]) from++
  return [{ before: ones.slice(0, from), after: ones.slice(from + digits), digits }]
}

/** The named stretches of a source that lie within what is delivered of it, in frames of the delivery from 1. */
function actionsIn({ marked = [] }: SourceFacts, from: number, frames: number): Deliverable['actions'] {
  return marked.flatMap(mark => {
    const [first, last] = [Math.max(1, mark.from - from), Math.min(frames, mark.to - from)]
    return first <= last ? [{ name: mark.name, from: first, to: last }] : []
  })
}

/** The tracks of sound that go along: those the format takes, as many as it takes, each by its place in the source. */
function soundsTaken(format: Carrying, facts: SourceFacts, from: number, frames: number): SoundForm[] {
  const { rate } = facts
  if (!rate) return []
  return soundsOf(facts)
    .flatMap((sound, track) => {
      const form = soundForm(sound, rate, from, frames)
      return form && format.sound?.includes(form.coding) ? [{ ...form, track }] : []
    })
    .slice(0, format.soundTracks ?? 1)
}

/** What the fields of a name stand for. */
function fieldsOf(facts: SourceFacts, outlet: Outlet, span: string): Record<string, string> {
  return {
    source: facts.name,
    original: facts.original ?? facts.name,
    outlet: outlet.name,
    span,
    depth: `${outlet.depth}bit`,
    rate: facts.rate ? `${facts.rate[1] === 1 ? rateFraction(facts.rate) : formatRate(facts.rate)}fps` : '',
    width: String(facts.width),
    height: String(facts.height)
  }
}

/** The file, or the pictures' ZIP or folder, that a delivery is handed out as: its name alone, without planning it. */
export function deliveryName(facts: SourceFacts, outlet: Outlet, span = ''): string {
  const { delivers, extension } = formatById(outlet.format)
  const name = fillName(outlet.namePattern, fieldsOf(facts, outlet, span))
  return delivers === 'film' ? `${name}${outlet.parts === 'fill-key' ? '_fill' : ''}.${extension}` : `${name}.zip`
}

/** The plan. Call only when `pourProblems` is empty. */
export function planPour(facts: SourceFacts, outlet: Outlet, marks: Marks | null, span = ''): PourPlan {
  const format = formatById(outlet.format)
  const { from, to } = rangeTaken(outlet, facts, marks)
  const frames = Array.from({ length: to - from + 1 }, (_, i) => from - 1 + i)
  const fields = fieldsOf(facts, outlet, span)
  const name = fillName(outlet.namePattern, fields)
  const asSource = outlet.numbering === 'source' && facts.firstNumber !== undefined
  const start = asSource ? facts.firstNumber! + from - 1 : outlet.startNumber
  const said = optionValues(format.options, outlet.options)
  // a time code that is not said is the source's own, from the frame the range begins with
  const counted =
    format.options.timecode && !said.timecode && facts.timecode && facts.rate
      ? timecodeAfter(facts.timecode, from - 1, facts.rate)
      : null
  const options = counted ? { ...said, timecode: counted } : said
  const carriage = carriageById(outlet.parts)
  const whole = carriage.channel
  const [content, key] = carriage.contents(outlet)
  const linear = format.transfer === 'linear'
  const curve = linear ? curveOf(facts.tags) : null
  // what is coded with loss anyway is not rounded before
  const bits = outlet.depth === 16 && format.lossless ? format.codeBits?.(options) : undefined
  const form: Form = {
    depth: outlet.depth,
    ...(bits && bits < outlet.depth ? { bits } : {}),
    alpha: whole ? outlet.alpha : OPAQUE,
    alphaBits: whole ? alphaBitsOf(format, outlet) : (bits ?? outlet.depth),
    transfer: format.transfer ?? 'srgb',
    ...(curve ? { curve } : {}),
    half: format.halfFloat?.(options) ?? false,
    // a picture without alpha has nothing to cut
    cut: whole ? (format.cut?.(options) ?? null) : null,
    content
  }
  const sounds = outlet.sound === 'as-is' ? soundsTaken(format, facts, from - 1, frames.length) : []
  const deliverable = (part: string, content: Content): Deliverable => ({
    ...form,
    content,
    ...storedSize(facts, outlet),
    ...(carriage.half ? { joined: { width: facts.width, height: facts.height } } : {}),
    frames: frames.length,
    rate: facts.rate,
    // containers hold shapes as two whole numbers, some of 16 bits; a float of OpenEXR comes to the nearest pair
    pixelAspect: nearestRate(facts.pixelAspect, MOST_OF_SHAPE) ?? [1, 1],
    fields: facts.fields ?? 'progressive',
    // light has its primaries left to say
    tags: [facts.tags && linear ? ([facts.tags[0], 13, 0] as const) : facts.tags].find(isTagged) ?? null,
    // levels are those of codes that say what they are
    levels: !linear && isTagged(facts.tags) ? (facts.levels ?? null) : null,
    // a key is heard with its fill
    ...soundFacts(content === key ? [] : sounds),
    options,
    ...(format.delivers === 'folder' 
      ? { subject: facts.name, actions: actionsIn(facts, from - 1, frames.length) }
      : {}),
    names: pictureNames(format, outlet, fields, [start, frames.length], part)
  })
  const film = format.delivers === 'film'
  const parts = key ? ['fill_', 'key_'] : ['']
  return {
    outlet,
    frames,
    ...(film ? {} : { pictures: parts.flatMap(part => calledAs(format, outlet, fields, part)) }),
    name,
    fileName: deliveryName(facts, outlet, span),
    deliverable: deliverable(key ? 'fill_' : '', content),
    key: key
      ? { deliverable: deliverable('key_', key), fileName: film ? `${name}_key.${format.extension}` : `${name}.zip` }
      : null,
    due: key || carriage.half ? { ...form, alpha: carriage.joinedAlpha(outlet), content: { kind: 'whole' } } : form
  }
}
