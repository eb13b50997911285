import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { stackedSize } from '../../core/frame/stacked'
import { carriages } from '../../core/media/carriage/carriages'
import { storedFrame } from '../../core/media/carriage/stored'
import { assess, assessments, recipeOf } from '../../core/run/delivery/assess'
import { estimates } from '../../core/run/delivery/estimate'
import { nameUnder } from '../../core/run/delivery/existing'
import { serialQueue } from '../../core/run/delivery/queue'
import { PourError } from '../../core/base/errors'
import { wholeForm } from '../../core/media/formats/form'
import { formatById } from '../../core/open/registry'
import { OPAQUE, STRAIGHT } from '../../core/frame/frame'
import { newOutlet } from '../../core/job/outlet/outlet'
import { inlinePool } from '../../platform/node/pool'
import { firstDifference, noise, strapFacts, testHost } from './support'

const host = await testHost()
const facts = strapFacts({ frames: 10 })

describe('how alpha travels', () => {
  const asked = { alpha: { mode: 'premultiplied', matte: '#000000' } as const, backing: '#204060' }

  test.each(carriages)('$id: what is stored of a frame has the channel it promises', carriage => {
    const frame = noise({ width: 9, height: 7, depth: 16, seed: 3 })
    const stored = carriage
      .contents(asked)
      .map(content =>
        storedFrame(frame, { ...wholeForm(16, carriage.channel ? STRAIGHT : OPAQUE), content }, host.kernels)
      )
    for (const picture of stored) {
      expect(picture.alpha.mode === 'none').toBe(!carriage.channel)
      if (!carriage.channel) expect(picture.samples.every((code, i) => i % 4 !== 3 || code === 65535)).toBe(true)
    }
    const joined = carriage.join(stored)
    const { half } = carriage
    const size = { width: 9, height: 7 }
    const due = half ? stackedSize({ alpha: half, ...size }) : size
    expect([joined.width, joined.height]).toEqual([due.width, due.height])
  })

  test('a channel, and a straight fill with its key, give every code back at any depth', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...carriages.filter(({ id }) => id === 'colour-alpha' || id === 'fill-key')),
        fc.constantFrom(8 as const, 16 as const),
        fc.integer(),
        (carriage, depth, seed) => {
          const frame = noise({ width: 8, height: 5, depth, seed })
          const straight = { ...asked, alpha: STRAIGHT }
          const stored = carriage
            .contents(straight)
            .map(content =>
              storedFrame(frame, { ...wholeForm(depth, carriage.channel ? STRAIGHT : OPAQUE), content }, host.kernels)
            )
          expect(firstDifference(carriage.join(stored).samples, frame.samples)).toBeNull()
          expect(carriage.joinedAlpha(straight)).toEqual(STRAIGHT)
        }
      )
    )
  })
})

describe('assessing a cell', () => {
  const outlet = newOutlet('o', formatById('quicktime-png'))

  test('a cell that can go has a plan; one that cannot has sentences and none', () => {
    const good = assess({ facts, outlet, marks: null })
    expect(good.problems).toEqual([])
    expect(good.plan()!.frames).toHaveLength(10)
    expect(good.plan()).toBe(good.plan())
    const still = assess({ facts: { ...facts, rate: null }, outlet, marks: null })
    expect(still.problems.join(' ')).toContain('needs a rate')
    expect(still.plan()).toBeNull()
    const gone = assess({ facts, outlet, marks: null, against: ['The files are gone.'] })
    expect([gone.problems, gone.plan()]).toEqual([['The files are gone.'], null])
  })

  test('is done once for as long as what it depends on is the same', () => {
    const of = assessments()
    let made = 0
    const cell = () => (made++, { facts, outlet, marks: null })
    const first = of('a', [facts, outlet], cell)
    expect(of('a', [facts, outlet], cell)).toBe(first)
    expect(of('a', [{ ...facts }, outlet], cell)).not.toBe(first)
    of('b', [facts, outlet], cell)
    expect(made).toBe(3)
  })

  test('the recipe changes with what changes bytes, and with nothing else', () => {
    const recipe = (change: object): string =>
      recipeOf(assess({ facts, outlet: { ...outlet, ...change }, marks: null }).plan()!)
    expect(recipe({ existing: 'stop', id: 'other' })).toBe(recipe({}))
    expect(recipe({ depth: 8 })).not.toBe(recipe({}))
    expect(recipe({ range: { from: 1, to: 10 } })).toBe(recipe({}))
    expect(recipe({ range: { from: 2, to: 10 } })).not.toBe(recipe({}))
  })
})

describe('names where others stand', () => {
  const there = new Set(['a.mov', 'a_2.mov'])
  const has = (name: string): boolean => there.has(name)
  const under = (policy: 'replace' | 'keep-both' | 'stop', wanted = 'a.mov'): Promise<string> =>
    nameUnder({ policy, wanted, has, refusal: 'it is there' })

  test('are replaced, refused or stepped past', async () => {
    expect(await under('replace')).toBe('a.mov')
    expect(await under('keep-both')).toBe('a_3.mov')
    expect(await under('stop', 'b.mov')).toBe('b.mov')
    await expect(under('stop')).rejects.toThrow(PourError)
  })
})

describe('the queue', () => {
  const later = (): Promise<void> => new Promise(resolve => setTimeout(resolve, 1))

  test('takes one at a time, in order, none twice, and goes on after one that fails in its own way', async () => {
    const log: string[] = []
    let inHand = 0
    const queue = serialQueue<string>({
      keyOf: item => item,
      async run(item) {
        expect(++inHand).toBe(1)
        await later()
        log.push(item)
        inHand--
      },
      onTurn: item => item ?? log.push('idle')
    })
    expect(queue.add(['a', 'b', 'a'])).toEqual(['a', 'b'])
    expect(queue.add(['b', 'c'])).toEqual(['c'])
    while (!log.includes('idle')) await later()
    expect(log).toEqual(['a', 'b', 'c', 'idle'])
    expect(queue.current).toBeNull()
    // one that was done may be done again
    expect(queue.add(['a'])).toEqual(['a'])
  })

  test('paused, it ends what is in hand and takes no more; what is added waits with the rest', async () => {
    const done: string[] = []
    const queue = serialQueue<string>({
      keyOf: item => item,
      run: item => new Promise(resolve => setTimeout(() => (done.push(item), resolve()), 1))
    })
    queue.add(['a', 'b'])
    await later()
    queue.pause()
    while (queue.current !== null) await later()
    expect(done).toEqual(['a'])
    queue.add(['c'])
    for (let n = 0; n < 5; n++) await later()
    expect(done).toEqual(['a'])
    queue.resume()
    while (done.length < 3) await later()
    expect(done).toEqual(['a', 'b', 'c'])
    queue.pause()
    expect(queue.cancel()).toEqual([])
  })

  test('stops what is in hand and takes out what waits', async () => {
    const ends: string[] = []
    const queue = serialQueue<string>({
      keyOf: item => item,
      run: (item, signal) =>
        new Promise(resolve => {
          const end = (how: string) => () => (ends.push(`${item} ${how}`), resolve())
          signal.addEventListener('abort', end('stopped'))
          if (item !== 'a') setTimeout(end('done'), 1)
        })
    })
    queue.add(['a', 'b', 'c'])
    await later()
    expect(queue.current).toBe('a')
    expect(queue.cancel(item => item === 'b')).toEqual(['b'])
    expect(ends).toEqual([])
    expect(queue.cancel(item => item === 'a')).toEqual([])
    await later()
    while (queue.current !== null) await later()
    expect(ends).toEqual(['a stopped', 'c done'])
  })
})

test('sizes are judged once for each recipe; one that nobody wants any more is stopped, and may be wanted again', async () => {
  const told: string[] = []
  const sizes = estimates(key => told.push(key))
  let asked = 0
  const failing = async (): Promise<never> => {
    asked++
    throw new PourError({ kind: 'unreadable', file: 'a', place: null, matter: 'is damaged' })
  }
  await sizes.want('a', failing)
  await sizes.want('a', failing)
  expect([asked, told]).toEqual([1, []])
  let go: () => void = () => undefined
  const gate = new Promise<void>(resolve => (go = resolve))
  const waiting = (): Promise<never> => gate.then(() => failing())
  const first = sizes.want(
    'b',
    async () => (await gate, { spec: null as never, plan: null as never, host, pool: inlinePool(host) })
  )
  sizes.drop(key => key === 'b')
  go()
  await first
  expect(told).toEqual([])
  await sizes.want('b', waiting)
  expect(asked).toBe(2)
})
