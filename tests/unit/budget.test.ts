/** Settings within a size: the best that stay within it, what was given up, and the nearest where nothing does. */
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { preparedSpec } from '../../core/source/source'
import { withinBudget } from '../../core/run/delivery/budget'
import { formatById } from '../../core/open/registry'
import { newOutlet, type Outlet } from '../../core/job/outlet/outlet'
import type { PourPlan } from '../../core/job/outlet/plan'
import { estimateSize } from '../../core/run/pour/estimate-size'
import { sceneSpec } from '../../core/draw/scene/as-file'
import { starters } from '../../core/draw/scene/starters'
import { openSource } from '../../core/open/open'
import { inlinePool } from '../../platform/node/pool'
import { testHost } from './support'

const host = await testHost()
const strap = sceneSpec(
  starters[0]!.make({ name: 'Ada Fern', line: 'Palm House' }, { width: 320, height: 180, rate: [25, 1], seconds: 2 })
)
const opened = await openSource(strap, host)
const { facts } = opened
await opened.close()

const outletOf = (format: Outlet['format'], options: Outlet['options'] = {}): Outlet => {
  const fresh = newOutlet('o', formatById(format))
  return { ...fresh, options: { ...fresh.options, ...options } }
}
/** Bytes that grow with the picture and the quality, as those of real coders do. */
const made = ({ deliverable: d, outlet }: PourPlan): Promise<number> =>
  Promise.resolve(Math.round(d.width * d.height * (0.1 + Number(outlet.options.quality ?? 100) / 100)))

describe('the best that stays within is found', () => {
  const all = facts.width * facts.height

  test('where it fits as it is, nothing is given up', async () => {
    const found = await withinBudget({ facts, outlet: outletOf('webm-vp9'), marks: null, limit: 2 * all }, made)
    expect(found).toMatchObject({ met: true, gaveUp: [], bytes: Math.round(all * 1.1) })
  })

  test('then quality, and only then size', async () => {
    const limit = Math.round(all * 0.8)
    const found = (await withinBudget({ facts, outlet: outletOf('webm-vp9'), marks: null, limit }, made))!
    expect(found.met).toBe(true)
    expect(found.gaveUp).toEqual([expect.stringMatching(/^quality 100 became (6\d)$/)])
    const small = (await withinBudget({ facts, outlet: outletOf('webm-vp9'), marks: null, limit: all / 5 }, made))!
    expect(small.met).toBe(true)
    expect(small.gaveUp.at(-1)).toBe('the picture is scaled to 50 %')
  })

  test('whatever the limit, it is met, or the nearest is said; a little more quality would not do', async () => {
    await fc.assert(
      fc.asyncProperty(fc.integer({ min: 200, max: 2 * all }), async limit => {
        const found = (await withinBudget({ facts, outlet: outletOf('webm-vp9'), marks: null, limit }, made))!
        expect(found.met).toBe(found.bytes <= limit * 0.94)
        const quality = Number(found.outlet.options.quality ?? 100)
        const [w, h] = [facts.width, facts.height]
        const by = Number(found.outlet.steps.at(-1)?.settings.by ?? 100) / 100
        const more = Math.round(w * by) * Math.round(h * by) * (0.1 + (quality + 1.01) / 100)
        if (found.met && quality < 100) expect(more).toBeGreaterThan(limit * 0.94)
        if (!found.met) expect(found.gaveUp).toContain('the picture is scaled to 25 %')
      }),
      { numRuns: 60 }
    )
  })

  test('a format without such a setting gets smaller pictures alone', async () => {
    const found = (await withinBudget({ facts, outlet: outletOf('apng'), marks: null, limit: all / 2 }, made))!
    expect(found).toMatchObject({ met: true, gaveUp: ['the picture is scaled to 50 %'] })
  })

  test('what cannot be poured has no settings', async () => {
    const unrated = { ...facts, rate: null }
    expect(await withinBudget({ facts: unrated, outlet: outletOf('gif'), marks: null, limit: 1 }, made)).toBeNull()
  })
})

test('on a real strap in WebM what is found really is within; where animated WebP cannot be, its nearest is said', async () => {
  const pool = inlinePool(host)
  const measure = async (plan: PourPlan): Promise<number> => {
    const source = preparedSpec(strap, plan.steps ?? [], {})
    return (await estimateSize({ source, plan, host, pool })).bytes
  }
  const film = outletOf('webm-vp9')
  const whole = (await withinBudget({ facts, outlet: film, marks: null, limit: 1e7 }, measure))!
  expect(whole.gaveUp).toEqual([])
  const half = (await withinBudget({ facts, outlet: film, marks: null, limit: whole.bytes * 0.6 }, measure))!
  expect(half.met).toBe(true)
  expect(half.bytes).toBeLessThanOrEqual(whole.bytes * 0.6)
  expect(half.gaveUp.length).toBeGreaterThan(0)
  const exact = outletOf('webp-animated', { coding: 'lossless' })
  const tiny = (await withinBudget({ facts, outlet: exact, marks: null, limit: 2000 }, measure))!
  expect([tiny.met, tiny.gaveUp.at(-1)]).toEqual([false, 'the picture is scaled to 25 %'])
})
