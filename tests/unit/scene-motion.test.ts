/** Counters, what moves along a path, and lettering that stands on one. */
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { actsOn } from '../../core/draw/scene/acting'
import { counter } from '../../core/draw/scene/elements/counter'
import { sayValue, valueAt } from '../../core/draw/scene/elements/counter/count'
import type { CounterLook } from '../../core/draw/scene/elements/counter/look'
import { elementEntries } from '../../core/draw/scene/elements/form'
import { lettered } from '../../core/draw/scene/elements/lettering'
import type { PathLook } from '../../core/draw/scene/elements/path/look'
import { figure } from '../../core/draw/scene/elements/shape'
import { elementsText, paste, readElements } from '../../core/draw/scene/copies'
import { emptyScene, newElement } from '../../core/draw/scene/fresh'
import { remove } from '../../core/draw/scene/groups'
import { SceneRenderer } from '../../core/draw/scene/render'
import { offersOf, type Element, type Scene } from '../../core/draw/scene/scene'
import { spotOn } from '../../core/draw/raster/line'
import { testHost } from './support'

const SIZE = { width: 200, height: 120, rate: [10, 1] as [number, number], seconds: 2 }
const sceneOf = (...elements: Element[]): Scene => ({ ...emptyScene('m', SIZE), elements })
const element = (id: string, of: Element['look'], more: Partial<Element> = {}): Element => ({
  ...newElement(id, id, of, SIZE),
  ...more
})
const begun = counter.begins as Extract<typeof counter.begins, { from: 'size' }>
const look = (more: Partial<CounterLook> = {}): CounterLook => ({ ...begun.fresh(SIZE), ease: 'linear', ...more })

describe('a counter', () => {
  test('shows each value until the next is reached, and the last from its time on', () => {
    const up = look({ from: 0, to: 4, takes: 2 })
    expect([0, 0.4, 0.5, 0.9, 1, 1.9, 2, 5].map(at => valueAt(up, at))).toEqual([0, 0, 1, 1, 2, 3, 4, 4])
    const down = look({ from: 5, to: 0, takes: 5 })
    expect([0, 0.5, 1, 3.2, 4.99, 5].map(at => valueAt(down, at))).toEqual([5, 5, 4, 2, 1, 0])
    expect(valueAt(look({ from: 1, to: 9, takes: 0 }), 0)).toBe(9)
  })

  test('goes one way only, and ends where it says', () => {
    const value = fc.integer({ min: -100_000, max: 100_000 })
    fc.assert(
      fc.property(
        value,
        value,
        fc.nat(3),
        fc.double({ min: 0.1, max: 10, noNaN: true }),
        (from, to, decimals, takes) => {
          const own = look({ from, to, decimals, takes })
          const shown = Array.from({ length: 30 }, (_, n) => valueAt(own, (n / 29) * takes))
          for (const [n, each] of shown.entries())
            if (n) expect((each - shown[n - 1]!) * Math.sign(to - from || 1)).toBeGreaterThanOrEqual(0)
          expect([shown[0], shown.at(-1)]).toEqual([from, to])
        }
      )
    )
  })

  test.each([
    [{ marks: '1 000,5', decimals: 1 }, 1234567.8, '1\u00a0234\u00a0567,8'],
    [{ marks: '1,000.5' }, -1234, '−1,234'],
    [{ marks: '1000.5', decimals: 2 }, -0.001, '0.00'],
    [{ before: '£', behind: ' m' }, 12, '£12 m'],
    [{ shows: 'minutes' }, 125, '2:05'],
    [{ shows: 'hours', decimals: 2, marks: '1000.5' }, 3725.5, '1:02:05.50'],
    [{ shows: 'minutes' }, 3725, '62:05']
  ] as [Partial<CounterLook>, number, string][])('%o says %d as %s', (more, value, words) => {
    expect(sayValue(look({ marks: '1 000.5', ...more }), value)).toBe(words)
  })

  test('is drawn as the lettering of its value is, its figures of one width', async () => {
    const host = await testHost()
    const frames = async (of: Element, index: number): Promise<Uint16Array> => {
      const renderer = await SceneRenderer.of(sceneOf(of), host)
      return renderer.frame(index).samples as Uint16Array
    }
    const running = element('c', look({ from: 10, to: 30, takes: 2, size: 60, face: 'sans', colour: '#ffffff' }))
    const words = element('c', lettered('20', 60, { face: 'sans', colour: '#ffffff', align: 'centre' }))
    expect(await frames(running, 10)).toEqual(await frames(words, 0))
    const renderer = await SceneRenderer.of(sceneOf(running), host)
    expect(renderer.told).toEqual([])
    expect(renderer.missing).toEqual([])
  })
})

const straight = { before: null, after: null }
const corner: PathLook = {
  kind: 'path',
  points: [
    { x: -50, y: 0, ...straight },
    { x: 50, y: 0, ...straight },
    { x: 50, y: 50, ...straight }
  ],
  closed: false,
  fill: null,
  stroke: { colour: '#ffffff', width: 1 },
  rider: 'none',
  riderSize: 1
}

describe('along a path', () => {
  const along: Element['tracks'] = [
    {
      of: 'along',
      keys: [
        { at: 0, value: 0, ease: 'linear' },
        { at: 1.5, value: 1, ease: 'linear' }
      ]
    }
  ]
  const bar = element('bar', figure('rectangle', 20, 4), { tracks: along, rides: { path: 'way', turned: true } })
  const way = element('way', corner, { x: 100, y: 60, hidden: true })

  test('a place far along a line, and straight on beyond its ends', () => {
    const spot = spotOn(Float64Array.from([0, 0, 0, 0, 10, 0, 10, 0, 10, 10]))
    expect([-5, 5, 12, 30].map(spot)).toEqual([
      { x: -5, y: 0, turned: 0 },
      { x: 5, y: 0, turned: 0 },
      { x: 10, y: 2, turned: 90 },
      { x: 10, y: 20, turned: 90 }
    ])
  })

  test('an element moves at even speed, turned along it or not, and its path need not be seen', async () => {
    const boxes = async (of: Element, index: number): Promise<number[]> => {
      const renderer = await SceneRenderer.of(sceneOf(of, way), await testHost())
      return renderer.boxes(index).bar!.map(Math.round)
    }
    expect(await boxes(bar, 0)).toEqual([40, 58, 60, 62])
    expect(await boxes(bar, 5)).toEqual([90, 58, 110, 62])
    expect(await boxes(bar, 15)).toEqual([148, 100, 152, 120])
    expect(await boxes({ ...bar, rides: { path: 'way', turned: false } }, 15)).toEqual([140, 108, 160, 112])
  })

  test('one that names none stands where it is put, and that is told', async () => {
    const renderer = await SceneRenderer.of(sceneOf(bar), await testHost())
    expect(renderer.boxes(0).bar!.map(Math.round)).toEqual([90, 58, 110, 62])
    expect(renderer.told.map(({ id }) => id)).toEqual(['rides-nothing'])
  })

  test('values over time that change nothing are told, and are not offered', async () => {
    const tracks = (['along', 'dashes', 'trace'] as const).map(of => ({
      of,
      keys: [{ at: 0, value: 0.5, ease: 'linear' as const }]
    }))
    const idle = await SceneRenderer.of(sceneOf(element('words', lettered('l', 20), { tracks })), await testHost())
    expect(idle.told.map(({ id, sentence }) => [id, /\((.*)\)/.exec(sentence)![1]])).toEqual([
      ['values-idle', 'along'],
      ['values-idle', 'dashes'],
      ['values-idle', 'trace']
    ])
    const dashed: PathLook = { ...corner, stroke: { colour: '#ffffff', width: 2, dashes: [4, 4] } }
    const all = element('line', dashed, { tracks, rides: { path: 'way', turned: true } })
    expect((await SceneRenderer.of(sceneOf(all, way), await testHost())).told).toEqual([])
    expect([actsOn(all, 'dashes'), actsOn(way, 'dashes'), actsOn(way, 'along'), actsOn(way, 'x')]).toEqual([
      true,
      false,
      false,
      true
    ])
  })

  test('letters stand on it one by one, turned; where it is too short they go straight on, and that is told', async () => {
    const words = (more: Partial<Element> = {}, align: 'left' | 'centre' = 'left'): Element =>
      element('words', lettered('ll', 20, { onto: { path: 'way', begins: 0 }, align, colour: '#ffffff' }), more)
    const host = await testHost()
    const onLine = await SceneRenderer.of(sceneOf(words({ x: 3, y: 5 }), { ...way, hidden: false }), host)
    // wherever the element is put, its letters stand on the path
    const [left, top, , bottom] = onLine.boxes(0).words!
    expect(left).toBeGreaterThanOrEqual(50)
    expect(left).toBeLessThan(54)
    expect(Math.round(bottom)).toBe(60)
    expect(top).toBeLessThan(50)
    const down = element('words', lettered('l', 20, { onto: { path: 'way', begins: 125 } }))
    const [l, , r] = (await SceneRenderer.of(sceneOf(down, way), host)).boxes(0).words!
    // turned to the right, it stands on the line that goes down, its head to the right
    expect([Math.round(l), r > 160]).toEqual([150, true])
    const long = element('words', lettered('Fernbrook Glasshouse', 40, { onto: { path: 'way', begins: 0 } }))
    const told = async (scene: Scene): Promise<string[]> =>
      (await SceneRenderer.of(scene, host)).told.map(({ id }) => id)
    expect(await told(sceneOf(long, way))).toEqual(['onto-short'])
    expect(await told(sceneOf(words()))).toEqual(['onto-nothing'])
    expect(await told(sceneOf(words({}, 'centre'), way))).toEqual([])
  })

  test('paths are offered, go along in copies, and let go of what is on them when they are removed', () => {
    const words = element('words', lettered('l', 20))
    const scene = sceneOf(bar, words, way)
    const set = (of: Element, label: string, value: unknown): void =>
      elementEntries(of, offersOf(scene, of))
        .find(({ field }) => field.label === label)!
        .set(of, value)
    const [rider, letters] = scene.elements
    set(letters!, 'Stands on', 'way')
    set(letters!, 'On along it by', 12)
    expect(letters!.look).toMatchObject({ onto: { path: 'way', begins: 12 } })
    set(rider!, 'Turned along it', false)
    expect(rider!.rides).toEqual({ path: 'way', turned: false })
    const held = sceneOf(
      element('g', { kind: 'group' }),
      ...structuredClone(scene.elements).map(each => ({ ...each, inside: 'g' }))
    )
    const { ids } = paste(held, readElements(elementsText(held, 'g')))
    const copies = held.elements.filter(({ inside }) => inside === ids[0])
    const path = copies.find(each => each.look.kind === 'path')!.id
    expect(path).not.toBe('way')
    expect(copies.find(({ rides }) => rides)!.rides!.path).toBe(path)
    expect(copies.find(each => each.look.kind === 'text')!.look).toMatchObject({ onto: { path } })
    remove(scene, 'way')
    expect(scene.elements[0]).not.toHaveProperty('rides')
  })
})
