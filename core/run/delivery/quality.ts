/** What a delivery will lose, from a few of its frames really poured and proven, in memory alone. */
import { memorySink, zipSink } from '../../base/files/sinks'
import { formatById } from '../../open/registry'
import type { PourPlan } from '../../job/outlet/plan'
import type { ProofReport } from '../../judge/proof/report'
import type { Pool } from '../../base/pool'
import type { DeliveryTasks } from './asks'
import { pourInto, proveDelivered, type Delivering, type Depot } from './delivery'

/** What the proof says of the frames that were tried, and the largest differences it found. */
export interface SampledQuality {
  verdict: ProofReport['verdict']
  sentence: string
  /** In codes of the depth that is proven, beside what the form itself costs: of soft edges without levels, say. */
  alpha: number
  /** Delta E 2000, of all pixels that are seen and of those at edges. */
  colour: number
  edge: number
  /** Frames that were tried. */
  frames: number
}

/** Frames that are tried: spread where they stand alone, in a row where they build on each other. */
const SPREAD = 3
const ROW = 5

/** The plan, of a few of its frames. */
export function sampleOf(plan: PourPlan): PourPlan {
  const format = formatById(plan.outlet.format)
  const all = plan.frames.length
  const inRow = format.stateful || format.buildsOn?.(1, plan.deliverable)
  const count = Math.min(inRow ? ROW : SPREAD, all)
  const places = Array.from({ length: count }, (_, n) =>
    inRow ? Math.floor((all - count) / 2) + n : Math.floor(((n + 0.5) * all) / count)
  )
  const of = (deliverable: PourPlan['deliverable']): PourPlan['deliverable'] => ({
    ...deliverable,
    frames: count,
    names: deliverable.names.slice(0, count),
    sound: null,
    moreSounds: []
  })
  return {
    ...plan,
    frames: places.map(place => plan.frames[place]!),
    deliverable: of(plan.deliverable),
    key: plan.key && { ...plan.key, deliverable: of(plan.key.deliverable) }
  }
}

/** The same pool, for work that everything else comes before. */
const lastOfAll = (pool: Pool<DeliveryTasks>): Pool<DeliveryTasks> => ({
  size: pool.size,
  get load() {
    return pool.load
  },
  run: (name, args, options) => pool.run(name, args, { ...options, priority: 'later' }),
  close: () => pool.close()
})

/** Pours and proves a few frames. Rejects where the source cannot be read, and on abort. */
export async function sampleQuality(given: Delivering): Promise<SampledQuality> {
  const plan = sampleOf(given.plan)
  const { delivers } = formatById(plan.outlet.format)
  const [film, key] = [memorySink(), memorySink()]
  const bytes = (sink: typeof film, name: string) => {
    const held = sink.bytes()
    return { kind: 'bytes' as const, path: name, size: held.length, bytes: held }
  }
  const depot: Depot = {
    open: () =>
      Promise.resolve(
        delivers === 'film'
          ? { kind: 'film', sink: film, ...(plan.key ? { key } : {}) }
          : { kind: 'pictures', sink: zipSink(film, new Date(1980, 0, 1)) }
      ),
    delivered: () =>
      Promise.resolve({
        id: `sample ${crypto.randomUUID()}`,
        name: plan.name,
        files:
          delivers === 'film'
            ? [bytes(film, 'sample'), ...(plan.key ? [bytes(key, 'key')] : [])]
            : [bytes(film, 'sample.zip')]
      })
  }
  // nothing of it is kept, so whether the source changes meanwhile is of no matter, and its files are not all asked
  const host = { ...given.host, stamp: () => Promise.resolve('') }
  const delivering = { ...given, plan, host, pool: lastOfAll(given.pool) }
  const report = await proveDelivered(depot, delivering, await pourInto(depot, delivering))
  const most = (pick: (frame: (typeof report.frames)[number]) => number): number =>
    report.frames.reduce((top, frame) => Math.max(top, pick(frame)), 0)
  return {
    verdict: report.verdict,
    sentence: report.sentence,
    alpha: most(frame => frame.alpha),
    colour: most(frame => frame.colour),
    edge: most(frame => frame.edge),
    frames: report.frames.length
  }
}
