import { expect, test } from '@playwright/test'
import { writtenFormats } from '../../core/formats/registry'
import { complaints, drop, sequence } from './support'

test('every format that the table offers pours in the page and is proven', async ({ page }) => {
  test.setTimeout(240_000)
  const heard = complaints(page)
  await page.goto('/outlets')
  const list = page.getByRole('navigation', { name: 'Outlets' }).getByRole('button')
  await expect(list).toHaveCount(3)
  const held = ['quicktime-animation', 'png-sequence', 'apng']
  for (const format of writtenFormats.filter(f => !held.includes(f.id))) {
    const before = await list.count()
    await page.getByRole('button', { name: 'Add outlet…' }).click()
    await page.getByRole('menuitem', { name: format.name, exact: true }).click()
    await expect(list).toHaveCount(before + 1)
  }
  await page.getByRole('link', { name: 'Board' }).click()
  await expect(page.getByText('Nothing here yet')).toBeVisible()
  await drop(page, await sequence('moth_25fps', 4, { width: 64, height: 48 }))
  const cells = page.locator('[data-cell]')
  await expect(cells).toHaveCount(writtenFormats.length)
  await page.keyboard.press('p')
  for (let i = 0; i < writtenFormats.length; i++) await expect(cells.nth(i)).toHaveAttribute('data-state', /Identical|Faithful|Visible loss|Failed|Broken/, { timeout: 120_000 })
  const states = await cells.evaluateAll(all => all.map(cell => cell.getAttribute('data-state')))
  expect(states.filter(state => state === 'Failed' || state === 'Broken')).toEqual([])
  // noise is beyond what a lossy codec or a palette can hold without a trace; everything exact must be so
  const exact = writtenFormats.filter(f => f.lossless || f.id.startsWith('webp')).length
  expect(states.filter(state => state === 'Identical').length).toBeGreaterThanOrEqual(exact)
  expect(heard).toEqual([])
})
