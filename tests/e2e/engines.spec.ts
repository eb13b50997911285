/** What goes to engines and pages: packed sheets that come back as they went, films of halves that a page joins. */
import { mkdtemp, writeFile } from 'node:fs/promises'
import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { pathToFileURL } from 'node:url'
import { unzipSync } from 'fflate'
import type { PackedSheet } from '../../core/media/pictures/sheet/packed/data'
import { firstDifference, sharpFrame } from '../unit/support'
import {
  addOutlet,
  beginPlain,
  bytesOf,
  cell,
  complaints,
  drop,
  makeStrap,
  picture,
  sequence,
  withoutPicker
} from './support'
import { expect, test } from './test'

test('a packed sheet is poured, plays in a page of its own, and comes back as a source', async ({ page, browser }) => {
  test.setTimeout(120_000)
  const heard = complaints(page)
  await withoutPicker(page)
  await page.goto('/')
  await beginPlain(page)
  await drop(page, await sequence('palm shade_12fps', 6))
  await page.getByRole('link', { name: 'Outlets' }).click()
  await addOutlet(page, 'Packed PNG sheet')
  await page.getByLabel('Depth').getByText('8 bit + 8 alpha').click()
  await page.getByLabel('A style sheet and a page', { exact: true }).press('Enter')
  await page.getByRole('link', { name: 'Board' }).click()
  await cell(page, 0, 3).click()
  await page.getByRole('button', { name: 'Pour this cell' }).click()
  await expect(cell(page, 0, 3)).toHaveAttribute('data-state', 'Identical', { timeout: 40_000 })
  const waiting = page.waitForEvent('download')
  await page.getByRole('button', { name: 'Download' }).click()
  const files = Object.entries(unzipSync(await bytesOf(await waiting))).map(([name, bytes]) => ({ name, bytes }))
  const stem = 'palm_shade_Packed_PNG_sheet'
  expect(files.map(({ name }) => name).sort()).toEqual(
    ['.css', '.frames.json', '.html', '.json', '.png'].map(end => stem + end)
  )
  const named = (name: string): Uint8Array => files.find(file => file.name === name)!.bytes
  const data = JSON.parse(new TextDecoder().decode(named(`${stem}.json`))) as PackedSheet
  expect(data).toMatchObject({ name: 'palm shade', width: 48, height: 32, rate: [12, 1] })

  // its page, opened from a folder: each frame stands where it stood, over the page's own colour
  const folder = await mkdtemp(path.join(tmpdir(), 'sheet '))
  for (const { name, bytes } of files) await writeFile(path.join(folder, name), bytes)
  const other = await browser.newPage()
  await other.goto(pathToFileURL(path.join(folder, `${stem}.html`)).href)
  const figure = other.getByRole('img', { name: 'palm shade' })
  await expect(figure).toBeVisible()
  for (const index of [0, 2, 5]) {
    await other.evaluate(
      at => {
        for (const animation of document.getAnimations()) {
          animation.pause()
          animation.currentTime = at
        }
      },
      ((index + 0.5) * 1000) / 12
    )
    const seen = await sharpFrame(await figure.screenshot())
    const due = picture(index + 1)
    let most = 0
    for (let p = 0; p < due.samples.length; p += 4)
      for (let c = 0; c < 3; c++) {
        const a = due.samples[p + 3]! / 255
        const laid = due.samples[p + c]! * a + [0x8d, 0x92, 0x99][c]! * (1 - a)
        most = Math.max(most, Math.abs(laid - seen.samples[p + c]!))
      }
    expect(most).toBeLessThanOrEqual(2)
  }
  await other.close()

  // dropped again it is one source, frame for frame the same
  await drop(
    page,
    files.filter(({ name }) => !/\.(css|html)$/.test(name))
  )
  await expect(page.getByRole('rowheader')).toHaveCount(2)
  await expect(page.getByRole('rowheader').filter({ hasText: stem })).toContainText('48×32 · 12 f/s · 6')
  await cell(page, 1, 1).click()
  await page.getByRole('button', { name: 'Pour this cell' }).click()
  await expect(cell(page, 1, 1)).toHaveAttribute('data-state', 'Identical', { timeout: 40_000 })
  const again = page.waitForEvent('download')
  await page.getByRole('button', { name: 'Download' }).click()
  const pictures = Object.entries(unzipSync(await bytesOf(await again)))
  const [, third] = pictures.find(([name]) => name.endsWith('_0003.png'))!
  // that outlet delivers 16 bits: codes of 8 are each their own 257 times
  const due = Uint16Array.from(picture(3).samples, code => 257 * code)
  expect(firstDifference((await sharpFrame(third)).samples, due)).toBe(null)
  expect(heard).toEqual([])
})

test('a film of halves is poured, put together by this browser and right there; its page and its own drop agree', async ({
  page,
  browser
}) => {
  test.setTimeout(180_000)
  const heard = complaints(page)
  await withoutPicker(page)
  await makeStrap(page, 'Ada')
  await page.getByRole('link', { name: 'Outlets' }).click()
  await addOutlet(page, 'WebM VP9')
  await page.getByLabel('Carries').getByText('Alpha below').click()
  await expect(page.getByText('Nothing in the film says which')).toBeVisible()
  await page.getByRole('link', { name: 'Board' }).click()
  const last = await page.locator('[role=row][aria-owns]').first().locator('[data-cell]').count()
  await cell(page, 0, last - 1).click()
  await page.getByRole('button', { name: 'Pour this cell' }).click()
  await expect(cell(page, 0, last - 1)).toHaveAttribute('data-state', /Identical|Faithful|Visible loss/, {
    timeout: 60_000
  })
  const waiting = page.waitForEvent('download')
  await page.getByRole('button', { name: 'Download' }).click()
  const film = await bytesOf(await waiting)

  // the real browser plays it, by the lines that its page has too; whoever does not know it sees two pictures
  await page.getByRole('button', { name: 'See proof' }).click()
  await page.getByRole('tab', { name: 'Stations' }).click()
  await expect(page.locator('[data-station=this-browser]')).toContainText('Right: 30 frames over', { timeout: 90_000 })
  await expect(page.locator('[data-station=alpha-off]')).toContainText('Shows both halves as one picture')

  // the hand-over brings the page that plays it
  await page.goto('/proof?view=hand-over')
  await page.getByRole('button', { name: 'All', exact: true }).click()
  const packed = page.waitForEvent('download')
  await page.getByRole('button', { name: 'Save as ZIP' }).click()
  const files = unzipSync(await bytesOf(await packed))
  const [player] = Object.keys(files).filter(name => name.endsWith('-player.html'))
  const folder = await mkdtemp(path.join(tmpdir(), 'halves '))
  for (const [name, bytes] of Object.entries(files))
    if (!name.includes('/') && name !== 'proof.pdf') await writeFile(path.join(folder, name), bytes)
  const other = await browser.newPage({ reducedMotion: 'reduce' })
  await other.goto(pathToFileURL(path.join(folder, player!)).href)
  await expect(other.getByText('on a server')).toBeVisible()
  const server = createServer((request, response) => {
    const bytes = files[decodeURIComponent(request.url!.slice(1))]
    if (!bytes) return void response.writeHead(404).end()
    const type = request.url!.endsWith('.html') ? 'text/html' : 'video/webm'
    response.writeHead(200, { 'Content-Type': type, 'Content-Length': bytes.length }).end(bytes)
  })
  await new Promise<void>(resolve => server.listen(0, '127.0.0.1', resolve))
  const { port } = server.address() as AddressInfo
  await other.goto(`http://127.0.0.1:${port}/${encodeURIComponent(player!)}`)
  await expect(other.getByRole('button', { name: 'Play' })).toBeVisible()
  await other.getByRole('button', { name: 'Play' }).click()
  await expect(other.getByRole('button', { name: 'Stop' })).toBeVisible()
  await expect.poll(() => other.evaluate(() => document.querySelector('video')!.currentTime)).toBeGreaterThan(0.2)
  const seen = await other.evaluate(() => {
    const drawn = document.querySelector('canvas')!
    const copy = new OffscreenCanvas(drawn.width, drawn.height)
    const context = copy.getContext('2d')!
    context.drawImage(drawn, 0, 0)
    const { data } = context.getImageData(0, 0, copy.width, copy.height)
    const alpha = data.filter((_, i) => i % 4 === 3)
    const share = (which: (a: number) => boolean): number => alpha.filter(which).length / alpha.length
    return { size: [drawn.width, drawn.height], clear: share(a => a === 0), partial: share(a => a > 8 && a < 247) }
  })
  expect(seen.size).toEqual([640, 360])
  expect(seen.clear).toBeGreaterThan(0.5)
  expect(seen.partial).toBeGreaterThan(0.0005)
  await other.close()
  await new Promise(resolve => server.close(resolve))

  // from outside it says itself what it is
  await page.getByRole('link', { name: 'Board' }).click()
  await drop(page, [{ name: 'from outside.webm', bytes: film }])
  await expect(page.getByRole('rowheader').filter({ hasText: 'from outside' })).toContainText('640×360')
  expect(heard).toEqual([])
})
