/**
 * The job document. Every edit is a recipe on the stored job, run inside one database transaction: two tabs of the same
 * job add to each other instead of overwriting. Undo applies the inverse patches of this tab's own edits.
 */
import { liveQuery } from 'dexie'
import { applyPatches, enablePatches, produceWithPatches, type Draft, type Patch } from 'immer'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { database } from '~/db/database'
import { sweep } from '~/db/files'
import { emptyJob, Job, type JobSource } from '~~/core/job/job'
import type { Outlet } from '~~/core/outlet/outlet'

enablePatches()

interface Edit {
  label: string
  forward: Patch[]
  back: Patch[]
}

const MOST_UNDO = 200
const JOB_ID = 'main'

/**
 * Clears away what nothing refers to, unless another tab is open: it may be bringing files in, or hold undo steps that
 * need them. Every tab then holds a shared lock for as long as it lives.
 */
async function sweepIfAlone(): Promise<void> {
  await navigator.locks.request('pour:tab', { ifAvailable: true }, async lock => {
    if (lock) await sweep()
  })
  void navigator.locks.request('pour:tab', { mode: 'shared' }, () => new Promise(() => undefined))
}

export const useJob = defineStore('job', () => {
  const job = shallowRef<Job>(emptyJob(JOB_ID, 'Untitled job'))
  const ready = ref(false)
  const undoStack = shallowRef<Edit[]>([])
  const redoStack = shallowRef<Edit[]>([])
  let revision = -1

  const sources = computed<JobSource[]>(() => job.value.sourceOrder.flatMap(id => job.value.sources[id] ?? []))
  const outlets = computed<Outlet[]>(() => job.value.outletOrder.flatMap(id => job.value.outlets[id] ?? []))

  function take(row: { revision: number; job: Job }): void {
    if (row.revision <= revision) return
    revision = row.revision
    job.value = row.job
  }

  /** Writes what `change` makes of the stored job; returns the patches. */
  async function write(
    change: (stored: Job) => { job: Job; forward: Patch[]; back: Patch[] }
  ): Promise<{ forward: Patch[]; back: Patch[] }> {
    const { written, forward, back } = await database.transaction('rw', database.jobs, async () => {
      const row = (await database.jobs.get(JOB_ID)) ?? { id: JOB_ID, revision: 0, job: job.value }
      const { job: next, forward, back } = change(row.job)
      if (forward.length === 0) return { written: null, forward, back }
      const written = { id: JOB_ID, revision: row.revision + 1, job: next }
      await database.jobs.put(written)
      return { written, forward, back }
    })
    // only now: whoever watches the job may go to the database, and must not find itself within this transaction
    if (written) take(written)
    return { forward, back }
  }

  /** Edits the job; one call is one step of undo, called `label` ("Rename outlet"). */
  async function edit(label: string, recipe: (draft: Draft<Job>) => void, { undoable = true } = {}): Promise<void> {
    const patches = await write(stored => {
      const [next, forward, back] = produceWithPatches(stored, recipe)
      return { job: next, forward, back }
    })
    if (!undoable || patches.forward.length === 0) return
    undoStack.value = [...undoStack.value.slice(-MOST_UNDO + 1), { label, ...patches }]
    redoStack.value = []
  }

  async function apply(patches: Patch[]): Promise<boolean> {
    try {
      await write(stored => {
        const next = Job.parse(applyPatches(stored, patches))
        return { job: next, forward: patches, back: [] }
      })
      return true
    } catch {
      // another tab has removed what this edit was about: there is nothing left to take back
      return false
    }
  }

  async function undo(): Promise<string | null> {
    const last = undoStack.value.at(-1)
    if (!last) return null
    undoStack.value = undoStack.value.slice(0, -1)
    if (!(await apply(last.back)))
      return `"${last.label}" cannot be undone; another tab has changed the same place since.`
    redoStack.value = [...redoStack.value, last]
    return null
  }

  async function redo(): Promise<string | null> {
    const last = redoStack.value.at(-1)
    if (!last) return null
    redoStack.value = redoStack.value.slice(0, -1)
    if (!(await apply(last.forward)))
      return `"${last.label}" cannot be redone; another tab has changed the same place since.`
    undoStack.value = [...undoStack.value, last]
    return null
  }

  /** Opens the stored job, or begins one; then follows what other tabs write. Returns whether it is new. */
  async function open(): Promise<boolean> {
    const row = await database.jobs.get(JOB_ID)
    if (row) {
      take({ ...row, job: Job.parse(row.job) })
      await sweepIfAlone()
    } else {
      await database.jobs.add({ id: JOB_ID, revision: 1, job: job.value }).catch(() => undefined) // a second tab was quicker
      await sweepIfAlone()
    }
    liveQuery(() => database.jobs.get(JOB_ID)).subscribe(next => {
      if (next) take(next)
    })
    ready.value = true
    return !row
  }

  return { job, ready, sources, outlets, undoStack, redoStack, open, edit, undo, redo }
})
