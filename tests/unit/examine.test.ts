import { beforeAll, expect, test } from 'vitest'
import { examineSource } from '../../core/judge/examine/examine-source'
import { encodePng } from '../../core/media/pictures/png/encode'
import { openSource } from '../../core/open/open'
import { specAsFound } from '../../core/open/stored'
import { inlinePool } from '../../platform/node/pool'
import { examine, type Examination } from '../../core/judge/examine/examination'
import { lookAt } from '../../core/judge/examine/look'
import { modeAdvised } from '../../core/judge/examine/mode'
import { readAs, withAlphaMode } from '../../core/frame/alpha'
import { OPAQUE, STRAIGHT, type AlphaMode, type Frame } from '../../core/frame/frame'
import { stepKindById } from '../../core/prepare/kinds'
import { newStep, prepared, Step } from '../../core/prepare/preparation'
import type { AlphaClaim, SourceFacts } from '../../core/source/source'
import { moth, pollen, potOnScreen, potShadow, strap, strapOnPage } from '../../demo/scenes'
import { bytesFile, noise, sharpFrame, testHost, truth, vectors, strapFacts } from './support'
import { readFile } from 'node:fs/promises'
import path from 'node:path'

const { kernels } = await testHost()
const UNKNOWN: AlphaClaim = { mode: 'unknown', matte: null, says: 'nothing' }

function factsFor(frames: readonly Frame[], more: Partial<SourceFacts> = {}): SourceFacts {
  const [{ width, height, depth }] = frames as [Frame]
  return strapFacts({ width, height, frames: frames.length, rate: [12, 1], bitDepth: depth, claim: UNKNOWN, ...more })
}

const judge = (frames: readonly Frame[], more: Partial<SourceFacts> = {}): Examination =>
  examine(
    frames.map((frame, i) => ({ frame: i + 1, look: lookAt(frame, kernels) })),
    factsFor(frames, more)
  )
const ids = (frames: readonly Frame[], more: Partial<SourceFacts> = {}): string[] =>
  judge(frames, more).findings.map(f => f.id)

let straight: Frame[]
beforeAll(async () => void (straight = await Promise.all([1, 2, 3, 4, 5, 6].map(n => truth('straight8', n)))))

const stored = (alpha: AlphaMode): Frame[] =>
  straight.map(frame => ({ ...withAlphaMode(frame, alpha, kernels), alpha: STRAIGHT }))

test('straight pixels are found straight', () => {
  const { alpha } = judge(straight)
  expect(alpha.mode).toBe('straight')
  expect(alpha.confidence).toBeGreaterThan(0.7)
})

test('premultiplied on black, white and a colour are found, with the colour, from the pixels alone', async () => {
  const black = judge(await Promise.all([1, 2, 3, 4, 5, 6].map(n => truth('premultiplied8', n))))
  expect(black.alpha).toMatchObject({ mode: 'premultiplied', matte: '#000000' })
  const white = judge(await Promise.all([1, 2, 3, 4, 5, 6].map(n => truth('on-white8', n))))
  expect(white.alpha).toMatchObject({ mode: 'premultiplied', matte: '#ffffff' })
  const green = judge(stored({ mode: 'premultiplied', matte: '#3fae4b' }))
  expect(green.alpha).toMatchObject({ mode: 'premultiplied', matte: '#3fae4b' })
  for (const { alpha } of [black, white, green]) expect(alpha.confidence).toBeGreaterThan(0.8)
  expect(black.findings.map(f => f.id)).toContain('unlabelled-premultiplied')
})

test('the demo moth is straight, and premultiplied once it is multiplied', () => {
  const frames = [0, 0.2, 0.4].map(moth)
  expect(judge(frames).alpha.mode).toBe('straight')
  expect(
    judge(
      frames.map(frame => ({
        ...withAlphaMode(frame, { mode: 'premultiplied', matte: '#000000' }, kernels),
        alpha: STRAIGHT
      }))
    ).alpha
  ).toMatchObject({ mode: 'premultiplied', matte: '#000000' })
})

test('a translucent bar with lettering, all on clear black, is straight', () => {
  const { alpha, findings } = judge([0.3, 0.5, 0.7].map(strap), {
    claim: { mode: 'straight', matte: null, says: 'PNG is straight by its standard' }
  })
  expect(alpha).toMatchObject({ mode: 'straight' })
  expect(alpha.confidence).toBeGreaterThan(0.85)
  expect(findings.map(f => f.id)).not.toContain('claim-contradicts-pixels')
})

test('where both readings look the same, it says so instead of guessing', () => {
  const black = straight.map(frame => ({
    ...frame,
    samples: frame.samples.map((code, i) => (i % 4 === 3 ? code : 0)) as Uint8Array
  }))
  const { alpha } = judge(black)
  expect(alpha.mode).toBe('unknown')
  expect(alpha.confidence).toBe(0)
  expect(modeAdvised(alpha, UNKNOWN)).toEqual(STRAIGHT)
})

test('a claim that the pixels contradict is a fault, and sure pixels overrule it', () => {
  const claim: AlphaClaim = { mode: 'premultiplied', matte: '#000000', says: 'graphics mode 0x102' }
  const moths = [0, 0.2, 0.4].map(moth)
  const found = judge(moths, { claim })
  expect(found.findings.map(f => f.id)).toContain('claim-contradicts-pixels')
  expect(found.findings[0]!.sentence).toContain(
    'Taken as straight, though the file says premultiplied on black (graphics mode 0x102)'
  )
  expect(modeAdvised(found.alpha, claim)).toEqual(STRAIGHT)
  // a few small frames raise a doubt and change nothing
  const few = judge(straight, { claim })
  expect(few.findings.map(f => f.id)).toContain('mode-doubted')
  expect(modeAdvised(few.alpha, claim)).toMatchObject({ mode: 'premultiplied', matte: '#000000' })
  expect(ids(straight, { claim: { mode: 'straight', matte: null, says: 'graphics mode 0x100' } })).not.toContain(
    'claim-contradicts-pixels'
  )
})

test('a background left on is told, with its flat colour', () => {
  const { findings } = judge([0.3, 0.5, 0.7].map(strapOnPage))
  expect(findings[0]).toMatchObject({ id: 'background-left-on', severity: 'fault' })
  expect(findings[0]!.sentence).toContain(
    'Alpha is solid in every pixel of all 3 frames; the background is one flat colour, #e9e4d6'
  )
})

test('the strap that comes from nothing and leaves to nothing is no stuttering loop', () => {
  const found = ids([0, 0.3, 0.5, 1].map(strap))
  expect(found).not.toContain('first-frame-repeats')
  expect(found).toContain('clear-frames')
})

const alphaOf = (map: (a: number) => number): Frame[] =>
  straight.map(frame => ({
    ...frame,
    samples: frame.samples.map((code, i) => (i % 4 === 3 ? map(code) : code)) as Uint8Array
  }))

test.each<[string, () => Frame[], Partial<SourceFacts>?]>([
  [
    'solid-everywhere',
    () => [noise({ width: 20, height: 20, depth: 8, alpha: OPAQUE, runs: 0 })].map(f => readAs(f, STRAIGHT))
  ],
  ['clear-everywhere', () => alphaOf(() => 0)],
  ['limited-range-alpha', () => alphaOf(a => Math.round(16 + (a * 219) / 255))],
  ['on-off-alpha', () => alphaOf(a => (a > 127 ? 255 : 0))],
  ['never-solid', () => alphaOf(a => Math.round(a * 0.6))],
  ['never-clear', () => alphaOf(a => Math.max(a, 1))],
  ['first-frame-repeats', () => [...straight, straight[0]!]],
  ['held-frames', () => [straight[0]!, straight[1]!, straight[1]!, straight[2]!]],
  ['no-rate', () => straight, { rate: null }],
  ['odd-rate', () => straight, { rate: [1000, 1] }],
  ['few-levels', () => alphaOf(a => Math.round(a / 32) * 32 - (a > 240 ? 1 : 0))],
  ['colour-untagged', () => straight, { kind: 'QuickTime Animation RLE' }],
  ['non-square-pixels', () => straight, { pixelAspect: [10, 11] }]
])('%s is found where it was made on purpose, and nowhere else', (id, make, more) => {
  expect(ids(make(), more)).toContain(id)
  expect(ids(straight)).not.toContain(id)
})

test('16-bit files that hold only 8-bit codes are told from those that do not', () => {
  const wide = straight.map(frame => ({
    ...frame,
    depth: 16 as const,
    samples: Uint16Array.from(frame.samples, code => code * 257)
  }))
  expect(ids(wide)).toContain('eight-in-sixteen')
  expect(ids([0, 0.2].map(moth))).not.toContain('eight-in-sixteen')
})

test('light outside alpha is found in a premultiplied picture with added glow', () => {
  const glow = stored({ mode: 'premultiplied', matte: '#000000' })
  for (const frame of glow) for (let i = 0; i < 120; i += 4) frame.samples.set([90, 80, 20, 0], 4 * 96 * 2 + i)
  const { findings } = judge(glow)
  expect(findings.map(f => f.id)).toContain('light-outside-alpha')
})

test('coverage adds up and the histogram counts every pixel', () => {
  const found = judge(straight)
  expect(found.histogram.reduce((a, b) => a + b, 0)).toBe(96 * 64 * 6)
  for (const { clear, partial, solid } of found.ribbon) expect(clear + partial + solid).toBeCloseTo(1, 12)
})

test('a frame that cannot be read is a finding, and the rest is judged', async () => {
  const host = await testHost()
  const bytes = await Promise.all(
    [1, 2, 3, 4].map(seed => encodePng(host, noise({ width: 12, height: 12, depth: 8, seed })))
  )
  bytes[2]!.fill(9, 70, 80)
  const spec = {
    ...specAsFound(
      's',
      's',
      'png-sequence',
      bytes.map((b, i) => bytesFile(`p_${i + 1}.png`, b))
    ),
    numbers: [1, 2, 3, 4]
  }
  const source = await openSource(spec, host)
  const found = await examineSource(spec, source.facts, { pool: inlinePool(host) })
  expect(found.findings[0]).toMatchObject({ id: 'unreadable-frames', severity: 'fault', frames: [3] })
  expect(found.findings[0]!.sentence).toContain('p_3.png')
  expect(found.ribbon).toHaveLength(4)
  expect(found.ribbon[2]).toEqual({ clear: 0, partial: 0, solid: 0 })
  const none = { ...spec, files: [spec.files[2]!], numbers: null }
  await expect(examineSource(none, (await openSource(none, host)).facts, { pool: inlinePool(host) })).rejects.toThrow(
    /p_3.png/
  )
})

test('a background, a screen, light on black and shadow on white each offer the step that takes them out', () => {
  const offers = (frames: Frame[]) => judge(frames).findings.find(f => f.mend)?.mend
  expect(offers([0.3, 0.6].map(strapOnPage))).toMatchObject({
    kind: 'flat-background',
    settings: { colour: '#e9e4d6' }
  })
  expect(offers([0.3, 0.6].map(potOnScreen))).toMatchObject({ kind: 'chroma-key' })
  expect(offers([0.3, 0.6].map(pollen))).toMatchObject({ kind: 'glow-to-alpha' })
  expect(offers([0.3, 0.6].map(potShadow))).toMatchObject({ kind: 'flat-background', settings: { colour: '#ffffff' } })
})

test('every step that a finding offers is one that exists, with settings it takes', () => {
  const faulty = [
    alphaOf(a => Math.round(16 + (a * 219) / 255)),
    alphaOf(a => (a > 127 ? 255 : 0)),
    alphaOf(a => Math.round(a * 0.6)),
    alphaOf(a => Math.max(a, 1)),
    [...straight, straight[0]!],
    [0.3].map(potOnScreen),
    [0.3].map(pollen),
    [0.3].map(strapOnPage)
  ]
  const mends = faulty.flatMap(frames => judge(frames).findings.flatMap(f => f.mend ?? []))
  const steps = mends.flatMap(mend =>
    mend.id === 'step' ? [newStep('m', stepKindById(mend.kind), mend.settings)] : []
  )
  expect(new Set(steps.map(step => step.kind))).toEqual(
    new Set([
      'alpha-full-range',
      'alpha-soften',
      'alpha-levels',
      'drop-last',
      'chroma-key',
      'glow-to-alpha',
      'flat-background',
      'close-loop'
    ])
  )
  for (const step of steps) expect(Step.safeParse(step).success).toBe(true)
})

test('a step that a finding offers removes what was found', async () => {
  const mended = async (frames: Frame[]): Promise<string[]> => {
    const { findings } = judge(frames)
    const mend = findings.find(f => f.mend?.id === 'step')?.mend
    if (mend?.id !== 'step') throw new Error('no step is offered')
    const source = prepared(
      { facts: factsFor(frames), frame: i => Promise.resolve(frames[i]!), close: () => Promise.resolve() },
      [Step.parse(newStep('m', stepKindById(mend.kind), mend.settings))],
      new Map(),
      kernels
    )
    return ids(await Promise.all(Array.from({ length: source.facts.frames }, (_, i) => source.frame(i))))
  }
  expect(await mended(alphaOf(a => Math.round(16 + (a * 219) / 255)))).not.toContain('limited-range-alpha')
  expect(await mended(alphaOf(a => Math.round(a * 0.6)))).not.toContain('never-solid')
  expect(await mended(alphaOf(a => Math.max(a, 1)))).not.toContain('never-clear')
  expect(await mended([...straight, straight[0]!])).not.toContain('first-frame-repeats')
  for (const frames of [
    [0.3, 0.6].map(strapOnPage),
    [0.3, 0.6].map(potOnScreen),
    [0.3, 0.6].map(pollen),
    [0.3, 0.6].map(potShadow)
  ])
    expect(await mended(frames)).not.toEqual(
      expect.arrayContaining([expect.stringMatching(/left-on|solid-everywhere/)])
    )
})

test('straight smoke that brightens with its alpha is no light outside alpha, and keeps its colour', async () => {
  const names = [1, 2, 3, 4, 5].map(n => path.join(vectors, `smoke-straight/f.000${n}.png`))
  const frames = await Promise.all(names.map(async name => sharpFrame(await readFile(name))))
  const claim: AlphaClaim = { mode: 'straight', matte: null, says: 'PNG is straight by its standard' }
  const found = judge(frames, { claim })
  expect(found.alpha.mode).toBe('straight')
  expect(modeAdvised(found.alpha, claim)).toEqual(STRAIGHT)
  expect(found.findings.map(f => f.id)).not.toContain('light-outside-alpha')
})
