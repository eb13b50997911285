/** The first hour: what a new job offers, what a right click and the keys do, and how one comes to a frame. */
import { expect, test, type Page } from './test'
import { pot, potOnScreen } from '../../demo/scenes'
import { withDepth } from '../../core/frame/depth'
import { plainKernels } from '../oracles/kernels'
import { beginPlain, cell, complaints, drop, png, sequence, type Dropped } from './support'

const menuitem = (page: Page, name: string | RegExp): ReturnType<Page['getByRole']> =>
  page.getByRole('menu', { name: 'What can be done with it' }).getByRole('menuitem', { name })
const columns = (page: Page): Promise<string[]> =>
  page.locator('[role=columnheader] strong').evaluateAll(all => all.map(each => each.textContent ?? ''))

async function begin(page: Page, files?: Dropped[]): Promise<void> {
  await page.goto('/')
  await beginPlain(page)
  await drop(page, files ?? (await sequence('fern_24fps', 6)))
  await expect(cell(page, 0, 0)).toHaveAttribute('data-state', 'Not poured')
}

test('a new job offers outlets by where they go, and finds any other by words', async ({ page }) => {
  const said = complaints(page)
  await begin(page)
  await page.getByRole('button', { name: 'Jobs…' }).click()
  await page.getByRole('menuitem', { name: 'New job', exact: true }).click()
  await expect(page.getByText('Bring in an animation with transparency')).toBeVisible()
  await drop(page, await sequence('fern_24fps', 3))
  const first = page.getByRole('region', { name: 'First outlet' })
  await expect(first.getByRole('button')).toHaveCount(8)
  await first.getByRole('button', { name: /Timeline editor/ }).click()
  await expect(cell(page, 0, 0)).toHaveAttribute('data-state', 'Not poured')
  await expect(first).toBeHidden()
  // by keys alone: open, type, take the first
  await page.getByRole('button', { name: 'Add outlet…' }).focus()
  await page.keyboard.press('Enter')
  await expect(page.getByLabel('Find a format')).toBeFocused()
  await page.keyboard.type('archive ffv1 avi')
  await page.keyboard.press('Enter')
  await expect.poll(() => columns(page)).toHaveLength(2)
  expect((await columns(page))[0]).toBe('Timeline editor')
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect.poll(() => columns(page)).toEqual(['Timeline editor'])
  await page.getByRole('button', { name: 'Redo' }).click()
  await expect.poll(() => columns(page)).toHaveLength(2)
  expect(said).toEqual([])
})

test('cells, rows and columns have a menu; outlets are copied, pasted, duplicated and removed by key', async ({
  page
}) => {
  const said = complaints(page)
  await begin(page)
  await cell(page, 0, 1).click({ button: 'right' })
  await menuitem(page, 'Pick for the next pour').click()
  await expect(cell(page, 0, 1)).toHaveAttribute('aria-selected', 'true')
  // by keys: the menu opens where the focus is, and gives it back
  await cell(page, 0, 1).focus()
  await page.keyboard.press('Shift+F10')
  await expect(menuitem(page, 'Pour this cell')).toBeFocused()
  await page.keyboard.press('ArrowDown')
  await expect(menuitem(page, 'Leave out of the next pour')).toBeFocused()
  await page.keyboard.press('Escape')
  await expect(cell(page, 0, 1)).toBeFocused()
  await cell(page, 0, 1).click({ button: 'right' })
  await menuitem(page, 'Pour this cell').click()
  await expect(cell(page, 0, 1)).toHaveAttribute('data-state', 'Identical', { timeout: 60_000 })
  await cell(page, 0, 1).click({ button: 'right' })
  await expect(menuitem(page, 'See proof')).toBeVisible()
  await expect(menuitem(page, 'Pour again')).toBeVisible()
  await page.keyboard.press('Escape')

  const heading = (name: string): ReturnType<Page['getByRole']> =>
    page.getByRole('columnheader').filter({ hasText: name }).getByRole('button')
  await heading('Compositing frames').click()
  await page.keyboard.press('Control+d')
  await expect.poll(() => columns(page)).toHaveLength(4)
  await heading('Web page').click()
  await page.keyboard.press('Control+c')
  await page.keyboard.press('Control+v')
  await expect.poll(() => columns(page)).toHaveLength(5)
  expect(new Set(await columns(page)).size).toBe(5)
  await heading('Editor hand-over').click({ button: 'right' })
  await menuitem(page, 'Remove outlet').click()
  await expect.poll(() => columns(page)).toHaveLength(4)
  await expect(page.getByText('Editor hand-over is removed. Undo brings it back.')).toBeVisible()
  await page.keyboard.press('Control+z')
  await expect.poll(() => columns(page)).toHaveLength(5)

  // a row
  await page.getByRole('rowheader').first().click({ button: 'right' })
  await menuitem(page, /^Pour 4 cells of it$/).hover()
  await menuitem(page, 'Remove source').click()
  await expect(page.getByText('Bring in an animation with transparency')).toBeVisible()
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByRole('rowheader').first()).toContainText('fern')
  expect(said).toEqual([])
})

test('steps are copied from one source to another, duplicated and removed by key; a frame is typed', async ({
  page
}) => {
  const said = complaints(page)
  const frames = await Promise.all(
    [0, 0.3, 0.6, 1].map((t, i) => png(`pot_24fps_000${i + 1}.png`, withDepth(potOnScreen(t), 8, plainKernels)))
  )
  await begin(page, frames)
  await page.getByRole('rowheader').first().getByRole('button').click()
  // what is chosen on the board lies on the bench
  await page.getByRole('link', { name: 'Bench' }).click()
  await page.getByRole('button', { name: 'Add step…' }).click()
  await page.getByRole('menuitem', { name: 'Chroma key', exact: true }).click()
  // the key finds the screen of this plate by itself
  const screen = page.locator('[data-step=chroma-key] input[type=color]')
  await expect.poll(async () => await screen.inputValue()).not.toBe('#2a9d4a')
  const steps = page.locator('[data-step]')
  await page.locator('[data-step] .name').first().focus()
  await page.keyboard.press('Control+d')
  await expect(steps).toHaveCount(2)
  await page.keyboard.press('Control+c')
  await page.keyboard.press('Control+v')
  await expect(steps).toHaveCount(3)
  await steps.nth(2).click({ button: 'right' })
  await menuitem(page, 'Turn off').click()
  await expect(steps.nth(2)).toHaveClass(/off/)
  await steps.nth(2).click({ button: 'right' })
  await menuitem(page, 'Remove').click()
  await expect(steps).toHaveCount(2)
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(steps).toHaveCount(3)

  await page.getByRole('button', { name: /^frame 1 of 4/ }).click()
  await page.keyboard.type('3')
  await page.keyboard.press('Enter')
  await page.getByRole('button', { name: /^frame 3 of 4 · 00:00:00:02$/ }).click()
  await page.keyboard.type('00:00:09:00')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('alert')).toContainText('goes from 00:00:00:00 to 00:00:00:03')
  await page.getByLabel('Frame or time code').fill('0:3')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('button', { name: /^frame 4 of 4/ })).toBeVisible()
  expect(said).toEqual([])
})

test('a drawn mask keeps its points in hand once it is closed, and has numbers', async ({ page }) => {
  const said = complaints(page)
  const frames = await Promise.all(
    [0, 1].map((t, i) => png(`pot_24fps_000${i + 1}.png`, withDepth(pot(t), 8, plainKernels)))
  )
  await begin(page, frames)
  await page.getByRole('link', { name: 'Bench' }).click()
  await page.getByRole('button', { name: 'Add step…' }).click()
  await page.getByRole('menuitem', { name: 'Drawn mask', exact: true }).click()
  await page.getByRole('button', { name: 'Polygon' }).click()
  const stage = (await page.locator('[data-tool]').boundingBox())!
  const scale = Math.min((stage.width - 24) / 640, (stage.height - 24) / 360)
  const at = (x: number, y: number): [number, number] => [
    stage.x + stage.width / 2 + (x - 320) * scale,
    stage.y + stage.height / 2 + (y - 180) * scale
  ]
  for (const [x, y] of [
    [200, 80],
    [440, 80],
    [320, 300]
  ] as const)
    await page.mouse.click(...at(x, y))
  await page.keyboard.press('Enter')
  const handles = page.locator('[data-tool] .handle')
  await expect(handles).toHaveCount(3)
  const tool = page.locator('[data-tool]')
  await expect(tool).toHaveAttribute('aria-label', /Drag a point/)
  const list = page.locator('[data-step=drawn-mask]')
  await list.getByText('Numbers').click()
  const x = (n: number): ReturnType<Page['getByLabel']> => list.getByLabel(`${n} x at frame 1`)
  await expect.poll(async () => Number(await x(2).inputValue())).toBeGreaterThan(437)
  // a point is dragged
  await page.mouse.move(...at(440, 80))
  await page.mouse.down()
  await page.mouse.move(...at(500, 80), { steps: 3 })
  await page.mouse.up()
  await expect.poll(async () => Math.round(Number(await x(2).inputValue()) / 10)).toBe(50)
  // an edge gives another one, which Delete takes away
  await page.mouse.move(...at(350, 80))
  await page.mouse.down()
  await page.mouse.move(...at(350, 40), { steps: 3 })
  await page.mouse.up()
  await expect(handles).toHaveCount(4)
  await page.keyboard.press('Delete')
  await expect(handles).toHaveCount(3)
  await expect.poll(async () => Math.round(Number(await x(2).inputValue()) / 10)).toBe(50)
  // and a number is typed
  await x(2).focus()
  await x(2).fill('410')
  await x(2).press('Enter')
  await expect.poll(async () => Number(await x(2).inputValue())).toBe(410)
  expect(said).toEqual([])
})

test('a scene opens when it is there; elements land apart, and are copied within and between scenes', async ({
  page
}) => {
  const said = complaints(page)
  await page.goto('/')
  await beginPlain(page)
  const make = async (starter: RegExp | null): Promise<void> => {
    await page.getByRole('link', { name: 'Scenes' }).click()
    const fresh = page.getByRole('button', { name: 'New scene…' })
    if (await fresh.isVisible()) await fresh.click()
    if (starter) await page.getByRole('button', { name: starter }).first().click()
    await page.getByRole('button', { name: starter ? 'Make this scene' : 'Begin with nothing in it' }).click()
    await expect(page.getByRole('button', { name: 'Lettering' })).toBeVisible()
  }
  await make(/^Opening title/)
  // lower thirds begin with nothing: it is shown when all of it is there
  await expect(page.getByRole('button', { name: /^frame (?!1 of)\d+ of/ })).toBeVisible()
  const cards = page.locator('.card')
  const many = await cards.count()
  await page.getByRole('button', { name: 'Shape' }).click()
  await expect(cards).toHaveCount(many + 1)
  await page.getByRole('button', { name: 'Shape' }).click()
  await expect(cards).toHaveCount(many + 2)
  const placeOf = async (n: number): Promise<string> => {
    const card = cards.nth(n)
    if (!(await card.evaluate(each => each.classList.contains('open'))))
      await card.getByRole('button', { name: /^Open / }).click()
    return `${await card.getByLabel('Across', { exact: true }).inputValue()} ${await card.getByLabel('Down', { exact: true }).inputValue()}`
  }
  expect(await placeOf(0)).not.toBe(await placeOf(1))
  await page.locator('h2').first().click()
  await page.keyboard.press('Control+d')
  await expect(cards).toHaveCount(many + 3)
  await page.keyboard.press('Control+c')
  await page.keyboard.press('Delete')
  await expect(cards).toHaveCount(many + 2)
  await make(null)
  await expect(cards).toHaveCount(0)
  await page.keyboard.press('Control+v')
  await expect(cards).toHaveCount(1)
  await cards.first().click({ button: 'right', position: { x: 200, y: 4 } })
  await menuitem(page, 'Duplicate').click()
  await expect(cards).toHaveCount(2)

  // the scene chosen on the board is the one that opens
  await page.getByRole('link', { name: 'Board' }).click()
  await expect(page.getByRole('rowheader').nth(1)).toBeVisible()
  const names = await page.getByRole('rowheader').locator('strong').allInnerTexts()
  for (const n of [0, 1]) {
    await page.getByRole('rowheader').nth(n).getByRole('button').click()
    await page.getByRole('link', { name: 'Scenes' }).click()
    await expect(page.getByRole('heading', { name: `Scene: ${names[n]!}` })).toBeAttached()
    await page.getByRole('link', { name: 'Board' }).click()
  }
  expect(said).toEqual([])
})
