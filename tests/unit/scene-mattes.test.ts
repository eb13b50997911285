/** What cuts elements of scenes, and how they are laid on each other. */
import { describe, expect, test } from 'vitest'
import { openScene } from '../../core/draw/scene/format'
import { sceneFile } from '../../core/draw/scene/as-file'
import { elementEntries } from '../../core/draw/scene/elements/form'
import { figure } from '../../core/draw/scene/elements/shape'
import { elementsText, paste, readElements } from '../../core/draw/scene/copies'
import { emptyScene, newElement } from '../../core/draw/scene/fresh'
import { remove } from '../../core/draw/scene/groups'
import { SceneRenderer } from '../../core/draw/scene/render'
import { offersOf, Scene, type Element } from '../../core/draw/scene/scene'
import type { Blend, Matte } from '../../core/draw/scene/values'
import { testHost } from './support'

const SIZE = { width: 60, height: 40, rate: [10, 1] as [number, number], seconds: 1 }
const sceneOf = (...elements: Element[]): Scene => ({ ...emptyScene('cut', SIZE), elements })
const box = (id: string, more: Partial<Element> = {}, look: Parameters<typeof figure>[3] = {}): Element => ({
  ...newElement(id, id, figure('rectangle', 40, 20, { fill: '#ffffff', ...look }), SIZE),
  ...more
})
const by = (takes: Matte['takes'], soft = 0): Matte => ({ by: 'cutter', takes, soft })

async function rendered(
  scene: Scene
): Promise<{ alpha: (x: number, y: number) => number; told: string[]; sum: number }> {
  const renderer = await SceneRenderer.of(Scene.parse(scene), await testHost())
  const { samples, width } = renderer.frame(0)
  let sum = 0
  for (let i = 3; i < samples.length; i += 4) sum += samples[i]! / 65535
  return {
    alpha: (x, y) => samples[4 * (y * width + x) + 3]! / 65535,
    told: renderer.told.map(({ sentence }) => sentence),
    sum
  }
}

describe('what is cut', () => {
  const cutter = box('cutter', { x: 40 }, { fillOpacity: 0.75 })

  test('is seen where the other is, as far as that is solid; the other is not seen itself', async () => {
    const { alpha, sum, told } = await rendered(sceneOf(box('bar', { matte: by('where it is') }), cutter))
    expect(alpha(15, 20)).toBe(0)
    expect(alpha(30, 20)).toBeCloseTo(0.75, 4)
    expect(alpha(55, 20)).toBe(0)
    expect(sum).toBeCloseTo(30 * 20 * 0.75, 1)
    expect(told).toEqual([])
  })

  test('and where it is not: both together are the whole', async () => {
    const { alpha, sum } = await rendered(sceneOf(box('bar', { matte: by('where it is not') }), cutter))
    expect([alpha(15, 20), alpha(30, 20)]).toEqual([1, expect.closeTo(0.25, 4)])
    expect(sum).toBeCloseTo(40 * 20 - 30 * 20 * 0.75, 1)
  })

  test('by brightness, on black', async () => {
    const grey = box('cutter', { x: 40 }, { fill: '#008000', fillOpacity: 0.5 })
    const luma = (0.7152 * 128 * 0.5) / 255
    const bright = await rendered(sceneOf(box('bar', { matte: by('where it is bright') }), grey))
    expect(bright.alpha(30, 20)).toBeCloseTo(luma, 4)
    const dark = await rendered(sceneOf(box('bar', { matte: by('where it is dark') }), grey))
    expect(dark.alpha(30, 20)).toBeCloseTo(1 - luma, 4)
    expect(dark.alpha(15, 20)).toBe(1)
  })

  test('with a soft edge: half at the edge itself, and as much in all', async () => {
    const solid = box('cutter', { x: 30 }, { width: 20, height: 60 })
    const wide = (matte: Matte): Element => box('bar', { matte }, { width: 60, height: 20 })
    const { alpha, sum } = await rendered(sceneOf(wide(by('where it is', 8)), solid))
    expect(alpha(19, 20) + alpha(20, 20)).toBeCloseTo(1, 3)
    expect(alpha(16, 20)).toBeGreaterThan(0.05)
    expect(sum).toBeCloseTo(20 * 20, 0)
  })

  test('casts the shadow of what is left of it', async () => {
    const shadow = { x: 0, y: 12, soft: 0, colour: '#000000', opacity: 1 }
    const { alpha } = await rendered(
      sceneOf(box('bar', { y: 14, matte: by('where it is'), shadow }), {
        ...cutter,
        y: 14,
        look: figure('rectangle', 40, 20)
      })
    )
    expect([alpha(15, 32), alpha(30, 32)]).toEqual([0, 1])
  })

  test('is nothing while the other is not there, and whole where that takes away', async () => {
    const later = { ...cutter, delay: 0.5 }
    expect((await rendered(sceneOf(box('bar', { matte: by('where it is') }), later))).sum).toBe(0)
    expect((await rendered(sceneOf(box('bar', { matte: by('where it is not') }), later))).sum).toBeCloseTo(800, 1)
  })

  test('is drawn whole where nothing can cut it, and that is told', async () => {
    const bar = box('bar', { matte: by('where it is') })
    const told = 'is to be cut by an element that is not shown beside it, and is drawn whole.'
    for (const scene of [
      sceneOf(bar),
      sceneOf(bar, { ...cutter, hidden: true }),
      sceneOf(bar, { ...cutter, inside: 'g' }, { ...box('g'), look: { kind: 'group' } }),
      sceneOf({ ...bar, inside: 'g' }, cutter, { ...box('g'), look: { kind: 'group' }, x: 0, y: 0 })
    ]) {
      const found = await rendered(scene)
      expect(found.told).toEqual([`“bar” ${told}`])
      expect(found.alpha(15, 20)).toBe(1)
    }
    const round = await rendered(sceneOf(bar, { ...cutter, matte: { ...by('where it is'), by: 'bar' } }))
    expect(round.told).toHaveLength(2)
    expect(round.alpha(15, 20)).toBe(1)
    const itself = await rendered(sceneOf(box('cutter', { matte: by('where it is') })))
    expect(itself.told).toEqual(['“cutter” is to be cut by itself, by way of others, and is drawn whole.'])
  })

  test('groups cut and are cut as one, and what is shown alone brings what cuts it', async () => {
    const group = (id: string, more: Partial<Element> = {}): Element => ({
      ...newElement(id, id, { kind: 'group' }, SIZE),
      ...{ x: 0, y: 0 },
      ...more
    })
    const cut = sceneOf(
      group('bars', { matte: by('where it is'), alone: true }),
      box('one', { inside: 'bars' }),
      box('other', { y: 8 }),
      group('cutter'),
      box('part', { inside: 'cutter', x: 40 })
    )
    const { alpha, told } = await rendered(cut)
    expect([alpha(15, 20), alpha(30, 20), alpha(30, 5)]).toEqual([0, 1, 0])
    expect(told).toEqual([])
  })

  test('keeps what cuts it when both are copied, and is whole again when that is removed', () => {
    const scene = sceneOf(box('bar', { matte: by('where it is') }), cutter)
    const group: Element = { ...newElement('g', 'g', { kind: 'group' }, SIZE) }
    const both = sceneOf(group, ...scene.elements.map(each => ({ ...each, inside: 'g' })))
    const { ids } = paste(both, readElements(elementsText(both, 'g')))
    const copies = both.elements.filter(({ inside }) => inside === ids[0])
    expect(copies[0]!.matte!.by).toBe(copies[1]!.id)
    expect(copies[1]!.id).not.toBe('cutter')
    remove(scene, 'cutter')
    expect(scene.elements[0]).not.toHaveProperty('matte')
  })

  test('is chosen in the form from what lies beside it', () => {
    const scene = sceneOf(box('bar'), cutter)
    const [bar] = scene.elements
    const field = (label: string): ReturnType<typeof elementEntries>[number] | undefined =>
      elementEntries(bar!, offersOf(scene, bar!)).find(each => each.field.label === label)
    expect(field('Seen')).toBe(undefined)
    field('Cut by')!.set(bar!, 'cutter')
    field('Seen')!.set(bar!, 'where it is dark')
    field('Soft edge')!.set(bar!, 6)
    expect(bar!.matte).toEqual({ by: 'cutter', takes: 'where it is dark', soft: 6 })
    field('Cut by')!.set(bar!, '')
    expect(bar).not.toHaveProperty('matte')
  })
})

describe('what is laid on', () => {
  const [below, above] = [0x40 / 255, 0xc0 / 255]
  const MIXED: Record<Exclude<Blend, 'normal'>, number> = {
    add: 1,
    screen: below + above - below * above,
    multiply: below * above,
    overlay: 2 * below * above,
    lighten: above,
    darken: below
  }

  test.each(Object.entries(MIXED))(
    '%s mixes over what is solid, covers over nothing, in between in between',
    async (blend, mixed) => {
      for (const [solid, opacity] of [
        [1, 1],
        [0.4, 0.5],
        [0, 0.5]
      ] as const) {
        const scene = sceneOf(
          box('light', { blend: blend as Blend, opacity }, { fill: '#c0c0c0' }),
          box('ground', {}, { fill: '#404040', fillOpacity: solid })
        )
        const renderer = await SceneRenderer.of(scene, await testHost())
        const { samples, width } = renderer.frame(0)
        const at = 4 * (20 * width + 30)
        const alpha = opacity + solid * (1 - opacity)
        const colour =
          (opacity * (1 - solid) * above + opacity * solid * Math.min(1, mixed) + (1 - opacity) * solid * below) / alpha
        expect(samples[at + 3]! / 65535).toBeCloseTo(alpha, 4)
        expect(samples[at]! / 65535).toBeCloseTo(colour, 4)
      }
    }
  )

  test('what no alpha holds of it is told by figures; over what is solid nothing is', async () => {
    const findings = async (scene: Scene): Promise<string[]> => {
      const { facts, close } = await openScene(sceneFile(scene).file, await testHost())
      await close?.()
      return facts.findings.map(({ sentence }) => sentence)
    }
    const light = box('light', { blend: 'multiply' })
    const half = box('ground', { x: 20 }, { width: 40 })
    expect(await findings(sceneOf(light, half))).toEqual([
      '“light” is laid on by “multiply”, and 25 % of it lies over what is not solid: no alpha holds that for what the ' +
        'delivery is laid over later, where it covers as usual.'
    ])
    expect(await findings(sceneOf(light))).toEqual([expect.stringContaining('and all of it lies over')])
    expect(await findings(sceneOf(light, box('ground')))).toEqual([])
    // a scene opens without what it shows, and does not say what it cannot know
    const clip = { kind: 'clip', source: 's', title: 'Film', width: 40, height: 20, from: 0, ends: 'holds' } as const
    expect(await findings(sceneOf(light, { ...box('film'), look: clip }))).toEqual([
      expect.stringContaining('how much of it alpha holds is not known')
    ])
  })
})
