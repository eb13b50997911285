/** Packed sheets: where pieces lie, that strangers find every code where the data says, and what is refused. */
import { readFileSync } from 'node:fs'
import path from 'node:path'
import { Ajv2020 } from 'ajv/dist/2020'
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import type { FileRef } from '../../core/base/files/file'
import type { FilesSink } from '../../core/base/files/sinks'
import { optionValues, type OptionValues } from '../../core/base/settings/field'
import type { AlphaMode, Frame } from '../../core/frame/frame'
import { OPAQUE, STRAIGHT } from '../../core/frame/frame'
import type { Deliverable } from '../../core/media/formats/deliverable'
import { sheetSchema, type PackedSheet } from '../../core/media/pictures/sheet/packed/data'
import { packPieces } from '../../core/media/pictures/sheet/packed/pack'
import { sharedSchema, type SharedSheet } from '../../core/media/pictures/sheet/packed/shared'
import { pieceOf } from '../../core/media/pictures/sheet/packed/trim'
import { className, sheetPages } from '../../core/media/pictures/sheet/packed/web'
import { openSource } from '../../core/open/open'
import { formatById } from '../../core/open/registry'
import { specAsFound } from '../../core/open/stored'
import { takeIn } from '../../core/run/intake/intake'
import { newOutlet } from '../../core/job/outlet/outlet'
import { planPour, pourProblems } from '../../core/job/outlet/plan'
import { bytesFile, damage, deliverable, firstDifference, noise, random, root, sharpFrame } from './support'
import { strapFacts, survives, testHost } from './support'

const host = await testHost()
const format = formatById('packed-sheet')
const BLACK: AlphaMode = { mode: 'premultiplied', matte: '#000000' }
const asText = (bytes: Uint8Array): unknown => JSON.parse(new TextDecoder().decode(bytes))

type Files = Map<string, Uint8Array>

/** Frames poured as a pour would, into named files. */
async function packed(frames: readonly Frame[], options: OptionValues = {}, more: Partial<Deliverable> = {}) {
  const files: Files = new Map()
  const sink: FilesSink = {
    add: (name, bytes) => Promise.resolve(void files.set(name, bytes)),
    close: () => Promise.resolve(),
    abort: () => Promise.resolve()
  }
  const shape = deliverable(frames[0]!, frames.length, {
    options: optionValues(format.options, options),
    names: ['night moth.json'],
    subject: 'moth',
    ...more
  })
  const made = await format.assemble({ kind: 'pictures', sink }, shape, host)
  for (const [i, frame] of frames.entries()) await made.add(i, await format.encode(host, frame, shape, null))
  await made.finish()
  return files
}

const refs = (files: Files): FileRef[] => [...files].map(([name, bytes]) => bytesFile(name, bytes))
const dataOf = (files: Files): PackedSheet => asText(files.get('night moth.json')!) as PackedSheet

/** A small picture somewhere in a clear frame, as renderers leave it. */
function subject(
  seed: number,
  { width = 40, height = 30, depth = 8 as 8 | 16, alpha = STRAIGHT as AlphaMode } = {}
): Frame {
  const next = random(seed)
  const whole = noise({ width, height, depth, alpha, seed })
  if (alpha.mode === 'none') return whole
  const [left, top] = [Math.floor(next() * width), Math.floor(next() * height)]
  const [right, bottom] = [left + next() * (width - left), top + next() * (height - top)]
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      if (x < left || x > right || y < top || y > bottom)
        whole.samples.fill(0, 4 * (y * width + x), 4 * (y * width + x + 1))
  return whole
}

/** Cuts a frame out of pages as the data says; written apart from the product's own. */
function cut(
  page: Frame,
  at: { x: number; y: number; w: number; h: number; rotated: boolean; left: number; top: number },
  { width, height }: { width: number; height: number }
): number[] {
  const out = new Array<number>(4 * width * height).fill(0)
  for (let v = 0; v < at.h; v++)
    for (let u = 0; u < at.w; u++) {
      const [px, py] = at.rotated ? [at.x + at.h - 1 - v, at.y + u] : [at.x + u, at.y + v]
      for (let c = 0; c < 4; c++)
        out[4 * ((at.top + v) * width + at.left + u) + c] = page.samples[4 * (py * page.width + px) + c]!
    }
  return out
}

describe('pieces', () => {
  const sizes = fc.array(
    fc.record({ width: fc.integer({ min: 1, max: 90 }), height: fc.integer({ min: 1, max: 90 }) }),
    { minLength: 1, maxLength: 60 }
  )

  test('lie within pages no larger than asked, none over another, apart by twice their edges and the padding', () => {
    fc.assert(
      fc.property(
        sizes,
        fc.nat(6),
        fc.nat(4),
        fc.boolean(),
        fc.boolean(),
        (pieces, padding, extrude, powers, rotate) => {
          const how = { most: 256, padding, extrude, powers, rotate }
          const { pages, places } = packPieces(pieces, how)!
          expect(places).toHaveLength(pieces.length)
          for (const { width, height } of pages) {
            expect(Math.max(width, height)).toBeLessThanOrEqual(256)
            if (powers) expect([Math.log2(width) % 1, Math.log2(height) % 1]).toEqual([0, 0])
          }
          const boxes = places.map(({ page, x, y, rotated }, i) => {
            const { width, height } = pieces[i]!
            const [w, h] = rotated ? [height, width] : [width, height]
            if (!rotate) expect(rotated).toBe(false)
            expect(Math.min(x, y)).toBeGreaterThanOrEqual(extrude)
            expect(x + w + extrude).toBeLessThanOrEqual(pages[page]!.width)
            expect(y + h + extrude).toBeLessThanOrEqual(pages[page]!.height)
            return { page, x, y, right: x + w, bottom: y + h }
          })
          const apart = padding + 2 * extrude
          for (const [i, a] of boxes.entries())
            for (const b of boxes.slice(i + 1))
              expect(
                a.page !== b.page ||
                  a.right + apart <= b.x ||
                  b.right + apart <= a.x ||
                  a.bottom + apart <= b.y ||
                  b.bottom + apart <= a.y
              ).toBe(true)
        }
      )
    )
  })

  test('three hundred of about 256x256 leave less than an eighth of their pages empty', () => {
    const next = random(9)
    const pieces = Array.from({ length: 300 }, () => ({
      width: 180 + Math.floor(next() * 77),
      height: 200 + Math.floor(next() * 57)
    }))
    const { pages } = packPieces(pieces, { most: 4096, padding: 0, extrude: 0, powers: false, rotate: false })!
    const used = pieces.reduce((sum, { width, height }) => sum + width * height, 0)
    const room = pages.reduce((sum, { width, height }) => sum + width * height, 0)
    expect(1 - used / room).toBeLessThan(0.12)
  })

  test('larger than a page are refused', () => {
    const how = { most: 100, padding: 2, extrude: 1, powers: false, rotate: true }
    expect(packPieces([{ width: 98, height: 4 }], how)).not.toBe(null)
    expect(packPieces([{ width: 99, height: 4 }], how)).toBe(null)
  })

  test('hold what is not empty, and with clear colours left out what can be seen', () => {
    const frame = noise({ width: 9, height: 7, depth: 8 })
    frame.samples.fill(0)
    expect(pieceOf(frame, false)).toEqual({ left: 0, top: 0, width: 1, height: 1 })
    frame.samples.set([1, 0, 0, 0], 4 * (2 * 9 + 3))
    frame.samples.set([0, 0, 0, 1], 4 * (4 * 9 + 5))
    expect(pieceOf(frame, false)).toEqual({ left: 3, top: 2, width: 3, height: 3 })
    expect(pieceOf(frame, true)).toEqual({ left: 5, top: 4, width: 1, height: 1 })
    expect(pieceOf({ ...frame, alpha: OPAQUE }, true)).toEqual({ left: 0, top: 0, width: 9, height: 7 })
  })
})

describe('a sheet', () => {
  test('unpacks to the pixels that went in, code for code, however it is packed; strangers find the same', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.record({
          seed: fc.integer({ min: 1, max: 1e9 }),
          depth: fc.constantFrom(8 as const, 16 as const),
          alpha: fc.constantFrom(STRAIGHT, BLACK, OPAQUE),
          count: fc.integer({ min: 1, max: 12 }),
          padding: fc.nat(5),
          extrude: fc.nat(3),
          powers: fc.boolean(),
          rotate: fc.boolean(),
          trim: fc.constantFrom('codes', 'none'),
          data: fc.constantFrom('hash', 'array')
        }),
        async ({ seed, depth, alpha, count, ...options }) => {
          const frames = Array.from({ length: count }, (_, i) => subject(seed + i, { depth, alpha }))
          const files = await packed(frames, { most: '1024', ...options })
          const source = await openSource(specAsFound('s', 'moth', 'packed-sheet', refs(files)), host)
          expect(source.facts).toMatchObject({ width: 40, height: 30, frames: count, rate: [12, 1], bitDepth: depth })
          expect(source.facts.claim.mode).toBe(alpha.mode)
          for (const [i, { samples }] of frames.entries())
            expect(firstDifference((await source.frame(i)).samples, samples)).toBe(null)
          await source.close()
          const { pages, frames: told } = dataOf(files)
          const shared = asText(files.get('night moth.frames.json')!) as SharedSheet
          const entries = Array.isArray(shared.frames) ? shared.frames : Object.values(shared.frames)
          const page = await sharpFrame(files.get(pages[0]!.image)!)
          expect(page.depth).toBe(depth)
          for (const [i, { samples }] of frames.entries()) {
            const { width, height, ...own } = told[i]!
            expect(
              firstDifference(cut(page, { ...own, w: width, h: height }, { width: 40, height: 30 }), samples)
            ).toBe(null)
            const { frame, rotated, spriteSourceSize: at, sourceSize: size } = entries[i]!
            const place = { ...frame, rotated, left: at!.x, top: at!.y }
            expect(firstDifference(cut(page, place, { width: size!.w, height: size!.h }), samples)).toBe(null)
          }
        }
      ),
      { numRuns: 60 }
    )
  }, 60_000)

  test('of several pages holds each piece in one of them, like ones once; its own data is read before what is shared', async () => {
    const frames = Array.from({ length: 40 }, (_, i) =>
      noise({ width: 200, height: 200, depth: 8, seed: 1 + (i % 30), runs: 0 })
    )
    const files = await packed(frames, { most: '1024', padding: 0 })
    const { pages, frames: told } = dataOf(files)
    expect(pages).toHaveLength(2)
    expect(told[31]).toEqual(told[1])
    expect(new Set(told.map(({ page, x, y }) => `${page} ${x} ${y}`)).size).toBe(30)
    expect([...files.keys()].sort()).toEqual([
      'night moth-1.frames.json',
      'night moth-1.png',
      'night moth-2.frames.json',
      'night moth-2.png',
      'night moth.json'
    ])
    const { found, findings } = await takeIn(refs(files), host)
    expect(found.map(({ facts }) => [facts.format, facts.frames])).toEqual([['packed-sheet', 40]])
    expect(findings.every(({ id }) => id === 'told-again')).toBe(true)
    const source = await openSource({ ...found[0]!.spec, id: 's' }, host)
    for (const i of [0, 29, 39]) expect(firstDifference((await source.frame(i)).samples, frames[i]!.samples)).toBe(null)
    await source.close()
  })

  test('trimmed to what can be seen loses colour under clear pixels alone', async () => {
    const frames = [1, 2, 3].map(seed => noise({ width: 31, height: 22, depth: 16, seed, runs: 0.9 }))
    const files = await packed(frames, { trim: 'alpha' })
    const source = await openSource(specAsFound('s', 'moth', 'packed-sheet', refs(files)), host)
    for (const [i, { samples }] of frames.entries()) {
      const found = (await source.frame(i)).samples
      for (let p = 3; p < samples.length; p += 4) {
        expect(found[p]).toBe(samples[p])
        if (samples[p]) expect([...found.subarray(p - 3, p)]).toEqual([...samples.subarray(p - 3, p)])
      }
    }
    await source.close()
  })

  test('mixes no neighbours at half and at a quarter of its size, by its usual room between pieces', async () => {
    const solid = (seed: number, colour: readonly number[]): Frame => {
      const frame = subject(seed, { width: 60, height: 60 })
      for (let p = 0; p < frame.samples.length; p += 4)
        if (frame.samples[p] || frame.samples[p + 1] || frame.samples[p + 2] || frame.samples[p + 3])
          frame.samples.set([...colour, 255], p)
      return frame
    }
    const COLOURS = [
      [255, 0, 0],
      [0, 255, 0],
      [0, 0, 255]
    ] as const
    const frames = Array.from({ length: 30 }, (_, i) => solid(i + 1, COLOURS[i % 3]!))
    const page = await sharpFrame((await packed(frames)).get('night moth.png')!)
    for (const by of [2, 4])
      for (let y = 0; y + by <= page.height; y += by)
        for (let x = 0; x + by <= page.width; x += by) {
          const met = [0, 0, 0]
          for (let v = 0; v < by; v++)
            for (let u = 0; u < by; u++)
              for (let c = 0; c < 3; c++) met[c]! += page.samples[4 * ((y + v) * page.width + x + u) + c]!
          expect(met.filter(Boolean).length).toBeLessThanOrEqual(1)
        }
  })

  test('repeats edges around each piece', async () => {
    const frame = noise({ width: 5, height: 4, depth: 8, seed: 3, runs: 0 })
    const files = await packed([frame], { trim: 'none', extrude: 2 })
    const page = await sharpFrame(files.get('night moth.png')!)
    expect([page.width, page.height]).toEqual([9, 8])
    for (let y = 0; y < 8; y++)
      for (let x = 0; x < 9; x++) {
        const [u, v] = [Math.min(4, Math.max(0, x - 2)), Math.min(3, Math.max(0, y - 2))]
        const at = 4 * (y * 9 + x)
        expect([...page.samples.subarray(at, at + 4)]).toEqual([
          ...frame.samples.subarray(4 * (v * 5 + u), 4 * (v * 5 + u) + 4)
        ])
      }
  })

  test('names its actions, in frames of what is delivered; a source made of it has them again', async () => {
    const marked = [
      { name: 'walk', from: 1, to: 4 },
      { name: 'turn back', from: 5, to: 8 },
      { name: 'rest', from: 9, to: 10 }
    ]
    const facts = strapFacts({ frames: 10, marked, rate: [12, 1] })
    const outlet = { ...newOutlet('o', format), depth: 8 as const, range: { from: 3, to: 8 } }
    expect(pourProblems(facts, outlet, null)).toEqual([])
    const { deliverable: due } = planPour(facts, outlet, null)
    expect(due.actions).toEqual([
      { name: 'walk', from: 1, to: 2 },
      { name: 'turn back', from: 3, to: 6 }
    ])
    const frames = Array.from({ length: 6 }, (_, i) => subject(i + 1))
    const files = await packed(frames, {}, { actions: due.actions! })
    const shared = asText(files.get('night moth.frames.json')!) as SharedSheet
    expect(shared.animations).toEqual({
      walk: ['walk_0001', 'walk_0002'],
      'turn back': ['turn back_0001', 'turn back_0002', 'turn back_0003', 'turn back_0004']
    })
    for (const without of ['night moth.json', 'night moth.frames.json']) {
      const some = new Map([...files].filter(([name]) => name !== without))
      const { found } = await takeIn(refs(some), host)
      const named = found[0]!.facts.marked!.map(({ name, to, from }) => [name, to - from + 1])
      expect(Object.fromEntries(named)).toEqual({ walk: 2, 'turn back': 4 })
      expect(found[0]!.facts.rate).toEqual([12, 1])
    }
  })

  test('has data that its published schemas hold for', async () => {
    const published = (name: string): object =>
      JSON.parse(readFileSync(path.join(root, `docs/${name}.schema.json`), 'utf8')) as object
    expect(published('packed-sheet')).toEqual(JSON.parse(JSON.stringify(sheetSchema())))
    expect(published('sheet-frames')).toEqual(JSON.parse(JSON.stringify(sharedSchema())))
    const ajv = new Ajv2020({ strict: false })
    const [own, shared] = [ajv.compile(published('packed-sheet')), ajv.compile(published('sheet-frames'))]
    for (const data of ['hash', 'array']) {
      const files = await packed([subject(1), subject(2)], { data }, { actions: [{ name: 'a', from: 1, to: 2 }] })
      expect(own(dataOf(files))).toBe(true)
      expect(shared(asText(files.get('night moth.frames.json')!))).toBe(true)
    }
    expect(own({ ...dataOf(await packed([subject(1)])), width: 0 })).toBe(false)
  })
})

describe('what comes from elsewhere', () => {
  const from = async (change: (data: SharedSheet) => unknown, frames = [subject(1), subject(2)]) => {
    const files = await packed(frames)
    files.delete('night moth.json')
    const data = asText(files.get('night moth.frames.json')!) as SharedSheet
    files.set('night moth.frames.json', new TextEncoder().encode(JSON.stringify(change(data) ?? data)))
    return takeIn(refs(files), host)
  }

  test('is taken in the order of its names; different lengths, sizes and broken actions are told', async () => {
    const { found } = await from(data => {
      const frames = data.frames as Record<string, { duration?: number; sourceSize?: { w: number; h: number } }>
      const [first, second] = Object.values(frames)
      second!.duration = 400
      second!.sourceSize = { w: 50, h: 30 }
      return { ...data, frames: { 'moth 10': first, 'moth 9': second }, animations: { back: ['moth 10', 'moth 9'] } }
    })
    const { facts } = found[0]!
    expect([facts.width, facts.height, facts.rate]).toEqual([50, 30, null])
    const said = facts.findings.map(({ sentence }) => sentence).join(' ')
    expect(said).toContain('1 of 2 frames are smaller than 50x30')
    expect(said).toContain('different lengths of time')
    expect(said).toContain('"back" is not a run')
    expect(facts.marked).toBe(undefined)
  })

  test('is refused in words where it speaks of what is not there', async () => {
    const refusals: [(data: SharedSheet) => unknown, RegExp][] = [
      [
        data => void ((Object.values(data.frames)[0] as { frame: { x: number } }).frame.x = 900),
        /frame 1: it lies outside/
      ],
      [data => void (data.meta.image = 'other.png'), /its page other\.png is not with it/],
      [data => void (data.meta.size.w += 1), /speaks of/],
      [data => ({ ...data, meta: {} }), /frames of the sheet/]
    ]
    for (const [change, says] of refusals) {
      const { found, findings } = await from(change)
      expect(found.filter(({ facts }) => facts.format === 'packed-sheet')).toEqual([])
      expect(findings.map(({ sentence }) => sentence).join(' ')).toMatch(says)
    }
  })

  test('damaged anywhere is read, or refused with one clear error', async () => {
    const files = await packed(
      Array.from({ length: 5 }, (_, i) => subject(i + 1)),
      { rotate: true }
    )
    for (let seed = 1; seed <= 60; seed++) {
      const hurt = new Map(files)
      const name = [...files.keys()][seed % files.size]!
      hurt.set(name, damage(files.get(name)!, seed))
      await survives(async () => {
        const source = await openSource(specAsFound('s', 'moth', 'packed-sheet', refs(hurt)), host)
        for (let i = 0; i < source.facts.frames; i++) await source.frame(i)
        await source.close()
      })
    }
  })
})

describe('the outlet', () => {
  const outlet = newOutlet('o', format)
  const against = (change: Partial<typeof outlet>, facts = strapFacts({ rate: [25, 1] })): string =>
    pourProblems(facts, { ...outlet, depth: 8, ...change }, null).join(' ')

  test('says what it cannot do before anything is poured', () => {
    expect(against({})).toBe('')
    expect(against({ parts: 'fill-key' })).toContain('holds both in one picture')
    expect(against({ depth: 16, options: { ...outlet.options, most: '8192' } })).toContain('At 16 bits')
    expect(against({ options: { ...outlet.options, web: true, rotate: true } })).toContain('cannot turn pieces back')
    expect(against({ options: { ...outlet.options, web: true } }, strapFacts({ rate: null }))).toContain(
      'Give its rate'
    )
    expect(against({ options: { ...outlet.options, trim: 'none', most: '1024' } })).toContain('do not go into a page')
  })

  test('makes classes of any name, and escapes what it shows', async () => {
    expect(['Walk left', '2 fast', 'Éclair', '走る', ''].map(className)).toEqual([
      'walk-left',
      'a-2-fast',
      'eclair',
      'a',
      'a'
    ])
    const files = await packed([subject(1), subject(2)], {}, { subject: '<b>"moth"</b>', actions: [] })
    const { css, html } = sheetPages(dataOf(files), [12, 1], { css: 'a b.css' })
    expect(html).not.toContain('<b>')
    expect(html).toContain('href="a%20b.css"')
    expect(css).toContain('prefers-reduced-motion')
    expect(css.match(/background-position/g)).toHaveLength(2)
  })
})
