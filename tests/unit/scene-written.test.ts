/** Scenes as programs write them: filled in, checked whole, and the schema that is published for it. */
import Ajv from 'ajv/dist/2020.js'
import { readFileSync } from 'node:fs'
import path from 'node:path'
import { describe, expect, test } from 'vitest'
import { readScene } from '../../core/draw/scene/format'
import { newElement } from '../../core/draw/scene/fresh'
import type { Scene } from '../../core/draw/scene/scene'
import { starters } from '../../core/draw/scene/starters'
import { sayWritten, sceneSchema, writtenScene } from '../../core/draw/scene/written'
import { root } from './support'

const SIZE = { width: 640, height: 360, rate: [25, 1] as [number, number], seconds: 2 }
const allows = new Ajv({ strict: false, allErrors: true }).compile(sceneSchema())
const page = readFileSync(path.join(root, 'docs/scenes.md'), 'utf8')
const examples = [...page.matchAll(/```json\n([\s\S]*?)```/g)].map(([, text]) => JSON.parse(text!) as unknown)

const least = {
  ...{ pour: 'scene', version: 1, width: 640, height: 360, frames: 50 },
  elements: [{ id: 'a', look: { kind: 'text', text: 'Fern', size: 40 } }]
}

interface Node {
  default?: unknown
  properties?: Record<string, Node>
  items?: Node
  oneOf?: Node[]
  anyOf?: Node[]
}

/** The same data without what stands for itself where nothing is written. */
function bare(value: unknown, node: Node): unknown {
  const kind = (value as { kind?: unknown } | null)?.kind
  const part = (node.oneOf ?? node.anyOf)?.find(({ properties }) =>
    kind === undefined ? properties : (properties?.kind as { const?: unknown } | undefined)?.const === kind
  )
  const { properties, items } = part ?? node
  if (Array.isArray(value)) return value.map(each => bare(each, items ?? {}))
  if (typeof value !== 'object' || value === null || !properties) return value
  return Object.fromEntries(
    Object.entries(value).flatMap(([name, each]) => {
      const own = properties[name] ?? {}
      const same = 'default' in own && JSON.stringify(own.default) === JSON.stringify(each)
      return same ? [] : [[name, bare(each, own)]]
    })
  )
}

describe('what may be left out', () => {
  test('the least that a scene can be stands in the middle, still, from the first frame to the last', () => {
    const { scene } = writtenScene(least)
    expect(scene!.elements[0]).toEqual({
      ...newElement('a', '', scene!.elements[0]!.look, SIZE),
      ...{ x: 320, y: 180 }
    })
    expect(scene).toMatchObject({ rate: [25, 1], backdrop: null, blur: { moments: 1, open: 0.5 }, spans: [] })
    const grouped = {
      ...least,
      elements: [
        { ...least.elements[0], inside: 'g' },
        { id: 'g', x: 5, look: { kind: 'group' } }
      ]
    }
    expect(writtenScene(grouped).scene!.elements.map(({ x, y }) => [x, y])).toEqual([
      [0, 0],
      [5, 180]
    ])
  })

  test.each(starters.map(({ id }) => id))('%s is the same without all that stands for itself', id => {
    const scene = starters.find(each => each.id === id)!.make({ name: 'Ada', text: 'Fern' }, SIZE)
    const short = bare(JSON.parse(JSON.stringify(scene)), sceneSchema()) as Scene
    expect(JSON.stringify(short).length).toBeLessThan(0.8 * JSON.stringify(scene).length)
    expect(readScene(JSON.stringify(short), 'x.json')).toEqual(JSON.parse(JSON.stringify(scene)))
    expect(allows(short), JSON.stringify(allows.errors)).toBe(true)
  })

  test('what lies within one of several kinds is filled in as well, and its names are known', () => {
    const fill = { from: '#000000', to: '#ffffff' }
    const shape = { kind: 'shape', form: 'star', width: 9, height: 9, fill, stroke: { colour: '#010203', width: 2 } }
    const data = { ...least, elements: [{ id: 'a', shadow: { soft: 4 }, look: shape }] }
    expect(writtenScene(data).scene!.elements[0]).toMatchObject({
      shadow: { x: 0, y: 0, soft: 4, colour: '#000000', opacity: 1 },
      look: { fill: { ...fill, angle: 0 } }
    })
    expect(allows(data), JSON.stringify(allows.errors)).toBe(true)
    const wrong = { ...shape, fill: { ...fill, angel: 3 } }
    expect(writtenScene({ ...least, elements: [{ id: 'a', look: wrong }] }).faults.map(sayWritten)).toEqual([
      'elements.0.look.fill.angel: nothing is called “angel” here; the nearest is “angle”'
    ])
  })

  test('what is given is not changed', () => {
    const before = structuredClone(least)
    writtenScene(least)
    expect(least).toEqual(before)
  })
})

describe('what is wrong', () => {
  const faultsOf = (data: unknown): string[] => writtenScene(data).faults.map(sayWritten)

  test('all of it is told at once, with its place, what stands there, and what may', () => {
    const wrong = {
      ...{ ...least, width: 0, colour: 'red' },
      elements: [
        { id: 'a', look: { kind: 'text', text: 'Fern', size: 'big', trakcing: 4 } },
        { id: 'b', rotaton: 5, entrance: { kind: 'zoom' }, look: { kind: 'shape', form: 'star', width: 3, height: 4 } }
      ]
    }
    expect(faultsOf(wrong)).toEqual([
      'elements.0.look.trakcing: nothing is called “trakcing” here; the nearest is “tracking”',
      'elements.1.rotaton: nothing is called “rotaton” here; the nearest is “rotation”',
      expect.stringMatching(/^colour: nothing is called “colour” here; the nearest is “\w+”$/),
      'width: 1 is the least it can be; it is 0',
      'elements.0.look.size: a number is needed; it is "big"',
      expect.stringMatching(/^elements\.1\.entrance\.kind: it is one of "none", "fade", .*"scatter"; it is "zoom"$/)
    ])
    expect(() => readScene(JSON.stringify(wrong), 'x.json')).toThrow(
      /^x\.json: elements\.0\.look\.trakcing: .*; elements\.1\.rotaton: .*; colour: .*; and 3 more, which/
    )
  })

  test('of a size that is wrong nothing follows, and names without end are cut', () => {
    expect(faultsOf({ ...least, width: 'wide' })).toEqual(['width: a number is needed; it is "wide"'])
    expect(faultsOf({ ...least, height: undefined })).toEqual(['height: it is missing'])
    const [only] = faultsOf({ ...least, ['w'.repeat(100_000)]: 1 })
    expect(only!.length).toBeLessThan(200)
  })

  test('what contradicts itself is found where nothing else is wrong', () => {
    const twice = { ...least, elements: [least.elements[0], least.elements[0]] }
    expect(faultsOf(twice)).toEqual(['elements.1.id: "a" is there twice; it is "a"'])
    expect(faultsOf({ ...least, elements: [{ ...least.elements[0], after: 'moth' }] })[0]).toContain('moth')
    expect(faultsOf({ ...least, elements: [{ id: 'a' }] })).toEqual(['elements.0.look: it is missing'])
    expect(faultsOf({ ...least, elements: [{ id: 'a', look: { kind: 'blob' } }] })).toHaveLength(1)
  })

  test.each([[null], [7], ['scene'], [[]], [{}], [{ elements: 5 }], [{ elements: [null, [], 3] }]])(
    '%j is no scene, and that is all',
    data => expect(faultsOf(data).length).toBeGreaterThan(0)
  )

  test('a file that is nested without end, or has a thousand faults, ends in a few sentences', () => {
    const nested = `${'['.repeat(3000)}${']'.repeat(3000)}`
    expect(() => readScene(`{"pour":"scene","elements":[{"look":${nested}}],"x":${nested}}`, 'x.json')).toThrow(
      'x.json'
    )
    const many = { ...least, elements: Array.from({ length: 1000 }, () => ({ idd: 1 })) }
    expect(faultsOf(many)).toHaveLength(200)
  })
})

describe('the schema', () => {
  test('that is published is the one in force', () => {
    const published = JSON.parse(readFileSync(path.join(root, 'docs/scene.schema.json'), 'utf8')) as unknown
    expect(published).toEqual(JSON.parse(JSON.stringify(sceneSchema())))
  })

  test('as another library reads it, takes what is read here and refuses what is not', () => {
    expect(examples.length).toBeGreaterThan(0)
    for (const example of [...examples, least, { ...least, $schema: 'scene.schema.json' }]) {
      expect(writtenScene(example).faults).toEqual([])
      expect(allows(example), JSON.stringify(allows.errors)).toBe(true)
    }
    const wrong: [string, unknown][] = [
      ['unknown name', { ...least, moths: 3 }],
      ['too many moments', { ...least, blur: { moments: 65 } }],
      ['no elements', { ...least, elements: undefined }],
      ['a form that is none', { ...least, elements: [{ id: 'a', look: { kind: 'shape', form: 'moth' } }] }],
      ['a colour that is none', { ...least, backdrop: 'red' }]
    ]
    for (const [name, data] of wrong) {
      const plain = JSON.parse(JSON.stringify(data)) as unknown
      expect([allows(plain), writtenScene(plain).scene], name).toEqual([false, null])
    }
  })
})
