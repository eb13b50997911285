/** Elements copied and pasted: under ids of their own, with what lies in them, apart from what stands there. */
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { elementsText, freePlace, freshId, paste, readElements } from '../../core/draw/scene/copies'
import { emptyScene, newElement, type SceneSize } from '../../core/draw/scene/fresh'
import { figure } from '../../core/draw/scene/elements/shape'
import { lettered } from '../../core/draw/scene/elements/lettering'
import { Scene, type Element } from '../../core/draw/scene/scene'
import { starters } from '../../core/draw/scene/starters'
import { fullestFrame } from '../../core/draw/scene/order'
import { momentOf, presenceOf, timesOf } from '../../core/draw/scene/timing'

const SIZE: SceneSize = { width: 320, height: 180, rate: [25, 1], seconds: 2 }
const sceneOf = (...elements: Element[]): Scene => ({ ...emptyScene('test', SIZE), elements })
const block = (id: string, more: Partial<Element> = {}): Element => ({
  ...newElement(id, id, figure('rectangle', 40, 20), SIZE),
  ...more
})

describe('copies of elements', () => {
  test('a group comes with all that lies in it, in order, under ids that nothing else has', () => {
    const scene = sceneOf(
      block('a', { inside: 'inner', after: 'b' }),
      { ...block('inner'), look: { kind: 'group' }, inside: 'outer' },
      block('b', { inside: 'outer', after: 'c' }),
      { ...block('outer'), look: { kind: 'group' } },
      block('c')
    )
    const given = readElements(elementsText(scene, 'outer'))
    expect(given.map(({ id }) => id)).toEqual(['a', 'inner', 'b', 'outer'])
    const { ids, changed } = paste(scene, given, 'outer')
    expect(changed).toEqual([])
    expect(ids).toHaveLength(1)
    expect(Scene.safeParse(scene).error).toBeUndefined()
    expect(new Set(scene.elements.map(({ id }) => id)).size).toBe(9)
    // in front of the one it was made from
    expect(scene.elements.findIndex(({ id }) => id === ids[0])).toBeLessThan(
      scene.elements.findIndex(({ id }) => id === 'outer')
    )
    const [a, inner, b] = scene.elements.slice(3, 6)
    const copied = (name: string): Element => scene.elements.find(each => each.name === name && each.id !== name)!
    expect([a, inner, b].every(Boolean)).toBe(true)
    expect(copied('a').inside).toBe(copied('inner').id)
    expect(copied('inner').inside).toBe(ids[0])
    // what waits for something of the copy waits for the copy, what waits for another element for that one
    expect(copied('a').after).toBe(copied('b').id)
    expect(copied('b').after).toBe('c')
  })

  test('in another scene nothing refers to what is not there, and faces that are not there are replaced and told', () => {
    const text = elementsText(
      sceneOf({
        ...block('title', { after: 'gone', inside: 'nowhere' }),
        look: lettered('Palm House', 40, {
          face: 'own-1',
          accents: [{ words: 'Palm', face: 'own-2', colour: '#ffffff', scale: 1 }]
        })
      }),
      'title'
    )
    const scene = sceneOf()
    const { ids, changed } = paste(scene, readElements(text))
    const [title] = scene.elements
    expect(title!.id).toBe(ids[0])
    expect(title!.after).toBeNull()
    expect(title!.inside).toBeUndefined()
    expect(changed.join()).toContain('own-1')
    expect(Scene.safeParse(scene).error).toBeUndefined()
  })

  test('pasted twice, and twice again, nothing lies upon another, and keys of the place go along', () => {
    const moved = block('a', {
      x: 100,
      y: 60,
      tracks: [{ of: 'x', keys: [{ at: 0, value: 100, ease: 'soft' }] }]
    })
    const scene = sceneOf(moved)
    const given = readElements(elementsText(scene, 'a'))
    for (let n = 0; n < 4; n++) paste(scene, given)
    const places = scene.elements.map(({ x, y }) => `${x} ${y}`)
    expect(new Set(places).size).toBe(5)
    for (const { x, tracks } of scene.elements) expect(tracks[0]!.keys[0]!.value).toBe(x)
    // what was copied has not changed with its copies
    expect(given[0]!.x).toBe(100)
  })

  test('what is not elements is refused in a sentence', () => {
    const refused = (text: string): string => {
      try {
        readElements(text)
        return ''
      } catch (error) {
        return (error as Error).message
      }
    }
    expect(refused('Palm House')).toContain('not JSON')
    expect(refused('{"pour":"outlet"}')).toMatch(/no elements of a scene/)
    expect(refused('{"pour":"elements","version":1}')).toContain('elements is missing')
    expect(() => elementsText(sceneOf(), 'a')).toThrow('no element')
  })

  test('ids are fresh and places free, whatever stands there', () => {
    fc.assert(
      fc.property(
        fc.array(fc.record({ x: fc.integer({ min: 0, max: 320 }), y: fc.integer({ min: 0, max: 180 }) }), {
          maxLength: 40
        }),
        at => {
          const scene = sceneOf(...at.map((place, n) => block(`shape${n ? `-${n + 1}` : ''}`, place)))
          expect(scene.elements.map(({ id }) => id)).not.toContain(freshId(scene, 'shape'))
          const free = freePlace(scene, 160, 90)
          for (const { x, y } of scene.elements)
            expect(Math.max(Math.abs(x - free.x), Math.abs(y - free.y))).toBeGreaterThan(4)
        }
      )
    )
  })
})

describe('the fullest frame', () => {
  test('of every starter something is there in it, and at least as much as in the first and the last', () => {
    for (const { make } of starters) {
      const scene = make({}, { ...SIZE, seconds: 4 })
      const times = timesOf(scene)
      const there = (index: number): number =>
        scene.elements
          .filter(({ look }) => look.kind !== 'group')
          .reduce(
            (sum, element) =>
              sum + presenceOf(element, times.get(element.id)!, (index * scene.rate[1]) / scene.rate[0]),
            0
          )
      const full = fullestFrame(scene)
      expect(full).toBeLessThan(scene.frames)
      expect(there(full)).toBeGreaterThan(0)
      expect(there(full)).toBeGreaterThanOrEqual(Math.max(there(0), there(scene.frames - 1)) - 1e-6)
    }
  })

  test('an empty scene begins at its beginning; one that comes late is shown when it is there', () => {
    expect(fullestFrame(sceneOf())).toBe(0)
    const late = sceneOf(
      block('a', { delay: 1, entrance: { kind: 'fade', seconds: 0.4, ease: 'linear', side: 'left' } })
    )
    const at = fullestFrame(late)
    expect(momentOf(late.elements[0]!, timesOf(late).get('a')!, at / 25)!.come).toBe(1)
    expect(at).toBeGreaterThanOrEqual(35)
  })
})
