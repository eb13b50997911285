/**
 * Faults of the alpha plane, of multiplication, of lines and of loops: each made on purpose must be found, named with
 * its frames, and mended; good clips stay clean.
 */
import { expect, test } from 'vitest'
import { examine, type Examination } from '../../core/judge/examine/examination'
import { lookAt } from '../../core/judge/examine/look'
import { pointsApart } from '../../core/judge/examine/plane'
import { readAs, withAlphaMode } from '../../core/frame/alpha'
import { withDepth } from '../../core/frame/depth'
import { STRAIGHT, type Frame } from '../../core/frame/frame'
import { stepKindById } from '../../core/prepare/kinds'
import { newStep, prepared, Step } from '../../core/prepare/preparation'
import type { Finding, SourceFacts } from '../../core/source/source'
import { growth, moth, pot, strap } from '../../demo/scenes'
import { noise, random, strapFacts, testHost } from './support'

const { kernels } = await testHost()
const BLACK = { mode: 'premultiplied', matte: '#000000' } as const

const factsFor = (frames: readonly Frame[], more: Partial<SourceFacts> = {}): SourceFacts => {
  const [{ width, height }] = frames as [Frame]
  return strapFacts({ width, height, frames: frames.length, rate: [24, 1], bitDepth: 8, ...more })
}
const judge = (frames: readonly Frame[], more: Partial<SourceFacts> = {}): Examination =>
  examine(
    frames.map((frame, i) => ({ frame: i + 1, look: lookAt(frame, kernels) })),
    factsFor(frames, more)
  )
const NEW = ['specks', 'faint-islands', 'bleed-through', 'fields', 'multiplied-twice', 'loop-seam']
const found = (frames: readonly Frame[]): string[] =>
  judge(frames)
    .findings.map(f => f.id)
    .filter(id => NEW.includes(id))
const of = (frames: readonly Frame[], id: string): Finding => judge(frames).findings.find(f => f.id === id)!

async function mended(frames: readonly Frame[], id: string): Promise<string[]> {
  const mend = of(frames, id).mend
  if (mend?.id !== 'step') throw new Error(`${id} offers no step`)
  const source = prepared(
    { facts: factsFor(frames), frame: i => Promise.resolve(frames[i]!), close: () => Promise.resolve() },
    [Step.parse(newStep('m', stepKindById(mend.kind), mend.settings))],
    new Map(),
    kernels
  )
  return found(await Promise.all(Array.from({ length: source.facts.frames }, (_, i) => source.frame(i))))
}

const eight = (frame: Frame): Frame => withDepth(frame, 8, kernels)
const flight = Array.from({ length: 8 }, (_, i) => eight(moth(i / 8)))
const edited = (
  frame: Frame,
  draw: (set: (x: number, y: number, rgba: readonly number[]) => void, at: (x: number, y: number) => Uint8Array) => void
): Frame => {
  const samples = frame.samples.slice() as Uint8Array
  draw(
    (x, y, rgba) => samples.set(rgba, 4 * (y * frame.width + x)),
    (x, y) => samples.subarray(4 * (y * frame.width + x), 4 * (y * frame.width + x) + 4)
  )
  return { ...frame, samples }
}
const INK = [200, 160, 90, 255] as const

test('the demo scenes have none of these faults', () => {
  for (const scene of [moth, strap, pot, growth])
    expect({ scene: scene.name, found: found([0.3, 0.5, 0.7, 0.9].map(t => eight(scene(t)))) }).toEqual({
      scene: scene.name,
      found: []
    })
})

test('specks are found in their frames, and removed', async () => {
  const frames = flight.map((frame, n) =>
    n === 2 || n === 5
      ? edited(frame, set =>
          [
            [40, 30],
            [41, 30],
            [600, 340]
          ].forEach(([x, y]) => set(x!, y!, INK))
        )
      : frame
  )
  expect(of(frames, 'specks')).toMatchObject({
    frames: [3, 6],
    sentence: '4 specks stand by themselves in 2 of 8 frames, of up to 2 pixels.'
  })
  expect(await mended(frames, 'specks')).toEqual([])
  // a clip made of sparks is no clip with specks
  const next = random(9)
  const sparks = [1, 2, 3].map(() =>
    edited({ ...flight[0]!, samples: new Uint8Array(640 * 360 * 4) }, set =>
      Array.from({ length: 900 }, () => set(Math.floor(next() * 640), Math.floor(next() * 360), INK))
    )
  )
  expect(found(sparks)).toEqual([])
})

test('a faint patch apart from the subject is found with its level, and removed', async () => {
  const frames = flight.map(frame =>
    edited(frame, set => {
      for (let y = 20; y < 50; y++) for (let x = 20; x < 60; x++) set(x, y, [120, 120, 120, 9])
    })
  )
  expect(of(frames, 'faint-islands')).toMatchObject({ frames: [1, 2, 3, 4, 5, 6, 7, 8] })
  expect(of(frames, 'faint-islands').sentence).toContain('below 3.6 %')
  expect(await mended(frames, 'faint-islands')).toEqual([])
})

test('solid areas through which the backdrop shines are found, and made solid', async () => {
  const frames = flight.map(frame =>
    edited(frame, (set, at) => {
      for (let y = 0; y < 360; y++)
        for (let x = 0; x < 300; x++) if (at(x, y)[3] === 255) set(x, y, [...at(x, y).subarray(0, 3), 243])
    })
  )
  expect(of(frames, 'bleed-through').sentence).toMatch(
    /should be solid are not quite: \d+(\.\d)? % of the picture has alpha from 95.3 %/
  )
  expect(await mended(frames, 'bleed-through')).toEqual([])
})

test('two moments in alternate lines are found, and made one; fine stripes that stand still in height are not', async () => {
  const woven = Array.from({ length: 8 }, (_, n) =>
    edited(eight(moth(n / 8)), (set, at) => {
      const other = eight(moth((n + 1.5) / 8))
      for (let y = 1; y < 360; y += 2)
        for (let x = 0; x < 640; x++)
          set(x, y, other.samples.subarray(4 * (y * 640 + x), 4 * (y * 640 + x) + 4) as unknown as number[])
      void at
    })
  )
  expect(found(woven)).toContain('fields')
  expect(await mended(woven, 'fields')).not.toContain('fields')
  const stripes = flight.map(frame =>
    edited(frame, set => {
      for (let x = 100; x < 400; x += 2) for (let y = 100; y < 200; y++) set(x, y, INK)
    })
  )
  expect(found(stripes)).not.toContain('fields')
})

test('a card that fades, a swipe of soft edges, and fine hair have none of these faults', () => {
  const drawn = (alphaAt: (x: number, y: number) => number): Frame =>
    edited({ ...flight[0]!, samples: new Uint8Array(640 * 360 * 4) }, set => {
      for (let y = 0; y < 360; y++)
        for (let x = 0; x < 640; x++) {
          const a = Math.round(255 * Math.min(1, Math.max(0, alphaAt(x, y))))
          if (a > 0) set(x, y, [60, 120, 90, a])
        }
    })
  const inCard = (x: number, y: number): boolean => x > 80 && x < 560 && y > 40 && y < 320
  const fade = Array.from({ length: 48 }, (_, n) => drawn((x, y) => (inCard(x, y) ? n / 47 : 0)))
  expect(found(fade)).toEqual([])
  const slope = (d: number): number => 1 / (1 + Math.exp(-d / 9))
  const swipe = Array.from({ length: 15 }, (_, n) => 90 * n - 400).map(at =>
    drawn(x => slope(x - at) * slope(at + 240 - x) + 0.5 * slope(x - at - 200) * slope(at + 260 - x))
  )
  expect(found(swipe)).toEqual([])
  // strands of a pixel's width across a row in each of many directions, thinning out
  const hair = Array.from({ length: 3 }, (_, n) => {
    const next = random(n + 3)
    const alpha = new Float32Array(640 * 360)
    for (let k = 0; k < 700; k++) {
      const [angle, length, strength] = [6.283 * next(), 80 + 90 * next(), 0.4 + 0.6 * next()]
      for (let r = 30; r < length; r += 0.3) {
        const [x, y] = [320 + 1.6 * r * Math.cos(angle), 180 + r * Math.sin(angle + r / 300)]
        const [left, top] = [Math.floor(x), Math.floor(y)]
        for (const [dx, dy] of [
          [0, 0],
          [1, 0],
          [0, 1],
          [1, 1]
        ] as const) {
          const at = (top + dy) * 640 + left + dx
          const cover = strength * Math.max(0, 1 - Math.abs(x - left - dx)) * Math.max(0, 1 - Math.abs(y - top - dy))
          if (at >= 0 && at < alpha.length) alpha[at] = Math.max(alpha[at]!, cover)
        }
      }
    }
    return drawn((x, y) => (Math.hypot(x - 320, y - 180) < 40 ? 1 : alpha[y * 640 + x]!))
  })
  expect(found(hair)).toEqual([])
})

test('colour multiplied twice is told from colour multiplied once, and undone', async () => {
  const once = flight.map(frame => withAlphaMode(frame, BLACK, kernels))
  const twice = once.map(frame => withAlphaMode(readAs(frame, STRAIGHT), BLACK, kernels))
  const stored = (frames: Frame[]): Frame[] => frames.map(frame => readAs(frame, STRAIGHT))
  expect(found(stored(once))).not.toContain('multiplied-twice')
  expect(found(flight)).not.toContain('multiplied-twice')
  expect(of(stored(twice), 'multiplied-twice').severity).toBe('fault')
  const source = prepared(
    { facts: factsFor(twice), frame: i => Promise.resolve(twice[i]!), close: () => Promise.resolve() },
    [newStep('m', stepKindById('take-matte-out'), { matte: '#000000' })],
    new Map(),
    kernels
  )
  const back = withDepth(withAlphaMode(await source.frame(3), STRAIGHT, kernels), 8, kernels)
  let worst = 0
  for (let i = 0; i < back.samples.length; i += 4)
    if (flight[3]!.samples[i + 3]! > 200)
      for (let c = 0; c < 3; c++) worst = Math.max(worst, Math.abs(back.samples[i + c]! - flight[3]!.samples[i + c]!))
  expect(worst).toBeLessThanOrEqual(3)
})

test('a seam that jumps is told, and closed; one that closes, and a clip that moves on, are not', async () => {
  const turning = (count: number, turn: number): Frame[] =>
    Array.from({ length: count }, (_, i) =>
      edited({ ...flight[0]!, samples: new Uint8Array(640 * 360 * 4) }, set => {
        const [cx, cy] = [320 + 150 * Math.cos((turn * i) / count), 180 + 100 * Math.sin((turn * i) / count)]
        for (let y = Math.floor(cy) - 70; y < cy + 70; y++)
          for (let x = Math.floor(cx) - 90; x < cx + 90; x++) set(x, y, INK)
      })
    )
  expect(found(turning(24, 2 * Math.PI))).toEqual([])
  const jumping = turning(20, (20 / 24) * 2 * Math.PI)
  expect(found(jumping)).toEqual(['loop-seam'])
  expect(await mended(jumping, 'loop-seam')).not.toContain('loop-seam')
  expect(found(turning(24, 0.9 * Math.PI))).toEqual([])
})

test('islands are counted as a flood fill counts them', () => {
  for (let seed = 1; seed < 40; seed++) {
    const frame = noise({ width: 5 + (seed % 30), height: 4 + (seed % 17), depth: 16, seed, runs: 0.4 })
    const { width, height, samples } = frame
    const seen = new Uint8Array(width * height)
    const sizes: number[] = []
    for (let p = 0; p < seen.length; p++) {
      if (seen[p] || samples[4 * p + 3] === 0) continue
      const stack = [p]
      seen[p] = 1
      let size = 0
      while (stack.length) {
        const q = stack.pop()!
        size++
        for (let dy = -1; dy <= 1; dy++)
          for (let dx = -1; dx <= 1; dx++) {
            const [x, y] = [(q % width) + dx, Math.floor(q / width) + dy]
            const r = y * width + x
            if (x >= 0 && y >= 0 && x < width && y < height && !seen[r] && samples[4 * r + 3]! > 0) {
              seen[r] = 1
              stack.push(r)
            }
          }
      }
      sizes.push(size)
    }
    const { plane } = lookAt(frame, kernels)
    expect([plane.islands, plane.specks]).toEqual([sizes.length, sizes.filter(s => s <= 4).length])
    expect(pointsApart(plane.points, plane.points)).toBe(0)
  }
})
