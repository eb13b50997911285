/** The format table in words: what the README and the pages in docs/formats are drawn from. */
import { holdsAlpha, type Carrying } from './traits/carrying'
import type { Delivers, Described } from './traits/described'
import { FAMILIES, familyOf } from './families'
import type { Format } from './format'
import type { HostNeed } from './traits/writing'

/** Where a format runs. */
const NEEDS: Record<HostNeed | 'nothing', string> = {
  nothing: 'Runs in the browser and on the command line.',
  webp: 'Runs in the browser and on the command line.',
  video: 'Runs in the browser, by its own coders, and on the command line.',
  films: "Runs in the browser, by the browser's decoders.",
  jxl: 'Runs in the browser and on the command line.',
  j2k: 'Runs in the browser and on the command line.',
  pictures: 'Runs in the browser and on the command line.',
  vectors: 'Runs in the browser and on the command line.',
  models: 'Runs in the browser only.'
}

const DELIVERED: Record<Delivers, string> = {
  film: 'one file',
  pictures: 'one picture a frame',
  folder: 'a folder of files that belong together'
}

const yes = (can: boolean): string => (can ? 'yes' : 'no')

/** How its files say what colours mean. */
const sayLabels = ({ labels, transfer }: Carrying): string =>
  transfer === 'linear'
    ? 'It holds light, and says its primaries.'
    : labels === 'numbers'
      ? 'It says what colours mean by the numbers of H.273.'
      : labels === 'profile'
        ? 'It says what colours mean by a profile, where that is made of primaries and a curve: not PQ or HLG.'
        : 'It cannot say what colours mean; they are shown as sRGB.'

function alphaModes(format: Carrying): string {
  return (['straight', 'premultiplied', 'none'] as const)
    .filter(mode => format.alpha[mode].can)
    .map(mode => (mode === 'none' ? 'no alpha' : mode))
    .join(', ')
}

function depths(format: Carrying): string {
  const alpha = holdsAlpha(format)
  return format.depths.map(d => (alpha ? `${d.colourBits}+${d.alphaBits}` : String(d.colourBits))).join(', ')
}

/** The depths a file can have, in bits of colour and of alpha: "8 or 16 bit", "12+16 bit", "10 bit, no alpha". */
export function sayDepths(format: Pick<Carrying, 'depths' | 'alpha'>): string {
  const said = format.depths.map(d =>
    d.colourBits === d.alphaBits ? `${d.colourBits}` : `${d.colourBits}+${d.alphaBits}`
  )
  return `${[said.slice(0, -1).join(', '), said.at(-1)].filter(Boolean).join(' or ')} bit${holdsAlpha(format) ? '' : ', no alpha'}`
}

/** Whether a decoder or writer that shares no code with Pour has seen its files. */
export function sayStranger({ stranger }: Described): string {
  if (!stranger) return 'no'
  return stranger.seen ? `yes, ${stranger.by}` : `no: ${stranger.because}`
}

/** Formats as Markdown tables by family, those that are read alone last. */
export function formatsTable(formats: readonly Format[]): string {
  const written = FAMILIES.map(family => ({
    heading: family.name,
    found: formats.filter(format => !format.readOnly && familyOf(format) === family)
  }))
  return [...written, { heading: 'Read, not written', found: formats.filter(({ readOnly }) => readOnly) }]
    .filter(({ found }) => found.length > 0)
    .map(({ heading, found }) => `### ${heading}\n\n${tableOf(found)}`)
    .join('\n\n')
}

/** One row a format, as a Markdown table. */
function tableOf(formats: readonly Format[]): string {
  const rows = formats.map(
    f =>
      `| [${f.name}](docs/formats/${f.id}.md) | \`${f.id}\` | ${depths(f)} | ${alphaModes(f)} | ` +
      `${f.readOnly ? 'read as it comes' : f.lossless ? 'exact' : f.exact ? 'exact or lossy' : 'lossy'} | ` +
      `${f.proofReader.name}${f.proofReader.independent ? '' : ' (own code)'} | ${sayStranger(f)} |`
  )
  return [
    '| Format | Id | Depth | Alpha | Coding | Read back in a proof by | Seen by a stranger |',
    '| --- | --- | --- | --- | --- | --- | --- |',
    ...rows
  ].join('\n')
}

/** What of the codes its coding keeps, in words. */
export function sayCoding({ lossless, exact, exactAlpha, alpha, cut }: Carrying): string {
  if (lossless) return 'every code is kept'
  // of alpha that is not there, or only on or off, there is nothing to say
  if (cut || !holdsAlpha({ alpha })) return 'colour is coded with loss'
  if (exact) return 'every code is kept, or some are lost, as it is set'
  return exactAlpha ? 'alpha is exact, colour is coded with loss' : 'colour and alpha are coded with loss'
}

/** A page on one format, drawn from its entry. */
export function formatPage(f: Format): string {
  const modes = (['straight', 'premultiplied', 'none'] as const).map(mode => {
    const capability = f.alpha[mode]
    return (
      `| ${mode === 'none' ? 'no alpha' : mode} | ${yes(capability.can)} | ` +
      `${capability.can ? capability.declares : capability.because} |`
    )
  })
  const options = Object.entries(f.options).map(
    ([key, o]) =>
      `| \`${key}\` | ${o.help} | ` +
      `${o.type === 'choice' ? o.choices.map(c => `\`${c.value}\``).join(', ') : o.type === 'number' ? `${o.min} to ${o.max}` : o.type === 'text' ? `\`${o.example}\`` : 'on, off'} ` +
      `| ${o.default === '' ? 'empty' : `\`${String(o.default)}\``} |`
  )
  return [
    `# ${f.name}`,
    '',
    (
      `Id \`${f.id}\`, extension \`.${f.extension}\`, ` +
      `${DELIVERED[f.delivers]}. Carries ${holdsAlpha(f) ? f.carries : 'colour alone'}; ` +
      `${f.readOnly ? 'read, not written' : sayCoding(f)}. ${f.readOnly ? '' : sayLabels(f)}`
    ).trimEnd(),
    '',
    `Depths (colour + alpha bits): ${depths(f)}. ${NEEDS[f.needs ?? 'nothing']} Largest frame ` +
      `${f.limits.width}x${f.limits.height}. Rate: ${f.limits.rate}.`,
    '',
    '| Alpha | Offered | How it is declared, or why not |',
    '| --- | --- | --- |',
    ...modes,
    '',
    ...(options.length
      ? ['| Setting | Meaning | Values | Default |', '| --- | --- | --- | --- |', ...options, '']
      : []),
    'In a proof it is read back by ' +
      `${f.proofReader.name}${f.proofReader.independent ? ', which shares no code with the writer' : ", which is Pour's own code"}. ` +
      `Seen by a stranger: ${sayStranger(f)}.`,
    ''
  ].join('\n')
}
