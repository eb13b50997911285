import fc from 'fast-check'
import { expect, test } from 'vitest'
import { formatById, formats, writtenFormats } from '../../core/open/registry'
import { fillName, freeName, frameNumber, nameKey, Names, safeName, unknownFields } from '../../core/job/outlet/names'
import {
  newOutlet,
  Outlet,
  outletProblems,
  sayCarries,
  sayKept,
  tagLine,
  withFormat
} from '../../core/job/outlet/outlet'
import { clashesOf } from '../../core/job/outlet/clashes'
import { deliveryName, isCalled, planPour, pourProblems } from '../../core/job/outlet/plan'
import { rangeTaken } from '../../core/job/outlet/range'
import { optionValues } from '../../core/base/settings/field'
import { stepKindById } from '../../core/prepare/kinds'
import { newStep, preparedFacts, type Step } from '../../core/prepare/preparation'
import { strapFacts } from './support'

const facts = strapFacts({ name: 'Name strap', width: 640, height: 360, frames: 48, rate: [24000, 1001], bitDepth: 8 })

test('every format makes an outlet that has nothing against it and parses', () => {
  for (const format of writtenFormats) {
    const outlet = newOutlet('x', format)
    expect(outletProblems(outlet)).toEqual([])
    expect(Outlet.parse(outlet)).toEqual(outlet)
    expect(tagLine(outlet)).toContain(format.tag)
  }
})

test('what a format cannot hold is refused with the reason', () => {
  const premultiplied = {
    ...newOutlet('x', formatById('png-sequence')),
    alpha: { mode: 'premultiplied' as const, matte: '#000000' }
  }
  expect(outletProblems(premultiplied)[0]).toMatch(/PNG is defined as straight/)
  expect(outletProblems({ ...newOutlet('x', formatById('quicktime-animation')), depth: 16 })[0]).toMatch(
    /no depth of 16 bits/
  )
  expect(outletProblems({ ...newOutlet('x', formatById('png-sequence')), framePattern: 'same' })[0]).toMatch(
    /\{frame\}/
  )
  expect(outletProblems({ ...newOutlet('x', formatById('apng')), options: { plays: -1 } })[0]).toMatch(/whole number/)
})

test('moving an outlet to another format keeps what that one allows', () => {
  const animation = {
    ...newOutlet('x', formatById('quicktime-animation'), 'Mine'),
    alpha: { mode: 'premultiplied' as const, matte: '#ffffff' },
    startNumber: 100
  }
  const png = withFormat(animation, formatById('png-sequence'))
  expect(png).toMatchObject({ name: 'Mine', alpha: { mode: 'straight' }, depth: 8, startNumber: 100 })
  expect(outletProblems(png)).toEqual([])
})

test('a film without a rate is not possible, a sequence is', () => {
  const unknown = { ...facts, rate: null }
  expect(pourProblems(unknown, newOutlet('x', formatById('apng')), null)[0]).toMatch(/needs a rate/)
  expect(pourProblems(unknown, newOutlet('x', formatById('png-sequence')), null)).toEqual([])
  expect(pourProblems({ ...facts, width: 70000 }, newOutlet('x', formatById('quicktime-animation')), null)[0]).toMatch(
    /larger than/
  )
  expect(pourProblems(facts, { ...newOutlet('x', formatById('apng')), namePattern: '{sauce}' }, null)[0]).toMatch(
    /\{sauce\}/
  )
})

test('ranges: marked, all, or frames; beyond the source they are cut or refused', () => {
  const outlet = newOutlet('x', formatById('apng'))
  expect(rangeTaken(outlet, facts, { from: 5, to: 9 })).toEqual({ from: 5, to: 9 })
  expect(rangeTaken({ ...outlet, range: 'all' }, facts, { from: 5, to: 9 })).toEqual({ from: 1, to: 48 })
  expect(rangeTaken({ ...outlet, range: { from: 40, to: 99 } }, facts, null)).toEqual({ from: 40, to: 48 })
  expect(pourProblems(facts, { ...outlet, range: { from: 60, to: 99 } }, null)[0]).toMatch(/has 48/)
})

test('the plan names every picture and numbers from where it is told', () => {
  const outlet = {
    ...newOutlet('x', formatById('png-sequence'), 'Comp'),
    namePattern: '{source}_{outlet}_{depth}_{rate}',
    framePattern: '{source}.{frame}',
    digits: 5,
    startNumber: 1001,
    range: { from: 2, to: 4 }
  }
  const plan = planPour(facts, outlet, null)
  expect(plan.frames).toEqual([1, 2, 3])
  expect(plan.fileName).toBe('Name_strap_Comp_16bit_23.976fps.zip')
  expect(plan.deliverable.names).toEqual(['Name_strap.01001.png', 'Name_strap.01002.png', 'Name_strap.01003.png'])
})

test('names are fit for every file system', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'binary', maxLength: 200 }), text => {
      const name = safeName(text)
      expect(name).not.toMatch(/[<>:"/\\|?*\u0000-\u001f\u007f\s]/)
      expect(name.length).toBeGreaterThan(0)
      expect(name.length).toBeLessThanOrEqual(121)
      expect(name).not.toMatch(/^\.|^(con|nul|com1)$/i)
    }),
    { numRuns: 500 }
  )
  expect(safeName('../../etc/passwd')).not.toContain('/')
  expect(safeName('CON')).toBe('_CON')
})

test('names of different frames are apart, however long all else is, and short enough for every disk', () => {
  const text = fc.string({ unit: 'grapheme', maxLength: 300 })
  const piece = fc.constantFrom('{source}', '{outlet}', '{span}', '_', '-', '.', ' ', 'strap', 'é', '鶴'.repeat(50))
  fc.assert(
    fc.property(
      fc.array(piece, { maxLength: 5 }),
      fc.array(piece, { maxLength: 5 }),
      fc.record({ source: text, outlet: text, span: text }),
      fc.tuple(fc.integer({ min: -2000, max: 2_000_000 }), fc.integer({ min: 1, max: 9 })),
      (before, after, fields, [start, digits]) => {
        const pattern = [...before, '{frame}', ...after].join('')
        const names = [0, 1, 2, 10, 99, 5000].map(n =>
          fillName(pattern, { ...fields, frame: frameNumber(start + n, digits) })
        )
        expect(new Set(names.map(nameKey)).size).toBe(names.length)
        for (const name of names) {
          expect(new TextEncoder().encode(name).length).toBeLessThanOrEqual(206)
          expect(name.isWellFormed()).toBe(true)
          expect(name).not.toMatch(/[<>:"/\\|?*\u0000-\u001f\u007f\s]|^\./)
        }
      }
    ),
    { numRuns: 2000 }
  )
  const long = 'm'.repeat(130)
  expect(fillName('{source}_{frame}', { source: long, frame: '0001' })).toMatch(/^m{115}_0001$/)
  expect(frameNumber(-5, 4)).toBe('-0005')
})

test('names given one after another are apart on a disk that minds neither case nor how accents are composed', () => {
  fc.assert(
    fc.property(
      fc.array(fc.constantFrom('a.mov', 'A.mov', 'a_2.mov', 'é.png', 'e\u0301.png', 'É.png', 'b'), { maxLength: 20 }),
      all => {
        const names = new Names(['B'])
        const given = all.map(each => names.free(each))
        expect(new Set(['b', ...given.map(nameKey)]).size).toBe(given.length + 1)
      }
    )
  )
})

test('pictures of a sequence are known by what stands around their number', () => {
  const called = { before: 'moth_', after: '.png', digits: 4 }
  const names = [
    'moth_0001.png',
    'moth_-0001.png',
    'moth_10000.png',
    'moth_00001.png',
    'moth_1.png',
    'moth2_0001.png',
    'moth_0001.jpg'
  ]
  expect(names.filter(name => isCalled(name, called))).toEqual(['moth_0001.png', 'moth_-0001.png', 'moth_10000.png'])
})

test('fields without a value vanish with the separator before them', () => {
  expect(fillName('{source}_{span}_{frame}', { source: 'moth', frame: '0001' })).toBe('moth_0001')
  expect(unknownFields('{source}_{nothing}')).toEqual(['nothing'])
  expect(frameNumber(7, 4)).toBe('0007')
})

test('a taken name gets the first free number', () => {
  const taken = new Set(['a.mov', 'a_2.mov'])
  expect(freeName('a.mov', name => taken.has(name))).toBe('a_3.mov')
  expect(freeName('b.mov', name => taken.has(name))).toBe('b.mov')
})

test('another format drops settings it does not take, and takes over a name that was never edited', () => {
  const tiff = newOutlet('o', formatById('tiff-sequence'))
  const deflated = { ...tiff, options: { ...tiff.options, compression: 'deflate' } }
  const exr = withFormat(deflated, formatById('exr-sequence'))
  expect(outletProblems(exr)).toEqual([])
  expect(exr.name).toBe(formatById('exr-sequence').name)
  expect(withFormat({ ...tiff, name: `${tiff.name} 2` }, formatById('apng')).name).toBe(`${formatById('apng').name} 2`)
  expect(withFormat({ ...tiff, name: 'For the cutting room' }, formatById('apng')).name).toBe('For the cutting room')
  for (const from of formats)
    for (const to of formats)
      if (!from.readOnly && !to.readOnly)
        expect(outletProblems(withFormat(newOutlet('o', from), to)), `${from.id} to ${to.id}`).toEqual([])
})

test('what is carried is said of what is delivered', () => {
  const film = newOutlet('o', formatById('quicktime-png'))
  expect(sayCarries({ ...film, parts: 'alpha-only' })).toBe('alpha alone, as grey, in one film')
  expect(sayCarries({ ...film, parts: 'fill-key' })).toContain('two films')
  expect(sayCarries({ ...film, alpha: { mode: 'none' } })).toContain('without alpha')
  expect(sayCarries(film)).toBe(formatById('quicktime-png').carries)
})

test('a new WebM is of halved colour, which players beyond browsers show with its alpha; full colour is a choice', () => {
  const webm = formatById('webm-vp9')
  expect(newOutlet('o', webm).options.chroma).toBe('4:2:0')
  expect(optionValues(webm.options, { quality: 88 }).chroma).toBe('4:2:0')
  expect(optionValues(webm.options, { chroma: '4:4:4' }).chroma).toBe('4:4:4')
})

test('another format drops settings it does not take, and takes over a name that was never edited', () => {
  const tiff = newOutlet('o', formatById('tiff-sequence'))
  const deflated = { ...tiff, options: { ...tiff.options, compression: 'deflate' } }
  const exr = withFormat(deflated, formatById('exr-sequence'))
  expect(outletProblems(exr)).toEqual([])
  expect(exr.name).toBe(formatById('exr-sequence').name)
  expect(withFormat({ ...tiff, name: `${tiff.name} 2` }, formatById('apng')).name).toBe(`${formatById('apng').name} 2`)
  expect(withFormat({ ...tiff, name: 'For the cutting room' }, formatById('apng')).name).toBe('For the cutting room')
  const written = formats.filter(format => !format.readOnly)
  for (const from of written)
    for (const to of written)
      expect(outletProblems(withFormat(newOutlet('o', from), to)), `${from.id} to ${to.id}`).toEqual([])
})

test('what is carried is said of what is delivered', () => {
  const film = newOutlet('o', formatById('quicktime-png'))
  expect(sayCarries({ ...film, parts: 'alpha-only' })).toBe('alpha alone, as grey, in one film')
  expect(sayCarries({ ...film, parts: 'fill-key' })).toContain('two films')
  expect(sayCarries({ ...film, alpha: { mode: 'none' } })).toContain('without alpha')
  expect(sayCarries(film)).toBe(formatById('quicktime-png').carries)
})

test('a pixel shape in floats comes to the nearest pair of whole numbers that every container holds', () => {
  const outlet = newOutlet('o', formatById('mxf-prores-4444'))
  const shapeOf = (pixelAspect: [number, number]) =>
    planPour({ ...facts, pixelAspect }, outlet, null).deliverable.pixelAspect
  // what a 32-bit float makes of four thirds
  expect(shapeOf([1.3333333730697632, 1])).toEqual([4, 3])
  expect(shapeOf([16, 11])).toEqual([16, 11])
  const [w, h] = shapeOf([Math.PI, 1])
  expect(Number.isInteger(w) && Number.isInteger(h) && Math.max(w, h) < 10_000).toBe(true)
  expect(w / h).toBeCloseTo(Math.PI, 6)
})

test("pictures keep the source's numbers where it had any, from the first that is delivered", () => {
  const outlet = {
    ...newOutlet('x', formatById('png-sequence')),
    framePattern: '{original}.{frame}',
    numbering: 'source' as const,
    startNumber: 7
  }
  const numbered = { ...facts, firstNumber: 1010, original: 'sh020_comp' }
  expect(planPour(numbered, outlet, null).deliverable.names.slice(0, 2)).toEqual([
    'sh020_comp.1010.png',
    'sh020_comp.1011.png'
  ])
  expect(planPour(numbered, { ...outlet, range: { from: 5, to: 6 } }, null).deliverable.names).toEqual([
    'sh020_comp.1014.png',
    'sh020_comp.1015.png'
  ])
  expect(planPour(facts, outlet, null).deliverable.names[0]).toBe('Name_strap.0007.png')
  expect(planPour(numbered, { ...outlet, numbering: 'own' }, null).deliverable.names[0]).toBe('sh020_comp.0007.png')
  // a step that takes frames from the front moves the number on; one that turns them round leaves none
  const step = (kind: string, settings: Record<string, string | number>): Step =>
    newStep('s', stepKindById(kind), settings)
  expect(preparedFacts(numbered, [step('range', { from: 11, to: 20 })]).firstNumber).toBe(1020)
  expect(preparedFacts(numbered, [step('reverse', {})]).firstNumber).toBe(undefined)
})

test('the name told before planning is that of the plan; deliveries of one name are found, whatever their case', () => {
  for (const format of writtenFormats)
    for (const parts of ['colour-alpha', 'fill-key'] as const) {
      const outlet = { ...newOutlet('x', format), parts, namePattern: '{source}_{rate}_{width}' }
      if (pourProblems(facts, outlet, null).length === 0)
        expect(deliveryName(facts, outlet)).toBe(planPour(facts, outlet, null).fileName)
    }
  const named = ['a.mov', 'b.mov', 'A.MOV', 'c.mov'].map((fileName, n) => ({ cell: String(n), fileName }))
  expect([...clashesOf(named)].map(([name, cells]) => [name, cells.map(({ cell }) => cell)])).toEqual([
    ['a.mov', ['0', '2']]
  ])
})

test('what coding keeps is said of colour and of alpha, and never more than is so', () => {
  const said = (id: string, more: Partial<Outlet> = {}): string => {
    const format = formatById(id)
    return sayKept(format, { ...newOutlet('o', format), ...more })
  }
  expect(said('png-sequence')).toContain('Exact')
  expect(said('quicktime-prores-4444')).toBe('Lossy in colour; alpha is exact.')
  // a key is coded as colour is
  for (const parts of ['fill-key', 'alpha-only'] as const)
    expect(said('quicktime-prores-4444', { parts })).toBe('Lossy in colour; alpha may differ by some codes.')
  expect(said('quicktime-prores-4444', { parts: 'colour-only' })).toBe('Lossy in colour.')
  expect(said('quicktime-texture')).toBe('Lossy in colour; alpha may differ by some codes.')
  for (const id of ['webp-sequence', 'avif-sequence']) {
    expect(said(id)).toContain('Exact')
    expect(said(id, { options: { coding: 'lossy' } })).toContain('Lossy in colour')
  }
})

test('a format without alpha splits what it is given, and keeps what was asked of it', () => {
  const vc3 = formatById('mxf-vc3')
  const fresh = newOutlet('o', vc3)
  expect(fresh).toMatchObject({ parts: 'fill-key', alpha: { mode: 'straight' } })
  expect(outletProblems(fresh)).toEqual([])
  const white = { mode: 'premultiplied', matte: '#ffffff' } as const
  const whole = { ...newOutlet('o', formatById('quicktime-prores-4444')), alpha: white }
  expect(withFormat(whole, vc3)).toMatchObject({ parts: 'fill-key', alpha: white })
  expect(withFormat({ ...whole, alpha: { mode: 'none' } }, vc3)).toMatchObject({ parts: 'colour-alpha' })
  expect(withFormat({ ...whole, parts: 'alpha-only' }, vc3).parts).toBe('alpha-only')
  for (const outlet of [whole, { ...whole, parts: 'colour-only' as const }])
    expect(outletProblems(withFormat(outlet, vc3))).toEqual([])
  expect(outletProblems({ ...fresh, parts: 'colour-alpha' }).join(' ')).toMatch(/cannot be straight: .*no alpha/)
})
