/** Nothing of the user's is lost: refused edits, damaged and cleared stores, full disks, a server that is gone. */
import { expect, test, type Page } from './test'
import { beginPlain, bytesOf, cell, drop, giveRate, sequence } from './support'

/** Runs `change` on every row of a table of the page's store. */
async function inStore(page: Page, table: string, change: string): Promise<void> {
  await page.evaluate(
    ([name, code]) =>
      new Promise<void>((resolve, reject) => {
        const opening = indexedDB.open('pour')
        opening.onerror = () => reject(opening.error)
        opening.onsuccess = () => {
          const writing = opening.result.transaction(name!, 'readwrite')
          const rows = writing.objectStore(name!).openCursor()
          const alter = new Function('row', 'cursor', code!) as (row: unknown, cursor: IDBCursorWithValue) => void
          rows.onsuccess = () => {
            const at = rows.result
            if (!at) return
            const row = at.value as unknown
            alter(row, at)
            at.continue()
          }
          writing.onerror = () => reject(writing.error)
          writing.oncomplete = () => {
            opening.result.close()
            resolve()
          }
        }
      }),
    [table, change]
  )
}

// the page's own policy forbids code from text; these tests reach into its store with it
test.use({ bypassCSP: true })

async function withStrap(page: Page, frames = 3): Promise<void> {
  await page.goto('/')
  await beginPlain(page)
  await drop(page, await sequence('name strap', frames))
  await giveRate(page, '24')
  await expect(page.getByRole('rowheader').filter({ hasText: 'name strap' })).toBeVisible()
}

test('a number that no outlet can have is refused in its field, and the job opens as it was', async ({ page }) => {
  await withStrap(page)
  await page.getByRole('link', { name: 'Outlets' }).click()
  await page.getByRole('button', { name: /Compositing frames/ }).click()
  const digits = page.getByLabel('Digits')
  await digits.fill('2.5')
  await digits.press('Enter')
  await expect(page.getByRole('alert')).toHaveText('Digits: a whole number is needed.')
  await expect(digits).toHaveValue('4')
  const pattern = page.getByLabel('Picture names')
  await pattern.fill('x'.repeat(201))
  await expect(pattern).toHaveValue('x'.repeat(200))
  await pattern.fill('')
  await pattern.press('Enter')
  await expect(page.getByRole('alert')).toHaveText('Picture names: it cannot be empty.')
  await expect(pattern).toHaveValue('{source}_{frame}')
  await page.getByLabel('First number', { exact: true }).fill('1001')
  await page.getByLabel('First number', { exact: true }).press('Enter')
  await expect(page.getByRole('alert')).toBeHidden()
  await page.getByLabel('Name', { exact: true }).fill('n'.repeat(80))
  await page.getByLabel('Name', { exact: true }).press('Enter')
  await page.getByRole('button', { name: 'Duplicate' }).click()
  await expect(page.getByRole('button', { name: /n{78} 2/ })).toBeVisible()
  await page.reload()
  await expect(page.getByLabel('First number', { exact: true })).toHaveValue('1001')
  await expect(page.getByLabel('Digits')).toHaveValue('4')
})

test('a stored job with damage in it opens, says what was set aside, and hands it out', async ({ page }) => {
  await withStrap(page)
  await inStore(
    page,
    'jobs',
    `const [first] = Object.values(row.job.outlets); first.digits = 2.5;
     row.job.outlets.lost = 'nothing'; row.job.outletOrder.push('lost');
     Object.values(row.job.sources)[0].facts.pixelAspect = [0, -1]; cursor.update(row)`
  )
  await inStore(page, 'sources', `row.files = 'none'; cursor.update(row)`)
  await page.reload()
  const notice = page.getByRole('alert').filter({ hasText: 'could not be opened' })
  await expect(notice).toContainText('4 stored things could not be opened as they were')
  await expect(notice).toContainText('outlet Editor hand-over: Digits: a whole number is needed.')
  await expect(page.getByRole('rowheader').filter({ hasText: 'name strap' })).toBeVisible()
  await expect(page.getByText('1 source · 3 outlets')).toBeVisible()
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Save what was set aside' }).click()
  ])
  const saved = JSON.parse(new TextDecoder().decode(await bytesOf(download))) as { value: unknown }[]
  expect(saved.map(each => each.value)).toContain('nothing')
  await page.getByRole('button', { name: 'Let it go' }).click()
  await expect(notice).toBeHidden()
  await page.reload()
  await expect(page.getByText('1 source · 3 outlets')).toBeVisible()
  await expect(page.getByRole('alert')).toBeHidden()
})

test('a store that was cleared is not taken for a first visit', async ({ page }) => {
  await withStrap(page)
  await inStore(page, 'jobs', 'cursor.delete()')
  await page.reload()
  await expect(page.getByRole('alert')).toContainText('“Untitled job” is no longer here. It had 1 source')
  await page.getByRole('alert').getByRole('button', { name: 'Close' }).click()
  await expect(page.getByText('Bring in an animation with transparency')).toBeVisible()
})

test('an edit that the disk does not take is shown, said, and written when it does', async ({ page }) => {
  await page.addInitScript(() => {
    const put = IDBObjectStore.prototype.put
    IDBObjectStore.prototype.put = function (...args: Parameters<typeof put>) {
      if ((window as unknown as { full?: boolean }).full && this.name === 'jobs')
        throw new DOMException('full', 'QuotaExceededError')
      return put.apply(this, args)
    }
  })
  await withStrap(page)
  await page.evaluate(() => void ((window as unknown as { full: boolean }).full = true))
  await page.getByRole('heading', { name: 'Untitled job' }).dblclick()
  await page.getByLabel('Name of the job').fill('Glasshouse')
  await page.getByLabel('Name of the job').press('Enter')
  await expect(page.getByRole('heading', { name: 'Glasshouse' })).toBeVisible()
  const notice = page.getByRole('alert').filter({ hasText: 'The last edits are not on disk' })
  await expect(notice).toContainText('no room left for Pour')
  const [rescue] = await Promise.all([
    page.waitForEvent('download'),
    notice.getByRole('button', { name: 'Save everything' }).click()
  ])
  const saved = await bytesOf(rescue)
  const zip = new TextDecoder('latin1').decode(saved)
  for (const name of ['store/jobs.json', 'sources/name_strap_0001.png', 'sources/name_strap_0003.png'])
    expect(zip).toContain(name)
  await page.evaluate(() => void ((window as unknown as { full: boolean }).full = false))
  await expect(notice).toBeHidden()
  await page.reload()
  await expect(page.getByRole('heading', { name: 'Glasshouse' })).toBeVisible()
  // what was rescued can be brought in again
  await page.getByRole('rowheader').filter({ hasText: 'name strap' }).getByRole('button').click()
  await page.getByRole('button', { name: 'Remove source' }).click()
  await expect(page.getByRole('rowheader')).toHaveCount(0)
  await drop(page, [{ name: 'pour-rescue.zip', bytes: saved }])
  await giveRate(page, '25')
  await expect(page.getByRole('rowheader').filter({ hasText: 'name_strap' })).toContainText('25 f/s · 3')
})

test('a verdict is not shown over bytes that are gone', async ({ page }) => {
  await withStrap(page)
  await cell(page, 0, 0).click()
  await page.getByRole('button', { name: 'Pour this cell' }).click()
  await expect(cell(page, 0, 0)).toContainText('Identical')
  await inStore(page, 'parts', 'cursor.delete()')
  await page.reload()
  await expect(cell(page, 0, 0)).toContainText('Its file is gone')
  await cell(page, 0, 0).click()
  await expect(page.getByRole('alert')).toContainText('only 0 of its')
  await expect(page.getByRole('button', { name: 'Download' })).toBeHidden()
  await page.getByRole('button', { name: 'Try again' }).click()
  await expect(cell(page, 0, 0)).toContainText('Identical')
})

test.describe('a server that does not answer', () => {
  test.use({ expected: [/Failed to load resource/] })

  test('a server that is gone is no verdict: the cell says so, and goes on when it is back', async ({
    page,
    context
  }) => {
    // the decoder that proves PNG is loaded when it is first needed, which is when sizes and quality are tried
    await context.route(/png.*\.wasm/, route => route.abort())
    await withStrap(page)
    await cell(page, 0, 1).click()
    await page.getByRole('button', { name: 'Pour this cell' }).click()
    await expect(cell(page, 0, 1)).toContainText('Not proven')
    await expect(page.getByRole('alert')).toContainText(/Not proven: .*does not answer/)
    await context.unroute(/png.*\.wasm/)
    await page.getByRole('button', { name: 'Prove it' }).click()
    await expect(cell(page, 0, 1)).toContainText('Identical')
  })
})

test('cells in line are offered again after the page was closed', async ({ page }) => {
  await withStrap(page, 24)
  await page.keyboard.press('p')
  await expect(page.locator('[data-cell]').filter({ hasText: 'Waiting' }).first()).toBeVisible()
  // what is in line is noted in the store a moment after it is shown
  await expect.poll(async () => (await rowsOf(page, 'runs')).length).toBeGreaterThan(1)
  await page.reload()
  await expect(page.getByRole('status').filter({ hasText: 'cut off when the page was closed' })).toBeVisible()
  await page.getByRole('button', { name: 'Pour again' }).click()
  for (const column of [0, 1, 2]) await expect(cell(page, 0, column)).toContainText('Identical', { timeout: 60_000 })
})

test('bringing in can be stopped, and leaves nothing', async ({ page }) => {
  await page.goto('/')
  await beginPlain(page)
  await drop(page, await sequence('long take', 400, { width: 8, height: 8 }))
  await page.getByRole('contentinfo').getByRole('button', { name: 'Cancel' }).click()
  await expect(page.getByText('Nothing is running.')).toBeVisible()
  await expect(page.getByText('0 sources · 3 outlets')).toBeVisible()
  await expect(page.getByRole('dialog')).toBeHidden()
})

/** All rows of a table of the page's store. */
async function rowsOf<Row>(page: Page, table: string): Promise<Row[]> {
  return await page.evaluate(
    name =>
      new Promise<Row[]>((resolve, reject) => {
        const opening = indexedDB.open('pour')
        opening.onerror = () => reject(opening.error)
        opening.onsuccess = () => {
          const reading = opening.result.transaction(name).objectStore(name).getAll()
          reading.onsuccess = () => {
            opening.result.close()
            resolve(reading.result as Row[])
          }
        }
      }),
    table
  )
}

test('an examination that was begun twice and never ended is not begun again by itself', async ({ page }) => {
  await withStrap(page)
  // what a reader says of itself stands in the row before the examination ends
  await expect
    .poll(async () => [(await rowsOf(page, 'examinations')).length, (await rowsOf(page, 'tries')).length])
    .toEqual([1, 0])
  await page.evaluate(
    () =>
      new Promise<void>(resolve => {
        const opening = indexedDB.open('pour')
        opening.onsuccess = () => {
          const writing = opening.result.transaction(['examinations', 'tries'], 'readwrite')
          writing.objectStore('examinations').getAll().onsuccess = event => {
            for (const { sourceId, key } of (event.target as IDBRequest<{ sourceId: string; key: string }[]>).result)
              writing.objectStore('tries').put({ sourceId, key, tries: 2 })
            writing.objectStore('examinations').clear()
          }
          writing.oncomplete = () => {
            opening.result.close()
            resolve()
          }
        }
      })
  )
  await page.reload()
  const row = page.getByRole('rowheader')
  await expect(row).toContainText('not looked at')
  await row.getByRole('button').first().click()
  await expect(page.getByRole('alert')).toContainText('started twice and never finished')
  await page.getByRole('button', { name: 'Look at it' }).click()
  // the page may be closed before it has ended: what was asked for by hand is begun again by itself
  await expect.poll(async () => (await rowsOf<{ tries: number }>(page, 'tries'))[0]?.tries ?? 0).toBeLessThan(2)
  await page.reload()
  await expect.poll(async () => (await rowsOf(page, 'examinations')).length).toBe(1)
  await expect(row).not.toContainText('not looked at')
})
