/** A source that is poured before all of it was looked at. */
import { withAlphaMode } from '../../core/frame/alpha'
import { STRAIGHT, type Frame } from '../../core/frame/frame'
import { strap } from '../../demo/scenes'
import { testHost } from '../unit/support'
import { beginPlain, cell, complaints, drop, giveRate, png } from './support'
import { expect, test } from './test'

const COUNT = 96
/** Frames that are looked at first. */
const FIRST = Array.from({ length: 12 }, (_, n) => Math.floor(((n + 0.5) * COUNT) / 12))

/** Two by two straps, premultiplied; clear, and silent about it, where it is looked at first. */
async function misleading(i: number): Promise<Frame> {
  const { kernels } = await testHost()
  const one = withAlphaMode(strap(0.2 + i / COUNT), { mode: 'premultiplied', matte: '#000000' }, kernels)
  const [width, height] = [2 * one.width, 2 * one.height]
  const samples = new Uint8Array(4 * width * height)
  if (!FIRST.includes(i))
    for (let y = 0; y < height; y++)
      for (const half of [0, 1]) {
        const from = 4 * one.width * (y % one.height)
        samples.set(one.samples.subarray(from, from + 4 * one.width) as Uint8Array, 4 * (width * y + half * one.width))
      }
  return { ...one, width, height, samples, alpha: STRAIGHT }
}

test('a pour begun on a few frames is done again where all of them say otherwise', async ({ page }) => {
  test.setTimeout(240_000)
  const heard = complaints(page)
  const files = []
  for (let i = 0; i < COUNT; i++) files.push(await png(`crest opener_${1001 + i}.png`, await misleading(i)))
  await page.goto('/')
  await beginPlain(page)
  await drop(page, files)
  await expect(page.getByRole('rowheader')).toHaveCount(1)
  await giveRate(page, '25')
  // how far each pour came, as the cell says it
  await page.evaluate(() => {
    const told: string[] = []
    Object.assign(window, { told })
    const tell = (): void => {
      const state = document.querySelector('[data-cell]')?.getAttribute('data-state')
      if (state && told.at(-1) !== state) told.push(state)
    }
    new MutationObserver(tell).observe(document.body, { subtree: true, attributes: true, childList: true })
  })
  await cell(page, 0, 0).click()
  await page.getByRole('button', { name: 'Pour this cell' }).click()
  await expect(cell(page, 0, 0)).toHaveAttribute('data-state', /Identical|Faithful/, { timeout: 120_000 })
  const told = await page.evaluate(() => (window as unknown as { told: string[] }).told)
  const shares = told.flatMap(state => (state.startsWith('Pouring') ? [Number(/\d+/.exec(state)?.[0] ?? 0)] : []))
  expect(
    shares.filter((share, n) => n > 0 && share < shares[n - 1]!),
    told.join(', ')
  ).toHaveLength(1)
  await expect(page.getByRole('rowheader')).toContainText('premult. on black')
  await expect(page.getByRole('status')).toContainText(
    'a few frames looked straight; all 96 together are premultiplied'
  )
  // what the first one made is gone
  const kept = await page.evaluate(
    () =>
      new Promise<number>((resolve, reject) => {
        const opening = indexedDB.open('pour')
        opening.onerror = () => reject(opening.error!)
        opening.onsuccess = () => {
          const counting = opening.result.transaction('results').objectStore('results').count()
          counting.onsuccess = () => resolve(counting.result)
          counting.onerror = () => reject(counting.error!)
        }
      })
  )
  expect(kept).toBe(1)
  expect(heard).toEqual([])
})
