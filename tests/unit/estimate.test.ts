/** What is told of a delivery beforehand: its size, between what it lies, and what it will lose. */
import { describe, expect, test } from 'vitest'
import { estimates, type Estimate } from '../../core/run/delivery/estimate'
import { sampleOf, sampleQuality } from '../../core/run/delivery/quality'
import { memorySink } from '../../core/base/files/sinks'
import { formatById, writtenFormats } from '../../core/open/registry'
import { newOutlet, type Outlet } from '../../core/job/outlet/outlet'
import { planPour, type PourPlan } from '../../core/job/outlet/plan'
import { estimateSize, sampleReach } from '../../core/run/pour/estimate-size'
import { pour } from '../../core/run/pour/pour'
import { sceneSpec } from '../../core/draw/scene/as-file'
import { starters } from '../../core/draw/scene/starters'
import { openSource } from '../../core/open/open'
import { inlinePool } from '../../platform/node/pool'
import { random, testHost } from './support'

const host = await testHost()
const pool = inlinePool(host, 2)
const strap = sceneSpec(
  starters[0]!.make({ name: 'Ada Fern', line: 'Palm House' }, { width: 192, height: 108, rate: [25, 1], seconds: 1.6 })
)
const opened = await openSource(strap, host)
const { facts } = opened
await opened.close()

const planOf = (format: Outlet['format'], more: Partial<Outlet> = {}): PourPlan =>
  planPour(facts, { ...newOutlet('o', formatById(format)), ...more }, null)

const qualityOf = (plan: PourPlan) => sampleQuality({ reference: strap, plan, host, pool })

describe('between what a size lies', () => {
  test('nine times of ten a sum lies within what five samples say of it, whatever the spread', () => {
    for (const [kind, shape] of [
      ['even', (u: number) => 1000 + 100 * u],
      ['wide', (u: number) => 100 + 3000 * u],
      ['bell', (u: number, v: number, w: number) => 500 + 400 * (u + v + w)]
    ] as const) {
      const next = random(11)
      let held = 0
      for (let n = 0; n < 2000; n++) {
        const sizes = Array.from({ length: 60 }, () => shape(next(), next(), next()))
        const sample = [5, 17, 29, 41, 53].map(at => sizes[at]!)
        const sum = sizes.reduce((all, size) => all + size, 0)
        const said = (60 * sample.reduce((all, size) => all + size, 0)) / 5
        if (Math.abs(sum - said) <= sampleReach(sample, 60)) held++
      }
      expect([kind, held / 2000 > 0.86 && held / 2000 < 0.96]).toEqual([kind, true])
    }
  })

  test('what was looked at whole is off by nothing, and alike frames are', () => {
    expect(sampleReach([3, 9, 4], 3)).toBe(0)
    expect(sampleReach([7, 7, 7, 7, 7], 500)).toBe(0)
    expect(sampleReach([5], 40)).toBe(0)
  })

  test('a delivery lies within it', async () => {
    for (const format of ['quicktime-prores-4444', 'quicktime-png', 'apng'] as const) {
      const plan = planOf(format)
      const sink = memorySink()
      await pour({ source: strap, plan, target: { kind: 'film', sink } }, { host, pool })
      const { bytes, least, most } = await estimateSize({ source: strap, plan, host, pool })
      expect([least <= bytes, bytes <= most]).toEqual([true, true])
      expect(sink.bytes().length).toBeGreaterThanOrEqual(least)
      expect(sink.bytes().length).toBeLessThanOrEqual(most)
    }
  })
})

describe('what will be lost', () => {
  test.each(writtenFormats.map(({ id }) => id))(
    '%s: of a few frames what the proof of the whole says of them',
    async id => {
      const plan = planOf(id)
      const quality = await qualityOf(plan)
      expect(quality.verdict).not.toBe('broken')
      expect(quality.frames).toBeGreaterThan(2)
      if (quality.verdict === 'identical') expect([quality.alpha, quality.colour, quality.edge]).toEqual([0, 0, 0])
    }
  )

  test('exact formats lose nothing, a lossy one colour, and one without soft edges its alpha', async () => {
    expect(await qualityOf(planOf('quicktime-png'))).toMatchObject({ verdict: 'identical' })
    const prores = await qualityOf(planOf('quicktime-prores-4444'))
    expect(prores.verdict).toBe('faithful')
    expect(prores.colour).toBeGreaterThan(0)
    expect(prores.colour).toBeLessThan(6)
    expect(await qualityOf(planOf('gif'))).toMatchObject({ verdict: 'visible-loss' })
  })

  test('a fill and key is tried as the picture they make', async () => {
    for (const id of ['png-sequence', 'quicktime-png'] as const)
      expect(await qualityOf(planOf(id, { parts: 'fill-key' }))).toMatchObject({ verdict: 'identical' })
  })

  test('frames that build on each other are tried in a row, others spread over the clip', () => {
    expect(sampleOf(planOf('quicktime-png')).frames).toEqual([6, 20, 33])
    const { frames } = sampleOf(planOf('webm-vp9'))
    expect(frames).toEqual(frames.map((_, n) => frames[0]! + n))
  })
})

test('a size is told before its quality, then both, then a surer size', async () => {
  const told: [string, Estimate][] = []
  const made = estimates((key, estimate) => told.push([key, estimate]))
  const given = { spec: strap, plan: planOf('quicktime-png'), host, pool }
  await made.want('a', () => Promise.resolve(given))
  await made.want('a', () => Promise.resolve(given))
  expect(told.map(([key, { quality }]) => [key, quality?.verdict ?? null])).toEqual([
    ['a', null],
    ['a', 'identical'],
    ['a', 'identical']
  ])
  const [first, second, last] = told.map(([, estimate]) => estimate)
  expect(first!.bytes).toBe(second!.bytes)
  expect(first!.least).toBeLessThan(first!.most)
  // so small a clip was tried whole in the end
  expect(last!.least).toBe(last!.most)
})

test('of many that are wanted at once every size comes before the first quality, and nothing begins until it may', async () => {
  const told: string[] = []
  const made = estimates((key, { quality }) => told.push(`${key} ${quality ? 'quality' : 'size'}`))
  const begun: string[] = []
  let go: () => void = () => undefined
  const gate = new Promise<void>(resolve => (go = resolve))
  const keys = [...'abcdef']
  const all = keys.map(key =>
    made.want(key, () =>
      Promise.resolve({
        spec: strap,
        plan: planOf('quicktime-png'),
        host,
        pool,
        ready: (step: string) => (begun.push(step), gate)
      })
    )
  )
  await new Promise(resolve => setTimeout(resolve, 20))
  expect(told).toEqual([])
  // no more in hand than a few
  expect(begun).toEqual(Array(4).fill('size'))
  go()
  await Promise.all(all)
  expect(told.slice(0, 6).sort()).toEqual(keys.map(key => `${key} size`))
  expect(new Set(told.slice(6))).toEqual(new Set(keys.map(key => `${key} quality`)))
  expect(begun.filter(step => step === 'quality')).toHaveLength(6)
})
