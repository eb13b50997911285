/** Things followed one by one: a change of one of them calls for that one alone. */
import { nextTick, shallowReactive, shallowRef } from 'vue'
import { expect, test } from 'vitest'
import { computedEach, watchEach } from '../../app/composables/computedEach'

test('each value is made when it is asked for, and again only when its own ground has changed', () => {
  const ground = shallowReactive(new Map([...'abc'].map(id => [id, 1])))
  const made: string[] = []
  const of = computedEach(id => {
    made.push(id)
    return (ground.get(id) ?? 0) * 10
  })
  expect(['a', 'b', 'a'].map(of)).toEqual([10, 10, 10])
  ground.set('b', 2)
  expect(['a', 'b'].map(of)).toEqual([10, 20])
  expect(made).toEqual(['a', 'b', 'b'])
})

test('of a thousand things one change makes one call; what comes is called for, also when it comes back', async () => {
  const ids = shallowRef(Array.from({ length: 1000 }, (_, n) => `s${n}`))
  const state = shallowReactive(new Map<string, string>())
  const calls: string[] = []
  const stop = watchEach(
    () => ids.value,
    id => state.get(id) ?? 'new',
    (id, key) => calls.push(`${id} ${key}`)
  )
  expect(calls).toHaveLength(1000)
  calls.length = 0
  state.set('s7', 'ready')
  await nextTick()
  expect(calls).toEqual(['s7 ready'])
  calls.length = 0
  ids.value = ids.value.filter(id => id !== 's7')
  await nextTick()
  expect(calls).toEqual([])
  ids.value = [...ids.value, 's7', 'late']
  await nextTick()
  expect(calls).toEqual(['s7 ready', 'late new'])
  stop()
  state.set('s1', 'ready')
  await nextTick()
  expect(calls).toHaveLength(2)
})
