/** The hand-over: manifest, papers, and the check of what arrives. */
import { createHash } from 'node:crypto'
import { readFile } from 'node:fs/promises'
import path from 'node:path'
import { PDFDocument } from 'pdf-lib'
import sharp from 'sharp'
import { beforeAll, describe, expect, test } from 'vitest'
import type { FileRef } from '../../core/base/files/file'
import type { FormatId } from '../../core/open/rows'
import { formatById } from '../../core/open/registry'
import { STRAIGHT, type Frame } from '../../core/frame/frame'
import { checkHandOver } from '../../core/run/handover/check'
import { toHtml, toPdf, toText, type Block } from '../../core/run/handover/document'
import { Manifest, MANIFEST_NAME, manifestSchema } from '../../core/run/handover/manifest'
import { markupAdvice, pageMarkup } from '../../core/run/handover/markup'
import { noteBlocks, proofBlocks, TERMS, type Told } from '../../core/run/handover/note'
import { describe as describeDelivery, papers, type Packed } from '../../core/run/handover/pack'
import { makeKey, printOf, publicHalf, type HouseKey } from '../../core/run/handover/seal'
import { prove } from '../../core/judge/proof/prove'
import { openForProof, specAsFound } from '../../core/open/stored'
import { stationById } from '../../core/judge/stations/stations'
import { inlinePool } from '../../platform/node/pool'
import { bytesFile, damage, deliverable, noise, root, survives, testHost, writeFilm } from './support'

const host = await testHost()
const pool = inlinePool(host)
const FRAMES = [1, 2, 3, 4].map(seed => noise({ width: 24, height: 16, depth: 8, seed, runs: 0.7 }))

async function pictures(frames: readonly Frame[]): Promise<FileRef[]> {
  const format = formatById('png-sequence')
  return Promise.all(
    frames.map(async (frame, i) =>
      bytesFile(`frame_${i + 1}.png`, await format.encode(host, frame, deliverable(frame, frames.length), null))
    )
  )
}

async function packed(name: string, format: FormatId, files: FileRef[], folder = ''): Promise<Packed> {
  const reference = specAsFound('reference', 'reference', 'quicktime-png', [
    bytesFile('r.mov', await writeFilm('quicktime-png', FRAMES))
  ])
  const found = specAsFound(name, name, format, files)
  const spec = { ...found, interpretation: { ...found.interpretation, alpha: STRAIGHT } }
  const source = await openForProof(spec, host)
  const { facts } = source
  const report = await prove(
    {
      reference,
      frames: [0, 1, 2, 3],
      expected: { ...deliverable(FRAMES[0]!, 4), rate: null, bytes: null },
      delivered: spec
    },
    { host, pool }
  )
  return { name, source: 'leaf & <stem>', spec, facts, report, paths: files.map(f => folder + f.path) }
}

let deliveries: Packed[]
let manifest: Manifest
let told: Told[]
let arrived: FileRef[]
beforeAll(async () => {
  deliveries = [
    await packed('leaf.png', 'apng', [bytesFile('leaf.png', await writeFilm('apng', FRAMES))]),
    await packed('leaf frames', 'png-sequence', await pictures(FRAMES), 'leaf frames/')
  ]
  const described = []
  for (const delivery of deliveries)
    described.push(await describeDelivery(delivery, { pool, whole: true, onFrame: () => undefined }))
  manifest = Manifest.parse(
    JSON.parse(
      JSON.stringify({
        pour: 'hand-over',
        version: 3,
        papers: [],
        job: 'Fernbrook <screens>',
        made: '2026-03-04T05:06:07.000Z',
        deliveries: described
      })
    )
  )
  const picture = {
    png: await sharp({ create: { width: 40, height: 20, channels: 3, background: '#4a7ba6' } })
      .png()
      .toBuffer(),
    width: 40,
    height: 20,
    caption: 'Right: frame 1.'
  }
  told = manifest.deliveries.map((delivery, i) => ({
    delivery,
    report: deliveries[i]!.report,
    stations: [
      { station: stationById('always-premultiplied')!, standing: 'wrong', sentence: 'Edges turn 31 codes too bright.' }
    ],
    pictures: [picture]
  }))
  arrived = [
    ...(await papers(manifest, told)).map(p => bytesFile(`from them/${p.name}`, p.bytes)),
    ...deliveries.flatMap(d =>
      d.spec.files.map((file, i) => ({
        ...(file as Extract<FileRef, { kind: 'bytes' }>),
        path: `from them/${d.paths[i]}`
      }))
    )
  ]
})

const bytesAt = (name: string): Uint8Array =>
  (arrived.find(f => f.path.endsWith(name)) as Extract<FileRef, { kind: 'bytes' }>).bytes
const replaced = (name: string, bytes: Uint8Array): FileRef[] =>
  arrived.map(f => (f.path === `from them/${name}` ? bytesFile(f.path, bytes) : f))
const check = (files: readonly FileRef[]): ReturnType<typeof checkHandOver> => checkHandOver(files, { host, pool })

describe('has anything changed?', () => {
  test('nothing: every byte is as it was', async () => {
    expect(await check(arrived)).toMatchObject({
      condition: 'untouched',
      sentence: 'Nothing has changed.',
      strangers: [],
      deliveries: [
        { condition: 'untouched' },
        { condition: 'untouched', sentence: 'Every byte of all 4 files is as it was handed over.' }
      ]
    })
  })

  test('a picture packed anew by another program has other bytes and the same pixels', async () => {
    const anew = await sharp(bytesAt('frame_2.png')).png({ compressionLevel: 1, adaptiveFiltering: false }).toBuffer()
    const result = await check(replaced('leaf frames/frame_2.png', anew))
    expect(result.condition).toBe('same-pictures')
    expect(result.deliveries[1]!.sentence).toContain('every frame, the rate and the alpha are the same')
  })

  test('one changed pixel names its frame', async () => {
    const samples = FRAMES[2]!.samples.slice()
    samples[0] = samples[0]! ^ 64
    const [changed] = await pictures([{ ...FRAMES[2]!, samples }])
    const result = await check(
      replaced('leaf frames/frame_3.png', (changed as Extract<FileRef, { kind: 'bytes' }>).bytes)
    )
    expect(result).toMatchObject({
      condition: 'changed',
      deliveries: [{ condition: 'untouched' }, { condition: 'changed', frames: [3] }]
    })
    expect(result.deliveries[1]!.sentence).toContain('frame 3 of 4 differs')
  })

  test('a film cut short, at another rate, or unreadable is told apart', async () => {
    expect(
      (await check(replaced('leaf.png', await writeFilm('apng', FRAMES.slice(0, 3))))).deliveries[0]
    ).toMatchObject({ condition: 'changed', sentence: expect.stringContaining('3 frames instead of 4') as string })
    expect(
      (await check(replaced('leaf.png', await writeFilm('apng', FRAMES, { rate: [24, 1] })))).deliveries[0]!.sentence
    ).toContain('24 frames per second instead of 12')
    expect((await check(replaced('leaf.png', bytesAt('leaf.png').slice(0, 200)))).deliveries[0]!.sentence).toContain(
      'cannot be read any more'
    )
  })

  test('missing files and files nobody named are listed', async () => {
    const result = await check([
      ...arrived.filter(f => !f.path.endsWith('frame_4.png')),
      bytesFile('from them/surprise.mov', new Uint8Array(3))
    ])
    expect(result).toMatchObject({ condition: 'missing', strangers: ['from them/surprise.mov'] })
    expect(result.deliveries[1]!.sentence).toBe('leaf frames/frame_4.png is missing.')
  })

  describe('what was altered is found, wherever it lies', () => {
    const text = (name: string): string => new TextDecoder().decode(bytesAt(name))
    const bytes = (words: string): Uint8Array => new TextEncoder().encode(words)
    const sum = (of: Uint8Array): string => createHash('sha256').update(of).digest('hex')
    const changes = (...pairs: (readonly [string, Uint8Array])[]): FileRef[] =>
      arrived.map(file => {
        const found = pairs.find(([name]) => file.path === `from them/${name}`)
        return found ? bytesFile(file.path, found[1]) : file
      })

    test('a note that was edited', async () => {
      const result = await check(changes(['note.txt', bytes(`${text('note.txt')} Please pay at once.`)]))
      expect(result).toMatchObject({ condition: 'changed', findings: ['note.txt is not as it was handed over.'] })
    })

    test('a verdict that was raised', async () => {
      const raised = bytes(text(MANIFEST_NAME).replace('"verdict": "identical"', '"verdict": "faithful"'))
      expect(text(MANIFEST_NAME)).not.toBe(new TextDecoder().decode(raised))
      const result = await check(changes([MANIFEST_NAME, raised]))
      expect(result.condition).toBe('changed')
      expect(result.findings.join()).toContain('hand-over.json is not as it was handed over')
    })

    test('a film that was exchanged, and its sum in the manifest with it', async () => {
      const other = await writeFilm('apng', [...FRAMES].reverse())
      const forged = bytes(text(MANIFEST_NAME).replace(sum(bytesAt('leaf.png')), sum(other)))
      const result = await check(changes(['leaf.png', other], [MANIFEST_NAME, forged]))
      expect(result.condition).toBe('changed')
      expect(result.findings.join()).toContain('do not agree on leaf.png')
      expect(result.deliveries[0]).toMatchObject({ condition: 'changed' })
      expect(result.deliveries[0]!.sentence).toContain('one of the two was changed afterwards')
      // and the list of sums made to fit as well: the frames still speak
      const sums = text('checksums.sha256')
        .replace(sum(bytesAt('leaf.png')), sum(other))
        .replace(sum(bytesAt(MANIFEST_NAME)), sum(forged))
      const all = await check(changes(['leaf.png', other], [MANIFEST_NAME, forged], ['checksums.sha256', bytes(sums)]))
      expect(all).toMatchObject({ condition: 'changed', findings: [] })
    })

    test.each([
      ['a list that lost a line', (sums: string) => sums.replace(/.*proof\.pdf\n/, ''), 'has no sum of proof.pdf'],
      ['a list with another', (sums: string) => `${sums}${'0'.repeat(64)}  extra.mov\n`, 'names extra.mov'],
      ['a list that is none', () => 'all is well', 'no list of sums'],
      ['a list with a name twice', (sums: string) => sums + sums, 'no list of sums']
    ])('%s', async (_, change, why) => {
      const result = await check(changes(['checksums.sha256', bytes(change(text('checksums.sha256')))]))
      expect(result.condition).toBe('changed')
      expect(result.findings.join()).toContain(why)
    })

    test('papers or sums that are gone', async () => {
      for (const name of ['note.html', 'proof.pdf', 'checksums.sha256']) {
        const result = await check(arrived.filter(file => file.path !== `from them/${name}`))
        expect(result).toMatchObject({ condition: 'missing' })
        expect(result.findings.join()).toContain(`${name} is missing.`)
      }
    })

    test('a strange file, a paper in another place, a name that comes twice; what systems leave is none', async () => {
      const beside = (...more: FileRef[]): Promise<string[]> =>
        check([...arrived, ...more]).then(({ condition, strangers }) => [condition, ...strangers])
      expect(await beside(bytesFile('from them/readme.exe', new Uint8Array(2)))).toEqual([
        'surplus',
        'from them/readme.exe'
      ])
      expect((await beside(bytesFile('from them/leaf frames/note.txt', new Uint8Array(2))))[0]).toBe('surplus')
      expect((await beside(bytesFile('from them/leaf.png', new Uint8Array(2))))[0]).toBe('surplus')
      expect(await beside(bytesFile('from them/.DS_Store', new Uint8Array(2)))).toEqual(['untouched'])
    })

    test('one of an earlier version is checked as far as it goes, and says so', async () => {
      const { papers: _, ...rest } = JSON.parse(text(MANIFEST_NAME)) as Record<string, unknown>
      const result = await check(changes([MANIFEST_NAME, bytes(JSON.stringify({ ...rest, version: 2 }))]))
      expect(result.condition).toBe('untouched')
      expect(result.sentence).toContain('were not checked')
    })
  })

  describe('a signature', () => {
    const sealed = async (key: HouseKey): Promise<FileRef[]> => [
      ...arrived.filter(file => !/hand-over\.json|checksums|note|proof/.test(file.path)),
      ...(await papers(manifest, told, key)).map(p => bytesFile(`from them/${p.name}`, p.bytes))
    ]

    test('says by whom it is, and that nothing has changed; by another key, or of other sums, it does not hold', async () => {
      const [house, other] = [await makeKey('Fernbrook Post'), await makeKey('Somebody else')]
      const files = await sealed(house)
      const asked = (from: readonly FileRef[], by: HouseKey | null = house): ReturnType<typeof check> =>
        checkHandOver(from, { host, pool }, { by: by && publicHalf(by) })
      const good = await asked(files)
      expect(good).toMatchObject({ condition: 'untouched', signed: { by: 'Fernbrook Post', holds: true } })
      expect(good.sentence).toBe(`Nothing has changed. Signed by “Fernbrook Post”, key ${printOf(house.public)}.`)
      expect(await asked(files, other)).toMatchObject({ condition: 'changed', signed: { holds: true } })
      const bare = await asked(arrived)
      expect(bare).toMatchObject({ condition: 'changed', signed: null })
      expect(bare.findings.join()).toContain('It is not signed')
      const sums = (files.find(file => file.path.endsWith('.sha256')) as Extract<FileRef, { kind: 'bytes' }>).bytes
      const forged = files.map(file =>
        file.path.endsWith('.sha256') ? bytesFile(file.path, new Uint8Array([...sums, 10])) : file
      )
      const broken = await asked(forged, null)
      expect(broken).toMatchObject({ condition: 'changed', signed: { holds: false } })
      expect(broken.sentence).not.toContain('Signed by')
      // signed anew by another who calls themselves the same
      const same = await sealed(await makeKey('Fernbrook Post'))
      expect((await asked(same)).findings.join()).toContain('another key')
    })

    test('that is damaged ends in words; a key whose halves do not belong together signs nothing', async () => {
      const house = await makeKey('Fernbrook Post')
      const files = await sealed(house)
      const seal = (files.find(file => file.path.endsWith('signature.json')) as Extract<FileRef, { kind: 'bytes' }>)
        .bytes
      for (let seed = 1; seed <= 60; seed++) {
        const result = await check(
          files.map(file => (file.path.endsWith('signature.json') ? bytesFile(file.path, damage(seal, seed)) : file))
        )
        if (result.signed?.holds !== true) expect(result.condition).toBe('changed')
      }
      const mixed = { ...house, public: (await makeKey('Other')).public }
      await expect(papers(manifest, told, mixed)).rejects.toThrow('do not belong together')
      await expect(papers(manifest, told, { ...house, private: 'AAAA' })).rejects.toThrow('do not belong together')
    })
  })

  test('a damaged manifest, or none, ends in clear words', async () => {
    await expect(check([bytesFile('a.mov', new Uint8Array(4))])).rejects.toMatchObject({ kind: 'unreadable' })
    const good = bytesAt(MANIFEST_NAME)
    for (let seed = 1; seed <= 300; seed++) await survives(() => check(replaced(MANIFEST_NAME, damage(good, seed))))
  })
})

describe('the papers', () => {
  test('checksums are those any other program computes', () => {
    const lines = new TextDecoder().decode(bytesAt('checksums.sha256')).trim().split('\n')
    expect(lines).toHaveLength(10)
    for (const line of lines) {
      const [sum, file] = line.split('  ') as [string, string]
      expect(sum).toBe(createHash('sha256').update(bytesAt(file)).digest('hex'))
    }
  })

  test('the published schema is the one in force', async () => {
    expect(JSON.parse(await readFile(path.join(root, 'docs/handover.schema.json'), 'utf8'))).toEqual(
      JSON.parse(JSON.stringify(manifestSchema()))
    )
  })

  test('the note says what a receiver needs, in lines that fit, and explains its words', () => {
    const note = toText(noteBlocks(manifest, told))
    for (const said of [
      'leaf.png',
      '24×16',
      '4 frames',
      '12 frames a second',
      'straight',
      'image sequence',
      'What wrong looks like',
      '<img src="leaf.png"'
    ])
      expect(note).toContain(said)
    for (const [word] of TERMS) expect(note).toContain(word)
    const long = note.split('\n').filter(line => line.length > 78 && !/ {2}|<|=/.test(line))
    expect(long).toEqual([])
  })

  test('the pages escape what comes from names, and load nothing from elsewhere', () => {
    const page = toHtml('Fernbrook <screens>', proofBlocks(manifest, told))
    expect(page).toContain('Fernbrook &lt;screens&gt;')
    expect(page).not.toMatch(/<script|<link|src="(?!data:)|url\(/)
    expect(page).toContain('data:image/png;base64,iVBORw0KGgo')
    expect(page).toContain('Identical')
    // what a table calls ΔE is explained on the same page
    expect(page).toContain('CIEDE2000')
  })

  test('the PDF opens in a reader, has pages and a title', async () => {
    const pdf = await PDFDocument.load(bytesAt('proof.pdf'))
    expect(pdf.getPageCount()).toBeGreaterThanOrEqual(2)
    expect(pdf.getTitle()).toContain('proof of transparency')
    const long: Block[] = [
      { kind: 'paragraph', text: 'word '.repeat(4000) },
      { kind: 'code', text: 'x'.repeat(3000) },
      { kind: 'table', head: ['a', 'b'], rows: [['→ ≤ Δ', '日本 ✓']] }
    ]
    expect((await PDFDocument.load(await toPdf('t', long, new Date(0)))).getPageCount()).toBeGreaterThan(3)
  })
})

describe('markup for a page', () => {
  const file = (
    format: string,
    name: string
  ): { format: string; path: string; width: number; height: number; name: string } => ({
    format,
    path: name,
    width: 64,
    height: 36,
    name: 'a "leaf"'
  })

  test('the film first, then pictures from small to widely known, each with its type', () => {
    const text = pageMarkup([
      file('gif', 'leaf.gif'),
      file('apng', 'leaf.png'),
      file('webm-vp9', 'my leaf.webm'),
      file('webp-animated', 'leaf.webp'),
      file('quicktime-png', 'leaf.mov')
    ])!
    const order = ['my%20leaf.webm', 'leaf.webp', 'leaf.png', 'leaf.gif'].map(name => text.indexOf(name))
    expect(order.every((at, i) => at > (order[i - 1] ?? -1))).toBe(true)
    expect(text).not.toContain('leaf.mov')
    expect(text).toContain('type="video/webm; codecs=vp9"')
    expect(text).toContain('alt="a &#34;leaf&#34;"')
  })

  test('one picture is one element; nothing playable is no markup', () => {
    expect(pageMarkup([file('webp-animated', 'leaf.webp')])).toBe(
      '<img src="leaf.webp" width="64" height="36" alt="a &#34;leaf&#34;">\n'
    )
    expect(pageMarkup([file('quicktime-png', 'leaf.mov')])).toBeNull()
    expect(markupAdvice([{ format: 'webm-vp9' }]).join(' ')).toContain('There is no fallback')
  })
})
