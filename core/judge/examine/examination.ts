/** Looks at all frames become one examination: mode, histogram, coverage, and what was found. */
import { z } from 'zod'
import { Finding, type SourceFacts } from '../../source/source'
import { AlphaAnswer, judgeMode } from './mode'
import { findingsOf } from './findings'
import type { AlphaLook } from './look'
import type { FrameLook, Tally } from './tally'
import { sumTriples } from './triples'

export const ExaminedShare = z.object({ clear: z.number(), partial: z.number(), solid: z.number() })
export type ExaminedShare = z.infer<typeof ExaminedShare>

export const Examination = z.object({
  alpha: AlphaAnswer,
  /** Pixels by alpha over all frames, 256 bins. */
  histogram: z.array(z.number()).length(256),
  /** Share of clear, partial and solid pixels in each frame. */
  ribbon: z.array(ExaminedShare),
  /** Distinct alpha codes in use, at the source's depth. */
  levels: z.number(),
  least: z.number(),
  most: z.number(),
  findings: z.array(Finding)
})
export type Examination = z.infer<typeof Examination>

function bitsSet(levels: Uint8Array): number {
  let count = 0
  for (let byte of levels) for (; byte; byte &= byte - 1) count++
  return count
}

function tally(seen: readonly FrameLook[], hasChannel: boolean): Tally {
  const looks = seen.map(s => s.look)
  const histogram = new Array<number>(256).fill(0)
  const levels = new Uint8Array(8192)
  const sum = (pick: (look: AlphaLook) => number): number => looks.reduce((total, look) => total + pick(look), 0)
  for (const look of looks) {
    for (let i = 0; i < 256; i++) histogram[i]! += look.histogram[i]!
    for (let i = 0; i < levels.length; i++) levels[i]! |= look.levels[i]!
  }
  return {
    seen,
    hasChannel,
    histogram,
    levels: bitsSet(levels),
    ...sumTriples(looks),
    clear: sum(l => l.clear),
    partial: sum(l => l.partial),
    solid: sum(l => l.solid),
    fine: sum(l => l.fine),
    excess: sum(l => l.excess),
    least: looks.reduce((low, l) => Math.min(low, l.least), 1),
    most: looks.reduce((high, l) => Math.max(high, l.most), 0)
  }
}

function ribbonOf(seen: readonly FrameLook[], frames: number): Examination['ribbon'] {
  const ribbon = Array.from({ length: Math.max(frames, seen.at(-1)?.frame ?? 0) }, () => ({
    clear: 0,
    partial: 0,
    solid: 0
  }))
  for (const { frame, look } of seen) {
    const total = look.clear + look.partial + look.solid
    ribbon[frame - 1] = { clear: look.clear / total, partial: look.partial / total, solid: look.solid / total }
  }
  return ribbon
}

/**
 * Judges a clip from the looks at its frames, given in order. Frames that were not seen stand as empty columns in the
 * ribbon.
 */
export function examine(seen: readonly FrameLook[], facts: SourceFacts): Examination {
  const all = tally(seen, facts.claim.mode !== 'none')
  const lit = facts.bitDepth === 32 && facts.claim.mode === 'premultiplied'
  const alpha = judgeMode({ ...all, lit }, facts.claim)
  return {
    alpha,
    histogram: all.histogram,
    ribbon: ribbonOf(seen, facts.frames),
    levels: all.levels,
    least: all.least,
    most: all.most,
    findings: [...facts.findings, ...findingsOf(all, facts, alpha)]
  }
}
