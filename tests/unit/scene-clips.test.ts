/** Other sources within a scene: which picture is seen when, code for code, and what is refused. */
import fc from 'fast-check'
import { mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { withAlphaMode } from '../../core/frame/alpha'
import { STRAIGHT, type AlphaMode, type Frame } from '../../core/frame/frame'
import { sceneAbroad, sceneSpec, sceneText } from '../../core/draw/scene/as-file'
import { pictureAt } from '../../core/draw/scene/clips'
import type { ClipLook } from '../../core/draw/scene/elements/clip'
import { emptyScene, newElement, type SceneSize } from '../../core/draw/scene/fresh'
import { figure } from '../../core/draw/scene/elements/shape'
import { relaid } from '../../core/draw/scene/relaid'
import { SceneRenderer } from '../../core/draw/scene/render'
import type { Element, Scene } from '../../core/draw/scene/scene'
import type { Look } from '../../core/draw/scene/elements/kinds'
import { openSource } from '../../core/open/open'
import { specAsFound } from '../../core/open/stored'
import type { FilesSpec, SceneSpec, SourceSpec } from '../../core/source/source'
import { encodePng } from '../../core/media/pictures/png/encode'
import { WorkContext } from '../../core/open/context'
import { specKey } from '../../core/source/identity'
import { builtCommandLine, runIn } from './command-line'
import { bytesFile, noise, testHost, writeFilm } from './support'

const host = await testHost()
const SIZE: SceneSize = { width: 64, height: 48, rate: [24, 1], seconds: 1 }
const [WIDE, HIGH] = [16, 12]
const BLACK: AlphaMode = { mode: 'premultiplied', matte: '#000000' }

const given = Array.from({ length: 4 }, (_, n) => noise({ width: WIDE, height: HIGH, depth: 16, seed: n + 1 }))

/** The pictures as a sequence of PNG, at 12 frames a second. */
function plate(id: string, frames: readonly Frame[], alpha: AlphaMode = STRAIGHT): FilesSpec {
  const files = frames.map((frame, n) => bytesFile(`plate_${n + 1}.png`, encodePng(host, frame)))
  const found = specAsFound(id, 'plate', 'png-sequence', files)
  return { ...found, numbers: [1, 2, 3, 4], interpretation: { ...found.interpretation, rate: [12, 1], alpha } }
}

const clip = (more: Partial<ClipLook> = {}): ClipLook => ({
  kind: 'clip',
  source: 'plate',
  title: 'moth plate',
  width: WIDE,
  height: HIGH,
  from: 0,
  ends: 'holds',
  ...more
})
const element = (look: Look, more: Partial<Element> = {}): Element => ({
  ...newElement('one', 'The moth', look, SIZE),
  ...more
})
const sceneOf = (...elements: Element[]): Scene => ({ ...emptyScene('test', SIZE), elements })
const showing = (scene: Scene, others: Record<string, SourceSpec> = { plate: plate('p', given) }): SceneSpec => {
  const of = sceneSpec(scene)
  return { kind: 'scene', id: of.id, name: of.name, of, others }
}

async function framesOf(spec: SourceSpec, ...indices: number[]): Promise<Frame[]> {
  const source = await openSource(spec, host)
  try {
    const frames: Frame[] = []
    for (const index of indices) frames.push(await source.frame(index))
    return frames
  } finally {
    await source.close()
  }
}

/** The codes of the middle of a frame, where the clip lies. */
function middle({ samples, width, height }: Frame): number[] {
  const rows: number[] = []
  for (let y = (height - HIGH) / 2; y < (height + HIGH) / 2; y++) {
    const at = 4 * (y * width + (width - WIDE) / 2)
    rows.push(...samples.slice(at, at + 4 * WIDE))
  }
  return rows
}

/** The most that alpha differs by, and what a colour differs by over black. */
function apart(found: readonly number[], due: readonly number[]): { alpha: number; light: number } {
  let [alpha, light] = [0, 0]
  for (let i = 0; i < due.length; i += 4) {
    alpha = Math.max(alpha, Math.abs(found[i + 3]! - due[i + 3]!))
    for (let c = 0; c < 3; c++) {
      const over = (codes: readonly number[]): number => (codes[i + c]! * codes[i + 3]!) / 65535
      light = Math.max(light, Math.abs(over(found) - over(due)))
    }
  }
  return { alpha, light }
}

describe('which picture is seen', () => {
  test('a clip plays at its own rate, from the picture that is asked for, and holds its last or begins again', () => {
    const facts = { frames: 4, rate: [12, 1] as [number, number] }
    const seen = (more: Partial<ClipLook>): number[] =>
      Array.from({ length: 12 }, (_, n) => pictureAt(clip(more), facts, [24, 1], n / 24))
    expect(seen({})).toEqual([0, 0, 1, 1, 2, 2, 3, 3, 3, 3, 3, 3])
    expect(seen({ ends: 'repeats' })).toEqual([0, 0, 1, 1, 2, 2, 3, 3, 0, 0, 1, 1])
    expect(seen({ from: 2, ends: 'repeats' })).toEqual([2, 2, 3, 3, 2, 2, 3, 3, 2, 2, 3, 3])
    expect(seen({ from: 99 })).toEqual(Array(12).fill(3))
  })

  test('at a rate of its own or the scene’s, a clip of the same rate shows each picture once, however odd the rate', () => {
    const rates = fc.constantFrom<[number, number]>(
      [24000, 1001],
      [30000, 1001],
      [25, 1],
      [12, 1],
      [60000, 1001],
      [7, 3]
    )
    fc.assert(
      fc.property(rates, fc.integer({ min: 1, max: 500 }), fc.nat(499), fc.boolean(), (rate, frames, at, own) => {
        const seen = pictureAt(clip(), { frames, rate: own ? rate : null }, rate, (at * rate[1]) / rate[0])
        expect(seen).toBe(Math.min(at, frames - 1))
      })
    )
  })
})

describe('rendered', () => {
  test('a clip between no pixels is laid code for code, picture after picture', async () => {
    const scene = sceneOf(element(clip()))
    const frames = await framesOf(showing(scene), 0, 1, 2, 4, 7, 23)
    for (const [n, due] of [0, 0, 1, 2, 3, 3].entries()) {
      const { alpha, light } = apart(middle(frames[n]!), [...given[due]!.samples])
      expect(alpha).toBeLessThan(2)
      expect(light).toBeLessThan(2)
    }
    const around = [...frames[0]!.samples.slice(0, 4 * 64 * 17)]
    expect(around.every(code => code === 0)).toBe(true)
  })

  test('what is stored premultiplied is shown as what is stored straight', async () => {
    const scene = sceneOf(element(clip()))
    const stored = given.map(frame => ({ ...withAlphaMode(frame, BLACK, host.kernels), alpha: STRAIGHT }))
    const [straight] = await framesOf(showing(scene), 2)
    const [premultiplied] = await framesOf(showing(scene, { plate: plate('q', stored, BLACK) }), 2)
    const { alpha, light } = apart(middle(premultiplied!), middle(straight!))
    expect(alpha).toBeLessThan(2)
    expect(light).toBeLessThan(3)
  })

  test('it begins when its element comes, and fades evenly in alpha', async () => {
    const fading = element(clip(), {
      delay: 0.25,
      entrance: { kind: 'fade', seconds: 0.25, ease: 'linear', side: 'left' }
    })
    const [before, half, whole] = await framesOf(showing(sceneOf(fading)), 5, 9, 12)
    expect(before!.samples.every(code => code === 0)).toBe(true)
    // three frames in it shows its second picture, half come
    const due = [...given[1]!.samples]
    const found = middle(half!)
    for (let i = 3; i < due.length; i += 4) expect(Math.abs(found[i]! - due[i]! / 2)).toBeLessThan(2)
    expect(apart(middle(whole!), [...given[3]!.samples]).alpha).toBeLessThan(2)
  })

  test('a clip runs at its speed, stands still, goes backwards, and goes as its own time says', async () => {
    const rate = { frames: 6, rate: [10, 1] as [number, number] }
    const shown = (look: { from?: number; ends?: 'holds' | 'repeats' }, ...seconds: number[]): number[] =>
      seconds.map(at => pictureAt({ from: 0, ends: 'holds', ...look }, rate, [25, 1], at))
    expect(shown({}, 0, 0.1, 0.3, 9)).toEqual([0, 1, 3, 5])
    // backwards each is seen as long as forwards, down to the very first
    expect(shown({ from: 3 }, -0, -0.05, -0.1, -0.25, -0.3, -9)).toEqual([3, 3, 2, 1, 0, 0])
    expect(shown({ from: 2, ends: 'repeats' }, -0.2, -0.3, -0.4, -0.5, -0.6)).toEqual([0, 2, 1, 0, 2])
    expect(shown({ from: 2, ends: 'repeats' }, 0.3, 0.4, 0.8)).toEqual([5, 2, 2])

    const of = (more: Partial<ClipLook>, tracks: Element['tracks'] = []): Promise<Frame[]> =>
      framesOf(showing(sceneOf(element(clip(more), { tracks }))), 0, 3, 6)
    const plain = await framesOf(showing(sceneOf(element(clip()))), 0, 3, 6, 9, 12)
    const samples = (frames: readonly Frame[]): number[][] => frames.map(frame => [...frame.samples])
    expect(samples(await of({ speed: 2 }))).toEqual(samples([plain[0]!, plain[2]!, plain[4]!]))
    expect(samples(await of({ speed: 0 }))).toEqual(samples([plain[0]!, plain[0]!, plain[0]!]))
    const back = await framesOf(showing(sceneOf(element(clip()))), 4, 2, 0)
    expect(samples(await of({ speed: -1, from: 2 }))).toEqual(samples(back))
    // its own time: from half a second back to its beginning, in a quarter of one
    const keys = [
      { at: 0, value: 0.5, ease: 'linear' as const },
      { at: 0.25, value: 0, ease: 'linear' as const }
    ]
    const [first, , last] = await of({}, [{ of: 'seconds', keys }])
    const [due] = await framesOf(showing(sceneOf(element(clip()))), 12)
    expect([...first!.samples]).toEqual([...due!.samples])
    expect([...last!.samples]).toEqual([...plain[0]!.samples])
  })

  test('moments of a frame are of the pictures that are seen in them', async () => {
    // both halves of a frame at 6 a second lie in pictures of their own
    const scene: Scene = { ...sceneOf(element(clip())), rate: [6, 1], frames: 6, blur: { moments: 2, open: 1 } }
    const [first] = await framesOf(showing(scene), 0)
    const found = middle(first!)
    for (let i = 3; i < found.length; i += 4) {
      const due = (given[0]!.samples[i]! + given[1]!.samples[i]!) / 2
      expect(Math.abs(found[i]! - due)).toBeLessThan(2)
    }
  })

  test('a scene shows another scene, in a group, and at another size', async () => {
    const bar = { ...emptyScene('bar', SIZE), elements: [element(figure('rectangle', 20, 10, { fillOpacity: 0.6 }))] }
    const group = newElement('g', 'Group', { kind: 'group' }, SIZE)
    const inside = element(clip({ source: 'bar', width: 64, height: 48 }), { inside: 'g', x: 0, y: 0 })
    const scene = sceneOf(group, inside)
    const alphaOf = async (of: Scene): Promise<number> => {
      const [{ samples, width, height }] = (await framesOf(showing(of, { bar: sceneSpec(bar) }), 0)) as [Frame]
      return samples[4 * ((height / 2) * width + width / 2) + 3]!
    }
    expect(await alphaOf(scene)).toBe(39321)
    expect(await alphaOf(relaid(scene, 128, 96))).toBe(39321)
  })

  test('what is not at hand, or cannot be read, is one error that names it; all else of the scene is laid out', async () => {
    const scene = sceneOf(element(clip()))
    await expect(framesOf(showing(scene, {}), 0)).rejects.toThrow(/The moth.*"moth plate".*not at hand/)
    await expect(framesOf(sceneSpec(scene), 0)).rejects.toThrow(/not at hand/)
    const broken = { ...plate('b', given), files: [bytesFile('plate_1.png', encodePng(host, given[0]!).slice(0, 90))] }
    await expect(framesOf(showing(scene, { plate: broken }), 0)).rejects.toThrow(/plate_1.png/)
    const laid = await SceneRenderer.of(scene, host)
    expect(laid.boxes(0)).toEqual({ one: [24, 18, 40, 30] })
  })

  test('a loop of a clip closes where the clip repeats in time', async () => {
    const closes = async (seconds: number, ends: ClipLook['ends']): Promise<boolean> => {
      const scene = { ...sceneOf(element(clip({ ends }))), frames: Math.round(24 * seconds) }
      const source = await openSource(plate('p', given), host)
      const closes = await (await SceneRenderer.of(scene, host, new Map([['plate', source]]))).closes()
      await source.close()
      return closes
    }
    expect(await closes(8 / 24, 'repeats')).toBe(true)
    expect(await closes(10 / 24, 'repeats')).toBe(false)
    expect(await closes(8 / 24, 'holds')).toBe(false)
  })
})

test('workers tell scenes apart by what their sources are taken for, and lend what a scene shows', async () => {
  const scene = sceneOf(element(clip()))
  const keys = [STRAIGHT, BLACK].map(mode => specKey(showing(scene, { plate: plate('p', given, mode) })))
  expect(new Set([...keys, specKey(sceneSpec(scene))]).size).toBe(3)
  const context = new WorkContext(host)
  const spec = showing(scene)
  const [one, other] = [await context.source(spec), await context.source(spec.others.plate!)]
  const seen = middle(await one.frame(0))
  expect(apart(seen, [...(await other.frame(0)).samples]).alpha).toBeLessThan(2)
})

test('what a scene shows is closed with it, and when it cannot be opened', async () => {
  let [opened, closed] = [0, 0]
  const counting: typeof host = {
    ...host,
    async openFile(file) {
      const reader = await host.openFile(file)
      opened++
      return {
        name: reader.name,
        size: reader.size,
        read: (from, length) => reader.read(from, length),
        close: () => {
          closed++
          return reader.close()
        }
      }
    }
  }
  const scene = sceneOf(element(clip()))
  const film = specAsFound('f', 'f', 'apng', [bytesFile('f.png', await writeFilm('apng', given))])
  const source = await openSource(showing(scene, { plate: film }), counting)
  await source.frame(0)
  await source.close()
  expect(opened).toBeGreaterThan(1)
  expect(closed).toBe(opened)
  const broken = { ...sceneSpec(scene), files: [bytesFile('scene.json', new TextEncoder().encode('{'))] }
  const spec: SceneSpec = { kind: 'scene', id: 'x', name: 'x', of: broken, others: { plate: film } }
  await expect(openSource(spec, counting)).rejects.toThrow(/not a complete JSON/)
  expect(closed).toBe(opened)
})

describe('on the command line', async () => {
  const folder = await mkdtemp(path.join(tmpdir(), 'pour-clips-'))
  afterAll(() => rm(folder, { recursive: true, force: true }))
  beforeAll(async () => {
    await builtCommandLine()
    for (const [n, frame] of given.entries())
      await writeFile(path.join(folder, `moth plate_12fps_${n + 1}.png`), encodePng(host, frame))
    const scene = sceneOf(element(clip({ source: 'moth plate_12fps_1.png' })))
    await writeFile(path.join(folder, 'with clip.json'), sceneText(scene))
    await writeFile(path.join(folder, 'abroad.json'), sceneText(sceneAbroad(sceneOf(element(clip())))))
  })

  test('a scene shows the file that it names, and what is poured is proven against it', async () => {
    const { code, out, error } = await runIn(folder, [
      ...['scene', 'with clip.json', '--format', 'quicktime-png', '--to', 'out.mov', '--json']
    ])
    expect([code, error.replaceAll(/.*is taken as.*\n/g, '')]).toEqual([0, ''])
    expect(JSON.parse(out)).toMatchObject({ frames: 24, verdict: 'identical' })
  })

  test('one that names a file which is not there is refused in words', async () => {
    const { code, error } = await runIn(folder, ['scene', 'abroad.json', '--format', 'gif', '--to', 'x.gif'])
    expect(code).toBe(3)
    expect(error).toMatch(/abroad\.json.*"moth plate"/)
  })
})
