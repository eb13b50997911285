/** A board larger than its window: what is drawn of it, where it stands, and what comes to it from another page. */
import { expect, test, type Page } from './test'
import { beginPlain, complaints, drop, sequence } from './support'

const ROWS = 60

/** Sixty sources of one picture each, told apart by letters: by numbers they would be one sequence. */
async function filled(page: Page): Promise<void> {
  const letters = 'abcdefghij'
  const names = Array.from({ length: ROWS }, (_, n) => `bed ${letters[Math.floor(n / 10)]}${letters[n % 10]}`)
  await page.goto('/')
  await beginPlain(page)
  await drop(page, (await Promise.all(names.map(name => sequence(name, 1, { width: 16, height: 12 })))).flat())
  await expect(page.getByRole('grid')).toHaveAttribute('aria-rowcount', `${ROWS + 1}`)
}

/** Of each row drawn: its number, where it and its head stand from the board's first, and what they are of. */
const drawn = (page: Page) =>
  page.evaluate(() => {
    const grid = document.querySelector('[role=grid]')!
    const zero = grid.getBoundingClientRect().top - grid.scrollTop
    return [...document.querySelectorAll('[role=row][aria-owns]')]
      .map(row => {
        const head = document.getElementById(row.getAttribute('aria-owns')!)!
        return {
          at: Number(row.getAttribute('aria-rowindex')) - 2,
          top: row.getBoundingClientRect().top - zero,
          headTop: head.getBoundingClientRect().top - zero,
          headLeft: head.getBoundingClientRect().left - grid.getBoundingClientRect().left,
          name: head.querySelector('strong')!.textContent,
          owner: head.id.replace('board-head-', ''),
          sources: [
            ...new Set([...row.querySelectorAll('[data-cell]')].map(c => c.getAttribute('data-cell')!.split(':')[0]))
          ]
        }
      })
      .sort((a, b) => a.at - b.at)
  })

/** What is drawn fits together: heads beside their cells, rows where their numbers say, names in their order. */
async function fits(page: Page, inSight: number): Promise<void> {
  await expect.poll(async () => (await drawn(page)).some(({ at }) => at === inSight)).toBe(true)
  const rows = await drawn(page)
  expect(rows.length).toBeLessThan(30)
  const [first] = rows
  for (const [n, { at, top, headTop, headLeft, owner, sources }] of rows.entries()) {
    expect(at).toBe(first!.at + n)
    expect(top - first!.top).toBe((rows[1]!.top - first!.top) * n)
    expect([headTop, headLeft, sources]).toEqual([top, 0, [owner]])
  }
  expect(rows.map(({ name }) => name)).toEqual([...rows.map(({ name }) => name!)].sort())
}

test('of many rows those in sight are drawn, each with its own head and cells, however it is scrolled', async ({
  page
}) => {
  test.setTimeout(120_000)
  const heard = complaints(page)
  await filled(page)
  await fits(page, 0)
  const scroll = (to: { top?: number; left?: number }) =>
    page.getByRole('grid').evaluate((grid, { top, left }) => {
      if (top !== undefined) grid.scrollTop = top
      if (left !== undefined) grid.scrollLeft = left
    }, to)
  for (const row of [3, 4, 11, 30, 59, 7, 0]) {
    await scroll({ top: row * 95 })
    await fits(page, row)
  }
  // the keys reach what was not drawn, and bring it into sight
  await page.getByRole('gridcell').first().click()
  for (let n = 0; n < 45; n++) await page.keyboard.press('ArrowDown')
  const at = page.locator('[role=row]:has(> [data-cell]:focus)')
  await expect(at).toHaveAttribute('aria-rowindex', '47')
  await expect(page.locator('[data-cell]:focus')).toBeInViewport()
  // of more columns than a screen holds those in sight are drawn too, and the heads of rows stay beside them
  await page.getByRole('link', { name: 'Outlets' }).click()
  for (let n = 0; n < 12; n++) await page.getByRole('button', { name: 'Duplicate' }).click()
  await page.getByRole('link', { name: 'Board' }).click()
  await expect(page.getByRole('grid')).toHaveAttribute('aria-colcount', '16')
  await scroll({ top: 20 * 95, left: 1500 })
  await fits(page, 20)
  const columns = page.getByRole('columnheader')
  await expect(columns.last()).toHaveAttribute('aria-colindex', '16')
  expect(await columns.count()).toBeLessThan(14)
  for (const column of await columns.all()) {
    const index = await column.getAttribute('aria-colindex')
    const below = page.locator(`[role=row][aria-rowindex="22"] [aria-colindex="${index}"]`)
    if (index) expect((await below.boundingBox())!.x).toBe((await column.boundingBox())!.x)
  }
  expect(heard).toEqual([])
})

test('what another page of the job pours and proves is shown here, cell by cell, and removed here with it', async ({
  page,
  context
}) => {
  test.setTimeout(90_000)
  await page.goto('/')
  await beginPlain(page)
  await drop(page, await sequence('seed box', 3))
  await page.getByLabel('Frames per second').fill('25')
  await page.getByRole('button', { name: 'Take this rate' }).click()
  const first = page.getByRole('gridcell').first()
  await expect(first).toHaveAttribute('data-state', 'Not poured')
  const other = await context.newPage()
  await other.goto('/')
  await other.getByRole('gridcell').first().click()
  await other.getByRole('button', { name: 'Pour this cell' }).click()
  await expect(first).toHaveAttribute('data-state', /Identical|Faithful/, { timeout: 60_000 })
  await expect(page.getByRole('gridcell').nth(1)).toHaveAttribute('data-state', 'Not poured')
  await other.getByRole('button', { name: 'Remove' }).click()
  await expect(first).toHaveAttribute('data-state', 'Not poured')
})
