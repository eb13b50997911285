/** Shadows and glows: moved by parts of a pixel, and softened by any radius, without steps. */
import fc from 'fast-check'
import { expect, test } from 'vitest'
import { emptyScene, newElement, type SceneSize } from '../../core/draw/scene/fresh'
import { figure } from '../../core/draw/scene/elements/shape'
import { SceneRenderer } from '../../core/draw/scene/render'
import type { Element, Scene } from '../../core/draw/scene/scene'
import { testHost } from './support'

const host = await testHost()
const SIZE: SceneSize = { width: 220, height: 110, rate: [25, 1], seconds: 1 }
/** The block lies left of here, and its shadow right of it. */
const BESIDE = 66
const [WIDTH, HEIGHT] = [24, 16]

const cast = (shadow: Partial<NonNullable<Element['shadow']>>, more: Partial<Element> = {}): Scene => ({
  ...emptyScene('test', SIZE),
  elements: [
    {
      ...newElement('a', 'a', figure('rectangle', WIDTH, HEIGHT, { fill: '#c04020' }), SIZE),
      x: 30,
      y: 55,
      shadow: { x: 110, y: 0, soft: 0, colour: '#000000', opacity: 1, ...shadow },
      ...more
    }
  ]
})

/** Where the shadow's alpha lies, how far it spreads along x and y, and how much there is of it. */
async function measured(scene: Scene) {
  const { samples, width, height } = await (await SceneRenderer.of(scene, host)).frame(0)
  let [sum, x, y, xx, yy] = [0, 0, 0, 0, 0]
  for (let v = 0; v < height; v++)
    for (let u = BESIDE; u < width; u++) {
      const alpha = samples[4 * (v * width + u) + 3]! / 65535
      sum += alpha
      x += alpha * u
      y += alpha * v
      xx += alpha * u * u
      yy += alpha * v * v
    }
  const [across, down] = [x / sum, y / sum]
  return { sum, across, down, spread: [xx / sum - across * across, yy / sum - down * down] as const }
}

const still = await measured(cast({}))

test('a shadow lies where it is cast, to a hundredth of a pixel, and has all of its alpha', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.integer({ min: -3000, max: 3000 }),
      fc.integer({ min: -2500, max: 2500 }),
      fc.integer({ min: 0, max: 24 }),
      async (x, y, soft) => {
        const found = await measured(cast({ x: 110 + x / 100, y: y / 100, soft: soft / 4 }))
        expect(found.across - still.across).toBeCloseTo(x / 100, 2)
        expect(found.down - still.down).toBeCloseTo(y / 100, 2)
        expect(found.sum / still.sum).toBeCloseTo(1, 3)
      }
    ),
    { numRuns: 40 }
  )
})

test('softness spreads a shadow as far as is said of it, at any value', async () => {
  let before = -1
  for (let soft = 0; soft <= 20; soft += 0.75) {
    const { spread } = await measured(cast({ soft }))
    const [whole, part] = [Math.floor(soft / 2), (soft / 2) % 1]
    const due = (1 - part) * whole * (whole + 1) + part * (whole + 1) * (whole + 2)
    expect(spread[0] - still.spread[0]).toBeCloseTo(due, 0)
    expect(Math.abs(spread[1] - still.spread[1] - due)).toBeLessThan(0.02 * due + 0.02)
    expect(spread[0]).toBeGreaterThan(before)
    before = spread[0]
  }
})

test('whole pixels and even softness are three boxes, code for code', async () => {
  const { kernels } = host
  const scene = cast({ x: 100, y: 7, soft: 10, opacity: 0.5 })
  const { samples, width, height } = await (await SceneRenderer.of(scene, host)).frame(0)
  const plane = new Float32Array(width * height)
  for (let v = 0; v < HEIGHT; v++)
    for (let u = 0; u < WIDTH; u++) plane[(v + 55 - HEIGHT / 2 + 7) * width + u + 30 - WIDTH / 2 + 100] = 1
  const due = kernels.blur(plane, width, height, 5)
  for (let v = 0; v < height; v++)
    for (let u = BESIDE; u < width; u++) {
      const at = v * width + u
      expect(Math.abs(samples[4 * at + 3]! - due[at]! * 0.5 * 65535), `${u}, ${v}`).toBeLessThanOrEqual(0.51)
    }
})

test('a shadow grows and turns with what casts it, and a slow move has no jumps', async () => {
  let last: number | null = null
  for (let step = 0; step <= 20; step++) {
    const scale = 1 + step / 200
    const { across } = await measured(cast({ x: 100, soft: 5 }, { scale }))
    const edge = across - 100 * scale
    if (last !== null) expect(Math.abs(edge - last)).toBeLessThan(0.02)
    last = edge
  }
})
