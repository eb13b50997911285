/**
 * Several jobs in one browser, and a job as a file: saved with its media, opened again, begun anew with its outlets.
 */
import { unzipSync } from 'fflate'
import { expect, test, type Page } from './test'
import {
  beginPlain,
  bytesOf,
  cell,
  complaints,
  drop,
  giveRate,
  sequence,
  sourceNames,
  withoutPicker,
  type Dropped
} from './support'

/** A job with one sequence of a known rate. */
async function begun(page: Page, frames: Dropped[]): Promise<void> {
  await page.goto('/')
  await beginPlain(page)
  await drop(page, frames)
  await giveRate(page, '25')
}

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
  await begun(page, await sequence('palm shade', 4))
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

test('the guide adds an outlet for where it goes; kept in the library it is there for another job', async ({
  page
}) => {
  test.setTimeout(90_000)
  const heard = complaints(page)
  await withoutPicker(page)
  await page.goto('/')
  await beginPlain(page)
  await page.getByRole('link', { name: 'Outlets' }).click()
  const list = page.getByRole('navigation', { name: 'Outlets' })
  await page.getByRole('button', { name: 'By where it goes…' }).click()
  const dialog = page.getByRole('dialog', { name: 'An outlet by where it goes' })
  await expect(dialog.locator('li').first()).toContainText('Most receivers ask for it; alpha is exact')
  await dialog.locator('.el-select').nth(0).click()
  await page.getByRole('option', { name: 'Message sticker' }).click()
  await expect(dialog).toContainText('Each service has its own largest size')
  await dialog.locator('.el-select').nth(1).click()
  await page.getByRole('option', { name: 'opens everywhere' }).click()
  await dialog.getByRole('button', { name: 'Add Animated PNG' }).click()
  await expect(list.getByText('Message sticker')).toBeVisible()
  await expect(list.getByText('512×512')).toBeVisible()

  await page.getByRole('button', { name: 'Library…' }).click()
  await page.getByRole('menuitem', { name: 'Keep this outlet for every job' }).click()
  await expect(page.getByText('Message sticker is kept in the library.')).toBeVisible()
  const saving = page.waitForEvent('download')
  await page.getByRole('button', { name: 'Library…' }).click()
  await page.getByRole('menuitem', { name: 'Save this outlet as a file' }).click()
  const file = await bytesOf(await saving)

  await page.getByRole('link', { name: 'Board' }).click()
  await page.getByRole('button', { name: 'Jobs…' }).click()
  await page.getByRole('menuitem', { name: 'New job', exact: true }).click()
  await expect(page.getByText('Bring in an animation with transparency')).toBeVisible()
  await page.getByRole('link', { name: 'Outlets' }).click()
  await page.getByRole('button', { name: 'Library…' }).click()
  await page.getByRole('menuitem', { name: /Message sticker/ }).click()
  await expect(list.getByText('512×512')).toBeVisible()

  // as a file it comes back as a further one
  const chooser = page.waitForEvent('filechooser')
  await page.getByRole('button', { name: 'Library…' }).click()
  await page.getByRole('menuitem', { name: 'Open an outlet file…' }).click()
  await (await chooser).setFiles({ name: 'sticker.json', mimeType: 'application/json', buffer: Buffer.from(file) })
  await expect(list.getByText('Message sticker 2')).toBeVisible()
  expect(heard).toEqual([])
})

test('rows are found by name, and what is missing or failed is picked in one go', async ({ page }) => {
  test.setTimeout(90_000)
  const heard = complaints(page)
  await page.goto('/')
  await beginPlain(page)
  const files = await Promise.all(['palm', 'fern'].map(name => sequence(`${name} shade`, 2)))
  await drop(page, files.flat())
  await page.getByLabel('Frames per second, the same for all').fill('25')
  await page.getByRole('button', { name: /^Take/ }).click()
  await expect.poll(async () => (await sourceNames(page)).sort()).toEqual(['fern shade', 'palm shade'])
  const rows = page.getByRole('rowheader')
  await page.getByLabel('Find a source').fill('FERN')
  await expect(rows).toHaveCount(1)
  await expect(page.getByText('1 of 2 sources')).toBeVisible()
  await page.getByRole('button', { name: 'Pick, save…' }).click()
  await page.getByRole('menuitem', { name: 'What was not poured yet' }).click()
  await expect(page.getByRole('button', { name: '3 picked' })).toBeVisible()
  await page.getByRole('button', { name: /^Pour 3 cells/ }).click()
  await expect(cell(page, 0, 2)).toHaveAttribute('data-state', /Identical|Faithful/, { timeout: 60_000 })
  await page.getByLabel('Find a source').press('Escape')
  await expect(rows).toHaveCount(2)
  await page.getByRole('button', { name: 'Pick, save…' }).click()
  await page.getByRole('menuitem', { name: 'What was not poured yet' }).click()
  await expect(page.getByRole('button', { name: '3 picked' })).toBeVisible()
  await page.getByRole('button', { name: '3 picked' }).click()
  await page.getByRole('menuitem', { name: 'What failed, is broken or not proven' }).click()
  await expect(page.getByText('there is none')).toBeVisible()
  // under headings, which are folded away and picked whole
  await page.getByRole('button', { name: 'Arrange…' }).click()
  await page.getByRole('menuitem', { name: 'By what is to be done' }).click()
  const heading = page.getByRole('button', { name: 'Warnings 2' })
  await heading.click()
  await expect(page.getByText('0 of 2 sources')).toBeVisible()
  await expect(page.getByRole('gridcell')).toHaveCount(0)
  await heading.click()
  await page.getByRole('button', { name: 'Pick these' }).click()
  await expect(page.getByRole('button', { name: '6 picked' })).toBeVisible()
  // arrow keys go from cell to cell, across headings
  await page.getByRole('gridcell').first().click()
  await page.keyboard.press('ArrowDown')
  await expect(page.locator('[data-cell]:focus')).toHaveAttribute('aria-colindex', '2')
  await page.getByRole('button', { name: 'Pick these' }).click()
  await expect(page.getByRole('button', { name: 'Pick, save…' })).toBeVisible()
  await page.getByRole('button', { name: 'Arrange…' }).click()
  await page.getByRole('menuitem', { name: 'One after the other' }).click()
  await expect(rows).toHaveCount(2)
  // all that is poured as one ZIP: films at its top, pictures with their rate note in a folder
  await page.getByRole('button', { name: 'Pick, save…' }).click()
  const [saved] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('menuitem', { name: 'Save 3 deliveries as one ZIP' }).click()
  ])
  expect(saved.suggestedFilename()).toBe('Untitled_job.zip')
  const names = Object.keys(unzipSync(await bytesOf(saved))).sort()
  expect(names.filter(name => !name.includes('/'))).toHaveLength(2)
  const pictures = names.filter(name => name.includes('/'))
  expect(new Set(pictures.map(name => name.split('/')[0])).size).toBe(1)
  expect(pictures.map(name => name.split('.').at(-1)).sort()).toEqual(['png', 'png', 'txt'])
  expect(heard).toEqual([])
})

test('what the receiver demands is checked before anything is poured; the hand-over waits until it is met or waived', async ({
  page
}) => {
  test.setTimeout(120_000)
  const heard = complaints(page)
  await begun(page, await sequence('palm shade', 3))
  await choose(page, 'What the receiver demands…')
  const dialog = page.getByRole('dialog', { name: 'What the receiver demands' })
  await dialog.getByLabel('Receiver', { exact: true }).fill('Fernbrook screens')
  // what is typed stands as it is typed, in its own field
  await dialog.getByLabel('Width asked for').pressSequentially('1920')
  await expect(dialog.getByLabel('Width asked for')).toHaveValue('1920')
  await expect(dialog.getByLabel('Height asked for')).toHaveValue('')
  await dialog.getByLabel('Longest, seconds').pressSequentially('2.5')
  await expect(dialog.getByLabel('Longest, seconds')).toHaveValue('2.5')
  await dialog.getByLabel('Largest, bytes').pressSequentially('5 MB')
  await expect(dialog.getByLabel('Largest, bytes')).toHaveValue('5 MB')
  await dialog.getByRole('button', { name: 'Keep', exact: true }).click()
  await expect(dialog.getByRole('alert')).toContainText('Give width and height, or neither.')
  await dialog.getByLabel('Width asked for').fill('24')
  await dialog.getByLabel('Height asked for').fill('16')
  await dialog.getByLabel('Rate asked for').fill('twenty')
  await dialog.getByRole('button', { name: 'Keep', exact: true }).click()
  await expect(dialog.getByRole('alert')).toContainText('Give the rate as')
  await dialog.getByLabel('Rate asked for').fill('50')
  await dialog.getByRole('button', { name: 'Keep', exact: true }).click()
  await expect(dialog).toBeHidden()
  await expect(cell(page, 0, 0)).toContainText('not as asked')

  await cell(page, 0, 0).click()
  await expect(page.getByText('Fernbrook screens asks for 24x16; this is 48x32.')).toBeVisible()
  await page.getByRole('button', { name: 'Fit into 24x16' }).click()
  await expect(page.getByText('Fernbrook screens asks for 24x16; this is 48x32.')).toBeHidden()
  await page.getByRole('button', { name: 'Pour this cell' }).click()
  await expect(cell(page, 0, 0)).toHaveAttribute('data-state', /Identical|Faithful|Visible loss/, { timeout: 60_000 })

  await page.getByRole('link', { name: 'Proof' }).click()
  await page.getByText('Hand-over', { exact: true }).click()
  await expect(page.getByText('Held back: Fernbrook screens asks for something else.')).toBeVisible()
  await expect(page.getByRole('button', { name: 'Save as ZIP' })).toBeDisabled()
  await page.getByRole('button', { name: 'Waive it' }).click()
  await expect(page.getByRole('button', { name: 'Save as ZIP' })).toBeEnabled()
  await page.getByRole('link', { name: 'Board' }).click()
  await expect(page.getByText('Waived: Fernbrook screens asks for 50 f/s')).toBeVisible()
  await expect(cell(page, 0, 0)).not.toContainText('not as asked')
  expect(heard).toEqual([])
})

test('settings within a size are found from samples, said with what they cost, and taken as an outlet', async ({
  page
}) => {
  test.setTimeout(120_000)
  const heard = complaints(page)
  await begun(page, await sequence('palm shade', 3, { width: 96, height: 64 }))
  await cell(page, 0, 2).click()
  await page.getByRole('button', { name: 'Within a size…' }).click()
  const dialog = page.getByRole('dialog', { name: 'Within a size' })
  await dialog.getByLabel('At most, kB').fill('100000')
  await dialog.getByLabel('At most, kB').press('Enter')
  await dialog.getByRole('button', { name: 'Find settings' }).click()
  await expect(dialog.getByText(/It stays within 100000 kB as it is/)).toBeVisible({ timeout: 30_000 })
  await dialog.getByLabel('At most, kB').fill('20')
  await dialog.getByLabel('At most, kB').press('Enter')
  await dialog.getByRole('button', { name: 'Find settings' }).click()
  await expect(dialog.getByText(/the picture is scaled to \d+ %/)).toBeVisible({ timeout: 30_000 })
  await dialog.getByRole('button', { name: 'Add as an outlet' }).click()
  await expect(page.getByRole('columnheader').filter({ hasText: 'Web page under 20 kB' })).toBeVisible()
  expect(heard).toEqual([])
})

test('many sources are renamed by rule, put in order and removed at once, each taken back by one undo; a pour is paused', async ({
  page
}) => {
  const heard = complaints(page)
  await page.goto('/')
  await beginPlain(page)
  // the rate stands in their names
  await drop(page, [
    ...(await sequence('comp fern_25fps', 2)),
    ...(await sequence('comp palm_25fps', 2)),
    ...(await sequence('comp moss_25fps', 2))
  ])
  await expect.poll(() => sourceNames(page)).toEqual(['comp fern', 'comp moss', 'comp palm'])
  await page.getByRole('button', { name: 'Sources…' }).click()
  const dialog = page.getByRole('dialog', { name: 'Sources of this job' })
  await dialog.getByLabel('Pick comp moss').check()
  await dialog.getByLabel('Pick comp palm').check()
  await dialog.getByLabel('Instead of').fill('comp ')
  await dialog.getByLabel('before it').fill('Glasshouse ')
  await expect(dialog.getByText('→ Glasshouse palm')).toBeVisible()
  await dialog.getByRole('button', { name: 'Rename 2' }).click()
  await dialog.getByRole('button', { name: 'Up', exact: true }).click()
  await expect.poll(() => sourceNames(page)).toEqual(['Glasshouse moss', 'Glasshouse palm', 'comp fern'])
  await dialog.getByRole('button', { name: 'Remove 2' }).click()
  await expect.poll(() => sourceNames(page)).toEqual(['comp fern'])
  await dialog.getByRole('button', { name: 'Close', exact: true }).click()
  for (const names of [
    ['Glasshouse moss', 'Glasshouse palm', 'comp fern'],
    ['comp fern', 'Glasshouse moss', 'Glasshouse palm'],
    ['comp fern', 'comp moss', 'comp palm']
  ]) {
    await page.getByRole('button', { name: 'Undo' }).click()
    await expect.poll(() => sourceNames(page)).toEqual(names)
  }

  await page.getByRole('button', { name: 'Arrange…' }).click()
  await page.getByRole('menuitem', { name: 'Narrower columns' }).click()
  await expect(page.getByRole('grid')).toHaveClass(/narrow/)
  await page.keyboard.press('p')
  await page.getByRole('button', { name: 'Pause' }).click()
  await expect(page.getByText(/cells? waits?\./)).toBeVisible({ timeout: 30_000 })
  await page.getByRole('button', { name: 'Go on' }).click()
  await expect(page.locator('[data-state=Waiting], [data-state^=Pouring], [data-state^=Proving]')).toHaveCount(0, {
    timeout: 60_000
  })
  await expect(cell(page, 2, 0)).toHaveAttribute('data-state', /Identical|Faithful|Visible loss/)

  // names that would be the same are told where they are made
  await page.getByRole('link', { name: 'Outlets' }).click()
  const file = page.getByLabel('File name', { exact: true })
  await file.fill('same')
  await file.press('Enter')
  await expect(page.getByText(/^3 names are also given to another delivery of this job/)).toBeVisible()
  await page.getByRole('button', { name: 'Names of all 3 sources' }).click()
  await expect(page.getByRole('listitem').filter({ hasText: /^same\.mov$/ })).toHaveCount(3)
  expect(heard).toEqual([])
})
