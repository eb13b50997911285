/** Large parts of arguments travel once to each thread, and arrive as they were sent. */
import fc from 'fast-check'
import { expect, test } from 'vitest'
import { fewAtATime } from '../../core/base/few'
import { Stow, Unstow } from '../../platform/stow'

const list = (length: number): string[] => Array.from({ length }, (_, n) => `picture_${n}.png`)
/** What a message does to a value. */
const sent = <T>(value: T): T => structuredClone(value)

test('a source is sent once, whatever stands around it', () => {
  const [stow, unstow] = [new Stow(), new Unstow()]
  const source = { id: 'a', files: list(3000) }
  const deliverable = { depth: 8, names: list(3000) }
  const pass = (args: unknown[]): unknown[] => unstow.unpack(sent(stow.pack(args)))
  expect(pass([source, 1])).toEqual([source, 1])
  const second = stow.pack([{ source, index: 2, reference: { spec: source } }])
  expect(JSON.stringify(second).length).toBeLessThan(200)
  expect(second.fresh).toEqual([])
  expect(unstow.unpack(sent(second))).toEqual([{ source, index: 2, reference: { spec: source } }])
  const third = stow.pack([{ source, deliverable }])
  expect(third.fresh.map(([, value]) => value)).toEqual([deliverable])
  expect(unstow.unpack(sent(third))).toEqual([{ source, deliverable }])
  // the sender's own values are as they were
  expect(source).toEqual({ id: 'a', files: list(3000) })
})

test('what has not been used for long is let go of, and sent again when it is', () => {
  const [stow, unstow] = [new Stow(), new Unstow()]
  const sources = Array.from({ length: 100 }, (_, n) => ({ id: String(n), files: list(20) }))
  for (const round of [0, 1])
    for (const source of sources) expect([round, unstow.unpack(sent(stow.pack([source])))]).toEqual([round, [source]])
  expect((unstow as unknown as { held: Map<number, object> }).held.size).toBeLessThanOrEqual(33)
})

test('any arguments arrive as they are', () => {
  const [stow, unstow] = [new Stow(), new Unstow()]
  const large = fc.record({ files: fc.array(fc.string(), { maxLength: 40 }), id: fc.string() })
  const value = fc.oneof(fc.jsonValue(), large, fc.record({ request: large, inner: fc.record({ spec: large }) }))
  fc.assert(
    fc.property(fc.array(value, { maxLength: 4 }), args => {
      expect(unstow.unpack(sent(stow.pack(args)))).toEqual(sent(args))
    })
  )
  const bytes = new Uint8Array([1, 2, 3])
  expect(unstow.unpack(sent(stow.pack([bytes, { bytes, names: list(16) }])))).toEqual([
    bytes,
    { bytes, names: list(16) }
  ])
})

test('a few at a time, in order, and one that fails gives its place on', async () => {
  const { turn } = fewAtATime(2)
  let running = 0
  let most = 0
  const done: number[] = []
  const ends = await Promise.allSettled(
    Array.from({ length: 9 }, (_, n) =>
      turn(async () => {
        most = Math.max(most, ++running)
        await new Promise(resolve => setTimeout(resolve, n % 3))
        running--
        if (n === 4) throw new Error('fails')
        done.push(n)
        return n
      })
    )
  )
  expect(most).toBe(2)
  expect(running).toBe(0)
  expect(done.sort()).toEqual([0, 1, 2, 3, 5, 6, 7, 8])
  expect(ends.map(end => end.status === 'fulfilled')).toEqual(ends.map((_, n) => n !== 4))
})

test('what is urgent goes before what waits longer, and begins at once when hurried', async () => {
  const { turn, hurry } = fewAtATime(1)
  const begun: number[] = []
  const ends: (() => void)[] = []
  let looked = -1
  const all = [0, 1, 2, 3].map(n =>
    turn(
      () => {
        begun.push(n)
        return new Promise<void>(resolve => ends.push(resolve))
      },
      () => looked === n
    )
  )
  const settle = (): Promise<void> => new Promise(resolve => setTimeout(resolve, 0))
  await settle()
  expect(begun).toEqual([0])
  looked = 3
  hurry()
  await settle()
  expect(begun).toEqual([0, 3])
  ends[1]!()
  await settle()
  // the place of the first is still taken
  expect(begun).toEqual([0, 3])
  looked = 2
  ends[0]!()
  await settle()
  expect(begun).toEqual([0, 3, 2])
  ends[2]!()
  await settle()
  ends[3]!()
  await Promise.all(all)
  expect(begun).toEqual([0, 3, 2, 1])
})
