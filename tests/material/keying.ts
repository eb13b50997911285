/** docs/keying.md: what keys make of shots whose truth is known, drawn by `npm run keying`. */
import type { Host } from '../../core/frame/host'
import { CODED, CODED_NOISE, CODED_RATES } from './keys-coded'
import { filmedAs, filmings, keyed, keyFigures, keyShots, type KeyFigures } from './keys'

const WAYS = [
  { name: 'Colour beside', settings: { edges: 'beside', noise: 'measured', chroma: 'led' } },
  { name: 'Hue alone', settings: { edges: 'hue', noise: 'measured' } }
] as const

const shown = (v: number, digits: number): string => v.toFixed(digits)

/** Alpha error at soft pixels, of 1; where some, the share of haze in percent. */
const cell = ({ softAlpha, haze }: Pick<KeyFigures, 'softAlpha' | 'haze'>): string =>
  `${shown(softAlpha, 3)}${haze >= 0.005 ? ` (${shown(100 * haze, 0)} % haze)` : ''}`

export async function keyingPage(host: Host): Promise<string> {
  const lines = [
    '# Keys, measured',
    '',
    'Shots drawn by code, so that their alpha is known to the last bit, laid before a green screen whose ' +
      'light is uneven,',
    'then filmed: with noise, with chroma shared between pixels (4:2:2, 4:2:0), with the screen’s light on ' +
      'the subject. Every',
    'figure is the mean error of alpha (of 1) over the pixels that are partly clear in truth or as found; ' +
      'behind it, where it',
    'is half a percent or more, the share of the clear area that was left with alpha. Made by `npm run ' +
      'keying`; the same shots',
    'hold `tests/unit/beside.test.ts` to bounds.',
    ''
  ]
  for (const way of WAYS) {
    lines.push(
      `## ${way.name}`,
      '',
      `| shot | ${filmings.map(film => film.name).join(' | ')} |`,
      `| --- |${filmings.map(() => ' --- |').join('')}`
    )
    for (const { name, truth } of keyShots) {
      const cells: string[] = []
      for (const film of filmings) {
        const settings = { screen: '#2ba347', ...way.settings }
        const found = await keyed([filmedAs(truth, film)], [{ kind: 'chroma-key', settings }], host)
        cells.push(cell(keyFigures(found, truth)))
      }
      lines.push(`| ${name} | ${cells.join(' | ')} |`)
    }
    lines.push('')
  }
  lines.push(
    '## Colour beside, on film that a coder made',
    '',
    `The same shots with noise of ${shown(100 * CODED_NOISE, 1)} %, coded as H.264 in 4:2:0 and decoded by a ` +
      'library that shares no code with',
    'Pour. Measured and held by `tests/witness/keys.test.ts`.',
    '',
    `| shot | ${CODED_RATES.map(rate => `rate factor ${rate}`).join(' | ')} |`,
    `| --- |${CODED_RATES.map(() => ' --- |').join('')}`,
    ...CODED.map(({ shot, figures }) => `| ${shot} | ${figures.map(cell).join(' | ')} |`)
  )
  return `${lines.join('\n').trimEnd()}\n\n`
}
