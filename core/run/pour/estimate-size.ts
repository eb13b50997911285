/** What a delivery will come to in bytes, from a few of its frames really encoded. */
import type { Encodable, Sized } from '../../media/formats/traits/writing'
import { memorySink } from '../../base/files/sinks'
import type { Deliverable } from '../../media/formats/deliverable'
import type { Format } from '../../media/formats/format'
import { formatById } from '../../open/registry'
import type { PourPlan } from '../../job/outlet/plan'
import type { SourceSpec } from '../../source/source'
import type { Workshop } from '../../frame/workshop'
import type { PourTasks } from './tasks'
import { encodeRequest, surveyed } from './pour'

/**
 * Frames encoded to judge a size by, spread over the range: so many, and more as far as the pixels go that may be
 * spent.
 */
const LEAST_SAMPLES = 5
const SPENT_ALONE = 8_000_000

/** What a delivery is judged to come to in bytes, and between what it lies nine times of ten. */
export interface SizeEstimate {
  bytes: number
  least: number
  most: number
}

/**
 * Student's t by degrees of freedom, for nine times of ten on both sides; beyond the last it hardly falls. With none,
 * nothing is known of how samples differ.
 */
const WITHIN = [0, 6.31, 2.92, 2.35, 2.13, 2.02, 1.94, 1.89, 1.86, 1.83, 1.81, 1.8] as const

/**
 * How far the sum of `all` things in a row may lie from what a sample says that is spread evenly over them; nothing
 * where all were looked at. Their spread is judged by how neighbours of the sample differ, since what changes slowly
 * is met at every height.
 */
export function sampleReach(sample: readonly number[], all: number): number {
  const n = sample.length
  if (n < 2 || n >= all) return 0
  let steps = 0
  for (let i = 1; i < n; i++) steps += (sample[i]! - sample[i - 1]!) ** 2
  const spread = Math.sqrt(steps / (2 * (n - 1)))
  return WITHIN[Math.min(n - 1, WITHIN.length - 1)]! * all * (spread / Math.sqrt(n)) * Math.sqrt(1 - n / all)
}

const meanOf = (values: readonly number[]): number => values.reduce((sum, value) => sum + value, 0) / values.length

/** A sum of frames and how far it may be off, with what a file has around them. */
function wrapped(sum: number, reach: number, format: Sized, deliverable: Deliverable): SizeEstimate {
  const around = (bytes: number): number => format.wrappedSize(Math.max(0, Math.round(bytes)), deliverable)
  return { bytes: around(sum), least: around(sum - reach), most: around(sum + reach) }
}

const inRow = (format: Encodable, deliverable: Deliverable): boolean =>
  format.stateful === true || format.buildsOn?.(1, deliverable) === true

/** Frames that are tried of a delivery whose frames stand alone, as far as the pixels go that may be spent. */
const samplesOf = ({ frames, deliverable: { width, height } }: PourPlan): number =>
  Math.min(Math.max(LEAST_SAMPLES, Math.floor(SPENT_ALONE / (width * height))), frames.length)

/** Whether an estimate from the fewest frames is made surer by one from more. */
export const isRefined = (plan: PourPlan): boolean =>
  !inRow(formatById(plan.outlet.format), plan.deliverable) && samplesOf(plan) > LEAST_SAMPLES

/** What is tried of a source, and where. */
export interface Trial extends Workshop<PourTasks> {
  source: SourceSpec
  plan: PourPlan
}

/** Which frames are tried: those alone that it takes at least, or as many as may be. */
export type Sampling = 'least' | 'all'

/** Bytes the delivery will have, a key with its fill, from a few frames really encoded. */
export async function estimateSize(trial: Trial, effort: Sampling = 'all'): Promise<SizeEstimate> {
  const { plan } = trial
  const fill = await estimateOne(trial, effort)
  if (!plan.key) return fill
  const other = { ...plan, deliverable: plan.key.deliverable, key: null }
  const key = await estimateOne({ ...trial, plan: other }, effort)
  return { bytes: fill.bytes + key.bytes, least: fill.least + key.least, most: fill.most + key.most }
}

async function estimateOne(trial: Trial, effort: Sampling): Promise<SizeEstimate> {
  const { source, plan, pool, signal } = trial
  const format = formatById(plan.outlet.format)
  if (inRow(format, plan.deliverable)) return estimateStretch(trial, format)
  const count = effort === 'all' ? samplesOf(plan) : Math.min(LEAST_SAMPLES, plan.frames.length)
  const deliverable = await surveyed({ source, plan, format, deliverable: plan.deliverable }, { pool, signal })
  const sizes: number[] = []
  for (let i = 0; i < count; i++) {
    const position = Math.floor(((i + 0.5) * plan.frames.length) / count)
    const encoded = await pool.run('encode', [encodeRequest({ source, plan, format, deliverable }, position)], {
      priority: 'later',
      signal
    })
    sizes.push(encoded.bytes.length)
  }
  const all = plan.frames.length
  return wrapped(all * meanOf(sizes), sampleReach(sizes, all), format, plan.deliverable)
}

/**
 * Where frames build on each other a codec is tried on so many in a row, at several places; how many follows from the
 * pixels that may be spent. A clip of no more than those is tried whole.
 */
const RUN = 5
const PLACES = [3, 12] as const
const SPENT = 24_000_000

/** Key frames of a clip whose frames else build on each other. */
function keysOf(format: Encodable, deliverable: Deliverable): number {
  const { frames, options } = deliverable
  if (!format.buildsOn) return Math.ceil(frames / Math.max(1, format.keyEvery?.(options) ?? frames))
  let keys = 1
  for (let i = 1; i < frames; i++) if (!format.buildsOn(i, deliverable)) keys++
  return keys
}

async function estimateStretch({ source, plan, host, pool, signal }: Trial, format: Format): Promise<SizeEstimate> {
  const { frames } = plan
  const silent = { ...plan.deliverable, sound: null, moreSounds: [] }
  const aims = Object.entries(format.options).flatMap(([key, field]) =>
    field.type === 'number' && field.aims ? [key] : []
  )
  /** Bytes of so many frames from one on, without what a file has around them. */
  const lengthOf = async (from: number, count: number): Promise<number> => {
    const sink = memorySink()
    // a size that is aimed at is aimed at in proportion
    const options = { ...silent.options }
    for (const key of aims) options[key] = (Number(options[key] ?? 0) * count) / frames.length
    const deliverable = { ...silent, frames: count, options }
    const stretch = { ...plan, frames: frames.slice(from, from + count), deliverable }
    const assembler = await format.assemble({ kind: 'film', sink }, deliverable, host)
    for (let i = 0; i < count; i++) {
      const encoded = await pool.run('encode', [encodeRequest({ source, plan: stretch, format, deliverable }, i)], {
        priority: 'later',
        signal
      })
      await assembler.add(i, encoded.bytes)
    }
    await assembler.finish()
    return Math.max(0, sink.bytes().length - format.wrappedSize(0, deliverable))
  }
  const pixels = silent.width * silent.height
  const places = Math.min(PLACES[1], Math.max(PLACES[0], Math.floor(SPENT / (RUN * pixels))))
  if (frames.length <= RUN * places || frames.length * pixels <= SPENT)
    return wrapped(await lengthOf(0, frames.length), 0, format, plan.deliverable)
  const [alone, others]: [number[], number[]] = [[], []]
  for (let place = 0; place < places; place++) {
    const from = Math.round(((place + 0.5) * frames.length) / places - RUN / 2)
    const first = await lengthOf(from, 1)
    alone.push(first)
    others.push(Math.max(0, (await lengthOf(from, RUN)) - first) / (RUN - 1))
  }
  const keys = keysOf(format, plan.deliverable)
  const rest = frames.length - keys
  const sum = keys * meanOf(alone) + rest * meanOf(others)
  // stretches differ from each other as single frames do
  const reach =
    sampleReach(alone, Math.max(places + 1, keys)) * (keys / Math.max(places + 1, keys)) + sampleReach(others, rest)
  return wrapped(sum, reach, format, plan.deliverable)
}
