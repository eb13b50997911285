/** Looking at every frame of a source in the pool. A frame that cannot be read is a finding, not the end. */
import { isAbort, sentenceOf } from '../../base/errors'
import { sayNumbers } from '../../base/natural'
import { waysOn, type SourceFacts, type SourceSpec } from '../../source/source'
import { inOrder } from '../../base/pool'
import type { Workshop } from '../../frame/workshop'
import type { ExamineTasks } from './tasks'
import { examine, type Examination } from './examination'
import type { FrameLook } from './tally'

export interface Examining extends Pick<Workshop<ExamineTasks>, 'pool' | 'signal'> {
  /** Told the frames looked at. */
  onProgress?: (done: number) => void
  /** Frames in work at once; two for each worker where it is not said. */
  ahead?: number
  /** Asked for each frame: whether somebody waits for what is found. */
  urgent?: () => boolean
}

/**
 * Examines the whole clip at low priority, unless it is urgent. Rejects when not one frame can be read, with the first
 * frame's reason, and on abort.
 */
export async function examineSource(
  spec: SourceSpec,
  facts: SourceFacts,
  { pool, signal, onProgress, ahead = pool.size * 2, urgent }: Examining
): Promise<Examination> {
  const seen: FrameLook[] = []
  const unread: number[] = []
  let first: unknown = null
  await inOrder(
    facts.frames,
    ahead,
    i =>
      pool
        .run('look', [spec, i], { priority: urgent?.() ? 'normal' : 'later', signal })
        .catch((error: unknown) => ({ error })),
    (look, i) => {
      if ('error' in look) {
        if (isAbort(look.error)) throw look.error
        first ??= look.error
        unread.push(i + 1)
      } else seen.push({ frame: i + 1, look })
      onProgress?.(i + 1)
    }
  )
  if (seen.length === 0) throw first
  const examination = examine(seen, facts)
  if (unread.length === 0) return examination
  const sentence =
    `${unread.length === 1 ? 'Frame' : 'Frames'} ${sayNumbers(unread)} of ${facts.frames} ` +
    `cannot be read: ${sentenceOf(first)}`
  // of a sequence the picture before can stand there, or none; within a film nobody knows what it would do
  const mends = spec.kind === 'files' && spec.numbers ? waysOn(unread.length) : {}
  return {
    ...examination,
    findings: [
      { id: 'unreadable-frames', severity: 'fault', frames: unread, sentence, ...mends },
      ...examination.findings
    ]
  }
}
