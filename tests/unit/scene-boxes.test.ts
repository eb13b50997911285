/** Lettering in a box, and bars as wide as a lettering: drawn, filled from a table, pasted, and told. */
import { expect, test } from 'vitest'
import { elementsText, paste, readElements } from '../../core/draw/scene/copies'
import { lettered } from '../../core/draw/scene/elements/lettering'
import { figure } from '../../core/draw/scene/elements/shape'
import { filledFrom, readTable } from '../../core/draw/scene/tables'
import { openScene } from '../../core/draw/scene/format'
import { emptyScene, newElement } from '../../core/draw/scene/fresh'
import { SceneRenderer } from '../../core/draw/scene/render'
import { Scene, type Element } from '../../core/draw/scene/scene'
import { findingKind } from '../../core/source/finding-kinds'
import { bytesFile, testHost } from './support'

const host = await testHost()
const SIZE = { width: 640, height: 200, rate: [25, 1] as [number, number], seconds: 1 }
const BOX = { width: 200, lines: 1, least: 0.5, clip: false }

const still = (id: string, look: Element['look'], more: Partial<Element> = {}): Element => {
  const element = { ...newElement(id, id, look, SIZE), ...more }
  element.entrance = { ...element.entrance, kind: 'none' }
  element.exit = { ...element.exit, kind: 'none' }
  return element
}
const sceneOf = (...elements: Element[]): Scene => Scene.parse({ ...emptyScene('boxes', SIZE), elements })
const words = (text: string, box: Partial<typeof BOX> = {}, more: Partial<Element> = {}): Element =>
  still('words', lettered(text, 60, { face: 'sans', field: 'name', box: { ...BOX, ...box } }), {
    ...{ x: 100, y: 100, ...more }
  })
const toldOf = async (scene: Scene): Promise<[string, string, string][]> => {
  const { facts, close } = await openScene(bytesFile('x.json', new TextEncoder().encode(JSON.stringify(scene))), host)
  await close()
  return facts.findings
    .filter(({ id }) => id.startsWith('letters') || id.startsWith('follows'))
    .map(finding => [...([finding.id, finding.severity, finding.sentence] as const)])
}
/** Left, top, right and bottom of what is drawn at all. */
async function inkOf(scene: Scene): Promise<[number, number, number, number]> {
  const { samples, width } = (await SceneRenderer.of(scene, host)).frame(5)
  const box: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity]
  for (let i = 3; i < samples.length; i += 4) {
    if (samples[i] === 0) continue
    const [x, y] = [((i - 3) / 4) % width, Math.floor((i - 3) / 4 / width)]
    box[0] = Math.min(box[0], x)
    box[1] = Math.min(box[1], y)
    box[2] = Math.max(box[2], x + 1)
    box[3] = Math.max(box[3], y + 1)
  }
  return box
}

test('what fits is set as it is; what is too long shrinks into its box, and is told', async () => {
  const free = sceneOf(still('words', lettered('Fern', 60, { face: 'sans' }), { x: 100, y: 100 }))
  expect(await inkOf(sceneOf(words('Fern')))).toEqual(await inkOf(free))
  expect(await toldOf(sceneOf(words('Fern')))).toEqual([])
  const long = sceneOf(words('Rhododendron trail', { least: 0.3 }))
  const [left, , right, bottom] = await inkOf(long)
  expect(left).toBeGreaterThanOrEqual(100)
  expect(right).toBeLessThanOrEqual(301)
  expect(right).toBeGreaterThan(294)
  // it stands on the same line
  expect(Math.abs(bottom - 101)).toBeLessThanOrEqual(1)
  const [told] = await toldOf(long)
  expect(told!.slice(0, 2)).toEqual(['letters-shrunk', 'warning'])
  expect(told![2]).toMatch(/^The lettering “words” is set at \d\d(\.\d)? % of its size, to fit its box\.$/)
})

test.each(['', ' ', '\n', '\t\u200f', '\r\n \n'])('nothing to letter is nothing in a box: %j', async text => {
  const { samples } = (await SceneRenderer.of(sceneOf(words(text, { lines: 3 })), host)).frame(5)
  expect(samples.every(code => code === 0)).toBe(true)
  expect(await toldOf(sceneOf(words(text)))).toEqual([])
})

test('what does not fit at its least sticks out, or is cut off; either is told', async () => {
  const out = sceneOf(words('Chrysanthemum of the palm house'))
  expect((await inkOf(out))[2]).toBeGreaterThan(400)
  expect(await toldOf(out)).toEqual([
    ['letters-over', 'warning', 'The lettering “words” does not fit its box even at 50 % of its size: it sticks out.']
  ])
  const cut = sceneOf(words('Chrysanthemum of the palm house', { clip: true, width: 90 }))
  const [left, , right] = await inkOf(cut)
  expect([left >= 100, right <= 190]).toEqual([true, true])
  const [told] = await toldOf(cut)
  expect(told!.slice(0, 2)).toEqual(['letters-clipped', 'warning'])
  expect(told![2]).toContain('what is too much is cut off')
  expect(findingKind('letters-clipped').leftOut).toBe('pictures')
})

test('lines are broken into the box and set to its side', async () => {
  const text = 'The palm house opens at night'
  const lines = sceneOf(words(text, { lines: 4, least: 1, width: 260 }, { y: 50 }))
  const [left, , right, bottom] = await inkOf(lines)
  expect([left >= 100, right <= 360]).toEqual([true, true])
  expect(bottom).toBeGreaterThan(50 + 60)
  const look = lettered(text, 60, { align: 'right', box: { ...BOX, lines: 4, least: 1, width: 260 } })
  const [from, , to] = await inkOf(sceneOf(still('words', look, { x: 400, y: 50 })))
  expect([from >= 140, to <= 401, to > 394]).toEqual([true, true, true])
})

const bar = (more: Partial<Element> = {}, lettering = 'words'): Element =>
  still('bar', figure('rectangle', 50, 80, { follows: { lettering, beyond: 20 } }), { x: 320, y: 90, ...more })

test('lines that were entered keep their indents in a box', async () => {
  const left = async (text: string): Promise<number> => {
    const renderer = await SceneRenderer.of(sceneOf(words(text, { lines: 3, width: 500 }, { y: 60 })), host)
    const { samples, width } = renderer.frame(5)
    let first = Infinity
    for (let y = 90; y < 140; y++)
      for (let x = 0; x < first && x < width; x++) if (samples[4 * (y * width + x) + 3]) first = x
    return first
  }
  expect((await left('Ivy\n   Ivy')) - (await left('Ivy\nIvy'))).toBeGreaterThan(30)
})

test('a bar is as wide as its lettering, row for row of a table, whatever either is scaled by', async () => {
  const scene = sceneOf(still('words', lettered('x', 60, { field: 'name' }), { x: 100, y: 100 }), bar())
  const { rows } = filledFrom(scene, readTable('name\nIvy\nAspidistra\nשושנה', 'names.csv'))
  const widths = await Promise.all(
    rows.map(async ({ scene: each }) => {
      const { words: text, bar: behind } = (await SceneRenderer.of(each, host)).boxes(5) as Record<string, number[]>
      expect(behind![0]).toBeCloseTo(text![0]! - 20, 6)
      expect(behind![2]).toBeCloseTo(text![2]! + 20, 6)
      expect(behind![3]! - behind![1]!).toBeCloseTo(80, 6)
      return behind![2]! - behind![0]!
    })
  )
  expect(widths[1]! / widths[0]!).toBeGreaterThan(2)
  const scaled = sceneOf(still('words', lettered('Ivy', 60), { x: 100, y: 100, scale: 1.5 }), bar({ scale: 0.5 }))
  const at = (await SceneRenderer.of(scaled, host)).boxes(5) as Record<string, number[]>
  expect(at.bar![0]).toBeCloseTo(at.words![0]! - 10, 6)
  expect(at.bar![2]).toBeCloseTo(at.words![2]! + 10, 6)
})

test('a bar whose lettering is gone keeps its own width and says so; pasted together they stay together', async () => {
  const alone = sceneOf(bar())
  expect((await SceneRenderer.of(alone, host)).boxes(5).bar).toEqual([295, 50, 345, 130])
  expect((await toldOf(alone)).map(([id, severity]) => [id, severity])).toEqual([['follows-nothing', 'warning']])
  // itself, or another shape, is no lettering
  expect(await toldOf(sceneOf(bar({}, 'bar')))).toHaveLength(1)
  const group = still('both', { kind: 'group' } as Element['look'])
  const scene = sceneOf(group, { ...words('Fern'), inside: 'both' }, { ...bar(), inside: 'both' })
  const lost = async (): Promise<string[]> =>
    (await toldOf(scene)).map(([id]) => id).filter(id => id === 'follows-nothing')
  expect(await lost()).toEqual([])
  paste(scene, readElements(elementsText(scene, 'both')))
  const followed = scene.elements.flatMap(({ look }) => (look.kind === 'shape' ? [look.follows!.lettering] : []))
  expect(new Set(followed).size).toBe(2)
  for (const id of followed) expect(scene.elements.some(each => each.id === id)).toBe(true)
  expect(await lost()).toEqual([])
})
