/**
 * Renews the pictures in docs/screenshots from the demo job, at 1280x800. Build first (`npm start` or `npm test` does).
 */
import { spawn } from 'node:child_process'
import { mkdirSync } from 'node:fs'
import path from 'node:path'
import { chromium } from 'playwright-core'
import { CHROMIUM, ensureChromium } from './ensure.mjs'
import { root } from './build.mjs'

ensureChromium()
const PORT = '4320'
const folder = path.join(root, 'docs/screenshots')
mkdirSync(folder, { recursive: true })
const server = spawn(process.execPath, [path.join(root, '.output/server/index.mjs')], {
  stdio: 'ignore',
  env: { ...process.env, PORT, HOST: 'localhost', NUXT_EMPTY: 'false' }
})
const browser = await chromium.launch({
  executablePath: CHROMIUM,
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync'
  ]
})
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
  for (let tries = 0; ; tries++) {
    const answer = await page
      .goto(`http://localhost:${PORT}/`)
      .catch(error => (tries < 40 ? null : Promise.reject(error)))
    if (answer) break
    await page.waitForTimeout(250)
  }
  const shot = name => page.screenshot({ path: path.join(folder, `${name}.png`) })
  const row = name => page.getByRole('rowheader').filter({ hasText: name }).first()
  const cell = async (name, column) => {
    const head = await row(name).getAttribute('id')
    return page.locator(`[aria-owns="${head}"] [data-cell]`).nth(column)
  }
  const done = () =>
    page.waitForFunction(
      () => document.querySelectorAll('[data-state^=Pouring],[data-state^=Proving],[data-state=Waiting]').length === 0,
      null,
      { timeout: 240_000 }
    )

  await row('moth').waitFor({ timeout: 60_000 })
  await page.waitForTimeout(6000)
  await row('moth').getByRole('button').click()
  await page.keyboard.press('p')
  await page.waitForFunction(
    () =>
      document.querySelectorAll('[data-state=Identical],[data-state=Faithful]').length >= 4 &&
      document.querySelector('[data-state^=Pouring]'),
    null,
    { timeout: 120_000 }
  )
  await page.locator('[data-state^=Pouring]').first().click()
  await shot('board')
  await done()
  await row('moth loop').getByRole('button').dblclick()
  await page.waitForTimeout(1500)
  for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowRight')
  await page.waitForTimeout(500)
  await shot('bench')
  await page.getByRole('combobox', { name: 'View' }).click({ force: true })
  await page.getByRole('option', { name: 'What decided the mode' }).click()
  await page.waitForTimeout(1200)
  await shot('bench-decided')
  await page.getByRole('link', { name: 'Scenes' }).click()
  await page.getByRole('combobox', { name: 'Scene' }).waitFor()
  for (let i = 0; i < 26; i++) await page.keyboard.press('ArrowRight')
  await page.keyboard.press('g')
  await page.waitForTimeout(6000)
  await shot('scenes')
  await page.getByRole('link', { name: 'Board' }).click()
  await row('strap on page').getByRole('button').dblclick()
  await page.waitForTimeout(1500)
  for (let i = 0; i < 12; i++) await page.keyboard.press('ArrowRight')
  await page.waitForTimeout(500)
  await shot('bench-background-left-on')
  await page.getByRole('link', { name: 'Board' }).click()
  await row('seedling on screen').getByRole('button').dblclick()
  await page.waitForTimeout(1500)
  await page.getByRole('button', { name: 'Pull a chroma key' }).click()
  await page.locator('[data-step=chroma-key] .name').click()
  await page.keyboard.press('End')
  await page.getByText('Wipe', { exact: true }).click()
  await page.waitForTimeout(2500)
  await shot('bench-prepared')
  await page.getByRole('link', { name: 'Outlets' }).click()
  await page.waitForTimeout(800)
  await shot('outlets')
  await page.getByRole('link', { name: 'Board' }).click()
  await (await cell('moth', 3)).click()
  await page.getByRole('button', { name: 'See proof' }).click()
  await page.waitForTimeout(2500)
  await shot('proof')
  await page.getByRole('tab', { name: 'Stations' }).click()
  await page.locator('.large canvas').focus()
  for (let n = 0; n < 8; n++) await page.keyboard.press('-')
  for (let n = 0; n < 12; n++) await page.keyboard.press('<')
  await page.getByRole('combobox', { name: 'Backdrop' }).click({ force: true })
  await page.getByRole('option', { name: 'Picture', exact: true }).click()
  await page.getByRole('combobox', { name: 'Stand-in object' }).click({ force: true })
  await page.getByRole('option', { name: 'Before a pot' }).click()
  await page.getByRole('button', { name: 'Show Always premultiplied large' }).click()
  await page.waitForFunction(
    () => document.querySelector('[data-station=this-browser]')?.getAttribute('data-standing') === 'right',
    null,
    { timeout: 60_000 }
  )
  await page.waitForTimeout(2500)
  await shot('stations')
  await page.getByRole('tab', { name: 'Outlets side by side' }).click()
  await page.waitForFunction(
    () =>
      document.querySelectorAll('.outlets tbody tr').length > 0 &&
      [...document.querySelectorAll('.outlets tbody tr')].every(row => /Right at/.test(row.textContent)),
    null,
    { timeout: 60_000 }
  )
  await page.waitForTimeout(500)
  await shot('outlets-side-by-side')
  await page.getByRole('tab', { name: 'Hand-over' }).click()
  await page.locator('.list label').filter({ hasText: 'moth_' }).first().locator('input').check()
  await page.waitForTimeout(500)
  await shot('hand-over')
  await page.getByRole('link', { name: 'Board' }).click()
  await page.keyboard.press('d')
  await page.waitForTimeout(6000)
  await shot('board-dim')
  await page.getByRole('link', { name: 'Scenes' }).click()
  await page.getByRole('button', { name: 'New scene…' }).click()
  await page.getByRole('button', { name: 'Strap that fits' }).click()
  await page
    .getByLabel('Name', { exact: true })
    .fill('نور فيرنبروك and Chrysanthemum Featherstonehaugh-Fernbrook of the Palm House')
  await page.getByLabel('Size').selectOption({ label: '1280 × 720' })
  await page.getByRole('button', { name: 'Make this scene' }).click()
  await page.getByRole('button', { name: 'Open Name', exact: true }).click()
  await page.getByText('of its size, to fit its box').waitFor({ timeout: 60_000 })
  await page.waitForTimeout(1500)
  await shot('scenes-lettering-dim')
} finally {
  await browser.close()
  server.kill()
}
