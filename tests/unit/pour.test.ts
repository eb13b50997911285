import { takeIn } from '../../core/run/intake/intake'
import { rateNote } from '../../core/run/pour/rate-note'
import { describe, expect, test } from 'vitest'
import { memorySink, zipSink, type ByteSink } from '../../core/base/files/sinks'
import { listZip } from '../../core/base/files/zip'
import { memoryReader } from '../../core/base/files/file'
import { formatById } from '../../core/open/registry'
import { newOutlet } from '../../core/job/outlet/outlet'
import { planPour, type PourPlan } from '../../core/job/outlet/plan'
import { estimateSize } from '../../core/run/pour/estimate-size'
import { pour } from '../../core/run/pour/pour'
import { openSource } from '../../core/open/open'
import { specAsFound } from '../../core/open/stored'
import type { SourceSpec } from '../../core/source/source'
import { inOrder, TooLong, type Pool } from '../../core/base/pool'
import type { Tasks } from '../../core/tasks/tasks'
import { lookingThrough } from '../../core/run/intake/through-pool'
import { createPool, type Thread } from '../../platform/pool'
import { inlinePool } from '../../platform/node/pool'
import { PourError } from '../../core/base/errors'
import { bytesFile, noise, testHost, writeFilm } from './support'

const host = await testHost()
const COUNT = 12

async function sourceOf(depth: 8 | 16 = 8): Promise<SourceSpec> {
  const frames = Array.from({ length: COUNT }, (_, i) => noise({ width: 17, height: 11, depth, seed: i + 1 }))
  return specAsFound('s', 'moth', 'apng', [bytesFile('moth.png', await writeFilm('apng', frames))])
}

async function planFor(source: SourceSpec, format: string): Promise<PourPlan> {
  return planPour((await openSource(source, host)).facts, newOutlet('o', formatById(format)), null)
}

/** A pool that answers late and out of order, and counts how much is in flight. */
function slowPool(size: number): Pool<Tasks> & { most: number } {
  const inner = inlinePool(host, size)
  let flying = 0
  const pool: Pool<Tasks> & { most: number } = {
    ...inner,
    most: 0,
    async run(...task: Parameters<Pool<Tasks>['run']>) {
      pool.most = Math.max(pool.most, ++flying)
      await new Promise(resolve => setTimeout(resolve, Math.random() * 8))
      try {
        return (await inner.run(...task)) as never
      } finally {
        flying--
      }
    }
  }
  return pool
}

describe('pouring', () => {
  test('frames arrive in order though workers end out of order, and no more than two a worker are in flight', async () => {
    const source = await sourceOf()
    const pool = slowPool(3)
    const sink = memorySink()
    const seen: number[] = []
    await pour(
      { source, plan: await planFor(source, 'quicktime-animation'), target: { kind: 'film', sink } },
      { host, pool },
      ({ done }) => seen.push(done)
    )
    expect(seen).toEqual(Array.from({ length: COUNT + 1 }, (_, i) => i))
    expect(pool.most).toBeLessThanOrEqual(6)
    const back = await openSource(
      specAsFound('b', 'b', 'quicktime-animation', [bytesFile('b.mov', sink.bytes())]),
      host
    )
    for (let i = 0; i < COUNT; i++)
      expect((await back.frame(i)).samples).toEqual(noise({ width: 17, height: 11, depth: 8, seed: i + 1 }).samples)
  })

  test('a slow sink holds the workers back', async () => {
    const source = await sourceOf()
    let held = 0
    let inside = 0
    const sink: ByteSink = {
      ...memorySink(),
      async append() {
        held = Math.max(held, ++inside)
        await new Promise(resolve => setTimeout(resolve, 3))
        inside--
      }
    }
    const pool = slowPool(2)
    await pour({ source, plan: await planFor(source, 'apng'), target: { kind: 'film', sink } }, { host, pool })
    expect(held).toBe(1)
    expect(pool.most).toBeLessThanOrEqual(4)
  })

  test('cancelling rejects with an AbortError and takes back what was written', async () => {
    const source = await sourceOf()
    const stop = new AbortController()
    let aborted = false
    const sink: ByteSink = { ...memorySink(), abort: () => Promise.resolve(void (aborted = true)) }
    const running = pour(
      { source, plan: await planFor(source, 'apng'), target: { kind: 'film', sink } },
      { host, pool: slowPool(2), signal: stop.signal },
      ({ done }) => done === 3 && stop.abort()
    )
    await expect(running).rejects.toMatchObject({ name: 'AbortError' })
    expect(aborted).toBe(true)
  })

  test('a sink that fails fails the pour with its own reason', async () => {
    const source = await sourceOf()
    const sink: ByteSink = { ...memorySink(), append: () => Promise.reject(new Error('the disk is full')) }
    await expect(
      pour(
        { source, plan: await planFor(source, 'apng'), target: { kind: 'film', sink } },
        { host, pool: inlinePool(host) }
      )
    ).rejects.toThrow('the disk is full')
  })

  test('a sequence becomes a ZIP of its pictures, whose size was told beforehand', async () => {
    const source = await sourceOf(16)
    const plan = await planFor(source, 'png-sequence')
    const sink = memorySink()
    await pour(
      { source, plan, target: { kind: 'pictures', sink: zipSink(sink, new Date(1980, 0, 1)) } },
      { host, pool: inlinePool(host) }
    )
    const bytes = sink.bytes()
    const list = await listZip(bytesFile('z.zip', bytes), memoryReader('z.zip', bytes))
    const note = rateNote(plan)!
    expect(list.map(file => file.path)).toEqual([...plan.deliverable.names, note.name])
    const encoded = list.slice(0, -1).reduce((sum, file) => sum + file.size, 0)
    // the note comes on top, with its name twice in the archive
    const beside = bytes.length - formatById('png-sequence').wrappedSize(encoded, plan.deliverable)
    expect(beside - note.bytes.length).toBeLessThan(2 * note.name.length + 110)
    // and is read back: the sequence comes home with its rate
    const home = await takeIn([bytesFile('z.zip', bytes)], host)
    expect(home.found.map(({ facts }) => [facts.rate, facts.rateFrom])).toEqual([[plan.deliverable.rate, 'note']])
  })

  test('the estimate comes from really encoded frames', async () => {
    const source = await sourceOf()
    for (const format of ['quicktime-animation', 'apng']) {
      const plan = await planFor(source, format)
      const sink = memorySink()
      await pour({ source, plan, target: { kind: 'film', sink } }, { host, pool: inlinePool(host) })
      const { bytes: estimate, least, most } = await estimateSize({ source, plan, host, pool: inlinePool(host) })
      expect(Math.abs(estimate / sink.bytes().length - 1)).toBeLessThan(0.2)
      expect(least).toBeLessThanOrEqual(estimate)
      expect(most).toBeGreaterThanOrEqual(estimate)
    }
  })
})

test('order is kept and the first error stops the rest', async () => {
  const used: number[] = []
  let made = 0
  await expect(
    inOrder(
      100,
      4,
      i => {
        made++
        return i === 5 ? Promise.reject(new Error('five')) : Promise.resolve(i)
      },
      i => void used.push(i)
    )
  ).rejects.toThrow('five')
  expect(used).toEqual([0, 1, 2, 3, 4])
  expect(made).toBeLessThanOrEqual(10)
})

describe('the pool of threads', () => {
  interface Fake extends Thread {
    calls: string[]
    ended: boolean
  }
  const threads: Fake[] = []
  function fake(run: (name: string) => Promise<unknown>, die?: Promise<Error>): () => Thread {
    return () => {
      const thread: Fake = {
        calls: [],
        ended: false,
        onFailed: listener => void die?.then(error => listener?.(error)),
        end: () => void (thread.ended = true),
        face: {
          async run(name) {
            thread.calls.push(name)
            return (await run(name)) as never
          }
        }
      }
      threads.push(thread)
      return thread
    }
  }
  const ok = (value: unknown): { ok: true; value: unknown } => ({ ok: true, value })

  test('tasks of now overtake those of later', async () => {
    const order: unknown[] = []
    const pool = createPool(
      1,
      fake(async () => new Promise(resolve => setTimeout(() => resolve(ok(null)), 2)))
    )
    const run = (tag: string, priority: 'now' | 'normal' | 'later'): Promise<unknown> =>
      pool.run('look', [] as never, { priority }).then(() => order.push(tag))
    await Promise.all([run('first', 'later'), run('later', 'later'), run('normal', 'normal'), run('now', 'now')])
    expect(order).toEqual(['first', 'now', 'normal', 'later'])
  })

  test('what somebody waits for goes to the thread that did it before, and other tasks keep away from that one', async () => {
    threads.length = 0
    const pool = createPool(
      2,
      fake(async () => new Promise(resolve => setTimeout(() => resolve(ok(null)), 2)))
    )
    const run = (name: 'view' | 'coverage', priority: 'now' | 'later'): Promise<unknown> =>
      pool.run(name, [] as never, { priority })
    await Promise.all([run('view', 'now'), run('coverage', 'later')])
    for (let n = 0; n < 6; n++) {
      await run('coverage', 'later')
      await run('view', 'now')
    }
    expect(threads.map(thread => [...new Set(thread.calls)])).toEqual([['view'], ['coverage']])
    // with both free, work that nobody waits for still takes both
    await Promise.all([run('coverage', 'later'), run('coverage', 'later')])
    expect(threads[0]!.calls.at(-1)).toBe('coverage')
  })

  test('a cancelled task rejects at once and never runs if it was waiting', async () => {
    threads.length = 0
    const pool = createPool(
      1,
      fake(async () => new Promise(resolve => setTimeout(() => resolve(ok(1)), 30)))
    )
    const first = pool.run('look', [] as never)
    const stop = new AbortController()
    const second = pool.run('encode', [] as never, { signal: stop.signal })
    stop.abort()
    await expect(second).rejects.toMatchObject({ name: 'AbortError' })
    await first
    expect(threads[0]!.calls).toEqual(['look'])
  })

  test('whatever a task hangs on its signal is taken off again, however it ends', async () => {
    threads.length = 0
    let n = 0
    const pool = createPool(
      2,
      fake(async () => (n++ % 3 ? ok(n) : { ok: false, error: { message: 'no' } as never }))
    )
    const { signal } = new AbortController()
    const hung = new Set<unknown>()
    const [add, remove] = [signal.addEventListener.bind(signal), signal.removeEventListener.bind(signal)]
    signal.addEventListener = (...given: Parameters<typeof add>) => (hung.add(given[1]), add(...given))
    signal.removeEventListener = (...given: Parameters<typeof remove>) => (hung.delete(given[1]), remove(...given))
    await Promise.allSettled(Array.from({ length: 4 }, () => pool.run('look', [] as never, { signal })))
    expect(n).toBe(4)
    expect(hung.size).toBe(0)
  })

  test('a thread that dies fails its task and is replaced', async () => {
    threads.length = 0
    let died = false
    const pool = createPool(1, () =>
      fake(
        async () => (died ? ok('alive') : new Promise(() => undefined)),
        died ? undefined : Promise.resolve(new Error('out of memory'))
      )()
    )
    await expect(pool.run('look', [] as never).finally(() => (died = true))).rejects.toThrow(/out of memory/)
    expect(await pool.run('look', [] as never)).toBe('alive')
    expect(threads).toHaveLength(2)
  })

  test('a task that takes longer than it may is ended with its thread, and the next has a fresh one', async () => {
    threads.length = 0
    let hangs = true
    const start = fake(() => (hangs ? new Promise(() => undefined) : Promise.resolve(ok('read'))))
    const pool = createPool(1, start, { deadline: 20 })
    await expect(pool.run('look', [] as never)).rejects.toThrow(TooLong)
    hangs = false
    expect(await pool.run('look', [] as never)).toBe('read')
    expect(threads.map(({ ended }) => ended)).toEqual([true, false])
    hangs = true
    const looking = lookingThrough(pool, undefined, 20)
    const file = bytesFile('frozen.svg', new Uint8Array(4))
    await expect(looking.look(file)).rejects.toMatchObject({ file: 'frozen.svg', kind: 'unreadable' })
  })

  test('what nobody waits for any more is ended when its patience is over, and holds nothing up', async () => {
    threads.length = 0
    let hangs = true
    const start = fake(() => (hangs ? new Promise(() => undefined) : Promise.resolve(ok('next'))))
    const pool = createPool(1, start, { patience: 20 })
    const stop = new AbortController()
    const frozen = pool.run('look', [] as never, { signal: stop.signal })
    const waiting = pool.run('look', [] as never)
    hangs = false
    stop.abort()
    await expect(frozen).rejects.toMatchObject({ name: 'AbortError' })
    expect(await waiting).toBe('next')
    expect(threads.map(({ ended }) => ended)).toEqual([true, false])
    await pool.close()
  })

  test('closing lets what runs come to its end, turns away what waits, and ends every thread', async () => {
    threads.length = 0
    const pool = createPool(
      2,
      fake(async () => new Promise(resolve => setTimeout(() => resolve(ok('done')), 20)))
    )
    const running = [pool.run('look', [] as never), pool.run('look', [] as never)]
    const waiting = pool.run('look', [] as never)
    const turned = expect(waiting).rejects.toMatchObject({ name: 'AbortError' })
    await pool.close()
    await turned
    expect(await Promise.all(running)).toEqual(['done', 'done'])
    expect(threads.map(thread => thread.ended)).toEqual([true, true])
    await expect(pool.run('look', [] as never)).rejects.toThrow('closed')
  })

  test('an error of the core keeps its file, place and matter on the way across', async () => {
    const plain = { kind: 'unreadable', file: 'a.png', place: 'byte 3', matter: 'it is damaged' }
    const pool = createPool(
      1,
      fake(() => Promise.resolve({ ok: false, error: plain }))
    )
    const error = await pool.run('look', [] as never).catch((e: unknown) => e)
    expect(error).toBeInstanceOf(PourError)
    expect(error).toMatchObject(plain)
  })
})
