/** Tables: what fills what, numbers and colours as people write them, and what of a row cannot be filled in. */
import fc from 'fast-check'
import { expect, test } from 'vitest'
import { toBase64 } from '../../core/base/files/base64'
import { carriedPicture } from '../../core/draw/scene/carried'
import { figure } from '../../core/draw/scene/elements/shape'
import { lettered } from '../../core/draw/scene/elements/lettering'
import { kindOf } from '../../core/draw/scene/elements/kinds'
import { emptyScene, newElement } from '../../core/draw/scene/fresh'
import { readScene } from '../../core/draw/scene/format'
import { sceneText } from '../../core/draw/scene/as-file'
import { SceneRenderer } from '../../core/draw/scene/render'
import { Scene, type Element } from '../../core/draw/scene/scene'
import {
  colourIn,
  fieldsOf,
  filledFrom,
  likelyColumn,
  matchColumn,
  numberIn,
  picturesAsked,
  readTable,
  slotsOf,
  type CarriedPicture
} from '../../core/draw/scene/tables'
import { encodePng } from '../../core/media/pictures/png/encode'
import { noise, sharpFrame, testHost } from './support'

const host = await testHost()
const SIZE = { width: 120, height: 80, rate: [10, 1] as [number, number], seconds: 1 }
const element = (id: string, look: Element['look'], more: Partial<Element> = {}): Element => ({
  ...newElement(id, id, look, SIZE),
  ...more
})
const sceneOf = (...elements: Element[]): Scene => Scene.parse({ ...emptyScene('tables', SIZE), elements })
const counter = kindOf({ kind: 'counter' } as Element['look']).begins.fresh(SIZE, undefined as never) as Element['look']

/** A picture of one colour. */
const plain = async (width: number, height: number, [r, g, b]: number[]): Promise<CarriedPicture> => {
  const samples = new Uint8Array(4 * width * height)
  for (let i = 0; i < samples.length; i += 4) samples.set([r!, g!, b!, 255], i)
  const frame = { width, height, depth: 8, samples, alpha: { mode: 'straight' }, transfer: 'srgb' } as const
  return { data: toBase64(await encodePng(host, frame)), width, height }
}

test.each([
  ['1234.5', 1234.5],
  [' 1 234,50 ', 1234.5],
  ['1,234,567', 1234567],
  ['1.234.567,25', 1234567.25],
  ['0,5', 0.5],
  ['1’234', 1234],
  ['−7', -7],
  ['+.25', 0.25],
  ['1,234', 1234],
  ['12 %', null],
  ['', null],
  ['1,23,4', null],
  ['twelve', null]
])('%j is the number %j', (text, value) => {
  expect(numberIn(text)).toBe(value)
})

test.each([
  ['#2F9E63', '#2f9e63'],
  ['2f9e63', '#2f9e63'],
  [' #abc ', '#aabbcc'],
  ['green', null],
  ['#12345', null],
  ['', null]
])('%j is the colour %j', (text, value) => {
  expect(colourIn(text)).toBe(value)
})

test('numbers of any size come back as they were written by the marks of a place', () => {
  const groups = (whole: string, mark: string): string => whole.replace(/\B(?=(\d{3})+$)/g, mark)
  fc.assert(
    fc.property(
      fc.integer({ min: 0, max: 1e9 }),
      fc.integer({ min: 0, max: 99 }),
      fc.constantFrom([',', '.'], ['.', ','], [' ', ','], ['\u00a0', '.'], ['', '.'], ['', ',']),
      (whole, rest, [mark, point]) => {
        const text = `${groups(String(whole), mark!)}${point!}${String(rest).padStart(2, '0')}`
        expect(numberIn(text)).toBe(Number(`${whole}.${String(rest).padStart(2, '0')}`))
      }
    )
  )
})

test('words, numbers, colours and pictures come from columns, and what they draw is drawn', async () => {
  const grey = await plain(8, 8, [128, 128, 128])
  const scene = sceneOf(
    element('who', lettered('Nobody', 12, { field: 'who' }), {
      x: 10,
      y: 15,
      columns: { figures: { decimals: 1, marks: '1 000,5' } }
    }),
    element('score', counter, { columns: { number: 'score' } }),
    element('bar', figure('rectangle', 20, 10, { fill: '#ff0000' }), { x: 30, y: 60, columns: { colour: 'tone' } }),
    element('face', { kind: 'picture', ...grey, width: 40, height: 20 } as Element['look'], {
      ...{ x: 90, y: 60, columns: { picture: 'photo' } }
    })
  )
  expect(fieldsOf(scene)).toEqual(['who', 'score', 'tone', 'photo'])
  const table = readTable(
    'name,who,score,tone,photo\nA,12345.678,"1,200",00f,red.png\nB,Ada,many,blue,gone.png\nC,,7,,\n',
    'rows.csv'
  )
  expect(picturesAsked(scene, table)).toEqual(['red.png', 'gone.png'])
  const red = await plain(10, 20, [255, 0, 0])
  const { rows, apart } = filledFrom(scene, table, { pictures: new Map([['red.png', red]]) })
  expect(apart).toEqual([])
  const [a, b] = rows
  expect(a!.wrong).toEqual([])
  expect(a!.scene.elements.map(({ look }) => look)).toMatchObject([
    { text: '12\u00a0345,7' },
    { to: 1200 },
    { fill: '#ff0000' },
    { data: red.data, width: 10, height: 20 }
  ])
  // it is drawn: the bar in blue, the picture in red
  const { samples, width } = (await SceneRenderer.of(a!.scene, host)).frame(5)
  const at = (x: number, y: number): number[] => [...samples.slice(4 * (y * width + x), 4 * (y * width + x) + 4)]
  expect(at(30, 60)).toEqual([0, 0, 65535, 65535])
  expect(at(90, 60)).toEqual([65535, 0, 0, 65535])
  expect(b!.wrong).toEqual([
    '“Ada” is no number; “who” shows it as it stands.',
    '“many” is no number; “score” keeps its own.',
    '“blue” is no colour; “bar” keeps its own.',
    'There is no picture “gone.png”; “face” keeps its own.'
  ])
  expect(b!.scene.elements[2]).toEqual(scene.elements[2])
  expect(rows[2]!.wrong).toEqual([
    'The colour is empty; “bar” keeps its own.',
    'The picture is empty; “face” keeps its own.'
  ])
  // a column that something names and cannot take is told
  const odd = sceneOf(
    element('who', lettered('Nobody', 12, { field: 'who' })),
    element('bar', figure('rectangle', 20, 10), { name: 'Bar', columns: { picture: 'photo' } })
  )
  expect(filledFrom(odd, table).apart).toContain('“Bar” has no picture to fill; the column "photo" does nothing there.')
  // the scene itself stays as it was
  expect(scene.elements[0]!.look).toMatchObject({ text: 'Nobody' })
  expect(scene.elements[2]!.colours).toBeUndefined()
})

test('columns are matched and taken back, live in the file, and likely ones are found by name', () => {
  const scene = sceneOf(
    element('who', lettered('Nobody', 12), { name: 'Name' }),
    element('bar', figure('rectangle', 20, 10), { name: 'Bar' }),
    element('score', counter)
  )
  expect(slotsOf(scene).map(({ id, part }) => `${id} ${part}`)).toEqual([
    ...['who words', 'who colour', 'bar colour', 'score number', 'score colour']
  ])
  const columns = ['NAME', 'bar colour', 'Score']
  const likely = slotsOf(scene).map(slot =>
    likelyColumn(
      scene.elements.find(({ id }) => id === slot.id)!,
      slot.part,
      columns
    )
  )
  expect(likely).toEqual(['NAME', null, 'bar colour', 'Score', null])
  for (const slot of slotsOf(scene)) matchColumn(scene, { ...slot, column: `${slot.id} ${slot.part}` })
  const again = readScene(sceneText(scene), 'again')
  expect(fieldsOf(again)).toEqual(['who words', 'who colour', 'bar colour', 'score number', 'score colour'])
  for (const slot of slotsOf(again)) matchColumn(again, { ...slot, column: null })
  expect(fieldsOf(again)).toEqual([])
  expect(again.elements.every(({ columns: left }) => left === undefined)).toBe(true)
})

test('a frame is carried straight, at its depth, as any reader of PNG sees it; too long a file is refused', async () => {
  const samples = Uint16Array.from([65535, 0, 0, 32768, 0, 20000, 0, 20000])
  const frame = {
    width: 2,
    height: 1,
    depth: 16,
    samples,
    alpha: { mode: 'premultiplied', matte: '#000000' },
    transfer: 'srgb'
  } as const
  const { data, width, height } = await carriedPicture(
    { ...frame, samples: Uint16Array.from([32768, 0, 0, 32768, 0, 20000, 0, 20000]) },
    host,
    'one'
  )
  expect([width, height]).toEqual([2, 1])
  const seen = await sharpFrame(Uint8Array.from(Buffer.from(data, 'base64')))
  expect([...seen.samples]).toEqual([65535, 0, 0, 32768, 0, 65535, 0, 20000])
  const large = noise({ width: 900, height: 900, depth: 8, runs: 0 })
  await expect(carriedPicture(large, host, 'noise.png')).rejects.toThrow(
    /noise\.png: it comes to [\d.]+ MB; a scene carries/
  )
})
