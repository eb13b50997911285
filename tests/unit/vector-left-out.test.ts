/**
 * Whatever is said to be left out of a vector animation is, and whatever changes the picture elsewhere is drawn or
 * told.
 */
import { describe, expect, test } from 'vitest'
import type { Frame } from '../../core/frame/frame'
import { takeIn } from '../../core/run/intake/intake'
import { openSource } from '../../core/open/open'
import { readAnimation } from '../../core/draw/vector/animation'
import { bytesFile, testHost } from './support'

const host = await testHost()
type Json = Record<string, unknown>
const still = (k: unknown): Json => ({ a: 0, k })
const transform = { p: still([0, 0]), a: still([0, 0]), s: still([100, 100]), r: still(0), o: still(100) }

function animation({ shapes = [] as Json[], after = [] as Json[], layer = {} as Json }): Json {
  const ks = { p: still([48, 32, 0]), a: still([0, 0, 0]), s: still([60, 60, 100]), r: still(0), o: still(100) }
  const box = { ty: 'rc', p: still([0, 0]), s: still([40, 30]), r: still(0) }
  const circle = { ty: 'el', p: still([15, 10]), s: still([30, 30]) }
  const fill = { ty: 'fl', c: still([0.3, 0.6, 0.2, 1]), o: still(100) }
  const it = [box, circle, ...shapes, fill, ...after, { ty: 'tr', ...transform }]
  const own = { ty: 4, ip: 0, op: 5, st: 0, ks, shapes: [{ ty: 'gr', it }], ...layer }
  return { v: '5.7.0', fr: 25, ip: 0, op: 5, w: 96, h: 64, layers: [own] }
}

let made = 0
async function drawn(data: Json): Promise<{ told: string; frame: Frame }> {
  const name = `shapes ${made++}.json`
  const { found } = await takeIn([bytesFile(name, new TextEncoder().encode(JSON.stringify(data)))], host)
  const source = await openSource({ ...found[0]!.spec, id: name }, host)
  const told = source.facts.findings.find(({ id }) => id === 'features-left-out')?.sentence ?? ''
  return { told, frame: await source.frame(0).finally(() => source.close()) }
}

const plain = (await drawn(animation({}))).frame.samples
const red = still([1, 0, 0, 1])
const number = (v: number): Json => ({ ty: 0, v: still(v) })
const choice = (v: number): Json => ({ ty: 7, v: still(v) })
const colour = (r: number, g: number, b: number): Json => ({ ty: 2, v: still([r, g, b, 1]) })
const effect = (ty: number, ...ef: Json[]): Json => ({ layer: { ef: [{ ty, nm: `Nr ${ty}`, en: 1, ef }] } })
const style = (ty: number, more: Json): Json => ({ layer: { sy: [{ ty, nm: '', ...more }] } })
const shadow = { c: red, o: still(100), a: still(135), s: still(5), d: still(8), ch: still(0), bm: still(1) }
const glow = { c: red, o: still(100), s: still(9), r: still(50), ch: still(0), bm: still(1) }
const copies = { p: still([12, 0]), a: still([0, 0]), s: still([100, 100]), r: still(0), so: still(100), eo: still(50) }

test.each<[string, Parameters<typeof animation>[0]]>([
  ['pucker', { shapes: [{ ty: 'pb', a: still(40) }] }],
  ['offset', { shapes: [{ ty: 'op', a: still(5), lj: 1, ml: still(4) }] }],
  ['rounded corners', { shapes: [{ ty: 'rd', r: still(8) }] }],
  ['trim', { shapes: [{ ty: 'tm', s: still(0), e: still(50), o: still(0), m: 1 }] }],
  ['merge', { shapes: [{ ty: 'mm', mm: 5 }] }],
  ['repeater', { after: [{ ty: 'rp', c: still(3), o: still(0), m: 1, tr: copies }] }],
  ['tint', effect(20, colour(1, 0, 0), colour(0, 0, 1), number(100))],
  ['fill', effect(21, number(0), choice(0), colour(1, 0, 0), choice(0), number(0), number(0), number(1))],
  ['three tones', effect(23, colour(1, 0, 0), colour(0, 1, 0), colour(0, 0, 1), number(0))],
  ['cast shadow', effect(25, colour(1, 0, 0), number(255), number(135), number(8), number(2))],
  ['blur', effect(29, number(8), choice(1), choice(0))],
  ['shadow style', style(1, shadow)],
  ['inner shadow', style(2, shadow)],
  ['glow', style(3, glow)],
  ['inner glow', style(4, glow)],
  ['colour over it', style(7, { c: red, o: still(100), bm: still(1) })],
  [
    'turned in depth',
    {
      layer: {
        ddd: 1,
        ks: { ...transform, p: still([48, 32, 0]), ry: still(50), rx: still(0), rz: still(0), or: still([0, 0, 0]) }
      }
    }
  ]
])('%s is drawn, and nothing is told', async (_, how) => {
  const { told, frame } = await drawn(animation(how))
  expect(told).toBe('')
  expect(frame.samples).not.toEqual(plain)
})

test.each<[string, Parameters<typeof animation>[0], string]>([
  ['zig-zag', { shapes: [{ ty: 'zz', s: still(6), r: still(3), pt: still(1) }] }, 'zig-zag'],
  ['twist', { shapes: [{ ty: 'tw', a: still(40), c: still([0, 0]) }] }, 'twist'],
  ['a shape of tomorrow', { shapes: [{ ty: 'qq', a: still(40) }] }, 'a shape of the kind “qq”'],
  ['stroke along masks', effect(22, number(0), number(1), colour(1, 0, 0), number(5)), 'the effect “Nr 22”'],
  ['twirl', effect(30, number(90), number(30)), 'the effect “Nr 30”'],
  ['waves', effect(32, number(5), number(5)), 'the effect “Nr 32”'],
  ['an effect of its own', effect(5, number(10), number(3)), 'the effect “Nr 5”'],
  ['bevel', style(5, { bs: still(1), s: still(5) }), 'the layer style a bevel'],
  ['satin', style(6, { c: red, o: still(100), s: still(5), d: still(5) }), 'the layer style satin'],
  ['gradient over it', style(8, { o: still(100), bm: still(1) }), 'the layer style a gradient'],
  ['stroke around it', style(0, { c: red, s: still(5) }), 'the layer style a stroke']
])('%s is not drawn, and told', async (_, how, words) => {
  const { told, frame } = await drawn(animation(how))
  expect(told).toContain(words)
  expect(frame.samples).toEqual(plain)
})

test('what is switched off, or holds a value only, is not told', async () => {
  const off = animation({ layer: { ef: [{ ty: 32, nm: 'Waves', en: 0, ef: [] }] } })
  const control = animation({ layer: { ef: [{ ty: 5, nm: 'Slider Control', en: 1, ef: [number(3)] }] } })
  const hidden = animation({ shapes: [{ ty: 'zz', hd: true, s: still(6), r: still(3), pt: still(1) }] })
  for (const data of [off, control, hidden]) expect((await drawn(data)).told).toBe('')
})

describe('small files that come to more than can be drawn end in words, before anything is drawn', () => {
  const layer = (more: object): object => ({ ty: 0, ip: 0, op: 9, st: 0, ks: {}, ...more })
  const animation = (layers: object[], assets: object[]): string =>
    JSON.stringify({ v: '5.7.0', w: 64, h: 48, fr: 25, ip: 0, op: 9, layers, assets })
  const shape = (it: object[]): object => layer({ ty: 4, shapes: [{ ty: 'gr', it }] })
  const times = (k: number): object => ({ ty: 'rp', c: { a: 0, k }, o: { a: 0, k: 0 }, tr: {} })

  test.each([
    [
      'compositions of ten of each other',
      animation(
        [layer({ refId: 'c0' })],
        Array.from({ length: 12 }, (_, n) => ({
          id: `c${n}`,
          layers: Array.from({ length: 10 }, () => layer({ refId: `c${n + 1}` }))
        }))
      ),
      'more than 50000 layers'
    ],
    [
      'one that shows itself',
      animation([layer({ refId: 'c' })], [{ id: 'c', layers: [layer({ refId: 'c' })] }]),
      'shows itself'
    ],
    [
      'a hundred deep',
      animation(
        [layer({ refId: 'c0' })],
        Array.from({ length: 100 }, (_, n) => ({ id: `c${n}`, layers: [layer({ refId: `c${n + 1}` })] }))
      ),
      'deeper than can be taken'
    ],
    [
      'repeaters of repeaters',
      animation([shape([{ ty: 'el' }, times(1000), times(1000)])], []),
      'more than 50000 layers'
    ]
  ])('%s', (_, text, why) => {
    expect(() => readAnimation(text, 'deep.json')).toThrow(why)
  })

  test('honest ones are taken: the same composition many times, and a hundred copies', () => {
    const many = Array.from({ length: 40 }, () => layer({ refId: 'c' }))
    const text = animation([...many, shape([{ ty: 'el' }, times(100)])], [{ id: 'c', layers: [shape([{ ty: 'rc' }])] }])
    expect(readAnimation(text, 'fine.json')).toMatchObject({ width: 64, height: 48, frames: 9 })
  })
})
