/** What the page does with files: brings in, looks, pours, proves, hands over, checks, watches; and does again. */
import { asHandle, asked, build, forget, localStorage, MemoryFolder, pool, room, visit } from './page'
import { eventually } from './eventually'
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate'
import sharp from 'sharp'
import { keepsCodes } from '~~/core/source/source'
import { beforeEach, describe, expect, test, vi } from 'vitest'
import { database } from '~/db/database'
import type { Given } from '~/db/files'
import { useMends } from '~/composables/useMends'
import { addJobFile, jobAsFile } from '~/db/jobs'
import { keepLook, keptLook } from '~/db/looks'
import { useChecks } from '~/stores/checks'
import { useHandOver } from '~/stores/handover'
import { useJob } from '~/stores/job'
import { usePours } from '~/stores/pours'
import { useScenes } from '~/stores/scenes'
import { useSources } from '~/stores/sources'
import { useWatch } from '~/stores/watch'
import type { Estimate } from '~~/core/run/delivery/estimate'
import { formatById } from '~~/core/open/registry'
import { specKey } from '~~/core/source/identity'
import type { FormatId } from '~~/core/open/rows'
import { cellKey } from '~~/core/job/job'
import { newOutlet } from '~~/core/job/outlet/outlet'
import { stepKindById } from '~~/core/prepare/kinds'
import { newStep } from '~~/core/prepare/preparation'
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

/** A soft bar that moves: straight, 16×12. */
async function picture(at: number, red = 200, profile = 'srgb'): Promise<Uint8Array<ArrayBuffer>> {
  const data = new Uint8Array(16 * 12 * 4)
  for (let y = 0; y < 12; y++)
    for (let x = 0; x < 16; x++) data.set([red, 90, 40, Math.max(0, 255 - 40 * Math.abs(x - 3 - at))], (y * 16 + x) * 4)
  const drawn = sharp(data, { raw: { width: 16, height: 12, channels: 4 } })
  return new Uint8Array(await (profile === 'srgb' ? drawn : drawn.withIccProfile(profile)).png().toBuffer())
}

const sequence = async (name = 'strap', frames = 3, profile = 'srgb'): Promise<Given[]> =>
  Promise.all(
    Array.from({ length: frames }, async (_, at) => ({
      path: `${name}/${name}_${String(at + 1).padStart(4, '0')}.png`,
      file: new Blob([await picture(at, 200, profile)]),
      handle: null
    }))
  )

/** Waits until a source was looked at as it is now: the rate that was given is no longer missed. */
const looked = (id: string): Promise<void> =>
  eventually(() => {
    const found = useSources().examinations.get(id)
    expect(found).toBeDefined()
    expect(found!.findings.map(finding => finding.id)).not.toContain('no-rate')
  })

/** A job with a source of three pictures at 25 and an outlet; both ids and the cell. */
async function begun(format: FormatId = 'png-sequence'): Promise<{ source: string; outlet: string; cell: string }> {
  await useJob().open()
  const [source] = await useSources().bringIn(await sequence())
  await useJob().edit('Give a rate', draft => {
    Object.assign(draft.sources[source!]!.interpretation, { rate: [25, 1], rateFrom: 'asked' })
  })
  const outlet = (await useJob().addOutlet(newOutlet('new', formatById(format), 'Out'), 'Add outlet'))!
  await looked(source!)
  return { source: source!, outlet, cell: cellKey(source!, outlet) }
}

async function poured(cell: string): Promise<void> {
  const pours = usePours()
  const before = pours.latest.get(cell)?.id
  pours.start([cell])
  await eventually(() => {
    const work = pours.work.get(cell)
    if (work && 'sentence' in work) throw new Error(work.sentence)
    expect(work).toBeUndefined()
    // a cell that is only just leaving the queue is not taken into it
    expect(pours.current).toBeNull()
    expect(pours.latest.get(cell)?.report).toBeTruthy()
    expect(pours.latest.get(cell)?.id).not.toBe(before)
  })
}

describe('a colour that not every format can name', () => {
  test('is decided on once, survives a visit, and is asked of anew for another colour', async () => {
    await useJob().open()
    const [id] = await useSources().bringIn(await sequence('strap', 3, 'p3'))
    await useJob().edit('Give a rate', draft => {
      Object.assign(draft.sources[id!]!.interpretation, { rate: [25, 1], rateFrom: 'asked' })
    })
    await looked(id!)
    const source = () => useJob().job.sources[id!]!
    const wide = () =>
      useSources()
        .standingOf(source())
        .find(({ finding }) => finding.id === 'wide-colour')!
    expect(wide()).toMatchObject({ state: 'stands', finding: { orElse: { id: 'keep-codes' } } })
    await useMends().mend(id!, wide().finding, wide().finding.orElse)
    expect(wide()).toMatchObject({ state: 'mended', finding: { mend: { id: 'keep-codes' } } })
    const kept = () => keepsCodes(source().interpretation, useSources().foundFactsOf(source()).tags)
    expect(kept()).toBe(true)
    visit()
    await useJob().open()
    await looked(id!)
    expect(kept()).toBe(true)
    await useMends().takeBack(id!, wide().finding)
    expect([wide().state, kept()]).toEqual(['stands', false])
    await useMends().mend(id!, wide().finding, wide().finding.orElse)
    await useJob().undo()
    expect(kept()).toBe(false)
    await useJob().redo()
    await useJob().edit('Take other tags', draft => void (draft.sources[id!]!.interpretation.colour = 'BT.2020'))
    expect(kept()).toBe(false)
  })
})

describe('sources', () => {
  test('pictures come in as one clip, whose rate is asked for; what is no picture is told and not kept', async () => {
    const sources = useSources()
    await useJob().open()
    const strange = { path: 'strap/thing.bin', file: new Blob(['no picture']), handle: null }
    const ids = await sources.bringIn([...(await sequence()), strange])
    expect(ids).toHaveLength(1)
    expect(sources.asking).toEqual(ids)
    expect(useJob().job.sources[ids[0]!]).toMatchObject({ name: 'strap', facts: { frames: 3, width: 16, rate: null } })
    expect(sources.left.map(({ sentence }) => sentence).join(' ')).toContain('thing.bin')
    expect(await database.files.count()).toBe(3)
    expect(sources.intake).toBeNull()
  })

  test('one that there is no room for is told, and leaves nothing behind', async () => {
    await useJob().open()
    room.bytes = 10
    expect(await useSources().bringIn(await sequence())).toEqual([])
    expect(useSources().left[0]!.sentence).toContain('room')
    expect(useJob().sources).toEqual([])
    expect(await database.sources.count()).toBe(0)
  })

  test('it is looked at once, and stands so at the next visit; another build looks again', async () => {
    const { source } = await begun()
    const before = useSources().examinations.get(source)!
    expect(useSources().modeOf(useJob().job.sources[source]!)?.mode).toBe('straight')
    visit()
    await useJob().open()
    const second = useSources()
    await eventually(() => expect(second.examinations.has(source)).toBe(true))
    expect(second.examinations.get(source)).toEqual(JSON.parse(JSON.stringify(before)))
    expect(asked).toEqual([])
    visit()
    build.id = 'two'
    await useJob().open()
    await eventually(() => expect(useSources().examinations.has(source)).toBe(true))
    expect(asked).not.toEqual([])
  })

  test('one that was begun twice and never ended waits for a hand', async () => {
    const { source } = await begun()
    const key = (await database.examinations.get(source))!.key
    await database.examinations.clear()
    await database.tries.put({ sourceId: source, key, tries: 2 })
    visit()
    await useJob().open()
    const sources = useSources()
    await eventually(() => expect(sources.unexamined.has(source)).toBe(true))
    expect(sources.examinations.has(source)).toBe(false)
    await sources.lookAgain(source)
    await eventually(() => expect(sources.examinations.has(source)).toBe(true))
    expect(sources.unexamined.has(source)).toBe(false)
  })

  test('files that the browser has lost fail their source in words, and no other', async () => {
    const { source } = await begun()
    const [other] = await useSources().bringIn(await sequence('wipe'))
    const row = (await database.sources.get(source))!
    await database.files.bulkDelete(row.files.flatMap(file => (file.kind === 'stored' ? [file.fileId] : [])))
    visit()
    await useJob().open()
    const sources = useSources()
    await eventually(() => expect(sources.states.get(source)?.state).toBe('failed'))
    expect((sources.states.get(source) as { sentence: string }).sentence).toContain('Bring it in again')
    await eventually(() => expect(sources.states.get(other!)?.state).toBe('ready'))
  })

  test('a mode given by hand is another key: what was made of it is out of date, and undo brings it back', async () => {
    const { source, cell } = await begun()
    await usePours().open()
    await poured(cell)
    const result = usePours().latest.get(cell)!
    expect(usePours().outOfDate(result)).toBe(false)
    await useJob().edit('Take as', draft => {
      draft.sources[source]!.interpretation.alpha = { mode: 'premultiplied', matte: '#000000' }
    })
    expect(useSources().originOf(source).byHand).toBe(true)
    expect(usePours().outOfDate(result)).toBe(true)
    await useJob().undo()
    expect(usePours().outOfDate(result)).toBe(false)
  })

  test('a picture whose pixels cannot be read stops its clip until it is decided about, and can be decided again', async () => {
    await useJob().open()
    await usePours().open()
    const given = await sequence('strap', 4)
    const broken = new Uint8Array(await given[1]!.file.arrayBuffer())
    broken.fill(7, broken.length - 30, broken.length - 20)
    given[1] = { ...given[1]!, file: new Blob([broken]) }
    const [id] = await useSources().bringIn(given)
    await useJob().edit('Rate', draft => void (draft.sources[id!]!.interpretation.rate = [25, 1]))
    const outlet = (await useJob().addOutlet(newOutlet('new', formatById('quicktime-animation'), 'Out'), 'Add outlet'))!
    const cell = cellKey(id!, outlet)
    await looked(id!)
    const source = () => useJob().job.sources[id!]!
    const damage = () =>
      useSources()
        .standingOf(source())
        .find(({ finding }) => finding.id === 'unreadable-frames')!
    const stopped = (): void => expect(usePours().problemsOf(cell).join(' ')).toMatch(/0002\.png.*leave it out/)
    stopped()
    expect(useSources().factsOf(source()).frames).toBe(4)
    await useMends().mend(id!, damage().finding, damage().finding.orElse)
    expect(usePours().problemsOf(cell)).toEqual([])
    expect(useSources().factsOf(source()).frames).toBe(3)
    await eventually(() => expect(damage()).toMatchObject({ state: 'mended' }))
    await looked(id!)
    await poured(cell)
    // something of the source is not in it, whatever its codec says
    expect(usePours().latest.get(cell)).toMatchObject({ report: { verdict: 'visible-loss' } })
    await useMends().takeBack(id!, damage().finding)
    await eventually(stopped)
    await useMends().mend(id!, damage().finding)
    await eventually(() => expect(usePours().problemsOf(cell)).toEqual([]))
    expect(useSources().factsOf(source()).frames).toBe(4)
    await poured(cell)
    expect(usePours().latest.get(cell)).toMatchObject({ report: { verdict: 'visible-loss' } })
  })

  test('spans are sources of their own over the same files', async () => {
    const { source } = await begun()
    await useSources().keepSpans(useJob().job.sources[source]!, [
      { name: 'in', from: 1, to: 2 },
      { name: 'out', from: 3, to: 3 }
    ])
    expect(useJob().sources.map(({ name }) => name)).toEqual(['strap', 'strap in', 'strap out'])
    const [, span] = useJob().sources
    expect(useSources().factsOf(span!).frames).toBe(2)
    await eventually(() => expect(useSources().states.get(span!.id)?.state).toBe('ready'))
    expect(await database.files.count()).toBe(3)
  })
})

describe('pours', () => {
  test('a cell is poured and proven; the next visit finds it; again under the same name it replaces', async () => {
    const { cell } = await begun('quicktime-animation')
    const pours = usePours()
    await pours.open()
    expect(pours.canPour(cell)).toBe(true)
    await poured(cell)
    expect(pours.latest.get(cell)).toMatchObject({ report: { verdict: 'identical' } })
    expect(await database.runs.count()).toBe(0)
    const first = pours.latest.get(cell)!
    await poured(cell)
    await eventually(() => expect(pours.results).toHaveLength(1))
    expect(pours.results[0]!.fileName).toBe(first.fileName)
    expect(pours.results[0]!.id).not.toBe(first.id)
    visit()
    await useJob().open()
    await usePours().open()
    await eventually(() => expect(usePours().latest.get(cell)?.report).toBeTruthy())
    await eventually(() => expect(useSources().examinations.size).toBe(1))
    expect(usePours().outOfDate(usePours().latest.get(cell)!)).toBe(false)
  })

  test('keep-both stands beside the former under another name; stop refuses', async () => {
    const { cell, outlet } = await begun('quicktime-animation')
    const pours = usePours()
    await pours.open()
    await useJob().edit('Keep both', draft => void (draft.outlets[outlet]!.existing = 'keep-both'))
    await poured(cell)
    await poured(cell)
    expect(new Set(pours.results.map(({ fileName }) => fileName)).size).toBe(2)
    await useJob().edit('Stop', draft => void (draft.outlets[outlet]!.existing = 'stop'))
    pours.start([cell])
    await eventually(() => expect(pours.work.get(cell)?.state).toBe('failed'))
    expect((pours.work.get(cell) as { sentence: string }).sentence).toContain('was poured already')
  })

  test('a run that an earlier visit never ended is offered, and its parts are gone', async () => {
    const { cell } = await begun()
    const jobId = useJob().job.id
    await database.runs.put({ cell, jobId, resultId: 'cut', done: 1, total: 3, tab: 'gone' })
    await database.parts.put({ resultId: 'cut', index: 0, blob: new Blob(['half']) })
    visit()
    await useJob().open()
    await usePours().open()
    expect(usePours().interrupted.map(run => run.cell)).toEqual([cell])
    expect(await database.parts.count()).toBe(0)
  })

  test('what is asked for while the job still opens is not taken for a run that was cut off', async () => {
    const { cell } = await begun()
    const pours = usePours()
    pours.pause()
    pours.start([cell])
    await eventually(async () => expect(await database.runs.count()).toBe(1))
    await pours.open()
    expect(pours.interrupted).toEqual([])
    expect(await database.runs.count()).toBe(1)
    expect(pours.work.get(cell)?.state).toBe('waiting')
    pours.cancel()
  })

  test('bytes that are gone are said to be gone', async () => {
    const { cell } = await begun('quicktime-animation')
    await usePours().open()
    await poured(cell)
    await database.parts.clear()
    visit()
    await useJob().open()
    await usePours().open()
    await eventually(() => expect(usePours().gone.size).toBe(1))
    expect([...usePours().gone.values()][0]).toContain('only 0 of its')
  })

  test('cancelled while they wait: nothing is poured, and nothing is offered again', async () => {
    const { cell } = await begun()
    const pours = usePours()
    await pours.open()
    pours.pause()
    pours.start([cell])
    expect(pours.waiting).toBe(1)
    pours.cancel()
    expect(pours.work.get(cell)).toBeUndefined()
    expect(pours.paused).toBe(false)
    await eventually(async () => expect(await database.runs.count()).toBe(0))
    expect(pours.results).toEqual([])
  })

  test('into a folder: pictures loose, a former longer run leaves none of its own behind, others stay', async () => {
    const { cell, source } = await begun()
    const pours = usePours()
    await pours.open()
    const folder = new MemoryFolder('out')
    const into = async (): Promise<string[]> => {
      pours.start([cell], asHandle(folder))
      await eventually(() => expect(pours.work.get(cell)?.state).toBe('waiting'))
      await eventually(() => expect(pours.work.get(cell)).toBeUndefined())
      return folder.list()
    }
    const three = await into()
    expect(three.filter(path => path.endsWith('.png'))).toHaveLength(3)
    const within = [...folder.entries.values()][0] as MemoryFolder
    within.put('notes.txt', new Uint8Array(1))
    await useJob().edit('Cut', draft => {
      draft.sources[source]!.steps = [{ id: 'r', kind: 'range', on: true, settings: { from: 1, to: 2 } }] as never
    })
    const two = await into()
    expect(two.filter(path => path.endsWith('.png'))).toHaveLength(2)
    expect(two.some(path => path.endsWith('notes.txt'))).toBe(true)
  })

  test('a scene is not out of date for having been stored', async () => {
    await useJob().open()
    await usePours().open()
    const [id] = await useScenes().add(
      [emptyScene('Clear', { width: 16, height: 12, rate: [25, 1], seconds: 0.2 })],
      'Add'
    )
    const outlet = (await useJob().addOutlet(newOutlet('new', formatById('png-sequence'), 'Out'), 'Add outlet'))!
    const cell = cellKey(id!, outlet)
    await eventually(() => expect(useSources().examinations.has(id!)).toBe(true))
    await poured(cell)
    const row = (await database.jobs.get(useJob().job.id))!
    // as another program might have written it: keys in another order
    const scene = Object.fromEntries(Object.entries(row.job.sources[id!]!.scene!).reverse())
    const sources = { ...row.job.sources, [id!]: { ...row.job.sources[id!]!, scene } }
    await database.jobs.put({ ...row, revision: row.revision + 1, job: { ...row.job, sources } as never })
    visit()
    await useJob().open()
    await usePours().open()
    await eventually(() => expect(useSources().examinations.has(id!)).toBe(true))
    expect(usePours().outOfDate(usePours().latest.get(cell)!)).toBe(false)
  })
})

describe('a job as a file', () => {
  /** Saves the open job with its media, and opens it in a browser that was never here. */
  async function carried(change: (file: Blob) => Promise<Blob> = file => Promise.resolve(file)): Promise<string[]> {
    const file = await change(await jobAsFile(useJob().job, true))
    await forget()
    visit()
    const { id, told } = await addJobFile(new File([file], 'glasshouse.pour'), await testHost())
    localStorage.setItem('pour-open-job', id)
    visit()
    await useJob().open()
    return told
  }

  test('takes what was found along: nothing is looked at again, in a browser that never saw it', async () => {
    const { source, cell } = await begun('quicktime-animation')
    await useJob().edit('Prepare', draft => {
      draft.sources[source]!.steps = [newStep('s', stepKindById('scale'), { by: 50 })]
    })
    const estimate = async (of: string): Promise<Estimate> => {
      const asking = usePours().estimate(of)
      await eventually(() => expect(usePours().estimateOf(of)?.quality).toBeTruthy())
      await asking
      return usePours().estimateOf(of)!
    }
    const before = await estimate(cell)
    const examined = useSources().examinations.get(source)!
    // findings of the prepared clip are read once the hand has rested
    await eventually(async () => {
      // what others left behind may still come in
      const looks = (await database.looks.toArray()).filter(({ of }) => of?.includes(source))
      expect(new Set(looks.map(({ kind }) => kind))).toEqual(new Set(['findings', 'estimate']))
      // what was first kept of an estimate is its size alone
      expect(looks.some(({ kind, value }) => kind === 'estimate' && (value as Estimate).quality)).toBe(true)
    })
    // as the board and the bench keep them
    const small = { width: 2, height: 2, pixels: new Uint8ClampedArray(16).fill(7) }
    const columns = [{ clear: 0.5, partial: 0.25, solid: 0.25 }]
    const keyOf = (id: string): string => specKey(useSources().specOf(useJob().job.sources[id]!)!)
    await keepLook('thumb', `${keyOf(source)} 0 64`, small)
    await keepLook('ribbon', `${keyOf(source)} 3`, columns)
    expect(await carried()).toEqual([])
    const [again] = useJob().sources
    await eventually(() => expect(useSources().examinations.has(again!.id)).toBe(true))
    expect(await keptLook('thumb', `${keyOf(again!.id)} 0 64`)).toEqual(small)
    expect(await keptLook('ribbon', `${keyOf(again!.id)} 3`)).toEqual(columns)
    expect(again!.id).not.toBe(source)
    await eventually(() => expect(useSources().examinations.has(again!.id)).toBe(true))
    expect(useSources().examinations.get(again!.id)).toEqual(JSON.parse(JSON.stringify(examined)))
    expect(await estimate(cellKey(again!.id, useJob().outlets[0]!.id))).toEqual(JSON.parse(JSON.stringify(before)))
    expect(asked).toEqual([])
  })

  test('by other code it is looked at again', async () => {
    await begun()
    const file = await jobAsFile(useJob().job, true)
    await forget()
    build.id = 'two'
    const { id } = await addJobFile(new File([file], 'glasshouse.pour'), await testHost())
    expect(await database.examinations.count()).toBe(0)
    expect((await database.jobs.get(id))!.job.sourceOrder).toHaveLength(1)
  })

  test('with a picture that is not the one it was kept with, that source is told and has no files', async () => {
    await begun()
    const told = await carried(async file => {
      const entries = unzipSync(new Uint8Array(await file.arrayBuffer()))
      const name = Object.keys(entries).find(each => each.endsWith('_0002.png'))!
      const bytes = entries[name]!
      bytes[bytes.length - 20]! ^= 1
      return new Blob([zipSync(entries) as Uint8Array<ArrayBuffer>])
    })
    expect(told.join(' ')).toContain('strap_0002.png')
    expect(told.join(' ')).toContain('not those that the job was kept with')
    await eventually(() => expect(useSources().states.get(useJob().sources[0]!.id)?.state).toBe('failed'))
    expect(await database.examinations.count()).toBe(0)
  })

  test('looks that are damaged or made up are left out, and the job opens', async () => {
    await begun()
    const told = await carried(async file => {
      const entries = unzipSync(new Uint8Array(await file.arrayBuffer()))
      const looked = JSON.parse(strFromU8(entries['looked.json']!)) as { examinations: object; looks: object[] }
      looked.looks = [{ kind: 'estimate', of: 'a', value: { bytes: 'many' } }, { kind: 'else' }]
      for (const each of Object.values(looked.examinations)) (each as { examination: object }).examination = {}
      entries['looked.json'] = strToU8(JSON.stringify(looked))
      return new Blob([zipSync(entries) as Uint8Array<ArrayBuffer>])
    })
    expect(told).toEqual([])
    await eventually(() => expect(useSources().examinations.size).toBe(1))
    expect(asked).not.toEqual([])
  })
})

describe('files from outside', () => {
  test('are judged alone and against a source, kept, and found at the next visit', async () => {
    const { source } = await begun()
    const checks = useChecks()
    checks.open()
    const id = await checks.add(await sequence('back'), source)
    expect(id).not.toBeNull()
    await eventually(() => expect(checks.checks).toHaveLength(1))
    expect(checks.checks[0]).toMatchObject({
      name: 'back',
      against: { name: 'strap', report: { verdict: 'identical' } }
    })
    expect(checks.running).toBeNull()
    visit()
    await useJob().open()
    useChecks().open()
    await eventually(() => expect(useChecks().checks.map(check => check.id)).toEqual([id]))
    await useChecks().forget(id!)
    await eventually(() => expect(useChecks().checks).toEqual([]))
  })

  test('that are none of ours are said to be none, and nothing is kept', async () => {
    await useJob().open()
    const nothing = [{ path: 'thing.bin', file: new Blob(['no picture']), handle: null }]
    await expect(useChecks().add(nothing, null)).rejects.toThrow('thing.bin')
    expect(await database.files.count()).toBe(0)
  })
})

describe('hand-over', () => {
  test('goes into a folder under a name of its own, and is found unchanged; a changed film is found', async () => {
    const { cell } = await begun('quicktime-animation')
    await usePours().open()
    await poured(cell)
    const handOver = useHandOver()
    const folder = new MemoryFolder('outbox')
    const result = usePours().latest.get(cell)!
    const name = await handOver.saved(asHandle(folder), [result])
    expect(await handOver.saved(asHandle(folder), [result])).not.toBe(name)
    expect(handOver.running).toBeNull()
    const saved = folder.entries.get(name!) as MemoryFolder
    const given = async (of: MemoryFolder, within = ''): Promise<Given[]> =>
      (
        await Promise.all(
          [...of.entries.values()].map(async each =>
            each instanceof MemoryFolder
              ? given(each, `${within}${each.name}/`)
              : [{ path: `${within}${each.name}`, file: (await each.getFile()) as Blob, handle: null }]
          )
        )
      ).flat()
    await handOver.check(await given(saved, 'received/'))
    expect(handOver.checked!.sentence).toBe('Nothing has changed.')
    const film = saved.list().find(path => path.endsWith('.mov'))!
    const at = film.split('/')
    const lies = at.slice(0, -1).reduce((now, part) => now.entries.get(part) as MemoryFolder, saved)
    const bytes = new Uint8Array(await (await (await lies.getFileHandle(at.at(-1)!)).getFile()).arrayBuffer())
    bytes[bytes.length >> 1]! ^= 0xff
    lies.put(at.at(-1)!, bytes)
    await handOver.check(await given(saved, 'received/'))
    expect(handOver.checked!.deliveries[0]!.condition).toBe('changed')
  })

  test('deliveries by themselves lie in one ZIP, no name twice', async () => {
    const { cell } = await begun('quicktime-animation')
    await usePours().open()
    await poured(cell)
    const result = usePours().latest.get(cell)!
    const zip = await useHandOver().deliveriesZipped([result, result])
    expect(zip!.size).toBeGreaterThan(2 * result.bytes)
  })
})

describe('a watched folder', () => {
  test('what arrives is poured, put aside with its report; a second of its name stands beside the first', async () => {
    const { outlet } = await begun('quicktime-animation')
    await usePours().open()
    await useJob().edit('Clear', draft => void (draft.outlets[outlet]!.existing = 'replace'))
    const [watch, folder] = [useWatch(), new MemoryFolder('inbox')]
    watch.settle = 0
    const arrive = async (red: number): Promise<void> => {
      const inner = new MemoryFolder('title')
      for (const at of [1, 2]) inner.put(`title_000${at}.png`, await picture(at, red))
      folder.entries.set('title', inner)
      await eventually(() => expect(folder.entries.has('title')).toBe(false))
    }
    watch.begin(asHandle(folder), [25, 1])
    await arrive(200)
    await arrive(20)
    watch.end()
    expect(watch.folder).toBeNull()
    const lies = folder.list()
    expect(lies.filter(path => path.startsWith('poured/') && path.endsWith('.mov'))).toHaveLength(2)
    expect(lies.filter(path => path.startsWith('done/') && path.endsWith('.report.json'))).toHaveLength(2)
    expect(watch.counts.failed).toBe(0)
  })

  test('a folder that is gone ends the watching with the reason', async () => {
    await useJob().open()
    const folder = new MemoryFolder('inbox')
    folder.values = async function* () {
      throw new DOMException('it is not there any more', 'InvalidStateError')
    }
    useWatch().begin(asHandle(folder), null)
    await eventually(() => expect(useWatch().stopped).toContain('inbox is not watched any more'))
    expect(useWatch().folder).toBeNull()
  })
})
