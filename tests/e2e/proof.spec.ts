/** The proof place: stations in a scene, files from outside, outlets side by side, and the hand-over. */
import { createHash } from 'node:crypto'
import { expect, test, type Page } from './test'
import { unzipSync, zipSync } from 'fflate'
import sharp from 'sharp'
import { moth } from '../../demo/scenes'
import { withDepth } from '../../core/frame/depth'
import type { Frame } from '../../core/frame/frame'
import { plainKernels } from '../oracles/kernels'
import { stations as known } from '../../core/judge/stations/stations'
import { beginPlain, bytesOf, cell, complaints, drop, png, withoutPicker, type Dropped } from './support'

/** The moth at half its size, closing its loop in `of` frames. */
function wing(i: number, of: number): Frame {
  const whole = withDepth(moth(i / of), 8, plainKernels)
  const samples = new Uint8Array(320 * 180 * 4)
  for (let y = 0; y < 180; y++)
    for (let x = 0; x < 320; x++)
      samples.set(whole.samples.subarray(4 * (2 * y * 640 + 2 * x), 4 * (2 * y * 640 + 2 * x) + 4), 4 * (y * 320 + x))
  return { ...whole, width: 320, height: 180, samples }
}

const FRAMES = 6
const files = (name: string): Promise<Dropped[]> =>
  Promise.all(
    Array.from({ length: FRAMES }, (_, i) => png(`${name}_12fps_${String(i + 1).padStart(4, '0')}.png`, wing(i, 24)))
  )

async function poured(page: Page): Promise<string[]> {
  const heard = complaints(page)
  await withoutPicker(page)
  await page.goto('/')
  await beginPlain(page)
  await drop(page, await files('wing'))
  await expect(page.getByRole('rowheader')).toHaveCount(1)
  await page.keyboard.press('p')
  for (let column = 0; column < 3; column++)
    await expect(cell(page, 0, column)).toHaveAttribute('data-state', 'Identical', { timeout: 60_000 })
  return heard
}

/** The mean colour of the picture on a canvas, and how many of its pixels are not exactly the backdrop. */
const painted = (page: Page, selector: string): Promise<{ painted: number; left: number; top: number }> =>
  page.locator(selector).evaluate((canvas: HTMLCanvasElement) => {
    const { width, height } = canvas
    const { data } = canvas.getContext('2d')!.getImageData(0, 0, width, height)
    let [count, left, top] = [0, width, height]
    for (let i = 0; i < data.length; i += 4) {
      if (data[i] === 0x4a && data[i + 1] === 0x7b && data[i + 2] === 0xa6) continue
      count++
      left = Math.min(left, (i / 4) % width)
      top = Math.min(top, Math.floor(i / 4 / width))
    }
    return { painted: count, left, top }
  })

test('every station takes the file, and the overlay is moved, sized, turned and put behind an object', async ({
  page
}) => {
  const heard = await poured(page)
  await cell(page, 0, 2).click()
  await page.getByRole('button', { name: 'See proof' }).click()
  await expect(page.locator('[data-verdict]')).toHaveAttribute('data-kind', 'identical')
  await page.getByRole('tab', { name: 'Stations' }).click()
  const stations = page.locator('[data-station]')
  await expect(stations).toHaveCount(known.length)
  for (const [id, standing] of [
    ['reads-the-label', 'right'],
    ['always-straight', 'right'],
    ['alpha-off', 'setting'],
    ['cut-out', 'wrong'],
    ['takes-thirty', 'refuses'],
    ['this-browser', 'right']
  ])
    await expect(page.locator(`[data-station=${id}]`)).toHaveAttribute('data-standing', standing!, { timeout: 40_000 })
  await expect(page.locator('[data-station=this-browser]')).toContainText(`Right: ${FRAMES} frames over #4a7ba6`)
  // the file itself plays in a page that is closed off: an origin of its own, so nothing of it can be reached
  expect(
    await page
      .frames()
      .find(f => f.url().endsWith('/closed-page'))!
      .evaluate(() => [self.origin, document.querySelector('img')?.naturalWidth])
  ).toEqual(['null', 320])

  const large = '.large canvas'
  await expect.poll(async () => (await painted(page, large)).painted).toBeGreaterThan(500)
  const still = await painted(page, large)
  await page.locator(large).focus()
  for (let n = 0; n < 4; n++) await page.keyboard.press('Shift+ArrowRight')
  await expect.poll(async () => (await painted(page, large)).left).toBe(still.left + 40)
  for (let n = 0; n < 6; n++) await page.keyboard.press('-')
  await expect.poll(async () => (await painted(page, large)).painted).toBeLessThan(still.painted * 0.65)
  await page.keyboard.press('0')
  await expect.poll(() => painted(page, large)).toEqual(still)
  const box = (await page.locator(large).boundingBox())!
  await page.mouse.move(box.x + 200, box.y + 120)
  await page.mouse.down()
  await page.mouse.move(box.x + 200, box.y + 160, { steps: 3 })
  await page.mouse.up()
  await expect.poll(async () => (await painted(page, large)).top).toBeGreaterThan(still.top + 15)
  await page.getByRole('button', { name: 'Put back' }).click()
  await page.getByLabel('Turn in degrees').fill('90')
  await expect.poll(async () => (await painted(page, large)).left).toBeGreaterThan(still.left + 10)
  await page.getByRole('button', { name: 'Put back' }).click()
  // it plays: the large picture follows the clock, and stops where it is told
  await page.keyboard.press('Home')
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  await expect(page.locator('.frame .mono')).toHaveText(/[2-6] of 6/)
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(page.locator('.large .corner')).toHaveText(/^Reads the label · frame [1-6]$/)
  await expect(page.locator('.station .wrong[role=alert]')).toHaveCount(0)
  await page.getByRole('button', { name: 'Show Cuts at half large' }).click()
  await expect(page.locator('[data-large]')).toContainText('Soft edges are lost')
  // a source of the job stands behind: the picture changes, and its name says so
  await page.getByRole('button', { name: 'Show Reads the label large' }).click()
  const before = await painted(page, large)
  await page.getByRole('combobox', { name: 'Backdrop' }).click({ force: true })
  await page.getByRole('option', { name: 'wing' }).click()
  await expect.poll(async () => (await painted(page, large)).painted).toBeGreaterThan(before.painted + 200)
  await expect(page.locator('[data-large]')).toContainText('Right')
  // and stands there again the next time
  await page.reload()
  await page.getByRole('tab', { name: 'Stations' }).click()
  await expect(page.locator('.behind')).toContainText('wing')
  expect(heard).toEqual([])
})

test('a file from outside is proven against a source and by itself, kept over a reload, and its fault is named', async ({
  page
}) => {
  const heard = await poured(page)
  await page.getByRole('link', { name: 'Proof' }).click()
  const swapped = await Promise.all(
    [0, 1, 4, 3, 2, 5].map((from, i) => png(`sent_12fps_${String(i + 1).padStart(4, '0')}.png`, wing(from, 24)))
  )
  const give = async (against: string | null): Promise<void> => {
    await page.getByRole('button', { name: 'Prove a file…' }).click()
    const chooser = page.waitForEvent('filechooser')
    await page.getByRole('button', { name: 'Choose files…' }).click()
    await (
      await chooser
    ).setFiles(swapped.map(({ name, bytes }) => ({ name, mimeType: 'image/png', buffer: Buffer.from(bytes) })))
    await expect(page.getByRole('dialog')).toContainText('6 files, from sent_12fps_0001.png')
    if (against) {
      await page.getByRole('combobox', { name: 'Held against' }).click({ force: true })
      await page.getByRole('option', { name: against }).click()
    }
    await page.getByRole('button', { name: 'Prove', exact: true }).click()
    await expect(page.getByRole('dialog')).toBeHidden({ timeout: 30_000 })
  }
  await give('wing')
  await expect(page.locator('[data-verdict]')).toHaveAttribute('data-kind', 'broken')
  await expect(page.locator('[data-verdict]')).toContainText('Frames 3 and 5 are swapped.')
  await expect(page.locator('[data-reading=order]')).toContainText('displaced')
  await page.getByRole('button', { name: 'Show frame 3' }).click()
  await expect(page.locator('.count')).toHaveText('3/6')
  await page.reload()
  await expect(page.locator('[data-verdict]')).toContainText('Frames 3 and 5 are swapped.')
  await give(null)
  await expect(page.locator('[data-verdict]')).toHaveAttribute('data-kind', 'alone-yes')
  await expect(page.locator('[data-verdict]')).toContainText('The file says straight, and its pixels agree')
  await page.getByRole('tab', { name: 'Stations' }).click()
  await expect(page.locator('[data-station=takes-thirty]')).toContainText('2.5 times too fast')
  expect(heard).toEqual([])
})

test('outlets stand side by side, and the seam of the loop is told', async ({ page }) => {
  await poured(page)
  await cell(page, 0, 1).click()
  await page.getByRole('button', { name: 'See proof' }).click()
  await expect(page.locator('.seam')).toContainText('Loop: Played in a loop, it jumps')
  await page.getByRole('button', { name: 'Seam' }).click()
  // only the end and the beginning play: six frames are both
  await expect(page.locator('.count')).toHaveText(/[1-6]\/6/)
  await page.getByRole('button', { name: 'Stop' }).click()
  await page.getByRole('tab', { name: 'Outlets side by side' }).click()
  await expect(page.locator('.outlets tbody tr')).toHaveCount(3)
  for (let row = 0; row < 3; row++)
    await expect(page.locator('.outlets tbody tr').nth(row)).toContainText(/Right at (\d+|none as it is)/, {
      timeout: 30_000
    })
  await expect(page.locator('[data-best=web]')).toContainText('Nothing poured fits; pour WebM')
  await expect(page.locator('[data-best=web-picture]')).toContainText('Web')
  // the page's own player is one of the stations that count for pages
  await expect(page.locator('[data-best=web-picture]')).toContainText('right at 1 of 1 station', { timeout: 30_000 })
  await expect(page.locator('[data-best=editor]')).toContainText('identical to the source')
})

test('a hand-over holds files, papers and sums; what arrives is checked against it', async ({ page }) => {
  const heard = await poured(page)
  await page.goto('/proof?view=hand-over')
  await page.getByRole('button', { name: 'All', exact: true }).click()
  const waiting = page.waitForEvent('download')
  await page.getByRole('button', { name: 'Save as ZIP' }).click()
  const zip = await bytesOf(await waiting)
  const packed = unzipSync(zip)
  const names = Object.keys(packed)
  for (const paper of ['note.txt', 'note.html', 'proof.html', 'proof.pdf', 'checksums.sha256', 'hand-over.json'])
    expect(names).toContain(paper)
  const text = (name: string): string => Buffer.from(packed[name]!).toString()
  for (const line of text('checksums.sha256').trim().split('\n')) {
    const [sum, name] = line.split('  ') as [string, string]
    expect(createHash('sha256').update(packed[name]!).digest('hex')).toBe(sum)
  }
  expect(names.filter(n => n.endsWith('.mov') || (n.endsWith('.png') && !n.includes('_Web')))).not.toHaveLength(0)
  expect(text('note.txt')).toContain('What wrong looks like')
  expect(Buffer.from(packed['proof.pdf']!.subarray(0, 5)).toString()).toBe('%PDF-')
  // the pages show themselves, with their pictures, in a browser
  const other = await page.context().newPage()
  await other.setContent(text('proof.html'))
  expect(
    await other.locator('img').evaluateAll(all => all.filter(i => (i as HTMLImageElement).naturalWidth > 100).length)
  ).toBeGreaterThan(3)
  await other.close()

  const check = async (bytes: Uint8Array): Promise<void> => {
    const chooser = page.waitForEvent('filechooser')
    await page.getByRole('button', { name: 'Check a ZIP…' }).click()
    await (await chooser).setFiles({ name: 'arrived.zip', mimeType: 'application/zip', buffer: Buffer.from(bytes) })
  }
  await check(zip)
  await expect(page.locator('[data-checked]')).toHaveAttribute('data-condition', 'untouched')
  const picture = names.find(n => /\/.*_0004\.png$/.test(n))!
  const { data, info } = await sharp(packed[picture]).ensureAlpha().raw().toBuffer({ resolveWithObject: true })
  data[(90 * 320 + 160) * 4] = data[(90 * 320 + 160) * 4]! ^ 255
  await check(
    zipSync({ ...packed, [picture]: new Uint8Array(await sharp(data, { raw: info }).png().toBuffer()) }, { level: 0 })
  )
  await expect(page.locator('[data-checked]')).toHaveAttribute('data-condition', 'changed')
  await expect(page.locator('[data-checked]')).toContainText('frame 4 of 6 differs')
  await check(zipSync(Object.fromEntries(Object.entries(packed).filter(([name]) => name !== picture)), { level: 0 }))
  await expect(page.locator('[data-checked]')).toHaveAttribute('data-condition', 'missing')
  await check(new Uint8Array(await sharp(data, { raw: info }).png().toBuffer()))
  await expect(page.getByRole('alert')).toContainText('there is no hand-over.json')

  // with a key of the house it is signed; the key stays over a reload, and is not forgotten by a slip
  await page.getByRole('button', { name: 'Make a key…' }).click()
  await page.getByRole('dialog').getByRole('textbox').fill('Fernbrook Post')
  await page.getByRole('button', { name: 'Make it' }).click()
  await expect(page.getByLabel('Sign as “Fernbrook Post”')).toBeChecked()
  await page.reload()
  await expect(page.getByLabel('Sign as “Fernbrook Post”')).toBeChecked()
  await page.getByRole('button', { name: 'Forget it' }).click()
  await page.getByRole('button', { name: 'Keep it' }).click()
  await page.getByRole('button', { name: 'All', exact: true }).click()
  const signing = page.waitForEvent('download')
  await page.getByRole('button', { name: 'Save as ZIP' }).click()
  const signed = await bytesOf(await signing)
  expect(Object.keys(unzipSync(signed))).toContain('signature.json')
  await check(signed)
  await expect(page.locator('[data-checked]')).toContainText('Nothing has changed. Signed by “Fernbrook Post”')
  await check(zipSync({ ...unzipSync(signed), 'extra.txt': new Uint8Array(1) }, { level: 0 }))
  await expect(page.locator('[data-checked]')).toHaveAttribute('data-condition', 'surplus')
  await expect(page.locator('[data-checked]')).toContainText('Not handed over: extra.txt')
  expect(heard).toEqual([])
})

test('the stations stand open as a route that sees nothing but the file', async ({ request }) => {
  const file = Buffer.from((await png('x.png', wing(2, 24))).bytes)
  const listed = (await (await request.get('/api/stations')).json()) as { id: string }[]
  expect(listed.map(s => s.id)).toContain('always-premultiplied')
  const answer = await request.post('/api/stations/alpha-off?backdrop=%23ffffff', { data: file })
  expect(answer.status()).toBe(200)
  const said = (await answer.json()) as { standing: string; sentence: string; meant: { mode: string }; picture: string }
  expect(said).toMatchObject({ standing: 'setting', meant: { mode: 'straight' } })
  expect(said.sentence).toContain('Nothing is see-through')
  const shown = await request.post('/api/stations/reads-the-label?backdrop=%23102030&scale=0.5', {
    data: file,
    headers: { accept: 'image/png' }
  })
  const { data, info } = await sharp(await shown.body())
    .raw()
    .toBuffer({ resolveWithObject: true })
  expect([info.width, info.height, data[0], data[1], data[2]]).toEqual([320, 180, 0x10, 0x20, 0x30])
  const status = async (path: string, body: Buffer): Promise<number> =>
    (await request.post(path, { data: body })).status()
  expect(await status('/api/stations/no-such', file)).toBe(404)
  expect(await status('/api/stations/asks?scale=99', file)).toBe(400)
  expect(await status('/api/stations/asks', Buffer.alloc(0))).toBe(400)
  expect(await status('/api/stations/asks?frame=7', file)).toBe(400)
  expect(await status('/api/stations/asks', Buffer.from('no picture at all, only words'))).toBe(422)
  expect(await status('/api/stations/asks', file.subarray(0, file.length >> 1))).toBe(422)
  expect(await status('/api/stations/asks', Buffer.alloc(65 * 2 ** 20))).toBe(413)
})
