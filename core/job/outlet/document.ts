/** The page on files that a program may write: outlets and preparations, key by key, with an example of each. */
import { formatById } from '../../open/registry'
import { stepKindById, stepKinds } from '../../prepare/kinds'
import { newStep, type Preparation } from '../../prepare/preparation'
import type { StepKind } from '../../prepare/step'
import { sayValues } from '../../base/settings/say'
import { newOutlet, type Outlet } from './outlet'
import { settingsInOrder } from './settings'
import { writeOutlet } from './text'

/** The outlet of the example: a film for a timeline, at most 1920 pixels wide. */
export function exampleOutlet(): Outlet {
  return {
    ...newOutlet('example', formatById('quicktime-prores-4444'), 'Editor hand-over'),
    namePattern: 'FERN_{source}',
    steps: [newStep('size', stepKindById('fit'), { width: 1920, height: 1080 })]
  }
}

/** The preparation of the example: a plate keyed, its rim cleaned, its sound left out. */
export function examplePreparation(): Preparation {
  return {
    pour: 'preparation',
    version: 1,
    name: 'Seedling before the screen',
    steps: [
      newStep('key', stepKindById('chroma-key'), { screen: '#2f9e4c' }),
      newStep('haze', stepKindById('alpha-haze'), {}),
      { ...newStep('silence', stepKindById('sound'), { goes: 'out' }), on: false }
    ]
  }
}

const plain = (value: unknown): string =>
  value === '' ? 'empty' : `\`${typeof value === 'string' ? value : JSON.stringify(value)}\``

/** What a step computes on. */
function worksOn({ order, move, light, plane, bounded }: StepKind): string {
  if (order) return 'time'
  if (move) return 'stored samples'
  if (light) return 'premultiplied'
  if (plane) return 'alpha'
  return bounded === 'hue' ? 'coded colour, by hue' : 'coded colour'
}

function stepRows(): string {
  return stepKinds
    .map(kind => {
      const { id, name, help, fields } = kind
      const settings = Object.entries(fields).map(
        ([key, field]) => `\`${key}\` (${sayValues(field)}; ${plain(field.default)})`
      )
      return `| \`${id}\` | ${name}. ${help} | ${worksOn(kind)} | ${settings.join('<br>') || 'none'} |`
    })
    .join('\n')
}

const OUTLET_KEYS: readonly (readonly [string, string])[] = [
  ...settingsInOrder.map(([key, { says }]) => [key, says] as const),
  ['options', "The format's own settings; each format's page lists them."]
]

/** Markdown; `npm run docs` writes it, and a test holds it against this. */
export function filesPage(): string {
  return `# Files that a program may write

Both are JSON, and both are checked whole before anything is done: what is wrong is said by key. "Copy as text" and "Save as file" in the page
write them, \`pour convert\` reads them. What is left out of a step's settings takes its default.

## Outlet

\`pour convert SOURCE --outlet outlet.json\`, and "Library…", "Open an outlet file…" in the page.

\`\`\`json outlet
${writeOutlet(exampleOutlet()).trim()}
\`\`\`

| Key | Meaning |
| --- | --- |
${OUTLET_KEYS.map(([key, says]) => `| \`${key}\` | ${says} |`).join('\n')}

## Preparation

\`pour convert SOURCE --prepare preparation.json\`, and "⋯", "Add steps from file…" on the bench. A step has an \`id\` of its own, its
\`kind\`, whether it is \`on\`, and its \`settings\`.

\`\`\`json preparation
${JSON.stringify(examplePreparation(), null, 2)}
\`\`\`

*Works on* says what a step computes on. Codes of 8 and 16 bits are computed on as they are coded, premultiplied where pixels are mixed. Floats, linear light, and
premultiplied pictures with light beyond their alpha stay what they are, without bounds: *premultiplied* is then light, *coded colour* goes to sRGB's curve and back, and what
lies beyond 0 to 1 comes back after; light where there is no alpha goes along. A step whose settings ask for nothing changes no bit.

| Kind | What it does | Works on | Settings (what they may be; the default) |
| --- | --- | --- | --- |
${stepRows()}
`
}
