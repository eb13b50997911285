/** The machine room: one pool and one host for all, and another try at a host that could not be had. */
import { visit } from './page'
import { expect, test, vi } from 'vitest'
import { useWorkshop } from '~/stores/workshop'

const made = vi.hoisted(() => ({ hosts: 0, pools: 0, fails: 1 }))
vi.mock('~~/platform/browser/host', () => ({
  browserHost: async () => {
    made.hosts++
    if (made.fails-- > 0) throw new Error('the server is not there')
    return { kernels: null }
  }
}))
vi.mock('~~/platform/browser/pool', () => ({ workerPool: () => ({ size: ++made.pools }) }))

test('a host that could not be had is asked for again; one that could is kept, as the pool is', async () => {
  visit()
  const workshop = useWorkshop()
  await expect(workshop.host()).rejects.toThrow('not there')
  const host = await workshop.host()
  expect(await workshop.host()).toBe(host)
  expect(made.hosts).toBe(2)
  expect(useWorkshop().pool).toBe(workshop.pool)
  expect(made.pools).toBe(1)
})
