/**
 * The page's own VP8 and VP9 coders at odd sizes, held against a decoder that shares no code with them: chroma of half
 * the height has a last row that stands for one row of pixels alone.
 */
import { unzipSync } from 'fflate'
import { expect, test } from './test'
import { framesOf } from '../witness/seen'
import { pictureTrack, see } from '../witness/library'
import { sharpFrame } from '../unit/support'
import type { Frame } from '../../core/frame/frame'
import { addOutlet, bytesOf, cell, complaints, drop, png } from './support'

const [WIDTH, HEIGHT, COUNT] = [37, 23, 5]

/** Broad fields of strong colour whose last row is of another hue: what half-size chroma holds, if nothing is lost. */
function picture(n: number): Frame {
  const samples = new Uint8Array(4 * WIDTH * HEIGHT)
  for (let y = 0, i = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, i += 4) {
      const last = y >= HEIGHT - 1
      const left = x < 12 + 2 * n
      samples.set(last ? [30, 60, 200] : left ? [180, 60, 40] : [40, 150, 60], i)
      samples[i + 3] = x < 6 ? 40 * y : 255
    }
  return { width: WIDTH, height: HEIGHT, depth: 8, samples, alpha: { mode: 'straight' }, transfer: 'srgb' }
}

/** Mean distance of two pictures' colours in the rows from one to another, where alpha shows them. */
function apart(a: ArrayLike<number>, b: ArrayLike<number>, [from, to]: [number, number]): number {
  let [sum, count] = [0, 0]
  for (let i = 4 * from * WIDTH; i < 4 * to * WIDTH; i += 4) {
    if (a[i + 3]! < 128) continue
    for (let c = 0; c < 3; c++) sum += Math.abs(a[i + c]! - b[i + c]!)
    count += 3
  }
  return sum / count
}

test('films of odd size are written and read whole to their last row', async ({ page }) => {
  test.setTimeout(180_000)
  const heard = complaints(page)
  await page.goto('/outlets')
  await addOutlet(page, 'WebM VP8')
  await addOutlet(page, 'PNG sequence')
  await page.getByRole('link', { name: 'Board' }).click()
  await expect(page.getByText('Bring in an animation with transparency')).toBeVisible()
  const sources = Array.from({ length: COUNT }, (_, n) => picture(n))
  await drop(page, await Promise.all(sources.map((frame, n) => png(`odd_25fps_000${n + 1}.png`, frame))))
  await expect(page.locator('[role=columnheader] strong')).toHaveCount(6)
  const heading = await page.locator('[role=columnheader] strong').allInnerTexts()
  for (const [name, column] of [
    ['VP9', heading.indexOf('Web page')],
    ['VP8', heading.length - 2]
  ] as const) {
    const at = cell(page, 0, column)
    await at.click()
    await page.getByRole('button', { name: 'Pour this cell' }).click()
    await expect(at).toHaveAttribute('data-state', /Identical|Faithful|Visible loss/, { timeout: 60_000 })
    const waiting = page.waitForEvent('download')
    await page.getByRole('button', { name: 'Download' }).click()
    const film = await bytesOf(await waiting)
    const seen = see(film, 'odd.webm')
    expect(seen.complaints).toEqual([])
    const strange = framesOf(pictureTrack(seen), 8)
    expect(strange.map(({ width, height }) => [width, height])).toEqual(sources.map(() => [WIDTH, HEIGHT]))
    strange.forEach(({ codes }, n) => {
      const source = sources[n]!.samples
      let off = 0
      for (let i = 3; i < codes.length; i += 4) off = Math.max(off, Math.abs(codes[i]! - source[i]!))
      expect(off, `${name}, alpha of frame ${n + 1}`).toBeLessThanOrEqual(name === 'VP9' ? 0 : 3)
      // chroma that stood for other rows would be off by dozens
      const last = apart(source, codes, [HEIGHT - 1, HEIGHT])
      expect(last, `${name}, last row of frame ${n + 1}`).toBeLessThan(name === 'VP9' ? 1 : 4)
      expect(apart(source, codes, [2, HEIGHT - 2])).toBeLessThan(4)
    })

    // and the page reads from it what the stranger does
    await drop(page, [{ name: `back_${name}.webm`, bytes: film }])
    const row = page.getByRole('rowheader').filter({ hasText: `back_${name}` })
    await expect(row).toBeVisible()
    const line = (await row.getAttribute('id'))!
    const frames = page.locator(`[aria-owns="${line}"] [data-cell]`).nth(heading.length - 1)
    await frames.click()
    await page.getByRole('button', { name: 'Pour this cell' }).click()
    await expect(frames).toHaveAttribute('data-state', /Identical|Faithful/, { timeout: 60_000 })
    const zip = page.waitForEvent('download')
    await page.getByRole('button', { name: 'Download' }).click()
    const files = Object.entries(unzipSync(await bytesOf(await zip))).filter(([path]) => path.endsWith('.png'))
    expect(files).toHaveLength(COUNT)
    for (const [n, [, bytes]] of files.sort(([a], [b]) => a.localeCompare(b)).entries()) {
      const own = (await sharpFrame(bytes)).samples
      const scale = own instanceof Uint16Array ? 257 : 1
      const strangers = strange[n]!.codes
      let most = 0
      for (let i = 0; i < own.length; i++) most = Math.max(most, Math.abs(own[i]! / scale - strangers[i]!))
      // rounding of the matrix, once in each of the two
      expect(most, `${name}, frame ${n + 1}`).toBeLessThanOrEqual(2)
    }
  }
  expect(heard).toEqual([])
})
