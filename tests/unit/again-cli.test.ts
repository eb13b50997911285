/**
 * The command line for the second time: over its last result, through links, under a former name, watched and stopped.
 */
import { spawn } from 'node:child_process'
import { cp, mkdir, mkdtemp, readdir, readFile, rename, rm, symlink, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { zipSync } from 'fflate'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { formatById } from '../../core/open/registry'
import { emptyJob } from '../../core/job/job'
import { JOB_ENTRY, jobText } from '../../core/run/job-file'
import { newOutlet } from '../../core/job/outlet/outlet'
import { builtCommandLine, held, runIn, script } from './command-line'
import { stations } from '../../core/judge/stations/stations'
import { encodePng } from '../../core/media/pictures/png/encode'
import { STRAIGHT, type Frame } from '../../core/frame/frame'
import { noise, random, sharpFrame, testHost, writeFilm } from './support'

const folder = await mkdtemp(path.join(tmpdir(), 'pour-again-'))
afterAll(() => rm(folder, { recursive: true, force: true }))
const at = (...parts: string[]): string => path.join(folder, ...parts)

const film = (seed: number, frames = 3): Promise<Uint8Array> =>
  writeFilm(
    'quicktime-animation',
    Array.from({ length: frames }, (_, n) => noise({ width: 16, height: 12, depth: 8, seed: seed + n }))
  )

/** A picture of one colour, half clear. */
function flat(red: number): Frame {
  const samples = new Uint8Array(4 * 16 * 12).map((_, i) => [red, 90, 120, 128][i % 4]!)
  return { ...noise({ width: 16, height: 12, depth: 8, alpha: STRAIGHT }), samples }
}

beforeAll(async () => {
  await builtCommandLine()
  const outlet = newOutlet('o', formatById('quicktime-png'), 'Film')
  const job = { ...emptyJob('j', 'Inbox'), outlets: { o: outlet }, outletOrder: ['o'] }
  await writeFile(at('inbox.pour'), zipSync({ [JOB_ENTRY]: new TextEncoder().encode(jobText(job, {})) }))
})

describe('a watched folder', () => {
  const watch = (inbox: string, ...more: string[]): Promise<{ code: number; out: string; error: string }> =>
    runIn(folder, ['watch', inbox, '--job', 'inbox.pour', '--to', `${inbox} out`, '--once', '--settle', '0', ...more])

  test('another file under a former name is another delivery, and two of like names stand beside each other', async () => {
    await mkdir(at('in'))
    for (const [name, seed] of [
      ['title.mov', 1],
      ['title.avi', 50]
    ] as const)
      await writeFile(at('in', name), await film(seed))
    expect((await watch('in')).code).toBe(0)
    await writeFile(at('in', 'title.mov'), await film(100))
    expect((await watch('in')).code).toBe(0)
    expect((await readdir(at('in out'))).sort()).toEqual(['title_Film.mov', 'title_Film_2.mov', 'title_Film_3.mov'])
    expect(new Set(Object.values(await held(at('in out')))).size).toBe(3)
    for (const [done, out] of [
      ['title.avi', 'title_Film.mov'],
      ['title.mov', 'title_Film_2.mov'],
      ['title_2.mov', 'title_Film_3.mov']
    ])
      expect((await runIn(folder, ['prove', `in/done/${done}`, `in out/${out}`])).out).toContain('identical')
  })

  test('what comes in a folder or an archive is called by it, not by its pictures', async () => {
    const host = await testHost()
    const render = (seed: number): Uint8Array => encodePng(host, noise({ width: 16, height: 12, depth: 8, seed }))
    await mkdir(at('named', 'Fern strap 25fps'), { recursive: true })
    for (const n of [1, 2]) await writeFile(at('named', 'Fern strap 25fps', `render_000${n}.png`), render(n))
    const two = Object.fromEntries(
      ['in', 'out'].flatMap(name => [1, 2].map(n => [`${name}_24fps_000${n}.png`, render(n + name.length)]))
    )
    await writeFile(at('named', 'Wipes.zip'), zipSync(two))
    const { code, error } = await watch('named')
    expect([code, error]).toEqual([0, expect.not.stringContaining('failed')])
    expect((await readdir(at('named out'))).sort()).toEqual([
      'Fern_strap_Film.mov',
      'Wipes_in_Film.mov',
      'Wipes_out_Film.mov'
    ])
  })

  test('an open watcher takes a film that comes under the name of one before it for what it is', async () => {
    await mkdir(at('live'))
    const args = ['watch', 'live', '--job', 'inbox.pour', '--to', 'live out', '--settle', '0.2', '--replace']
    const child = spawn(process.execPath, [script, ...args], { cwd: folder })
    const ended = new Promise<number | null>(resolve => child.on('exit', resolve))
    let said = ''
    child.stdout.on('data', (text: Buffer) => (said += text.toString()))
    const saidTimes = async (times: number): Promise<void> => {
      while (said.split('done.').length <= times) await new Promise(resolve => setTimeout(resolve, 50))
    }
    for (const [n, seed] of [1, 70].entries()) {
      // as a copy does it: under another name first, then whole under its own
      await writeFile(at(`coming ${n}`), await film(seed))
      await rename(at(`coming ${n}`), at('live', 'title.mov'))
      await saidTimes(n + 1)
    }
    child.kill('SIGTERM')
    expect(await ended).toBe(130)
    expect(await readdir(at('live out'))).toEqual(['title_Film.mov'])
    expect((await runIn(folder, ['prove', 'live/done/title_2.mov', 'live out/title_Film.mov'])).out).toContain(
      'identical'
    )
    const former = await runIn(folder, ['prove', 'live/done/title.mov', 'live out/title_Film.mov'])
    expect(former.out).not.toContain('identical')
  })

  test('a folder is watched by one; places that lead back into it are refused, through links too', async () => {
    await mkdir(at('box', 'sub'), { recursive: true })
    await mkdir(at('elsewhere'))
    await symlink(at('box', 'sub'), at('elsewhere', 'link'))
    for (const to of ['box/sub', 'elsewhere/link', 'elsewhere/link/new', 'elsewhere/link/../x']) {
      const { code, error } = await runIn(folder, ['watch', 'box', '--job', 'inbox.pour', '--to', to, '--once'])
      expect([to, code, error]).toEqual([to, 2, expect.stringContaining('within the watched folder')])
    }
    await symlink(at('box', 'sub'), at('box', 'done'))
    const back = await runIn(folder, ['watch', 'box', '--job', 'inbox.pour', '--to', 'elsewhere', '--once'])
    expect([back.code, back.error]).toEqual([2, expect.stringContaining('back into the watched folder')])
    await rm(at('box', 'done'))
    const first = spawn(process.execPath, [script, 'watch', 'box', '--job', 'inbox.pour', '--to', 'box out'], {
      cwd: folder
    })
    while (!(await readdir(at('box'))).includes('.pour-watch.lock'))
      await new Promise(resolve => setTimeout(resolve, 30))
    const second = await runIn(folder, ['watch', 'box', '--job', 'inbox.pour', '--to', 'elsewhere', '--once'])
    expect([second.code, second.error]).toEqual([5, expect.stringContaining('is watched already')])
    first.kill('SIGKILL')
    await new Promise(resolve => first.on('exit', resolve))
    // what a killed one left is no watcher
    const third = await runIn(folder, [
      'watch',
      'box',
      '--job',
      'inbox.pour',
      '--to',
      'elsewhere',
      '--once',
      '--settle',
      '0'
    ])
    expect(third.error).not.toContain('is watched already')
  })
})

describe('a watcher that is killed at random', () => {
  test.each([3, 14])(
    'run %i: each arrival is delivered once, whole and proven, and nothing is left lying',
    async seed => {
      const [inbox, out] = [`kills ${seed}`, `kills ${seed} out`]
      await mkdir(at(inbox, 'strap'), { recursive: true })
      for (let n = 0; n < 5; n++) await writeFile(at(inbox, `title ${n}.mov`), await film(seed * 1000 + n * 50, 12))
      for (const n of [1, 2, 3])
        await writeFile(
          at(inbox, 'strap', `strap 25fps_000${n}.png`),
          encodePng(await testHost(), noise({ width: 16, height: 12, depth: 8, seed: seed + n }))
        )
      const args = ['watch', inbox, '--job', 'inbox.pour', '--to', out, '--once', '--settle', '0']
      const chance = random(seed)
      let kills = 0
      for (let round = 0; round < 8; round++) {
        const running = spawn(process.execPath, [script, ...args], { cwd: folder })
        const ended = new Promise<boolean>(resolve => running.on('exit', (_, signal) => resolve(signal === 'SIGKILL')))
        const kill = setTimeout(() => running.kill('SIGKILL'), 250 + 1500 * chance())
        if (await ended) kills++
        clearTimeout(kill)
      }
      const last = await runIn(folder, args)
      expect(last.code).toBe(0)
      expect(kills).toBeGreaterThan(0)
      const names = [...Array.from({ length: 5 }, (_, n) => `title ${n}`), 'strap']
      expect((await readdir(at(out))).sort()).toEqual(names.map(name => `${name.replace(' ', '_')}_Film.mov`).sort())
      expect((await readdir(at(inbox))).filter(name => !name.startsWith('.pour-')).sort()).toEqual(['done'])
      expect((await readdir(at(inbox, 'done'))).sort()).toEqual(
        ['strap', ...names.slice(0, 5).map(name => `${name}.mov`)].flatMap(name => [name, `${name}.report.json`]).sort()
      )
      for (const name of names) {
        const lies = name === 'strap' ? 'strap' : `${name}.mov`
        const proof = await runIn(folder, [
          'prove',
          `${inbox}/done/${lies}`,
          `${out}/${name.replace(' ', '_')}_Film.mov`
        ])
        expect([name, proof.code, proof.out]).toEqual([name, 0, expect.stringContaining('identical')])
      }
    }
  )
})

describe('places as the disk resolves them', () => {
  test('a way up from a link leads where the disk goes, for what is written and for what is read', async () => {
    await mkdir(at('real', 'deep'), { recursive: true })
    await mkdir(at('ways'))
    await symlink(at('real', 'deep'), at('ways', 'link'))
    await writeFile(at('real', 'a.mov'), await film(5))
    const source = await readFile(at('real', 'a.mov'))
    const args = ['--format', 'quicktime-png', '--replace']
    // ways/link/.. is real, not ways
    const over = await runIn(folder, ['convert', 'real/a.mov', ...args, '--to', 'ways/link/../a.mov'])
    expect([over.code, over.error]).toEqual([2, expect.stringContaining('is the source itself')])
    expect(await readFile(at('real', 'a.mov'))).toEqual(source)
    const beside = await runIn(folder, ['convert', 'real/a.mov', ...args, '--to', 'ways/link/../b.mov'])
    expect([beside.code, beside.out]).toEqual([0, expect.stringContaining('identical')])
    expect((await readdir(at('real'))).sort()).toEqual(['a.mov', 'b.mov', 'deep'])
    expect(await readdir(at('ways'))).toEqual(['link'])
  })

  test('frames and stations take no source, with --replace neither', async () => {
    await mkdir(at('stills'))
    await writeFile(
      at('stills', '0001.png'),
      await encodePng(await testHost(), noise({ width: 16, height: 12, depth: 8, seed: 1 }))
    )
    await cp(at('stills', '0001.png'), at('stills', `${stations[0]!.id}.png`))
    const before = await held(at('stills'))
    for (const args of [
      ['frames', 'stills/0001.png', '--to', 'stills', '--replace'],
      ['stations', `stills/${stations[0]!.id}.png`, '--to', 'stills', '--replace']
    ]) {
      const { code, error } = await runIn(folder, args)
      expect([args[0], code, error]).toEqual([args[0], 2, expect.stringContaining('is the source itself')])
    }
    expect(await held(at('stills'))).toEqual(before)
  })
})

test('a sequence that is replaced leaves none of its former pictures, and nothing else goes', async () => {
  await writeFile(at('six.mov'), await film(1, 6))
  await writeFile(at('five.mov'), await film(30, 5))
  const pour = (source: string, ...more: string[]): Promise<{ code: number; error: string }> =>
    runIn(folder, ['convert', source, '--format', 'png-sequence', '--to', 'seq', ...more])
  expect((await pour('six.mov')).code).toBe(0)
  for (const other of ['00001.png', '12.png', 'notes.txt', 'x0003.png']) await writeFile(at('seq', other), 'mine')
  const refused = await pour('five.mov')
  expect([refused.code, refused.error]).toEqual([5, expect.stringContaining('is there already; say --replace')])
  expect((await pour('five.mov', '--replace')).code).toBe(0)
  const names = await readdir(at('seq'))
  expect(names.filter(name => /^\d{4}\.png$/.test(name)).sort()).toEqual([1, 2, 3, 4, 5].map(n => `000${n}.png`))
  expect(names).toEqual(expect.arrayContaining(['00001.png', '12.png', 'notes.txt', 'x0003.png']))
})

describe('pictures that cannot be read, and gaps', () => {
  const colours = [10, 20, 30, 40, 50, 60]
  /** The first red of each picture of a folder. */
  async function reds(name: string): Promise<number[]> {
    const { out } = await runIn(folder, ['inspect', name, '--json'])
    const { frames } = JSON.parse(out) as { frames: number }
    const found: number[] = []
    for (let n = 1; n <= frames; n++)
      found.push((await sharpFrame(await readFile(at(name, `${String(n).padStart(4, '0')}.png`)))).samples[0]!)
    return found
  }

  beforeAll(async () => {
    const host = await testHost()
    await mkdir(at('torn'))
    for (const [i, red] of colours.entries()) {
      const frame = flat(red)
      const bytes = await encodePng(host, frame)
      // one ends within its pixels, one within its header; the fifth is missing
      const whole = i === 1 ? bytes.subarray(0, bytes.length - 30) : i === 2 ? bytes.subarray(0, 20) : bytes
      if (i !== 4) await writeFile(at('torn', `t.000${i + 1}.png`), whole)
    }
  })

  test.each([
    [
      ['--damaged', 'skip'],
      [10, 40, 60]
    ],
    [
      ['--damaged', 'hold'],
      [10, 10, 10, 40, 60]
    ],
    [
      ['--damaged', 'hold', '--gaps', 'hold'],
      [10, 10, 10, 40, 40, 60]
    ],
    [
      ['--damaged', 'skip', '--gaps', 'hold'],
      [10, 10, 10, 40, 40, 60]
    ]
  ])('%j', async (options, due) => {
    const to = `as ${options.join(' ')}`
    const { code } = await runIn(folder, ['convert', 'torn', '--format', 'png-sequence', '--to', to, ...options])
    expect(code).toBe(0)
    expect(await reds(to)).toEqual(due)
  })

  test.each([
    [[], 3, '--damaged hold'],
    [['--damaged', 'skip', '--gaps', 'stop'], 3, 'missing between'],
    [['--deadline', '0'], 2, '--deadline takes a whole number from 1 to 86400'],
    [['--deadline', '9999999'], 2, '--deadline takes a whole number from 1 to 86400'],
    [['--damaged', 'mend'], 2, '--damaged takes stop, hold or skip'],
    [['--gaps', 'mend'], 2, '--gaps takes hold, close or stop']
  ])('%j is refused', async (options, code, why) => {
    const ended = await runIn(folder, ['convert', 'torn', '--format', 'png-sequence', '--to', 'no', ...options])
    expect([ended.code, ended.error]).toEqual([code, expect.stringContaining(why)])
    expect(await readdir(folder)).not.toContain('no')
  })
})

test.each([
  [['--alpha', 'premultiplied', '--matte', 'banana'], '--matte takes #rrggbb, not "banana"'],
  [['--alpha', 'straight', '--matte', '#000000'], '--matte goes with --alpha premultiplied'],
  [['--matte', '#000000'], '--matte goes with --alpha premultiplied'],
  [['--set', 'start='], '--set start takes a whole number'],
  [['--set', 'digits=1e1'], '--set digits takes a whole number']
])('%j is refused', async (options, why) => {
  await writeFile(at('typed.mov'), await film(3))
  const ended = await runIn(folder, ['convert', 'typed.mov', '--format', 'png-sequence', '--to', 'typed', ...options])
  expect([ended.code, ended.error]).toEqual([2, expect.stringContaining(why)])
})

test('a file whose name is no text is told, and its folder is taken all the same', async () => {
  const host = await testHost()
  await mkdir(at('names'))
  for (const n of [1, 2]) await writeFile(at('names', `n_${n}.png`), await encodePng(host, flat(n)))
  await writeFile(Buffer.concat([Buffer.from(at('names', 'odd')), Buffer.from([0xff, 0x2e, 0x70, 0x6e, 0x67])]), 'x')
  const { code, out, error } = await runIn(folder, ['inspect', 'names', '--json'])
  expect([code, JSON.parse(out)]).toEqual([0, expect.objectContaining({ frames: 2 })])
  expect(error + out).toContain('odd')
})

test('a source that only a preparation looks at is decided about too', async () => {
  await writeFile(at('plate.mov'), await film(3, 2))
  const settings = { matte: 'torn', channel: 'alpha' }
  const steps = [{ id: '1', kind: 'matte-from', on: true, settings }]
  await writeFile(at('keyed.json'), JSON.stringify({ pour: 'preparation', version: 1, name: 'Keyed', steps }))
  const args = ['convert', 'plate.mov', '--prepare', 'keyed.json', '--format', 'quicktime-png', '--to', 'keyed.mov']
  const refused = await runIn(folder, args)
  expect([refused.code, refused.error]).toEqual([3, expect.stringContaining('--damaged hold')])
  expect((await runIn(folder, [...args, '--damaged', 'skip'])).code).toBe(0)
})
