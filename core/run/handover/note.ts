/**
 * The note for the receiver, and the proof in words a client can read. Both are lists of blocks, written as text, page
 * or PDF.
 */
import { STAGE_NAMES, type LedgerLine } from '../../judge/ledger/ledger'
import { colourName } from '../../base/colour'
import { formatById } from '../../open/registry'
import type { AlphaMode } from '../../frame/frame'
import type { ProofReport } from '../../judge/proof/report'
import { formatRate, rateFraction, secondsOf } from '../../base/rate'
import type { Judgement, Station } from '../../judge/stations/station'
import { heading, paragraph, type Block, type DocumentPicture } from './document'
import type { Delivery, Manifest } from './manifest'
import { fallbackOrder, markupAdvice, pageMarkup } from './markup'

/** What the stations made of one delivery. */
export interface StationWord extends Judgement {
  station: Station
}

/** All that is told of one delivery. */
export interface Told {
  delivery: Delivery
  report: ProofReport
  stations: readonly StationWord[]
  /** How it looks when it is right, and when it is taken wrongly. */
  pictures: readonly DocumentPicture[]
}

export const TERMS: readonly (readonly [string, string])[] = [
  [
    'alpha',
    'A fourth value beside red, green and blue that says how solid each pixel is: clear, solid, or in between.'
  ],
  ['straight', 'The colour is stored as it is, and alpha beside it. The program multiplies when it shows the picture.'],
  [
    'premultiplied',
    'The colour has been laid on a background colour, the matte colour, already: on black, half-clear white ' +
      'is stored as grey. The program must not multiply again.'
  ],
  ['depth', 'How finely each value is stored: 8 bit has 256 steps, 16 bit has 65,536.'],
  ['ΔE', 'A measure of how different two colours look (CIEDE2000). Under 1, nobody sees it.'],
  ['code', 'One step of a stored value; at 8 bit, 255 codes lie between clear and solid.']
]

const sayMode = (alpha: AlphaMode): string =>
  alpha.mode === 'none'
    ? 'no alpha'
    : alpha.mode === 'straight'
      ? 'straight alpha'
      : `premultiplied on ${colourName(alpha.matte)}${alpha.matte === '#000000' || alpha.matte === '#ffffff' ? '' : ` (${alpha.matte})`}`

const sayDepth = (depth: number): string => (depth === 32 ? 'float' : `${depth} bit`)

function facts({ delivery: d }: Told): Block {
  const rows: (readonly string[])[] = [
    ['What it is', d.kind],
    ['Files', d.files.length === 1 ? d.files[0]!.path : `${d.files.length} files, from ${d.files[0]!.path}`],
    ['Frame size', `${d.width}×${d.height} pixels, square`],
    [
      'Length',
      `${d.frames} ${d.frames === 1 ? 'frame' : 'frames'}${d.rate ? `, ${Math.round(secondsOf(d.frames, d.rate) * 100) / 100} s` : ''}`
    ],
    [
      'Rate',
      d.rate
        ? `${formatRate(d.rate)} frames a second${d.rate[1] === 1 ? '' : ` (exactly ${rateFraction(d.rate)})`}`
        : 'not set'
    ],
    ['Alpha', `${sayMode(d.alpha)}; the file says: ${d.says}`],
    ['Depth', sayDepth(d.depth)],
    ['Colour', `${d.colour ?? 'no tags; take it as sRGB'}${d.levels ? `; ${d.levels}` : ''}`],
    ...(d.plays === null ? [] : [['Plays', d.plays === 0 ? 'for ever' : d.plays === 1 ? 'once' : `${d.plays} times`]])
  ]
  return { kind: 'table', head: null, rows }
}

/** How a film of halves is to be taken: programs that do not know it show both. */
function sayHalves({ stacked, alpha, files }: Delivery): string {
  const { alpha: half, width, height } = stacked!
  const beside = half === 'right' || half === 'left'
  const film = files[0]!.path.replace(/\.[^.]*$/, '')
  return (
    `The picture is two halves of equal size: colour, and ${beside ? `to its ${half}` : half} alpha as grey. ` +
    `Of each half the first ${width}x${height} pixels count; the rest goes on by their edge. ` +
    `${alpha.mode === 'premultiplied' ? 'Colour is multiplied by alpha already: add it.' : 'Colour is straight: multiply it by alpha.'} ` +
    `On a web page ${film}-player.html shows how; nothing else is needed.`
  )
}

function importing({ delivery: d }: Told): string[] {
  const format = formatById(d.format)
  const word =
    d.alpha.mode === 'none'
      ? null
      : d.alpha.mode === 'straight'
        ? '“straight”'
        : `“premultiplied”${d.alpha.matte === '#000000' ? '' : `, matte colour ${d.alpha.matte}`}`
  const sequence = format.delivers === 'pictures'
  return [
    ...(sequence
      ? [
          'These are numbered pictures. Select the first one only and import it as an image ' +
            `sequence${d.rate ? `, then set ${formatRate(d.rate)} frames a second: the files cannot say it themselves` : ''}.`
        ]
      : []),
    ...(word && !d.stacked
      ? [
          `Timeline editors: set the clip’s alpha to ${word} if its edges look wrong, and switch alpha on ` +
            'where the clip fills the frame.',
          `Compositors: answer ${word} when asked how alpha is to be read.`,
          `Engines: ${
            d.alpha.mode === 'straight'
              ? 'use ordinary alpha blending; if a rim shows when it is ' +
                'drawn small, ask for a delivery with edge fill'
              : 'use premultiplied blending'
          }.`
        ]
      : d.stacked
        ? []
        : ['It has no alpha. Whatever lies below is hidden.']),
    ...(d.stacked
      ? [sayHalves(d)]
      : fallbackOrder([d]).length
        ? ['Web pages: the file plays as it is; see the markup.']
        : [])
  ]
}

function wrongLooks({ delivery: d }: Told): string[] {
  if (d.alpha.mode === 'none' || d.stacked) return []
  return [
    d.alpha.mode === 'straight'
      ? 'Light, hard edges: it was taken as premultiplied. Set it to straight.'
      : 'Dark edges: it was taken as straight. Set it to premultiplied.',
    'A filled rectangle: alpha is ignored. Switch it on for the clip.',
    'Black around the picture in a monitor window need not be wrong: many windows show “nothing” as black. ' +
      'Put a colour below to see.',
    ...(formatById(d.format).delivers === 'pictures' && d.rate
      ? [`Motion too fast or slow: the rate was assumed. It is ${formatRate(d.rate)}.`]
      : [])
  ]
}

/** What was asked for, is not so, and was let be. */
function waivers({ waived }: Delivery): Block[] {
  if (waived.length === 0) return []
  return [paragraph('Not as it was asked for, which was waived by name:'), { kind: 'list', items: [...waived] }]
}

function one(told: Told, files: readonly Delivery[]): Block[] {
  const { delivery: d } = told
  // a film of halves comes with a page of its own
  const web = files.filter(other => other.source === d.source && !other.stacked)
  const markup = fallbackOrder(d.stacked ? [] : [d]).length
    ? pageMarkup(
        web.map(other => ({
          format: other.format,
          path: other.files[0]!.path,
          width: other.width,
          height: other.height,
          name: other.source
        }))
      )
    : null
  const wrong = wrongLooks(told)
  return [
    heading(2, d.name),
    paragraph(d.sentence),
    ...waivers(d),
    facts(told),
    heading(3, 'How to bring it in'),
    { kind: 'list', items: importing(told) },
    ...(wrong.length ? [heading(3, 'What wrong looks like'), { kind: 'list', items: wrong } satisfies Block] : []),
    ...(told.pictures.length ? [{ kind: 'pictures', items: told.pictures } satisfies Block] : []),
    ...(markup
      ? [
          heading(3, 'For a web page'),
          { kind: 'code', text: markup } satisfies Block,
          { kind: 'list', items: markupAdvice(web) } satisfies Block
        ]
      : [])
  ]
}

const terms = (): Block[] => [heading(2, 'Words'), { kind: 'table', head: null, rows: TERMS }]

/** The note that goes with the files. */
export function noteBlocks(manifest: Omit<Manifest, 'papers'>, told: readonly Told[]): Block[] {
  return [
    heading(1, `${manifest.job}: hand-over`),
    paragraph(
      `${told.length === 1 ? 'One delivery' : `${told.length} deliveries`}, made on ` +
        `${manifest.made.slice(0, 10)}. Each file was read back and compared with its source, frame by frame; ` +
        'the proof is in proof.html and proof.pdf. checksums.sha256 and hand-over.json tell whether anything ' +
        'has changed on the way.'
    ),
    ...told.flatMap(t => one(t, manifest.deliveries)),
    ...terms()
  ]
}

const VERDICTS = {
  identical: 'Identical',
  faithful: 'Faithful',
  'visible-loss': 'Visible loss',
  broken: 'Broken'
} as const
const MEANS = {
  identical: 'Every value of every pixel of every frame is exactly as it should be.',
  faithful: 'The transparency is right, and differences of colour are too small to be seen.',
  'visible-loss': 'The transparency is there, but somebody who looks closely can see a difference.',
  broken: 'The transparency, or the clip itself, is not what was ordered.'
} as const
const STANDS = { right: 'right as it is', setting: 'right after a setting', wrong: 'wrong' } as const

/** What became of the source, stage by stage. */
function ledgerOf({ ledger }: ProofReport): Block[] {
  if (ledger.length === 0) return []
  const say = (line: LedgerLine): string =>
    line.severity === 'none' ? 'nothing lost' : `${line.severity}${line.asked ? ', as asked' : ''}`
  return [
    heading(3, 'What became of the source'),
    {
      kind: 'table',
      head: ['Stage', 'cost', 'what happened'],
      rows: ledger.map(line => [STAGE_NAMES[line.stage], say(line), line.sentence])
    }
  ]
}

function provenOne({ delivery: d, report: r, stations, pictures }: Told): Block[] {
  const worst = r.frames.reduce(
    (top, f) => ({ alpha: Math.max(top.alpha, f.alpha), colour: Math.max(top.colour, f.colour) }),
    { alpha: 0, colour: 0 }
  )
  return [
    heading(2, `${d.name}: ${VERDICTS[r.verdict].toLowerCase()}`),
    ...waivers(d),
    paragraph(r.title ? `${r.title}.` : MEANS[r.verdict]),
    paragraph(r.sentence),
    ...ledgerOf(r),
    paragraph(
      `It was read back by ${r.reader.name}, which ` +
        `${r.reader.independent ? 'shares no code with the program that wrote it' : 'belongs to the program that wrote it'}. ` +
        `Over ${r.frames.length} frames, alpha is off by ${Math.round(worst.alpha * 100) / 100} of ` +
        `${r.depth === 8 ? 255 : 65535} codes at most, and colour by ${Math.round(worst.colour * 100) / 100} ΔE.`
    ),
    {
      kind: 'table',
      head: ['Reading', 'asked', 'found', 'error'],
      rows: r.readings.filter(x => x.id !== 'digest').map(x => [x.name, x.asked, x.found, x.error])
    },
    ...(r.findings.length
      ? [heading(3, 'Found besides'), { kind: 'list', items: r.findings.map(f => f.sentence) } satisfies Block]
      : []),
    ...(stations.length
      ? [
          heading(3, 'How programs will take it'),
          {
            kind: 'table',
            head: ['Kind of program', 'stands', 'what it shows'],
            rows: stations.map(s => [s.station.family, STANDS[s.standing], s.sentence])
          } satisfies Block
        ]
      : []),
    ...(pictures.length ? [{ kind: 'pictures', items: pictures } satisfies Block] : []),
    heading(3, 'SHA-256'),
    {
      kind: 'code',
      text:
        d.files.length <= 4
          ? d.files.map(f => `${f.sha256}  ${f.path}`).join('\n')
          : `${d.files.length} files, listed in checksums.sha256; together ${r.sha256 ?? 'not computed'}`
    }
  ]
}

/** The proof as a page that the technician's client can read. */
export function proofBlocks(manifest: Pick<Manifest, 'job' | 'made'>, told: readonly Told[]): Block[] {
  const [first] = told
  return [
    heading(1, `${manifest.job}: proof of transparency`),
    paragraph(
      `Made on ${manifest.made.slice(0, 10)}. Every delivered file was opened again and compared with what it ` +
        'was made from, every pixel of every frame: its alpha by itself, and its colour as it looks over black, ' +
        'white, grey, the opposite hue and a picture.'
    ),
    {
      kind: 'table',
      head: ['Delivery', 'verdict', 'in a sentence'],
      rows: told.map(t => [t.delivery.name, VERDICTS[t.report.verdict], t.report.sentence])
    },
    ...told.flatMap(provenOne),
    heading(2, 'What the verdicts mean'),
    {
      kind: 'table',
      head: null,
      rows: (Object.keys(VERDICTS) as (keyof typeof VERDICTS)[]).map(v => [VERDICTS[v], MEANS[v]])
    },
    ...(first
      ? [
          paragraph(
            `“Faithful” is measured: alpha within ${first.report.thresholds.alphaCodes} code of the delivered ` +
              'depth (1/255 of full where the codec loses alpha), mean colour difference under ' +
              `${first.report.thresholds.colourMean} ΔE, and 99.9 % of visible pixels under ` +
              `${first.report.thresholds.colourHigh} ΔE.`
          )
        ]
      : []),
    ...terms()
  ]
}
