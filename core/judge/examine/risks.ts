/** What an outlet's choices cost the sources at hand, in figures; none of it stands against a pour. */
import type { Carrying } from '../../media/formats/traits/carrying'
import type { Examination } from './examination'
import { sayTags, type ColourTags } from '../../frame/colour-tags'
import type { Format } from '../../media/formats/format'
import { saysColour } from '../../media/formats/labels'
import { formatById } from '../../open/registry'
import { sayShare } from '../../base/say-share'
import { optionValues } from '../../base/settings/field'
import { alphaBitsOf, type Outlet } from '../../job/outlet/outlet'

/** A source as far as it has been looked at. */
export interface Looked {
  name: string
  examination: Pick<Examination, 'levels' | 'alpha'>
}

interface Choice {
  outlet: Outlet
  format: Format
}

interface Rule {
  id: string
  /** Whether the outlet chose so. */
  chosen(choice: Choice): boolean
  /** How much of it a source has, 0 for none: the larger, the worse. */
  figure(source: Looked, choice: Choice): number
  /** The sentence, from the source that has most of it. */
  say(worst: { name: string; figure: number; examination: Looked['examination'] }, choice: Choice): string
}

/** A share of partial pixels that rounding and coding may well come to. */
const RARE = 0.02

const numbers = new Intl.NumberFormat('en')
const kept = ({ format, outlet }: Choice): number => 2 ** alphaBitsOf(format, outlet)
const hasAlpha = ({ outlet }: Choice): boolean => outlet.parts !== 'colour-only' && outlet.alpha.mode !== 'none'
const shareOf = ({ alpha: { evidence } }: Looked['examination'], pixels: number): number =>
  pixels / Math.max(1, evidence.clearPixels + evidence.partialPixels + evidence.solidPixels)

/** Whether a codec fills edges itself, or is set so that it loses nothing but rounding. */
const isGentle = (format: Carrying, options: Readonly<Record<string, unknown>>): boolean =>
  Object.entries(format.options).some(
    ([key, field]) =>
      (field.type === 'switch' && field.fillsEdges && options[key] === true) ||
      (field.type === 'number' && field.lightens && options[key] === field.max)
  )

/** In the order they are said. */
const RULES: readonly Rule[] = [
  {
    id: 'hard-edges',
    chosen: choice => hasAlpha(choice) && kept(choice) === 2,
    figure: ({ examination }) => (examination.levels > 2 ? examination.levels : 0),
    say: ({ name, figure, examination }) =>
      `Alpha is only on or off here: ${numbers.format(figure)} levels of ${name} become 2, and ` +
      `${sayShare(shareOf(examination, examination.alpha.evidence.partialPixels))} of its pixels turn hard.`
  },
  {
    id: 'fewer-levels',
    chosen: choice => hasAlpha(choice) && kept(choice) > 2,
    figure: ({ examination }, choice) => (examination.levels > kept(choice) ? examination.levels : 0),
    say: ({ name, figure }, choice) =>
      `${numbers.format(figure)} levels of alpha of ${name} become ${numbers.format(kept(choice))} at most; ` +
      'slow fades and wide shadows may show steps.'
  },
  {
    id: 'colour-under-edges',
    chosen: ({ outlet, format }) =>
      !format.lossless &&
      outlet.parts === 'colour-alpha' &&
      outlet.alpha.mode === 'straight' &&
      !isGentle(format, optionValues(format.options, outlet.options)) &&
      !outlet.steps.some(step => step.on && step.kind === 'edge-fill'),
    figure({ examination: { alpha } }) {
      const { clearColour, partialPixels, clearPixels } = alpha.evidence
      return alpha.mode === 'straight' && clearColour && clearPixels ? partialPixels : 0
    },
    say: ({ name, figure, examination }, { format }) =>
      `This codec is lossy and may smear the ${examination.alpha.evidence.clearColour} of clear pixels into ` +
      `soft edges: ${sayShare(shareOf(examination, figure))} of the pixels of ${name}. Add the step Edge ` +
      `fill${format.alpha.premultiplied.can ? ', or choose premultiplied' : ''}.`
  },
  {
    id: 'light-cut',
    chosen: ({ outlet }) =>
      outlet.parts === 'colour-alpha' &&
      outlet.alpha.mode === 'straight' &&
      !outlet.steps.some(step => step.on && step.kind === 'glow-to-alpha'),
    figure({ examination: { alpha } }) {
      const { impossiblePixels, partialPixels } = alpha.evidence
      const lit = alpha.mode === 'premultiplied' && alpha.matte === '#000000'
      return lit && impossiblePixels > RARE * partialPixels ? impossiblePixels : 0
    },
    say: ({ name, figure, examination }, { format }) =>
      'Straight alpha cannot say light beside alpha: it is cut off in ' +
      `${sayShare(shareOf(examination, figure))} of the pixels of ${name}. Add the step Glow to ` +
      `alpha${format.alpha.premultiplied.can ? ', or choose premultiplied' : ''}.`
  },
  {
    id: 'no-colour',
    chosen: ({ outlet }) => outlet.parts === 'alpha-only',
    figure: ({ examination: { alpha } }) => alpha.evidence.partialPixels + alpha.evidence.solidPixels,
    say: ({ name }) => `Only alpha goes out: the colour of ${name} and of every other source stays behind.`
  },
  {
    id: 'no-alpha',
    chosen: ({ outlet }) => outlet.parts === 'colour-only' || outlet.alpha.mode === 'none',
    figure: ({ examination: { alpha } }) => alpha.evidence.clearPixels + alpha.evidence.partialPixels,
    say: ({ name, figure, examination }) =>
      `Transparency is given up: ${sayShare(shareOf(examination, figure))} of the pixels of ${name} become solid.`
  }
]

/** What colour a source's codes are, as prepared. */
export interface Labelled {
  name: string
  tags: ColourTags | null | undefined
  /** Whether it was decided already that they are kept whatever a format can say. */
  codesKept: boolean
}

/** What is lost where an outlet's format cannot say what the codes of some sources mean, and nobody decided on it. */
export function labelRisk(outlet: Outlet, sources: readonly Labelled[]): Risk[] {
  const format = formatById(outlet.format)
  if (outlet.parts === 'alpha-only') return []
  const lost = sources.filter(({ tags, codesKept }) => !codesKept && !saysColour(format, tags))
  const [first] = lost
  if (!first) return []
  const others = lost.length > 1 ? ` and ${lost.length - 1} more` : ''
  return [
    {
      id: 'colour-label',
      sentence:
        `${format.name} cannot say that ${first.name}${others} is ${sayTags(first.tags!)}: its codes ` +
        'would be shown as other colours. Decide on the bench: bring it to sRGB, or keep the codes.'
    }
  ]
}

export interface Risk {
  id: string
  sentence: string
}

/**
 * What of an outlet's choices the sources would lose by, the worst source of each; sources that lose nothing are passed
 * over.
 */
export function risksOf(outlet: Outlet, sources: readonly Looked[]): Risk[] {
  const choice = { outlet, format: formatById(outlet.format) }
  return RULES.flatMap(rule => {
    if (!rule.chosen(choice)) return []
    const hit = sources
      .map(source => ({ ...source, figure: rule.figure(source, choice) }))
      .filter(({ figure }) => figure > 0)
    const worst = hit.reduce<(typeof hit)[number] | null>(
      (most, each) => (!most || each.figure > most.figure ? each : most),
      null
    )
    return worst ? [{ id: rule.id, sentence: rule.say(worst, choice) }] : []
  })
}
