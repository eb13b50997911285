/** A source that is poured before all of it was looked at. */
import { withAlphaMode } from '../../core/frame/alpha'
import { STRAIGHT, type AlphaMode, type Frame } from '../../core/frame/frame'
import { strap } from '../../demo/scenes'
import { testHost } from '../unit/support'
import { beginPlain, cell, complaints, drop, giveRate, png, storedRows, type Dropped } from './support'
import { expect, test, type Page } from './test'

const COUNT = 96
/** Frames that are looked at first. */
const FIRST = Array.from({ length: 12 }, (_, n) => Math.floor(((n + 0.5) * COUNT) / 12))

/** Two by two straps, or nothing. */
async function four(i: number, mode: AlphaMode, clear: boolean): Promise<Frame> {
  const { kernels } = await testHost()
  const one = withAlphaMode(strap(0.2 + i / COUNT), mode, kernels)
  const [width, height] = [2 * one.width, 2 * one.height]
  const samples = new Uint8Array(4 * width * height)
  if (!clear)
    for (let y = 0; y < height; y++)
      for (const half of [0, 1]) {
        const from = 4 * one.width * (y % one.height)
        samples.set(one.samples.subarray(from, from + 4 * one.width) as Uint8Array, 4 * (width * y + half * one.width))
      }
  return { ...one, width, height, samples, alpha: STRAIGHT }
}

async function sequenceOf(frame: (i: number) => Promise<Frame>): Promise<Dropped[]> {
  const files: Dropped[] = []
  for (let i = 0; i < COUNT; i++) files.push(await png(`crest opener_${1001 + i}.png`, await frame(i)))
  return files
}

/** Drops the pictures, and pours the first cell at once; gives what its state was, one after the other. */
async function pourAtOnce(page: Page, files: readonly Dropped[]): Promise<() => Promise<string[]>> {
  await drop(page, files)
  await expect(page.getByRole('rowheader')).toHaveCount(1)
  await giveRate(page, '25')
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
  return () => page.evaluate(() => (window as unknown as { told: string[] }).told)
}

test('a pour begun on a few frames is done again where all of them say otherwise', async ({ page }) => {
  test.setTimeout(240_000)
  const heard = complaints(page)
  // premultiplied, and silent about it where it is looked at first
  const files = await sequenceOf(i => four(i, { mode: 'premultiplied', matte: '#000000' }, FIRST.includes(i)))
  await page.goto('/')
  await beginPlain(page)
  const told = await pourAtOnce(page, files)
  await expect(cell(page, 0, 0)).toHaveAttribute('data-state', /Identical|Faithful/, { timeout: 120_000 })
  const states = await told()
  const shares = states.flatMap(state => (state.startsWith('Pouring') ? [Number(/\d+/.exec(state)?.[0] ?? 0)] : []))
  // how far it came fell once
  expect(
    shares.filter((share, n) => n > 0 && share < shares[n - 1]!),
    states.join(', ')
  ).toHaveLength(1)
  await expect(page.getByRole('rowheader')).toContainText('premult. on black')
  await expect(page.getByRole('status')).toContainText('a few frames said straight; all 96 say premultiplied on black')
  // what the first one made is gone
  expect(await storedRows(page, 'results')).toHaveLength(1)
  expect(heard).toEqual([])
})

test('nothing is left of a pour that all frames speak against', async ({ page }) => {
  test.setTimeout(240_000)
  const files = await sequenceOf(i => four(i, STRAIGHT, false))
  // beyond what is poured, and not among those that are looked at first
  files[89]!.bytes.fill(9, 400, 500)
  await page.goto('/')
  await beginPlain(page)
  await page.getByRole('link', { name: 'Outlets' }).click()
  await page.getByRole('radiogroup', { name: 'Range' }).getByText('Frames', { exact: true }).click()
  await page.getByLabel('Last frame').fill('40')
  await page.getByLabel('Last frame').press('Enter')
  await page.getByRole('link', { name: 'Board' }).click()
  const told = await pourAtOnce(page, files)
  await expect(cell(page, 0, 0)).toHaveAttribute('data-state', 'Failed', { timeout: 120_000 })
  await expect(cell(page, 0, 0)).toContainText('90')
  expect((await told()).some(state => state.startsWith('Pouring'))).toBe(true)
  expect(await storedRows(page, 'results')).toEqual([])
  expect(await storedRows(page, 'parts')).toEqual([])
})
