/** Colours that change over time: exact at their keys, even between them, and nothing else touched. */
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import type { Frame } from '../../core/frame/frame'
import { emptyScene, newElement, type SceneSize } from '../../core/draw/scene/fresh'
import { figure } from '../../core/draw/scene/elements/shape'
import { lettered } from '../../core/draw/scene/elements/lettering'
import { SceneRenderer } from '../../core/draw/scene/render'
import { Scene, type Element } from '../../core/draw/scene/scene'
import type { ColourKey } from '../../core/draw/scene/values'
import type { Look } from '../../core/draw/scene/elements/kinds'
import { tintAt } from '../../core/draw/scene/tint'
import { testHost } from './support'

const host = await testHost()
const SIZE: SceneSize = { width: 80, height: 60, rate: [10, 1], seconds: 2 }
const RED_TO_BLUE: ColourKey[] = [
  { at: 0.2, colour: '#ff0000', ease: 'linear' },
  { at: 1.2, colour: '#0000ff', ease: 'linear' }
]

async function rendered(look: Look, more: Partial<Element>, index: number): Promise<Frame> {
  const element = { ...newElement('one', 'One', look, SIZE), ...more }
  const scene = Scene.parse({ ...emptyScene('test', SIZE), elements: [element] })
  return (await SceneRenderer.of(scene, host)).frame(index)
}

const middle = ({ samples, width, height }: Frame): number[] => {
  const at = 4 * ((height / 2) * width + width / 2)
  return [...samples.slice(at, at + 4)]
}

describe('a colour over time', () => {
  test('is that of its keys at their times, stays before and after, and runs evenly between, finer than 8 bits', async () => {
    const at = (index: number) =>
      rendered(figure('rectangle', 40, 30, { fill: '#123456', fillOpacity: 0.6 }), { colours: RED_TO_BLUE }, index)
    expect(middle(await at(0))).toEqual([65535, 0, 0, 39321])
    expect(middle(await at(2))).toEqual([65535, 0, 0, 39321])
    expect(middle(await at(12))).toEqual([0, 0, 65535, 39321])
    expect(middle(await at(19))).toEqual([0, 0, 65535, 39321])
    const [r, g, b, a] = middle(await at(5)) as [number, number, number, number]
    expect([g, a]).toEqual([0, 39321])
    // three tenths of the way: 0.7 and 0.3 of full, which no code of 8 bits is
    expect(Math.abs(r - 0.7 * 65535)).toBeLessThan(3)
    expect(Math.abs(b - 0.3 * 65535)).toBeLessThan(3)
  })

  test('whatever the keys and the time, it lies between the two around it', () => {
    const colours = fc.integer({ min: 0, max: 0xffffff }).map(n => `#${n.toString(16).padStart(6, '0')}`)
    const eases = fc.constantFrom<ColourKey['ease']>('linear', 'soft', 'beyond', [0.1, -1, 0.9, 2])
    const keys = fc.array(fc.record({ at: fc.double({ min: 0, max: 9, noNaN: true }), colour: colours, ease: eases }), {
      minLength: 1,
      maxLength: 6
    })
    fc.assert(
      fc.property(keys, fc.double({ min: -1, max: 10, noNaN: true }), (given, at) => {
        const tint = tintAt(given, at)!
        expect(tint.share).toBeGreaterThanOrEqual(0)
        expect(tint.share).toBeLessThanOrEqual(1)
        const named = given.map(({ colour }) => colour)
        expect(named).toContain(tint.from)
        expect(named).toContain(tint.to)
      })
    )
    expect(tintAt(undefined, 1)).toBe(null)
  })

  test('lettering takes it, but words set otherwise keep theirs, and alpha is that of the scene without it', async () => {
    const accents = [{ words: 'Fern', face: 'sans-half-bold', colour: '#00ff00', scale: 1 }]
    const look = lettered('Ada Fern', 14, { align: 'centre', colour: '#ffffff', accents })
    const tinted = await rendered(look, { colours: RED_TO_BLUE }, 0)
    const plain = await rendered(look, {}, 0)
    let [red, green] = [0, 0]
    for (let i = 0; i < plain.samples.length; i += 4) {
      expect(tinted.samples[i + 3]).toBe(plain.samples[i + 3])
      if (plain.samples[i + 3] !== 65535) continue
      const [r, g] = tinted.samples.slice(i, i + 3)
      if (r === 65535 && g === 0) red++
      if (g === 65535 && r === 0) green++
    }
    expect(red).toBeGreaterThan(10)
    expect(green).toBeGreaterThan(10)
  })

  test('of a shape without an area, and of a path, the line takes it', async () => {
    const outlined = figure('rectangle', 40, 30, { fill: null, stroke: { colour: '#123456', width: 30 } })
    const path: Look = {
      kind: 'path',
      points: [
        { x: -20, y: 0, before: null, after: null },
        { x: 20, y: 0, before: null, after: null }
      ],
      closed: false,
      fill: null,
      stroke: { colour: '#123456', width: 10 },
      rider: 'none',
      riderSize: 10
    }
    for (const look of [outlined, path]) {
      const { samples } = await rendered(look, { colours: RED_TO_BLUE }, 0)
      const solid = [...samples.keys()].filter(i => i % 4 === 3 && samples[i] === 65535)
      expect(solid.length).toBeGreaterThan(100)
      for (const i of solid) expect([...samples.slice(i - 3, i)]).toEqual([65535, 0, 0])
    }
  })
})
