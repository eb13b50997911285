/** The machine room: one pool of workers and one host for the whole page. */
import { defineStore } from 'pinia'
import { markRaw, ref } from 'vue'
import { addresses } from '~/addresses'
import type { Host } from '~~/core/frame/host'
import type { Pool } from '~~/core/base/pool'
import type { Tasks } from '~~/core/tasks/tasks'
import { browserHost } from '~~/platform/browser/host'
import { workerPool } from '~~/platform/browser/pool'

export const useWorkshop = defineStore('workshop', () => {
  const pool: Pool<Tasks> = markRaw(
    workerPool(() => new Worker(new URL('../workers/core.worker.ts', import.meta.url), { type: 'module' }))
  )
  let host: Promise<Host> | null = null
  /** What went wrong where no cell or source can show it; the shell shows it. */
  const trouble = ref<string | null>(null)
  return {
    pool,
    trouble,
    host(): Promise<Host> {
      host ??= browserHost(addresses)
      // what could not be had is asked for again
      host.catch(() => (host = null))
      return host
    }
  }
})
