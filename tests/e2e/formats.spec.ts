import { readFile } from 'node:fs/promises'
import path from 'node:path'
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

test('films with alpha of another writer are read by the page: WebM VP9 and VP8, ProRes, WebP', async ({ page }) => {
  await page.goto('/')
  await expect(page.getByText('Nothing here yet')).toBeVisible()
  const names = ['vp9-alpha.webm', 'vp8-alpha.webm', 'prores4444-a16.mov', 'webp-lossless.webp']
  await drop(page, await Promise.all(names.map(async name => ({ name, bytes: new Uint8Array(await readFile(path.join(import.meta.dirname, '../vectors', name))) }))))
  await expect(page.getByRole('rowheader')).toHaveCount(4)
  for (let row = 0; row < 4; row++) {
    const head = page.getByRole('rowheader').nth(row)
    // each frame of the WebP lasts 83 ms, which is what it says
    await expect(head).toContainText(names[row]!.endsWith('webp') || (await head.innerText()).startsWith('webp') ? '96×64 · 12.048 f/s · 6' : '96×64 · 12 f/s · 6')
    await expect(head).toContainText('straight')
  }
  // each is decoded whole and poured without loss
  await page.keyboard.press('p')
  for (let row = 0; row < 4; row++) await expect(page.locator('[role=row]').nth(row + 1).locator('[data-cell]').nth(1)).toHaveAttribute('data-state', 'Identical', { timeout: 60_000 })
})
