import { execFile } from 'node:child_process'
import { appendFile, cp, mkdir, mkdtemp, readdir, readFile, rm, stat, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { FormatsOutput } from '../../cli/formats'
import { InspectOutput } from '../../cli/inspect'
import { encodePng } from '../../core/media/pictures/png/encode'
import { FORMAT_IDS } from '../../core/open/registry'
import { ProofReport } from '../../core/judge/proof/report'
import type { LedgerLine } from '../../core/judge/ledger/ledger'
import { sayLeft } from '../../cli/progress'
import { builtCommandLine, runIn, script as commandLine, type Ended } from './command-line'
import { firstDifference, noise, sharpFrame, testHost, truth, vectors } from './support'

let folder: string

const call = (...args: string[]): Promise<Ended> => runIn(folder, args)

beforeAll(async () => {
  await builtCommandLine()
  folder = await mkdtemp(path.join(tmpdir(), 'pour-cli-'))
  const host = await testHost()
  for (let n = 1; n <= 4; n++)
    await writeFile(
      path.join(folder, `wide_${n}.png`),
      await encodePng(host, noise({ width: 20, height: 12, depth: 16, seed: n }))
    )
})
afterAll(() => rm(folder, { recursive: true }))

test('formats lists the registry with fixed ids', async () => {
  const { code, out } = await call('formats', '--json')
  expect(code).toBe(0)
  expect(
    FormatsOutput.parse(JSON.parse(out))
      .map(f => f.id)
      .sort()
  ).toEqual([...FORMAT_IDS].sort())
})

test('inspect says what a file is', async () => {
  const { code, out } = await call('inspect', path.join(vectors, 'rle32-premultiplied.mov'), '--json')
  expect(code).toBe(0)
  const found = InspectOutput.parse(JSON.parse(out))
  expect(found).toMatchObject({
    width: 96,
    height: 64,
    frames: 6,
    rate: [12, 1],
    bitDepth: 8,
    alpha: { mode: 'premultiplied', matte: '#000000' }
  })
  expect(found.findings.map(f => f.id)).toContain('unlabelled-premultiplied')
  expect((await call('inspect', folder)).out).toContain('wide')
})

test('frames decodes to straight PNG, code for code', async () => {
  expect((await call('frames', path.join(vectors, 'rle32.mov'), '--to', 'frames')).code).toBe(0)
  expect((await readdir(path.join(folder, 'frames'))).sort()).toEqual([
    '0001.png',
    '0002.png',
    '0003.png',
    '0004.png',
    '0005.png',
    '0006.png'
  ])
  for (let n = 1; n <= 6; n++) {
    const bytes = await readFile(path.join(folder, 'frames', `000${n}.png`))
    expect(firstDifference((await sharpFrame(bytes)).samples, (await truth('straight8', n)).samples)).toBeNull()
  }
  expect((await call('frames', path.join(vectors, 'rle24.mov'), '--to', 'deep', '--depth', '16')).code).toBe(0)
  expect((await sharp(await readFile(path.join(folder, 'deep/0001.png'))).metadata()).depth).toBe('ushort')
})

test('convert and prove agree, and a pour is the same bytes each time', async () => {
  const to = ['--rate', '24000/1001', '--json', '--set', 'existing=replace']
  const first = await call('convert', path.join(vectors, 'rle32.mov'), '--format', 'apng', '--to', 'a.png', ...to)
  expect(first.code).toBe(0)
  expect(JSON.parse(first.out)).toMatchObject({ verdict: 'identical', frames: 6 })
  const bytes = await readFile(path.join(folder, 'a.png'))
  await call('convert', path.join(vectors, 'rle32.mov'), '--format', 'apng', '--to', 'a.png', ...to)
  expect(Buffer.compare(bytes, await readFile(path.join(folder, 'a.png')))).toBe(0)

  expect(
    (
      await call(
        'convert',
        path.join(vectors, 'rle32.mov'),
        '--format',
        'quicktime-animation',
        '--alpha',
        'premultiplied',
        '--matte',
        '#ffffff',
        '--to',
        'w.mov'
      )
    ).code
  ).toBe(0)
  const inspected = InspectOutput.parse(JSON.parse((await call('inspect', 'w.mov', '--json')).out))
  expect(inspected.alpha).toMatchObject({ mode: 'premultiplied', matte: '#ffffff', claim: { mode: 'premultiplied' } })
  const proof = await call('prove', path.join(vectors, 'rle32.mov'), 'w.mov', '--json')
  expect(ProofReport.parse(JSON.parse(proof.out)).verdict).toBe('identical')
  expect(proof.code).toBe(0)
})

test('a premultiplied film is not taken for straight: the whole way comes out as it went in', async () => {
  const converted = await call(
    'convert',
    path.join(vectors, 'rle32-premultiplied.mov'),
    '--format',
    'quicktime-animation',
    '--alpha',
    'premultiplied',
    '--to',
    'p.mov',
    '--json'
  )
  expect(JSON.parse(converted.out).verdict).toBe('identical')
  await call('frames', 'p.mov', '--to', 'p', '--source-alpha', 'straight')
  const stored = await sharpFrame(await readFile(path.join(folder, 'p/0003.png')))
  expect(firstDifference(stored.samples, (await truth('premultiplied8', 3)).samples)).toBeNull()
})

test('a sequence goes to a ZIP or a folder at its depth', async () => {
  expect((await call('convert', 'wide_1.png', '--format', 'png-sequence', '--to', 'one')).code).toBe(0)
  const done = await call('convert', folder, '--format', 'png-sequence', '--depth', '16', '--to', 'out.zip', '--json')
  expect(JSON.parse(done.out)).toMatchObject({ verdict: 'identical', frames: 6 })
})

test('ends with 2 for a wrong call', async () => {
  for (const args of [
    ['pour'],
    ['inspect'],
    ['convert', 'x', '--to', 'y'],
    ['convert', 'x', '--format', 'nothing', '--to', 'y'],
    ['inspect', 'x', '--depth', '8'],
    ['frames', 'x', '--to', 'y', '--depth', '9'],
    ['convert', path.join(vectors, 'rle32.mov'), '--format', 'apng', '--to', 'y.png', '--set', 'nothing=1'],
    ['formats', '--nonsense']
  ]) {
    const { code, error } = await call(...args)
    expect([args.join(' '), code]).toEqual([args.join(' '), 2])
    expect(error.trim().split('\n')).toHaveLength(1)
  }
})

test('ends with 3 for input that cannot be read, naming the file', async () => {
  await writeFile(path.join(folder, 'cut.mov'), (await readFile(path.join(vectors, 'rle32.mov'))).subarray(0, 5000))
  for (const place of ['nowhere.mov', 'cut.mov']) {
    const { code, error } = await call('inspect', place)
    expect(code).toBe(3)
    expect(error).toContain(place)
    expect(error).not.toMatch(/\n\s+at /)
    expect(error.split(place)).toHaveLength(2)
  }
})

test('ends with 4 for a broken proof', async () => {
  const { code, out } = await call('prove', path.join(vectors, 'rle32.mov'), path.join(vectors, 'rle24.mov'), '--json')
  expect(code).toBe(4)
  expect(ProofReport.parse(JSON.parse(out))).toMatchObject({ verdict: 'broken' })
})

test('reads and writes WebM without a browser', async () => {
  for (const args of [
    ['inspect', path.join(vectors, 'vp9-alpha.webm')],
    ['frames', path.join(vectors, 'vp8-alpha.webm'), '--to', 'v'],
    ['convert', path.join(vectors, 'rle32.mov'), '--format', 'webm-vp9', '--to', 'v.webm']
  ])
    expect(await call(...args)).toMatchObject({ code: 0 })
})

test('carries sound unless it is told not to, and says what a source has', async () => {
  const source = path.join(vectors, 'rle32-sound.mov')
  for (const [sound, due] of [
    ['as-is', { codec: 'PCM 16 bit', rate: 48000, channels: 2 }],
    ['none', null]
  ] as const) {
    const to = `sound-${sound}.avi`
    expect((await call('convert', source, '--format', 'avi-ffv1', '--to', to, '--sound', sound)).code).toBe(0)
    const { sound: found } = InspectOutput.parse(JSON.parse((await call('inspect', to, '--json')).out))
    if (due) expect(found).toMatchObject(due)
    else expect(found).toBeNull()
  }
  expect((await call('convert', source, '--format', 'avi-ffv1', '--to', 'x.avi', '--sound', 'loud')).code).toBe(2)
})

test('ends with 5 for what is not possible', async () => {
  expect(
    (
      await call(
        'convert',
        path.join(vectors, 'rle32.mov'),
        '--format',
        'png-sequence',
        '--alpha',
        'premultiplied',
        '--to',
        'z'
      )
    ).code
  ).toBe(5)
  expect((await call('convert', 'wide_1.png', '--format', 'apng', '--to', 'still.png')).code).toBe(5)
  await call('convert', path.join(vectors, 'rle32.mov'), '--format', 'apng', '--to', 'there.png')
  const again = await call('convert', path.join(vectors, 'rle32.mov'), '--format', 'apng', '--to', 'there.png')
  expect(again.code).toBe(5)
  expect(again.error).toContain('existing=replace')
})

test('convert carries out a saved preparation, with the sources it names by path', async () => {
  const steps = (list: unknown[]): string => JSON.stringify({ pour: 'preparation', version: 1, name: 'p', steps: list })
  await writeFile(
    path.join(folder, 'half.json'),
    steps([
      { id: '1', kind: 'crop', on: true, settings: { box: { x: 8, y: 4, width: 40, height: 30 } } },
      { id: '2', kind: 'reverse', on: true, settings: {} }
    ])
  )
  const half = await call(
    'convert',
    path.join(vectors, 'rle32.mov'),
    '--format',
    'png-sequence',
    '--prepare',
    'half.json',
    '--to',
    'half',
    '--json'
  )
  expect(half.code).toBe(0)
  // the crop cuts off what is seen, which nobody asked for
  const { verdict, ledger } = JSON.parse(half.out) as { verdict: string; ledger: LedgerLine[] }
  expect(verdict).toBe('visible-loss')
  expect(ledger.find(line => line.id === 'content-cut')).toMatchObject({
    stage: 'prepared',
    severity: 'loss',
    asked: false
  })
  const last = await sharpFrame(await readFile(path.join(folder, 'half/0001.png')))
  const due = await truth('straight8', 6)
  expect([last.width, last.height]).toEqual([40, 30])
  for (let y = 0; y < 30; y++)
    expect(
      firstDifference(
        last.samples.subarray(160 * y, 160 * (y + 1)),
        due.samples.subarray(4 * ((y + 4) * due.width + 8), 4 * ((y + 4) * due.width + 48))
      )
    ).toBeNull()
  await writeFile(
    path.join(folder, 'matte.json'),
    steps([
      { id: '1', kind: 'matte-from', on: true, settings: { matte: path.join(vectors, 'rle32.mov'), channel: 'alpha' } }
    ])
  )
  expect(
    (
      await call(
        'convert',
        path.join(vectors, 'rle24.mov'),
        '--format',
        'quicktime-animation',
        '--prepare',
        'matte.json',
        '--to',
        'matte.mov',
        '--json'
      )
    ).code
  ).toBe(0)
  await writeFile(path.join(folder, 'wrong.json'), steps([{ id: '1', kind: 'crop', on: true, settings: { boxes: 1 } }]))
  expect(
    (
      await call(
        'convert',
        path.join(vectors, 'rle32.mov'),
        '--format',
        'apng',
        '--prepare',
        'wrong.json',
        '--to',
        'w.png'
      )
    ).code
  ).toBe(2)
  await writeFile(
    path.join(folder, 'none.json'),
    steps([{ id: '1', kind: 'range', on: true, settings: { from: 90, to: 99 } }])
  )
  const none = await call(
    'convert',
    path.join(vectors, 'rle32.mov'),
    '--format',
    'apng',
    '--prepare',
    'none.json',
    '--to',
    'n.png'
  )
  expect(none.code).toBe(5)
  expect(none.error).toContain('6 frames')
})

test('a format without alpha is a fill and its key, or colour alone where no alpha is asked for', async () => {
  const source = path.join(vectors, 'rle32.mov')
  const pair = await call('convert', source, '--format', 'mxf-vc3', '--to', 'two.mxf', '--json')
  expect(pair.code).toBe(0)
  for (const part of ['two_fill.mxf', 'two_key.mxf']) {
    const facts = InspectOutput.parse(JSON.parse((await call('inspect', part, '--json')).out))
    expect(facts.frames).toBe(6)
  }
  const one = await call('convert', source, '--format', 'mxf-vc3', '--alpha', 'none', '--to', 'one.mxf', '--json')
  expect(one.code).toBe(0)
  expect((await call('inspect', 'one.mxf')).code).toBe(0)
  const straight = await call('convert', source, '--format', 'mxf-vc3', '--set', 'parts=colour-alpha', '--to', 'no.mxf')
  expect(straight.error).toMatch(/cannot be straight: .*no alpha/)
  const listed = (await call('formats')).out
  expect(listed).toMatch(/mxf-vc3 .*10 bit, no alpha: a fill and its key/)
})

test('convert writes a fill and its key as two files, and alpha alone as grey pictures', async () => {
  const pair = await call(
    'convert',
    path.join(vectors, 'rle32.mov'),
    '--format',
    'quicktime-animation',
    '--set',
    'parts=fill-key',
    '--set',
    'timecode=01:00:00:00',
    '--to',
    'pair.mov',
    '--json'
  )
  expect(pair.code).toBe(0)
  expect(JSON.parse(pair.out)).toMatchObject({ frames: 6, verdict: 'identical' })
  const key = InspectOutput.parse(JSON.parse((await call('inspect', 'pair_key.mov', '--json')).out))
  expect(key).toMatchObject({ frames: 6, timecode: '01:00:00:00' })
  expect((await call('inspect', 'pair_fill.mov')).code).toBe(0)
  const again = await call(
    'convert',
    path.join(vectors, 'rle32.mov'),
    '--format',
    'quicktime-animation',
    '--set',
    'parts=fill-key',
    '--to',
    'pair.mov'
  )
  expect(again.code).toBe(5)
  const grey = await call(
    'convert',
    path.join(vectors, 'rle32.mov'),
    '--format',
    'png-sequence',
    '--set',
    'parts=alpha-only',
    '--to',
    'grey',
    '--json'
  )
  expect(JSON.parse(grey.out)).toMatchObject({ frames: 6, verdict: 'identical' })
  const { data, info } = await sharp(path.join(folder, 'grey/0001.png')).raw().toBuffer({ resolveWithObject: true })
  const { samples } = await truth('straight8', 1)
  expect(info.channels).toBe(3)
  expect(
    firstDifference(
      Array.from({ length: data.length / 3 }, (_, p) => data[3 * p]!),
      Array.from({ length: samples.length / 4 }, (_, p) => samples[4 * p + 3]!)
    )
  ).toBeNull()
  expect(
    (
      await call(
        'convert',
        path.join(vectors, 'rle32.mov'),
        '--format',
        'quicktime-animation',
        '--set',
        'timecode=9',
        '--to',
        'x.mov'
      )
    ).code
  ).toBe(5)
})

test('a hand-over is written as a folder and as a ZIP, and its check finds it untouched, or changed', async () => {
  const from = path.join(folder, 'handing')
  const vector = path.join(vectors, 'rle32-premultiplied.mov')
  const film = path.join(from, 'film.mov')
  const frames = path.join(from, 'frames')
  expect((await call('convert', vector, '--format', 'quicktime-png', '--to', film)).code).toBe(0)
  expect((await call('convert', vector, '--format', 'png-sequence', '--to', frames)).code).toBe(0)
  for (const place of [path.join(from, 'given'), path.join(from, 'given.zip')]) {
    const made = await call(
      'hand-over',
      vector,
      film,
      frames,
      '--to',
      place,
      '--job',
      'Fernbrook visitor screens',
      '--json'
    )
    expect(made.code, made.error).toBe(0)
    const { files, deliveries } = JSON.parse(made.out) as { files: string[]; deliveries: { verdict: string }[] }
    expect(files).toEqual(
      expect.arrayContaining(['note.txt', 'note.html', 'proof.pdf', 'checksums.sha256', 'hand-over.json', 'film.mov'])
    )
    expect(deliveries.map(d => d.verdict)).toEqual(['identical', 'identical'])
    const checked = await call('check', place)
    expect([checked.code, checked.out]).toEqual([0, expect.stringMatching(/^untouched/)])
    expect((await call('hand-over', vector, film, '--to', place)).code).toBe(5)
  }
  const harmed = path.join(from, 'given', 'film.mov')
  const bytes = await readFile(harmed)
  bytes[Math.floor(bytes.length / 2)]! ^= 255
  await writeFile(harmed, bytes)
  expect((await call('check', path.join(from, 'given'))).code).toBe(4)
  expect((await call('hand-over', vector, '--to', path.join(from, 'none'))).error).toContain('takes 2 to 100 paths')
  await rm(from, { recursive: true })
})

test('a house signs what it hands over; what lies beside it, or was signed by another, is found', async () => {
  const at = (name: string): string => path.join(folder, 'signed', name)
  const vector = path.join(vectors, 'rle32-premultiplied.mov')
  await mkdir(at(''), { recursive: true })
  const film = at('film.mov')
  expect((await call('convert', vector, '--format', 'quicktime-png', '--to', film)).code).toBe(0)
  const made = await call('key', '--to', at('house.key'), '--name', 'Fernbrook Post')
  expect([made.code, made.out]).toEqual([0, expect.stringContaining('house.public.json is for those who check')])
  expect((await stat(at('house.key'))).mode & 0o077).toBe(0)
  expect((await call('key', '--to', at('house.key'), '--name', 'Again')).code).toBe(5)
  expect((await call('key', '--to', at('other.key'), '--name', 'Other')).code).toBe(0)
  const place = at('given')
  expect((await call('hand-over', vector, film, '--to', place, '--sign', at('house.public.json'))).code).toBe(3)
  expect((await call('hand-over', vector, film, '--to', place, '--sign', at('house.key'))).code).toBe(0)
  const check = (...more: string[]): ReturnType<typeof call> => call('check', place, ...more)
  const good = await check('--by', at('house.public.json'))
  expect([good.code, good.out]).toEqual([
    0,
    expect.stringMatching(/untouched: Nothing has changed\. Signed by “Fernbrook Post”/)
  ])
  const wrong = await check('--by', at('other.public.json'))
  expect([wrong.code, wrong.out]).toEqual([4, expect.stringContaining('signed by another key')])
  await writeFile(path.join(place, 'extra.txt'), 'hello')
  const beside = await check()
  expect([beside.code, beside.out]).toEqual([4, expect.stringContaining('not handed over: given/extra.txt')])
  await rm(path.join(place, 'extra.txt'))
  await appendFile(path.join(place, 'note.txt'), 'and pay at once')
  const edited = await check('--json')
  expect([edited.code, JSON.parse(edited.out)]).toEqual([4, expect.objectContaining({ condition: 'changed' })])
  await rm(at(''), { recursive: true })
})

describe('how far it is', () => {
  /** The command at a terminal, as `script` gives it one; both of its outputs in one. */
  const atTerminal = (...args: string[]): Promise<string> =>
    new Promise((resolve, reject) => {
      const words = [process.execPath, commandLine, ...args].map(word => `'${word}'`).join(' ')
      execFile('script', ['-qec', words, '/dev/null'], { cwd: folder }, (error, out) =>
        error ? reject(error) : resolve(out)
      )
    })
  beforeAll(async () => {
    await mkdir(path.join(folder, 'wide'))
    for (let n = 1; n <= 4; n++) await cp(path.join(folder, `wide_${n}.png`), path.join(folder, 'wide', `w_${n}.png`))
  })
  afterAll(() => rm(path.join(folder, 'wide'), { recursive: true }))
  const pour = (name: string, ...more: string[]): string[] => [
    ...['convert', 'wide', '--format', 'quicktime-png', '--rate', '25', '--to', name, ...more]
  ]

  test('at a terminal the stages and their frames are shown, and gone when it ends', async () => {
    const out = await atTerminal(...pour('a.mov'))
    for (const stage of ['Looking', 'Pouring', 'Proving']) expect(out).toMatch(new RegExp(`${stage} .* of 4 frames`))
    expect(out).toContain('a.mov: 4 frames')
    expect(await atTerminal(...pour('b.mov', '--quiet'))).not.toMatch(/Pouring|Proving/)
  })

  test('where nobody looks, nothing of it is written', async () => {
    const { out, error } = await call(...pour('c.mov'))
    expect(out + error).not.toMatch(/Pouring|Proving|\u001b/)
  })

  test.each([
    [0.2, '1 s'],
    [59.4, '59 s'],
    [61, '1 min 1 s'],
    [7265, '2 h 1 min']
  ])('%f seconds left are %s', (seconds, said) => expect(sayLeft(seconds)).toBe(said))
})

test('what a receiver demands goes by the name that is given; unknown names are not waived', async () => {
  const receiver = { pour: 'receiver', version: 1, name: 'Fernbrook TV', namesBegin: 'FB_', largestBytes: 10 }
  await writeFile(path.join(folder, 'tv.json'), JSON.stringify(receiver))
  const pour = (to: string, ...more: string[]): Promise<Ended> =>
    call(
      'convert',
      'wide_1.png',
      '--format',
      'quicktime-png',
      '--rate',
      '25',
      '--to',
      to,
      '--receiver',
      'tv.json',
      ...more
    )
  const wrong = await pour('strap.mov', '--waive', 'weight')
  expect([wrong.code, wrong.error]).toEqual([5, expect.stringContaining('this is called strap.mov')])
  const heavy = await pour('FB_strap.mov')
  expect([heavy.code, heavy.error]).toEqual([5, expect.stringContaining('is not left there')])
  expect(await readdir(folder)).not.toContain('FB_strap.mov')
  const good = await pour('FB_strap.mov', '--waive', 'weight')
  expect([good.code, good.out]).toEqual([0, expect.stringContaining('Waived: Fernbrook TV takes 10 bytes at most')])
  const strange = await pour('FB_other.mov', '--waive', 'wait')
  expect([strange.code, strange.error]).toEqual([2, expect.stringContaining('--waive takes format, size')])
})

test('stations, proof by itself and the check of a folder answer in data and by exit code', async () => {
  const vector = path.join(vectors, 'rle32-premultiplied.mov')
  const visited = await call('stations', vector, '--to', 'pictures', '--json')
  expect(visited.code).toBe(0)
  const said = JSON.parse(visited.out) as { station: string; standing: string | null }[]
  expect(said.find(s => s.station === 'always-straight')).toMatchObject({ standing: 'wrong' })
  expect(said.find(s => s.station === 'always-premultiplied')).toMatchObject({ standing: 'right' })
  expect((await sharpFrame(await readFile(path.join(folder, 'pictures/always-straight.png')))).width).toBe(96)
  const alone = await call('prove', vector, '--json')
  expect(JSON.parse(alone.out)).toMatchObject({ agrees: 'unsaid', answer: { mode: 'premultiplied', matte: '#000000' } })
  expect((await call('stations', vector, '--backdrop', 'red')).code).toBe(2)
  // the file shown as it is need not be what it was made from
  const hard = path.join(folder, 'hard.gif')
  expect((await call('convert', vector, '--format', 'gif', '--to', hard)).code).toBe(0)
  type Visited = { station: string; standing: string; sentence: string; source: { share: number } | null }[]
  const held = async (...more: string[]): Promise<Visited[number]> =>
    (JSON.parse((await call('stations', hard, '--json', ...more)).out) as Visited).find(
      s => s.station === 'reads-the-label'
    )!
  expect(await held()).toMatchObject({ standing: 'right' })
  const lacking = await held('--source', vector)
  expect(lacking).toMatchObject({ standing: 'wrong' })
  expect(lacking.sentence).toMatch(/^The file is not the source/)
  expect(lacking.source!.share).toBeGreaterThan(0.01)
  expect((await call('stations', path.join(folder, 'nothing-here'))).code).toBe(3)
  const without = await call('check', folder)
  expect([without.code, without.error]).toEqual([3, expect.stringContaining('there is no hand-over.json')])
})

test('a loss that the recipe asks for is the verdict, and no failure of the command; prove tells the same way', async () => {
  const source = path.join(vectors, 'rle32.mov')
  const gif = await call('convert', source, '--format', 'gif', '--to', 'soft.gif', '--json')
  expect(gif.code).toBe(0)
  const said = JSON.parse(gif.out) as { verdict: string; title: string; ledger: LedgerLine[] }
  expect(said.verdict).toBe('visible-loss')
  expect(said.ledger.find(line => line.id === 'cut')).toMatchObject({ stage: 'recipe', severity: 'loss', asked: false })
  const proof = await call('prove', source, 'soft.gif', '--json')
  const report = ProofReport.parse(JSON.parse(proof.out))
  expect(report.ledger.map(line => line.stage)).toContain('taken')
  expect(report.ledger.find(line => line.id === 'mode')?.sentence).toBe(
    said.ledger.find(line => line.id === 'mode')?.sentence
  )
})
