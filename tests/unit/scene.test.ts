/** Scenes: exact coverage, alpha that adds up, times, tables, and what is refused. */
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import type { Frame } from '../../core/frame/frame'
import { lookingAt, takeIn } from '../../core/run/intake/intake'
import { parseRate } from '../../core/base/rate'
import { sceneSpec } from '../../core/draw/scene/as-file'
import { accentsIn } from '../../core/draw/scene/elements/lettering/accents'
import { eased } from '../../core/draw/scene/ease'
import { fieldsOf, filledFrom, readTable } from '../../core/draw/scene/tables'
import { readScene } from '../../core/draw/scene/format'
import { areaOf } from '../../core/draw/raster/area'
import { strokeOf } from '../../core/draw/raster/stroke'
import { figureLine } from '../../core/draw/scene/elements/shape/outline'
import { pathLine } from '../../core/draw/scene/elements/path/outline'
import { placed, placing, traced } from '../../core/draw/raster/line'
import { relaid } from '../../core/draw/scene/relaid'
import { partOf } from '../../core/draw/scene/elements/lettering/parts'
import { SceneRenderer } from '../../core/draw/scene/render'
import { Scene, type Element } from '../../core/draw/scene/scene'
import type { Accent } from '../../core/draw/scene/elements/lettering/accents'
import type { Look } from '../../core/draw/scene/elements/kinds'
import { emptyScene, newElement, type SceneSize } from '../../core/draw/scene/fresh'
import { figure } from '../../core/draw/scene/elements/shape'
import { lettered } from '../../core/draw/scene/elements/lettering'
import { starters } from '../../core/draw/scene/starters'
import { momentOf, timesOf } from '../../core/draw/scene/timing'
import { openSource } from '../../core/open/open'
import { encodePng } from '../../core/media/pictures/png/encode'
import { bytesFile, damage, noise, random, roundOf, survives, testHost } from './support'

const host = await testHost()
const SIZE: SceneSize = { width: 160, height: 90, rate: [25, 1], seconds: 2 }

const sceneOf = (...elements: Element[]): Scene => ({ ...emptyScene('test', SIZE), elements })
const element = (look: Look, more: Partial<Element> = {}): Element => ({
  ...newElement('one', 'One', look, SIZE),
  ...more
})

const move = (kind: Element['entrance']['kind'], more: Partial<Element['entrance']> = {}): Element['entrance'] => ({
  kind,
  seconds: 1,
  ease: 'linear',
  side: 'left',
  ...more
})

async function rendered(scene: Scene, index = 0): Promise<Frame> {
  const renderer = await SceneRenderer.of(scene, host)
  return renderer.frame(index)
}

const pixel = ({ samples, width }: Frame, x: number, y: number): number[] => [
  ...samples.slice(4 * (y * width + x), 4 * (y * width + x) + 4)
]

const alphaSum = ({ samples }: Frame): number => {
  let sum = 0
  for (let i = 3; i < samples.length; i += 4) sum += samples[i]!
  return sum / 65535
}

describe('coverage', () => {
  const clip = { left: 0, top: 0, right: 200, bottom: 200 }
  const figureOf = (form: 'ellipse' | 'rectangle' | 'polygon' | 'star', w: number, h: number): Float64Array =>
    figureLine(figure(form, w, h, { corner: 0 }) as Extract<Look, { kind: 'shape' }>)

  test('areas come out as geometry has them, wherever they lie and however they are turned', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 3, max: 60, noNaN: true }),
        fc.double({ min: 3, max: 60, noNaN: true }),
        fc.double({ min: 70, max: 120, noNaN: true }),
        fc.double({ min: 70, max: 120, noNaN: true }),
        fc.double({ min: 0, max: 360, noNaN: true }),
        (w, h, x, y, turned) => {
          for (const [form, area] of [
            ['rectangle', w * h],
            ['ellipse', (Math.PI * w * h) / 4]
          ] as const) {
            const found = areaOf([placed(figureOf(form, w, h), placing(x, y, 1, turned))], clip)!
            const sum = found.values.reduce((total, value) => total + value, 0)
            expect(Math.abs(sum / area - 1)).toBeLessThan(form === 'rectangle' ? 1e-4 : 1e-3)
            expect(Math.max(...found.values)).toBeLessThanOrEqual(1)
            expect(Math.min(...found.values)).toBeGreaterThanOrEqual(0)
          }
        }
      ),
      { numRuns: 100 }
    )
  })

  test('a rectangle between pixels covers each as far as it reaches into it', () => {
    const line = Float64Array.from([10.25, 20.5, 13.5, 20.5, 13.5, 22, 10.25, 22])
    const { left, top, right, values } = areaOf([line], clip)!
    const at = (x: number, y: number): number => values[(y - top) * (right - left) + x - left]!
    expect([at(10, 20), at(11, 20), at(13, 20), at(10, 21), at(12, 21)]).toEqual([0.375, 0.5, 0.25, 0.75, 1])
  })

  test('what lies outside is cut, and what lies beyond the left still covers what is right of it', () => {
    const line = Float64Array.from([-50, -50, 100, -50, 100, 400, -50, 400])
    const found = areaOf([line], clip)!
    expect([found.left, found.top, found.right, found.bottom]).toEqual([0, 0, 100, 200])
    expect(found.values.every(value => value === 1)).toBe(true)
    expect(areaOf([placed(line, placing(900, 0, 1, 0))], clip)).toBe(null)
  })

  test('an area within another that runs the other way is a hole', () => {
    const outer = Float64Array.from([10, 10, 50, 10, 50, 50, 10, 50])
    const inner = Float64Array.from([20, 20, 20, 40, 40, 40, 40, 20])
    const sum = areaOf([outer, inner], clip)!.values.reduce((total, value) => total + value, 0)
    expect(sum).toBeCloseTo(1600 - 400, 3)
  })

  test('a line is as wide as it says, and a hair as faint as it is thin', () => {
    const line = { line: Float64Array.from([20, 50, 180, 50]), closed: false }
    for (const width of [0.3, 1, 4, 9]) {
      const found = strokeOf([line], roundOf(width), clip)!
      const column = 100 - found.left
      let sum = 0
      for (let y = 0; y < found.bottom - found.top; y++) sum += found.values[y * (found.right - found.left) + column]!
      expect(Math.abs(sum - width)).toBeLessThan(0.02 * width + 0.01)
    }
  })
})

describe('alpha', () => {
  test('a bar of 60 % is 39321 of 65535, its colour exact, and nothing is stored where it is clear', async () => {
    const bar = element(figure('rectangle', 100, 40, { fill: '#175c4e', fillOpacity: 0.6 }))
    const frame = await rendered(sceneOf(bar))
    expect(pixel(frame, 80, 45)).toEqual([0x17 * 257, 0x5c * 257, 0x4e * 257, 39321])
    for (let i = 0; i < frame.samples.length; i += 4)
      if (frame.samples[i + 3] === 0) expect([...frame.samples.slice(i, i + 3)]).toEqual([0, 0, 0])
  })

  test('what overlaps adds up by over', async () => {
    const half = (id: string, x: number, fill: `#${string}`): Element => ({
      ...element(figure('rectangle', 60, 40, { fill, fillOpacity: 0.5 })),
      id,
      x
    })
    const frame = await rendered(sceneOf(half('front', 90, '#ff0000'), half('back', 70, '#0000ff')))
    const [r, g, b, a] = pixel(frame, 80, 45) as [number, number, number, number]
    expect(a).toBe(Math.round(0.75 * 65535))
    // half of red over half of blue: two thirds red in what is seen
    expect([r, g, b]).toEqual([Math.round((0.5 / 0.75) * 65535), 0, Math.round((0.25 / 0.75) * 65535)])
  })

  test('a fade runs evenly in alpha, and leaves colour as it is', async () => {
    const bar = element(figure('rectangle', 100, 40, { fill: '#204060' }), {
      entrance: { kind: 'fade', seconds: 1, ease: 'linear', side: 'left' }
    })
    const renderer = await SceneRenderer.of(sceneOf(bar), host)
    for (const index of [1, 7, 13, 24]) {
      const [r, g, b, a] = pixel(renderer.frame(index), 80, 45) as [number, number, number, number]
      expect(a).toBe(Math.round((index / 25) * 65535))
      for (const [found, due] of [
        [r, 0x20],
        [g, 0x40],
        [b, 0x60]
      ] as const)
        expect(Math.abs(found - due * 257)).toBeLessThan(1)
    }
  })

  test('an edge laid over any backdrop is what geometry makes of it: no fringe', async () => {
    const disc = element(figure('ellipse', 61.3, 61.3, { fill: '#f0c040' }), { x: 80.37, y: 44.81 })
    const frame = await rendered(sceneOf(disc))
    expect(Math.abs(alphaSum(frame) / ((Math.PI * 61.3 ** 2) / 4) - 1)).toBeLessThan(0.001)
    // straight colour is the same in every pixel that has any, so whatever lies behind shows through by alpha alone
    for (let i = 0; i < frame.samples.length; i += 4) {
      if (frame.samples[i + 3]! < 40) continue
      for (const [c, code] of [0xf0, 0xc0, 0x40].entries())
        expect(Math.abs(frame.samples[i + c]! - code * 257)).toBeLessThan(1 + (65535 / frame.samples[i + 3]!) * 0.01)
    }
  })

  /** A bar that goes so many pixels to the right with each frame. */
  const moving = (step: number): Element =>
    element(figure('rectangle', 10, 40), {
      tracks: [
        {
          of: 'x',
          keys: [
            { at: 0, value: 40, ease: 'linear' },
            { at: 1, value: 40 + 25 * step, ease: 'linear' }
          ]
        }
      ]
    })

  test('moments of a frame are laid together with the right alpha', async () => {
    const bar = moving(20)
    const blurred = { ...sceneOf(bar), blur: { moments: 16, open: 1 } }
    const [sharp, soft] = [await rendered(sceneOf(bar)), await rendered(blurred)]
    // the same amount, over more pixels, each less
    expect(Math.abs(alphaSum(soft) / alphaSum(sharp) - 1)).toBeLessThan(0.001)
    expect(Math.max(...soft.samples.filter((_, i) => i % 4 === 3))).toBeLessThan(0.7 * 65535)
    expect(pixel(soft, 50, 45).slice(0, 3)).toEqual([0x17 * 257, 0x5c * 257, 0x4e * 257])
  })

  test('a shutter opens at the time of the frame, or about it, and is open for as long as is said', async () => {
    const bar = moving(8)
    const middleOf = async (blur: Scene['blur'], index: number): Promise<number> => {
      const { samples, width } = await (await SceneRenderer.of({ ...sceneOf(bar), blur }, host)).frame(index)
      let [sum, at] = [0, 0]
      for (let i = 3; i < samples.length; i += 4) {
        sum += samples[i]!
        at += samples[i]! * (((i - 3) / 4) % width)
      }
      return at / sum
    }
    for (const open of [0.25, 0.5, 1]) {
      const sharp = await middleOf({ moments: 1, open }, 3)
      expect((await middleOf({ moments: 24, open }, 3)) - sharp).toBeCloseTo(4 * open, 1)
      expect(await middleOf({ moments: 24, open, centred: true }, 3)).toBeCloseTo(sharp, 1)
    }
    // before its beginning a scene stands as it begins
    expect(await middleOf({ moments: 24, open: 1, centred: true }, 0)).toBeLessThan(
      await middleOf({ moments: 24, open: 1 }, 0)
    )
  })

  test('a shadow is alpha of its own colour, also of what lies outside the picture', async () => {
    const outside = element(figure('rectangle', 40, 40, { fill: '#ffffff' }), {
      x: -25,
      shadow: { x: 30, y: 0, soft: 4, colour: '#000000', opacity: 0.5 }
    })
    const [r, g, b, a] = pixel(await rendered(sceneOf(outside)), 10, 45) as [number, number, number, number]
    expect([r, g, b]).toEqual([0, 0, 0])
    expect(Math.abs(a - 0.5 * 65535)).toBeLessThan(700)
  })

  test('light that is added covers nothing: alpha is that of the scene without it, and over any backdrop it is added', async () => {
    const disc = figure('ellipse', 30, 30, { fill: '#204060' })
    const glow = { soft: 12, colour: '#ffaa33' as const, opacity: 0.7 }
    const of = (glowing: Element['glow']): Promise<Frame> => rendered(sceneOf(element(disc, { glow: glowing })))
    const [plain, covering, added] = [await of(null), await of(glow), await of({ ...glow, added: true })]
    expect(added.alpha).toEqual({ mode: 'premultiplied', matte: '#000000' })
    let lit = 0
    for (let i = 0; i < added.samples.length; i += 4) {
      const [a, own] = [plain.samples[i + 3]!, covering.samples[i + 3]!]
      expect(added.samples[i + 3]).toBe(a)
      // what is added is what the covering glow has as premultiplied light, behind the disc
      for (let c = 0; c < 3; c++) {
        const light = (covering.samples[i + c]! * own) / 65535
        expect(Math.abs(added.samples[i + c]! - light)).toBeLessThan(2)
      }
      if (a === 0 && added.samples[i]! > 0) lit++
    }
    expect(lit).toBeGreaterThan(500)
    const facts = sceneSpec(sceneOf(element(disc, { glow: { ...glow, added: true } })))
    const source = await openSource(facts, host)
    expect(source.facts.claim).toMatchObject({ mode: 'premultiplied', matte: '#000000' })
    expect(source.facts.findings.map(({ id }) => id)).toContain('scene-added-light')
    // as light, over white, it is brighter nowhere than white; faded, half of it is there
    const faded = await rendered(sceneOf(element(disc, { glow: { ...glow, added: true }, opacity: 0.5 })))
    for (let i = 0; i < faded.samples.length; i += 97 * 4)
      expect(Math.abs(faded.samples[i]! - added.samples[i]! / 2)).toBeLessThan(2)
    await source.close()
  })

  test('a backdrop makes all of it solid, and is told', async () => {
    const scene = { ...sceneOf(), backdrop: '#102030' as const }
    const frame = await rendered(scene)
    expect(pixel(frame, 3, 3)).toEqual([0x10 * 257, 0x20 * 257, 0x30 * 257, 65535])
    const { found } = await takeIn([bytesFile('s.json', new TextEncoder().encode(JSON.stringify(scene)))], host)
    expect(found[0]!.facts.findings.map(finding => finding.id)).toContain('scene-backdrop')
  })
})

describe('pictures', () => {
  const given = noise({ width: 12, height: 10, depth: 16, seed: 3 })
  const data = Buffer.from(encodePng(host, given)).toString('base64')
  const picture = (width: number, height: number): Look => ({ kind: 'picture', data, width, height })

  test('a picture between no pixels is laid code for code, and a quarter turn turns it', async () => {
    const frame = await rendered(sceneOf(element(picture(12, 10), { x: 80, y: 45 })))
    const turned = await rendered(sceneOf(element(picture(12, 10), { x: 80, y: 45, rotation: 90 })))
    for (let y = 0; y < 10; y++)
      for (let x = 0; x < 12; x++) {
        const due = [...given.samples.slice(4 * (y * 12 + x), 4 * (y * 12 + x) + 4)]
        if (due[3] === 0) due.fill(0)
        for (const found of [pixel(frame, 74 + x, 40 + y), pixel(turned, 80 + 5 - 1 - y, 45 - 6 + x)])
          for (let c = 0; c < 4; c++) expect(Math.abs(found[c]! - due[c]!)).toBeLessThan(c === 3 ? 2 : 40)
      }
  })

  test('made smaller it is the mean of what lies in each pixel, and alpha adds up', async () => {
    const whole = alphaSum(await rendered(sceneOf(element(picture(12, 10), { x: 80, y: 45 }))))
    const small = alphaSum(await rendered(sceneOf(element(picture(6, 5), { x: 80, y: 45.5 }))))
    expect(small).toBeCloseTo(whole / 4, 1)
  })

  test('what is no PNG is one clear error that names the element', async () => {
    for (const wrong of ['not base64!', btoa('no picture')])
      await expect(rendered(sceneOf(element({ kind: 'picture', data: wrong, width: 4, height: 4 })))).rejects.toThrow(
        /One.*PNG/
      )
  })
})

describe('movement', () => {
  test('a wipe uncovers its share from its side, and an exit takes it away again', async () => {
    const bar = element(figure('rectangle', 100, 40), { entrance: move('wipe'), exit: move('wipe', { side: 'right' }) })
    const renderer = await SceneRenderer.of(sceneOf(bar), host)
    const whole = 4000
    for (const index of [5, 10, 20]) expect(alphaSum(renderer.frame(index))).toBeCloseTo(whole * (index / 25), 0)
    expect(pixel(renderer.frame(10), 40, 45)[3]).toBe(65535)
    expect(pixel(renderer.frame(10), 80, 45)[3]).toBe(0)
    const going = renderer.frame(35)
    expect(alphaSum(going)).toBeCloseTo(whole * 0.6, 0)
    expect(pixel(going, 40, 45)[3]).toBe(65535)
  })

  test('a slide begins outside and ends in place; a trace is as long as its share', async () => {
    for (const side of ['left', 'right', 'top', 'bottom'] as const) {
      const renderer = await SceneRenderer.of(
        sceneOf(element(figure('rectangle', 30, 20), { entrance: move('slide', { side }) })),
        host
      )
      expect(alphaSum(renderer.frame(0))).toBeLessThan(1e-3)
      expect(alphaSum(renderer.frame(25))).toBeCloseTo(600, 2)
    }
    const { line, head } = traced(Float64Array.from([0, 0, 10, 0, 10, 10]), 0.75)
    expect([...line]).toEqual([0, 0, 10, 0, 10, 5])
    expect([head.x, head.y, head.turned]).toEqual([10, 5, 90])
  })

  test('a rider follows the head of a traced path', async () => {
    const path: Look = {
      kind: 'path',
      points: [
        { x: -60, y: 0, before: null, after: null },
        { x: 60, y: 0, before: null, after: null }
      ],
      closed: false,
      fill: null,
      stroke: { colour: '#4a7c34', width: 2 },
      rider: 'dot',
      riderSize: 20
    }
    const renderer = await SceneRenderer.of(sceneOf(element(path, { entrance: move('trace') })), host)
    const frame = renderer.frame(12)
    const x = Math.round(80 - 60 + 120 * (12 / 25))
    expect([pixel(frame, x, 45 - 6)[3], pixel(frame, x + 20, 45)[3], pixel(frame, 22, 45)[3]]).toEqual([
      65535, 0, 65535
    ])
  })

  test('letters come one after the other', async () => {
    const word = element(lettered('IIIII', 40, { align: 'left', tracking: 300 }), {
      x: 20,
      y: 60,
      entrance: move('letters')
    })
    const renderer = await SceneRenderer.of(sceneOf(word), host)
    const columns = (frame: Frame, from: number, to: number): number => {
      let sum = 0
      for (let y = 0; y < 90; y++) for (let x = from; x < to; x++) sum += pixel(frame, x, y)[3]!
      return sum
    }
    const frame = renderer.frame(8)
    expect(columns(frame, 20, 44)).toBeGreaterThan(3 * columns(frame, 100, 160))
    expect([partOf(0, 3, 5), partOf(1, 3, 5), partOf(0.5, 0, 5) > partOf(0.5, 4, 5)]).toEqual([0, 1, true])
  })

  test('times follow each other, circles begin at once, and what has gone is gone', () => {
    const make = (id: string, more: Partial<Element>): Element => ({ ...element(figure('ellipse', 9, 9)), id, ...more })
    const scene = sceneOf(
      make('a', { delay: 0.2, entrance: move('fade', { seconds: 0.5 }) }),
      make('b', { after: 'a', delay: 0.1, hold: 0.4, exit: move('fade', { seconds: 0.3 }) }),
      make('c', { after: 'd' }),
      make('d', { after: 'c' })
    )
    const times = timesOf(scene)
    expect(times.get('b')).toEqual({ start: 0.7999999999999999, whole: 0.7999999999999999, leave: 1.2, end: 1.5 })
    expect(times.get('c')!.start).toBe(0)
    expect(momentOf(scene.elements[1]!, times.get('b')!, 1.49)).not.toBe(null)
    expect(momentOf(scene.elements[1]!, times.get('b')!, 1.5)).toBe(null)
    expect([eased('linear', 0.3), eased('soft', 0), eased('soft', 1), eased([0, 0, 1, 1], 0.5)]).toEqual([
      0.3, 0, 1, 0.5
    ])
  })

  test('a scene that ends as it begins is told from one that does not', async () => {
    const closes = async (scene: Scene): Promise<boolean> => (await SceneRenderer.of(scene, host)).closes()
    const loop = starters.find(({ id }) => id === 'loop')!
    const scene = loop.make({}, SIZE)
    // a sixth of a turn is the same star, though not the same number
    expect(await closes(scene)).toBe(true)
    const still = sceneOf(element(figure('star', 20, 20)))
    expect(await closes(still)).toBe(true)
    expect(await closes(sceneOf(element(figure('star', 20, 20), { entrance: move('fade') })))).toBe(false)
  })
})

test('letters that no face has are told before anything is poured', async () => {
  const told = async (words: string): Promise<string[]> => {
    const spec = sceneSpec(sceneOf(element(lettered(words, 20))))
    const { findings } = await lookingAt(host).describe(spec)
    return findings.filter(({ id }) => id === 'letters-missing').map(({ sentence }) => sentence)
  }
  expect(await told('Łucja and Ivo')).toEqual([])
  expect(await told('Fern \u{13000}')).toEqual([expect.stringContaining('has no \u{13000}; a box stands in its place')])
})

test('lettering that never lies within the picture is told; what slides or rolls through is not', async () => {
  const told = async (...elements: Parameters<typeof sceneOf>): Promise<string[]> => {
    const { findings } = await lookingAt(host).describe(sceneSpec(sceneOf(...elements)))
    return findings.filter(({ id }) => id === 'letters-cut').map(({ sentence }) => sentence)
  }
  const words = lettered('Fern', 12)
  expect(await told(element(words, { name: 'Title' }))).toEqual([])
  expect(await told(element(words, { name: 'Title', entrance: move('slide') }))).toEqual([])
  const [said] = await told(element(lettered('Fernbrook Glasshouse', 60), { name: 'Title' }))
  expect(said).toMatch(/^[1-9]\d? % of the lettering “Title” never lies within the picture\.$/)
  expect(await told(element(words, { name: 'Title', x: -500 }))).toEqual([
    '100 % of the lettering “Title” never lies within the picture.'
  ])
})

describe('starters and tables', () => {
  test.each(starters.map(({ id }) => id))(
    '%s makes a scene that is valid in every size, and shows something',
    async id => {
      const starter = starters.find(found => found.id === id)!
      const fields = Object.fromEntries(starter.fields.map(field => [field.id, field.default]))
      for (const [width, height] of [
        [1920, 1080],
        [1080, 1920],
        [320, 180]
      ] as const) {
        const scene = starter.make(fields, { width, height, rate: [25, 1], seconds: starter.seconds })
        expect(Scene.safeParse(scene).error).toBe(undefined)
        expect((await SceneRenderer.of(scene, host)).cut()).toEqual([])
        if (width !== 320) continue
        const frame = await rendered(scene, Math.floor(scene.frames / 2))
        expect(alphaSum(frame)).toBeGreaterThan(20)
      }
    }
  )

  test('words of a lettering are set otherwise wherever they stand, and nothing else changes', async () => {
    const text = lettered('Fern House\nat the Fern', 14) as Extract<Look, { kind: 'text' }>
    const of = (accents: Accent[]): Promise<Frame> =>
      rendered(sceneOf({ ...element({ ...text, accents } as Look), x: 12, y: 34 }))
    const style = { words: 'Fern', face: text.face, colour: text.colour, scale: 1 }
    const plain = await rendered(sceneOf({ ...element(text), x: 12, y: 34 }))
    // set in the very same way, it is the same picture to the code
    expect((await of([style])).samples).toEqual(plain.samples)
    const red = await of([{ ...style, colour: '#ff0000' }])
    let [changed, kept] = [0, 0]
    for (let i = 0; i < red.samples.length; i += 4) {
      // colour alone is another: alpha is where it was, to the code that sums of floats may round by
      expect(Math.abs(red.samples[i + 3]! - plain.samples[i + 3]!)).toBeLessThanOrEqual(1)
      if (!red.samples[i + 3]) continue
      if (red.samples[i + 1] === 0 && red.samples[i] === 65535) changed++
      else kept++
    }
    expect(changed).toBeGreaterThan(60)
    expect(kept).toBeGreaterThan(changed)
    const larger = await of([{ ...style, scale: 1.6 }])
    expect(alphaSum(larger)).toBeGreaterThan(1.3 * alphaSum(plain))
  })

  test('of words that meet the first counts, and every place of them is found', () => {
    const words = (...all: string[]): Accent[] =>
      all.map(each => ({ words: each, face: 'sans', colour: '#ffffff', scale: 1 }))
    const marks = (line: string, ...all: string[]): string =>
      [...accentsIn([...line], words(...all))].map(n => (n < 0 ? '.' : String(n))).join('')
    expect(marks('fern and fern', 'fern')).toBe('0000.....0000')
    expect(marks('palm house', 'm h', 'house')).toBe('...000....')
    expect(marks('aaaa', 'aaa', 'a')).toBe('0001')
    expect(marks('𝒜𝒷 𝒜', '𝒜', '')).toBe('0..0')
    expect(marks('', 'x')).toBe('')
  })

  test('a table makes a scene of each row, called by a column, letters of other scripts included', async () => {
    const scene = starters[0]!.make({ name: 'Nobody', line: 'Nothing' }, SIZE)
    expect(fieldsOf(scene)).toEqual(['line', 'name'])
    const { rows, apart } = filledFrom(
      scene,
      readTable('\ufeffname;line\n"Łucja; Nowak";Keeper\nДарья;"Two\nlines"\nДарья;\n\n', 'people.csv')
    )
    const made = rows.map(row => row.scene)
    expect(apart).toEqual([])
    expect(made.map(({ name }) => name)).toEqual(['Łucja; Nowak', 'Дарья', 'Дарья 2'])
    const texts = made.map(({ elements }) => elements.map(({ look }) => (look.kind === 'text' ? look.text : null)))
    expect(texts[0]).toEqual(['Keeper', 'Łucja; Nowak', null, null])
    expect(texts[2]![0]).toBe('')
    for (const filled of made) expect((await SceneRenderer.of(filled, host)).missing).toEqual([])
    expect((await SceneRenderer.of(sceneOf(element(lettered('한', 20))), host)).missing).toEqual(['한'])
  })

  test('columns that nothing takes and lettering that nothing fills are told before anything is poured', () => {
    const scene = starters[0]!.make({ name: 'Nobody', line: 'Nothing' }, SIZE)
    const apart = (table: string, names?: string): string[] =>
      filledFrom(scene, readTable(table, 'people.csv'), { names }).apart
    expect(apart('id,name,line\n1,A,B\n')).toEqual([])
    expect(apart('name,line,role\nA,B,C\n')).toEqual(['Nothing in the scene takes the column "role".'])
    expect(apart('name,rôle,when\nA,B,C\n')).toEqual([
      'Nothing in the scene takes the columns "rôle", "when".',
      'The table has no column "line"; what takes it stays as it is in every row.'
    ])
    expect(apart('id,name,line\n1,A,B\n', 'name')).toEqual(['Nothing in the scene takes the column "id".'])
  })

  test.each([
    ['name,line\n', 'no rows'],
    ['who,what\nA,B\n', 'no column called "line" or "name"'],
    ['name\n"A\n', 'quotes are not closed']
  ])('a table that cannot be taken is refused in words: %j', (table, why) => {
    const scene = starters[0]!.make({ name: 'Nobody', line: '' }, SIZE)
    expect(() => filledFrom(scene, readTable(table, 'people.csv'))).toThrow(why)
  })

  test('another size keeps what is pinned at its corner', () => {
    const mark = element(figure('rectangle', 20, 10), { x: 140, y: 10, pin: 'top right' })
    const wide = relaid(sceneOf(mark), 400, 180)
    expect(wide.elements[0]).toMatchObject({ x: 360, y: 20, scale: 2 })
    const filled = relaid(sceneOf(mark), 400, 180, 'fill')
    expect(filled.elements[0]).toMatchObject({ scale: 2.5, x: 350, y: 25 })
  })
})

describe('as a source', () => {
  const bytesOf = (scene: unknown): Uint8Array => new TextEncoder().encode(JSON.stringify(scene))

  test('a description is taken in like any film, and each frame is rendered when it is asked for', async () => {
    const scene = starters[0]!.make({ name: 'Ada', line: 'Keeper' }, { ...SIZE, rate: parseRate('23.976')! })
    const { found } = await takeIn([bytesFile('strap.json', bytesOf(scene))], host)
    expect(found[0]!.facts).toMatchObject({
      format: 'scene',
      width: 160,
      height: 90,
      frames: 48,
      rate: [24000, 1001],
      claim: { mode: 'straight' }
    })
    const source = await openSource({ ...found[0]!.spec, id: 'scene' }, host)
    const [again, direct] = [await source.frame(30), await rendered(scene, 30)]
    expect(again.samples).toEqual(direct.samples)
    await expect(source.frame(48)).rejects.toThrow('there are 48 frames')
    await source.close()
  })

  test('what cannot be a scene is refused with the place where it is wrong', () => {
    const good = sceneOf(element(figure('rectangle', 10, 10)))
    const cases: [unknown, RegExp][] = [
      [{ ...good, version: 7 }, /version 7, made by a later Pour/],
      [{ ...good, width: 0 }, /width/],
      [{ ...good, frames: 1e9 }, /frames/],
      [{ ...good, elements: [good.elements[0], good.elements[0]] }, /"one" is there twice/],
      [{ ...good, elements: [{ ...good.elements[0], after: 'ghost' }] }, /no element is called "ghost"/]
    ]
    for (const [scene, why] of cases) expect(() => readScene(JSON.stringify(scene), 'x.json')).toThrow(why)
    expect(() => readScene('{"pour":"scene"', 'x.json')).toThrow('not a complete JSON file')
  })

  test('damaged and hostile descriptions end in one clear error or a picture', async () => {
    const whole = bytesOf(starters[0]!.make({ name: 'Ada', line: 'Keeper' }, SIZE))
    const next = random(4)
    for (let seed = 0; seed < 150; seed++) {
      await survives(async () => {
        const scene = readScene(new TextDecoder().decode(damage(whole, seed)), 'x.json')
        const small = relaid(scene, 32, 18)
        ;(await SceneRenderer.of(small, host)).frame(Math.floor(next() * small.frames))
      })
    }
    const wild = element(figure('star', 1e4, 1e4, { points: 60, stroke: { colour: '#ffffff', width: 1000 } }), {
      scale: 100,
      rotation: 36_000,
      shadow: { x: 1e4, y: 1e4, soft: 500, colour: '#000000', opacity: 1 }
    })
    const frame = await rendered({ ...sceneOf(wild), width: 64, height: 36 })
    expect(frame.samples).toHaveLength(4 * 64 * 36)
  })

  test('a path that is closed by curves holds what lies within', () => {
    const round = pathLine(
      [
        { x: -50, y: 0, before: [0, 27.6], after: [0, -27.6] },
        { x: 0, y: -50, before: [-27.6, 0], after: [27.6, 0] },
        { x: 50, y: 0, before: [0, -27.6], after: [0, 27.6] },
        { x: 0, y: 50, before: [27.6, 0], after: [-27.6, 0] }
      ],
      true
    )
    const found = areaOf([placed(round, placing(100, 100, 1, 0))], { left: 0, top: 0, right: 200, bottom: 200 })!
    const sum = found.values.reduce((total, value) => total + value, 0)
    expect(Math.abs(sum / (Math.PI * 2500) - 1)).toBeLessThan(0.001)
  })
})

describe('the preview that plays', () => {
  test('is the same picture with fewer pixels: alpha and light are those of the exact one, all through every starter', async () => {
    for (const starter of starters) {
      const fields = Object.fromEntries(starter.fields.map(field => [field.id, field.default]))
      const scene = starter.make(fields, { width: 321, height: 180, rate: [25, 1], seconds: starter.seconds })
      const renderer = await SceneRenderer.of(scene, host)
      const small = await SceneRenderer.of(scene, host)
      for (const share of [0.1, 0.35, 0.6, 0.95]) {
        const index = Math.floor(share * scene.frames)
        const [exact, preview] = [renderer.frame(index), small.frame(index, 0.5)]
        expect([preview.width, preview.height]).toEqual([161, 90])
        let [off, most, lit] = [0, 0, 0]
        for (let y = 0; y < 90; y++)
          for (let x = 0; x < 160; x++)
            for (const c of [1, 3]) {
              // premultiplied light, or alpha, of the four exact pixels that the one stands for
              const of = (frame: Frame, u: number, v: number): number => {
                const at = 4 * (v * frame.width + u)
                const alpha = frame.samples[at + 3]! / 65535
                return c === 3 ? alpha : (alpha * frame.samples[at + c]!) / 65535
              }
              const mean = [0, 1, 2, 3].reduce((sum, n) => sum + of(exact, 2 * x + (n & 1), 2 * y + (n >> 1)) / 4, 0)
              const apart = Math.abs(of(preview, x, y) - mean)
              off += apart
              most = Math.max(most, apart)
              if (mean > 0) lit++
            }
        const said = `${starter.id}, frame ${index}`
        expect(off / Math.max(1, lit), said).toBeLessThan(0.02)
        expect(most, said).toBeLessThan(0.2)
      }
    }
  })
})
