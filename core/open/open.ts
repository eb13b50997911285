/** Opening a source from its description, under the interpretation it was given. */
import { sayNumbers } from '../base/natural'
import { tagsByHand } from '../frame/colour-tags'
import { readAs } from '../frame/alpha'
import { soundFacts, soundsOf } from '../source/sound'
import type { AlphaMode, Frame } from '../frame/frame'
import { OPAQUE, STRAIGHT } from '../frame/frame'
import type { ByteReader, FileRef } from '../base/files/file'
import type { Format } from '../media/formats/format'
import { formatById } from './registry'
import type { Host } from '../frame/host'
import { prepared } from '../prepare/preparation'
import { sameRate } from '../base/rate'
import { openScene } from '../draw/scene/format'
import { levelled } from '../source/levelled'
import { paired } from './pair'
import { heldFacts } from '../source/held-facts'
import {
  AS_FOUND,
  type AlphaClaim,
  type Interpretation,
  type Source,
  type SourceFacts,
  type FilesSpec,
  type SourceSpec
} from '../source/source'

/** The mode frames are taken to have: what was decided, else what the file claims, else straight. */
export function modeTaken(claim: AlphaClaim, interpretation: Interpretation): AlphaMode {
  if (interpretation.alpha) return interpretation.alpha
  if (claim.mode === 'none') return OPAQUE
  if (claim.mode === 'premultiplied') return { mode: 'premultiplied', matte: claim.matte ?? '#000000' }
  return STRAIGHT
}

/** Frames that a sequence may come to by holding its gaps: eleven hours at 25 a second. */
export const MOST_HELD = 1_000_000

/** How many frames pictures of such numbers come to when their gaps are held; null where that is beyond all sense. */
export function framesHeld(numbers: readonly number[]): number | null {
  const length = numbers.at(-1)! - numbers[0]! + 1
  return length >= numbers.length && length <= MOST_HELD ? length : null
}

/**
 * How many frames a sequence shows, and the picture that stands at each: gaps in the numbering are closed, or filled by
 * holding the picture before.
 */
export function frameOrder({
  files,
  numbers,
  interpretation
}: Pick<FilesSpec, 'files' | 'numbers' | 'interpretation'>): {
  length: number
  at(index: number): number
} {
  if (!numbers?.length) return { length: files.length, at: index => index }
  const { damaged, holdGaps } = interpretation
  // a picture that was decided about stands nowhere, whether its file is among the others or not
  const lost = damaged?.as ? new Set(damaged.numbers) : null
  const whole = lost && numbers.some(number => lost.has(number))
  const own = whole ? numbers.flatMap((number, i) => (lost.has(number) ? [] : [i])) : null
  const readable: readonly number[] = own ? own.map(i => numbers[i]!) : numbers
  if (readable.length === 0) return { length: files.length, at: index => index }
  // its place stays, where it is held
  const shown =
    damaged?.as === 'hold' ? [...new Set([...readable, ...damaged.numbers])].sort((a, b) => a - b) : readable
  const filled = holdGaps ? framesHeld(shown) : null
  if (filled === null && shown === numbers) return { length: files.length, at: index => index }
  return {
    length: filled ?? shown.length,
    at(index) {
      // the last picture whose number is not beyond the frame's; the first where none stands before it
      const wanted = filled === null ? shown[index]! : shown[0]! + index
      let [low, high] = [0, readable.length - 1]
      while (low < high) {
        const middle = Math.ceil((low + high) / 2)
        if (readable[middle]! <= wanted) low = middle
        else high = middle - 1
      }
      return own ? own[low]! : low
    }
  }
}

/** Numbers of the pictures that stand at these frames, counted from 1; each once, in the order of their names. */
export function picturesAt(
  spec: Pick<FilesSpec, 'files' | 'numbers' | 'interpretation'>,
  frames: readonly number[]
): number[] {
  const order = frameOrder(spec)
  return [...new Set(frames.flatMap(frame => spec.numbers?.[order.at(frame - 1)] ?? []))].sort((a, b) => a - b)
}

/** Every track of sound left out for a reason, but for those that have one already. */
function silenced(facts: SourceFacts, why: string): Pick<SourceFacts, 'sound' | 'moreSounds'> {
  return soundFacts(soundsOf(facts).map(sound => ({ ...sound, leftOut: sound.leftOut ?? why })))
}

/** The sound of a source played at a rate: left out where that is not the file's own. */
export function soundAt(facts: SourceFacts, rate: SourceFacts['rate']): Pick<SourceFacts, 'sound' | 'moreSounds'> {
  if (!rate || sameRate(rate, facts.rate)) return soundFacts(soundsOf(facts))
  return silenced(facts, 'the pictures are played at another rate than the file says')
}

/** Tags of a colour that was said by hand. */
function named(words: string): SourceFacts['tags'] {
  const tags = tagsByHand(words)
  return tags && [...tags]
}

/** The number of the first frame that is shown: that of a picture left out counts no more. */
function firstShown({ numbers, interpretation: { damaged } }: Omit<FilesSpec, 'id'>): number {
  const out = damaged?.as === 'skip' ? new Set(damaged.numbers) : null
  return (out && numbers!.find(number => !out.has(number))) ?? numbers![0]!
}

/** `facts` as they stand once the interpretation is applied. */
export function interpretedFacts(stored: SourceFacts, spec: Omit<FilesSpec, 'id'>): SourceFacts {
  const { interpretation } = spec
  const facts =
    interpretation.eachPicture && stored.each
      ? {
          ...stored,
          ...stored.each,
          ...silenced(stored, 'the pictures are taken one by one, not as the film shows them')
        }
      : stored
  // numbers are of pictures, one a frame
  const numbered = spec.numbers?.length === facts.frames
  const first = numbered ? firstShown(spec) : -1
  // what was undecided when it was stored may have been decided since
  const { stops: _, ...known } = facts
  return {
    ...known,
    name: spec.name,
    original: stored.original ?? stored.name,
    ...(first >= 0 ? { firstNumber: first } : {}),
    frames: numbered ? frameOrder(spec).length : facts.frames,
    rate: interpretation.rate ?? facts.rate,
    ...soundAt(facts, interpretation.rate),
    pixelAspect: interpretation.pixelAspect ?? facts.pixelAspect,
    colour: interpretation.colour ?? facts.colour,
    tags:
      interpretation.colour && interpretation.colour !== facts.colour
        ? named(interpretation.colour)
        : (facts.tags ?? null),
    rateFrom: interpretation.rate ? (interpretation.rateFrom ?? 'asked') : facts.rateFrom,
    ...(interpretation.damaged && !interpretation.damaged.as ? { stops: sayDamaged(interpretation.damaged) } : {}),
    findings: [...spec.findings, ...facts.findings]
  }
}

function sayDamaged({ numbers }: { numbers: readonly number[] }): string {
  const [one, be, them] = numbers.length === 1 ? ['Picture', 'it', 'it'] : ['Pictures', 'each', 'them']
  return `${one} ${sayNumbers(numbers)} could not be read: hold the picture before ${be}, or leave ${them} out.`
}

/**
 * Opens the source; its frames carry the alpha mode the interpretation gives them, and are prepared as the description
 * says. What a preparation builds on is opened by `beneath`, and closed with the source.
 */
export async function openSource(
  spec: SourceSpec,
  host: Host,
  beneath = (other: SourceSpec): Promise<Source> => openSource(other, host)
): Promise<Source> {
  if (spec.kind === 'files') return interpret(await openStored(spec, host, 'open'), spec)
  const others = new Map<string, Source>()
  const all: Source[] = []
  const lend = async (other: SourceSpec): Promise<Source> => {
    const source = await beneath(other)
    all.push(source)
    return source
  }
  const closeAll = async (): Promise<void> => void (await Promise.all(all.map(source => source.close())))
  try {
    const base = spec.kind === 'prepared' ? await lend(spec.of) : null
    for (const [id, other] of Object.entries(spec.others)) others.set(id, await lend(other))
    if (spec.kind === 'prepared') return prepared(base!, spec.steps, others, host.kernels)
    const scene = await openScene(spec.of.files[0]!, host, others)
    const facts = { ...scene.facts, format: spec.of.format }
    return interpret({ ...scene, facts, close: () => scene.close().finally(closeAll) }, spec.of)
  } catch (error) {
    await closeAll()
    throw error
  }
}

/** The same through the decoder a proof uses. */
export async function openForProof(spec: FilesSpec, host: Host): Promise<Source> {
  return interpret(await openStored(spec, host, 'openForProof'), spec)
}

/** What the bytes say of themselves, whatever they are taken for: opened by the proof's decoder, and closed again. */
export async function storedFacts(spec: FilesSpec, host: Host): Promise<SourceFacts> {
  const source = await openForProof({ ...spec, interpretation: { ...spec.interpretation, alpha: null } }, host)
  await source.close()
  return source.facts
}

/** The same source, its facts held to what can be; it is closed when they are beyond that. */
async function heldSource(source: Source): Promise<Source> {
  let facts: SourceFacts
  try {
    facts = heldFacts(source.facts)
  } catch (error) {
    await source.close()
    throw error
  }
  if (facts === source.facts) return source
  const { encoded, each } = source
  return {
    facts,
    ...(each ? { each: (index: number, signal?: AbortSignal) => each(index, signal) } : {}),
    frame: (index, signal) => source.frame(index, signal),
    ...(encoded ? { encoded: (index: number) => encoded(index) } : {}),
    close: () => source.close()
  }
}

/**
 * What a format makes of files, its facts held to what can be. Whatever it had opened is closed again when it rejects.
 */
export async function opened(
  format: Format,
  how: 'open' | 'openForProof',
  { name, files, layer }: { name: string; files: readonly FileRef[]; layer?: string | undefined },
  host: Host
): Promise<Source> {
  const readers: ByteReader[] = []
  let opening = true
  const watched: Host = {
    ...host,
    async openFile(file) {
      const reader = await host.openFile(file)
      if (opening) readers.push(reader)
      return reader
    }
  }
  try {
    return await heldSource(await format[how](name, files, watched, layer))
  } catch (error) {
    await Promise.all(readers.map(reader => reader.close()))
    throw error
  } finally {
    opening = false
  }
}

async function openStored(spec: FilesSpec, host: Host, how: 'open' | 'openForProof'): Promise<Source> {
  const format = formatById(spec.format)
  const stored = await opened(
    format,
    how,
    { name: spec.name, files: spec.files, layer: spec.interpretation.layer },
    host
  )
  const fill = format.delivers === 'pictures' ? levelled(stored, spec.common, host.kernels) : stored
  if (!spec.key) return fill
  try {
    return paired(fill, await opened(format, how, { name: spec.name, files: spec.key }, host))
  } catch (error) {
    await fill.close()
    throw error
  }
}

/** A stored frame under the mode it is taken to have. */
export function taken(frame: Frame, mode: AlphaMode): Frame {
  if (frame.alpha.mode === 'none') return frame
  return mode.mode === 'none' ? readAs(frame, mode) : { ...frame, alpha: mode }
}

function interpret(opened: Source, spec: FilesSpec): Source {
  const { each } = opened
  const stored = spec.interpretation.eachPicture && each ? { ...opened, frame: each } : opened
  const facts = interpretedFacts(stored.facts, spec)
  const mode = modeTaken(facts.claim, spec.interpretation)
  // as many frames as files may still be others: one held in the place of one that cannot be read
  const moved = facts.frames !== stored.facts.frames || !!spec.interpretation.damaged?.as
  const order = spec.numbers && moved ? frameOrder(spec) : null
  const place = (index: number): number => order?.at(index) ?? index
  const { encoded } = stored
  return {
    facts,
    frame: async (index, signal) => taken(await stored.frame(place(index), signal), mode),
    ...(encoded && stored === opened ? { encoded: (index: number) => encoded(place(index)) } : {}),
    close: () => stored.close()
  }
}

/** A description of files whose interpretation is left to them. */
export function specAsFound(id: string, name: string, format: string, files: FilesSpec['files']): FilesSpec {
  return { kind: 'files', id, name, format, files, numbers: null, interpretation: AS_FOUND, findings: [] }
}
