/** A pour: frames through the pool, in order, into a sink. The same function runs in the browser and on Node. */
import { isAbort } from '../../base/errors'
import type { ByteSink, FilesSink } from '../../base/files/sinks'
import type { Assembler, Target } from '../../media/formats/traits/writing'
import type { Deliverable } from '../../media/formats/deliverable'
import type { Format } from '../../media/formats/format'
import { formatById } from '../../open/registry'
import { isApart, type PourPlan } from '../../job/outlet/plan'
import { isLookedAt } from '../../judge/proof/looked-at'
import { soundFacts, soundsOf, type SoundFeed } from '../../source/sound'
import { openSounds } from '../../open/sounding'
import type { SourceSpec } from '../../source/source'
import { stampsOf, unchangedSince, type Stamps } from '../../source/stamp'
import { inOrder } from '../../base/pool'
import type { Workshop } from '../../frame/workshop'
import type { Passing } from './passing'
import { rateNote } from './rate-note'
import type { EncodeRequest, PourTasks } from './tasks'
import type { ReadBack } from '../../judge/proof/tasks'

export interface Progress {
  done: number
  total: number
  /** Bytes of encoded frames so far. */
  bytes: number
}

/** What a pour took down for the proof. */
export interface Noted {
  /** Of the source's files as they were when it began. */
  stamps: Stamps
  /**
   * Fingerprint of each frame as it went into the encoder; null for a fill and key, which are proven as the picture
   * they make together.
   */
  prints: readonly string[] | null
  /** What was found where frames were read back at once; null for each that was not. */
  readBack: readonly (ReadBack | null)[] | null
}

/** What goes where: one delivery, or a fill and its key. */
function deliveries(target: Target, plan: PourPlan): { to: Target; deliverable: Deliverable }[] {
  if (!plan.key) return [{ to: target, deliverable: plan.deliverable }]
  if (target.kind === 'pictures')
    return [plan.deliverable, plan.key.deliverable].map(deliverable => ({ to: target, deliverable }))
  if (!target.key) throw new TypeError('a fill and key of films are delivered as two files')
  return [
    { to: { kind: 'film', sink: target.sink }, deliverable: plan.deliverable },
    { to: { kind: 'film', sink: target.key }, deliverable: plan.key.deliverable }
  ]
}

function sinksOf(target: Target): (ByteSink | FilesSink)[] {
  return target.kind === 'film' && target.key ? [target.sink, target.key] : [target.sink]
}

/** What frames are coded from, and into what: a delivery of the plan, or one of its two. */
export interface Coding {
  source: SourceSpec
  plan: PourPlan
  format: Format
  deliverable: Deliverable
}

/** What a worker is asked, to code the frame at a position of the delivery. */
export function encodeRequest({ source, plan, format, deliverable }: Coding, position: number): EncodeRequest {
  const before = position > 0 && format.buildsOn?.(position, deliverable) ? plan.frames[position - 1]! : null
  return { source, index: plan.frames[position]!, before, format: format.id, deliverable }
}

/** The same, to be read back where the format allows it, and looked at where somebody wants that. */
function provenRequest(coding: Coding, position: number, passing: Passing | null): EncodeRequest {
  const { format, plan } = coding
  const readBack =
    format.readBack && !isApart(plan) ? { form: plan.due, look: isLookedAt(position, plan.frames.length) } : null
  return { ...encodeRequest(coding, position), readBack, passing: passing?.request(plan.frames[position]!) ?? null }
}

/** Frames that a survey looks at, spread over the clip. */
const SURVEYED = 32

/** The deliverable with what its format's survey found, for formats that ask for one. */
export async function surveyed(
  { source, plan, format, deliverable }: Coding,
  { pool, signal }: Pick<Workshop<PourTasks>, 'pool' | 'signal'>
): Promise<Deliverable> {
  const { survey } = format
  if (!survey?.wanted(deliverable)) return deliverable
  const count = Math.min(SURVEYED, plan.frames.length)
  const looks: Uint8Array[] = []
  await inOrder(
    count,
    pool.size * 2,
    n =>
      pool.run(
        'survey',
        [
          {
            source,
            index: plan.frames[Math.floor(((n + 0.5) * plan.frames.length) / count)]!,
            format: format.id,
            deliverable
          }
        ],
        { signal }
      ),
    look => void looks.push(look)
  )
  return { ...deliverable, survey: survey.join(looks) }
}

/** What is poured, and where to. */
export interface Pouring {
  source: SourceSpec
  plan: PourPlan
  target: Target
  /** What is looked at of the source's frames as they pass. */
  passing?: Passing | null
}

/**
 * Pours `plan` from `source` into `target` and closes it. Memory is bounded by the frames in flight: two for each
 * worker, and not one more until the sink has taken those before. On any error or abort the target is aborted and the
 * error passed on; so it is when the source's files have changed meanwhile, before anything takes its place. Lossy
 * frames that stand alone are read back and compared while the frame they are made of is at hand.
 */
export async function pour(
  { source, plan, target, passing = null }: Pouring,
  { host, pool, signal }: Workshop<PourTasks>,
  onProgress: (progress: Progress) => void = () => undefined
): Promise<Noted> {
  const format = formatById(plan.outlet.format)
  const stop = new AbortController()
  const either = signal ? AbortSignal.any([signal, stop.signal]) : stop.signal
  let bytes = 0
  const prints: string[] = []
  const stamps = await stampsOf(source, host)
  const readBack: (ReadBack | null)[] = []
  const assemblers: { deliverable: Deliverable; made: Assembler }[] = []
  const feeds: SoundFeed[] = []
  try {
    either.throwIfAborted()
    for (const { to, deliverable: planned } of deliveries(target, plan)) {
      const deliverable = await surveyed({ source, plan, format, deliverable: planned }, { pool, signal: either })
      const sounds = await openSounds(source, soundsOf(deliverable), host)
      const own = sounds.map(({ feed }) => feed)
      feeds.push(...own)
      const { sound: _first, moreSounds: _more, ...silent } = deliverable
      const heard = { ...silent, ...soundFacts(sounds.map(({ form }) => form)) }
      assemblers.push({ deliverable: heard, made: await format.assemble(to, heard, host, own) })
    }
    onProgress({ done: 0, total: plan.frames.length, bytes: 0 })
    // of a pair, both parts of a frame follow each other
    const parts = assemblers.length
    await inOrder(
      plan.frames.length * parts,
      pool.size * 2,
      n =>
        pool.run(
          'encode',
          [
            provenRequest(
              { source, plan, format, deliverable: assemblers[n % parts]!.deliverable },
              Math.floor(n / parts),
              n % parts ? null : passing
            )
          ],
          { signal: either }
        ),
      async ({ bytes: encoded, print, readBack: found, look }, n) => {
        either.throwIfAborted()
        if (look) passing!.take(plan.frames[Math.floor(n / parts)]!, look)
        prints.push(print)
        readBack.push(found)
        await assemblers[n % parts]!.made.add(Math.floor(n / parts), encoded)
        bytes += encoded.length
        onProgress({ done: Math.floor((n + 1) / parts), total: plan.frames.length, bytes })
      }
    )
    for (const { made } of assemblers) await made.finish()
    if (target.kind === 'pictures') {
      const note = rateNote(plan)
      if (note) await target.sink.add(note.name, note.bytes)
    }
    await unchangedSince(stamps, source, host)
    for (const sink of sinksOf(target)) await sink.close()
    return isApart(plan) ? { stamps, prints: null, readBack: null } : { stamps, prints, readBack }
  } catch (error) {
    // frames still in flight for this pour are not wanted any more
    stop.abort()
    // what the assembler holds is let go of as well as it can be; the error that counts is the one at hand
    for (const { made } of assemblers) await made.abort?.().catch(() => undefined)
    for (const sink of sinksOf(target)) {
      await sink.abort().catch((abortError: unknown) => {
        if (!isAbort(abortError))
          throw new AggregateError([error, abortError], `${String(error)}; what was written could not be removed`)
      })
    }
    throw error
  } finally {
    await Promise.all(feeds.map(feed => feed.close()))
  }
}
