/** What an outlet's choices cost the sources at hand: the figures are theirs, and what costs nothing is not said. */
import { expect, test } from 'vitest'
import { examine } from '../../core/judge/examine/examination'
import { lookAt } from '../../core/judge/examine/look'
import type { FormatId } from '../../core/open/rows'
import { formatById, writtenFormats } from '../../core/open/registry'
import { withDepth } from '../../core/frame/depth'
import type { Frame } from '../../core/frame/frame'
import { newOutlet, type Outlet } from '../../core/job/outlet/outlet'
import { labelRisk, risksOf, type Looked } from '../../core/judge/examine/risks'
import { emptyScene, newElement } from '../../core/draw/scene/fresh'
import { figure } from '../../core/draw/scene/elements/shape'
import { SceneRenderer } from '../../core/draw/scene/render'
import { stepKindById } from '../../core/prepare/kinds'
import { newStep } from '../../core/prepare/preparation'
import { moth, strapOnPage } from '../../demo/scenes'
import { strapFacts, testHost } from './support'

const host = testHost()
const { kernels } = await host
const looked = (name: string, frames: readonly Frame[]): Looked => ({
  name,
  examination: examine(
    frames.map((frame, i) => ({ frame: i + 1, look: lookAt(frame, kernels) })),
    strapFacts({ frames: frames.length })
  )
})
const deep = looked('moth', [moth(0), moth(0.3)])
const flat = looked('strap on page', [strapOnPage(0.5)])
const narrow = looked('moth 8', [withDepth(moth(0.3), 8, kernels)])
const outlet = (format: FormatId, more: Partial<Outlet> = {}): Outlet => ({
  ...newOutlet('o', formatById(format)),
  ...more
})
const said = (of: Outlet, ...sources: Looked[]): string[] => risksOf(of, sources).map(({ id }) => id)

test('levels that a depth cannot keep are counted, and hard edges told', () => {
  const [risk] = risksOf(outlet('gif'), [flat, deep])
  expect(risk!.sentence).toMatch(
    new RegExp(`^Alpha is only on or off here: ${deep.examination.levels.toLocaleString('en')} levels of moth become 2`)
  )
  expect(said(outlet('quicktime-animation'), deep)).toEqual(['fewer-levels'])
  expect(risksOf(outlet('quicktime-animation'), [deep])[0]!.sentence).toContain('become 256 at most')
  // what has no more than that loses nothing
  expect(said(outlet('quicktime-animation'), narrow)).toEqual([])
  expect(said(outlet('png-sequence'), deep, flat, narrow)).toEqual([])
})

test('colour that a lossy codec smears is told unless edges are filled, by the codec or by a step', () => {
  const best = outlet('webm-vp9')
  const webm = { ...best, options: { ...best.options, quality: 80 } }
  expect(said(webm, narrow)).toContain('colour-under-edges')
  expect(risksOf(webm, [narrow]).at(-1)!.sentence).toMatch(
    /may smear the #000000 .* \d+(\.\d)? % of the pixels of moth 8\./
  )
  expect(said({ ...webm, steps: [newStep('s', stepKindById('edge-fill'))] }, narrow)).not.toContain(
    'colour-under-edges'
  )
  // at its best it loses nothing but rounding
  expect(said(best, narrow)).not.toContain('colour-under-edges')
  expect(said(outlet('quicktime-prores-4444'), narrow)).not.toContain('colour-under-edges')
  const bare = outlet('quicktime-prores-4444')
  expect(said({ ...bare, options: { ...bare.options, fill: false } }, narrow)).toContain('colour-under-edges')
})

test('one part alone is told with what it leaves behind', () => {
  expect(said(outlet('png-sequence', { parts: 'alpha-only' }), narrow)).toEqual(['no-colour'])
  expect(risksOf(outlet('png-sequence', { parts: 'colour-only' }), [narrow])[0]!.sentence).toMatch(
    /Transparency is given up: \d+(\.\d)? % of the pixels of moth 8 become solid\./
  )
  // nothing is given up where nothing was see-through
  expect(said(outlet('png-sequence', { parts: 'colour-only' }), flat)).toEqual([])
})

test('every written format answers for every source, and with none has nothing to say', () => {
  for (const format of writtenFormats) {
    expect(risksOf(newOutlet('o', format), [])).toEqual([])
    for (const { sentence } of risksOf(newOutlet('o', format), [deep, flat, narrow])) expect(sentence).toMatch(/\.$/)
  }
})

test('light beside alpha is told where the outlet is straight, and not where it is kept or turned into alpha', async () => {
  const size = { width: 160, height: 90, rate: [25, 1] as [number, number], seconds: 1 }
  const disc = newElement('one', 'Moon', figure('ellipse', 40, 40, { fill: '#f2efe4' }), size)
  const glow = { soft: 24, colour: '#e2b242', opacity: 0.8, added: true } as const
  const renderer = await SceneRenderer.of({ ...emptyScene('moon', size), elements: [{ ...disc, glow }] }, await host)
  const claim = { mode: 'premultiplied', matte: '#000000', says: 'rendered' } as const
  const shining: Looked = {
    name: 'moon',
    examination: examine([{ frame: 1, look: lookAt(renderer.frame(0), kernels) }], strapFacts({ frames: 1, claim }))
  }
  expect(shining.examination.alpha).toMatchObject({ mode: 'premultiplied' })
  const straight = outlet('png-sequence')
  expect(risksOf(straight, [deep, shining]).map(({ sentence }) => sentence)).toEqual([
    expect.stringMatching(/^Straight alpha cannot say light beside alpha: .* of the pixels of moon\. Add the step Glow/)
  ])
  expect(said({ ...straight, steps: [newStep('s', stepKindById('glow-to-alpha'))] }, shining)).toEqual([])
  expect(said(outlet('tiff-sequence', { alpha: { mode: 'premultiplied', matte: '#000000' } }), shining)).toEqual([])
  expect(said(straight, deep)).toEqual([])
})

test('formats that cannot say what codes mean are told before they are poured to, until somebody decides', () => {
  const source = (tags: [number, number, number] | null, codesKept = false) => ({ name: 'moth', tags, codesKept })
  const [p3, pq] = [source([12, 13, 0]), source([9, 16, 9])]
  expect(labelRisk(outlet('gif'), [p3])[0]!.sentence).toMatch(/^GIF cannot say that moth is Display P3: .* Decide on/)
  expect(labelRisk(outlet('gif'), [p3, pq, source(null)])[0]!.sentence).toContain('moth and 1 more')
  for (const [format, lost] of [
    ['png-sequence', []],
    ['quicktime-prores-4444', []],
    ['exr-sequence', []],
    ['avi-png', []],
    ['avi-raw', [p3, pq]],
    ['webp-animated', [pq]],
    ['tiff-sequence', [pq]]
  ] as const)
    for (const each of [p3, pq])
      expect(labelRisk(outlet(format), [each]), format).toHaveLength(lost.some(other => other === each) ? 1 : 0)
  expect(labelRisk(outlet('gif', { parts: 'alpha-only' }), [p3])).toEqual([])
  expect(labelRisk(outlet('gif'), [source([12, 13, 0], true), source(null), source([1, 13, 0])])).toEqual([])
})
