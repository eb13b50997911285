/** What the page knows of the job itself: the document, what is chosen, rows under their headings, and scenes. */
import { forget, pool, shownClasses, visit } from './page'
import { eventually } from './eventually'
import Dexie from 'dexie'
import { beforeEach, describe, expect, test, vi } from 'vitest'
import { nextTick } from 'vue'
import { database } from '~/db/database'
import { useDesk } from '~/stores/desk'
import { useJob } from '~/stores/job'
import { useRows } from '~/stores/rows'
import { useScenes } from '~/stores/scenes'
import { formatById } from '~~/core/open/registry'
import { newOutlet } from '~~/core/job/outlet/outlet'
import { emptyScene } from '~~/core/draw/scene/fresh'
import { testHost } from '../support'

vi.mock('~/stores/workshop', async () => {
  const { ref } = await import('vue')
  const trouble = ref<string | null>(null)
  return { useWorkshop: () => ({ pool, trouble, host: () => testHost() }) }
})

beforeEach(async () => {
  await forget()
  visit()
})

const strap = (name: string) => emptyScene(name, { width: 64, height: 36, rate: [25, 1], seconds: 1 })
const outlet = (name: string) => newOutlet(crypto.randomUUID(), formatById('png-sequence'), name)

describe('the job', () => {
  test('a first visit begins one, a second finds it as it was', async () => {
    expect(await useJob().open()).toBe(true)
    await useJob().edit('Rename job', draft => void (draft.name = 'Fernbrook'))
    visit()
    expect(await useJob().open()).toBe(false)
    expect(useJob().job.name).toBe('Fernbrook')
  })

  test('edits are undone and done again, each by its name; a new one forgets what was undone', async () => {
    const jobs = useJob()
    await jobs.open()
    await jobs.edit('Name it', draft => void (draft.name = 'a'))
    await jobs.edit('Name it anew', draft => void (draft.name = 'b'))
    expect(jobs.undoStack.map(({ label }) => label)).toEqual(['Name it', 'Name it anew'])
    expect(await jobs.undo()).toBeNull()
    expect(jobs.job.name).toBe('a')
    expect(await jobs.redo()).toBeNull()
    expect(jobs.job.name).toBe('b')
    await jobs.undo()
    await jobs.edit('Name it else', draft => void (draft.name = 'c'))
    expect(jobs.redoStack).toEqual([])
    expect(await jobs.redo()).toBeNull()
    expect(jobs.job.name).toBe('c')
    // what changes nothing is no step
    await jobs.edit('Nothing', () => undefined)
    expect(jobs.undoStack).toHaveLength(2)
  })

  test('an edit that the job cannot hold is refused with its reason, and nothing of it is kept', async () => {
    const jobs = useJob()
    await jobs.open()
    const id = (await jobs.addOutlet(outlet('Frames'), 'Add outlet'))!
    const kept = await jobs.edit('Number', draft => void (draft.outlets[id]!.startNumber = -7))
    expect(kept).toBe(false)
    expect(jobs.refusal!.sentence).not.toBe('')
    expect(jobs.job.outlets[id]!.startNumber).toBeGreaterThanOrEqual(0)
    expect((await database.jobs.get(jobs.job.id))!.job.outlets[id]!.startNumber).toBeGreaterThanOrEqual(0)
    const { nth } = jobs.refusal!
    await jobs.edit('Number', draft => void (draft.outlets[id]!.startNumber = -7))
    expect(jobs.refusal!.nth).toBe(nth + 1)
  })

  test('what another tab wrote stays: an edit is made to what is stored, and its undo takes back no more', async () => {
    const jobs = useJob()
    await jobs.open()
    await jobs.edit('Name it', draft => void (draft.name = 'mine'))
    const row = (await database.jobs.get(jobs.job.id))!
    const theirs = outlet('Theirs')
    const job = { ...row.job, outlets: { [theirs.id]: theirs }, outletOrder: [theirs.id] }
    await database.jobs.put({ ...row, revision: row.revision + 1, job })
    await jobs.edit('Name it anew', draft => void (draft.name = 'again'))
    expect(jobs.outlets.map(({ name }) => name)).toEqual(['Theirs'])
    await jobs.undo()
    expect(jobs.job.name).toBe('mine')
    expect(jobs.outlets.map(({ name }) => name)).toEqual(['Theirs'])
  })

  test('what a disk does not take is shown, said, and stored once it does', async () => {
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] })
    try {
      const jobs = useJob()
      await jobs.open()
      const put = vi.spyOn(database.jobs, 'put').mockImplementation(() => {
        throw new Dexie.QuotaExceededError('full')
      })
      expect(await jobs.edit('Name it', draft => void (draft.name = 'kept'))).toBe(true)
      expect(jobs.job.name).toBe('kept')
      expect(jobs.unwritten).toMatch(/room|full/)
      put.mockRestore()
      vi.advanceTimersByTime(2500)
      vi.useRealTimers()
      await eventually(() => expect(jobs.unwritten).toBeNull())
      expect((await database.jobs.get(jobs.job.id))!.job.name).toBe('kept')
    } finally {
      vi.useRealTimers()
    }
  })

  test('a store that was cleared is told, by what it held', async () => {
    const jobs = useJob()
    await jobs.open()
    await jobs.edit('Name it', draft => void (draft.name = 'Fernbrook'))
    await useScenes().add([strap('Strap')], 'Add scene')
    await database.jobs.clear()
    visit()
    expect(await useJob().open()).toBe(true)
    expect(useJob().lost).toEqual({ name: 'Fernbrook', sources: 1 })
  })

  test('outlets of one name get names apart, and steps of their own', async () => {
    const jobs = useJob()
    await jobs.open()
    const made = outlet('Web')
    const [a, b] = [await jobs.addOutlet(made, 'Add outlet'), await jobs.addOutlet(made, 'Add outlet')]
    expect(jobs.job.outlets[a!]!.name).toBe('Web')
    expect(jobs.job.outlets[b!]!.name).not.toBe('Web')
  })

  test('removing takes all of them in one step, and undo brings them back in their order', async () => {
    const jobs = useJob()
    await jobs.open()
    const ids = await useScenes().add([strap('a'), strap('b'), strap('c')], 'Add scenes')
    await jobs.removeSources(new Set([ids[0]!, ids[2]!]))
    expect(jobs.sources.map(({ name }) => name)).toEqual(['b'])
    await jobs.undo()
    expect(jobs.sources.map(({ name }) => name)).toEqual(['a', 'b', 'c'])
  })
})

describe('the desk', () => {
  test('what is chosen stands for its cells', async () => {
    const [jobs, desk] = [useJob(), useDesk()]
    await jobs.open()
    const [a, b] = await useScenes().add([strap('a'), strap('b')], 'Add')
    const [one, two] = [
      await jobs.addOutlet(outlet('One'), 'Add outlet'),
      await jobs.addOutlet(outlet('Two'), 'Add outlet')
    ]
    expect(desk.chosenCells).toEqual([])
    desk.choice = { kind: 'source', id: a! }
    expect(desk.chosenCells).toEqual([`${a}:${one}`, `${a}:${two}`])
    desk.choice = { kind: 'outlet', id: two! }
    expect(desk.chosenCells).toEqual([`${a}:${two}`, `${b}:${two}`])
    desk.choice = { kind: 'cell', sourceId: b!, outletId: one! }
    expect(desk.chosenCells).toEqual([`${b}:${one}`])
  })

  test('cells are picked and let go; the theme is kept and shown', async () => {
    const desk = useDesk()
    desk.togglePick('a:b')
    desk.togglePick('a:c')
    desk.togglePick('a:b')
    expect([...desk.picked]).toEqual(['a:c'])
    desk.theme = 'dim'
    await nextTick()
    expect(shownClasses.has('dim')).toBe(true)
    visit()
    expect(useDesk().theme).toBe('dim')
    useDesk().theme = 'light'
    await nextTick()
    expect(shownClasses.has('dim')).toBe(false)
  })
})

describe('rows', () => {
  test('found by words in any order and case; under headings; folded away', async () => {
    const [jobs, rows] = [useJob(), useRows()]
    await jobs.open()
    await useScenes().add([strap('Moth strap'), strap('Moth wipe'), { ...strap('Tall'), height: 72 }], 'Add')
    rows.sought = ' STRAP moth'
    expect(rows.shown.map(({ name }) => name)).toEqual(['Moth strap'])
    rows.sought = ''
    expect(rows.shown).toHaveLength(3)
    rows.grouping = 'size'
    const headings = () => rows.items.flatMap(item => (item.kind === 'heading' ? [item.heading] : []))
    expect(headings()).toEqual(['64×36', '64×72'])
    rows.toggleFold('64×36')
    expect(rows.shown.map(({ name }) => name)).toEqual(['Tall'])
    expect(headings()).toHaveLength(2)
    rows.toggleFold('64×36')
    expect(rows.shown).toHaveLength(3)
  })
})

describe('scenes', () => {
  test('an edit changes the scene, its name and facts, and the spans kept of it', async () => {
    const [jobs, scenes] = [useJob(), useScenes()]
    await jobs.open()
    const [id] = await scenes.add([strap('Strap')], 'Add scene')
    await jobs.edit('Keep a span', draft => {
      draft.sources.span = { ...draft.sources[id!]!, id: 'span', name: 'Strap in', span: 'in' } as never
      draft.sourceOrder.push('span')
    })
    expect(scenes.scenes.map(each => each.id)).toEqual([id])
    await scenes.edit(id!, 'Widen', scene => {
      scene.width = 128
      scene.name = 'Wide strap'
    })
    expect(jobs.job.sources[id!]).toMatchObject({ name: 'Wide strap', facts: { width: 128 } })
    expect(jobs.job.sources.span).toMatchObject({ name: 'Strap in', scene: { width: 128 }, facts: { width: 128 } })
    await jobs.undo()
    expect(jobs.job.sources.span).toMatchObject({ scene: { width: 64 }, facts: { width: 64 } })
  })

  test('a scene takes the name its source is given', async () => {
    const [jobs, scenes] = [useJob(), useScenes()]
    await jobs.open()
    const [id] = await scenes.add([strap('Strap')], 'Add scene')
    await jobs.renameSources(new Map([[id!, 'Opening']]))
    expect(jobs.job.sources[id!]).toMatchObject({ name: 'Opening', scene: { name: 'Opening' } })
  })

  test('a file that is no type face is said to be none, and none is taken', async () => {
    const [jobs, scenes, desk] = [useJob(), useScenes(), useDesk()]
    await jobs.open()
    const [id] = await scenes.add([strap('Strap')], 'Add scene')
    await scenes.takeFaces(id!, [{ path: 'broken.ttf', file: new Blob(['no face at all']) }])
    expect(desk.message).toContain('broken.ttf')
    expect(jobs.job.sources[id!]!.scene!.faces ?? []).toEqual([])
  })
})
