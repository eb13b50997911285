/** The bench: a source is prepared by steps, in the picture and by keyboard, and is poured as prepared. */
import { expect, test, type Page } from './test'
import { unzipSync } from 'fflate'
import { pot, potOnScreen, strapOnPage } from '../../demo/scenes'
import { withDepth } from '../../core/frame/depth'
import type { Frame } from '../../core/frame/frame'
import { plainKernels } from '../oracles/kernels'
import { firstDifference, sharpFrame } from '../unit/support'
import { beginPlain, bytesOf, cell, complaints, drop, png, type Dropped, withoutPicker } from './support'

async function bringIn(page: Page, files: readonly Dropped[], name: string): Promise<void> {
  await page.goto('/')
  await beginPlain(page)
  await drop(page, files)
  await page.getByRole('rowheader').filter({ hasText: name }).getByRole('button').dblclick()
  await expect(page.getByRole('complementary', { name: 'Preparation' })).toBeVisible()
}

const frames = (name: string, count: number, make: (t: number) => ReturnType<typeof pot>): Promise<Dropped[]> =>
  Promise.all(
    Array.from({ length: count }, (_, i) =>
      png(`${name}_24fps_${String(i + 1).padStart(4, '0')}.png`, make(i / Math.max(1, count - 1)))
    )
  )

async function addStep(page: Page, name: string): Promise<void> {
  await page.getByRole('button', { name: 'Add step…' }).click()
  await page.getByRole('menuitem', { name, exact: true }).click()
}

/** A place of the frame on the page. */
async function at(page: Page, x: number, y: number, width = 640, height = 360): Promise<{ x: number; y: number }> {
  const stage = (await page.locator('[data-tool]').boundingBox())!
  const scale = Math.min((stage.width - 24) / width, (stage.height - 24) / height)
  return {
    x: stage.x + stage.width / 2 + (x - width / 2) * scale,
    y: stage.y + stage.height / 2 + (y - height / 2) * scale
  }
}

async function loupe(page: Page, x: number, y: number): Promise<string> {
  const stage = (await page.locator('.stage').boundingBox())!
  const scale = Math.min((stage.width - 24) / 640, (stage.height - 24) / 360)
  await page.mouse.move(
    stage.x + stage.width / 2 + (x - 319.5) * scale,
    stage.y + stage.height / 2 + (y - 179.5) * scale
  )
  const reading = page.locator('.loupe')
  await expect(reading).toContainText(`x ${x} y ${y}`)
  return reading.innerText()
}

const names = (page: Page): Promise<string[]> =>
  page.locator('[data-step]').evaluateAll(all => all.map(li => (li as HTMLElement).dataset.step!))

async function poured(page: Page, column: number, row = 0): Promise<Uint8Array[]> {
  await page.getByRole('link', { name: 'Board' }).click()
  await cell(page, row, column).click()
  await page.getByRole('button', { name: 'Pour this cell' }).click()
  await expect(cell(page, row, column)).toHaveAttribute('data-state', 'Identical', { timeout: 60_000 })
  const waiting = page.waitForEvent('download')
  await page.getByRole('button', { name: /^Download/ }).click()
  return Object.entries(unzipSync(await bytesOf(await waiting)))
    .filter(([name]) => name.endsWith('.png'))
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([, bytes]) => bytes)
}

test('one click on the finding pulls a chroma key, and what is poured has the alpha that was pulled', async ({
  page
}) => {
  const heard = complaints(page)
  await bringIn(page, await frames('pot', 3, potOnScreen), 'pot')
  await page.getByRole('button', { name: 'Pull a chroma key' }).click()
  await expect(page.locator('[data-step=chroma-key]')).toBeVisible()
  // it is done once: the offer has become a way back
  await expect(page.getByRole('button', { name: 'Pull a chroma key', exact: true })).toHaveCount(0)
  await page.getByRole('button', { name: 'Take back: Pull a chroma key' }).click()
  await expect(page.locator('[data-step]')).toHaveCount(0)
  await page.getByRole('button', { name: 'Pull a chroma key', exact: true }).click()
  await expect(page.locator('[data-step=chroma-key]')).toHaveCount(1)
  await page.locator('[data-step=chroma-key] .name').click()
  await page.getByRole('button', { name: 'Find', exact: true }).click()
  await expect.poll(async () => loupe(page, 20, 20)).toContain('a 0 0 %')
  expect(await loupe(page, 320, 300)).toContain('a 65535 100 %')
  // the ribbon follows: where all was solid, most is clear now
  await expect(page.getByRole('heading', { name: 'Alpha ribbon, prepared' })).toBeVisible()
  const top = (): Promise<string> =>
    page
      .locator('.ribbon canvas')
      .evaluate(canvas => [...(canvas as HTMLCanvasElement).getContext('2d')!.getImageData(12, 8, 1, 1).data].join())
  const prepared = await top()
  await page.getByText('Found', { exact: true }).click()
  await expect(page.getByRole('heading', { name: 'Alpha ribbon, as found' })).toBeVisible()
  expect(await top()).not.toBe(prepared)
  const pictures = await poured(page, 1)
  expect(pictures).toHaveLength(3)
  for (const [i, bytes] of pictures.entries()) {
    const [found, due] = [await sharpFrame(bytes), pot(i / 2)]
    expect(found.depth).toBe(16)
    let error = 0
    for (let k = 3; k < due.samples.length; k += 4) error += Math.abs(found.samples[k]! / 65535 - due.samples[k]! / 255)
    expect(error / (640 * 360)).toBeLessThan(0.02)
  }
  expect(heard).toEqual([])
})

test('a colour is picked in the picture, and undo and redo go through the edits', async ({ page }) => {
  await bringIn(page, await frames('page', 3, t => strapOnPage(0.3 + t / 3)), 'page')
  await addStep(page, 'Flat background out')
  await page.getByRole('button', { name: 'Pick', exact: true }).click()
  const { x, y } = await at(page, 600, 40)
  await page.mouse.click(x, y)
  await expect(page.locator('[data-step=flat-background]')).toContainText('#e9e4d6')
  await expect.poll(async () => loupe(page, 600, 40)).toContain('a 0 0 %')
  await page.keyboard.press('Control+z')
  await expect(page.locator('[data-step=flat-background]')).toContainText('#ffffff')
  await page.keyboard.press('Control+Shift+z')
  await expect(page.locator('[data-step=flat-background]')).toContainText('#e9e4d6')
  // Escape gives a pick up
  await page.getByRole('button', { name: 'Pick', exact: true }).click()
  await expect(page.locator('[data-tool]')).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(page.locator('[data-tool]')).toBeHidden()
  // and all of it is there after a reload
  await page.reload()
  await expect(page.locator('[data-step=flat-background]')).toBeVisible()
})

test(
  'a mask is drawn with the mouse, moved by keyboard, set at a second frame, and steps are reordered and ' +
    'switched off',
  async ({ page }) => {
    await bringIn(page, await frames('pot', 3, pot), 'pot')
    await addStep(page, 'Drawn mask')
    await page.getByRole('button', { name: 'Rectangle' }).click()
    const [from, to] = [await at(page, 200, 100), await at(page, 320, 340)]
    await page.mouse.move(from.x, from.y)
    await page.mouse.down()
    await page.mouse.move(to.x, to.y, { steps: 4 })
    await page.mouse.up()
    await expect(page.locator('[data-step=drawn-mask]')).toContainText('frame 1, rectangle')
    await page.keyboard.press('Shift+ArrowRight')
    await page.keyboard.press('Enter')
    await expect(page.locator('[data-tool]')).toBeHidden()
    // ten pixels to the right of where it was drawn: 325 lies inside, 335 outside
    await expect.poll(async () => loupe(page, 325, 300)).toContain('100 %')
    await expect.poll(async () => loupe(page, 335, 300)).toContain('a 0 0 %')
    await page.keyboard.press('End')
    await page.getByRole('button', { name: 'Rectangle' }).click()
    await page.keyboard.press('Alt+Shift+ArrowRight')
    await page.keyboard.press('Enter')
    await expect(page.locator('[data-step=drawn-mask]')).toContainText('frame 3, rectangle')

    await addStep(page, 'Invert')
    await addStep(page, 'Crop')
    await expect.poll(() => names(page)).toEqual(['drawn-mask', 'alpha-invert', 'crop'])
    await page.locator('[data-step=crop] .name').focus()
    await page.keyboard.press('Alt+ArrowUp')
    await expect.poll(() => names(page)).toEqual(['drawn-mask', 'crop', 'alpha-invert'])
    await page.locator('[data-step=alpha-invert]').dragTo(page.locator('[data-step=drawn-mask] .row'))
    await expect.poll(() => names(page)).toEqual(['alpha-invert', 'drawn-mask', 'crop'])
    await page.locator('[data-step=alpha-invert] .el-switch').click()
    await expect(page.locator('[data-step=alpha-invert]')).toHaveClass(/off/)
    await page.locator('[data-step=alpha-invert] .name').focus()
    await page.keyboard.press('Delete')
    await expect.poll(() => names(page)).toEqual(['drawn-mask', 'crop'])
  }
)

test('crop finds the content of all frames, the range is cut, and the poured files have that size and count', async ({
  page
}) => {
  await bringIn(page, await frames('pot', 4, pot), 'pot')
  await addStep(page, 'Crop')
  await page.getByRole('button', { name: 'Find content' }).click()
  await expect(page.locator('.place-head')).not.toContainText('640×360')
  const head = await page.locator('.place-head').innerText()
  const [, width, height] = /(\d+)×(\d+)/.exec(head)!.map(Number)
  // a box that could not be read back is refused in words, and the job stays whole
  await page.getByLabel('width', { exact: true }).fill('0')
  await page.getByLabel('width', { exact: true }).blur()
  await expect(page.getByText(/^Not done\. Crop: Keep/)).toBeVisible()
  await page.reload()
  await expect(page.locator('.place-head')).toContainText(`${width}×${height}`)
  await addStep(page, 'Range')
  await page.getByLabel('To frame, number').fill('2')
  await page.getByLabel('To frame, number').blur()
  await expect(page.locator('.place-head')).toContainText('2 frames')
  await expect(page.getByText('frame 1 of 2')).toBeVisible()
  // what is drawn for a step is drawn in the picture as that step is given it: cropped, and cut
  await addStep(page, 'Drawn mask')
  await page.getByRole('button', { name: 'Rectangle' }).click()
  await expect(page.locator('[data-tool]')).toBeVisible()
  await expect(page.locator('.place-head')).toContainText(`${width}×${height}`)
  await expect(page.getByText('frame 1 of 2')).toBeVisible()
  const [from, to] = [await at(page, 0, height! / 2, width, height), await at(page, width!, height!, width, height)]
  await page.mouse.move(from.x - 3, from.y)
  await page.mouse.down()
  await page.mouse.move(to.x + 3, to.y + 3, { steps: 3 })
  await page.mouse.up()
  await page.keyboard.press('Escape')
  await expect(page.getByText('frame 1, rectangle')).toBeVisible()
  const pictures = await poured(page, 1)
  expect(pictures).toHaveLength(2)
  const first = await sharpFrame(pictures[0]!)
  expect([first.width, first.height]).toEqual([width, height])
  // the lower half, with the pot, is kept; what stands above is masked away
  const seen = (top: number, bottom: number): number =>
    first.samples.subarray(4 * width! * top, 4 * width! * bottom).filter((code, i) => i % 4 === 3 && code > 0).length
  expect(seen(Math.ceil(height! / 2) + 3, height!)).toBeGreaterThan(100)
  expect(seen(0, Math.floor(height! / 2) - 3)).toBe(0)
})

test('a preparation is kept under a name, used on another source, saved as a file and read back', async ({ page }) => {
  await withoutPicker(page)
  await bringIn(page, [...(await frames('one', 2, pot)), ...(await frames('two', 2, pot))], 'one')
  await addStep(page, 'Opacity')
  await addStep(page, 'Flip')
  const menu = page.getByRole('button', { name: 'More for the preparation' })
  await menu.click()
  await page.getByRole('menuitem', { name: 'Keep under a name…' }).click()
  await page.getByRole('dialog').getByRole('textbox').fill('Half and mirrored')
  await page.getByRole('button', { name: 'Keep', exact: true }).click()
  await menu.click()
  const waiting = page.waitForEvent('download')
  await page.getByRole('menuitem', { name: 'Save as file' }).click()
  const file = await bytesOf(await waiting)
  expect(JSON.parse(Buffer.from(file).toString())).toMatchObject({
    pour: 'preparation',
    version: 1,
    steps: [{ kind: 'alpha-opacity' }, { kind: 'flip' }]
  })

  await page.getByRole('combobox', { name: 'Source' }).click({ force: true })
  await page.getByRole('option', { name: 'two' }).click()
  await expect(page.locator('[data-step]')).toHaveCount(0)
  await menu.click()
  await page.getByRole('menuitem', { name: 'Add steps of “Half and mirrored”' }).click()
  await expect.poll(() => names(page)).toEqual(['alpha-opacity', 'flip'])
  await expect(page.getByRole('menu')).toBeHidden()
  const chooser = page.waitForEvent('filechooser')
  await menu.click()
  await page.getByRole('menuitem', { name: 'Add steps from file…' }).click()
  await (await chooser).setFiles({ name: 'p.json', mimeType: 'application/json', buffer: Buffer.from(file) })
  await expect.poll(() => names(page)).toEqual(['alpha-opacity', 'flip', 'alpha-opacity', 'flip'])
})

test('a marked range is kept as a span: a row of its own that every outlet pours, under its name', async ({ page }) => {
  await bringIn(page, await frames('pot', 6, pot), 'pot')
  await page.keyboard.press('ArrowRight')
  await page.keyboard.press('i')
  await page.keyboard.press('ArrowRight')
  await page.keyboard.press('ArrowRight')
  await page.keyboard.press('o')
  await page.getByRole('button', { name: 'Keep as a span…' }).click()
  await page.getByRole('dialog').getByRole('textbox').fill('sprout')
  await page.getByRole('button', { name: 'Keep', exact: true }).click()
  await page.getByRole('link', { name: 'Board' }).click()
  await expect(page.getByRole('rowheader')).toHaveCount(2)
  await expect(page.getByRole('rowheader').nth(1)).toContainText('pot sprout')
  await expect(page.getByRole('rowheader').nth(1)).toContainText('3')
  const pictures = await poured(page, 1, 1)
  expect(pictures).toHaveLength(3)
  // frame 2 of the whole is frame 1 of the span
  const eight = (frame: Frame): Frame['samples'] => withDepth(frame, 8, plainKernels).samples
  expect(firstDifference(eight(await sharpFrame(pictures[0]!)), eight(pot(1 / 5)))).toBeNull()
})

test('spans come from a list of markers, are seen before they are kept, and one undo takes them all back', async ({
  page
}) => {
  await bringIn(page, await frames('pot', 6, pot), 'pot')
  await page.getByRole('button', { name: 'Spans from a list…' }).click()
  const dialog = page.getByRole('dialog')
  await dialog.getByRole('textbox', { name: 'List of spans' }).fill('sprout, 1\nhover, 3, 9\nleaf, 4')
  await expect(dialog.getByText('Line 2: frames 3 to 9 are not within the 6 of the clip.')).toBeVisible()
  await expect(dialog.getByRole('row', { name: 'leaf 4 6 3' })).toBeVisible()
  await dialog.getByRole('button', { name: 'Keep 2 spans' }).click()
  await expect(dialog).toBeHidden()
  await page.getByRole('link', { name: 'Board' }).click()
  const heads = page.getByRole('rowheader')
  await expect(heads).toHaveCount(3)
  await expect(heads.nth(1)).toContainText('pot sprout')
  await expect(heads.nth(2)).toContainText('pot leaf')
  expect(await poured(page, 1, 2)).toHaveLength(3)
  await page.keyboard.press('Control+z')
  await expect(heads).toHaveCount(1)
})

test('the pixels that decided the mode are shown, and alpha of the frame beside that of the clip', async ({ page }) => {
  await bringIn(page, await frames('pot', 3, pot), 'pot')
  await expect(page.getByText('as premultiplied')).toBeVisible()
  await page.getByRole('combobox', { name: 'View' }).click({ force: true })
  await page.getByRole('option', { name: 'What decided the mode' }).click()
  await expect(page.locator('.caption')).toHaveText('What decided the mode')
  // copper for straight, on the rims of the seedling
  const copper = (): Promise<number> =>
    page.locator('.stage canvas').evaluate((canvas: HTMLCanvasElement) => {
      const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height)
      let count = 0
      for (let i = 0; i < data.length; i += 4)
        if (Math.abs(data[i]! - 216) < 12 && Math.abs(data[i + 1]! - 139) < 12 && Math.abs(data[i + 2]! - 92) < 12)
          count++
      return count
    })
  await expect.poll(copper).toBeGreaterThan(300)
})

test('rate and pixel shape are overruled by hand, marked as such, and go back to what was found', async ({ page }) => {
  await bringIn(page, await frames('pot', 3, pot), 'pot')
  await page.getByLabel('Pixel shape taken').fill('59:54')
  await page.getByLabel('Pixel shape taken').blur()
  await expect(page.locator('.taken .hand')).toHaveText('by hand')
  await page.getByRole('button', { name: 'as the file says' }).click()
  await expect(page.getByLabel('Pixel shape taken')).toHaveValue('1:1')
  await page.getByLabel('Rate taken').fill('nothing')
  await page.getByLabel('Rate taken').blur()
  await expect(page.getByRole('alert')).toContainText('24000/1001')
  await page.getByLabel('Rate taken').fill('23.976')
  await page.getByLabel('Rate taken').blur()
  await expect(page.locator('.place-head')).toContainText('24000/1001 f/s')
  await expect(page.locator('.taken .hand')).toHaveText('by hand')
  await page.keyboard.press('Control+z')
  await expect(page.locator('.place-head')).toContainText('24 f/s')
  // colour taken as another kind: the tags change at once, the codes by a step
  await page.locator('.taken .el-select').click()
  await page.getByRole('option', { name: 'Display P3' }).click()
  await page.getByRole('button', { name: 'bring it to sRGB' }).click()
  await expect(page.locator('[data-step=bring-to-srgb]')).toBeVisible()
  await expect(page.getByRole('button', { name: 'bring it to sRGB' })).toHaveCount(0)
})

test('a setting is shown while its slider is dragged, and only letting go is an edit', async ({ page }) => {
  const heard = complaints(page)
  await bringIn(page, await frames('pot', 2, pot), 'pot')
  await addStep(page, 'Opacity')
  await expect.poll(async () => loupe(page, 320, 300)).toContain('80 %')
  const drag = (value: number, event: 'input' | 'change'): Promise<void> =>
    page.getByRole('slider', { name: 'To' }).evaluate(
      (slider, [to, type]) => {
        ;(slider as HTMLInputElement).value = String(to)
        slider.dispatchEvent(new Event(type as string, { bubbles: true }))
      },
      [value, event] as const
    )
  for (const value of [60, 40]) {
    await drag(value, 'input')
    await expect.poll(async () => loupe(page, 320, 300)).toContain(`${value} %`)
  }
  await expect(page.getByRole('spinbutton', { name: 'To, number' })).toHaveValue('80')
  await drag(20, 'change')
  await expect(page.getByRole('spinbutton', { name: 'To, number' })).toHaveValue('20')
  await expect.poll(async () => loupe(page, 320, 300)).toContain('20 %')
  expect(heard).toEqual([])
})

test('a frame is drawn around the picture, and the picture is moved within a larger one', async ({ page }) => {
  const heard = complaints(page)
  await bringIn(page, await frames('pot', 1, pot), 'pot')
  await addStep(page, 'Pad')
  await page.getByRole('button', { name: 'Draw the frame' }).click()
  const outline = page.locator('[data-tool] rect').first()
  const number = (name: string): Promise<number> => page.getByRole('spinbutton', { name }).inputValue().then(Number)
  const corner = (await outline.boundingBox())!
  await page.mouse.move(corner.x + corner.width - 2, corner.y + corner.height - 2)
  await page.mouse.down()
  await page.mouse.move(corner.x + corner.width + 38, corner.y + corner.height + 18, { steps: 3 })
  await page.mouse.up()
  await expect.poll(() => number('Right, number')).toBeGreaterThan(40)
  const [right, bottom] = [await number('Right, number'), await number('Bottom, number')]
  expect(Math.abs(right / bottom - 2)).toBeLessThan(0.15)
  await page.keyboard.press('Alt+ArrowRight')
  await expect.poll(() => number('Right, number')).toBe(right + 1)
  await page.keyboard.press('Enter')
  await expect(page.getByText(`${641 + right}×${360 + bottom}`)).toBeVisible()
  await page.keyboard.press('Control+z')
  await expect(page.getByText(`${640 + right}×${360 + bottom}`)).toBeVisible()

  await addStep(page, 'Place in a larger frame')
  await page.getByRole('button', { name: 'Move it' }).click()
  await expect(page.getByText('1920×1080')).toBeVisible()
  const held = (await outline.boundingBox())!
  await page.mouse.move(held.x + 20, held.y + 20)
  await page.mouse.down()
  await page.mouse.move(held.x - 30, held.y - 5, { steps: 3 })
  await page.mouse.up()
  await expect(page.getByRole('spinbutton', { name: 'Margin' })).toHaveCount(0)
  const left = await number('From left')
  expect(left).toBeLessThan(1920 - 40 - 640 - right)
  await page.keyboard.press('Shift+ArrowLeft')
  await expect.poll(() => number('From left')).toBe(left - 10)
  await page.keyboard.press('Escape')
  await expect(page.locator('[data-tool]')).toHaveCount(0)
  expect(heard).toEqual([])
})
