/**
 * Outlets that size, retime and cut: what they plan, what the ledger tells, and how they are done on the command line.
 */
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { assess, recipeOf } from '../../core/run/delivery/assess'
import { formatById } from '../../core/open/registry'
import { sceneText } from '../../core/draw/scene/as-file'
import { starters } from '../../core/draw/scene/starters'
import { newOutlet, type Outlet } from '../../core/job/outlet/outlet'
import { outletKinds, ownSteps, withOwnSteps } from '../../core/job/outlet/own-steps'
import { emptyReceiver, writeReceiver } from '../../core/job/outlet/receiver'
import { readOutlet, writeOutlet } from '../../core/job/outlet/text'
import { stepKindById } from '../../core/prepare/kinds'
import { newStep } from '../../core/prepare/preparation'
import type { FilesSpec } from '../../core/source/source'
import { builtCommandLine, runIn } from './command-line'
import { strapFacts } from './support'

const facts = strapFacts({ width: 1920, height: 1080 })

function outlet(
  format: Outlet['format'],
  steps: [string, Record<string, unknown>][],
  more: Partial<Outlet> = {}
): Outlet {
  const made = steps.map(([kind, settings], n) => newStep(`s${n}`, stepKindById(kind), settings))
  return { ...newOutlet('o', formatById(format)), steps: made, ...more }
}

describe('what is planned', () => {
  test('one source through three outlets: a film, a small GIF and a sequence at half the rate', () => {
    const film = assess({ facts, outlet: outlet('quicktime-prores-4444', []), marks: null }).plan()!
    const small = assess({
      facts,
      outlet: outlet('gif', [
        ['fit', { width: 480, height: 270 }],
        ['convert-rate', { rate: '12.5' }]
      ]),
      marks: null
    }).plan()!
    const half = assess({
      facts,
      outlet: outlet('png-sequence', [['convert-rate', { rate: '12.5' }]]),
      marks: null
    }).plan()!
    const said = [film, small, half].map(({ deliverable: d, frames }) => [
      d.width,
      d.height,
      d.frames,
      d.rate,
      frames.length
    ])
    expect(said).toEqual([
      [1920, 1080, 50, [25, 1], 50],
      [480, 270, 25, [25, 2], 25],
      [1920, 1080, 25, [25, 2], 25]
    ])
    expect(film.steps).toBeUndefined()
  })

  test('a range is taken first, and what follows is done to those frames alone', () => {
    const given = outlet('gif', [['reverse', {}]], { range: { from: 11, to: 20 } })
    const { steps, frames, deliverable } = assess({ facts, outlet: given, marks: null }).plan()!
    expect(steps!.map(({ kind }) => kind)).toEqual(['range', 'reverse'])
    expect([frames.length, deliverable.frames, frames[0]]).toEqual([10, 10, 0])
    const marked = assess({ facts, outlet: { ...given, range: 'marked' }, marks: { from: 3, to: 5 } }).plan()!
    expect(marked.deliverable.frames).toBe(3)
    const beyond = assess({ facts, outlet: { ...given, range: { from: 90, to: 99 } }, marks: null })
    expect(beyond.problems.join(' ')).toContain('90')
  })

  test('a step that cannot be done stands against the pour, and one that is off is not done', () => {
    const tooLarge = outlet('gif', [['fit', { width: 16384, height: 16384 }]])
    expect(assess({ facts, outlet: tooLarge, marks: null }).problems.join(' ')).toMatch(/Fit into a size: .*larger/)
    const off = { ...tooLarge, steps: tooLarge.steps.map(step => ({ ...step, on: false })) }
    expect(assess({ facts, outlet: off, marks: null }).plan()!.deliverable.width).toBe(1920)
    expect(ownSteps(off, facts, null)).toEqual([])
  })

  test('results are out of date when a step or the range it is done to changes, and not when the same is done', () => {
    const plan = (settings: Record<string, unknown>, to = 50): string =>
      recipeOf(
        assess({ facts, outlet: outlet('gif', [['scale', settings]], { range: { from: 1, to } }), marks: null }).plan()!
      )
    expect(plan({ by: 50 })).toBe(plan({ by: 50 }))
    expect(plan({ by: 50 })).not.toBe(plan({ by: 40 }))
    expect(plan({ by: 50 }, 20)).not.toBe(plan({ by: 50 }, 30))
    const before = assess({ facts, outlet: outlet('gif', []), marks: null }).plan()!
    const { steps: _, ...former } = before.outlet
    expect(recipeOf({ ...before, outlet: former as Outlet })).toBe(recipeOf(before))
  })

  test('its steps come behind those of the bench', () => {
    const of = { kind: 'files', id: 'a', name: 'a' } as FilesSpec
    const [own] = ownSteps(outlet('gif', [['reverse', {}]]), facts, null)
    const bench = newStep('b', stepKindById('alpha-invert'))
    const spec = withOwnSteps({ kind: 'prepared', id: 'a', name: 'a', of, steps: [bench], others: {} }, [own!])
    expect(spec.kind === 'prepared' && spec.steps.map(({ kind }) => kind)).toEqual(['alpha-invert', 'reverse'])
    expect(withOwnSteps(of, [])).toBe(of)
  })

  test('kinds that need a picture to be set, or another source, are left to the bench', () => {
    const kinds = outletKinds.flatMap(({ kinds: list }) => list.map(({ id }) => id))
    expect(kinds).toEqual(expect.arrayContaining(['fit', 'fill', 'stretch', 'scale', 'convert-rate', 'play-rate']))
    for (const id of ['crop', 'drawn-mask', 'range']) expect(kinds).not.toContain(id)
  })
})

test('an outlet as text comes back as it was, and what is none is refused in a sentence', () => {
  const given = outlet('gif', [['fit', { width: 480, height: 270 }]])
  expect({ id: 'o', ...readOutlet(writeOutlet(given)) }).toEqual(given)
  expect(() => readOutlet('{')).toThrow(/not an outlet/)
  expect(() => readOutlet('{"name":"x"}')).toThrow(/not an outlet/)
  expect(() => readOutlet(writeOutlet(given).replace('"fit"', '"melt"'))).toThrow(/not an outlet/)
})

describe('on the command line', async () => {
  const folder = await mkdtemp(path.join(tmpdir(), 'pour-outlets-'))
  afterAll(() => rm(folder, { recursive: true, force: true }))
  beforeAll(async () => {
    await builtCommandLine()
    const strap = starters[0]!.make(
      { name: 'Ada Fern', line: 'Palm House' },
      { width: 160, height: 90, rate: [25, 1], seconds: 0.8 }
    )
    await writeFile(path.join(folder, 'strap.json'), sceneText(strap))
    const small = outlet('apng', [
      ['fill', { width: 60, height: 60 }],
      ['convert-rate', { rate: '12.5' }]
    ])
    await writeFile(path.join(folder, 'small square.json'), writeOutlet(small))
  })

  test('a saved outlet is poured as it says; the ledger tells its steps as recipe', async () => {
    const { code, out, error } = await runIn(folder, [
      ...['convert', 'strap.json', '--outlet', 'small square.json', '--to', 'small.png', '--json']
    ])
    expect([code, error]).toEqual([0, ''])
    const { ledger, frames } = JSON.parse(out) as { frames: number; ledger: { stage: string; sentence: string }[] }
    expect(frames).toBe(10)
    const recipe = ledger.filter(({ stage }) => stage === 'recipe').map(({ sentence }) => sentence)
    expect(recipe.join(' ')).toMatch(/160x90 became 60x60/)
    expect(recipe.join(' ')).toMatch(/25 f\/s became/)
    expect(ledger.filter(({ stage }) => stage === 'prepared').map(({ sentence }) => sentence)).toEqual([
      'Nothing was changed on the bench.'
    ])
    const inspected = JSON.parse((await runIn(folder, ['inspect', 'small.png', '--json'])).out) as object
    expect(inspected).toMatchObject({ width: 60, height: 60, frames: 10 })
  })

  test.each([
    [['--outlet', 'nothing.json'], 3, 'cannot be read'],
    [['--outlet', 'strap.json'], 2, 'not an outlet'],
    [['--outlet', 'small square.json', '--alpha', 'none'], 2, '--alpha is said by the outlet']
  ] as const)('%j ends with %i', async (args, ends, why) => {
    const { code, error } = await runIn(folder, ['convert', 'strap.json', ...args, '--to', 'x.png'])
    expect([code, error]).toEqual([ends, expect.stringContaining(why)])
    await expect(readFile(path.join(folder, 'x.png'))).rejects.toThrow()
  })

  test('what a receiver demands is met or waived by name, or nothing is poured', async () => {
    const asks = { ...emptyReceiver('Fernbrook screens'), rate: [25, 1] as [number, number], largestBytes: 10 }
    await writeFile(path.join(folder, 'screens.json'), writeReceiver(asks))
    const call = [
      'convert',
      'strap.json',
      '--outlet',
      'small square.json',
      '--receiver',
      'screens.json',
      '--to',
      'r.png'
    ]
    const refused = await runIn(folder, call)
    expect([refused.code, refused.error]).toEqual([5, expect.stringContaining('asks for 25 f/s; this plays at 12.5')])
    expect(refused.error).toContain('--waive rate')
    const heavy = await runIn(folder, [...call, '--waive', 'rate'])
    expect([heavy.code, heavy.error]).toEqual([5, expect.stringContaining('takes 10 bytes at most')])
    const waived = await runIn(folder, [...call, '--waive', 'rate,weight', '--set', 'existing=replace'])
    expect([waived.code, waived.error]).toEqual([0, ''])
    const none = await runIn(folder, ['convert', 'strap.json', '--format', 'gif', '--waive', 'rate', '--to', 'x.gif'])
    expect([none.code, none.error]).toEqual([2, expect.stringContaining('--waive goes with --receiver')])
  })
})
