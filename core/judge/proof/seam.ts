/** The seam of a delivered loop, in words. */
import { sayTimes, seamOf, seamPairs, type SeamStep } from '../../frame/seam'
import { framesPerSecond, type Rate } from '../../base/rate'
import { inOrder } from '../../base/pool'
import type { Workshop } from '../../frame/workshop'
import type { ProofTasks } from './tasks'
import type { FilesSpec } from '../../source/source'
import { distance, MOVES, type Signature } from './displacement'

export interface Seam extends SeamStep {
  sentence: string
}

/** Steps looked at; they are spread over the clip. */
const MOST_STEPS = 60

/** How long one frame is shown, to go on after "one frame". */
export const sayStutter = (rate: Rate | null): string =>
  rate ? ` of ${Math.round(1000 / framesPerSecond(rate))} ms` : ''

/** The seam in a sentence that follows from its figures alone. */
export function saySeam({ kind, step, usual, times, timesBeside }: SeamStep, rate: Rate | null): string {
  if (kind === 'still') return 'Nothing moves, so there is no seam to see.'
  if (kind === 'repeats')
    return (
      `The last frame repeats the first: played in a loop, it stutters for one frame${sayStutter(rate)}. ` +
      'Leave the last frame out.'
    )
  // a step cannot be so many times one that is none
  if (kind === 'jumps' && usual < MOVES)
    return (
      'Played in a loop, it jumps over its seam, where a usual frame does not move. A clip that is ' +
      'played once need not mind.'
    )
  if (kind === 'jumps')
    return (
      `Played in a loop, it jumps: its seam moves ${sayTimes(times)} times as far as a usual frame does. ` +
      'A clip that is played once need not mind.'
    )
  if (step < MOVES) return 'The loop closes: nothing moves at its seam.'
  return times <= timesBeside
    ? `The loop closes: its seam moves ${sayTimes(times)} times as far as a usual frame does.`
    : `The loop closes: its seam moves ${sayTimes(timesBeside)} times as far as the frames beside it do.`
}

/** Measures the seam of what is delivered. Null for clips too short to have one. */
export async function measureSeam(
  delivered: FilesSpec,
  frames: number,
  rate: Rate | null,
  { pool, signal }: Pick<Workshop<ProofTasks>, 'pool' | 'signal'>
): Promise<Seam | null> {
  if (frames < 3) return null
  const pairs = seamPairs(frames, MOST_STEPS)
  const wanted = [...new Set(pairs.flat())].sort((a, b) => a - b)
  const signatures = new Map<number, Signature>()
  await inOrder(
    wanted.length,
    pool.size * 2,
    n => pool.run('foundSignature', [delivered, wanted[n]!], { signal }),
    (signature, n) => void signatures.set(wanted[n]!, signature)
  )
  const [step = 0, ...steps] = pairs.map(([a, b]) => distance(signatures.get(a)!, signatures.get(b)!))
  const seam = seamOf(step, steps, MOVES)
  return { ...seam, sentence: saySeam(seam, rate) }
}
