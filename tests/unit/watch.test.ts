/** The engine of watched folders, over a simple picture of a folder, a clock and deliveries. */
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { DONE, FAILED } from '../../core/run/delivery/arrivals'
import { watchFolder, type Clock, type Watching, type WatchedPlace } from '../../core/run/delivery/watch'
import { noRoom } from '../../core/base/errors'

class Killed extends Error {}

/** What a watcher can see and change. Bytes are texts; one that ends in "…" is cut short. */
class World {
  now = 0
  inbox = new Map<string, { bytes: string; changed: number }>()
  aside: Record<string, Map<string, string>> = { [DONE]: new Map(), [FAILED]: new Map() }
  reports = new Map<string, string>()
  output = new Map<string, string>()
  kept: string | null = null
  poured: string[] = []
  /** Work left until the process is killed; each thing that is done to the world takes one. */
  life = Infinity
  full = false
  /** How often something was read to see whether it is whole. */
  read = 0
  /** What happens while something is poured. */
  meanwhile: (() => void) | null = null

  do(): void {
    if (this.life-- <= 0) throw new Killed()
  }

  put(name: string, bytes: string): void {
    this.inbox.set(name, { bytes, changed: this.now })
  }

  readonly place: WatchedPlace = {
    look: async () =>
      [...this.inbox].map(([name, { bytes, changed }]) => ({
        name,
        state: `${bytes} ${changed}`,
        changed,
        unfinished: name.endsWith('.part')
      })),
    standing: async name => {
      const found = this.inbox.get(name)
      return found
        ? { name, state: `${found.bytes} ${found.changed}`, changed: found.changed, unfinished: false }
        : null
    },
    aside: async into => this.aside[into]!.keys(),
    putAside: async (name, into, as, report) => {
      this.do()
      if (this.full) throw noRoom('there is no room on the disk')
      this.reports.set(`${into}/${as}`, report)
      this.do()
      expect(this.aside[into]!.has(as)).toBe(false)
      this.aside[into]!.set(as, this.inbox.get(name)!.bytes)
      this.inbox.delete(name)
    },
    remove: async name => void this.inbox.delete(name),
    journal: async () => this.kept,
    keepJournal: async text => {
      this.do()
      if (this.full) throw noRoom('there is no room on the disk')
      this.kept = text
    }
  }

  /** Time goes on with each wait; the watcher is stopped when nothing is left to wait for. */
  clockUntil(end: number, stop: AbortController): Clock {
    return {
      now: () => this.now,
      wait: async ms => {
        this.now += ms
        if (this.now >= end) {
          stop.abort(new Error('over'))
          throw stop.signal.reason
        }
      }
    }
  }

  watching(more: Partial<Watching> = {}, stop = new AbortController(), end = this.now + 200_000): Watching {
    return {
      place: this.place,
      clock: this.clockUntil(end, stop),
      signal: stop.signal,
      settle: 10_000,
      isWhole: async name => {
        this.read++
        return !this.inbox.get(name)?.bytes.endsWith('…')
      },
      outputs: async () => this.output.keys(),
      deliver: async (name, names) => {
        if (this.full) throw noRoom('there is no room on the disk')
        const { bytes } = this.inbox.get(name)!
        this.poured.push(name)
        const to = await names.own(`${name.replace(/\.[^.]*$/, '')}.webm`)
        this.do()
        this.output.set(to, `of ${name}: ${bytes}`)
        this.do()
        this.meanwhile?.()
        const good = !bytes.startsWith('bad') && !bytes.endsWith('…')
        return { deliveries: [{ to }], remarks: [], faults: good ? [] : ['bad'], ended: good ? 0 : 3 }
      },
      ...more
    }
  }

  async watch(more: Partial<Watching> = {}, seconds = 200): Promise<void> {
    await watchFolder(this.watching(more, new AbortController(), this.now + 1000 * seconds)).catch((error: unknown) => {
      if (!(error instanceof Killed) && !(error instanceof Error && error.message === 'over')) throw error
    })
  }
}

describe('what has arrived', () => {
  test('is what has not changed for the settle time, counted from its last change', async () => {
    const world = new World()
    world.put('a.mov', 'one')
    await world.watch({}, 9)
    expect(world.poured).toEqual([])
    world.put('a.mov', 'one two')
    await world.watch({}, 9)
    expect(world.poured).toEqual([])
    await world.watch({}, 9)
    expect(world.poured).toEqual(['a.mov'])
    expect([...world.aside[DONE]!]).toEqual([['a.mov', 'one two']])
  })

  test('is whole: what is cut short is waited for, and given up in the end', async () => {
    const world = new World()
    world.put('pieces.mov', 'half…')
    await world.watch({}, 30)
    // once as it stands, however long it is waited for
    expect([world.poured, world.read]).toEqual([[], 1])
    world.put('pieces.mov', 'half and half')
    await world.watch({}, 30)
    expect(world.output.get('pieces.webm')).toBe('of pieces.mov: half and half')
    world.put('torn.mov', 'torn…')
    await world.watch({}, 90)
    expect([...world.aside[FAILED]!.keys()]).toEqual(['torn.mov'])
  })

  test('waits for whoever still writes beside it, and for its marker where one is asked', async () => {
    const world = new World()
    world.put('a.mov.part', 'x')
    await world.watch({}, 40)
    expect(world.poured).toEqual([])
    world.inbox.clear()
    world.put('a.mov', 'x')
    await world.watch({ marker: '.ready' }, 40)
    expect(world.poured).toEqual([])
    world.put('a.mov.ready', '')
    await world.watch({ marker: '.ready' }, 40)
    expect([world.poured, [...world.inbox.keys()]]).toEqual([['a.mov'], []])
  })

  test('is not moved away when it changed while it was poured, and is poured again in its own place', async () => {
    const world = new World()
    world.put('a.mov', 'first')
    world.meanwhile = () => {
      world.meanwhile = null
      world.put('a.mov', 'second')
    }
    await world.watch()
    expect(world.poured).toEqual(['a.mov', 'a.mov'])
    expect([...world.output]).toEqual([['a.webm', 'of a.mov: second']])
    expect([...world.aside[DONE]!]).toEqual([['a.mov', 'second']])
  })
})

describe('names in the output', () => {
  test('two arrivals of like names, and a later one of the same, stand beside each other', async () => {
    const world = new World()
    world.output.set('Strap.webm', 'of somebody')
    world.put('strap.avi', 'a')
    world.put('strap.mov', 'b')
    await world.watch()
    world.put('strap.avi', 'c')
    await world.watch()
    expect(Object.fromEntries(world.output)).toEqual({
      'Strap.webm': 'of somebody',
      'strap_2.webm': 'of strap.avi: a',
      'strap_3.webm': 'of strap.mov: b',
      'strap_4.webm': 'of strap.avi: c'
    })
    expect([...world.aside[DONE]!.keys()].sort()).toEqual(['strap.avi', 'strap.mov', 'strap_2.avi'])
  })

  test('a later one takes the place of its own former delivery alone, where that is asked', async () => {
    const world = new World()
    world.put('strap.avi', 'a')
    world.put('strap.mov', 'b')
    await world.watch({ replaces: true })
    world.put('strap.mov', 'c')
    await world.watch({ replaces: true })
    expect(Object.fromEntries(world.output)).toEqual({
      'strap.webm': 'of strap.avi: a',
      'strap_2.webm': 'of strap.mov: c'
    })
  })
})

test('once: everything that is there is taken when it has settled, and the worst code is what it ends with', async () => {
  const world = new World()
  world.put('good.mov', 'good')
  world.put('bad.mov', 'bad')
  expect(await watchFolder(world.watching({ once: true }))).toBe(3)
  expect(world.now).toBeGreaterThanOrEqual(10_000)
  expect([[...world.aside[DONE]!.keys()], [...world.aside[FAILED]!.keys()]]).toEqual([['good.mov'], ['bad.mov']])
  expect(await watchFolder(new World().watching({ once: true }))).toBe(0)
})

test('a full disk leaves an arrival where it is, and it goes on when there is room', async () => {
  const world = new World()
  world.put('a.mov', 'x')
  world.full = true
  await world.watch()
  expect([...world.inbox.keys()]).toEqual(['a.mov'])
  expect(await watchFolder(world.watching({ once: true }))).toBe(5)
  world.full = false
  await world.watch()
  expect([...world.output.keys()]).toEqual(['a.webm'])
})

test('a disk that fills up between a proof and its journal costs nothing but time', async () => {
  const world = new World()
  world.put('a.mov', 'x')
  world.meanwhile = () => (world.full = true)
  await world.watch({}, 40)
  expect([[...world.inbox.keys()], world.poured]).toEqual([['a.mov'], ['a.mov']])
  world.meanwhile = null
  world.full = false
  const stop = new AbortController()
  const clock = world.clockUntil(world.now + 60_000, stop)
  await watchFolder(world.watching({ clock, signal: stop.signal })).catch(() => undefined)
  expect([...world.output.keys(), ...world.aside[DONE]!.keys()]).toEqual(['a.webm', 'a.mov'])
})

test('whatever comes when, and wherever it is killed: each arrival is delivered once, and nothing is lost', async () => {
  const name = fc.constantFrom('a.mov', 'a.avi', 'b.mov', 'A.mov')
  const command = fc.oneof(
    {
      weight: 4,
      arbitrary: fc.record({ kind: fc.constant('put' as const), name, bytes: fc.constantFrom('x', 'bad', 'y…') })
    },
    {
      weight: 3,
      arbitrary: fc.record({ kind: fc.constant('watch' as const), seconds: fc.integer({ min: 5, max: 120 }) })
    },
    { weight: 3, arbitrary: fc.record({ kind: fc.constant('kill' as const), after: fc.integer({ min: 0, max: 14 }) }) },
    { weight: 1, arbitrary: fc.record({ kind: fc.constant('full' as const), full: fc.boolean() }) }
  )
  await fc.assert(
    fc.asyncProperty(fc.array(command, { maxLength: 30 }), fc.boolean(), async (commands, replaces) => {
      const world = new World()
      let count = 0
      /** Everything that ever lay in the inbox whole, by what it holds; one that was written over is gone. */
      const expected = new Set<string>()
      for (const each of commands)
        if (each.kind === 'put') {
          const former = world.inbox.get(each.name)?.bytes
          if (former) expected.delete(former)
          const bytes = each.bytes === 'y…' ? `${++count}…` : `${each.bytes}${++count}`
          world.put(each.name, bytes)
          expected.add(bytes)
        } else if (each.kind === 'full') world.full = each.full
        else if (each.kind === 'watch') await world.watch({ replaces }, each.seconds)
        else {
          world.life = each.after
          await world.watch({ replaces }, 100)
          world.life = Infinity
        }
      world.full = false
      await world.watch({ replaces }, 400)
      expect([...world.inbox.keys()]).toEqual([])
      const aside = [...world.aside[DONE]!.values(), ...world.aside[FAILED]!.values()]
      expect(aside.sort()).toEqual([...expected].sort())
      // every report stands beside its arrival, and every delivery is of what it says
      for (const into of [DONE, FAILED])
        for (const as of world.aside[into]!.keys()) expect(world.reports.has(`${into}/${as}`)).toBe(true)
      const delivered = [...world.output.values()].map(each => each.replace(/^of [^:]*: /, ''))
      expect(new Set(delivered).size).toBe(delivered.length)
      if (!replaces)
        for (const bytes of world.aside[DONE]!.values())
          expect(delivered.filter(each => each === bytes)).toHaveLength(1)
    }),
    { numRuns: 400 }
  )
})

test('a thousand arrivals', async () => {
  const world = new World()
  for (let n = 0; n < 1000; n++) world.put(`clip ${n}.mov`, `x${n}`)
  await world.watch()
  expect([world.output.size, world.aside[DONE]!.size, world.inbox.size]).toEqual([1000, 1000, 0])
})
