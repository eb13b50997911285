import { mkdir, mkdtemp, rm, symlink, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { zipSync } from 'fflate'
import { sceneText } from '../../core/draw/scene/as-file'
import { sceneInFile } from '../../core/draw/scene/format'
import { emptyScene } from '../../core/draw/scene/fresh'
import fc from 'fast-check'
import { expect, test } from 'vitest'
import type { FileRef } from '../../core/base/files/file'
import { memorySink, zipSink } from '../../core/base/files/sinks'
import { encodePng } from '../../core/media/pictures/png/encode'
import { takeIn } from '../../core/run/intake/intake'
import { naturally, sayNumbers } from '../../core/base/natural'
import { frameOrder } from '../../core/open/frame-order'
import { openSource } from '../../core/open/open'
import { AS_FOUND } from '../../core/source/source'
import { formatById } from '../../core/open/registry'
import { filesAt } from '../../platform/node/disk'
import { bytesFile, damage, deliverable, noise, survives, testHost, writeFilm } from './support'

const host = await testHost()
const picture = (seed: number, width = 8, height = 6): Uint8Array =>
  encodePng(host, noise({ width, height, depth: 8, seed }))

async function pictures(names: readonly string[]): Promise<FileRef[]> {
  return Promise.all(names.map(async (name, i) => bytesFile(name, await picture(i + 1))))
}

test('numbered pictures become sequences by folder and name, in natural order', async () => {
  const files = await pictures([
    'a/moth_10.png',
    'a/moth_9.png',
    'a/moth_11.png',
    'b/moth_1.png',
    'b/moth_2.png',
    'leaf.png'
  ])
  const { found, findings } = await takeIn(files, host)
  expect(findings).toEqual([])
  expect(found.map(f => [f.spec.name, f.spec.files.map(file => file.path)])).toEqual([
    ['leaf', ['leaf.png']],
    ['moth', ['a/moth_9.png', 'a/moth_10.png', 'a/moth_11.png']],
    ['moth', ['b/moth_1.png', 'b/moth_2.png']]
  ])
})

test('gaps are named, and may be held instead of closed', async () => {
  const { found } = await takeIn(await pictures(['p_01.png', 'p_02.png', 'p_05.png', 'p_06.png']), host)
  const { spec, facts } = found[0]!
  expect(facts.frames).toBe(4)
  expect(spec.findings).toMatchObject([
    { id: 'missing-frames', severity: 'fault', frames: [2], mend: { id: 'hold-gaps' } }
  ])
  expect(spec.findings[0]!.sentence).toContain('3, 4 are missing')
  const held = await openSource({ ...spec, id: 'x', interpretation: { ...spec.interpretation, holdGaps: true } }, host)
  expect(held.facts.frames).toBe(6)
  expect((await held.frame(3)).samples).toEqual((await held.frame(1)).samples)
  expect((await held.frame(4)).samples).not.toEqual((await held.frame(1)).samples)
})

test('mixed sizes, stray files, doubles and unreadable pictures are said and do not stop the rest', async () => {
  const files = [
    ...(await pictures(['s_1.png', 's_2.png', 's_3.png', 's_03.png'])),
    bytesFile('s_4.png', await picture(4, 9, 6)),
    bytesFile('s_5.png', (await picture(5)).subarray(0, 40)),
    bytesFile('readme.pdf', new TextEncoder().encode('%PDF-1.4 no picture')),
    bytesFile('empty.png', new Uint8Array(0)),
    bytesFile('__MACOSX/._s_1.png', new Uint8Array(5))
  ]
  const { found, findings } = await takeIn(files, host)
  expect(found).toHaveLength(1)
  expect(found[0]!.facts.frames).toBe(3)
  const ids = found[0]!.spec.findings.map(f => f.id)
  expect(ids).toEqual(expect.arrayContaining(['mixed-sizes', 'double-numbers', 'unreadable-frames']))
  expect(found[0]!.spec.findings.find(f => f.id === 'mixed-sizes')!.sentence).toContain('s_4.png (9x6)')
  expect(findings.map(f => f.id).sort()).toEqual(['stray-files', 'unreadable-file'])
  expect(findings.find(f => f.id === 'unreadable-file')!.sentence).toContain('empty.png')
})

test('notes named after their pictures speak for these; two that disagree say nothing of others in their folder', async () => {
  const note = (name: string, rate: string): FileRef =>
    bytesFile(`all/${name}`, new TextEncoder().encode(`Frame rate: ${rate}\n`))
  const files = [
    ...(await pictures(['moth', 'strap', 'vine'].flatMap(base => [1, 2].map(n => `all/${base}_000${n}.png`)))),
    note('moth_rate.txt', '12/1'),
    note('strap_rate.txt', '24000/1001')
  ]
  const rates = async (given: FileRef[]): Promise<Record<string, unknown>> =>
    Object.fromEntries((await takeIn(given, host)).found.map(({ facts }) => [facts.name, facts.rate]))
  expect(await rates(files)).toEqual({ moth: [12, 1], strap: [24000, 1001], vine: null })
  // pictures that are numbers alone have theirs as well
  const bare = [...(await pictures(['all/0001.png', 'all/0002.png'])), note('rate.txt', '30/1'), ...files.slice(-2)]
  expect(Object.values(await rates(bare))).toEqual([[30, 1]])
  expect(await rates(files.slice(0, -1))).toEqual({ moth: [12, 1], strap: [12, 1], vine: [12, 1] })
})

test('the rate comes from a note before it comes from a name', async () => {
  const files = [
    ...(await pictures(['clip/strap_25fps_1.png', 'clip/strap_25fps_2.png'])),
    bytesFile('clip/hand-over.txt', new TextEncoder().encode('Rate: 24000/1001'))
  ]
  const { found } = await takeIn(files, host)
  expect(found[0]!.facts).toMatchObject({ name: 'strap', rate: [24000, 1001], rateFrom: 'note' })
  const named = await takeIn(files.slice(0, 2), host)
  expect(named.found[0]!.facts).toMatchObject({ rate: [25, 1], rateFrom: 'name' })
})

test('a ZIP is opened: stored, deflated, and as Pour writes it', async () => {
  const sequence = Object.fromEntries(
    await Promise.all([1, 2, 3].map(async n => [`moth/m_${n}.png`, await picture(n)] as const))
  )
  for (const level of [0, 9] as const) {
    const { found } = await takeIn([bytesFile('moth.zip', zipSync(sequence, { level }))], host)
    const source = await openSource({ ...found[0]!.spec, id: 'z' }, host)
    expect(source.facts.frames).toBe(3)
    expect((await source.frame(2)).samples).toEqual(noise({ width: 8, height: 6, depth: 8, seed: 3 }).samples)
  }
  const sink = memorySink()
  const zip = zipSink(sink, new Date(1980, 0, 1))
  for (const [name, bytes] of Object.entries(sequence)) await zip.add(name, bytes)
  await zip.close()
  const { found } = await takeIn([bytesFile('own.zip', sink.bytes())], host)
  expect(found[0]!.facts.frames).toBe(3)
})

test('a scene within a ZIP is taken in as any film is, and its description read from there', async () => {
  const scene = emptyScene('Ferns', { width: 16, height: 9, rate: [25, 1], seconds: 1 })
  const zip = zipSync({ 'night/ferns.json': new TextEncoder().encode(sceneText(scene)) }, { level: 6 })
  const { found } = await takeIn([bytesFile('night.zip', zip)], host)
  expect(found.map(({ spec, facts }) => [spec.format, facts.name, facts.frames])).toEqual([['scene', 'ferns', 25]])
  expect(await sceneInFile(found[0]!.spec.files[0]!, host)).toEqual(scene)
})

test('films and animated pictures are told apart by their bytes, not their names', async () => {
  const frames = [1, 2].map(seed => noise({ width: 8, height: 8, depth: 8, seed }))
  const { found } = await takeIn(
    [
      bytesFile('a.mov', await writeFilm('apng', frames)),
      bytesFile('b.png', await writeFilm('quicktime-animation', frames))
    ],
    host
  )
  expect(found.map(f => f.spec.format)).toEqual(['apng', 'quicktime-animation'])
})

test('truncated and mutated archives end in clear words', async () => {
  const original = zipSync(
    Object.fromEntries(await Promise.all([1, 2, 3].map(async n => [`m_${n}.png`, await picture(n)] as const))),
    { level: 6 }
  )
  let said = 0
  await fc.assert(
    fc.asyncProperty(fc.integer({ min: 1, max: 2 ** 31 - 1 }), async seed => {
      const { found, findings } = await takeIn([bytesFile('m.zip', damage(original, seed))], host)
      if (findings.length || found.some(f => f.spec.findings.length)) said++
      for (const finding of findings) expect(finding.sentence.length).toBeGreaterThan(15)
      for (const { spec } of found) {
        const source = await openSource({ ...spec, id: 'z' }, host)
        for (let i = 0; i < source.facts.frames; i++) await survives(() => source.frame(i))
      }
    }),
    { numRuns: 1500 }
  )
  expect(said).toBeGreaterThan(700)
})

test('an archive that claims to unpack to more than it can is refused before memory is taken', async () => {
  const bytes = zipSync({ 'm_1.png': await picture(1) }, { level: 6 })
  const list = bytes.length - 22 - (46 + 7)
  new DataView(bytes.buffer).setUint32(list + 24, 0x7fffffff, true)
  const { found, findings } = await takeIn([bytesFile('bomb.zip', bytes)], host)
  expect(found).toEqual([])
  expect(findings[0]!.sentence).toMatch(/claims to unpack|lies beyond/)
})

test('names order naturally and numbers are said as a person would', () => {
  expect(['f10', 'f9', 'f1', 'F2'].sort(naturally)).toEqual(['f1', 'F2', 'f9', 'f10'])
  expect(sayNumbers([3])).toBe('3')
  expect(sayNumbers([3, 4, 5, 9])).toBe('3 to 5 and 9')
})

test('hidden files are told, what systems leave lying about is not', async () => {
  const picture = await encodePng(host, noise({ width: 8, height: 8, depth: 8 }))
  const { found, findings } = await takeIn(
    ['a_1.png', 'a_2.png', '.a_3.png', '._a_1.png', '.DS_Store', 'Thumbs.db', '.pour-12-0badcafe/new/a_9.png'].map(
      name => bytesFile(`plates/${name}`, picture)
    ),
    host
  )
  expect(found.map(f => f.facts.frames)).toEqual([2])
  expect(findings.map(f => f.sentence)).toEqual(['A hidden file was left out: .a_3.png.'])
})

test('TGA is known by its content, whatever it is called', async () => {
  const format = formatById('tga-sequence')
  for (const runs of [true, false]) {
    const frame = noise({ width: 31, height: 17, depth: 8, runs: 0.9 })
    const form = deliverable(frame, 1, { options: { runs } })
    const bytes = await format.encode(host, frame, form, null)
    // the footer is what newer files have; an old one has only its header
    for (const file of [bytes, bytes.slice(0, bytes.length - 26)]) {
      const { found } = await takeIn([bytesFile('delivered', file)], host)
      expect(found.map(f => f.spec.format)).toEqual(['tga-sequence'])
    }
  }
  // one that is called so and is cut short is a damaged picture, and no stray file
  const frame = noise({ width: 31, height: 17, depth: 8 })
  const whole = await format.encode(host, frame, deliverable(frame, 1, { options: { runs: false } }), null)
  const cut = await takeIn([bytesFile('plate.tga', whole.slice(0, 500))], host)
  expect(cut.findings.map(f => f.id)).not.toContain('stray-files')
  for (const name of ['words.txt2', 'noise.bin'])
    expect((await takeIn([bytesFile(name, new Uint8Array(400).fill(2))], host)).found).toEqual([])
})

test('links are followed, each folder once, and one that leads back up ends', async () => {
  const folder = await mkdtemp(path.join(tmpdir(), 'pour-links-'))
  try {
    const picture = await encodePng(host, noise({ width: 8, height: 8, depth: 8 }))
    await mkdir(path.join(folder, 'shot'))
    await mkdir(path.join(folder, 'store'))
    await writeFile(path.join(folder, 'store', 'a_1.png'), picture)
    await symlink('../store/a_1.png', path.join(folder, 'shot', 'b_1.png'))
    await symlink('..', path.join(folder, 'shot', 'up'))
    await symlink('nowhere', path.join(folder, 'shot', 'gone.png'))
    const files = await filesAt(path.join(folder, 'shot'))
    expect(files.map(file => file.path).sort()).toEqual(['shot/b_1.png', 'shot/up/store/a_1.png'])
    expect(files.every(file => file.size === picture.length)).toBe(true)
  } finally {
    await rm(folder, { recursive: true })
  }
})

test('pictures of like names in two archives are two sources', async () => {
  const zipped = async (seed: number): Promise<Uint8Array<ArrayBuffer>> =>
    zipSync({ 'f_1.png': await picture(seed), 'f_2.png': await picture(seed + 1) }) as Uint8Array<ArrayBuffer>
  const { found } = await takeIn([bytesFile('a.zip', await zipped(1)), bytesFile('b.zip', await zipped(7))], host)
  expect(found.map(({ facts }) => facts.frames)).toEqual([2, 2])
  const firsts = await Promise.all(
    found.map(async ({ spec }, i) => (await openSource({ ...spec, id: `${i}` }, host)).frame(0))
  )
  expect(firsts.map(({ samples }) => samples)).toEqual(
    [1, 7].map(seed => noise({ width: 8, height: 6, depth: 8, seed }).samples)
  )
})

test('a file that comes twice under one path is taken once, and told', async () => {
  const [file] = await pictures(['p_1.png'])
  const { found, findings } = await takeIn([file!, file!], host)
  expect([found.length, findings.map(({ id }) => id)]).toEqual([1, ['same-names']])
})

test('a gap of three hundred million frames is told by its ends, and cannot be held', async () => {
  const { found } = await takeIn(await pictures(['p_1.png', 'p_2.png', 'p_300000000.png']), host)
  const { spec } = found[0]!
  expect(spec.findings[0]).toMatchObject({ id: 'missing-frames' })
  expect(spec.findings[0]!.sentence).toContain('Pictures 3 to 299999999 are missing')
  expect(spec.findings[0]!.mend).toBeUndefined()
  const held = await openSource({ ...spec, id: 'g', interpretation: { ...spec.interpretation, holdGaps: true } }, host)
  expect(held.facts.frames).toBe(3)
})

test('any numbers with any of them held come to the pictures a person would say', () => {
  const numbers = fc.uniqueArray(fc.integer({ min: -20, max: 60 }), { minLength: 1, maxLength: 20 })
  fc.assert(
    fc.property(numbers, numbers, fc.boolean(), (given, lost, holdGaps) => {
      const sorted = [...given].sort((a, b) => a - b)
      const torn = lost.filter(n => !given.includes(n))
      for (const as of ['hold', 'skip', null] as const) {
        const interpretation = { ...AS_FOUND, holdGaps, damaged: { numbers: torn, as } }
        const order = frameOrder({ files: sorted.map(() => null as never), numbers: sorted, interpretation })
        const places = as === 'hold' ? [...sorted, ...torn].sort((a, b) => a - b) : sorted
        const all = holdGaps
          ? Array.from({ length: places.at(-1)! - places[0]! + 1 }, (_, i) => places[0]! + i)
          : places
        const due = all.map(n => Math.max(0, sorted.filter(each => each <= n).length - 1))
        expect(Array.from({ length: order.length }, (_, i) => order.at(i))).toEqual(due)
      }
    })
  )
})
