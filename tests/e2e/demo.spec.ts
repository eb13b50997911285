import { expect, test } from './test'
import { cell, complaints } from './support'

// four rendered scenes, then what was sent
const [LOOP, VINE] = [4, 9]
const ROWS = [0, 1, 2, 3, 4, 5, 6, 7, 8]
const SIXTEEN = [0, 1, 2, 3, LOOP]

test('the demo opens, is examined, pours, and every pour is proven', async ({ page }) => {
  test.setTimeout(420_000)
  const heard = complaints(page)
  await page.goto('/')
  await expect(page.getByRole('heading', { name: 'Fernbrook visitor screens' })).toBeVisible()
  await expect(page.getByRole('rowheader')).toHaveCount(10)
  for (const tag of ['frames are missing', 'first frame repeats', 'background left on', 'screen left on'])
    await expect(page.getByText(tag).first()).toBeVisible()
  // the rate of the vine's arrow is not known, so no film can be made of it
  await expect(cell(page, VINE, 0)).toHaveAttribute('data-state', 'Give its rate')
  await expect(cell(page, LOOP, 0)).toContainText(/about \d+ kB/, { timeout: 60_000 })

  await page.keyboard.press('p')
  const columns = ['Faithful', 'Identical', 'Identical', /Faithful|Visible loss/] as const
  await expect(cell(page, VINE, 2)).toHaveAttribute('data-state', 'Identical', { timeout: 200_000 })
  // what is rendered and the moth's loop have 16 bits, which become 8 in Animation
  for (const row of ROWS)
    for (const [column, verdict] of columns.entries())
      await expect(cell(page, row, column)).toHaveAttribute(
        'data-state',
        SIXTEEN.includes(row) && column === 1 ? 'Faithful' : verdict,
        { timeout: 200_000 }
      )

  await cell(page, LOOP, 3).click()
  await page.getByRole('button', { name: 'See proof' }).click()
  await expect(page.locator('[data-verdict]')).toContainText('Alpha is identical in all 25 frames')
  await page.getByRole('tab', { name: 'Stations' }).click()
  // the browser really plays the film in a video element: all frames were drawn over the backdrop and read back
  await expect(page.locator('[data-station=this-browser]')).toContainText('Right: 25 frames over #4a7ba6')
  await page.getByRole('link', { name: 'Board' }).click()
  await cell(page, LOOP, 1).click()
  await page.getByRole('button', { name: 'See proof' }).click()
  await expect(page.locator('[data-verdict]')).toHaveAttribute('data-kind', 'faithful')
  await expect(page.locator('[data-verdict]')).toContainText('Every code of all 25 frames is equal')
  await expect(page.locator('[data-stage=recipe]')).toContainText('16 bits became 8')
  await page.getByRole('tab', { name: 'Stations' }).click()
  await expect(page.locator('[data-station=alpha-off]')).toContainText('Nothing is see-through')
  await expect(page.locator('[data-station=always-straight]')).toContainText('Right as it is')
  await expect(page.locator('[data-station=this-browser]')).toContainText('No page plays this file')
  expect(heard).toEqual([])
})

test('the strap whose background was left on is told apart on the bench', async ({ page }) => {
  await page.goto('/')
  await page.getByRole('rowheader').filter({ hasText: 'strap on page' }).getByRole('button').dblclick()
  await expect(
    page.getByText('Alpha is solid in every pixel of all 24 frames; the background is one flat colour')
  ).toBeVisible()
})

test('the viewer answers to its keys: frames, views, backdrops, zoom, marks, and the loupe reads codes', async ({
  page
}) => {
  await page.goto('/')
  await page.getByRole('rowheader').filter({ hasText: 'moth loop' }).getByRole('button').dblclick()
  await expect(page.getByText('frame 1 of 25')).toBeVisible()
  await page.keyboard.press('ArrowRight')
  await page.keyboard.press('Shift+ArrowRight')
  await expect(page.getByText('frame 12 of 25')).toBeVisible()
  await page.keyboard.press('End')
  await expect(page.getByText('frame 25 of 25')).toBeVisible()
  await page.keyboard.press('3')
  await expect(page.locator('.caption')).toHaveText('Colour over black')
  await page.keyboard.press('v')
  await expect(page.locator('.caption')).toHaveText('Colour without alpha')
  await page.keyboard.press('v')
  await expect(page.locator('.caption')).toHaveText('Alpha as grey')
  await page.keyboard.press('z')
  await expect(page.getByTitle('Zoom (Z)')).toHaveText('100 %')
  await page.keyboard.press('Home')
  await page.keyboard.press('ArrowRight')
  await page.keyboard.press('i')
  await expect(page.getByText('frame 2 of 25')).toBeVisible()
  const stage = page.locator('.stage')
  const box = (await stage.boundingBox())!
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2)
  await expect(page.locator('.loupe')).toContainText(
    /x 3\d\d y 1\d\d · r \d+ [\d.]+ % g \d+ [\d.]+ % b \d+ [\d.]+ % · a 65535 100 %/
  )
  await page.keyboard.press('Space')
  await expect(page.getByText(/frame ([3-9]|1\d) of 25/)).toBeVisible()
})

test('themes change with one key, keys are listed, and no key fires while typing', async ({ page }) => {
  await page.goto('/')
  await expect(page.getByRole('rowheader')).toHaveCount(10)
  await page.keyboard.press('d')
  await expect(page.locator('html')).toHaveClass(/dim/)
  await page.keyboard.press('?')
  await expect(page.getByText('mark where the range begins and ends')).toBeVisible()
  await page.keyboard.press('Escape')
  await page.getByRole('heading', { name: 'Fernbrook visitor screens' }).dblclick()
  await page.getByLabel('Name of the job').fill('')
  await page.getByLabel('Name of the job').pressSequentially('dppd')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('heading', { name: 'dppd' })).toBeVisible()
  await expect(page.locator('html')).toHaveClass(/dim/)
  await expect(page.locator('[data-state^=Pouring], [data-state=Waiting]')).toHaveCount(0)
  // sizes may still be tried, but nothing is poured
  await expect(page.locator('footer').getByText(/^(Pouring|Proving) \d/)).toHaveCount(0)
})
