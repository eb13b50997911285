/**
 * The page on the elements of a scene, drawn from their kinds: what each is, how it comes and goes, what it is set to.
 */
import { sayValues } from '../../../base/settings/say'
import { EVERY_MOVE } from '../values'
import { NO_OFFERS } from './kind'
import { elementKinds, kindOf, type Look } from './kinds'

/** The size that the look of the page is made for. */
const SIZE = { width: 1920, height: 1080 }

/** A new one of a kind, made from nothing at hand. */
function exampleOf({ begins }: (typeof elementKinds)[number]): Look {
  if (begins.from === 'size') return begins.fresh(SIZE)
  if (begins.from === 'picture') return begins.fresh(SIZE, { ...SIZE, data: '' })
  return begins.fresh(SIZE, { ...SIZE, id: 'a source', name: 'A source' })
}

const row = (cells: readonly string[]): string => `| ${cells.join(' | ')} |`

function pageOf(kind: (typeof elementKinds)[number]): string {
  const look = exampleOf(kind)
  const fields = kindOf(look).entries(look, NO_OFFERS)
  const table = [
    row(['Field of a new one', 'What it may be', 'What it is']),
    row(['---', '---', '---']),
    ...fields.map(({ field, value }) =>
      row([field.label, sayValues(field), String(value).replaceAll('\n', ' / ') || 'empty'])
    )
  ]
  return [
    `## ${kind.name}`,
    '',
    `${kind.help} In files its \`look.kind\` is \`${look.kind}\`.`,
    '',
    `Comes and goes also by: ${kind.moves.join(', ') || 'nothing more'}.`,
    ...(fields.length ? ['', ...table] : [])
  ].join('\n')
}

/** Markdown; `npm run docs` writes it, and a test holds it against this. */
export const elementsPage = (): string =>
  `# Elements of a scene

Every element has a place, a time, values over time, a shadow and a glow; every one can come and go by
${EVERY_MOVE.join(', ')}. A shadow or a glow is the element's own shape in one colour, softened by a bell of variance r (r + 1) square
pixels for softness 2 r (in between for what lies between whole radii), and moved by parts of a pixel as well as whole ones.

What an element looks like is its kind. A new kind is a folder in \`core/draw/scene/elements\` and a line in its \`kinds.ts\`.

${elementKinds.map(pageOf).join('\n\n')}
`
