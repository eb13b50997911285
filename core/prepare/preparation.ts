/** A preparation: steps in order, each on or off; what a source becomes by it. */
import { timecodeAfter } from '../base/timecode'
import { z } from 'zod'
import { sentenceOf } from '../base/errors'
import { sayIssue } from '../base/say-issue'
import { withDepth } from '../frame/depth'
import type { Frame, Samples } from '../frame/frame'
import type { Kernels } from '../frame/kernels/kernels'
import { sameRate } from '../base/rate'
import { soundFacts, soundOfFrames, soundsOf, type SoundFacts } from '../source/sound'
import type { Source, SourceFacts } from '../source/source'
import { stepKindById, stepKinds } from './kinds'
import { alphaChanged, asFrame, asPicture, carriedFrame, changed, someRows, type Carried } from './carried'
import { isLit, litMixed, litStep } from './lit'
import { toPicture, type Picture } from './picture'
import { freshSettings, settingsSchema, type Shaped, type StepKind, type Surroundings, type Use } from './step'

export const Step = z
  .object({
    id: z.string(),
    kind: z.enum(stepKinds.map(kind => kind.id) as [string, ...string[]]),
    on: z.boolean(),
    /** Id of the finding that it mends. */
    mends: z.string().max(80).optional(),
    settings: z.record(z.string(), z.unknown())
  })
  .transform((step, context) => {
    const settings = settingsSchema(stepKindById(step.kind)).safeParse(step.settings)
    if (settings.success) return { ...step, settings: settings.data }
    const { name, fields } = stepKindById(step.kind)
    const labels = Object.fromEntries(Object.entries(fields).map(([key, field]) => [key, field.label]))
    // the sentence is set behind the name of the field that holds the steps, and ends there
    const sentence = sayIssue(settings.error.issues[0]!, labels).replace(/\.$/, '')
    context.addIssue({ code: 'custom', message: `${name}: ${sentence}` })
    return z.NEVER
  })
export type Step = z.infer<typeof Step>

/** A preparation by itself, as it is saved and exported. */
export const Preparation = z.object({
  pour: z.literal('preparation'),
  version: z.literal(1),
  name: z.string().min(1).max(80),
  steps: z.array(Step).max(200)
})
export type Preparation = z.infer<typeof Preparation>

/** A step of a kind that is on, with its defaults where `settings` say nothing. */
export function newStep(id: string, kind: StepKind, settings: Record<string, unknown> = {}): Step {
  return { id, kind: kind.id, on: true, settings: { ...freshSettings(kind), ...settings } }
}

/** Reads an exported preparation; throws a plain Error with one sentence when it is none. */
export function readPreparation(text: string): Preparation {
  let value: unknown
  try {
    value = JSON.parse(text)
  } catch (error) {
    throw new Error(`This is not a preparation: it is not JSON (${sentenceOf(error)}).`, { cause: error })
  }
  const read = Preparation.safeParse(value)
  if (read.success) return read.data
  const [issue] = read.error.issues
  const [list, place] = issue?.path ?? []
  const where = list === 'steps' && typeof place === 'number' ? `step ${place + 1}, ` : ''
  throw new Error(`This preparation cannot be used: ${where}${issue ? sayIssue(issue, undefined, value) : ''}`)
}

/** Ids of the sources that steps look at. */
export function othersOf(steps: readonly Step[]): string[] {
  const ids = steps
    .filter(step => step.on)
    .flatMap(step =>
      Object.entries(stepKindById(step.kind).fields).flatMap(([key, field]) =>
        field.type === 'source' ? [String(step.settings[key] ?? '')] : []
      )
    )
  return [...new Set(ids)].filter(id => id !== '')
}

interface Stage {
  step: Step
  kind: StepKind
  facts: Shaped
  /** For steps in time: which frames of the stage before. */
  uses: Use[] | null
}

/** What each step that is on makes of the clip; a step that cannot be carried out is passed over and named. */
function stages(
  facts: Shaped,
  steps: readonly Step[]
): { stages: Stage[]; facts: Shaped; problems: Map<string, string> } {
  const result: Stage[] = []
  const problems = new Map<string, string>()
  let now = facts
  for (const step of steps) {
    if (!step.on) continue
    const kind = stepKindById(step.kind)
    const settings = step.settings as never
    if (kind.still?.(settings, now)) continue
    const problem = kind.problem?.(now, settings) ?? null
    if (problem) {
      problems.set(step.id, problem)
      continue
    }
    const changed = kind.facts?.(now, settings) ?? {}
    const order = kind.order?.(now, settings) ?? null
    now = { ...now, ...changed, ...(order ? { frames: order.frames.length, rate: order.rate } : {}) }
    result.push({ step, kind, facts: now, uses: order?.frames ?? null })
  }
  return { stages: result, facts: now, problems }
}

/** Facts of a source once prepared. */
export function preparedFacts(given: SourceFacts, steps: readonly Step[]): SourceFacts {
  const { firstNumber, ...facts } = given
  const { stages: list, facts: shaped } = stages(facts, steps)
  const first = firstNumber === undefined ? null : firstUsed(list)
  return {
    ...facts,
    ...shaped,
    ...(first === null ? {} : { firstNumber: firstNumber! + first }),
    ...(facts.timecode ? { timecode: timecodeOf(facts.timecode, facts, list) } : {}),
    ...soundFacts(soundsOf(facts).map(sound => soundAfter(sound, facts, list)))
  }
}

/** The frame, from 0, that stages begin with; null once frames no longer run on one by one. */
function firstUsed(list: readonly Stage[]): number | null {
  let first = 0
  for (const { uses } of list) {
    if (!uses) continue
    const from = uses[0]?.from ?? 0
    if (uses.some((use, n) => use.to !== undefined || use.from !== from + n)) return null
    first += from
  }
  return first
}

/** The time code of the first frame once stages have chosen frames; null once they no longer run on one by one. */
function timecodeOf(timecode: string, facts: Shaped, list: readonly Stage[]): string | null {
  let [now, before]: [string | null, Shaped] = [timecode, facts]
  for (const stage of list) {
    if (!now || !before.rate || !sameRate(before.rate, stage.facts.rate)) return null
    const { uses } = stage
    if (uses) {
      const first = uses[0]?.from ?? 0
      if (uses.some((use, n) => use.to !== undefined || use.from !== first + n)) return null
      now = timecodeAfter(now, first, before.rate)
    }
    before = stage.facts
  }
  return now
}

/** The sound of a clip once its stages have chosen its frames. */
function soundAfter(sound: SoundFacts, facts: Shaped, list: readonly Stage[]): SoundFacts {
  let [now, before] = [sound, facts]
  for (const stage of list) {
    if (stage.uses) {
      const shown = stage.uses.map(use => (use.to === undefined ? use.from : -1))
      now = soundOfFrames(now, shown, before, sameRate(before.rate, stage.facts.rate))
    }
    const why = stage.kind.silences?.(stage.step.settings as never) ?? null
    if (why !== null && now.leftOut === null) now = { ...now, leftOut: why }
    before = stage.facts
  }
  return now
}

/** What stands against each step, by its id. */
export function preparationProblems(facts: SourceFacts, steps: readonly Step[]): Map<string, string> {
  return stages(facts, steps).problems
}

/** The source frame, counted from 0, that each prepared frame shows; of two mixed, the first. */
export function sourceFrames(facts: SourceFacts, steps: readonly Step[]): number[] {
  let now = Array.from({ length: facts.frames }, (_, i) => i)
  for (const stage of stages(facts, steps).stages) if (stage.uses) now = stage.uses.map(use => now[use.from]!)
  return now
}

/** The frame that steps are done to as light, where it is one. */
const litOf = (carried: Carried): Frame | null =>
  'frame' in carried && !carried.alpha && carried.changes.length === 0 && isLit(carried.frame) ? carried.frame : null

/** The frame of codes that nothing is noted to be done to, straight or without alpha; null where it is another. */
function codesOf(carried: Carried): Frame | null {
  if (!('frame' in carried) || carried.alpha || carried.changes.length > 0) return null
  const { depth, transfer, alpha } = carried.frame
  return depth !== 32 && transfer === 'srgb' && alpha.mode !== 'premultiplied' ? carried.frame : null
}

/** Two frames as one, weighed on premultiplied values. */
function mixed(a: Picture, b: Picture, mix: number): Picture {
  const rgba = new Float32Array(a.rgba.length)
  for (let i = 0; i < rgba.length; i += 4) {
    const [wa, wb] = [a.rgba[i + 3]! * (1 - mix), b.rgba[i + 3]! * mix]
    const alpha = wa + wb
    rgba[i + 3] = alpha
    if (alpha > 0) for (let c = 0; c < 3; c++) rgba[i + c] = (a.rgba[i + c]! * wa + b.rgba[i + c]! * wb) / alpha
  }
  return { ...a, rgba }
}

/**
 * The source as its steps make it. Frames come straight at the depth the facts say, or untouched where no step computes
 * on them.
 * `others` are sources that steps look at, by id; closing closes them too.
 */
export function prepared(
  source: Source,
  steps: readonly Step[],
  others: ReadonlyMap<string, Source>,
  kernels: Kernels
): Source {
  const { stages: list, facts } = stages(source.facts, steps)
  const sounds = soundsOf(source.facts).map(sound => soundAfter(sound, source.facts, list))
  // the floats of a picture that is done with, for the next one: fresh memory of that size is slow to come by
  let spare: Float32Array | null = null
  // samples that came from the source, and may be kept by whoever made them
  const given = new WeakSet<Samples>()
  function picture(carried: Carried): Picture {
    const room = spare
    if (!('picture' in carried)) spare = null
    return asPicture(carried, kernels, room)
  }

  function aroundOf(stage: number, index: number, input: Carried, signal?: AbortSignal): Surroundings {
    const made = list[stage]!.facts
    const before = stage === 0 ? source.facts : list[stage - 1]!.facts
    return {
      kernels,
      index,
      frames: made.frames,
      made,
      width: before.width,
      height: before.height,
      rows: (every: number) => someRows(input, every, kernels),
      near: by => nearby(stage, index + by, before.frames),
      async other(id: string) {
        const found = others.get(id)
        return found ? toPicture(await found.frame(Math.min(index, found.facts.frames - 1), signal), kernels) : null
      }
    }
  }

  // frames that a step looked at besides its own, for the next one; 16 bits hold what floats of codes do
  const seen = new Map<string, Promise<Frame>>()
  const NEARBY = 4

  async function nearby(stage: number, index: number, frames: number): Promise<Picture | null> {
    if (index < 0 || index >= frames) return null
    const key = `${stage} ${index}`
    let found = seen.get(key)
    if (!found) {
      // several may wait for it, so that no one's giving up ends it
      found = at(stage - 1, index).then(carried => {
        const frame = asFrame(carried, 16, kernels)
        return litOf(carried) ? frame : withDepth(frame, 16, kernels)
      })
      seen.set(key, found)
      // what failed is looked at again
      found.catch(() => seen.delete(key))
      const [oldest] = seen.keys()
      if (seen.size > NEARBY && oldest) seen.delete(oldest)
    }
    return toPicture(await found, kernels)
  }

  async function at(stage: number, index: number, signal?: AbortSignal): Promise<Carried> {
    if (stage < 0) {
      const frame = await source.frame(index, signal)
      given.add(frame.samples)
      return carriedFrame(frame)
    }
    const { step, kind, uses } = list[stage]!
    const settings = step.settings as never
    const before = stage === 0 ? source.facts : list[stage - 1]!.facts
    if (uses) {
      const use = uses[index]!
      const first = await at(stage - 1, use.from, signal)
      if (use.to === undefined) return first
      const second = await at(stage - 1, use.to, signal)
      const [one, two] = [litOf(first), litOf(second)]
      if (one && two && one.alpha.mode === two.alpha.mode && one.transfer === two.transfer)
        return carriedFrame(litMixed(one, two, use.mix ?? 0, kernels))
      return { picture: mixed(picture(first), picture(second), use.mix ?? 0) }
    }
    const input = await at(stage - 1, index, signal)
    signal?.throwIfAborted()
    const lit = litOf(input)
    if (lit) return carriedFrame(await litStep(kind, settings, lit, aroundOf(stage, index, input, signal)))
    if (kind.move) return carriedFrame(kind.move(asFrame(input, before.bitDepth, kernels), settings, kernels))
    const around = aroundOf(stage, index, input, signal)
    const plain = kind.codes ? codesOf(input) : null
    const keyed = plain && (await kind.codes!(plain, settings, around))
    if (keyed) return carriedFrame(keyed)
    if (kind.pixels) {
      const change = await kind.pixels(settings, around)
      if (change) return changed(input, change)
      if (!kind.paint) return input
    }
    if (kind.plane) {
      const { plane } = kind
      return alphaChanged(input, picture, alpha => plane(alpha, settings, around))
    }
    return { picture: await kind.paint!(picture(input), settings, around) }
  }

  return {
    facts: { ...source.facts, ...facts, ...soundFacts(sounds) },
    async frame(index, signal) {
      if (!(index >= 0 && index < facts.frames))
        return source.frame(index < 0 ? index : Number.MAX_SAFE_INTEGER, signal)
      const carried = await at(list.length - 1, index, signal)
      const frame = asFrame(carried, facts.bitDepth, kernels)
      if ('picture' in carried && frame.samples !== carried.picture.rgba) spare = carried.picture.rgba
      const coded = withDepth(frame, facts.bitDepth, kernels)
      const deep = given.has(coded.samples) ? { ...coded, samples: coded.samples.slice() } : coded
      return facts.claim.mode === 'none' && deep.alpha.mode !== 'none' ? { ...deep, alpha: { mode: 'none' } } : deep
    },
    async sureness(stepId, index) {
      const stage = list.findIndex(({ step }) => step.id === stepId)
      const { kind, step } = list[stage] ?? {}
      if (!kind?.sureness || !step) return null
      const input = await at(stage - 1, index)
      return kind.sureness(picture(input), step.settings as never, aroundOf(stage, index, input))
    },
    async close() {
      await Promise.all([source.close(), ...[...others.values()].map(other => other.close())])
    }
  }
}

/** Whether what steps do changes the values of pixels, and not only which there are and when. */
export const changesPixels = (steps: readonly Step[]): boolean =>
  steps.some(({ on, kind }) => on && !['Frame', 'Time'].includes(stepKindById(kind).group))
