/**
 * Jobs as files: written, read again under other ids, run whole on the command line; damaged ones end in one clear
 * error.
 */
import { createHash } from 'node:crypto'
import { mkdir, mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { zipSync } from 'fflate'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { formatById } from '../../core/open/registry'
import type { FileRef } from '../../core/base/files/file'
import type { Host } from '../../core/frame/host'
import { takeIn } from '../../core/run/intake/intake'
import {
  asTemplate,
  jobText,
  JOB_ENTRY,
  mediaCheck,
  readJobFile,
  withFreshIds,
  type PackedSource
} from '../../core/run/job-file'
import { emptyJob, type Job } from '../../core/job/job'
import { newOutlet } from '../../core/job/outlet/outlet'
import { emptyReceiver } from '../../core/job/outlet/receiver'
import { encodePng } from '../../core/media/pictures/png/encode'
import { stepKindById } from '../../core/prepare/kinds'
import { newStep } from '../../core/prepare/preparation'
import { factsOfScene } from '../../core/draw/scene/as-file'
import { newElement } from '../../core/draw/scene/fresh'
import type { Look } from '../../core/draw/scene/elements/kinds'
import { starters } from '../../core/draw/scene/starters'
import { AS_FOUND } from '../../core/source/source'
import { builtCommandLine, held, runIn, type Ended } from './command-line'
import { bytesFile, damage, noise, survives, testHost } from './support'

const host = await testHost()
const text = (words: string): Uint8Array => new TextEncoder().encode(words)

const pictures = Object.fromEntries(
  [1, 2, 3].map(n => [
    `vine shade_000${n}.png`,
    encodePng(host, noise({ width: 24, height: 16, depth: 8, seed: n, runs: 0.8 }))
  ])
)

/**
 * A job of a sequence and a scene, a film and a small animation; the sequence as entries of the file or left behind.
 */
async function madeJob(): Promise<{
  job: Job
  media: Record<string, PackedSource>
  entries: Record<string, Uint8Array>
}> {
  const { found } = await takeIn(
    Object.entries(pictures).map(([name, bytes]) => bytesFile(name, bytes)),
    host
  )
  const { spec, facts } = found[0]!
  const strap = starters[0]!.make(
    { name: 'Ivo Reed', line: 'Ferns' },
    { width: 64, height: 36, rate: [25, 1], seconds: 0.2 }
  )
  const small = {
    ...newOutlet('small', formatById('apng'), 'Small'),
    steps: [newStep('s', stepKindById('scale'), { by: 50 })]
  }
  const base = { findings: [], marks: null, steps: [] }
  const rated = { ...AS_FOUND, rate: [25, 1] as [number, number], rateFrom: 'asked' as const }
  const job: Job = {
    ...emptyJob('a', 'Glasshouse screens'),
    sources: {
      vine: { ...base, id: 'vine', name: 'vine shade', facts, interpretation: rated },
      strap: { ...base, id: 'strap', name: 'strap', facts: factsOfScene(strap), interpretation: AS_FOUND, scene: strap }
    },
    sourceOrder: ['vine', 'strap'],
    outlets: { film: newOutlet('film', formatById('quicktime-png'), 'Film'), small },
    outletOrder: ['film', 'small']
  }
  const media = {
    vine: {
      format: spec.format,
      numbers: [...spec.numbers!],
      files: spec.files.map(({ path: at, size }) => ({ path: at, size, entry: `media/${at}` }))
    }
  }
  const entries = Object.fromEntries(Object.entries(pictures).map(([name, bytes]) => [`media/${name}`, bytes]))
  return { job, media, entries }
}

/** The same with the media named by their sums, and one picture changed into another that reads as well. */
async function exchanged(change: (job: Job) => unknown = () => undefined): Promise<Uint8Array> {
  const { job, media, entries } = await madeJob()
  change(job)
  const sum = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex')
  for (const file of media.vine!.files) if ('entry' in file) Object.assign(file, { sha256: sum(entries[file.entry!]!) })
  const of = (seed: number): Uint8Array => encodePng(host, noise({ width: 24, height: 16, depth: 8, seed, runs: 0.8 }))
  const was = entries['media/vine shade_0002.png']!
  const other = Array.from({ length: 400 }, (_, n) => of(100 + n)).find(bytes => bytes.length === was.length)
  if (!other) throw new Error('no other picture came out as long')
  entries['media/vine shade_0002.png'] = other
  return zipSync({ [JOB_ENTRY]: text(jobText(job, media)), ...entries })
}

async function packed(change: (job: Job) => Job = job => job, withMedia = true): Promise<Uint8Array> {
  const { job, media, entries } = await madeJob()
  return zipSync({ [JOB_ENTRY]: text(jobText(change(job), media)), ...(withMedia ? entries : {}) })
}

describe('a job as a file', () => {
  test('comes back as it was, with its files', async () => {
    const { job } = await madeJob()
    const read = await readJobFile(bytesFile('screens.pour', await packed()), host, 'b')
    expect(read.aside).toEqual([])
    expect(read.job).toEqual({ ...job, id: 'b' })
    expect(read.media.get('vine')!.files.map(file => file.path)).toEqual(Object.keys(pictures))
  })

  test('without its media it is the job all the same, and says whose files are missing', async () => {
    const read = await readJobFile(bytesFile('screens.pour', await packed(undefined, false)), host, 'b')
    expect(read.job.sourceOrder).toEqual(['vine', 'strap'])
    expect([...read.media.keys()]).toEqual([])
  })

  test('what of it does not fit is left out and named', async () => {
    const broken = (job: Job): Job => ({
      ...job,
      outlets: { ...job.outlets, small: { ...job.outlets.small!, digits: 0.5 } }
    })
    const read = await readJobFile(bytesFile('screens.pour', await packed(broken)), host, 'b')
    expect(read.aside.length).toBeGreaterThan(0)
    expect(read.job.outletOrder).toContain('film')
  })

  test('under fresh ids it can lie beside itself; steps that look at another source follow it', async () => {
    const { job } = await madeJob()
    const looks = newStep('x', stepKindById('matte-from'), { matte: 'vine' })
    job.sources.strap!.steps = [looks]
    job.waived = { 'vine:film': ['rate'] }
    let n = 0
    const { job: copy, sources } = withFreshIds(job, () => `fresh ${++n}`)
    expect(Object.keys(copy.sources)).toEqual([...sources.values()])
    expect(copy.sourceOrder).toEqual([...sources.values()])
    expect(copy.sources[sources.get('strap')!]!.steps[0]!.settings.matte).toBe(sources.get('vine'))
    expect(Object.values(copy.outlets).map(({ id }) => id)).toEqual(copy.outletOrder)
    // what was waived for a cell is waived for it still
    expect(copy.waived).toEqual({ [`${sources.get('vine')}:${copy.outletOrder[0]}`]: ['rate'] })
    expect(asTemplate(job, 't', 'Next')).toMatchObject({ sourceOrder: [], waived: {} })
  })

  test.each([
    ['no ZIP', text('job'), /archive|ZIP|end of/i],
    ['a ZIP of something else', zipSync({ 'a.txt': text('a') }), /it is not a job/],
    ['no JSON', zipSync({ [JOB_ENTRY]: text('{') }), /not a complete JSON/],
    [
      'a later version',
      zipSync({ [JOB_ENTRY]: text('{"pour":"job","version":9,"job":{},"media":{}}') }),
      /later version/
    ]
  ])('%s is refused', async (_, bytes, why) => {
    await expect(readJobFile(bytesFile('a.pour', bytes), host, 'b')).rejects.toThrow(why)
  })

  test('damaged at random it is opened or refused in one clear error', async () => {
    const bytes = await packed()
    for (let n = 0; n < 150; n++) await survives(() => readJobFile(bytesFile('a.pour', damage(bytes, n)), host, 'b'))
  })
})

describe('run on the command line', async () => {
  const folder = await mkdtemp(path.join(tmpdir(), 'pour-jobs-'))
  afterAll(() => rm(folder, { recursive: true, force: true }))
  beforeAll(async () => {
    await builtCommandLine()
    await writeFile(path.join(folder, 'screens.pour'), await packed())
    await writeFile(path.join(folder, 'bare.pour'), await packed(undefined, false))
  })

  test('every cell is poured and proven', async () => {
    const { code, out, error } = await runIn(folder, ['run', 'screens.pour', '--to', 'out', '--json'])
    expect(error).toContain('4 of 4 cells')
    expect(code).toBe(0)
    const said = out
      .trim()
      .split(/\n(?=\{)/)
      .map(each => JSON.parse(each) as Record<string, unknown>)
    expect(said.map(({ source, outlet, verdict }) => [source, outlet, verdict])).toEqual([
      ['vine shade', 'Film', 'identical'],
      ['vine shade', 'Small', expect.stringMatching(/identical|faithful|visible-loss/)],
      ['strap', 'Film', 'identical'],
      ['strap', 'Small', expect.stringMatching(/identical|faithful|visible-loss/)]
    ])
    const files = (await readdir(path.join(folder, 'out'))).sort()
    expect(files).toEqual(['strap_Film.mov', 'strap_Small.png', 'vine_shade_Film.mov', 'vine_shade_Small.png'])
    const small = JSON.parse((await runIn(folder, ['inspect', 'out/strap_Small.png', '--json'])).out) as object
    expect(small).toMatchObject({ width: 32, height: 18 })
  })

  test('a medium that is not what the job was kept with fails its source, by name, and no other', async () => {
    await writeFile(path.join(folder, 'exchanged.pour'), await exchanged())
    const { code, error } = await runIn(folder, ['run', 'exchanged.pour', '--to', 'changed', '--outlets', 'Film'])
    expect(code).toBe(3)
    expect(error).toContain('vine shade_0002.png')
    expect(error).toContain('its bytes are not those that the job was kept with')
    expect(await readdir(path.join(folder, 'changed'))).toEqual(['strap_Film.mov'])
  })

  test('two media that claim one sum are not one, and a medium of several sources is read once', async () => {
    const whole = await readJobFile(bytesFile('screens.pour', await exchanged()), host, 'b')
    const files = whole.media.get('vine')!.files as Extract<FileRef, { kind: 'zipped' }>[]
    const claimed = files.map(file => ({ ...file, sha256: files[0]!.sha256! }))
    await expect(mediaCheck(host)(claimed)).rejects.toThrow('vine shade_0002.png')
    let opened = 0
    const counting: Host = { ...host, openFile: file => (opened++, host.openFile(file)) }
    const verify = mediaCheck(counting)
    await verify([files[0]!])
    await verify([files[0]!, files[0]!])
    expect(opened).toBe(1)
  })

  test('a source that a step looks at is held to its media too', async () => {
    const looks = newStep('x', stepKindById('matte-from'), { matte: 'vine' })
    const bytes = await exchanged(job => (job.sources.strap!.steps = [looks]))
    await writeFile(path.join(folder, 'looks.pour'), bytes)
    const { code, error } = await runIn(folder, ['run', 'looks.pour', '--to', 'looks', '--outlets', 'Film'])
    expect([code, error]).toEqual([3, expect.stringContaining('0 of 2 cells')])
  })

  test('what stands is replaced only where that is asked', async () => {
    const run = (...more: string[]): Promise<Ended> =>
      runIn(folder, ['run', 'screens.pour', '--to', 'twice', '--outlets', 'Film', ...more])
    expect((await run()).code).toBe(0)
    const before = await held(path.join(folder, 'twice'))
    await writeFile(path.join(folder, 'twice', 'strap_Film.mov'), 'somebody else’s')
    const again = await run()
    expect([again.code, again.error]).toEqual([5, expect.stringContaining('is there already; say --replace')])
    expect(await readFile(path.join(folder, 'twice', 'strap_Film.mov'), 'utf8')).toBe('somebody else’s')
    expect((await run('--replace')).code).toBe(0)
    expect(await held(path.join(folder, 'twice'))).toEqual(before)
  })

  test('what the job notes of its media is a hint: they are measured again', async () => {
    const lies = (job: Job): Job => {
      const source = Object.values(job.sources).find(({ scene }) => !scene)!
      const facts = { ...source.facts, frames: 2, width: 100_000, bitDepth: 16 as const }
      return { ...job, sources: { ...job.sources, [source.id]: { ...source, facts } } }
    }
    await writeFile(path.join(folder, 'lies.pour'), await packed(lies))
    const { code, error } = await runIn(folder, ['run', 'lies.pour', '--to', 'lies', '--outlets', 'Film'])
    expect(error).toMatch(/the job notes frames 2, its files hold \d+, which is poured/)
    expect(error).toMatch(/the job notes size 100000x\d+, its files hold \d+x\d+/)
    expect(code).toBe(0)
    const honest = await runIn(folder, ['run', 'screens.pour', '--to', 'honest', '--outlets', 'Film'])
    expect(honest.code).toBe(0)
    expect(await held(path.join(folder, 'lies'))).toEqual(await held(path.join(folder, 'honest')))
  })

  test.each([
    ['an order that names what is not there', (job: Job) => ({ ...job, sourceOrder: ['nobody', ...job.sourceOrder] })],
    [
      'sources that call themselves otherwise',
      (job: Job) => ({
        ...job,
        sources: Object.fromEntries(Object.entries(job.sources).map(([id, each]) => [id, { ...each, id: 'other' }]))
      })
    ]
  ])('%s is mended, and the rest is poured', async (_, change) => {
    await writeFile(path.join(folder, 'odd.pour'), await packed(change))
    const { error } = await runIn(folder, ['run', 'odd.pour', '--to', 'odd', '--outlets', 'Film', '--replace'])
    expect(error).toContain('2 of 2 cells')
    expect(error).not.toMatch(/Pour failed|undefined/)
  })

  test('files that are nested without end, or use names of the language, end in words', async () => {
    const deep = '{"archive":'.repeat(3000) + 'null' + '}'.repeat(3000)
    for (const [job, why] of [
      [`{"pour":"job","version":1,"job":{},"media":{"a":{"format":"avi","numbers":null,"files":[${deep}]}}}`, 'deeper'],
      ['{"pour":"job","version":1,"job":{"sources":{"__proto__":{"name":"x"}}},"media":{}}', '__proto__']
    ]) {
      await writeFile(path.join(folder, 'nested.pour'), zipSync({ [JOB_ENTRY]: text(job!) }))
      const { code, error } = await runIn(folder, ['run', 'nested.pour', '--to', 'nested'])
      expect([code, error]).toEqual([3, expect.stringContaining(why!)])
    }
  })

  test('some of the outlets by name; what has no files is said, and does not hold up the rest', async () => {
    const { code, out, error } = await runIn(folder, ['run', 'bare.pour', '--to', 'some', '--outlets', 'Film'])
    expect(error).toContain('not in the job; save the job with its media')
    expect(error).toContain('1 of 2 cells')
    expect([code, out.includes('strap_Film.mov')]).toEqual([3, true])
  })

  test('a scene that shows another source of the job is rendered with it; without its files it says what it lacks', async () => {
    const showing = (job: Job): Job => {
      const all = Object.values(job.sources)
      const [vine, strap] = [all.find(({ scene }) => !scene)!, all.find(({ scene }) => scene)!]
      const look: Look = {
        ...{ kind: 'clip', source: vine.id, title: vine.name, width: 16, height: 9 },
        ...{ from: 0, ends: 'repeats' }
      }
      const scene = { ...strap.scene!, elements: [newElement('vine', 'Vine', look, strap.scene!)] }
      return { ...job, sources: { ...job.sources, [strap.id]: { ...strap, scene, facts: factsOfScene(scene) } } }
    }
    await writeFile(path.join(folder, 'showing.pour'), await packed(showing))
    const whole = await runIn(folder, ['run', 'showing.pour', '--to', 'shown', '--outlets', 'Film', '--json'])
    expect([whole.code, whole.error.includes('2 of 2 cells')]).toEqual([0, true])
    const inspected = await runIn(folder, ['inspect', 'shown/strap_Film.mov', '--json'])
    expect(JSON.parse(inspected.out)).toMatchObject({ width: 64, height: 36 })
    await writeFile(path.join(folder, 'lacking.pour'), await packed(showing, false))
    const { code, error } = await runIn(folder, ['run', 'lacking.pour', '--to', 'lacking', '--outlets', 'Film'])
    expect(error).toMatch(/Vine: it shows "vine shade", and that source is not at hand/)
    expect([code, error.includes('0 of 2 cells')]).toEqual([3, true])
  })

  test('what the job’s receiver demands holds here too, and what was waived for a cell', async () => {
    const receiver = { ...emptyReceiver('Fernbrook screens'), rate: [50, 1] as [number, number] }
    const demands = (job: Job): Job => ({ ...job, receiver, waived: { 'strap:film': ['rate'] } })
    await writeFile(path.join(folder, 'strict.pour'), await packed(demands))
    const { code, error } = await runIn(folder, ['run', 'strict.pour', '--to', 'strict', '--outlets', 'Film'])
    expect(error).toContain('vine shade through Film: Fernbrook screens asks for 50 f/s; this plays at 25')
    expect(error).toContain('1 of 2 cells')
    expect([code, await readdir(path.join(folder, 'strict'))]).toEqual([5, ['strap_Film.mov']])
  })

  test.each([
    [['run', 'nothing.pour', '--to', 'x'], 3, 'cannot be read'],
    [['run', 'screens.pour'], 2, '--to is needed'],
    [['run', 'screens.pour', '--to', 'x', '--outlets', 'Who'], 2, 'no outlet of the job is called "Who"']
  ] as const)('%j ends with %i', async (args, ends, why) => {
    const { code, error } = await runIn(folder, args)
    expect([code, error]).toEqual([ends, expect.stringContaining(why)])
  })

  test('what comes into a watched folder is poured, and put aside with its report', async () => {
    const inbox = path.join(folder, 'in box')
    await mkdir(path.join(inbox, 'vine shade'), { recursive: true })
    for (const [name, bytes] of Object.entries(pictures)) await writeFile(path.join(inbox, 'vine shade', name), bytes)
    await writeFile(path.join(inbox, 'broken.png'), text('no picture'))
    const { job } = await madeJob()
    const still = { ...newOutlet('frames', formatById('png-sequence'), 'Frames') }
    const kept = { ...asTemplate(job, 't', 'Inbox'), outlets: { frames: still }, outletOrder: ['frames'] }
    await writeFile(path.join(folder, 'inbox.pour'), zipSync({ [JOB_ENTRY]: text(jobText(kept, {})) }))
    const { code, out } = await runIn(folder, [
      'watch',
      'in box',
      '--job',
      'inbox.pour',
      '--to',
      'poured',
      '--once',
      '--settle',
      '0'
    ])
    expect(out).toMatch(/broken\.png: 0 deliveries, failed \(.+\)\./)
    expect(out).toContain('vine shade: 1 delivery, done.')
    expect(code).toBe(3)
    expect(await readdir(path.join(inbox, 'done'))).toEqual(['vine shade', 'vine shade.report.json'])
    expect(await readdir(path.join(inbox, 'failed'))).toEqual(['broken.png', 'broken.png.report.json'])
    const report = JSON.parse(await readFile(path.join(inbox, 'done/vine shade.report.json'), 'utf8')) as object
    expect(report).toMatchObject({ arrival: 'vine shade', deliveries: [{ verdict: 'identical', outlet: 'Frames' }] })
    expect(await readdir(path.join(folder, 'poured'))).toEqual(['vine_shade_Frames'])
    const within = await runIn(folder, ['watch', 'in box', '--job', 'inbox.pour', '--to', 'in box/out', '--once'])
    expect([within.code, within.error]).toEqual([2, expect.stringContaining('within the watched folder')])
  })
})
