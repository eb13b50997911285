/** Sheets: how frames lie, that other decoders see the same, and what is refused. */
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import type { AlphaMode } from '../../core/frame/frame'
import { OPAQUE, STRAIGHT } from '../../core/frame/frame'
import { formatById, recognise } from '../../core/open/registry'
import { memoryReader } from '../../core/base/files/file'
import { assess } from '../../core/run/delivery/assess'
import { newOutlet } from '../../core/job/outlet/outlet'
import { stepKindById } from '../../core/prepare/kinds'
import { newStep } from '../../core/prepare/preparation'
import { pourProblems } from '../../core/job/outlet/plan'
import { gridOf, MOST_SIDE, placeIn, sheetSize } from '../../core/media/pictures/sheet/grid'
import { chunk } from '../../core/media/pictures/png/chunks'
import { encodePng } from '../../core/media/pictures/png/encode'
import { openSource } from '../../core/open/open'
import { specAsFound } from '../../core/open/stored'
import {
  bytesFile,
  damage,
  firstDifference,
  noise,
  sharpFrame,
  strapFacts,
  survives,
  testHost,
  writeFilm
} from './support'

const host = await testHost()
const BLACK: AlphaMode = { mode: 'premultiplied', matte: '#000000' }

const specOf = (bytes: Uint8Array) => specAsFound('s', 'moth', 'png-sheet', [bytesFile('moth.png', bytes)])

describe('how frames lie', () => {
  const sizes = fc.record({
    width: fc.integer({ min: 1, max: 400 }),
    height: fc.integer({ min: 1, max: 400 }),
    frames: fc.integer({ min: 1, max: 300 })
  })

  test('every frame has a place of its own within the sheet, apart by the gap', () => {
    fc.assert(
      fc.property(sizes, fc.nat(40), fc.nat(8), (clip, columns, gap) => {
        const grid = gridOf(clip, { columns, gap })
        const whole = sheetSize(grid, clip)
        expect(grid.columns * grid.rows).toBeGreaterThanOrEqual(clip.frames)
        expect(grid.columns * (grid.rows - 1)).toBeLessThan(clip.frames)
        const last = placeIn(grid, clip, clip.frames - 1)
        expect(last.x + clip.width).toBeLessThanOrEqual(whole.width)
        expect(last.y + clip.height).toBe(whole.height)
        if (clip.frames > grid.columns) {
          expect(placeIn(grid, clip, grid.columns)).toEqual({ x: 0, y: clip.height + gap })
          expect(placeIn(grid, clip, grid.columns - 1).x + clip.width).toBe(whole.width)
        }
      })
    )
  })

  test('without a number of columns no other has a shorter longest side', () => {
    fc.assert(
      fc.property(sizes, fc.nat(4), (clip, gap) => {
        const side = (columns: number): number => {
          const size = sheetSize(gridOf(clip, { columns, gap }), clip)
          return Math.max(size.width, size.height)
        }
        const chosen = side(0)
        for (let columns = 1; columns <= clip.frames; columns++) expect(chosen).toBeLessThanOrEqual(side(columns))
      }),
      { numRuns: 60 }
    )
  })
})

describe('written and read', () => {
  test.each([
    [8, STRAIGHT],
    [16, STRAIGHT],
    [8, BLACK],
    [16, OPAQUE]
  ] as const)('%i bits, %o: comes back code for code, by our reader and by the proof’s', async (depth, alpha) => {
    const frames = Array.from({ length: 7 }, (_, n) => noise({ width: 21, height: 13, depth, alpha, seed: n + 1 }))
    const bytes = await writeFilm('png-sheet', frames, { options: { columns: 3, gap: 2 }, rate: [24000, 1001] })
    for (const how of ['open', 'openForProof'] as const) {
      const source = await formatById('png-sheet')[how]('moth', [bytesFile('moth.png', bytes)], host)
      expect(source.facts).toMatchObject({
        ...{ width: 21, height: 13, frames: 7, rate: [24000, 1001], rateFrom: 'file', bitDepth: depth },
        ...{ kind: 'PNG sheet, 3×3', claim: { mode: alpha.mode } }
      })
      for (const [n, frame] of frames.entries()) {
        const { samples } = await source.frame(n)
        expect(firstDifference(samples, frame.samples)).toBe(null)
      }
      await expect(source.frame(7)).rejects.toThrow(/there are 7 frames/)
      await source.close()
    }
  })

  test('a library sees one picture, each frame in its place, and nothing between them', async () => {
    const frames = Array.from({ length: 5 }, (_, n) => noise({ width: 10, height: 6, depth: 8, seed: n + 9 }))
    const seen = await sharpFrame(await writeFilm('png-sheet', frames, { options: { columns: 2, gap: 3 } }))
    expect([seen.width, seen.height]).toEqual([23, 24])
    const covered = new Uint8Array(23 * 24)
    for (const [n, frame] of frames.entries()) {
      const [x, y] = [(n % 2) * 13, Math.floor(n / 2) * 9]
      for (let v = 0; v < 6; v++)
        for (let u = 0; u < 10; u++) {
          covered[(y + v) * 23 + x + u] = 1
          for (let c = 0; c < 4; c++)
            expect(seen.samples[4 * ((y + v) * 23 + x + u) + c]).toBe(frame.samples[4 * (v * 10 + u) + c])
        }
    }
    for (const [at, is] of covered.entries())
      if (!is) expect([...seen.samples.slice(4 * at, 4 * at + 4)]).toEqual([0, 0, 0, 0])
  })

  test('a sheet is no picture of a sequence and no animation, and a picture is no sheet', async () => {
    const frame = noise({ width: 9, height: 9, depth: 8 })
    const sheet = await writeFilm('png-sheet', [frame, frame])
    expect((await recognise(memoryReader('a.png', sheet)))?.format.id).toBe('png-sheet')
    expect((await recognise(memoryReader('a.png', encodePng(host, frame))))?.format.id).toBe('png-sequence')
    const animation = await writeFilm('apng', [frame, frame])
    expect((await recognise(memoryReader('a.png', animation)))?.format.id).toBe('apng')
  })
})

describe('refused', () => {
  test('a sheet larger than textures are is refused before anything is poured, with its size and what to do', () => {
    const outlet = newOutlet('o', formatById('png-sheet'))
    const facts = strapFacts({ width: 1920, height: 1080, frames: 72, rate: [25, 1] })
    const problems = pourProblems(facts, { ...outlet, depth: 8 }, null)
    expect(problems).toHaveLength(1)
    expect(problems[0]).toMatch(/^72 frames of 1920x1080 make a sheet of \d+x\d+; one may be 8192 wide and high/)
    expect(pourProblems(facts, { ...outlet, depth: 8 }, { from: 1, to: 12 })).toEqual([])
    const told = formatById('png-sheet').layout!({
      width: 320,
      height: 180,
      frames: 72,
      options: { columns: 8, gap: 2 }
    })
    expect(told).toBe('8 columns, 9 rows, 2574×1636 in all')
    expect(pourProblems({ ...facts, width: 320, height: 180 }, { ...outlet, depth: 8 }, null)).toEqual([])
    expect(
      sheetSize(gridOf({ width: 320, height: 180, frames: 72 }, { columns: 0, gap: 0 }), { width: 320, height: 180 })
        .width
    ).toBeLessThan(MOST_SIDE)
  })

  test('an outlet that scales is weighed by what it makes', () => {
    const facts = strapFacts({ width: 1920, height: 1080, frames: 72, rate: [25, 1] })
    const steps = [newStep('s', stepKindById('scale'), { by: 25 })]
    const outlet = { ...newOutlet('o', formatById('png-sheet')), depth: 8 as const, steps }
    expect(assess({ facts, outlet, marks: null }).problems).toEqual([])
    expect(assess({ facts, outlet: { ...outlet, steps: [] }, marks: null }).problems).toHaveLength(1)
  })

  test('a note that does not fit its picture, is cut or is missing is one clear error', async () => {
    const frame = noise({ width: 9, height: 9, depth: 8 })
    const bytes = await writeFilm('png-sheet', [frame, frame])
    const text = new TextDecoder('latin1').decode(bytes)
    const from = text.indexOf('{"sheet"')
    const note = text.slice(from, text.indexOf('}', from) + 1)
    const withNote = (told: string): Uint8Array => {
      const at = text.indexOf('iTXt') - 4
      const length = (bytes[at]! << 24) | (bytes[at + 1]! << 16) | (bytes[at + 2]! << 8) | bytes[at + 3]!
      const head = bytes.slice(at + 8, from)
      const data = new Uint8Array([...head, ...new TextEncoder().encode(told)])
      return new Uint8Array([...bytes.slice(0, at), ...chunk('iTXt', data), ...bytes.slice(at + 12 + length)])
    }
    await (await openSource(specOf(withNote(note)), host)).close()
    for (const [told, why] of [
      [note.slice(0, -3), /not complete/],
      [note.replace('"columns":2', '"columns":3'), /it tells of \d+x\d+, and the picture has/],
      [note.replace('"frames":2', '"frames":99'), /99 frames do not lie in/],
      [note.replace('"frames":2', '"frames":1e12'), /the note of the sheet/],
      [note.replace('"gap":0', '"gap":-4'), /the note of the sheet/],
      ['[]', /the note of the sheet/]
    ] as const)
      await expect(openSource(specOf(withNote(told)), host)).rejects.toThrow(why)
  })

  test('damaged and cut sheets end in one clear error or pictures', async () => {
    const frames = [1, 2, 3].map(seed => noise({ width: 12, height: 8, depth: 8, seed }))
    const bytes = await writeFilm('png-sheet', frames)
    for (let seed = 0; seed < 300; seed++)
      await survives(async () => {
        const source = await openSource(specOf(damage(bytes, seed)), host)
        try {
          await source.frame(0)
        } finally {
          await source.close()
        }
      })
  })
})
