/** What a hand comes to over a picture: a drag that snaps, a click that moves nothing, a quarter turn, giving up. */
import { effectScope, nextTick, shallowRef } from 'vue'
import { expect, test } from 'vitest'
import { useHandGestures } from '../../app/composables/useHandGestures'
import { figure } from '../../core/draw/scene/elements/shape'
import { emptyScene, newElement } from '../../core/draw/scene/fresh'
import { middleOf, type Stands } from '../../core/draw/scene/hands'
import { SceneRenderer } from '../../core/draw/scene/render'
import { Scene } from '../../core/draw/scene/scene'
import { testHost } from './support'

const host = await testHost()
const SIZE = { width: 400, height: 240, rate: [10, 1] as [number, number], seconds: 1 }
const PLAIN = { altKey: false, shiftKey: false }

async function handsOn(x: number, y: number) {
  const bar = { ...newElement('bar', 'Bar', figure('rectangle', 60, 30), SIZE), x, y }
  const scene = Scene.parse({ ...emptyScene('hands', SIZE), elements: [bar] })
  const stands = shallowRef<Stands>((await SceneRenderer.of(scene, host)).stands(0))
  const kept: string[] = []
  const tried: (boolean | null)[] = []
  const scope = effectScope()
  const hands = scope.run(() =>
    useHandGestures({
      scene: () => scene,
      stands: () => stands.value,
      perPixel: () => 1,
      attempt(change) {
        tried.push(change && true)
        change?.(structuredClone(scene))
      },
      keep(label, change) {
        kept.push(label)
        change(scene)
      }
    })
  )!
  return { scene, stands, kept, tried, hands, end: () => scope.stop() }
}

test('a drag is tried while it goes, snaps to the middle, and is kept once', async () => {
  const { scene, stands, kept, tried, hands, end } = await handsOn(120, 120)
  hands.begin({ kind: 'move', ids: ['bar'] }, [120, 120])
  // a hand that only trembles moves nothing
  expect(hands.move([121, 120], PLAIN)).toBe(true)
  expect(tried).toEqual([])
  hands.move([160, 122], PLAIN)
  hands.move([197, 121], PLAIN)
  expect(hands.guides.value).toEqual({ x: 200, y: 120 })
  expect(hands.said.value).toBe('80, 0')
  expect(middleOf(hands.going.value!.bar!)).toEqual([200, 120])
  expect(hands.up()).toBe(false)
  expect(kept).toEqual(['Move'])
  expect(scene.elements[0]).toMatchObject({ x: 200, y: 120 })
  // where it stood stays shown until the scene is laid out anew
  expect(hands.going.value).not.toBe(null)
  stands.value = (await SceneRenderer.of(scene, host)).stands(0)
  await nextTick()
  expect(hands.going.value).toBe(null)
  end()
})

test('Alt snaps to nothing, Shift goes one way only, and what is given up is gone', async () => {
  const { scene, kept, tried, hands, end } = await handsOn(120, 100)
  hands.begin({ kind: 'move', ids: ['bar'] }, [120, 100])
  hands.move([197, 119], { altKey: true, shiftKey: false })
  expect(hands.guides.value).toEqual({ x: null, y: null })
  expect(hands.said.value).toBe('77, 19')
  hands.move([197, 119], { altKey: true, shiftKey: true })
  expect(hands.said.value).toBe('77, 0')
  expect(hands.giveUp()).toBe(true)
  expect(tried.at(-1)).toBe(null)
  expect(hands.giveUp()).toBe(false)
  expect(hands.move([0, 0], PLAIN)).toBe(false)
  expect(kept).toEqual([])
  expect(scene.elements[0]).toMatchObject({ x: 120, y: 100 })
  // nothing moved: a click
  hands.begin({ kind: 'move', ids: ['bar'] }, [120, 100])
  expect(hands.up()).toBe(true)
  end()
})

test('a side snaps to the safe area, a corner keeps its shape, the knob turns by steps or lies upright', async () => {
  const { scene, stands, hands, end } = await handsOn(120, 120)
  const again = async (): Promise<void> => {
    stands.value = (await SceneRenderer.of(scene, host)).stands(0)
    await nextTick()
  }
  hands.begin({ kind: 'size', id: 'bar', grip: { across: -1, down: 0 } }, [90, 120])
  hands.move([18, 120], PLAIN)
  expect(hands.guides.value.x).toBeCloseTo(20, 6)
  hands.up()
  await again()
  expect(stands.value.bar!.box[0]).toBeCloseTo(20, 2)
  expect(stands.value.bar!.box[2]).toBeCloseTo(150, 2)

  const [left, top, right, bottom] = stands.value.bar!.box
  hands.begin({ kind: 'size', id: 'bar', grip: { across: 1, down: 1 } }, [right, bottom])
  hands.move([right + (right - left), bottom + (bottom - top)], PLAIN)
  expect(hands.said.value).toBe('260 × 60')
  hands.up()
  await again()

  const about = middleOf(stands.value.bar!)
  hands.begin({ kind: 'turn', id: 'bar', about }, [about[0], about[1] - 80])
  hands.move([about[0] + 80, about[1] + 1], PLAIN)
  expect(hands.said.value).toBe('90°')
  hands.move([about[0] + 60, about[1] - 40], { altKey: false, shiftKey: true })
  expect(hands.said.value).toBe('60°')
  hands.up()
  expect(scene.elements[0]!.rotation).toBe(60)
  end()
})
