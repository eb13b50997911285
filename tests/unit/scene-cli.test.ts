/** `scene` on the command line: one scene, one for each row of a table, and what is refused. */
import { mkdir, mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { sceneText } from '../../core/draw/scene/as-file'
import { figure } from '../../core/draw/scene/elements/shape'
import { emptyScene, newElement } from '../../core/draw/scene/fresh'
import type { Element, Scene } from '../../core/draw/scene/scene'
import { STRAIGHT } from '../../core/frame/frame'
import { encodePng } from '../../core/media/pictures/png/encode'
import { starters } from '../../core/draw/scene/starters'
import { builtCommandLine, runIn } from './command-line'
import { sharpFrame, testHost } from './support'

const folder = await mkdtemp(path.join(tmpdir(), 'pour-scenes-'))
afterAll(() => rm(folder, { recursive: true, force: true }))

const strap = starters[0]!.make(
  { name: 'Nobody', line: 'Nothing' },
  { width: 160, height: 90, rate: [25, 1], seconds: 0.4 }
)

beforeAll(async () => {
  await builtCommandLine()
  await writeFile(path.join(folder, 'strap.json'), sceneText(strap))
  await writeFile(path.join(folder, 'people.csv'), 'name,line\nŁucja,Ferns\nIvo/Reed,Night\nIvo/Reed,Again\n')
})

test('a scene is rendered, poured and proven, in another size where that is asked', async () => {
  const { code, out, error } = await runIn(folder, [
    ...['scene', 'strap.json', '--format', 'quicktime-png', '--to', 'strap.mov', '--size', '80x45', '--json']
  ])
  expect([code, error]).toEqual([0, ''])
  expect(JSON.parse(out)).toMatchObject({ frames: 10, verdict: 'identical' })
  const inspected = await runIn(folder, ['inspect', 'strap.mov', '--json'])
  expect(JSON.parse(inspected.out)).toMatchObject({ width: 80, height: 45, rate: [25, 1] })
})

test('a scene is rendered at the rate that is asked for, as long as it is', async () => {
  const args = ['scene', 'strap.json', '--format', 'quicktime-png', '--to', 'fast.mov', '--rate', '50']
  expect((await runIn(folder, args)).code).toBe(0)
  const inspected = await runIn(folder, ['inspect', 'fast.mov', '--json'])
  expect(JSON.parse(inspected.out)).toMatchObject({ frames: 20, rate: [50, 1] })
})

test('a table gives one delivery a row, named by a column; names that are alike are told apart', async () => {
  const { code } = await runIn(folder, [
    ...['scene', 'strap.json', '--format', 'quicktime-animation', '--set', 'existing=replace'],
    ...['--fields', 'people.csv', '--names', 'name', '--to', 'straps']
  ])
  expect(code).toBe(0)
  expect((await readdir(path.join(folder, 'straps'))).sort()).toEqual(['Ivo-Reed.mov', 'Ivo-Reed_2.mov', 'Łucja.mov'])
})

test('a table that the scene does not meet is asked about before anything is poured', async () => {
  await writeFile(path.join(folder, 'apart.csv'), 'name,role\nAda,Keeper\n')
  const args = ['scene', 'strap.json', '--format', 'quicktime-png', '--fields', 'apart.csv', '--to', 'apart']
  const refused = await runIn(folder, args)
  expect(refused.code).toBe(2)
  expect(refused.error).toContain('Nothing in the scene takes the column "role".')
  expect(refused.error).toContain('The table has no column "line"')
  expect(await readdir(folder)).not.toContain('apart')
  const agreed = await runIn(folder, [...args, '--partly'])
  expect(agreed.code).toBe(0)
  expect(agreed.error).toContain('Nothing in the scene takes the column "role".')
  expect(await readdir(path.join(folder, 'apart'))).toEqual(['Ada.mov'])
})

test('pictures, colours and numbers of a table are taken from beside it; what cannot be stops the call in words', async () => {
  const size = { width: 60, height: 40, rate: [25, 1] as [number, number], seconds: 0.12 }
  const plain = async (colour: number[]): Promise<Uint8Array> => {
    const samples = Uint8Array.from({ length: 4 * 8 * 8 }, (_, i) => colour[i % 4]!)
    return encodePng(await testHost(), { width: 8, height: 8, depth: 8, samples, alpha: STRAIGHT, transfer: 'srgb' })
  }
  const grey = Buffer.from(await plain([9, 9, 9, 255])).toString('base64')
  const picture = { kind: 'picture', data: grey, width: 20, height: 20 } as Element['look']
  const scene: Scene = {
    ...emptyScene('faces', size),
    elements: [
      { ...newElement('face', 'Face', picture, size), x: 15, columns: { picture: 'face' } },
      { ...newElement('bar', 'Bar', figure('rectangle', 20, 20), size), x: 45, columns: { colour: 'tone' } }
    ]
  }
  await writeFile(path.join(folder, 'faces.json'), sceneText(scene))
  await mkdir(path.join(folder, 'own faces'))
  await writeFile(path.join(folder, 'own faces', 'ada.png'), await plain([0, 200, 0, 255]))
  await writeFile(
    path.join(folder, 'faces.csv'),
    'name,face,tone\nAda,own faces/ada.png,#0000ff\nIvo,own faces/ivo.png,blue\n'
  )
  const args = ['scene', 'faces.json', '--format', 'png-sequence', '--fields', 'faces.csv', '--to', 'faces']
  const refused = await runIn(folder, args)
  expect(refused.code).toBe(2)
  expect(refused.error).toContain('Ivo: There is no picture “own faces/ivo.png”; “Face” keeps its own.')
  expect(refused.error).toContain('Ivo: “blue” is no colour; “Bar” keeps its own.')
  expect(await readdir(folder)).not.toContain('faces')
  expect((await runIn(folder, [...args, '--partly'])).code).toBe(0)
  const first = async (name: string): Promise<number[][]> => {
    const files = (await readdir(path.join(folder, 'faces', name))).filter(file => file.endsWith('.png')).sort()
    const { samples, width } = await sharpFrame(await readFile(path.join(folder, 'faces', name, files[0]!)))
    const full = samples instanceof Uint8Array ? 1 : 257
    return [15, 45].map(x =>
      [...samples.slice(4 * (20 * width + x), 4 * (20 * width + x) + 4)].map(code => code / full)
    )
  }
  expect(await first('Ada')).toEqual([
    [0, 200, 0, 255],
    [0, 0, 255, 255]
  ])
  expect((await first('Ivo'))[0]).toEqual([9, 9, 9, 255])
})

test('letters that no face has, and lettering outside the picture, are told and are a loss', async () => {
  const long = starters[0]!.make({ name: '', line: '' }, { width: 160, height: 90, rate: [10, 1], seconds: 3 })
  await writeFile(path.join(folder, 'long.json'), sceneText(long))
  await writeFile(
    path.join(folder, 'odd.csv'),
    `name,line\nAda,Ferns\n\u{13000},Night\n${'Palm House '.repeat(9)},Day\n`
  )
  const { code, out, error } = await runIn(folder, [
    ...['scene', 'long.json', '--format', 'quicktime-png', '--fields', 'odd.csv', '--to', 'odd']
  ])
  expect(code).toBe(0)
  const lines = error.split('\n')
  expect(lines.filter(line => line.startsWith('\u{13000}: The type face has no \u{13000}'))).toHaveLength(1)
  expect(
    lines.filter(line => /^Palm House .*: \d+ % of the lettering “Name” never lies within/.test(line))
  ).toHaveLength(1)
  expect(lines.filter(line => line.startsWith('Ada'))).toEqual([])
  const titles = out.split('\n').filter(line => line.includes('.mov:'))
  expect(titles[0]).toContain('Transparency survives: identical')
  expect(titles[1]).toContain('visible loss')
  expect(titles[2]).toContain('visible loss')
})

test.each([
  [['scene', 'strap.json', '--format', 'gif', '--to', 'x.gif', '--partly'], 2, '--partly goes with --fields'],
  [['scene', 'strap.json', '--format', 'gif', '--to', 'x.gif', '--rate', 'quick'], 2, '--rate takes frames per second'],
  [['scene', 'nothing.json', '--format', 'gif', '--to', 'x.gif'], 3, 'it cannot be read'],
  [['scene', 'people.csv', '--format', 'gif', '--to', 'x.gif'], 3, 'not a complete JSON file'],
  [['scene', 'strap.json', '--format', 'gif'], 2, '--to is needed'],
  [['scene', 'strap.json', '--format', 'gif', '--to', 'x.gif', '--size', 'large'], 2, '--size takes a width'],
  [['scene', 'strap.json', '--format', 'gif', '--to', 'x', '--names', 'name'], 2, '--names goes with --fields'],
  [
    ['scene', 'strap.json', '--format', 'gif', '--to', 'x', '--fields', 'people.csv', '--names', 'who'],
    5,
    'no column called "who"'
  ]
] as const)('%j ends with %i', async (args, ends, why) => {
  const { code, error } = await runIn(folder, args)
  expect(code).toBe(ends)
  expect(error).toContain(why)
})

test('the command line checks a file whole, as words and as data, and makes nothing', async () => {
  const least = {
    ...{ pour: 'scene', version: 1, width: 64, height: 36, frames: 5 },
    elements: [{ id: 'a', look: { kind: 'text', text: 'Fern', size: 12 } }]
  }
  await writeFile(path.join(folder, 'good.json'), JSON.stringify(least))
  await writeFile(path.join(folder, 'bad.json'), JSON.stringify({ ...least, widht: 3, frames: 0 }))
  const good = await runIn(folder, ['scene', 'good.json', '--check'])
  expect([good.code, good.out.trim()]).toEqual([0, 'Nothing in the file is wrong: 64x36, frames: 5, elements: 1.'])
  const bad = await runIn(folder, ['scene', 'bad.json', '--check'])
  expect(bad.code).toBe(3)
  expect(bad.out.trim().split('\n')).toEqual([
    'widht: nothing is called “widht” here; the nearest is “width”',
    'frames: 1 is the least it can be; it is 0'
  ])
  const data = JSON.parse((await runIn(folder, ['scene', 'bad.json', '--check', '--json'])).out) as {
    faults: unknown[]
  }
  expect(data.faults).toHaveLength(2)
  expect((await runIn(folder, ['scene', 'good.json', '--check', '--to', 'x.mov'])).code).toBe(2)
})
