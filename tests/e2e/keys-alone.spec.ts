/** The whole way by keys alone: from files on the disk to a keyed film, its proof and a hand-over. The mouse rests. */
import { unzipSync } from 'fflate'
import { expect, test, type Locator, type Page } from './test'
import { potOnScreen } from '../../demo/scenes'
import { withDepth } from '../../core/frame/depth'
import { plainKernels } from '../oracles/kernels'
import { beginPlain, bytesOf, complaints, png, withoutPicker } from './support'

/** So many presses of Tab reach anything that a hand would still try to reach. */
const MOST = 60

/** Tab, until what is wanted has the focus. */
async function tabTo(page: Page, wanted: Locator): Promise<void> {
  await expect(wanted).toBeVisible()
  for (let n = 0; n < MOST; n++) {
    if (await wanted.evaluate(each => each === document.activeElement)) return
    await page.keyboard.press('Tab')
  }
  expect(await page.evaluate(() => document.activeElement?.outerHTML.slice(0, 200))).toBe('what was wanted')
}

async function press(page: Page, wanted: Locator, key = 'Enter'): Promise<void> {
  await tabTo(page, wanted)
  await page.keyboard.press(key)
}

const button = (page: Page, name: string | RegExp): Locator => page.getByRole('button', { name }).first()

test('from files to a hand-over without a mouse', async ({ page }) => {
  test.setTimeout(180_000)
  const heard = complaints(page)
  await withoutPicker(page)
  await page.goto('/')
  await beginPlain(page)
  const plate = await Promise.all(
    [0, 0.25, 0.5, 0.75].map((t, i) => png(`pot plate ${i + 1}.png`, withDepth(potOnScreen(t), 8, plainKernels)))
  )
  const chooser = page.waitForEvent('filechooser')
  await press(page, button(page, 'Choose files'))
  await (
    await chooser
  ).setFiles(plate.map(({ name, bytes }) => ({ name, mimeType: 'image/png', buffer: Buffer.from(bytes) })))
  // the question for the rate begins in its field, and takes Enter
  await expect(page.getByLabel('Frames per second')).toBeFocused()
  await page.keyboard.type('25')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('dialog')).toBeHidden()

  // the row, and from it the bench
  const row = page.getByRole('rowheader').getByRole('button', { name: /pot plate/ })
  await press(page, row)
  await press(page, button(page, 'Open on the bench'))
  await press(page, button(page, 'Pull a chroma key'))
  await expect(page.locator('[data-step=chroma-key]')).toBeVisible()
  await press(page, button(page, /^frame 1 of 4/))
  await page.keyboard.type('4')
  await page.keyboard.press('Enter')
  await expect(button(page, /^frame 4 of 4/)).toBeVisible()

  // back to the board, to the cell, and pour
  await press(page, page.getByRole('link', { name: 'Board' }))
  await tabTo(page, page.locator('[data-cell]').first())
  await page.keyboard.press('ArrowRight')
  await page.keyboard.press('ArrowRight')
  const cell = page.locator('[data-cell]').nth(2)
  await expect(cell).toBeFocused()
  await page.keyboard.press('Space')
  await page.keyboard.press('p')
  await expect(cell).toHaveAttribute('data-state', /Identical|Faithful/, { timeout: 60_000 })
  await press(page, button(page, 'See proof'))
  await expect(page.getByRole('heading', { name: /^Proof/ })).toBeAttached()
  await expect(page.getByText(/Transparency survives/).first()).toBeVisible()

  // the tabs of the place are gone through with arrows
  await tabTo(page, page.getByRole('tab', { selected: true }))
  const over = page.getByRole('tab', { name: 'Hand-over' })
  const taken = page.getByRole('tab', { selected: true })
  for (let n = 0; n < 8 && (await over.getAttribute('aria-selected')) !== 'true'; n++) {
    const former = await taken.innerText()
    await page.keyboard.press('ArrowRight')
    // a second press before the first is seen would go past it
    await expect(taken).not.toHaveText(former)
  }
  await expect(over).toHaveAttribute('aria-selected', 'true')
  // the delivery that was looked at is chosen already
  await expect(page.getByText('1 of 1 chosen')).toBeVisible()
  const waiting = page.waitForEvent('download')
  await press(page, button(page, 'Save as ZIP'))
  const names = Object.keys(unzipSync(await bytesOf(await waiting)))
  expect(names).toContain('hand-over.json')
  expect(names.filter(name => name.endsWith('.png')).length).toBeGreaterThan(0)
  expect(heard).toEqual([])
})
