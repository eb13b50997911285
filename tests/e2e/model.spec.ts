/**
 * A model is drawn in the page: solid where it is, clear where it is not, with its shadow on an unseen floor as alpha.
 */
import { unzipSync } from 'fflate'
import { expect, test } from './test'
import { boxModel } from '../material/model'
import { sharpFrame } from '../unit/support'
import { beginPlain, bytesOf, cell, complaints, drop, sourceNames, withoutPicker } from './support'

test('a moving box is drawn over nothing, poured and proven', async ({ page }) => {
  test.setTimeout(150_000)
  const heard = complaints(page)
  await withoutPicker(page)
  await page.goto('/')
  await beginPlain(page)
  await drop(page, [{ name: 'seed box.glb', bytes: boxModel({ seconds: 0.2 }) }])
  await expect.poll(() => sourceNames(page), { timeout: 60_000 }).toEqual(['seed box'])
  await page.getByRole('rowheader').filter({ hasText: 'seed box' }).getByRole('button').click()
  await page.getByRole('link', { name: 'Bench' }).click()
  await page.locator('.el-select', { has: page.getByLabel('Size it is drawn at') }).click()
  await page.getByRole('option', { name: '256x144' }).click()
  await page.getByRole('link', { name: 'Board' }).click()
  await expect(page.getByRole('rowheader').filter({ hasText: 'seed box' })).toContainText('256×144')
  const png = cell(page, 0, 1)
  await png.click()
  await page.getByRole('button', { name: 'Pour this cell' }).click()
  await expect(png).toHaveAttribute('data-state', /Identical|Faithful/, { timeout: 90_000 })
  const waiting = page.waitForEvent('download')
  await page.getByRole('button', { name: 'Download' }).click()
  const files = Object.entries(unzipSync(await bytesOf(await waiting))).filter(([name]) => name.endsWith('.png'))
  expect(files).toHaveLength(5)
  const { samples, width, height } = await sharpFrame(files[0]![1])
  const at = (x: number, y: number): number[] => [...samples.subarray(4 * (y * width + x), 4 * (y * width + x) + 4)]
  const full = samples instanceof Uint8Array ? 255 : 65535
  expect([width, height]).toEqual([256, 144])
  // the middle is the box, green and solid; the corners are clear, and hold no colour
  const [r, g, b, a] = at(128, 72)
  expect(a).toBe(full)
  expect(g!).toBeGreaterThan(1.5 * Math.max(r!, b!))
  expect(at(2, 2)).toEqual([0, 0, 0, 0])
  expect(at(253, 3)).toEqual([0, 0, 0, 0])
  // a shadow is black and partial, over many pixels; edges are antialiased in more than a few steps
  let shadow = 0
  const steps = new Set<number>()
  for (let i = 0; i < samples.length; i += 4) {
    const alpha = samples[i + 3]!
    if (alpha === 0 || alpha === full) continue
    steps.add(alpha)
    if (Math.max(samples[i]!, samples[i + 1]!, samples[i + 2]!) < 0.03 * full) shadow++
  }
  expect(shadow).toBeGreaterThan(200)
  expect(steps.size).toBeGreaterThan(10)
  expect(heard).toEqual([])
})
