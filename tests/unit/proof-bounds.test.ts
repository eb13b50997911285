/**
 * What `docs/proof.md` promises of verdicts, at, below and beyond each bound; and each of its parts is held by a test.
 */
import { readFile } from 'node:fs/promises'
import path from 'node:path'
import { describe, expect, test } from 'vitest'
import { STRAIGHT, type Depth, type Frame } from '../../core/frame/frame'
import { formatById } from '../../core/open/registry'
import { BIN } from '../../core/frame/kernels/kernels'
import { compareFrames, codesOf, type FrameComparison } from '../../core/judge/proof/compare'
import type { Evidence } from '../../core/judge/proof/evidence'
import { THRESHOLDS } from '../../core/judge/proof/thresholds'
import { reportOf } from '../../core/judge/proof/verdict'
import { wholeForm } from '../../core/media/formats/form'
import { specAsFound } from '../../core/open/stored'
import { storedFacts } from '../../core/open/stored'
import { bytesFile, noise, root, testHost, writeFilm } from './support'

const host = await testHost()
const PIXELS = 100_000

/** A frame of which a given number of pixels are clear, partial and solid, as due. */
function frameOf(clear: number, partial: number, solid: number, depth: Depth = 8): Frame {
  const full = codesOf(depth)
  const samples =
    depth === 8 ? new Uint8Array(4 * (clear + partial + solid)) : new Uint16Array(4 * (clear + partial + solid))
  for (let i = 0; i < samples.length / 4; i++) {
    const alpha = i < clear ? 0 : i < clear + partial ? Math.round(full / 2) : full
    samples.set([alpha ? 90 : 0, alpha ? 60 : 0, alpha ? 30 : 0, alpha], 4 * i)
  }
  return { width: samples.length / 4, height: 1, depth, samples, alpha: STRAIGHT, transfer: 'srgb' }
}

async function evidence(
  comparison: FrameComparison,
  { format = 'apng', depth = 8 as Depth, more = {} as Partial<Evidence['expected']>, delivered = {} } = {}
): Promise<Evidence> {
  const film = await writeFilm('apng', [noise({ width: 8, height: 8, depth: 8, seed: 1 })])
  const facts = await storedFacts(specAsFound('d', 'd', 'apng', [bytesFile('d.png', film)]), host)
  return {
    expected: {
      width: facts.width,
      height: facts.height,
      frames: 1,
      rate: null,
      ...wholeForm(depth, STRAIGHT),
      bytes: null,
      ...more
    },
    delivered: { ...facts, ...delivered },
    format: formatById(format as 'apng'),
    comparisons: [comparison],
    failures: [],
    answer: null,
    sha256: null
  }
}

const due = frameOf(40_000, 20_000, 40_000)
const same = compareFrames(due, due, host.kernels)
const verdictOf = async (...given: Parameters<typeof evidence>): Promise<string> =>
  reportOf(await evidence(...given)).verdict

/** As if colour differed by `each` in `count` of the pixels that are seen. */
function coloured(count: number, each: number): FrameComparison {
  const bins = same.colour.bins.slice()
  bins[Math.min(bins.length - 1, Math.floor(each / BIN))]! += count
  return {
    ...same,
    changed: count,
    colour: { ...same.colour, visible: PIXELS, sum: count * each, max: each, bins }
  }
}

describe('verdicts, at their bounds', () => {
  test('identical is every code; one that differs is not', async () => {
    expect(await verdictOf(same)).toBe('identical')
    expect(await verdictOf({ ...same, changed: 1, changedUnderClear: 1 })).toBe('faithful')
  })

  test.each([
    ['apng', 8, false, 1, 'faithful'],
    ['apng', 8, false, 2, 'visible-loss'],
    ['apng', 16, false, 1, 'faithful'],
    ['apng', 16, false, 2, 'visible-loss'],
    // a key that goes through the colour of a lossy codec: within 1 of 255, whatever the depth it is told in
    ['quicktime-prores-4444', 16, true, 257, 'faithful'],
    ['quicktime-prores-4444', 16, true, 258, 'visible-loss'],
    ['quicktime-prores-4444', 16, false, 2, 'visible-loss']
  ] as const)('%s at %i bits, as a key of its own %s, alpha %i codes off, is %s', async (...given) => {
    const [format, depth, paired, max, verdict] = given
    const off = { ...same, changed: 1, alpha: { ...same.alpha, max, sum: max, changed: 1 } }
    expect(await verdictOf(off, { format, depth, more: { paired } })).toBe(verdict)
  })

  test.each([
    [PIXELS, 0.99, 'faithful'],
    [PIXELS, 1, 'visible-loss'],
    // one in a thousand may lie beyond, one more may not
    [PIXELS / 1000, 20, 'faithful'],
    [PIXELS / 1000 + 1, 20, 'visible-loss']
  ] as const)('%i pixels of 100,000 off by %d are %s', async (count, each, verdict) => {
    expect(await verdictOf(coloured(count, each))).toBe(verdict)
  })

  test.each([
    ['a frame that cannot be read', {}, { failures: [{ frame: 1, sentence: 'It ends early.' }] }, 'unreadable'],
    ['no alpha', { claim: { mode: 'none', matte: null, says: 'nothing' } }, {}, 'alpha-missing'],
    ['the wrong mode', { claim: { mode: 'premultiplied', matte: '#000000', says: 'a flag' } }, {}, 'wrong-mode'],
    ['another count', { frames: 2 }, {}, 'wrong-count'],
    ['another size', { width: 9 }, {}, 'wrong-size'],
    ['another rate', { frames: 2, rate: [24, 1] }, { expected: { rate: [25, 1], frames: 2 } }, 'wrong-rate'],
    ['other sound', {}, { sound: { right: false, error: 'nothing is in it' } }, 'wrong-sound']
  ] as const)('%s is broken, though every code compared is equal', async (_, delivered, more, id) => {
    const given = await evidence(same, { delivered })
    const report = reportOf({
      ...given,
      ...more,
      expected: { ...given.expected, ...('expected' in more ? more.expected : {}) }
    } as Evidence)
    expect(report.verdict).toBe('broken')
    expect(report.findings.map(finding => finding.id)).toContain(id)
  })
})

describe('a background baked in, at its bounds', () => {
  const solid = (frame: Frame): Frame => ({
    ...frame,
    samples: frame.samples.map((code, i) => (i % 4 === 3 ? 255 : code)) as Uint8Array
  })
  const idsOf = async (from: Frame, to: Frame): Promise<string[]> =>
    reportOf(await evidence(compareFrames(from, to, host.kernels))).findings.map(({ id }) => id)

  test('a frame all solid is broken from 16 see-through pixels on; fewer are a loss like others', async () => {
    const [fifteen, sixteen] = [frameOf(15, 0, 9985), frameOf(16, 0, 9984)]
    expect(await idsOf(sixteen, solid(sixteen))).toContain('alpha-solid')
    expect(await idsOf(fifteen, solid(fifteen))).not.toContain('alpha-solid')
  })

  test('half of what was clear delivered solid is broken, a little less is not said to be baked in', async () => {
    const from = frameOf(1000, 4000, 5000)
    const filled = (count: number): Frame => {
      const samples = from.samples.slice()
      for (let i = 0; i < count; i++) samples[4 * i + 3] = 255
      return { ...from, samples: samples as Uint8Array }
    }
    expect(await idsOf(from, filled(500))).toContain('background-baked')
    expect(await idsOf(from, filled(499))).not.toContain('background-baked')
  })

  test('alpha that is the same everywhere is broken where several levels were due, and right where one was', async () => {
    const flat = (code: number): Frame => ({
      ...due,
      samples: due.samples.map((was, i) => (i % 4 === 3 ? code : was)) as Uint8Array
    })
    expect(await idsOf(due, flat(128))).toContain('alpha-constant')
    expect(await idsOf(flat(128), flat(128))).not.toContain('alpha-constant')
  })
})

test('a size is told beyond 15 % of what was asked, not at it', async () => {
  const idsOf = async (bytes: number): Promise<string[]> =>
    reportOf(await evidence(same, { more: { most: 1000 }, delivered: { bytes } })).findings.map(({ id }) => id)
  expect(await idsOf(1150)).not.toContain('larger-than-asked')
  expect(await idsOf(1151)).toContain('larger-than-asked')
})

test('thresholds stand with each verdict, and are those the page names', async () => {
  expect(reportOf(await evidence(same)).thresholds).toEqual(THRESHOLDS)
  const page = await readFile(path.join(root, 'docs/proof.md'), 'utf8')
  expect(page).toContain(`mean colour difference under ${THRESHOLDS.colourMean}`)
  expect(page).toContain(`${THRESHOLDS.colourShare * 100} % of visible pixels under ${THRESHOLDS.colourHigh}`)
  expect(page).toContain(`within ${THRESHOLDS.alphaCodes} code of the delivered depth`)
})

/** Each part of the page, and the test that holds it: file and name. */
const HELD: Record<string, [string, string]> = {
  'first holds four frames': ['mutations.test.ts', 'fingerprints of a pour that had taken wrong frames hide nothing'],
  'every frame is read back as soon as it is encoded': [
    'mutations.test.ts',
    'are not compared again while the file holds their bytes'
  ],
  'If the file was changed since': ['mutations.test.ts', 'count for nothing where the file was changed since'],
  'the four differs, frames are compared as if nothing had been noted': [
    'mutations.test.ts',
    'count for nothing where a witness finds other than was noted'
  ],
  '| identical |': ['proof-bounds.test.ts', 'identical is every code'],
  '| faithful |': ['proof-bounds.test.ts', 'pixels of 100,000 off by'],
  '| visible loss |': ['proof-bounds.test.ts', 'alpha %i codes off, is %s'],
  '| broken |': ['proof-bounds.test.ts', 'is broken, though every code compared is equal'],
  '**Alpha**': ['proof.test.ts', 'a comparison counts what changed'],
  '**Colour** is what can be seen': ['proof.test.ts', 'CIEDE2000 agrees with the published pairs'],
  'Colour under clear pixels is counted apart': ['proof.test.ts', 'colour changed only under clear pixels is a note'],
  '**Edges**': [
    'kernels.test.ts',
    'comparing frames of several bands adds up to what its twin counts, edges across borders included'
  ],
  '**Mode**': ['mutations.test.ts', 'a wrong rate and a flag that contradicts the pixels are found'],
  '**Named mistakes**': ['mutations.test.ts', 'a matte colour of its own is named in words'],
  '**Displaced frames**': ['mutations.test.ts', 'which frame was dropped, doubled or swapped is told'],
  '**A background baked in**': ['proof-bounds.test.ts', 'a frame all solid is broken from 16 see-through pixels on'],
  '**Size**': ['proof-bounds.test.ts', 'a size is told beyond 15 %'],
  '**Going on**': ['mutations.test.ts', 'a proof that was cut off goes on where it was'],
  '**Reader**': ['document.test.ts', 'the README and the pages on formats are drawn from the registry'],
  '## Who vouches for a format': ['../witness/written.test.ts', 'each depth and mode is what strangers see'],
  '## A file from outside': ['alone.test.ts', 'a file that says what its pixels are agrees with itself'],
  '## Every known break is named': ['mutations.test.ts', "describe('breaks'"],
  'every writable format that runs on Node.js must be proven right': [
    'mutations.test.ts',
    'unbroken deliveries of every format'
  ],
  '## The seam of a loop': ['sentences.test.ts', 'never is a seam said to close that moves further'],
  'No step where others move': [
    'alone.test.ts',
    'what a lossy codec leaves of a repeated frame is still a repeated frame'
  ],
  '## The ledger': ['ledger.test.ts', 'nothing lost: four stages that say so'],
  '| taken |': ['ledger.test.ts', 'nothing lost: four stages that say so'],
  '| prepared |': ['ledger.test.ts', 'steps tell what they changed, in pixels and frames'],
  '| recipe |': ['ledger.test.ts', 'a soft title as GIF is visible loss'],
  '| file |': ['ledger.test.ts', 'nothing lost: four stages that say so'],
  'The headline': ['ledger.test.ts', 'is the worst line that nobody asked for'],
  'A crop is as asked': ['ledger.test.ts', 'a crop is as asked; the head that it cuts off is not'],
  '*broken* ends with 4': ['cli.test.ts', 'ends with 4 for a broken proof'],
  'brighter than white': ['exr-files.test.ts', 'light beyond white is no sign of straight alpha'],
  'A time code goes on from the first frame delivered': [
    'timecode.test.ts',
    'a source goes on counting in what is made of it'
  ],
  '1. **Edges.**': ['examine.test.ts', 'premultiplied on black, white and a colour are found'],
  '2. **Fades.**': ['mode-matrix.test.ts', '95 of 100 cases that can be decided are'],
  '3. **Impossible pixels**': ['examine.test.ts', 'light outside alpha is found'],
  '4. **Clear pixels**': ['examine.test.ts', 'where both readings look the same, it says so'],
  '5. **Rims of clear areas**': ['mode-rims.test.ts', 'a guess is no reason to doubt what a file says'],
  "6. **The file's word.**": ['examine.test.ts', 'a claim that the pixels contradict is a fault'],
  'an answer is worth no more than such answers were worth': ['mode-corpus.test.ts', 'what is sure is right']
}

describe('the page about proofs', () => {
  test('each of its parts is held by a test that is there', async () => {
    const page = await readFile(path.join(root, 'docs/proof.md'), 'utf8')
    for (const [part, [file, name]] of Object.entries(HELD)) {
      expect(page, part).toContain(part)
      const text = await readFile(path.join(root, 'tests/unit', file), 'utf8')
      expect(text.includes(name), `${part}: ${file} has no "${name}"`).toBe(true)
    }
  })

  test('no heading, row or point of it is left out', async () => {
    const page = await readFile(path.join(root, 'docs/proof.md'), 'utf8')
    const points = page.split('\n').filter(line => /^(## |- \*\*|\d\. \*\*|\| [a-z])/.test(line))
    const exempt = ['## How it is computed', '## Which mode is it?']
    for (const line of points)
      expect(exempt.includes(line) || Object.keys(HELD).some(part => line.includes(part)), line).toBe(true)
  })
})
