/**
 * Scenes: made from nothing by mouse and keyboard, rendered, poured, proven, filled from a table, saved and brought
 * back.
 */
import { unzipSync } from 'fflate'
import { readFile } from 'node:fs/promises'
import { expect, test, type Locator, type Page } from './test'
import { readScene } from '../../core/draw/scene/format'
import { fullestFrame } from '../../core/draw/scene/order'
import { SceneRenderer } from '../../core/draw/scene/render'
import type { Scene } from '../../core/draw/scene/scene'
import { takeIn } from '../../core/run/intake/intake'
import { openSource } from '../../core/open/open'
import { vectorDisc } from '../material/vector'
import { STRAIGHT, type Frame } from '../../core/frame/frame'
import { bytesFile, firstDifference, sharpFrame, testHost, writeFilm } from '../unit/support'
import { beginPlain, bytesOf, cell, complaints, drop, makeStrap, sequence, sourceNames, withoutPicker } from './support'

async function saved(page: Page): Promise<Uint8Array> {
  const waiting = page.waitForEvent('download')
  await page.getByRole('button', { name: 'Save the scene' }).click()
  return bytesOf(await waiting)
}

/** Pours the first source as PNG, and holds frames of what is downloaded against what node renders, code for code. */
async function pouredAs(
  page: Page,
  due: (index: number) => Promise<Frame> | Frame,
  indices: readonly number[]
): Promise<void> {
  await page.getByRole('link', { name: 'Board' }).click()
  await cell(page, 0, 1).click()
  await page.getByRole('button', { name: 'Pour this cell' }).click()
  await expect(cell(page, 0, 1)).toHaveAttribute('data-state', /Identical|Faithful/, { timeout: 60_000 })
  const waiting = page.waitForEvent('download')
  await page.getByRole('button', { name: 'Download' }).click()
  const files = Object.entries(unzipSync(await bytesOf(await waiting)))
  for (const index of indices) {
    const [, picture] = files.find(([path]) => path.endsWith(`_${String(index + 1).padStart(4, '0')}.png`))!
    expect(firstDifference((await sharpFrame(picture)).samples, (await due(index)).samples)).toBe(null)
  }
}

/** Takes one of the choices of a field. */
async function choose(card: Locator, field: string, choice: string): Promise<void> {
  const one = card.page().getByLabel(field, { exact: true })
  await card.locator('.el-select').filter({ has: one }).click()
  await card.page().getByRole('option', { name: choice, exact: true }).click()
}

test('a name strap is made from nothing, changed in its sentences, poured and proven; node renders the same codes', async ({
  page
}) => {
  test.setTimeout(180_000)
  const heard = complaints(page)
  await withoutPicker(page)
  await makeStrap(page, 'Ivo Reedmoor')
  const name = page.getByRole('listitem').filter({ has: page.getByRole('button', { name: 'Open Name' }) })
  // folded to one line until it is opened
  await expect(name).toContainText('Lettering Ivo Reedmoor')
  await page.getByRole('button', { name: 'Open Name' }).click()
  await expect(name.getByLabel('Text').first()).toHaveValue('Ivo Reedmoor')

  // by keyboard: the text, then how it comes
  await name.getByLabel('Text').first().focus()
  await page.keyboard.press('Control+a')
  await page.keyboard.type('Ada Fern')
  await page.keyboard.press('Enter')
  await name.getByLabel('How it comes').focus()
  await page.keyboard.type('fades')
  await expect(name.getByLabel('Text').first()).toHaveValue('Ada Fern')
  await expect(name.getByLabel('How it comes')).toHaveValue('fade')

  // a shape of its own, made wider in its form, then taken back and brought again
  await page.getByRole('button', { name: 'Shape', exact: true }).click()
  // the form of the shape, not that of the scene
  const width = page.getByLabel('Running order').getByLabel('Width', { exact: true })
  await width.fill('222')
  await width.press('Enter')
  await expect(page.getByRole('button', { name: 'Open Rectangle 5' })).toBeVisible()
  await expect(width).toHaveValue('222')
  await page.locator('h2').first().click()
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  await expect(page.getByRole('button', { name: 'Open Rectangle 5' })).toHaveCount(0)
  await page.keyboard.press('Control+Shift+z')
  await page.getByRole('button', { name: 'Remove Rectangle 5' }).click()

  const scene = readScene(new TextDecoder().decode(await saved(page)), 'saved')
  expect(scene).toMatchObject({ width: 640, height: 360, frames: 30, backdrop: null })

  await page.getByRole('link', { name: 'Board' }).click()
  await expect(page.getByRole('rowheader')).toContainText('640×360 · 25 f/s · 30')
  await cell(page, 0, 0).click()
  await page.getByRole('button', { name: 'Pour this cell' }).click()
  await expect(cell(page, 0, 0)).toHaveAttribute('data-state', /Identical|Faithful/, { timeout: 60_000 })
  const renderer = await SceneRenderer.of(scene, await testHost())
  await pouredAs(page, index => renderer.frame(index), [3, 12, 20, 28])

  // what was poured is out of date once the scene is another
  await page.getByRole('link', { name: 'Scenes' }).click()
  await page.getByRole('button', { name: 'Open Name' }).click()
  await page.getByLabel('Seconds to come').first().fill('0.2')
  await page.getByLabel('Seconds to come').first().press('Enter')
  await page.getByRole('link', { name: 'Board' }).click()
  await expect(cell(page, 0, 1)).toContainText(/out of date/i)
  expect(heard).toEqual([])
})

test('an element is dragged in the picture, and all of it survives a reload', async ({ page }) => {
  await makeStrap(page, 'Ada')
  await page
    .getByLabel('Frame shown')
    .first()
    .isVisible()
    .catch(() => false)
  for (let i = 0; i < 15; i++) await page.keyboard.press('ArrowRight')
  await page.getByRole('button', { name: 'Open Bar' }).click()
  const across = page.getByLabel('Across', { exact: true }).first()
  const before = Number(await across.inputValue())
  await expect(page.getByText('Arrows move it by a pixel')).toBeVisible()
  await page.keyboard.press('Shift+ArrowRight')
  await expect.poll(async () => Number(await across.inputValue())).toBe(before + 10)
  await page.reload()
  await page.getByRole('button', { name: 'Open Bar' }).click()
  await expect(page.getByLabel('Across', { exact: true }).first()).toHaveValue(String(before + 10))
})

test('spans of a scene are rows of their own, and change with it', async ({ page }) => {
  await makeStrap(page, 'Ada')
  await page.getByRole('button', { name: 'Add a span' }).click()
  await page.getByLabel('Name of the span').fill('arrival')
  await page.getByLabel('Name of the span').press('Enter')
  await page.getByLabel('Last frame').fill('12')
  await page.getByLabel('Last frame').press('Enter')
  await page.getByRole('button', { name: 'Give each a row on the board' }).click()
  await expect.poll(() => sourceNames(page)).toEqual(['name strap', 'name strap arrival'])
  await page.getByLabel('Rate').fill('50')
  await page.getByLabel('Rate').press('Enter')
  await page.getByRole('link', { name: 'Board' }).click()
  await expect(page.getByRole('rowheader').nth(0)).toContainText('50 f/s · 60')
  await expect(page.getByRole('rowheader').nth(1)).toContainText('50 f/s · 12')
})

test('a table makes a row of each of its rows, and a saved scene comes back by a drop', async ({ page }) => {
  await withoutPicker(page)
  await makeStrap(page, 'Nobody')
  const scene = await saved(page)
  const chooser = page.waitForEvent('filechooser')
  await page.getByRole('button', { name: 'Fill from a table…' }).click()
  await (
    await chooser
  ).setFiles([
    {
      name: 'people.csv',
      mimeType: 'text/csv',
      buffer: Buffer.from('name,Second line,tone\nŁucja,12,#2f9e63\nIvo,1234567,no tone\n')
    }
  ])
  const dialog = page.getByRole('dialog', { name: /One delivery a row/ })
  // what is called like a column takes it; what is not is matched by hand
  await expect(dialog.getByText('Nothing in the scene takes the column "tone".')).toBeVisible()
  await dialog.getByLabel('Bar, colour').selectOption('tone')
  await expect(dialog.getByText('Nothing in the scene takes')).toHaveCount(0)
  await dialog.getByLabel('Second line, words').selectOption('Second line')
  await dialog.getByLabel('Second line, numbers').selectOption('1 000.5')
  // the row with trouble comes first, and says what it is
  await expect(dialog.getByText('1 of 2 rows have something to look at')).toBeVisible({ timeout: 30_000 })
  const first = dialog.getByRole('list', { name: 'Rows' }).getByRole('listitem').first()
  await expect(first).toContainText('Ivo')
  await expect(first).toContainText('“no tone” is no colour; “Bar” keeps its own.')
  await dialog.getByRole('button', { name: 'Make 2 scenes' }).click()
  await page.getByRole('link', { name: 'Board' }).click()
  await expect.poll(() => sourceNames(page)).toEqual(['name strap', 'Łucja', 'Ivo'])
  await drop(page, [{ name: 'again.json', bytes: scene }])
  await expect.poll(async () => (await sourceNames(page)).length).toBe(4)
  await page.getByRole('link', { name: 'Scenes' }).click()
  await page.getByRole('combobox', { name: 'Scene' }).click({ force: true })
  await expect(page.locator('.el-select-dropdown__item:visible')).toHaveCount(4)
})

test('a vector animation is drawn in the page as on node, code for code, and poured', async ({ page }) => {
  test.setTimeout(120_000)
  const heard = complaints(page)
  await page.goto('/')
  await beginPlain(page)
  const bytes = new TextEncoder().encode(JSON.stringify(vectorDisc({ opacity: 60, moves: true })))
  await drop(page, [{ name: 'disc.json', bytes }])
  await expect(page.getByRole('rowheader')).toContainText('96×64 · 25 f/s · 50')
  const { found } = await takeIn([bytesFile('disc.json', bytes)], await testHost())
  const source = await openSource({ ...found[0]!.spec, id: 'disc' }, await testHost())
  await pouredAs(page, index => source.frame(index), [0, 24, 49])
  await source.close()
  expect(heard).toEqual([])
})

test('elements go into a group, a course is bent by keys, a font file letters, and a source stands behind', async ({
  page
}) => {
  const heard = complaints(page)
  await withoutPicker(page)
  await makeStrap(page, 'Ada Fern')
  await page.getByRole('button', { name: 'Group', exact: true }).click()
  await page.getByRole('button', { name: 'Open Name' }).click()
  const card = page.getByRole('listitem').filter({ has: page.getByRole('button', { name: 'Open Name' }) })
  await choose(card, 'In the group', 'Group 5')
  await expect(card.locator('.field', { hasText: 'In the group' })).toContainText('Group 5')

  await card.getByRole('button', { name: /^Course of coming/ }).click()
  const handle = page.getByRole('slider', { name: 'First handle' })
  await handle.press('Shift+ArrowUp')
  await expect(card.getByRole('button', { name: 'Course of coming: own curve' })).toBeVisible()
  await page.keyboard.press('Escape')

  const font = await readFile('node_modules/@fontsource/ibm-plex-mono/files/ibm-plex-mono-latin-700-normal.woff')
  await drop(page, [{ name: 'Palm House.woff', bytes: new Uint8Array(font) }])
  await expect(page.getByText('Palm House can be chosen as a face.')).toBeVisible()
  await choose(card, 'Face', 'Palm House')
  await drop(page, [{ name: 'broken.ttf', bytes: new Uint8Array(99) }])
  await expect(page.getByText(/broken\.ttf: this is not a TrueType, OpenType or WOFF file/)).toBeVisible()

  // its colour changes over time, by keyboard
  await card.getByLabel('Value that changes over time').selectOption({ label: 'Colour' })
  await card.getByRole('button', { name: 'Add', exact: true }).click()
  await card.getByLabel('Colour, value 2').fill('#2f9e63')
  await expect(card.getByLabel('Colour, value 2')).toHaveValue('#2f9e63')
  await card.getByLabel('Colour, time 2').fill('0.8')
  await card.getByLabel('Colour, time 2').press('Enter')

  const scene = readScene(new TextDecoder().decode(await saved(page)), 'saved')
  const name = scene.elements.find(element => element.name === 'Name')!
  expect(name.colours).toMatchObject([{ at: 0 }, { at: 0.8, colour: '#2f9e63' }])
  expect(name).toMatchObject({ inside: 'group', look: { face: 'own-1' }, entrance: { ease: [0, 0.1, 0.3, 1] } })
  expect(scene.faces).toMatchObject([{ id: 'own-1', name: 'Palm House' }])

  await page.locator('h2').first().click()
  await page.keyboard.press('9')
  await page.locator('.own-source').click()
  await page.getByRole('option', { name: 'name strap' }).click()
  await expect(page.locator('.caption')).toHaveText('Colour over name strap')
  expect(heard).toEqual([])
})

test('a ring is added and closed; what is no number goes back; it stays through a reload', async ({ page }) => {
  const heard = complaints(page)
  await withoutPicker(page)
  await makeStrap(page, 'Ada Fern')
  await page.getByRole('button', { name: 'Ring', exact: true }).click()
  const card = page.getByRole('listitem').filter({ has: page.getByRole('button', { name: /^Open Arc/ }) })
  await expect(card.locator('strong').first()).toHaveText('Arc')
  const thickness = card.getByLabel('Thickness')
  const before = await thickness.inputValue()
  await thickness.fill('')
  await thickness.press('Enter')
  await expect(thickness).toHaveValue(before)
  await card.getByLabel('Gap').fill('0')
  await card.getByLabel('Gap').press('Enter')
  await expect(card.locator('strong').first()).toHaveText('Ring')
  await card.getByLabel('Gap').fill('7')
  await card.getByLabel('Gap').press('Enter')
  await expect(card.locator('strong').first()).toHaveText('Arc')
  await page.reload()
  await page.getByRole('button', { name: /^Open Arc/ }).click()
  await expect(card.getByLabel('Gap')).toHaveValue('1')
  const { elements } = readScene(new TextDecoder().decode(await saved(page)), 'saved')
  expect(elements[0]).toMatchObject({
    look: { kind: 'ring', gap: 1, thickness: Number(before) },
    entrance: { kind: 'trace' }
  })
  expect(heard).toEqual([])
})

test('what is being typed stays while the page goes on looking at frames', async ({ page }) => {
  await makeStrap(page, 'Ada')
  // longer, so that its frames are looked at for a while; each one looked at draws the page anew
  await page.getByLabel('Seconds', { exact: true }).fill('8')
  await page.getByLabel('Seconds', { exact: true }).press('Enter')
  const rate = page.getByLabel('Rate')
  await rate.fill('5')
  await expect.poll(() => page.locator('.scenes').textContent()).toContain('200 frames')
  await page.waitForTimeout(1500)
  await expect(rate).toHaveValue('5')
  await rate.pressSequentially('0')
  await rate.press('Enter')
  await expect.poll(() => page.locator('.scenes').textContent()).toContain('400 frames')
  // what cannot be is said, and the field goes back once it is left
  await rate.fill('often')
  await rate.press('Enter')
  await expect(page.getByText('Give a rate as 25, 23.976 or 24000/1001.')).toBeVisible()
  await page.getByLabel('Width', { exact: true }).focus()
  await expect(rate).toHaveValue('50')
})

test('a large scene plays at half size, and the exact frame stands there on the pause', async ({ page }) => {
  test.setTimeout(180_000)
  const heard = complaints(page)
  await makeStrap(page, 'Ivo Reedmoor')
  const caption = page.locator('.corner.caption')
  const play = page.getByTitle('Play or stop (space)')
  await play.click()
  await expect(play).toHaveText('Stop')
  await expect(caption).toHaveText('Colour over checker')
  await play.click()
  // a size of a real delivery
  for (const [side, value] of [
    ['Width', '1920'],
    ['Height', '1080']
  ] as const) {
    const field = page.getByLabel('The render').getByLabel(side, { exact: true })
    await field.fill(value)
    await field.press('Enter')
  }
  await expect(page.getByText('1920×1080')).toBeVisible()
  await expect(page.getByText('Nothing is running.')).toBeVisible({ timeout: 60_000 })
  const place = page.getByRole('button', { name: /^frame \d+ of 30/ })
  const before = await place.innerText()
  await play.click()
  await expect(caption).toHaveText('Colour over checker, at half size while it plays')
  // it moves on, however many frames a busy machine skips
  await expect(place).not.toHaveText(before, { timeout: 60_000 })
  await play.click()
  await expect(caption).toHaveText('Colour over checker')
  await expect(page.locator('.failure')).toHaveCount(0)
  expect(heard).toEqual([])
})

test('a scene shows another source of the job: poured, proven, the same codes on node, and out of date with it', async ({
  page
}) => {
  test.setTimeout(120_000)
  const heard = complaints(page)
  await withoutPicker(page)
  await makeStrap(page, 'Ada Fern')
  await drop(page, await sequence('palm shade_25fps', 6))
  await page.getByRole('button', { name: 'Source…' }).click()
  await page.getByRole('menuitem', { name: 'palm shade' }).click()
  const card = page.getByRole('listitem').filter({ has: page.getByRole('button', { name: 'Open palm shade' }) })
  await expect(card.getByText('palm shade', { exact: true })).toBeVisible()
  await card.getByLabel('How it comes').selectOption({ label: 'is there at once' })
  await choose(card, 'After its last', 'it begins again')
  await card.getByLabel('From its frame').fill('3')
  await card.getByLabel('From its frame').press('Enter')

  // what is saved names the source; beside its file it is the same scene
  const scene = readScene(new TextDecoder().decode(await saved(page)), 'saved')
  const shown = scene.elements.find(({ look }) => look.kind === 'clip')!
  expect(shown.look).toMatchObject({ source: 'palm shade', title: 'palm shade', from: 2, ends: 'repeats' })

  await page.getByRole('link', { name: 'Board' }).click()
  await expect(page.getByRole('rowheader')).toHaveCount(2)
  // after a reload the scene waits until the source is at hand
  await page.reload()
  await expect(page.getByRole('rowheader')).toHaveCount(2)
  await expect(page.getByText('cannot be read')).toHaveCount(0)
  const host = await testHost()
  const { found } = await takeIn(
    (await sequence('palm shade_25fps', 6)).map(({ name, bytes }) => bytesFile(name, bytes)),
    host
  )
  const plate = await openSource({ ...found[0]!.spec, id: 'plate' }, host)
  const renderer = await SceneRenderer.of(scene, host, new Map([['palm shade', plate]]))
  await pouredAs(page, index => renderer.rendered(index), [0, 3, 4, 20])
  await plate.close()

  // taken for something else, the source makes another scene
  await page
    .getByRole('rowheader', { name: /palm shade/ })
    .getByRole('button')
    .first()
    .click()
  await page.getByRole('combobox', { name: 'Take the alpha as' }).click({ force: true })
  await page.getByRole('option', { name: 'premultiplied', exact: true }).click()
  await expect(cell(page, 0, 1)).toContainText(/out of date/i)
  expect(heard).toEqual([])
})

test('a strap fits whatever its name is, in any script; what shrank is said, and node renders the same', async ({
  page
}) => {
  test.setTimeout(180_000)
  const heard = complaints(page)
  await withoutPicker(page)
  await makeStrap(page, 'Ada', 1.2, 'Strap that fits')
  await page.getByRole('button', { name: 'Open Name', exact: true }).click()
  const card = page.getByRole('listitem').filter({ has: page.getByRole('button', { name: 'Open Name', exact: true }) })

  // a name that is longer than the picture, then one that runs to the left
  const text = card.getByLabel('Text').last()
  await text.fill('Chrysanthemum Aspidistra Fernbrook-Featherstonehaugh of the Palm House and of the Fern House')
  await text.press('Tab')
  await expect(page.getByText(/The lettering “Name” is set at \d+(\.\d)? % of its size, to fit its box/)).toBeVisible({
    timeout: 30_000
  })
  await text.fill('ورد (2026) Ada')
  await text.press('Tab')
  await expect(page.getByText(/The lettering “Name” is set at/)).toHaveCount(0, { timeout: 30_000 })

  const font = await readFile('node_modules/@fontsource/ibm-plex-mono/files/ibm-plex-mono-latin-600-normal.woff2')
  await drop(page, [{ name: 'Fern House.woff2', bytes: new Uint8Array(font) }])
  await expect(page.getByText('Fern House can be chosen as a face.')).toBeVisible()
  await choose(card, 'Face', 'Fern House')

  // a value that stays until the next
  await card.getByLabel('Value that changes over time').selectOption({ label: 'Wider' })
  await card.getByRole('button', { name: 'Add', exact: true }).click()
  await card.getByRole('button', { name: /^Wider, course 1/ }).click()
  await page.getByRole('button', { name: 'stays until the next' }).click()
  await page.keyboard.press('Escape')
  await expect(card.getByRole('button', { name: 'Wider, course 1: stays until the next' })).toBeVisible()

  await page.getByRole('button', { name: 'Open Bar of the name' }).click()
  const bar = page.getByRole('listitem').filter({ has: page.getByRole('button', { name: 'Open Bar of the name' }) })
  await choose(bar, 'As wide as', 'Second line')
  const scene = readScene(new TextDecoder().decode(await saved(page)), 'saved')
  const byName = (name: string) => scene.elements.find(element => element.name === name)!
  expect(byName('Bar of the name').look).toMatchObject({ follows: { lettering: 'line' } })
  expect(byName('Name')).toMatchObject({
    look: { face: 'own-1' },
    tracks: [{ of: 'wide', keys: [{ holds: true }, {}] }]
  })
  const renderer = await SceneRenderer.of(scene, await testHost())
  expect(renderer.missing).toEqual([])
  expect(renderer.told.map(({ sentence }) => sentence).join()).toContain('Fern House has no')
  expect(heard).toEqual([])
})

test('particles, a counter, a matte and a mode: put in, told of, kept through a reload; node renders the same codes', async ({
  page
}) => {
  test.setTimeout(180_000)
  const heard = complaints(page)
  await withoutPicker(page)
  await makeStrap(page, 'Ada Fern')
  const cardOf = (name: RegExp | string): Locator =>
    page.getByRole('listitem').filter({ has: page.getByRole('button', { name }) })
  const enter = async (field: Locator, value: string): Promise<void> => {
    await field.fill(value)
    await field.press('Enter')
  }

  await page.getByRole('button', { name: 'Counter', exact: true }).click()
  const counter = cardOf(/^Open Counter/)
  await enter(counter.getByLabel('To', { exact: true }), '1234')
  await choose(counter, 'Laid on', 'screen')
  // the counter lies over nothing solid
  await expect(
    page.getByText(/“Counter \d” is laid on by “screen”, and .* of it lies over what is not solid/)
  ).toBeVisible({
    timeout: 30_000
  })

  await page.getByRole('button', { name: 'Particles', exact: true }).click()
  const sparks = cardOf(/^Open Particles/)
  await choose(sparks, 'Form', 'star')
  await enter(sparks.getByLabel('Begins again, s'), '1.2')
  await choose(sparks, 'Cut by', 'Bar')
  await choose(sparks, 'Seen', 'where it is not')
  await expect(cardOf('Open Bar')).toContainText('cuts “Particles')

  await page.getByRole('button', { name: 'Path', exact: true }).click()
  const path = cardOf(/^Open Path/)
  await path.getByText('Dashed').click()
  await choose(path, 'Its corners', 'pointed')
  await choose(path, 'Where it begins', 'dot')
  await path.getByLabel('Value that changes over time').selectOption({ label: 'Dashes run on' })
  await path.getByRole('button', { name: 'Add', exact: true }).click()

  await page.reload()
  await expect(page.getByRole('button', { name: /^Open Particles/ })).toBeVisible()
  const scene = readScene(new TextDecoder().decode(await saved(page)), 'saved')
  const ofKind = (kind: string) => scene.elements.find(({ look }) => look.kind === kind)!
  expect(ofKind('counter')).toMatchObject({ blend: 'screen', look: { to: 1234 } })
  expect(ofKind('particles')).toMatchObject({
    look: { form: 'star', every: 1.2 },
    matte: { by: scene.elements.find(({ name }) => name === 'Bar')!.id, takes: 'where it is not' }
  })
  expect(ofKind('path')).toMatchObject({
    look: { tail: 'dot', stroke: { join: 'pointed', dashes: [expect.any(Number), expect.any(Number)] } },
    tracks: [{ of: 'dashes' }]
  })

  const renderer = await SceneRenderer.of(scene, await testHost())
  await pouredAs(page, index => renderer.frame(index), [2, 17, 29])
  expect(heard).toEqual([])
})

test('hands in the picture choose, move, snap, size, turn and line up; a path is drawn by points; node renders the same', async ({
  page
}) => {
  test.setTimeout(180_000)
  const heard = complaints(page)
  await withoutPicker(page)
  await makeStrap(page, 'Ada Fern')
  const stage = page.locator('[data-tool]')
  await expect(page.getByText('Nothing is running.')).toBeVisible({ timeout: 30_000 })
  const box = (await stage.boundingBox())!
  /** A place of the picture, which lies whole in the middle of the stage. */
  const at = (x: number, y: number): [number, number] => {
    const scale = Math.min((box.width - 24) / 640, (box.height - 24) / 360)
    return [box.x + box.width / 2 + (x - 320) * scale, box.y + box.height / 2 + (y - 180) * scale]
  }
  const drag = async (from: [number, number], to: [number, number]): Promise<void> => {
    await page.mouse.move(...from)
    await page.mouse.down()
    await page.mouse.move((from[0] + to[0]) / 2, (from[1] + to[1]) / 2)
    await page.mouse.move(...to)
    await page.mouse.up()
  }
  const kept = async (): Promise<Scene> => readScene(new TextDecoder().decode(await saved(page)), 'saved')
  const named = (scene: Scene, name: string) => scene.elements.find(each => each.name === name)!
  const before = await kept()
  const renderer = await SceneRenderer.of(before, await testHost())
  const index = fullestFrame(before)
  const bar = renderer.boxes(index)[named(before, 'Bar').id]!

  // a click where only the bar lies opens it; a drag to near the picture's middle snaps to it
  const [middle, low] = [(bar[0] + bar[2]) / 2, bar[3] - 3]
  await page.mouse.click(...at(bar[2] - 8, low))
  const card = page.getByRole('listitem').filter({ has: page.getByRole('button', { name: 'Open Bar' }) })
  await expect(card.getByLabel('Across', { exact: true })).toBeVisible()
  await expect(page.locator('[data-grip]')).toHaveCount(8)
  await drag(at(bar[2] - 8, low), at(bar[2] - 8 + 320 - middle + 2, low - 40))
  await expect.poll(async () => named(await kept(), 'Bar').x).not.toBe(named(before, 'Bar').x)
  let scene = await kept()
  let now = (await SceneRenderer.of(scene, await testHost())).boxes(index)[named(scene, 'Bar').id]!
  expect((now[0] + now[2]) / 2).toBeCloseTo(320, 1)
  expect(now[1] - bar[1]).toBeLessThan(-30)

  // its lower right corner, pulled out: the upper left one stays
  const corner = await page.locator('[data-grip="1 1"]').boundingBox()
  await drag([corner!.x + 4, corner!.y + 4], [corner!.x + 44, corner!.y + 10])
  await expect.poll(async () => named(await kept(), 'Bar').scale).toBeGreaterThan(1.02)
  scene = await kept()
  const larger = (await SceneRenderer.of(scene, await testHost())).boxes(index)[named(scene, 'Bar').id]!
  expect(larger[0]).toBeCloseTo(now[0], 0)
  expect(larger[1]).toBeCloseTo(now[1], 0)
  now = larger

  // several: Shift-click adds and lets go again, whichever was first
  const add = async (...spot: [number, number]): Promise<void> => {
    await page.keyboard.down('Shift')
    await page.mouse.click(...spot)
    await page.keyboard.up('Shift')
  }
  const words = (await SceneRenderer.of(scene, await testHost())).boxes(index)[named(scene, 'Name').id]!
  const edge = (await SceneRenderer.of(scene, await testHost())).boxes(index)[named(scene, 'Edge').id]!
  const inside = ([l, t, r, b]: number[]): [number, number] => at((l! + r!) / 2, (t! + b!) / 2)
  await add(...inside(words))
  await add(...inside(edge))
  await expect(page.getByRole('button', { name: 'Line up 3…' })).toBeVisible()
  await add(...at(now[2] - 6, now[3] - 4))
  await expect(page.getByRole('button', { name: 'Line up 2…' })).toBeVisible()
  await expect(page.getByRole('button', { name: 'Open Name', expanded: true })).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(page.getByRole('button', { name: /^Line up/ })).toHaveCount(0)
  await page.mouse.click(...at(now[2] - 6, now[3] - 4))

  // turned by the knob, a quarter with Shift; then taken back by one undo
  const knob = (await page.locator('.knob').boundingBox())!
  await page.keyboard.down('Shift')
  await drag([knob.x + 5, knob.y + 5], at(now[2] + 60, (now[1] + now[3]) / 2))
  await page.keyboard.up('Shift')
  await expect.poll(async () => named(await kept(), 'Bar').rotation).toBe(90)
  await page.locator('h1').first().focus()
  await page.keyboard.press('Control+z')
  await expect.poll(async () => named(await kept(), 'Bar').rotation).toBe(0)

  // lined up with the picture
  await page.getByRole('button', { name: 'Line up…' }).click()
  await page.getByRole('menuitem', { name: 'Left edges' }).click()
  await expect
    .poll(async () => {
      const each = await kept()
      return Math.round((await SceneRenderer.of(each, await testHost())).boxes(index)[named(each, 'Bar').id]![0])
    })
    .toBeCloseTo(0, 6)

  // a path, drawn anew point by point, one of them bent; one more put in, and taken out
  await page.getByRole('button', { name: 'Path', exact: true }).click()
  await page.getByRole('button', { name: 'Draw it anew' }).click()
  await page.mouse.click(...at(100, 60))
  await drag(at(300, 40), at(340, 60))
  await page.mouse.click(...at(520, 120))
  await page.keyboard.press('Enter')
  const points = async (): Promise<number> => {
    const { look } = (await kept()).elements.find(each => each.look.kind === 'path')!
    return look.kind === 'path' ? look.points.length : 0
  }
  await expect.poll(points).toBe(3)
  const pathNow = async () => (await kept()).elements.find(each => each.look.kind === 'path')!.look
  expect(await pathNow()).toMatchObject({
    closed: false,
    points: [{ after: null }, { after: [expect.any(Number), expect.any(Number)] }, {}]
  })
  const place = async (point: number): Promise<[number, number]> => {
    const { x, y, width, height } = (await page.locator(`[data-point="${point}"]`).boundingBox())!
    return [x + width / 2, y + height / 2]
  }
  // one more where the line runs, in the middle of its second piece, which the handle of its first point bends
  const bent = (await pathNow()) as Extract<Scene['elements'][number]['look'], { kind: 'path' }>
  const [from, next, [u, v]] = [await place(2), await place(3), bent.points[1]!.after!]
  const [origin, oneOn] = [at(0, 0), at(1, 0)]
  const handleOn = (handle: number): number => (3 / 8) * handle * (oneOn[0] - origin[0])
  const onLine = (axis: 0 | 1, handle: number): number => (from[axis] + next[axis]) / 2 + handleOn(handle)
  await page.mouse.dblclick(onLine(0, u), onLine(1, v))
  await expect.poll(points).toBe(4)
  // moved by a key, ten down; then taken out
  const [, before2] = await place(2)
  await page.locator('[data-point="2"]').click()
  await page.keyboard.press('Shift+ArrowDown')
  await expect.poll(async () => (await place(2))[1]).toBeGreaterThan(before2 + 4)
  await page.keyboard.press('Delete')
  await expect.poll(points).toBe(3)
  // a point becomes round by a double click, and pointed by another
  await page.mouse.dblclick(...(await place(3)))
  await expect.poll(async () => JSON.stringify(await pathNow())).toContain('"before":[')

  // or the longest line of a drawing
  const chooser = page.waitForEvent('filechooser')
  await page.getByRole('button', { name: 'From an SVG file…' }).click()
  const drawing =
    '<svg xmlns="http://www.w3.org/2000/svg"><path d="M0 0 C20 0 40 30 60 30 L90 30 L90 90"/><path d="M0 0h9"/></svg>'
  await (await chooser).setFiles([{ name: 'route.svg', mimeType: 'image/svg+xml', buffer: Buffer.from(drawing) }])
  await expect(page.getByText('route.svg draws 2 lines; the longest is the path now.')).toBeVisible()
  await expect.poll(points).toBe(4)

  // words are in the picture while they are typed, and gone again with what was not kept
  await page.getByRole('button', { name: 'Open Name' }).click()
  const name = page.getByRole('listitem').filter({ has: page.getByRole('button', { name: 'Open Name' }) })
  const field = name.getByLabel('Text').first()
  const canvas = page.locator('.stage canvas')
  const seen = (): Promise<string> => canvas.evaluate(each => (each as HTMLCanvasElement).toDataURL())
  const calm = await seen()
  await field.focus()
  await page.keyboard.type(' of the Palm House')
  await expect.poll(seen).not.toBe(calm)
  expect(named(await kept(), 'Name').look).toMatchObject({ text: 'Ada Fern' })
  await page.keyboard.press('Enter')
  await expect.poll(async () => (named(await kept(), 'Name').look as { text: string }).text).toContain('Palm House')

  // a camera moves all that is seen, and stays through a reload
  await page.getByRole('button', { name: 'Camera', exact: true }).click()
  const camera = page.getByRole('listitem').filter({ has: page.getByRole('button', { name: /^Open Camera/ }) })
  await camera.getByLabel('Nearer, ×').fill('0.9')
  await camera.getByLabel('Nearer, ×').press('Enter')
  await page.reload()
  await page.getByRole('button', { name: 'Open Bar' }).click()
  await page.getByLabel('Depth', { exact: true }).fill('1')
  await page.getByLabel('Depth', { exact: true }).press('Enter')
  await expect.poll(async () => named(await kept(), 'Bar').depth).toBe(1)
  scene = await kept()
  const last = await SceneRenderer.of(scene, await testHost())
  await pouredAs(page, index => last.frame(index), [4, 20])
  expect(heard).toEqual([])
})

test('a scene carries pictures from any file: a drawing, and a frame out of the midst of a film', async ({ page }) => {
  const heard = complaints(page)
  await withoutPicker(page)
  await makeStrap(page, 'Ada Fern')
  const add = async (name: string, bytes: Uint8Array): Promise<void> => {
    const chooser = page.waitForEvent('filechooser')
    await page.getByRole('button', { name: 'Picture…' }).click()
    await (await chooser).setFiles([{ name, mimeType: 'application/octet-stream', buffer: Buffer.from(bytes) }])
  }
  const svg =
    '<svg xmlns="http://www.w3.org/2000/svg" width="40" height="20"><rect width="20" height="20" fill="#ff0000"/></svg>'
  await add('half leaf.svg', new TextEncoder().encode(svg))
  await expect(page.getByRole('button', { name: 'Open half leaf.svg' })).toBeVisible({ timeout: 30_000 })
  const frames = Array.from({ length: 10 }, (_, n): Frame => ({
    ...{ width: 32, height: 24, depth: 8, alpha: STRAIGHT, transfer: 'srgb' },
    samples: Uint8Array.from({ length: 4 * 32 * 24 }, (_, i) => [0, 10 * n, 0, 255][i % 4]!)
  }))
  await add('ten shades.mov', await writeFilm('quicktime-animation', frames))
  await expect(page.getByText('Frame 5 of 10 of ten shades is the picture.')).toBeVisible({ timeout: 30_000 })
  // what holds no picture is said, and nothing is added
  await add('notes.txt', new TextEncoder().encode('no picture'))
  await expect(page.getByText(/notes\.txt/).last()).toBeVisible()

  const scene = readScene(new TextDecoder().decode(await saved(page)), 'saved')
  const carried = scene.elements.flatMap(({ look }) => (look.kind === 'picture' ? [look] : []))
  expect(carried).toHaveLength(2)
  const pixels = async (n: number) => sharpFrame(new Uint8Array(Buffer.from(carried[n]!.data, 'base64')))
  const drawn = await pixels(1)
  expect([drawn.width, drawn.height]).toEqual([40, 20])
  const full = drawn.samples instanceof Uint8Array ? 255 : 65535
  expect([...drawn.samples.slice(0, 4)]).toEqual([full, 0, 0, full])
  expect([...drawn.samples.slice(4 * 39, 4 * 40)]).toEqual([0, 0, 0, 0])
  const still = await pixels(0)
  expect(
    [...still.samples.slice(0, 4)].map(code =>
      Math.round((255 * code) / (still.samples instanceof Uint8Array ? 255 : 65535))
    )
  ).toEqual([0, 40, 0, 255])
  expect(heard).toEqual([])
})

test('a scene that is changed, taken back and brought again while it is looked at is looked at in the end', async ({
  page
}) => {
  test.setTimeout(150_000)
  const heard = complaints(page)
  await makeStrap(page, 'Ada')
  await expect(page.getByText('Nothing is running.')).toBeVisible({ timeout: 60_000 })
  // so long that no look at it ends between two of these
  await page.getByLabel('Seconds', { exact: true }).fill('40')
  await page.getByLabel('Seconds', { exact: true }).press('Enter')
  await expect(page.locator('.scenes')).toContainText('1,000 frames')
  await page.locator('h2').first().click()
  for (let n = 0; n < 4; n++) {
    await page.keyboard.press('Control+z')
    await expect(page.locator('.scenes')).toContainText('30 frames')
    await page.keyboard.press('Control+Shift+z')
    await expect(page.locator('.scenes')).toContainText('1,000 frames')
    await expect(page.getByText('Looking at one source')).toBeVisible()
  }
  await expect(page.getByText('Nothing is running.')).toBeVisible({ timeout: 120_000 })
  await expect(page.getByLabel('The render').getByText(/clear [\d.]+ %/)).toBeVisible()
  await page.getByRole('link', { name: 'Board' }).click()
  await expect(page.getByText('never finished')).toHaveCount(0)
  expect(heard).toEqual([])
})
