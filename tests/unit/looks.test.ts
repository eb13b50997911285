/** Looking at a source while it is poured: each frame once, what looking alone finds, and the whole decides. */
import { mkdtemp, readdir, readFile, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { beforeAll, describe, expect, test } from 'vitest'
import { memorySink } from '../../core/base/files/sinks'
import { withAlphaMode } from '../../core/frame/alpha'
import { STRAIGHT, type AlphaMode, type Frame } from '../../core/frame/frame'
import { newOutlet } from '../../core/job/outlet/outlet'
import { planPour } from '../../core/job/outlet/plan'
import { examineSource } from '../../core/judge/examine/examine-source'
import type { Examination } from '../../core/judge/examine/examination'
import { Looks } from '../../core/judge/examine/looks'
import { modeAdvised } from '../../core/judge/examine/mode'
import { encodePng } from '../../core/media/pictures/png/encode'
import { openSource } from '../../core/open/open'
import { formatById } from '../../core/open/registry'
import { specAsFound } from '../../core/open/stored'
import { stepKindById } from '../../core/prepare/kinds'
import { newStep } from '../../core/prepare/preparation'
import { pour } from '../../core/run/pour/pour'
import { passingOf } from '../../core/run/pour/passing'
import { preparedSpec, type FilesSpec, type SourceSpec } from '../../core/source/source'
import { strap } from '../../demo/scenes'
import { inlinePool } from '../../platform/node/pool'
import { builtCommandLine, runIn } from './command-line'
import { bytesFile, testHost, vectorFile, writeFilm } from './support'

const host = await testHost()
const { kernels } = host
const COUNT = 40
/** Frames that a spread over so many takes. */
const SPREAD = Array.from({ length: 12 }, (_, n) => Math.floor(((n + 0.5) * COUNT) / 12))

const premultiplied: AlphaMode = { mode: 'premultiplied', matte: '#000000' }
/** A strap that says nothing about its alpha at the frames of the spread: clear there, premultiplied elsewhere. */
const misleading = (i: number): Frame => {
  const frame = strap(0.2 + i / COUNT)
  return SPREAD.includes(i)
    ? { ...frame, samples: frame.samples.slice().fill(0) }
    : { ...withAlphaMode(frame, premultiplied, kernels), alpha: STRAIGHT }
}

let pngs: Uint8Array[]
beforeAll(async () => {
  pngs = await Promise.all(Array.from({ length: COUNT }, (_, i) => encodePng(host, misleading(i))))
})

const sequence = (): FilesSpec => {
  const files = pngs.map((bytes, i) => bytesFile(`s_${i + 1}.png`, bytes))
  const spec = specAsFound('s', 's', 'png-sequence', files)
  return {
    ...spec,
    numbers: pngs.map((_, i) => i + 1),
    interpretation: { ...spec.interpretation, rate: [25, 1], rateFrom: 'asked' }
  }
}

const inMode = (spec: FilesSpec, alpha: AlphaMode): FilesSpec => ({
  ...spec,
  id: `${spec.id} ${alpha.mode}`,
  interpretation: { ...spec.interpretation, alpha }
})

/** A pool that tells which frames it was asked to look at. */
function counting() {
  const inner = inlinePool(host)
  const asked: number[] = []
  const pool: typeof inner = {
    ...inner,
    run(name, args, options) {
      if (name === 'look') asked.push(args[1] as number)
      return inner.run(name, args, options)
    }
  }
  return { pool, asked }
}

const factsOf = async (spec: SourceSpec) => {
  const source = await openSource(spec, host)
  await source.close()
  return source.facts
}

const plainly = async (spec: SourceSpec): Promise<Examination> =>
  examineSource(spec, await factsOf(spec), { pool: inlinePool(host) })

const lookingAt = async (spec: SourceSpec) => {
  const { pool, asked } = counting()
  return { looks: new Looks(spec, await factsOf(spec), { pool }), pool, asked }
}

/** Pours a source through Animation RLE, its frames looked at as they pass; `range` as an outlet says it. */
async function passed(spec: SourceSpec, { looks, pool }: Awaited<ReturnType<typeof lookingAt>>, range?: object) {
  const facts = await factsOf(spec)
  const outlet = { ...newOutlet('o', formatById('quicktime-animation')), ...range }
  const plan = planPour(facts, outlet, null)
  const passing = passingOf(spec, looks)
  const sink = memorySink()
  await pour({ source: spec, plan, target: { kind: 'film', sink }, passing }, { host, pool })
  return { bytes: sink.bytes(), passing }
}

describe('a spread, then the whole', () => {
  test('no frame is asked for twice, and the whole is what looking alone finds', async () => {
    const { looks, asked } = await lookingAt(sequence())
    const few = await looks.spread()
    expect(asked).toEqual(SPREAD)
    expect(few!.ribbon.filter(({ clear }) => clear === 1)).toHaveLength(SPREAD.length)
    const whole = await looks.whole()
    expect([...asked].sort((a, b) => a - b)).toEqual(Array.from({ length: COUNT }, (_, i) => i))
    expect(whole).toEqual(await plainly(sequence()))
  })

  test('frames that build on each other are looked at as a whole', async () => {
    const spec = specAsFound('v', 'v', 'webm-vp9', [await vectorFile('vp9-alpha.webm')])
    const { looks, asked } = await lookingAt(spec)
    expect(looks.facts.intra).toBeUndefined()
    expect(await looks.spread()).toBeNull()
    expect(asked).toEqual([])
  })

  test('a few frames that do not know, of a file that does not say, are nothing to begin on', async () => {
    const frames = Array.from({ length: COUNT }, (_, i) => misleading(i))
    const bytes = await writeFilm('avi-raw', frames)
    const { looks, asked } = await lookingAt(specAsFound('a', 'a', 'avi-raw', [bytesFile('a.avi', bytes)]))
    expect(looks.facts.claim.mode).toBe('unknown')
    expect(await looks.spread()).toBeNull()
    expect(asked).toEqual(SPREAD)
    expect((await looks.whole()).alpha.mode).toBe('premultiplied')
    expect(asked).toHaveLength(COUNT)
  })

  test('a spread with frames that cannot be read stands on the others, and the whole tells them', async () => {
    const spec = sequence()
    const files = spec.files.map((file, i) =>
      i === SPREAD[3] ? bytesFile(file.path, pngs[i]!.slice().fill(9, 60, 80)) : file
    )
    const { looks, asked } = await lookingAt({ ...spec, files })
    expect(await looks.spread()).not.toBeNull()
    const { findings } = await looks.whole()
    expect(findings[0]).toMatchObject({ id: 'unreadable-frames', frames: [SPREAD[3]! + 1] })
    expect(asked).toHaveLength(COUNT)
  })

  test('while somebody else looks, nobody is asked; what was held back goes on when let go', async () => {
    const { looks, asked } = await lookingAt(sequence())
    const letGo = looks.hold()
    const whole = looks.whole()
    await new Promise(resolve => setTimeout(resolve, 20))
    expect(asked).toEqual([])
    const { looks: other } = await lookingAt(sequence())
    expect(other.wants(COUNT)).toBe(false)
    letGo()
    expect((await whole).ribbon).toHaveLength(COUNT)
    expect(asked).toHaveLength(COUNT)
  })
})

describe('a pour looks at what passes', () => {
  const steps = (kind: string, settings: Record<string, unknown>) => [newStep('s', stepKindById(kind), settings)]
  const cases: [string, (spec: FilesSpec) => SourceSpec, number][] = [
    ['as it is', spec => spec, 0],
    ['taken as premultiplied', spec => inMode(spec, premultiplied), 0],
    ['prepared', spec => preparedSpec(inMode(spec, premultiplied), steps('alpha-opacity', { to: 50 }), {}), 0],
    ['turned round in time', spec => preparedSpec(spec, steps('reverse', {}), {}), 0],
    ['cut', spec => preparedSpec(spec, steps('range', { from: 3, to: COUNT - 5 }), {}), 7]
  ]
  test.each(cases)('%s', async (_, made, left) => {
    const held = await lookingAt(sequence())
    const { passing } = await passed(made(sequence()), held)
    expect(passing).not.toBeNull()
    expect(held.asked).toEqual([])
    expect(await held.looks.whole()).toEqual(await plainly(sequence()))
    // a cut passes as many frames as it takes, and by their places the first of the source's are looked at
    expect(held.asked).toHaveLength(left)
  })

  test('an outlet that takes a part leaves the rest to be asked for', async () => {
    const held = await lookingAt(sequence())
    await passed(sequence(), held, { range: { from: 11, to: 20 } })
    expect(await held.looks.whole()).toEqual(await plainly(sequence()))
    expect(held.asked).toHaveLength(COUNT - 10)
    expect(held.asked.some(index => index >= 10 && index < 20)).toBe(false)
  })

  test('bytes are the same whether anybody looks or not', async () => {
    const spec = preparedSpec(sequence(), steps('alpha-opacity', { to: 70 }), {})
    const held = await lookingAt(sequence())
    const { bytes } = await passed(spec, held)
    await held.looks.whole()
    const again = await passed(spec, held)
    expect(Buffer.compare(bytes, again.bytes)).toBe(0)
  })

  test('frames of files that are taken otherwise meanwhile are none of those that are looked at', async () => {
    const { looks } = await lookingAt(sequence())
    const { interpretation } = sequence()
    const taken = (more: Partial<typeof interpretation>): FilesSpec => ({
      ...sequence(),
      id: 'now',
      interpretation: { ...interpretation, ...more }
    })
    expect(passingOf(taken({ alpha: premultiplied, rate: [24, 1] }), looks)).not.toBeNull()
    expect(passingOf(taken({ damaged: { numbers: [3], as: 'skip' } }), looks)).toBeNull()
    expect(passingOf({ ...sequence(), files: sequence().files.slice(1) }, looks)).toBeNull()
  })

  test('alpha that is taken for none does not pass, and is not looked at', async () => {
    const { looks } = await lookingAt(sequence())
    expect(passingOf(inMode(sequence(), { mode: 'none' }), looks)).toBeNull()
  })
})

describe('the command line', () => {
  test(
    'what a few frames said and all deny is poured again, told, and is what the whole says',
    { timeout: 300_000 },
    async () => {
      await builtCommandLine()
      const folder = await mkdtemp(path.join(tmpdir(), 'looks '))
      await Promise.all(pngs.map((png, i) => writeFile(path.join(folder, `a strap_${1001 + i}.png`), png)))
      const { looks } = await lookingAt(sequence())
      const { claim } = looks.facts
      // the premise: a spread says one thing, the whole another
      expect(modeAdvised((await looks.spread())!.alpha, claim)).toEqual(STRAIGHT)
      expect(modeAdvised((await looks.whole()).alpha, claim)).toEqual(premultiplied)
      const asked = ['convert', folder, '--format', 'quicktime-animation', '--rate', '25']
      const found = await runIn(folder, [...asked, '--to', 'found.mov'])
      expect(found.code, found.error).toBe(0)
      expect(found.error).toContain(
        'a few frames said straight; all 40 say premultiplied on black, so it is poured again.'
      )
      const told = await runIn(folder, [...asked, '--source-alpha', 'premultiplied', '--to', 'told.mov'])
      expect(told.error).not.toContain('poured again')
      expect(
        Buffer.compare(await readFile(path.join(folder, 'found.mov')), await readFile(path.join(folder, 'told.mov')))
      ).toBe(0)
      expect((await readdir(folder)).filter(name => !name.endsWith('.png')).sort()).toEqual(['found.mov', 'told.mov'])
    }
  )
})
