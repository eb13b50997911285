/** What is decided over a whole clip: GIF's one palette, and the quantisers that bring a film to a size. */
import sharp from 'sharp'
import { expect, test } from 'vitest'
import { memorySink } from '../../core/base/files/sinks'
import { formatById } from '../../core/open/registry'
import { budgetFor, COARSEST, quantiserOf } from '../../core/media/codecs/vpx/rate'
import { newOutlet } from '../../core/job/outlet/outlet'
import { planPour } from '../../core/job/outlet/plan'
import { estimateSize } from '../../core/run/pour/estimate-size'
import { pour } from '../../core/run/pour/pour'
import { openSource } from '../../core/open/open'
import { specAsFound } from '../../core/open/stored'
import { withDepth } from '../../core/frame/depth'
import { moth } from '../../demo/scenes'
import { inlinePool } from '../../platform/node/pool'
import { bytesFile, testHost, writeFilm } from './support'

const host = await testHost()
const pool = inlinePool(host, 2)

test(
  'a GIF with one palette holds it once, every frame is read right by another decoder, and flat colours ' +
    'stay the same throughout',
  async () => {
    const frames = Array.from({ length: 6 }, (_, i) => withDepth(moth(i / 6), 8, host.kernels))
    const spec = specAsFound('survey', 'moth', 'apng', [bytesFile('moth.png', await writeFilm('apng', frames))])
    const { facts } = await openSource(spec, host)
    const format = formatById('gif')
    const made: Record<string, Uint8Array> = {}
    for (const palette of ['clip', 'frame']) {
      const outlet = {
        ...newOutlet('o', format),
        options: { palette, dither: false, threshold: 50, matte: 'none', plays: 0 }
      }
      const plan = planPour(facts, outlet, null)
      const sink = memorySink()
      await pour({ source: spec, plan, target: { kind: 'film', sink } }, { host, pool })
      made[palette] = sink.bytes()
      const { bytes: estimate } = await estimateSize({ source: spec, plan, host, pool })
      expect(Math.abs(estimate / made[palette].length - 1)).toBeLessThan(0.25)
    }
    // bit 7 of the screen's flags: a palette for all
    expect(made.clip![10]! & 0x80).toBe(0x80)
    expect(made.frame![10]! & 0x80).toBe(0)
    expect(made.clip!.length).toBeLessThan(made.frame!.length)
    const image = sharp(made.clip, { pages: -1 })
    const { data, info } = await image.ensureAlpha().raw().toBuffer({ resolveWithObject: true })
    const size = data.length / 6
    expect(info.height / 6).toBe(frames[0]!.height)
    const colours = new Set<number>()
    let [sum, count] = [0, 0]
    frames.forEach((frame, n) => {
      for (let i = 0; i < size; i += 4) {
        const solid = frame.samples[i + 3]! >= 128
        if ((data[n * size + i + 3] === 255) !== solid) throw new Error(`frame ${n + 1}: alpha is wrong at ${i / 4}`)
        if (!solid) continue
        colours.add(data.readUIntBE(n * size + i, 3))
        for (let c = 0; c < 3; c++) sum += Math.abs(data[n * size + i + c]! - frame.samples[i + c]!)
        count += 3
      }
    })
    expect(colours.size).toBeLessThanOrEqual(255)
    expect(sum / count).toBeLessThan(4)
  }
)

test('an empty clip has a palette too', async () => {
  const { survey } = formatById('gif')
  expect(survey!.join([new Uint8Array(0)])).toEqual(new Uint8Array(768))
})

/** An encoder that halves its bytes every nine steps, with content that changes. */
function film(
  total: number,
  frames: number,
  every: number,
  hardness: (n: number) => number,
  finest = 0
): { bytes: number; quantisers: number[] } {
  const pixels = 640 * 360
  const budget = budgetFor(total, frames, every, pixels, finest)
  let bytes = 0
  const quantisers: number[] = []
  for (let n = 0; n < frames; n++) {
    const key = n % every === 0
    const q = budget.quantiser(key)
    const colour = hardness(n) * pixels * 0.12 * (key ? 1 : 0.2) * 2 ** (-q / 9)
    quantisers.push(q)
    budget.spent(key, colour, 300)
    bytes += colour + 300 + 40
  }
  return { bytes, quantisers }
}

test('a film comes out near the size asked for, whatever its content, and never finer than the quality', () => {
  for (const total of [60_000, 200_000, 600_000]) {
    for (const hardness of [
      () => 1,
      () => 3,
      (n: number) => (n < 60 ? 0.5 : 2.5),
      (n: number) => 1 + Math.sin(n / 7)
    ]) {
      const { bytes } = film(total, 120, 30, hardness)
      // at the finest an easy film has nothing more to spend
      if (bytes < total * 0.9) expect(film(1e9, 120, 30, hardness).bytes).toBeLessThan(total)
      expect(bytes).toBeLessThan(total * 1.12)
    }
  }
  expect(Math.min(...film(10_000_000, 60, 30, () => 1, quantiserOf(80)).quantisers)).toBe(quantiserOf(80))
  expect(Math.max(...film(1000, 60, 30, () => 5).quantisers)).toBe(COARSEST)
  expect([quantiserOf(0), quantiserOf(88), quantiserOf(100)]).toEqual([63, 5, 0])
})
