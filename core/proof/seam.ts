/** The seam of a loop: does the last frame lead into the first as each leads into the next? */
import { framesPerSecond, type Rate } from '../rate'
import { inOrder, type Pool } from '../work/pool'
import type { SourceSpec } from '../source/source'
import { distance, type Signature } from './displacement'

export interface Seam {
  kind: 'repeats' | 'smooth' | 'jumps' | 'still'
  /** Step from the last frame to the first, and the usual step, in codes of 255 averaged over the picture. */
  step: number
  usual: number
  sentence: string
}

/** Steps looked at; they are spread over the clip. */
const MOST_STEPS = 60
/** A step below this is no motion; nor is one below this share of the usual step, which is what a lossy codec leaves of two equal frames. */
const STILL = 0.002
const AS_GOOD_AS_STILL = 0.12
/** Times the larger of the usual steps that still looks like one. */
const SMOOTH = 1.6

function judged(step: number, steps: readonly number[], rate: Rate | null): Omit<Seam, 'step' | 'usual'> {
  const sorted = [...steps].sort((a, b) => a - b)
  const high = sorted[Math.floor(sorted.length * 0.9)] ?? 0
  const usual = sorted[Math.floor(sorted.length / 2)] ?? 0
  const stutter = rate ? ` of ${Math.round(1000 / framesPerSecond(rate))} ms` : ''
  if (high < STILL) return { kind: 'still', sentence: 'Nothing moves, so there is no seam to see.' }
  if (step < STILL && usual < STILL) return { kind: 'smooth', sentence: 'The loop closes: nothing moves at its seam.' }
  if (step < Math.max(STILL, usual * AS_GOOD_AS_STILL)) return { kind: 'repeats', sentence: `The last frame repeats the first: played in a loop, it stutters for one frame${stutter}. Leave the last frame out.` }
  if (step <= high * SMOOTH) return { kind: 'smooth', sentence: `The loop closes: its seam moves ${Math.round((step / Math.max(usual, STILL)) * 10) / 10} times as far as a usual frame does.` }
  return { kind: 'jumps', sentence: `Played in a loop, it jumps: its seam moves ${Math.round(step / Math.max(usual, STILL))} times as far as a usual frame does. A clip that is played once need not mind.` }
}

/** Measures the seam of what is delivered. Null for clips too short to have one. */
export async function measureSeam(delivered: SourceSpec, frames: number, rate: Rate | null, pool: Pool, signal?: AbortSignal): Promise<Seam | null> {
  if (frames < 3) return null
  const count = Math.min(MOST_STEPS, frames - 1)
  const pairs = [[frames - 1, 0], ...Array.from({ length: count }, (_, n) => Math.floor((n * (frames - 1)) / count)).map(i => [i, i + 1])] as [number, number][]
  const wanted = [...new Set(pairs.flat())].sort((a, b) => a - b)
  const signatures = new Map<number, Signature>()
  await inOrder(wanted.length, pool.size * 2, n => pool.run('foundSignature', [delivered, wanted[n]!], signal ? { signal } : {}), (signature, n) => void signatures.set(wanted[n]!, signature))
  const [step = 0, ...steps] = pairs.map(([a, b]) => distance(signatures.get(a)!, signatures.get(b)!))
  const sorted = [...steps].sort((a, b) => a - b)
  return { step, usual: sorted[Math.floor(sorted.length / 2)] ?? 0, ...judged(step, steps, rate) }
}
