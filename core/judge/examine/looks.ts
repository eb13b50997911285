/** Looks at a source's frames, from whoever has them decoded: each frame is looked at once. */
import { isAbort, sentenceOf } from '../../base/errors'
import { sayNumbers } from '../../base/natural'
import { inOrder } from '../../base/pool'
import type { Workshop } from '../../frame/workshop'
import { waysOn, type SourceFacts, type SourceSpec } from '../../source/source'
import { examine, type Examination } from './examination'
import type { AlphaLook } from './look'
import { saysEnough } from './mode'
import type { FrameLook } from './tally'
import type { ExamineTasks } from './tasks'

export interface Examining extends Pick<Workshop<ExamineTasks>, 'pool' | 'signal'> {
  /** Told the frames looked at. */
  onProgress?: (done: number) => void
  /** Frames in work at once; two for each worker where it is not said. */
  ahead?: number
  /** Asked for each frame: whether somebody waits for what is found. */
  urgent?: () => boolean
}

/** Frames of a spread: enough to see how alpha is stored, and few beside what a pour decodes. */
const SPREAD = 12

/** A frame looked at, or the reason why it could not be read. */
type Seen = AlphaLook | { error: unknown }

const isRead = (seen: Seen): seen is AlphaLook => !('error' in seen)

export class Looks {
  private readonly seen = new Map<number, Seen>()
  private held: { promise: Promise<void>; letGo: () => void } | null = null

  /** `spec` leaves the stored samples uninterpreted. */
  constructor(
    readonly spec: SourceSpec,
    readonly facts: SourceFacts,
    private readonly how: Examining
  ) {}

  /** Whether a frame of this index, counted from 0, is there and was not looked at yet. */
  wants(index: number): boolean {
    return index < this.facts.frames && !this.seen.has(index)
  }

  /** Takes a look from somebody who had the frame at hand. */
  take(index: number, look: AlphaLook): void {
    if (!this.wants(index)) return
    this.seen.set(index, look)
    this.how.onProgress?.(this.seen.size)
  }

  /** Asks for no further frame until what it gives is called: somebody decodes them all, and looks. */
  hold(): () => void {
    let letGo = (): void => undefined
    const promise = new Promise<void>(resolve => (letGo = resolve))
    const held = { promise, letGo }
    this.held = held
    return () => {
      if (this.held === held) this.held = null
      letGo()
    }
  }

  private async look(index: number): Promise<Seen> {
    while (this.held) await this.held.promise
    const had = this.seen.get(index)
    if (had) return had
    const { pool, signal, urgent } = this.how
    const found: Seen = await pool
      .run('look', [this.spec, index], { priority: urgent?.() ? 'normal' : 'later', signal })
      .catch((error: unknown) => ({ error }))
    if (!isRead(found) && isAbort(found.error)) throw found.error
    // the pour that passed meanwhile found the same
    if (!this.seen.has(index)) this.seen.set(index, found)
    this.how.onProgress?.(this.seen.size)
    return found
  }

  private get ahead(): number {
    return this.how.ahead ?? this.how.pool.size * 2
  }

  private judged(): Examination {
    const looks = [...this.seen].flatMap(([index, seen]): FrameLook[] =>
      isRead(seen) ? [{ frame: index + 1, look: seen }] : []
    )
    return examine(
      looks.sort((a, b) => a.frame - b.frame),
      this.facts
    )
  }

  /**
   * What a few frames say that are spread over the clip, good enough to begin on and held against the whole later; null
   * where that is not enough (the file says nothing of its alpha, and they are not sure of it), where none of them can
   * be read, and where frames build on each other, so that a few cost as much as all. Rejects on abort.
   */
  async spread(): Promise<Examination | null> {
    const { frames, intra } = this.facts
    if (!intra) return null
    const count = Math.min(SPREAD, frames)
    const places = Array.from({ length: count }, (_, n) => Math.floor(((n + 0.5) * frames) / count))
    await inOrder(
      count,
      this.ahead,
      n => this.look(places[n]!),
      () => undefined
    )
    if (!places.some(index => isRead(this.seen.get(index)!))) return null
    const found = this.judged()
    return saysEnough(found.alpha, this.facts.claim) ? found : null
  }

  /**
   * What all frames say: looks at those that nobody has looked at, at low priority, unless it is urgent. A frame that
   * cannot be read is a finding, not the end. Rejects when not one can be read, with the first frame's reason, and on
   * abort.
   */
  async whole(): Promise<Examination> {
    const { frames } = this.facts
    const unread: number[] = []
    let first: unknown = null
    await inOrder(
      frames,
      this.ahead,
      i => this.look(i),
      (seen, i) => {
        if (isRead(seen)) return
        first ??= seen.error
        unread.push(i + 1)
      }
    )
    if (unread.length === frames) throw first
    const examination = this.judged()
    if (unread.length === 0) return examination
    const sentence =
      `${unread.length === 1 ? 'Frame' : 'Frames'} ${sayNumbers(unread)} of ${frames} ` +
      `cannot be read: ${sentenceOf(first)}`
    // of a sequence the picture before can stand there, or none; within a film nobody knows what it would do
    const mends = this.spec.kind === 'files' && this.spec.numbers ? waysOn(unread.length) : {}
    return {
      ...examination,
      findings: [
        { id: 'unreadable-frames', severity: 'fault', frames: unread, sentence, ...mends },
        ...examination.findings
      ]
    }
  }
}
