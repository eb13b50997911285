/** Several jobs in one browser, and a job as a file: saved with its media, opened again, begun anew with its outlets. */
import { unzipSync } from 'fflate'
import { expect, test, type Page } from '@playwright/test'
import { beginPlain, bytesOf, cell, complaints, drop, giveRate, sequence, sourceNames, withoutPicker } from './support'

async function choose(page: Page, what: string): Promise<void> {
  await page.getByRole('button', { name: 'Jobs…' }).click()
  await page.getByRole('menuitem', { name: what }).click()
}

test('a job is saved with its media, opened beside itself, and pours the same; a new one begins with its outlets', async ({
  page
}) => {
  test.setTimeout(120_000)
  const heard = complaints(page)
  await withoutPicker(page)
  await page.goto('/')
  await beginPlain(page)
  await drop(page, await sequence('palm shade', 4))
  await giveRate(page, '25')
  await expect.poll(() => sourceNames(page)).toEqual(['palm shade'])

  // an outlet that halves the size
  await page.getByRole('link', { name: 'Outlets' }).click()
  await page.getByRole('button', { name: 'Add a step…' }).click()
  await page.getByRole('menuitem', { name: 'Scale', exact: true }).click()
  await expect(page.getByText('becomes 24×16, 4 frames at 25')).toBeVisible()
  await page.getByRole('link', { name: 'Board' }).click()

  const waiting = page.waitForEvent('download')
  await choose(page, 'Save the job with its media')
  const file = await bytesOf(await waiting)
  const entries = Object.keys(unzipSync(file))
  expect(entries.filter(name => name.endsWith('.png'))).toHaveLength(4)
  expect(entries).toContain('job.json')

  // opened again it is another job, which the name tells apart
  const chooser = page.waitForEvent('filechooser')
  await choose(page, 'Open a job file…')
  await (await chooser).setFiles({ name: 'kept.pour', mimeType: 'application/zip', buffer: Buffer.from(file) })
  await expect(page.locator('h1')).toHaveText(/ 2$/)
  await expect.poll(() => sourceNames(page)).toEqual(['palm shade'])
  await cell(page, 0, 0).click()
  await page.keyboard.press('p')
  await expect(cell(page, 0, 0)).toHaveAttribute('data-state', /Identical|Faithful|Visible loss/, { timeout: 60_000 })
  await page.reload()
  await expect(page.locator('h1')).toHaveText(/ 2$/)
  await expect(cell(page, 0, 0)).toHaveAttribute('data-state', /Identical|Faithful|Visible loss/)

  // back to the first, where nothing is poured
  await page.getByRole('button', { name: 'Jobs…' }).click()
  await page.getByRole('menuitem', { name: /1 source/ }).click()
  await expect(page.locator('h1')).not.toHaveText(/ 2$/)
  await expect(cell(page, 0, 0)).toHaveAttribute('data-state', 'Not poured')

  await choose(page, 'New job with these outlets')
  await expect(page.getByText('Bring in an animation with transparency')).toBeVisible()
  await expect(page.locator('h1')).toHaveText(/ 3$/)
  await page.getByRole('link', { name: 'Outlets' }).click()
  await expect(page.getByRole('navigation', { name: 'Outlets' }).getByText('50 %')).toBeVisible()

  await page.getByRole('link', { name: 'Board' }).click()
  await choose(page, 'Delete this job…')
  await page.getByRole('button', { name: 'Delete it' }).click()
  await expect(page.locator('h1')).not.toHaveText(/ 3$/)
  await expect.poll(() => sourceNames(page)).toEqual(['palm shade'])
  expect(heard).toEqual([])
})

test('a file that is no job is refused in words, and the open job stays', async ({ page }) => {
  await withoutPicker(page)
  await page.goto('/')
  await beginPlain(page)
  const chooser = page.waitForEvent('filechooser')
  await choose(page, 'Open a job file…')
  await (
    await chooser
  ).setFiles({ name: 'no.pour', mimeType: 'application/zip', buffer: Buffer.from('nothing at all') })
  await expect(page.getByText(/no\.pour/)).toBeVisible()
  await expect(page.getByText('Bring in an animation with transparency')).toBeVisible()
})
