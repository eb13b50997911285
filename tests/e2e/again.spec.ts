/**
 * The page for the second time: what was looked at stands at once, what was poured is not out of date, a working day.
 */
import { expect, test, type Page } from './test'
import { beginPlain, bytesOf, cell, drop, makeStrap, picture, png, sequence, withoutPicker } from './support'

const poured = (page: Page, row: number, column: number, state: string | RegExp): Promise<void> =>
  expect(cell(page, row, column)).toHaveAttribute('data-state', state, { timeout: 60_000 })

/** How much of the small pictures of a row is drawn: samples that are neither grey of the checker. */
const drawn = (page: Page): Promise<number> =>
  page
    .locator('.strip canvas')
    .first()
    .evaluate((canvas: HTMLCanvasElement) => {
      const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height)
      let found = 0
      for (let i = 0; i < data.length; i += 4) if (Math.abs(data[i]! - data[i + 1]!) > 12) found++
      return found
    })

test.describe('the second visit', () => {
  // on the second visit no worker can be had: what stands was kept
  test.use({ expected: [/core\.worker|Failed to load resource|ERR_FAILED/] })

  test('examination, small pictures and tried sizes stand without anything being looked at again', async ({ page }) => {
    await page.goto('/')
    await beginPlain(page)
    await drop(page, await sequence('moth_25fps', 6))
    const head = page.getByRole('rowheader')
    await expect(head).toContainText('48×32 · 25 f/s · 6')
    for (const column of [0, 1, 2]) await expect(cell(page, 0, column)).toContainText('about', { timeout: 60_000 })
    await expect.poll(() => drawn(page)).toBeGreaterThan(100)
    await page.getByRole('link', { name: 'Bench' }).click()
    await expect(page.getByText(/^Taken as/).first()).toBeVisible()
    const findings = await page.getByRole('complementary').last().innerText()
    await page.getByRole('link', { name: 'Board' }).click()
    // all of it is in the store by then: sizes are refined after they are shown
    const stored = (): Promise<number> =>
      page.evaluate(
        () =>
          new Promise<number>(resolve => {
            const opening = indexedDB.open('pour')
            opening.onsuccess = () => {
              const all = opening.result.transaction('looks').objectStore('looks').getAllKeys()
              all.onsuccess = () => {
                opening.result.close()
                resolve(all.result.filter(key => String(key).startsWith('estimate ')).length)
              }
            }
          })
      )
    await expect.poll(stored, { timeout: 60_000 }).toBe(3)
    const said = await Promise.all([0, 1, 2].map(column => cell(page, 0, column).innerText()))

    await page.route(/core\.worker/, route => route.abort())
    await page.reload()
    await expect(head).toContainText('48×32 · 25 f/s · 6')
    for (const [column, words] of said.entries()) await expect.poll(() => cell(page, 0, column).innerText()).toBe(words)
    await expect.poll(() => drawn(page)).toBeGreaterThan(100)
    await page.getByRole('link', { name: 'Bench' }).click()
    await expect.poll(() => page.getByRole('complementary').last().innerText()).toBe(findings)
  })
})

test('what was poured of a scene stands after a reload, and is out of date once the scene is another', async ({
  page
}) => {
  test.setTimeout(120_000)
  await makeStrap(page, 'Ida Fern', 0.4)
  // edited, so that its fields are not in the order they are made in
  const name = page.getByRole('listitem').filter({ has: page.getByRole('button', { name: 'Open Name' }) })
  await page.getByRole('button', { name: 'Open Name' }).click()
  await name.getByLabel('Text').first().fill('Ada Fern')
  await name.getByLabel('Text').first().press('Enter')
  await page.getByRole('link', { name: 'Board' }).click()
  await cell(page, 0, 1).click()
  await page.getByRole('button', { name: 'Pour this cell' }).click()
  await poured(page, 0, 1, 'Identical')
  for (const place of ['Bench', 'Proof', 'Scenes', 'Board']) {
    const link = page.getByRole('link', { name: place, exact: true })
    await link.click()
    await expect(link).toHaveAttribute('aria-current', 'page')
    await page.reload()
  }
  await poured(page, 0, 1, 'Identical')
  await expect(cell(page, 0, 1)).not.toContainText(/out of date/i)
})

test('a working day: brought in, looked at, poured, closed, come back to, changed, poured again, checked', async ({
  page,
  context
}) => {
  test.setTimeout(180_000)
  await withoutPicker(page)
  await page.goto('/')
  await beginPlain(page)
  await page.reload()
  await drop(page, await sequence('vine', 5, { leaveOut: [3] }))
  await page.getByLabel('Frames per second').fill('12')
  await page.getByRole('button', { name: 'Take this rate' }).click()
  const head = page.getByRole('rowheader')
  await expect(head).toContainText('12 f/s · 4')
  await page.reload()
  await expect(head).toContainText('12 f/s · 4')

  // what is missing is held, and stays so
  await head.getByRole('button').click()
  await page.getByRole('button', { name: 'Hold the picture before' }).first().click()
  await expect(head).toContainText('12 f/s · 5')
  await page.reload()
  await expect(head).toContainText('12 f/s · 5')
  await page.keyboard.press('p')
  for (const column of [0, 1, 2]) await poured(page, 0, column, 'Identical')
  await page.close()

  const next = await context.newPage()
  await withoutPicker(next)
  await next.goto('/')
  for (const column of [0, 1, 2]) await poured(next, 0, column, 'Identical')
  for (const column of [0, 1, 2]) await expect(cell(next, 0, column)).not.toContainText(/out of date/i)
  const row = next.getByRole('rowheader')
  await row.getByRole('button').click()
  await next.getByRole('button', { name: 'Take back: Hold the picture before' }).first().click()
  await expect(row).toContainText('12 f/s · 4')
  for (const column of [0, 1, 2]) await expect(cell(next, 0, column)).toContainText(/out of date/i)
  await next.reload()
  for (const column of [0, 1, 2]) await expect(cell(next, 0, column)).toContainText(/out of date/i)
  await next.keyboard.press('p')
  for (const column of [0, 1, 2])
    await expect(cell(next, 0, column)).not.toContainText(/out of date/i, { timeout: 60_000 })
  for (const column of [0, 1, 2]) await poured(next, 0, column, 'Identical')
  await next.reload()

  // handed over, and what comes back is checked
  await next.goto('/proof?view=hand-over')
  await next.getByRole('button', { name: 'All', exact: true }).click()
  const waiting = next.waitForEvent('download')
  await next.getByRole('button', { name: 'Save as ZIP' }).click()
  const zip = await bytesOf(await waiting)
  await next.reload()
  const chooser = next.waitForEvent('filechooser')
  await next.getByRole('button', { name: 'Check a ZIP…' }).click()
  await (await chooser).setFiles({ name: 'came.zip', mimeType: 'application/zip', buffer: Buffer.from(zip) })
  await expect(next.locator('[data-checked]')).toHaveAttribute('data-condition', 'untouched')
})

test('a picture that cannot be read is decided about: held, left out, or nothing is poured', async ({ page }) => {
  await page.goto('/')
  await beginPlain(page)
  const files = await Promise.all([1, 2, 3, 4].map(n => png(`fern_12fps_000${n}.png`, picture(n))))
  files[1]!.bytes = files[1]!.bytes.subarray(0, 20)
  await drop(page, files)
  const head = page.getByRole('rowheader')
  await expect(head).toContainText('12 f/s · 3')
  await cell(page, 0, 1).click()
  await expect(
    page.getByText('Picture 2 could not be read: hold the picture before it, or leave it out.').first()
  ).toBeVisible()
  await head.getByRole('button').click()
  await page.getByRole('button', { name: 'Leave it out' }).first().click()
  await expect(page.getByText('Done: Leave it out.')).toBeVisible()
  await expect(head).toContainText('12 f/s · 3')
  await page.getByRole('button', { name: 'Take back: Leave it out' }).first().click()
  await page.getByRole('button', { name: 'Hold the picture before' }).first().click()
  await expect(head).toContainText('12 f/s · 4')
  await page.reload()
  await expect(head).toContainText('12 f/s · 4')
  await page.keyboard.press('p')
  await poured(page, 0, 1, /Identical|Visible loss/)
})
