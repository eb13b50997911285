/** Particles and what is drawn again: the same wherever one begins to look, as many as asked for, on their way. */
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { particles } from '../../core/draw/scene/elements/particles'
import { particlesAt } from '../../core/draw/scene/elements/particles/emit'
import type { ParticlesLook } from '../../core/draw/scene/elements/particles/look'
import { figure } from '../../core/draw/scene/elements/shape'
import { emptyScene, newElement } from '../../core/draw/scene/fresh'
import { SceneRenderer } from '../../core/draw/scene/render'
import type { Element, Scene } from '../../core/draw/scene/scene'
import { starters } from '../../core/draw/scene/starters'
import { testHost } from './support'

const SIZE = { width: 120, height: 90, rate: [20, 1] as [number, number], seconds: 2 }
const begun = particles.begins as Extract<typeof particles.begins, { from: 'size' }>
const look = (more: Partial<ParticlesLook> = {}): ParticlesLook => ({ ...begun.fresh(SIZE), before: false, ...more })
const sceneOf = (...elements: Element[]): Scene => ({ ...emptyScene('p', SIZE), elements })
const element = (id: string, of: Element['look'], more: Partial<Element> = {}): Element => ({
  ...newElement(id, id, of, SIZE),
  ...more
})
const anyLook = fc.record({
  seed: fc.nat(1000),
  rate: fc.double({ min: 1, max: 200, noNaN: true }),
  life: fc.double({ min: 0.1, max: 5, noNaN: true }),
  differ: fc.double({ min: 0, max: 1, noNaN: true }),
  fan: fc.double({ min: 0, max: 180, noNaN: true }),
  drag: fc.double({ min: 0, max: 5, noNaN: true }),
  turbulence: fc.double({ min: 0, max: 100, noNaN: true })
})

describe('particles', () => {
  test('are there as often as their rate and life say', () => {
    fc.assert(
      fc.property(anyLook, some => {
        const own = look({ ...some, differ: 0, before: true })
        const found = particlesAt(own, 3.21)
        expect(Math.abs(found.length - own.rate * own.life)).toBeLessThanOrEqual(1)
        for (const { age, opacity } of found) expect(age >= 0 && age < 1 && opacity >= 0 && opacity <= 1).toBe(true)
      })
    )
    expect(particlesAt(look({ rate: 10, life: 5, differ: 0 }), 0.95)).toHaveLength(10)
  })

  test('fall as bodies fall, and come to rest by drag', () => {
    const still = { differ: 0, fan: 0, turbulence: 0, width: 0, height: 0, rate: 1, life: 10 }
    const [fallen] = particlesAt(look({ ...still, speed: 0, gravity: 100 }), 0.5)
    expect([fallen!.x, fallen!.y]).toEqual([0, 12.5])
    const [thrown] = particlesAt(look({ ...still, speed: 60, way: 0, drag: 0 }), 0.5)
    expect(thrown!.x).toBe(30)
    const [slowed] = particlesAt(look({ ...still, speed: 60, way: 0, drag: 2, life: 100, rate: 0.1 }), 9.5)
    expect(slowed!.x).toBeCloseTo(30, 3)
  })

  test('each goes on from where it was: no jumps, whatever blows it about', () => {
    fc.assert(
      fc.property(anyLook, fc.double({ min: 0.2, max: 3, noNaN: true }), (some, at) => {
        const own = look({ ...some, before: true, speed: 50, gravity: 20 })
        const [now, next] = [particlesAt(own, at), particlesAt(own, at + 1e-4)]
        // the oldest are gone first, new ones come last; those between are the same
        for (const one of now.filter(({ age }) => age < 0.99)) {
          const near = Math.min(...next.map(({ x, y }) => Math.hypot(x - one.x, y - one.y)))
          expect(near).toBeLessThan(0.3)
        }
      }),
      { numRuns: 30 }
    )
  })

  test('are the same whichever frame is drawn first, and others by another seed', async () => {
    const scene = sceneOf(element('p', look({ form: 'star', spin: 90 })))
    const host = await testHost()
    const forward = await SceneRenderer.of(scene, host)
    forward.frame(3)
    const backward = await SceneRenderer.of(scene, host)
    expect(backward.frame(20).samples).toEqual(forward.frame(20).samples)
    const other = await SceneRenderer.of(sceneOf(element('p', look({ form: 'star', spin: 90, seed: 2 }))), host)
    expect(other.frame(20).samples).not.toEqual(forward.frame(20).samples)
  })

  test.each(['soft', 'dot', 'square', 'star', 'streak'] as const)(
    '%s: closes over its round, drawn from it alone',
    async form => {
      const round = { before: true, every: 2, rate: 11, life: 1.3 }
      const closing = await SceneRenderer.of(sceneOf(element('p', look({ form, ...round }))), await testHost())
      expect(await closing.closes()).toBe(true)
      const open = await SceneRenderer.of(sceneOf(element('p', look({ form, ...round, every: 0 }))), await testHost())
      expect(await open.closes()).toBe(false)
    }
  )

  test('more than can be drawn are fewer, and told', async () => {
    const many = look({ rate: 1000, life: 10, differ: 0 })
    const renderer = await SceneRenderer.of(sceneOf(element('Snow', many)), await testHost())
    expect(renderer.told.map(({ sentence }) => sentence)).toEqual([
      '“Snow” would have up to 10000 particles at once: 4000 are drawn at most, so that 400 come each second and not 1000.'
    ])
  })

  test.each([
    ['square', 400],
    ['dot', Math.PI * 100]
  ] as const)('stretched, a %s is not cut off', async (form, area) => {
    const one = look({ form, rate: 1, life: 10, differ: 0, speed: 0, turbulence: 0, width: 0, height: 0 })
    const own = { ...one, size: 20, sizeEnd: 20, fadeIn: 0, fadeOut: 0 }
    const renderer = await SceneRenderer.of(sceneOf(element('p', own, { wide: 4, tall: 0.25 })), await testHost())
    const { samples } = renderer.frame(0)
    let sum = 0
    for (let i = 3; i < samples.length; i += 4) sum += samples[i]! / 65535
    expect(sum).toBeCloseTo(area, 1)
  })

  test('the area of a dot is that of its circle, however small', async () => {
    const one = look({ form: 'dot', rate: 1, life: 10, differ: 0, speed: 0, turbulence: 0, width: 0, height: 0 })
    for (const size of [0.5, 3, 11.3]) {
      const own = { ...one, size, sizeEnd: size, fadeIn: 0, fadeOut: 0 }
      const renderer = await SceneRenderer.of(sceneOf(element('p', own)), await testHost())
      const { samples } = renderer.frame(0)
      let sum = 0
      for (let i = 3; i < samples.length; i += 4) sum += samples[i]! / 65535
      expect(sum).toBeCloseTo((Math.PI * size * size) / 4, 1)
    }
  })
})

describe('what is drawn again', () => {
  const bar = figure('rectangle', 10, 10, { fill: '#ffffff' })
  const again = { count: 3, x: 20, y: 0, rotation: 0, scale: 1, opacity: 0.5, later: 0.5 }
  const scene = (repeat: typeof again, more: Partial<Element> = {}): Scene =>
    sceneOf(
      element('g', { kind: 'group', repeat }, { x: 20, y: 40 }),
      element('b', bar, { inside: 'g', x: 0, y: 0, ...more })
    )
  const alphas = async (
    of: Scene,
    index: number,
    places: readonly (readonly [number, number])[]
  ): Promise<number[]> => {
    const renderer = await SceneRenderer.of(of, await testHost())
    const { samples, width } = renderer.frame(index)
    return places.map(([x, y]) => Math.round((100 * samples[4 * (y * width + x) + 3]!) / 65535))
  }

  test('each copy stands on from the last, is as solid, and comes as much later', async () => {
    const places = [
      [20, 40],
      [40, 40],
      [60, 40],
      [80, 40]
    ] as const
    expect(await alphas(scene(again), 0, places)).toEqual([100, 0, 0, 0])
    expect(await alphas(scene(again), 10, places)).toEqual([100, 50, 0, 0])
    expect(await alphas(scene(again), 20, places)).toEqual([100, 50, 25, 0])
    // what moves does so in each copy by its own time
    const tracks: Element['tracks'] = [
      {
        of: 'y',
        keys: [
          { at: 0, value: 0, ease: 'linear' },
          { at: 1, value: 20, ease: 'linear' }
        ]
      }
    ]
    const moved = scene({ ...again, opacity: 1 }, { tracks })
    expect(
      await alphas(moved, 20, [
        [20, 60],
        [40, 50],
        [60, 40],
        [60, 60]
      ])
    ).toEqual([100, 100, 100, 0])
  })

  test('copies of copies are bounded, and told; what grows without end is not waited for', async () => {
    const group = (id: string, inside?: string): Element =>
      element(id, { kind: 'group', repeat: { ...again, count: 200, opacity: 1, scale: 10 } }, inside ? { inside } : {})
    const nested = sceneOf(group('a'), group('b', 'a'), group('c', 'b'), element('bar', bar, { inside: 'c' }))
    const renderer = await SceneRenderer.of(nested, await testHost())
    expect(renderer.told.map(({ sentence }) => sentence)).toEqual(
      // each ten times as large as the last: the seventh would be a million times
      expect.arrayContaining(
        ['a', 'b', 'c'].map((id, n) => expect.stringContaining(`“${id}” is drawn ${[6, 5, 1][n]} `))
      )
    )
    expect(renderer.frame(20).width).toBe(SIZE.width)
  })

  test('what is drawn again is the same whether or not there is room to keep it', async () => {
    const many = scene({ count: 60, x: 1, y: 0.5, rotation: 3, scale: 1, opacity: 0.97, later: 0 }, { scale: 4 })
    const host = await testHost()
    const [once, again2] = [await SceneRenderer.of(many, host), await SceneRenderer.of(many, host)]
    const [first, second] = [again2.frame(0).samples, again2.frame(1).samples]
    expect(second).toEqual(first)
    expect(once.frame(1).samples).toEqual(first)
  })

  test('copies turn and grow about the group, whose box is around all of them', async () => {
    const turned = scene({ count: 4, x: 0, y: 0, rotation: 90, scale: 1, opacity: 1, later: 0 }, { x: 15, y: 0 })
    expect(
      await alphas(turned, 0, [
        [35, 40],
        [20, 55],
        [5, 40],
        [20, 25],
        [20, 40]
      ])
    ).toEqual([100, 100, 100, 100, 0])
    const renderer = await SceneRenderer.of(turned, await testHost())
    const box = renderer.boxes(0).g!
    expect(box.map(Math.round)).toEqual([0, 20, 40, 60])
  })
})

describe('starters that run over and over', () => {
  const words = { text: 'The agave flowers · 夜の温室', one: 'Seeds', two: 'Kilns', three: 'Lanterns', above: 'Thanks' }

  test.each(['ticker', 'sponsor-loop', 'sparkle', 'loop'])('%s: the frame after its last is its first', async id => {
    const starter = starters.find(each => each.id === id)!
    const scene = starter.make(words, { ...SIZE, width: 320, height: 180, seconds: starter.seconds })
    const renderer = await SceneRenderer.of(scene, await testHost())
    expect(await renderer.closes()).toBe(true)
    const middle = renderer.frame(Math.round(scene.frames / 2)).samples
    expect(middle).not.toEqual(renderer.frame(0).samples)
    expect(renderer.cut()).toEqual([])
    expect([renderer.told, renderer.missing]).toEqual([[], []])
  })
})
