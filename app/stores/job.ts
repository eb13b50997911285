/**
 * The job document. Every edit is a recipe on the stored job, run inside one database transaction: two tabs of the same
 * job add to each other instead of overwriting. Undo applies the inverse patches of this tab's own edits. An edit is
 * held to the job's schema before it is stored; one that the disk would not take is kept here and tried again.
 */
import Dexie, { liveQuery } from 'dexie'
import { applyPatches, current, enablePatches, produceWithPatches, type Draft, type Patch } from 'immer'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { database } from '~/db/database'
import { sweep } from '~/db/files'
import { FIRST_JOB, openJobId, UNTITLED } from '~/db/jobs'
import { knownJob, noteJob, type KnownJob } from '~/db/known-job'
import { sayStore } from '~/db/words'
import { setAsideDamaged } from '~/db/rows'
import { emptyJob, type Job, type JobSource } from '~~/core/job/job'
import { openJob } from '~~/core/job/open-job'
import { refusalOf, type Refusal } from '~~/core/job/refusal'
import { copyName } from '~~/core/job/outlet/names'
import type { Outlet } from '~~/core/job/outlet/outlet'
import { factsOfScene } from '~~/core/draw/scene/as-file'

enablePatches()

interface Edit {
  label: string
  forward: Patch[]
  back: Patch[]
}

const MOST_UNDO = 200
/** Between two tries to write what the disk would not take. */
const RETRY = 2000

class Refused extends Error {
  constructor(readonly refusal: Refusal) {
    super(refusal.sentence)
  }
}

/**
 * Clears away what nothing refers to, unless another tab is open: it may be bringing files in, or hold undo steps that
 * need them. Every tab then holds a shared lock for as long as it lives.
 */
async function sweepIfAlone(mayClear: boolean): Promise<void> {
  await navigator.locks.request('pour:tab', { ifAvailable: true }, async lock => {
    if (lock && mayClear) await sweep()
  })
  void navigator.locks.request('pour:tab', { mode: 'shared' }, () => new Promise(() => undefined))
}

export const useJob = defineStore('job', () => {
  let jobId = openJobId()
  const job = shallowRef<Job>(emptyJob(jobId, UNTITLED))
  const ready = ref(false)
  const undoStack = shallowRef<Edit[]>([])
  const redoStack = shallowRef<Edit[]>([])
  /**
   * Why the last edit was not kept, and which it was; the number changes with each, so that fields show what stands
   * again.
   */
  const refusal = shallowRef<(Refusal & { nth: number }) | null>(null)
  /** Why edits are not on disk, while they are not. */
  const unwritten = ref<string | null>(null)
  /** What this browser had and has no more. */
  const lost = shallowRef<KnownJob | null>(null)
  let revision = -1
  let refusals = 0
  /** Edits that are shown and not yet stored, oldest first. */
  let pending: Patch[][] = []
  let retry: ReturnType<typeof setTimeout> | null = null
  let writing = 0

  const sources = computed<JobSource[]>(() => job.value.sourceOrder.flatMap(id => job.value.sources[id] ?? []))
  const outlets = computed<Outlet[]>(() => job.value.outletOrder.flatMap(id => job.value.outlets[id] ?? []))

  /** The stored job with what waits to be stored laid over it; a patch whose place is gone is let go. */
  function withPending(stored: Job): Job {
    return pending.reduce((now, patches) => {
      try {
        return applyPatches(now, patches)
      } catch {
        return now
      }
    }, stored)
  }

  function take(row: { revision: number; job: Job }): void {
    if (row.revision <= revision) return
    revision = row.revision
    job.value = withPending(row.job)
    noteJob(row.job)
  }

  /** Writes what `change` makes of the stored job; returns the patches. Throws `Refused` before anything is written. */
  async function write(
    change: (stored: Job) => { job: Job; forward: Patch[]; back: Patch[] }
  ): Promise<{ forward: Patch[]; back: Patch[] }> {
    writing++
    try {
      const { written, forward, back } = await database.transaction('rw', database.jobs, async () => {
        const row = (await database.jobs.get(jobId)) ?? { id: jobId, revision: Math.max(0, revision), job: job.value }
        const { job: next, forward, back } = change(row.job)
        if (forward.length === 0) return { written: null, forward, back }
        const refused = refusalOf(next, forward)
        if (refused) throw new Refused(refused)
        const written = { id: jobId, revision: row.revision + 1, job: next }
        await database.jobs.put(written)
        return { written, forward, back }
      })
      // only now: whoever watches the job may go to the database, and must not find itself within this transaction
      if (written) take(written)
      return { forward, back }
    } finally {
      writing--
    }
  }

  function refuse({ refusal: given }: Refused): void {
    refusal.value = { ...given, nth: ++refusals }
  }

  /** Keeps an edit that could not be stored, shows it, and says why; it is stored as soon as the disk takes it. */
  function hold(patches: Patch[], error: unknown): void {
    pending.push(patches)
    job.value = applyPatches(job.value, patches)
    unwritten.value = sayStore(error)
    retry ??= setTimeout(() => void writePending(), RETRY)
  }

  async function writePending(): Promise<void> {
    if (retry) clearTimeout(retry)
    retry = null
    const waiting = pending
    try {
      // what is stored now is no longer laid over it; should this fail, it still is
      await write(stored => {
        const next = withPending(stored)
        pending = []
        return { job: next, forward: waiting.flat(), back: [] }
      })
      unwritten.value = null
    } catch (error) {
      if (error instanceof Refused) {
        refuse(error)
        unwritten.value = null
        return
      }
      pending = [...waiting, ...pending]
      unwritten.value = sayStore(error)
      retry ??= setTimeout(() => void writePending(), RETRY)
    }
  }

  /**
   * Edits the job; one call is one step of undo, called `label` ("Rename outlet"). Resolves to false when the edit does
   * not fit the job, which `refusal` then explains.
   */
  async function edit(label: string, recipe: (draft: Draft<Job>) => void, { undoable = true } = {}): Promise<boolean> {
    let patches: { forward: Patch[]; back: Patch[] }
    refusal.value = null
    try {
      if (pending.length) await writePending()
      if (pending.length) throw new Error(unwritten.value ?? '')
      patches = await write(stored => {
        const [next, forward, back] = produceWithPatches(stored, recipe)
        return { job: next, forward, back }
      })
    } catch (error) {
      if (error instanceof Refused) {
        refuse(error)
        return false
      }
      // the disk's failure, or the recipe's own: that would fail again here, and is not caught
      const [next, forward, back] = produceWithPatches(job.value, recipe)
      const refused = refusalOf(next, forward)
      if (refused) {
        refuse(new Refused(refused))
        return false
      }
      hold(forward, error)
      patches = { forward, back }
    }
    if (!undoable || patches.forward.length === 0) return true
    undoStack.value = [...undoStack.value.slice(-MOST_UNDO + 1), { label, ...patches }]
    redoStack.value = []
    return true
  }

  /**
   * Adds a copy of an outlet from elsewhere, under a name that no other has; its id, or null where it does not fit the
   * job.
   */
  async function addOutlet(made: Omit<Outlet, 'id'>, label: string): Promise<string | null> {
    const id = crypto.randomUUID()
    const taken = outlets.value.map(other => other.name)
    const name = taken.includes(made.name) ? copyName(made.name, taken) : made.name
    const steps = made.steps.map(step => ({ ...step, id: crypto.randomUUID() }))
    const kept = await edit(label, draft => {
      draft.outlets[id] = { ...made, id, name, steps }
      draft.outletOrder.push(id)
    })
    return kept ? id : null
  }

  /** Takes an outlet away; what it poured stays until it is removed by itself. */
  async function removeOutlet(id: string): Promise<void> {
    await edit('Remove outlet', draft => {
      Reflect.deleteProperty(draft.outlets, id)
      draft.outletOrder = draft.outletOrder.filter(other => other !== id)
    })
  }

  /** Gives sources new names; that of a scene is its own name as well. */
  async function renameSources(names: ReadonlyMap<string, string>): Promise<void> {
    await edit(names.size === 1 ? 'Rename source' : 'Rename sources', draft => {
      for (const [id, name] of names) {
        const source = draft.sources[id]
        if (!source) continue
        source.name = name
        if (!source.scene || source.span) continue
        source.scene.name = name
        source.facts = factsOfScene(current(source.scene))
      }
    })
  }

  async function removeSources(ids: ReadonlySet<string>): Promise<void> {
    await edit(ids.size === 1 ? 'Remove source' : `Remove ${ids.size} sources`, draft => {
      for (const id of ids) Reflect.deleteProperty(draft.sources, id)
      draft.sourceOrder = draft.sourceOrder.filter(id => !ids.has(id))
    })
  }

  /** False when another tab has removed what this edit was about: there is nothing left to take back. */
  async function apply(patches: Patch[]): Promise<boolean> {
    try {
      await write(stored => ({ job: applyPatches(stored, patches), forward: patches, back: [] }))
      return true
    } catch (error) {
      if (!(error instanceof Dexie.DexieError)) return false
      hold(patches, error)
      return true
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

  /** Opens the stored job as far as it can be; what cannot is set aside. Null where none is stored. */
  async function readStored(): Promise<{ revision: number; job: Job } | null> {
    const row = await database.jobs.get(jobId)
    if (!row) return null
    const { job: opened, aside } = openJob(row.job, jobId, UNTITLED)
    const at = Number.isSafeInteger(row.revision) ? row.revision : 0
    if (aside.length === 0) return { revision: at, job: opened }
    const mended = { id: jobId, revision: at + 1, job: opened }
    await database.transaction('rw', database.jobs, database.aside, async () => {
      await database.aside.bulkAdd(aside.map(each => ({ ...each, at: Date.now(), table: 'jobs' })))
      await database.jobs.put(mended)
    })
    return mended
  }

  /** Opens the stored job, or begins one; then follows what other tabs write. Returns whether it is new. */
  async function open(): Promise<boolean> {
    await setAsideDamaged()
    // a job that was removed in another tab is not begun anew under its id while there are others
    if (!(await database.jobs.get(jobId))) {
      jobId = (await database.jobs.toCollection().primaryKeys())[0] ?? FIRST_JOB
      job.value = emptyJob(jobId, UNTITLED)
    }
    const row = await readStored()
    if (row) {
      take(row)
      // the board is shown at once; clearing away goes on behind it, and not beside what was set aside, which may say
      // that a file is needed
      void database.aside.count().then(async count => sweepIfAlone(count === 0))
    } else {
      lost.value = knownJob()
      // a second tab may have been quicker
      await database.jobs.add({ id: jobId, revision: 1, job: job.value }).catch(() => undefined)
      await sweepIfAlone(true)
    }
    liveQuery(() => database.jobs.get(jobId)).subscribe(next => {
      if (next) take(next)
    })
    window.addEventListener('beforeunload', event => {
      if (writing > 0 || pending.length > 0) event.preventDefault()
    })
    ready.value = true
    return !row
  }

  return {
    job,
    ready,
    sources,
    outlets,
    undoStack,
    redoStack,
    refusal,
    unwritten,
    lost,
    open,
    edit,
    addOutlet,
    removeOutlet,
    renameSources,
    removeSources,
    undo,
    redo
  }
})
