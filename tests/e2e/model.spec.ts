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

test('a model is looked at from another side, without a shadow, longer; it is drawn so, and stays so', async ({
  page
}) => {
  test.setTimeout(180_000)
  const heard = complaints(page)
  await withoutPicker(page)
  await page.goto('/')
  await beginPlain(page)
  await drop(page, [{ name: 'seed box.glb', bytes: boxModel() }])
  await expect.poll(() => sourceNames(page), { timeout: 60_000 }).toEqual(['seed box'])
  await page.getByRole('rowheader').filter({ hasText: 'seed box' }).getByRole('button').click()
  await page.getByRole('link', { name: 'Bench' }).click()
  await page.locator('.el-select', { has: page.getByLabel('Size it is drawn at') }).click()
  await page.getByRole('option', { name: '256x144' }).click()
  await expect(page.locator('.place-head')).toContainText('256×144')

  // numbers: no shadow, a second at ten frames, as near again
  await page.getByText('How it is looked at').click()
  const set = async (label: string, value: string): Promise<void> => {
    const field = page.locator('.looked').getByLabel(label, { exact: true }).last()
    await field.fill(value)
    await field.press('Enter')
  }
  await set('Shadow', '0')
  await set('Length', '1')
  await set('Frames a second', '10')
  await expect(page.locator('.place-head')).toContainText('10 frames')

  // by hand: a drag to the left goes around it, and what it comes to stands there
  await page.getByRole('button', { name: 'Look around it' }).click()
  const stage = (await page.getByRole('application', { name: /^Drag it around/ }).boundingBox())!
  const [x, y] = [stage.x + stage.width / 2, stage.y + stage.height / 2]
  await page.mouse.move(x, y)
  await page.mouse.down()
  await page.mouse.move(x - 50, y)
  await page.mouse.move(x - 100, y + 50)
  await expect(page.getByText('40° around, 34° above')).toBeVisible()
  await page.mouse.up()
  await expect(page.getByText(/seen from 40° around it and 34° above, at 10 f\/s, without a shadow/)).toBeVisible()
  await page.keyboard.press('Shift+ArrowRight')
  await expect(page.getByText(/seen from 55° around it and 34° above/)).toBeVisible()
  await page.getByRole('button', { name: 'Done' }).click()

  await page.reload()
  await expect(page.getByText(/seen from 55° around it and 34° above/)).toBeVisible({ timeout: 30_000 })
  await page.getByRole('link', { name: 'Board' }).click()
  const png = cell(page, 0, 1)
  await png.click()
  await page.getByRole('button', { name: 'Pour this cell' }).click()
  await expect(png).toHaveAttribute('data-state', /Identical|Faithful/, { timeout: 90_000 })
  const waiting = page.waitForEvent('download')
  await page.getByRole('button', { name: 'Download' }).click()
  const files = Object.entries(unzipSync(await bytesOf(await waiting))).filter(([name]) => name.endsWith('.png'))
  expect(files).toHaveLength(10)
  const { samples } = await sharpFrame(files[0]![1])
  const full = samples instanceof Uint8Array ? 255 : 65535
  let [solid, dark] = [0, 0]
  for (let i = 0; i < samples.length; i += 4) {
    if (samples[i + 3]! === full) solid++
    // a shadow would be partial over many pixels, and black
    else if (samples[i + 3]! > 0 && Math.max(samples[i]!, samples[i + 1]!, samples[i + 2]!) < 0.03 * full) dark++
  }
  expect(solid).toBeGreaterThan(1000)
  expect(dark).toBe(0)
  expect(heard).toEqual([])
})
