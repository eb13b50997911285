/** How often answers are right, by how sure they say they are, over the clips of the corpus. */
import type { Host } from '../../core/frame/host'
import { specimen } from './corpus'
import { outcomeOf } from './matrix'

/** What became of one clip. */
export interface Judged {
  n: number
  name: string
  /** Whether another reading would show another picture. */
  decidable: boolean
  /** How sure the answer is, from 0 to 1; 0 where there is none. */
  confidence: number
  /** Whether the answer shows the picture that was meant. */
  right: boolean
}

/** The answer to clip `n` of the corpus, labelled with nothing; null where there is nothing to see in it. */
export async function judged(n: number, host: Host): Promise<Judged | null> {
  const found = await specimen(n, host)
  if (!found) return null
  const { answer, right, decidable } = outcomeOf(found.frames, found.truth, host)
  const answered = answer.mode === 'straight' || answer.mode === 'premultiplied'
  return { n, name: found.name, decidable, confidence: answered ? answer.confidence : 0, right }
}

/** Clips that the worth of answers was set by; those after them were looked at only to see whether it holds. */
export const SET_BY = 3400

const BINS = [0.5, 0.6, 0.75, 0.9, 0.95, 0.98, 1]

export interface Tally {
  clips: number
  decidable: number
  untold: number
  /** Answers and wrong ones beyond 0.9, and beyond 0.6. */
  sure: [number, number]
  likely: [number, number]
}

export function tallyOf(all: readonly Judged[]): Tally {
  const beyond = (level: number): [number, number] => {
    const those = all.filter(({ confidence }) => confidence > level)
    return [those.length, those.filter(({ right }) => !right).length]
  }
  return {
    clips: all.length,
    decidable: all.filter(({ decidable }) => decidable).length,
    untold: all.filter(({ decidable, confidence }) => decidable && confidence === 0).length,
    sure: beyond(0.9),
    likely: beyond(0.6)
  }
}

const many = (value: number): string => value.toLocaleString('en')
const share = (part: number, whole: number): string => `${((100 * part) / Math.max(1, whole)).toFixed(2)} %`

function row(all: readonly Judged[], [above, upTo]: [number, number]): string | null {
  const those = all.filter(({ confidence }) => confidence > above && confidence <= upTo)
  if (!those.length) return null
  const said = those.reduce((sum, { confidence }) => sum + confidence, 0) / those.length
  const right = those.filter(each => each.right).length / those.length
  const bar = '█'.repeat(Math.round(right * 40)).padEnd(40, '·')
  return `| ${above} to ${upTo} | ${many(those.length)} | ${said.toFixed(3)} | ${right.toFixed(3)} | \`${bar}\` |`
}

function part(title: string, all: readonly Judged[]): string {
  const { clips, decidable, untold, sure, likely } = tallyOf(all)
  const rows = BINS.slice(1).flatMap((upTo, i) => row(all, [BINS[i]!, upTo]) ?? [])
  return `### ${title}

- ${many(clips)} clips, ${many(decidable)} of which another reading would show as another picture.
- Beyond 0.9: **${many(sure[0])}** answers, **${sure[1]}** wrong (${share(sure[1], sure[0])}).
- Beyond 0.6: **${many(likely[0])}** answers, **${likely[1]}** wrong (${share(likely[1], likely[0])}).
- "Cannot tell", though the readings would show different pictures: **${untold}** (${share(untold, decidable)}).

| said | answers | mean said | right | |
| --- | ---: | ---: | ---: | --- |
${rows.join('\n')}
`
}

/** The part of the page that shows what was said against what was right. */
export function reliabilityPage(all: readonly Judged[]): string {
  const set = all.filter(({ n }) => n < SET_BY)
  const others = all.filter(({ n }) => n >= SET_BY)
  return `
## Said against right

The clips of \`tests/material/corpus.ts\`: kinds of the trade's material with colours, sizes, places and opacities drawn at random,
stored in every way, cropped, coded and with noise, labelled with nothing. An answer is right where it shows the picture that
was meant.

${part('Clips that the worth of an answer was set by', set)}${others.length ? `\n${part('Other clips', others)}` : ''}`
}
