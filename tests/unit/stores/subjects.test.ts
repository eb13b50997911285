/** Subjects of the page by themselves: the round of pours, results kept, marks of a source, words of a verdict. */
import { forget, pool, visit } from './page'
import { eventually } from './eventually'
import { beforeEach, describe, expect, test, vi } from 'vitest'
import { computed, ref } from 'vue'
import { verdictOf } from '~/components/proof/verdict-words'
import { useElementActs } from '~/composables/useElementActs'
import { useMarks } from '~/composables/useMarks'
import type { StoredResult } from '~/db/database'
import { useJob } from '~/stores/job'
import { useResults } from '~/stores/pours/results'
import { useRound } from '~/stores/pours/round'
import type { CellWork } from '~/stores/pours/work'
import { useScenes } from '~/stores/scenes'
import { useSources } from '~/stores/sources'
import { cellKey } from '~~/core/job/job'
import { newOutlet } from '~~/core/job/outlet/outlet'
import { emptyScene } from '~~/core/draw/scene/fresh'
import { figure } from '~~/core/draw/scene/elements/shape'
import { formatById } from '~~/core/open/registry'
import type { AloneReport } from '~~/core/judge/proof/alone'
import type { ProofReport } from '~~/core/judge/proof/report'
import { testHost } from '../support'

vi.mock('~/stores/workshop', async () => {
  const { ref: held } = await import('vue')
  const trouble = held<string | null>(null)
  return { useWorkshop: () => ({ pool, trouble, host: () => testHost() }) }
})

// menus and keys belong to the page as it is shown
vi.mock('~/composables/useActs', () => ({ useActs: () => ({ open: () => undefined }) }))
vi.mock('~/composables/useCopies', () => ({ useCopies: () => ({ copy: null, paste: null }) }))
vi.mock('element-plus', () => ({ ElMessageBox: { prompt: () => Promise.reject(new Error('nobody answers')) } }))

beforeEach(async () => {
  await forget()
  visit()
})

const strap = (name: string, seconds = 1) => emptyScene(name, { width: 64, height: 36, rate: [25, 1], seconds })

/** A job with one scene of 25 frames. */
async function withScene(): Promise<string> {
  await useJob().open()
  const [id] = await useScenes().add([strap('strap')], 'Make a scene')
  return id!
}

describe('marks', () => {
  test('one end gives way to the other, the whole clip is no range, and both are edits', async () => {
    const id = await withScene()
    const jobs = useJob()
    const index = ref(4)
    const marks = useMarks(
      computed(() => jobs.job.sources[id] ?? null),
      () => 25,
      index
    )
    const now = () => jobs.job.sources[id]!.marks
    await marks.mark('from')
    expect(now()).toEqual({ from: 5, to: 25 })
    index.value = 1
    await marks.mark('to')
    expect(now()).toEqual({ from: 2, to: 2 })
    index.value = 0
    await marks.mark('from')
    index.value = 24
    await marks.mark('to')
    expect(now()).toBeNull()
    await jobs.undo()
    expect(now()).toEqual({ from: 1, to: 2 })
    await marks.clearMarks()
    expect(now()).toBeNull()
  })

  test('two keys that follow each other faster than an edit is kept both count', async () => {
    const id = await withScene()
    const jobs = useJob()
    const at = ref(9)
    const source = computed(() => jobs.job.sources[id] ?? null)
    const marks = useMarks(source, () => 25, at)
    const first = marks.mark('from')
    at.value = 14
    await Promise.all([first, marks.mark('to')])
    expect(jobs.job.sources[id]!.marks).toEqual({ from: 10, to: 15 })
  })

  test('without a source or its frames nothing is marked', async () => {
    await withScene()
    const none = useMarks(ref(null), () => 25, ref(3))
    await none.mark('from')
    await none.clearMarks()
    await none.keepSpan()
    expect(useJob().undoStack).toHaveLength(1)
  })
})

describe('a round of pours', () => {
  test('what enters, ends and leaves adds up, and time is said only once something was done', async () => {
    const id = await withScene()
    const jobs = useJob()
    const ids = await Promise.all(
      ['a', 'b', 'c'].map(name => jobs.addOutlet(newOutlet(name, formatById('png-sequence'), name), 'Add outlet'))
    )
    const cells = ids.map(outlet => cellKey(id, outlet!))
    const work = new Map<string, CellWork>()
    const current = ref<string | null>(null)
    const line = useRound({ jobs, sources: useSources(), work, current })
    line.enter(cells)
    expect(line.round).toMatchObject({ total: 3, ended: 0, done: 0 })
    const each = line.round.effort / 3
    expect(each).toBeGreaterThan(0)
    line.begin()
    expect(line.roundLeft(line.round.since + 1000)).toBeNull()
    line.end(cells[0]!)
    expect(line.round.done).toBeCloseTo(each)
    // one of three took ten seconds
    expect(line.roundLeft(line.round.since + 10_000)).toBeCloseTo(20, 0)
    current.value = cells[1]!
    work.set(cells[1]!, { state: 'pouring', done: 12, total: 25, started: 0 })
    expect(line.roundLeft(line.round.since + 10_000)!).toBeLessThan(20)
    line.leave(cells[2]!)
    expect(line.round.total).toBe(2)
    expect(line.round.effort).toBeCloseTo(2 * each)
    line.clear()
    expect(line.round).toMatchObject({ total: 0, ended: 0, effort: 0, done: 0 })
  })
})

describe('results', () => {
  const row = (id: string, cell: string, at: number): StoredResult =>
    ({ id, cell, at, fileName: `${id}.png`, bytes: 3, parts: 1 }) as StoredResult

  test('the newest of a cell is shown; once it is gone, the one before', () => {
    const { results, latest, takeResult } = useResults()
    takeResult('old', row('old', 'a b', 1))
    takeResult('new', row('new', 'a b', 2))
    takeResult('late', row('late', 'a b', 1.5))
    takeResult('other', row('other', 'c d', 9))
    expect(latest.get('a b')?.id).toBe('new')
    takeResult('new', null)
    expect(latest.get('a b')?.id).toBe('late')
    takeResult('late', null)
    takeResult('old', null)
    takeResult('never there', null)
    expect([latest.has('a b'), results.value.map(({ id }) => id)]).toEqual([false, ['other']])
  })

  test('one whose bytes are not in the store is told, once', async () => {
    const { gone, takeResult } = useResults()
    takeResult('lost', row('lost', 'a b', 1))
    takeResult('lost', row('lost', 'a b', 1))
    await eventually(() => expect(gone.size).toBe(1))
    expect(gone.get('lost')).toMatch(/only 0 of its 3 bytes/)
  })
})

describe('elements as wholes', () => {
  test('each gets a name and a place of its own, is shown where it is there, and can be taken away', async () => {
    const scene = ref(strap('strap', 2))
    const opened = ref<string | null>(null)
    const index = ref(0)
    const labels: string[] = []
    const edit = (label: string, change: (now: typeof scene.value) => void): Promise<void> => {
      labels.push(label)
      change(scene.value)
      return Promise.resolve()
    }
    const acts = useElementActs({ scene, opened, index, edit })
    await acts.place(figure('star', 8, 8))
    const first = opened.value!
    expect(index.value).toBeGreaterThan(0)
    await acts.place(figure('star', 8, 8))
    const [front, back] = scene.value.elements
    expect(front!.name).toBe('Star 2')
    expect(back!.id).toBe(first)
    expect([front!.x, front!.y]).not.toEqual([back!.x, back!.y])
    await acts.move(first, -1)
    expect(scene.value.elements[0]!.id).toBe(first)
    await acts.takeAway(front!.id)
    expect(scene.value.elements.map(({ id }) => id)).toEqual([first])
    expect(opened.value).toBeNull()
    expect(labels).toEqual(['Add an element', 'Add an element', 'Change the order', 'Remove an element'])
  })
})

describe('the words of a verdict', () => {
  const report = (more: Partial<ProofReport>): ProofReport =>
    ({
      verdict: 'identical',
      title: '',
      sentence: 'All is as it was.',
      reader: { name: 'Pour’s own reader', independent: true },
      ...more
    }) as ProofReport

  test('an own title comes before that of its kind; a reader that is not independent is named', () => {
    expect(verdictOf(report({}), null)).toEqual({
      kind: 'identical',
      title: 'Transparency survives: identical',
      sign: 'proven',
      sentence: 'All is as it was.'
    })
    const own = report({ verdict: 'broken', title: 'Alpha is upside down', reader: { name: 'us', independent: false } })
    expect(verdictOf(own, null)).toMatchObject({
      title: 'Alpha is upside down',
      sign: 'broken',
      sentence: 'All is as it was. Read back by us.'
    })
  })

  test('a file by itself is never called proven where it does not say what it is', () => {
    const alone = (agrees: AloneReport['agrees']): AloneReport => ({ agrees, sentence: 'So.' }) as AloneReport
    const signs = (['yes', 'no', 'unsaid', 'unsure'] as const).map(agrees => verdictOf(null, alone(agrees))!.sign)
    expect(signs).toEqual(['proven', 'broken', 'lossy', 'lossy'])
    expect(verdictOf(null, null)).toBeNull()
  })
})
