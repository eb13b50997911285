/** Ordinary material that was once taken wrongly without a word, and folders as they come from others. */
import { mkdtemp, readdir, readFile, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import sharp from 'sharp'
import { beforeAll, describe, expect, test } from 'vitest'
import { isTagged, isWide, type ColourTags } from '../../core/frame/colour-tags'
import { crc32 } from '../../core/base/crc32'
import { takeIn, type Found } from '../../core/run/intake/intake'
import { rateInName, rateInNote } from '../../core/run/intake/rate-hints'
import { runsOf } from '../../core/run/intake/numbering'
import { layersOf } from '../../core/media/pictures/exr/layers'
import { encodePng } from '../../core/media/pictures/png/encode'
import { oriented } from '../../core/frame/orient'
import { OPAQUE, STRAIGHT, type Frame } from '../../core/frame/frame'
import type { FileRef } from '../../core/base/files/file'
import { memorySink } from '../../core/base/files/sinks'
import { holdsAlpha } from '../../core/media/formats/traits/carrying'
import type { FormatId } from '../../core/open/rows'
import { formatById, runsOn, writtenFormats } from '../../core/open/registry'
import { pourInto, proveDelivered, type Depot } from '../../core/run/delivery/delivery'
import { newOutlet, outletProblems, withFormat } from '../../core/job/outlet/outlet'
import { planPour } from '../../core/job/outlet/plan'
import type { FilesSpec } from '../../core/source/source'
import { inlinePool } from '../../platform/node/pool'
import { openSource } from '../../core/open/open'
import { timesOf } from '../../core/source/timing'
import { builtCommandLine, runIn, type Ended } from './command-line'
import { memoryFiles } from './memory-files'
import {
  bytesFile,
  deliverable,
  firstDifference,
  noise,
  random,
  testHost,
  vectors,
  widthFor,
  writeFilm
} from './support'

const host = await testHost()

async function files(name: string): Promise<FileRef[]> {
  const at = path.join(vectors, 'as-they-come', name)
  if (/\.\w+$/.test(name)) return [bytesFile(name, await readFile(at))]
  const names = await readdir(at)
  return Promise.all(names.map(async each => bytesFile(`${name}/${each}`, await readFile(path.join(at, each)))))
}

async function taken(name: string): Promise<Found> {
  const { found } = await takeIn(await files(name), host)
  expect(found).toHaveLength(1)
  return found[0]!
}

async function framesOf(found: Found, each = false): Promise<Frame[]> {
  const { spec } = found
  const interpretation = each ? { ...spec.interpretation, eachPicture: true } : spec.interpretation
  const source = await openSource({ ...spec, id: `${spec.name} ${each}`, interpretation }, host)
  const frames: Frame[] = []
  for (let i = 0; i < source.facts.frames; i++) frames.push(await source.frame(i))
  await source.close()
  return frames
}

const idsOf = ({ spec, facts }: Found): string[] => [...new Set([...spec.findings, ...facts.findings].map(f => f.id))]

describe('a sequence is judged by all its pictures', () => {
  test.each(['rgbfirst', 'solidfirst'])(
    '%s: alpha of the later pictures is kept, and the first is solid',
    async name => {
      const found = await taken(name)
      expect(found.facts.claim.mode).toBe('straight')
      const frames = await framesOf(found)
      expect(frames.every(frame => frame.alpha.mode === 'straight')).toBe(true)
      expect(frames[0]!.samples.every((code, i) => i % 4 !== 3 || code === 255)).toBe(true)
      expect(frames.slice(1).some(frame => frame.samples.some((code, i) => i % 4 === 3 && code < 255))).toBe(true)
      if (name === 'rgbfirst')
        expect(found.spec.findings).toMatchObject([{ id: 'mixed-alpha', severity: 'warning', frames: [1] }])
    }
  )

  test('the deepest depth is the depth of all, and shallower pictures are widened without loss', async () => {
    const shallow = noise({ width: 8, height: 6, depth: 8, seed: 2 })
    const deep = noise({ width: 8, height: 6, depth: 16, seed: 3 })
    const { found } = await takeIn(
      [shallow, deep, deep].map((frame, i) => bytesFile(`s_${i}.png`, encodePng(host, frame))),
      host
    )
    expect(found[0]!.facts.bitDepth).toBe(16)
    expect(found[0]!.spec.findings).toMatchObject([{ id: 'mixed-depths', frames: [1] }])
    const frames = await framesOf(found[0]!)
    expect(
      firstDifference(
        frames[0]!.samples,
        [...shallow.samples].map(code => code * 257)
      )
    ).toBeNull()
    expect(firstDifference(frames[1]!.samples, deep.samples)).toBeNull()
  })
})

describe('times', () => {
  test('a picture that is held is shown as long; one by one they are what is stored', async () => {
    const found = await taken('held.mov')
    expect(found.facts).toMatchObject({ frames: 55, rate: [25, 1], each: { frames: 6 } })
    expect(idsOf(found)).toContain('uneven-timing')
    const [shown, each] = [await framesOf(found), await framesOf(found, true)]
    expect([shown.length, each.length]).toEqual([55, 6])
    for (let i = 0; i < 55; i++) {
      const due = i < 2 ? i : i < 52 ? 2 : i - 49
      expect(firstDifference(shown[i]!.samples, each[due]!.samples)).toBeNull()
    }
  })

  test('an edit list shows what it shows', async () => {
    const found = await taken('elst_3_of_6.mov')
    expect(found.facts).toMatchObject({ frames: 3, each: { frames: 6 } })
    expect(idsOf(found)).toContain('edit-list')
    const [shown, each] = [await framesOf(found), await framesOf(found, true)]
    expect(each).toHaveLength(6)
    const at = each.findIndex(frame => firstDifference(frame.samples, shown[0]!.samples) === null)
    for (let i = 0; i < 3; i++) expect(firstDifference(shown[i]!.samples, each[at + i]!.samples)).toBeNull()
  })

  test('a film in fragments has all its frames', async () => {
    const found = await taken('frag.mov')
    expect(found.facts).toMatchObject({ frames: 6, rate: [25, 1] })
    const frames = await framesOf(found)
    expect(new Set(frames.map(frame => host.kernels.fingerprint(frame.samples))).size).toBe(6)
  })

  test('rounded times are the rate they mean, by whatever clock', () => {
    for (const [n, d, clock] of [
      [24000, 1001, 2000],
      [30000, 1001, 1000],
      [24, 1, 1000],
      [25, 1, 600],
      [60000, 1001, 90000]
    ] as const) {
      const at = (i: number): number => Math.round((i * d * clock) / n)
      const ticks = Array.from({ length: 240 }, (_, i) => at(i + 1) - at(i))
      expect(timesOf(ticks, clock)).toMatchObject({ rate: [n, d], shown: null, findings: [] })
    }
  })

  test('half a million pictures are no trouble, even or not', () => {
    const even = new Array<number>(500_000).fill(512)
    expect(timesOf(even, 12800)).toMatchObject({ rate: [25, 1], shown: null })
    even[7] = 1024
    const { rate, shown } = timesOf(even, 12800)
    expect([rate, shown!.length]).toEqual([[25, 1], 500_001])
  })

  test('what a recorder leaves is taken as even, and a pause at the end is held', () => {
    const next = random(5)
    const waver = (): number => Math.round((next() - 0.5) * 20)
    const at = Array.from({ length: 301 }, (_, i) => Math.round((i * 1000) / 30) + (i ? waver() : 0))
    const ticks = at.slice(1).map((end, i) => end - at[i]!)
    expect(timesOf(ticks, 1000)).toMatchObject({ rate: [30, 1], shown: null, findings: [{ id: 'wavering-times' }] })
    expect(timesOf([4, 4, 4, 4, 200], 100)).toMatchObject({ rate: [25, 1], findings: [{ id: 'uneven-timing' }] })
    expect(timesOf([4, 4, 4, 4, 200], 100).shown).toHaveLength(54)
    expect(timesOf([4, 4, 4, 4, 8], 100)).toMatchObject({ rate: [25, 1], shown: null })
  })

  test('held times come back as the time they take, picture by picture', () => {
    const next = random(11)
    for (let run = 0; run < 200; run++) {
      const unit = 1 + Math.floor(next() * 50)
      const holds = Array.from({ length: 2 + Math.floor(next() * 12) }, () => 1 + Math.floor(next() * 9))
      const { rate, shown } = timesOf(
        holds.map(hold => hold * unit),
        25 * unit
      )
      if (!shown) {
        // all alike, but for the last
        expect(new Set(holds.slice(0, -1)).size).toBe(1)
        continue
      }
      const length = (shown.length * rate![1]) / rate![0]
      expect(length).toBeCloseTo(holds.reduce((sum, hold) => sum + hold, 0) / 25, 6)
      expect([...new Set(shown)]).toEqual(holds.map((_, i) => i))
    }
  })
})

test('a film that is to be turned is turned', async () => {
  const turned = await taken('rot90.mov')
  expect(turned.facts).toMatchObject({ width: 48, height: 64 })
  expect(idsOf(turned)).toContain('orientation')
  const plain = await framesOf(await taken('elst_3_of_6.mov'), true)
  const frames = await framesOf(turned)
  expect(firstDifference(frames[1]!.samples, oriented(plain[1]!, 6).samples)).toBeNull()
})

test('a TIFF of several pages is a sequence', async () => {
  const found = await taken('pages')
  expect(found.facts.frames).toBeGreaterThan(1)
  const frames = await framesOf(found)
  expect(new Set(frames.map(frame => host.kernels.fingerprint(frame.samples))).size).toBe(found.facts.frames)
  const bytes = await readFile(path.join(vectors, 'as-they-come', 'pages', 'clip.tif'))
  for (const [page, frame] of frames.entries()) {
    const due = await sharp(bytes, { page }).ensureAlpha().raw().toBuffer()
    expect(firstDifference(frame.samples, due)).toBeNull()
  }
  // a list of pages that runs in a circle ends in words
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length)
  const first = view.getUint32(4, true)
  view.setUint32(first + 2 + 12 * view.getUint16(first, true), first, true)
  const { findings } = await takeIn([bytesFile('round.tif', new Uint8Array(bytes))], host)
  expect(findings[0]!.sentence).toContain('runs in a circle')
})

test('layers of OpenEXR are found by name, and told', async () => {
  const found = await taken('multilayer')
  expect(found.facts.claim.mode).toBe('premultiplied')
  expect(found.facts.findings.find(f => f.id === 'layers')!.sentence).toContain('"ViewLayer.Combined" is taken')
  const [frame] = await framesOf(found)
  expect(frame!.samples.some((value, i) => i % 4 !== 3 && value > 0)).toBe(true)
  const names = (...channels: string[]): string[] => layersOf(channels).map(({ name }) => name)
  expect(names('R', 'G', 'B', 'A', 'depth.Z')).toEqual([''])
  expect(names('spec.R', 'spec.G', 'spec.B', 'beauty.r', 'beauty.g', 'beauty.b', 'beauty.a')).toEqual([
    'beauty',
    'spec'
  ])
  expect(names('mask.A', 'key.R', 'key.G', 'key.B', 'key.A')).toEqual(['key'])
  expect(names('Z')).toEqual([])
})

test('an animated PNG whose pictures stand for different times is held as shown', async () => {
  const bytes = new Uint8Array(
    await writeFilm(
      'apng',
      [1, 2, 3].map(seed => noise({ width: 4, height: 4, depth: 8, seed })),
      { rate: [25, 1], options: { optimise: false } }
    )
  )
  // the second frame control is given five times its delay, and its checksum anew
  const buffer = Buffer.from(bytes.buffer)
  const at = buffer.indexOf('fcTL', buffer.indexOf('fcTL') + 4)
  buffer.writeUInt16BE(5, at + 24)
  buffer.writeUInt32BE(crc32(buffer.subarray(at, at + 30)), at + 30)
  const { found } = await takeIn([bytesFile('held.png', bytes)], host)
  expect(found[0]!.facts).toMatchObject({ frames: 7, rate: [25, 1], each: { frames: 3 } })
  expect((await framesOf(found[0]!)).length).toBe(7)
  expect((await framesOf(found[0]!, true)).length).toBe(3)
})

test('solid pictures of a lossy WebP keep their alpha for readers that are not ours', async () => {
  const frame = { ...noise({ width: 17, height: 9, depth: 8, seed: 4, runs: 0 }), alpha: STRAIGHT }
  const solid = { ...frame, samples: frame.samples.map((code, i) => (i % 4 === 3 ? 255 : code)) as Uint8Array }
  for (const coding of ['lossy', 'lossless']) {
    const shape = deliverable(solid, 1, { options: { coding, quality: 80 } })
    const bytes = await formatById('webp-sequence').encode(host, solid, shape, null)
    expect(await sharp(bytes).metadata()).toMatchObject({ hasAlpha: true, width: 17, height: 9 })
    const raw = await sharp(bytes).raw().toBuffer()
    expect(raw.length).toBe(17 * 9 * 4)
    expect(raw.every((code, i) => i % 4 !== 3 || code === 255)).toBe(true)
  }
})

test('standard definition under its own tags is no loss where they are not carried', () => {
  expect([isTagged([6, 1, 6]), isWide([6, 1, 6])]).toEqual([true, false])
  expect([isTagged([1, 13, 1]), isWide([1, 13, 1])]).toEqual([false, false])
  expect([isTagged([2, 2, 2]), isWide(null)]).toEqual([false, false])
  for (const tags of [
    [9, 16, 9],
    [1, 18, 1],
    [12, 13, 0]
  ] as ColourTags[])
    expect(isWide(tags)).toBe(true)
})

describe('numbers', () => {
  const runs = (...paths: string[]): (string | number)[][] =>
    runsOf(paths)
      .map(({ title, members }) => [title, ...members.map(({ number }) => number)])
      .sort((a, b) => (String(a[0]) < String(b[0]) ? -1 : 1))

  test.each([
    [['name_0001_v2.png', 'name_0002_v2.png'], [['name_v2', 1, 2]]],
    [['shot.0001.beauty2.exr', 'shot.0002.beauty2.exr'], [['shot.beauty2', 1, 2]]],
    [['0001_1920x1080.png', '0002_1920x1080.png'], [['1920x1080', 1, 2]]],
    [['frame0001@2x.png', 'frame0002@2x.png'], [['frame@2x', 1, 2]]],
    [['f-2.png', 'f-1.png', 'f0.png', 'f1.png'], [['f', -2, -1, 0, 1]]],
    [
      ['take1_01.png', 'take1_02.png', 'take2_01.png', 'take2_02.png'],
      [
        ['take1', 1, 2],
        ['take2', 1, 2]
      ]
    ],
    [['s-1.png', 's-2.png'], [['s', 1, 2]]],
    [['a/1.png', 'a/2.png'], [['a', 1, 2]]],
    [['moth_24fps_0001.png', 'moth_24fps_0002.png'], [['moth_24fps', 1, 2]]],
    [['leaf.png'], [['leaf', 0]]]
  ] as [string[], (string | number)[][]][])('%j', (paths, due) => {
    expect(runs(...paths)).toEqual(due)
  })

  test('times in place of numbers keep their order, and nothing is missing between them', async () => {
    const picture = (seed: number): Uint8Array => encodePng(host, noise({ width: 4, height: 4, depth: 8, seed }))
    const names = ['2026-11-24_10-15-30.png', '2026-11-24_10-15-31.png', '2026-11-24_10-16-02.png']
    for (const each of [names, ['w_1732616130123.png', 'w_1732616130165.png', 'w_1732616130208.png']]) {
      const { found } = await takeIn(
        [...each].reverse().map((name, i) => bytesFile(name, picture(i))),
        host
      )
      expect(found).toHaveLength(1)
      expect(found[0]!.spec.files.map(file => file.path)).toEqual(each)
      expect(found[0]!.spec.findings.map(f => f.id)).not.toContain('missing-frames')
    }
  })
})

test.each([
  ['Sample rate: 48000 Hz', null],
  ['Bit rate: 330 Mbit/s', null],
  ['Rate: 48 kHz', null],
  ['rate: 24000/1001', [24000, 1001]],
  ['The frame rate is fixed. Frame rate: 25', [25, 1]],
  ['Sample rate: 48000 Hz\nFrame rate: 23.976', [24000, 1001]],
  ['Conversion rate: 12 %', null],
  ['Frame rate: 1000', null],
  ['it plays at 50 f/s', [50, 1]],
  ['three frames a second is too slow; 12 frames a second', [12, 1]],
  ['{"rate": 0.5}', null],
  ['{"rate": 25, "currency": "EUR"}', null],
  ['{"rate": 25}', null],
  ['{"rate": 25, "width": 1920}', [25, 1]],
  ['{"frameRate": 25, "currency": "EUR"}', [25, 1]],
  ['{"rate": "30000/1001"}', [30000, 1001]]
] as [string, [number, number] | null][])('the note "%s" says %j', (text, rate) => {
  expect(rateInNote(text)).toEqual(rate)
})

test.each([
  ['plate_240p_0001.png', null],
  ['logo_2p_0001.png', null],
  ['plate_720p_25fps.png', [25, 1]],
  ['strap-25p.mov', [25, 1]],
  ['strap 59.94p.mov', [60000, 1001]],
  ['moth_12fps_0001.png', [12, 1]],
  ['loop_300fps.png', null],
  ['page 3 of 12 p', null]
] as [string, [number, number] | null][])('the name "%s" says %j', (name, rate) => {
  expect(rateInName(name)).toEqual(rate)
})

describe('two hundred folders', () => {
  /** Names of one sequence, by its numbers. */
  const PATTERNS: ((base: string, n: number) => string)[] = [
    (base, n) => `${base}_${String(n).padStart(4, '0')}.png`,
    (base, n) => `${base}.${String(n).padStart(5, '0')}.beauty2.png`,
    (base, n) => `${base}_${n}_v3.png`,
    (base, n) => `${String(n).padStart(4, '0')}_${base}_1920x1080.png`,
    (base, n) => `${base} ${n}@2x.png`,
    (base, n) => `${base}2_take1_${String(n).padStart(3, '0')}.png`
  ]
  const RATES: [string, [number, number] | null][] = [
    ['Rate: 24000/1001', [24000, 1001]],
    ['Plays at 12 frames per second, loops.', [12, 1]],
    ['Sample rate: 48000 Hz', null],
    ['Delivered at 330 Mbit/s on the 25th', null],
    ['frame rate = 29.97', [30000, 1001]],
    ['Rendered by 6 people in 3 sessions', null]
  ]
  let clear: Uint8Array
  let deep: Uint8Array
  let solid: Uint8Array
  beforeAll(() => {
    clear = encodePng(host, { ...noise({ width: 4, height: 3, depth: 8, seed: 1 }), alpha: STRAIGHT })
    deep = encodePng(host, noise({ width: 4, height: 3, depth: 16, seed: 2 }))
    solid = encodePng(host, { ...noise({ width: 4, height: 3, depth: 8, seed: 1 }), alpha: OPAQUE })
  })

  test('are taken for what they are, or what is wrong with them is said', async () => {
    const next = random(2026)
    const any = (most: number): number => Math.floor(next() * most)
    for (let run = 0; run < 200; run++) {
      const name = PATTERNS[any(PATTERNS.length)]!
      const first = any(3)
      const count = 3 + any(8)
      const numbers = Array.from({ length: count }, (_, i) => first + i)
      const gap = any(4) === 0 ? numbers.splice(1, 1)[0]! : null
      const depths = numbers.map(() => any(6) === 0)
      const solids = numbers.map((_, i) => !depths[i] && any(6) === 0)
      const cut = any(5) === 0 ? numbers.length - 1 : null
      const given = numbers.map((n, i) => {
        const bytes = depths[i] ? deep : solids[i] ? solid : clear
        return bytesFile(`plates/${name('ivy', n)}`, i === cut ? bytes.subarray(0, bytes.length - 20) : bytes)
      })
      const [words, rate] = RATES[any(RATES.length)]!
      const noted = any(2) === 0
      if (noted) given.push(bytesFile('plates/read me.txt', new TextEncoder().encode(words)))
      const stray = any(3) === 0
      if (stray) given.push(bytesFile('plates/cover.pdf', new TextEncoder().encode('%PDF-1.4')))
      // whichever order a file system gives
      given.sort(() => any(3) - 1)
      const { found, findings } = await takeIn(given, host)
      const about = `run ${run}: ${given.map(file => file.path).join(', ')}`
      expect(found.length, about).toBe(1)
      const { spec, facts } = found[0]!
      const kept = numbers.filter((_, i) => i !== cut)
      const keptAt = (flags: boolean[]): boolean => flags.some((flag, i) => flag && i !== cut)
      expect(spec.numbers ?? kept, about).toEqual(kept)
      expect(facts.frames, about).toBe(kept.length)
      expect(facts.bitDepth, about).toBe(keptAt(depths) ? 16 : 8)
      const someClear = kept.some((n, i) => !solids[numbers.indexOf(n)] && i >= 0)
      expect(facts.claim.mode, about).toBe(someClear ? 'straight' : 'none')
      expect(facts.rate, about).toEqual(noted ? rate : null)
      const ids = spec.findings.map(f => f.id)
      // a picture that is there and cannot be read has its place
      const inner = gap !== null && kept.length > 1 && numbers.some(n => n < gap) && numbers.some(n => n > gap)
      expect(ids.includes('missing-frames'), about).toBe(inner)
      expect(ids.includes('unreadable-frames'), about).toBe(cut !== null)
      expect(ids.includes('mixed-alpha'), about).toBe(someClear && keptAt(solids))
      expect(
        findings.some(f => f.id === 'stray-files'),
        about
      ).toBe(stray)
    }
  })
})

test(
  'a picture that cannot be read stops the command, unless it is to be held or left out; then it is a loss ' +
    'in the ledger',
  async () => {
    await builtCommandLine()
    const folder = await mkdtemp(path.join(tmpdir(), 'pour-as-they-come-'))
    const pour = (...more: string[]): Promise<Ended> =>
      runIn(folder, [
        'convert',
        path.join(vectors, 'as-they-come', 'trunc'),
        ...['--rate', '25', '--format', 'quicktime-png', '--to', 'a.mov', '--json', ...more]
      ])
    const refused = await pour()
    expect([refused.code, await readdir(folder)]).toEqual([3, []])
    expect(refused.error).toContain('f.0003.png')
    expect(refused.error).toContain('--damaged hold')
    const { code, out, error } = await pour('--damaged', 'skip')
    const left = JSON.parse(out) as { frames: number }
    const held = JSON.parse((await pour('--damaged', 'hold', '--replace')).out) as { frames: number }
    await rm(folder, { recursive: true })
    expect([code, held.frames - left.frames]).toEqual([0, 1])
    expect(error).toContain('f.0003.png')
    const { verdict, ledger } = JSON.parse(out) as { verdict: string; ledger: { id: string; severity: string }[] }
    expect(verdict).toBe('visible-loss')
    expect(ledger).toContainEqual(expect.objectContaining({ id: 'unreadable-frames', severity: 'loss' }))
  }
)

test.each(['tiff-sequence', 'tga-sequence', 'exr-sequence'])(
  '%s is not offered on a matte that its word for premultiplied does not mean',
  id => {
    const white = { ...newOutlet('o', formatById(id)), alpha: { mode: 'premultiplied' as const, matte: '#ffffff' } }
    expect(outletProblems(white).join(' ')).toMatch(/means on black .* Choose black/)
    expect(outletProblems({ ...white, alpha: { mode: 'premultiplied', matte: '#000000' } })).toEqual([])
    // as a fill it is a solid picture that says nothing
    expect(outletProblems({ ...white, parts: 'fill-key' })).toEqual([])
    const moved = withFormat({ ...white, format: 'quicktime-raw', depth: 8 }, formatById(id))
    expect(moved.alpha).toEqual({ mode: 'premultiplied', matte: '#000000' })
  }
)

test.each([
  ['gif', [24000, 1001], 6],
  ['gif', [29, 2], 30],
  ['gif', [7, 3], 9],
  ['webp-animated', [30000, 1001], 12],
  ['webp-animated', [999, 1], 20]
] as [FormatId, [number, number], number][])(
  'a rate that the clock of %s cannot say is rounded, told, and never broken: %j over %i frames',
  async (id, rate, count) => {
    const frames = Array.from({ length: count }, (_, i) => noise({ width: 6, height: 4, depth: 8, seed: i + 1 }))
    const pictures = frames.map((frame, i) =>
      bytesFile(`s_${String(i).padStart(3, '0')}.png`, encodePng(host, { ...frame, alpha: STRAIGHT }))
    )
    const { found } = await takeIn(pictures, host)
    const { spec, facts } = found[0]!
    const source: FilesSpec = {
      ...spec,
      id: `${id} ${rate.join('/')}`,
      interpretation: { ...spec.interpretation, rate }
    }
    const plan = planPour({ ...facts, rate }, newOutlet('o', formatById(id)), null)
    const sink = memorySink()
    const pool = inlinePool(host)
    const depot: Depot = {
      open: () => Promise.resolve({ kind: 'film', sink }),
      delivered: () => Promise.resolve({ id: 'd', name: 'd', files: [bytesFile('d', sink.bytes())] })
    }
    const delivering = { reference: source, plan, host, pool }
    const report = await proveDelivered(depot, delivering, await pourInto(depot, delivering))
    expect(report.verdict).not.toBe('broken')
    expect(report.ledger.map(line => line.id)).toContain('rate-rounded')
  }
)

describe('colour tags', () => {
  const FORMATS = writtenFormats.filter(format => runsOn(format, host)).map(({ id }) => id)
  /** Formats whose files have no place for tags; the ledger says that they are lost. */
  const SILENT: FormatId[] = [
    // OpenEXR is none of them: HLG becomes light there, under the primaries that its header says
    ...(['tiff-sequence', 'tga-sequence', 'webp-sequence', 'webp-animated', 'gif'] as FormatId[]),
    ...([
      'avif-sequence',
      'jxl-sequence',
      'dpx-sequence',
      'avi-raw',
      'avi-ffv1',
      'avi-utvideo',
      'avi-magicyuv'
    ] as FormatId[])
  ]

  // the film is 190 pixels wide, and some have no such pictures
  const SIZED = FORMATS.filter(id => widthFor(formatById(id), 190) === 190)

  test.each(SIZED)('%s keeps the tags of an HLG film, or the ledger says that it does not', async id => {
    const bytes = await readFile(path.join(vectors, 'bt2020hlg.mov'))
    const { found } = await takeIn([bytesFile('bt2020hlg.mov', new Uint8Array(bytes))], host)
    const { spec, facts } = found[0]!
    expect(facts.tags!.slice(0, 2)).toEqual([9, 18])
    expect(facts.colour).toBe('BT.2020, HLG')
    const format = formatById(id)
    const outlet = { ...newOutlet('o', format), range: { from: 1, to: 1 } }
    const plan = planPour(facts, holdsAlpha(format) ? outlet : { ...outlet, parts: 'colour-only' }, null)
    const { target, files: written } = memoryFiles(format, `a.${format.extension}`)
    const depot: Depot = {
      open: () => Promise.resolve(target),
      delivered: () => Promise.resolve({ id: `tags ${id}`, name: 'a', files: written() })
    }
    const source = { ...spec, id: 'hlg', interpretation: { ...spec.interpretation, alpha: STRAIGHT } }
    const delivering = { reference: source, plan, host, pool: inlinePool(host) }
    const report = await proveDelivered(depot, delivering, await pourInto(depot, delivering))
    const lost = report.ledger.some(line => line.id === 'colour-tags' && line.severity === 'loss')
    expect(lost).toBe(SILENT.includes(id))
    expect(report.verdict).not.toBe('broken')
  })

  test('a PNG says them as cICP, in place of sRGB', () => {
    const bytes = Buffer.from(encodePng(host, noise({ width: 2, height: 2, depth: 8 }), { tags: [9, 16, 9] }))
    const at = bytes.indexOf('cICP')
    expect([...bytes.subarray(at + 4, at + 8)]).toEqual([9, 16, 0, 1])
    expect(bytes.indexOf('sRGB')).toBe(-1)
  })
})
