import { unzipSync } from 'fflate'
import { ALL_FORMATS, BufferSource, Input } from 'mediabunny'
import { expect, test, type Page } from './test'
import { formatById } from '../../core/open/registry'
import { bytesFile, firstDifference, sharpFrame, testHost } from '../unit/support'
import {
  addOutlet,
  beginPlain,
  bytesOf,
  cell,
  complaints,
  drop,
  giveRate,
  picture,
  png,
  sequence,
  storedRows,
  withoutPicker
} from './support'

/** A folder of the browser's own stands in for the one a person would choose; what is written there is real. */
async function ownFolder(page: Page): Promise<void> {
  await page.addInitScript(() => {
    Object.assign(window, {
      showDirectoryPicker: async () =>
        (await navigator.storage.getDirectory()).getDirectoryHandle('out', { create: true })
    })
  })
}

async function download(page: Page): Promise<Uint8Array> {
  const waiting = page.waitForEvent('download')
  await page.getByRole('button', { name: 'Download' }).click()
  return bytesOf(await waiting)
}

test('an empty job says what to do, and files come in by choice', async ({ page }) => {
  const heard = complaints(page)
  await withoutPicker(page)
  await page.goto('/')
  await beginPlain(page)
  const chooser = page.waitForEvent('filechooser')
  await page.getByRole('button', { name: 'Choose files' }).click()
  const files = await sequence('leaf_25fps', 3)
  await (
    await chooser
  ).setFiles(files.map(f => ({ name: f.name, mimeType: 'image/png', buffer: Buffer.from(f.bytes) })))
  await expect(page.getByRole('rowheader')).toContainText('leaf')
  await expect(page.getByRole('rowheader')).toContainText('48×32 · 25 f/s · 3')
  expect(heard).toEqual([])
})

test('what is wrong with a drop is said and does not stop the rest; edits are undone and redone', async ({ page }) => {
  await page.goto('/')
  await beginPlain(page)
  await drop(page, [
    ...(await sequence('vine', 8, { leaveOut: [4] })),
    await png('vine_0009.png', picture(9, 50, 32)),
    { name: 'notes.xyz', bytes: new Uint8Array([1, 2, 3]) },
    { name: 'cut.png', bytes: (await png('x', picture(1))).bytes.subarray(0, 60) }
  ])
  await giveRate(page, '12')
  await expect(page.getByText('cut.png')).toBeVisible()
  await expect(page.getByText('notes.xyz')).toBeVisible()
  const head = page.getByRole('rowheader')
  await expect(head).toContainText('48×32 · 12 f/s · 7')
  await head.getByRole('button').click()
  await expect(page.getByText('vine_0009.png (50x32)')).toBeVisible()
  await expect(page.getByText('Picture 4 is missing between 1 and 8')).toBeVisible()
  await page.getByRole('button', { name: 'Hold the picture before' }).first().click()
  await expect(head).toContainText('12 f/s · 8')
  await page.keyboard.press('Control+z')
  await expect(head).toContainText('12 f/s · 7')
  await page.keyboard.press('Control+Shift+z')
  await expect(head).toContainText('12 f/s · 8')
})

test('what is downloaded is read right by decoders that are not ours, and all of it survives a reload', async ({
  page
}) => {
  await page.goto('/')
  await beginPlain(page)
  await drop(page, await sequence('moth_24fps', 5, { depth: 16 }))
  await expect(cell(page, 0, 2)).toContainText('about')
  await page.keyboard.press('p')
  await expect(cell(page, 0, 1)).toHaveAttribute('data-state', 'Identical')
  // sixteen bits become eight in the others
  for (const column of [0, 2]) await expect(cell(page, 0, column)).toHaveAttribute('data-state', 'Faithful')
  await page.reload()
  await expect(cell(page, 0, 1)).toHaveAttribute('data-state', 'Identical')

  await cell(page, 0, 1).click()
  const pictures = unzipSync(await download(page))
  expect(Object.keys(pictures)).toEqual([...[1, 2, 3, 4, 5].map(n => `moth_000${n}.png`), 'moth_rate.txt'])
  for (let n = 1; n <= 5; n++)
    expect(
      firstDifference((await sharpFrame(pictures[`moth_000${n}.png`]!)).samples, picture(n, 48, 32, 16).samples)
    ).toBeNull()

  await cell(page, 0, 0).click()
  const film = await download(page)
  const input = new Input({ source: new BufferSource(film.slice().buffer), formats: ALL_FORMATS })
  const track = (await input.getPrimaryVideoTrack())!
  expect(await track.computeDuration()).toBeCloseTo(5 / 24, 9)
  const opened = await formatById('quicktime-animation').open('film', [bytesFile('film.mov', film)], await testHost())
  for (let n = 1; n <= 5; n++)
    expect(
      firstDifference(
        (await opened.frame(n - 1)).samples,
        picture(n, 48, 32, 16).samples.map(code => Math.round(code / 257))
      )
    ).toBeNull()

  await cell(page, 0, 2).click()
  const animated = await download(page)
  expect(
    firstDifference(
      (await sharpFrame(animated)).samples,
      picture(1, 48, 32, 16).samples.map(code => Math.round(code / 257))
    )
  ).toBeNull()
})

test('a long pour is cancelled at once, and offered again when the page was closed meanwhile', async ({ page }) => {
  await page.goto('/')
  await beginPlain(page)
  await drop(page, await sequence('long_25fps', 120, { width: 640, height: 480 }))
  await expect(cell(page, 0, 0)).toContainText('about', { timeout: 60_000 })
  await cell(page, 0, 1).click()
  await page.getByRole('button', { name: 'Pour this cell' }).click()
  await expect(cell(page, 0, 1)).toHaveAttribute('data-state', /Pouring [1-9]/)
  await page.locator('footer').getByRole('button', { name: 'Cancel' }).click()
  await expect(cell(page, 0, 1)).toHaveAttribute('data-state', 'Not poured', { timeout: 1000 })

  await page.getByRole('button', { name: 'Pour this cell' }).click()
  await expect(cell(page, 0, 1)).toHaveAttribute('data-state', /Pouring [1-9]/)
  await page.reload()
  await expect(page.getByText('One pour was cut off when the page was closed.')).toBeVisible()
  await expect(cell(page, 0, 1)).toHaveAttribute('data-state', 'Cut off')
  await page.getByRole('button', { name: 'Pour again' }).click()
  await expect(cell(page, 0, 1)).toHaveAttribute('data-state', 'Identical', { timeout: 60_000 })
})

test('a proof that was cut off by a reload goes on where it was', async ({ page }) => {
  test.setTimeout(120_000)
  await page.goto('/')
  await beginPlain(page)
  await drop(page, await sequence('long_25fps', 160, { width: 400, height: 300, depth: 16 }))
  await expect(cell(page, 0, 0)).toContainText('about', { timeout: 60_000 })
  await cell(page, 0, 1).click()
  await page.getByRole('button', { name: 'Pour this cell' }).click()
  await expect(cell(page, 0, 1)).toHaveAttribute('data-state', /Proving ([3-9]\d|100) %/, { timeout: 60_000 })
  await page.reload()
  await expect(cell(page, 0, 1)).toHaveAttribute('data-state', 'Not proven')
  // what was compared before the reload is on record
  const pages = await storedRows<{ outcomes: unknown[] }>(page, 'pages')
  expect(pages.reduce((sum, row) => sum + row.outcomes.length, 0)).toBeGreaterThanOrEqual(48)
  await cell(page, 0, 1).click()
  await page.getByRole('button', { name: 'Prove it' }).click()
  // its first word is already past what was kept
  await expect(cell(page, 0, 1)).toHaveAttribute('data-state', /Identical|Proving (2[4-9]|[3-9]\d|100) %/)
  await expect(cell(page, 0, 1)).toHaveAttribute('data-state', 'Identical', { timeout: 60_000 })
})

test('a picture that breaks in the middle stops its clip, with the cause, until it is held or left out', async ({
  page
}) => {
  await page.goto('/')
  await beginPlain(page)
  const files = await sequence('bad_25fps', 4)
  const broken = files[2]!.bytes.slice()
  broken.fill(7, 70, 90)
  await drop(page, [files[0]!, files[1]!, { name: files[2]!.name, bytes: broken }, files[3]!])
  await expect(cell(page, 0, 1)).toHaveAttribute('data-state', 'Not possible')
  await cell(page, 0, 1).click()
  await expect(
    page.getByText(/bad_25fps_0003\.png, chunk .* Hold the picture before, or leave it out\./).first()
  ).toBeVisible()
  const head = page.getByRole('rowheader').first()
  await head.getByRole('button').click()
  await page.getByRole('button', { name: 'Leave it out' }).first().click()
  await expect(head).toContainText('25 f/s · 3')
  await page.reload()
  await expect(head).toContainText('25 f/s · 3')
  await head.getByRole('button').click()
  await page.getByRole('button', { name: 'Take back: Leave it out' }).first().click()
  await expect(head).toContainText('25 f/s · 4')
  await expect(cell(page, 0, 1)).toHaveAttribute('data-state', 'Not possible')
  await page.getByRole('button', { name: 'Hold the picture before' }).first().click()
  await expect(page.getByText('Done: Hold the picture before.')).toBeVisible()
  await expect(head).toContainText('25 f/s · 4')
  await cell(page, 0, 1).click()
  await page.getByRole('button', { name: 'Pour this cell' }).click()
  await expect(cell(page, 0, 1)).toHaveAttribute('data-state', 'Visible loss')
})

test('pictures go straight into a folder, and its policy for names holds', async ({ page }) => {
  await ownFolder(page)
  await page.goto('/')
  await beginPlain(page)
  await drop(page, await sequence('pot_25fps', 3))
  await expect(cell(page, 0, 1)).toContainText('about')
  // a picture of a former, longer sequence goes; what is not called as its pictures are stays
  await page.evaluate(async () => {
    const out = await (await navigator.storage.getDirectory()).getDirectoryHandle('out', { create: true })
    const within = await out.getDirectoryHandle('pot_Compositing_frames', { create: true })
    for (const name of ['pot_0002.png', 'pot_0004.png', 'pot_00005.png', 'notes.txt'])
      await within.getFileHandle(name, { create: true })
  })
  await page.getByRole('button', { name: 'Pour into folder…' }).click()
  for (const column of [0, 1, 2]) await expect(cell(page, 0, column)).toHaveAttribute('data-state', 'Identical')
  const listing = await page.evaluate(async () => {
    const names: string[] = []
    const out = await (await navigator.storage.getDirectory()).getDirectoryHandle('out')
    for await (const [name, handle] of out as unknown as AsyncIterable<[string, FileSystemHandle]>) {
      names.push(name)
      if (handle.kind === 'directory')
        for await (const [inner] of handle as unknown as AsyncIterable<[string]>) names.push(`${name}/${inner}`)
    }
    return names.sort()
  })
  expect(listing).toEqual([
    'pot_Compositing_frames',
    'pot_Compositing_frames/notes.txt',
    'pot_Compositing_frames/pot_00005.png',
    'pot_Compositing_frames/pot_0001.png',
    'pot_Compositing_frames/pot_0002.png',
    'pot_Compositing_frames/pot_0003.png',
    'pot_Compositing_frames/pot_rate.txt',
    'pot_Editor_hand-over.mov',
    'pot_Web_page.png'
  ])

  await page.getByRole('columnheader').nth(2).getByRole('button').click()
  await page.getByRole('button', { name: 'Open outlet' }).click()
  await page.getByText('Stop', { exact: true }).click()
  await page.getByRole('link', { name: 'Board' }).click()
  await cell(page, 0, 1).click()
  await page.getByRole('button', { name: 'Pour again' }).click()
  await expect(cell(page, 0, 1)).toHaveAttribute('data-state', 'Failed')
  await expect(page.getByRole('alert')).toContainText('was poured already, and this outlet stops')
})

test('an outlet offers only what its format can hold, says why, and travels as text', async ({ page, context }) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write'])
  await page.goto('/outlets')
  await page.getByRole('button', { name: 'Editor hand-over' }).click()
  await page.getByText('Premultiplied', { exact: true }).click()
  await expect(page.getByText('graphics mode 0x102 on black, 0x101 on white')).toBeVisible()
  await page.getByLabel('Matte colour').fill('#3fae4b')
  await expect(page.getByText('The receiver must be told of #3fae4b.')).toBeVisible()
  await page.getByRole('button', { name: 'Copy as text' }).click()
  await page.locator('h1').click()
  await page.keyboard.press('Control+v')
  await expect(page.getByRole('navigation', { name: 'Outlets' }).getByRole('button')).toHaveCount(5)
  await expect(page.getByRole('navigation', { name: 'Outlets' }).getByRole('button').last()).toContainText(
    'premultiplied on #3fae4b'
  )
  // moving to a format that is straight by its standard drops the choice and gives the reason
  await page.locator('.el-select').filter({ hasText: 'QuickTime ProRes 4444' }).click()
  await page.getByRole('option', { name: 'PNG sequence' }).click()
  await expect(page.getByText('PNG is defined as straight')).toBeVisible()
  await expect(page.getByText('Premultiplied', { exact: true })).toHaveCount(0)
})

test('two tabs of one job add to each other', async ({ page, context }) => {
  await page.goto('/outlets')
  const other = await context.newPage()
  await other.goto('/outlets')
  const names = (of: Page) => of.getByRole('navigation', { name: 'Outlets' }).getByRole('button')
  await expect(names(other)).toHaveCount(4)
  await page.getByRole('button', { name: 'Duplicate' }).click()
  await expect(names(other)).toHaveCount(5)
  await other.getByRole('button', { name: 'Duplicate' }).click()
  await expect(names(page)).toHaveCount(6)
  // undo takes back only this tab's own edit
  await page.keyboard.press('Control+z')
  await expect(names(page)).toHaveCount(5)
  await expect(names(other)).toHaveCount(5)
})

test('the page stands on less than 3 MB, and what is needed later is fetched later', async ({ page }) => {
  const sizes = new Map<string, number>()
  page.on(
    'response',
    answer =>
      void answer
        .request()
        .sizes()
        .then(({ responseBodySize }) => sizes.set(answer.url(), responseBodySize))
        .catch(() => undefined)
  )
  await page.goto('/')
  await expect(page.getByText('kept in this browser')).toBeVisible()
  await drop(page, await sequence('fern_25fps', 2))
  await expect(page.getByRole('rowheader')).toHaveCount(1)
  const all = [...sizes.values()].reduce((sum, size) => sum + size, 0)
  expect(sizes.size).toBeGreaterThan(5)
  expect(all).toBeGreaterThan(300_000)
  expect(all).toBeLessThan(3_000_000)
  const names = [...sizes.keys()].join(' ')
  for (const later of ['canvaskit', 'jxl_oxide', 'webp_enc']) expect(names).not.toContain(later)
})

test('every answer isolates the page, and nothing may frame it or run a foreign script', async ({ request, page }) => {
  const headers = (await request.get('/')).headers()
  expect(headers['cross-origin-opener-policy']).toBe('same-origin')
  expect(headers['cross-origin-embedder-policy']).toBe('require-corp')
  expect(headers['x-frame-options']).toBe('DENY')
  expect(headers['content-security-policy']).toContain("frame-ancestors 'none'")
  expect(headers['content-security-policy']).not.toMatch(/script-src[^;]*unsafe-inline/)
  await page.goto('/')
  expect(await page.evaluate(() => window.crossOriginIsolated)).toBe(true)
})

test('a page plays the WebM over two colours, and every flat area is within two codes', async ({ page }) => {
  // a solid block, a bar at 60 %, and nothing, all far larger than the codec's own blocks
  const areas = [
    { from: 0, colour: [180, 60, 40, 255] },
    { from: 96, colour: [30, 92, 140, 153] },
    { from: 192, colour: [0, 0, 0, 0] }
  ]
  const samples = new Uint8Array(288 * 96 * 4)
  for (let i = 0; i < samples.length; i += 4) samples.set(areas.findLast(area => (i / 4) % 288 >= area.from)!.colour, i)
  const frame = {
    width: 288,
    height: 96,
    depth: 8 as const,
    samples,
    alpha: { mode: 'straight' as const },
    transfer: 'srgb' as const
  }
  await page.goto('/outlets')
  for (const name of ['WebM VP9', 'WebM VP8']) {
    await addOutlet(page, name)
    await expect(page.getByRole('navigation', { name: 'Outlets' }).getByRole('button', { name }).first()).toBeVisible()
  }
  await page.getByRole('link', { name: 'Board' }).click()
  await drop(page, await Promise.all([1, 2, 3, 4, 5].map(n => png(`flat_25fps_${n}.png`, frame))))
  for (const column of [3, 4]) {
    await cell(page, 0, column).click()
    await page.getByRole('button', { name: 'Pour this cell' }).click()
    await expect(cell(page, 0, column)).toHaveAttribute('data-state', /Identical|Faithful/)
    const film = Buffer.from(await download(page)).toString('base64')
    const shown = await page.evaluate(async data => {
      const video = document.createElement('video')
      video.muted = true
      video.src = URL.createObjectURL(
        new Blob([Uint8Array.from(atob(data), c => c.charCodeAt(0))], { type: 'video/webm' })
      )
      await new Promise((resolve, reject) => {
        video.onloadeddata = resolve
        video.onerror = () => reject(new Error(video.error?.message))
      })
      // "seeked" tells that the place was found; only the frame callback tells that its picture stands ready to be
      // drawn
      const presented = new Promise(resolve => video.requestVideoFrameCallback(resolve))
      video.currentTime = 0.1
      await presented
      const context = new OffscreenCanvas(288, 96).getContext('2d')!
      return ['#204060', '#e0c040'].map(backdrop => {
        context.fillStyle = backdrop
        context.fillRect(0, 0, 288, 96)
        context.drawImage(video, 0, 0)
        return [48, 144, 240].map(x => [...context.getImageData(x, 48, 1, 1).data].slice(0, 3))
      })
    }, film)
    for (const [n, back] of [
      [0x20, 0x40, 0x60],
      [0xe0, 0xc0, 0x40]
    ].entries()) {
      for (const [k, { colour }] of areas.entries()) {
        const a = colour[3]! / 255
        const due = back.map((code, c) => Math.round(colour[c]! * a + code * (1 - a)))
        const worst = Math.max(...due.map((code, c) => Math.abs(shown[n]![k]![c]! - code)))
        expect(
          worst,
          `column ${column}, over ${back.join()}: due ${due.join()}, shown ${shown[n]![k]!.join()}`
        ).toBeLessThanOrEqual(2)
      }
    }
  }
})

test('clips that came in together are asked for their rates once, each with its own where it differs', async ({
  page
}) => {
  const heard = complaints(page)
  await page.goto('/')
  await beginPlain(page)
  await drop(page, [...(await sequence('fern', 3)), ...(await sequence('vine', 3)), ...(await sequence('palm', 3))])
  await expect(page.getByRole('heading', { name: 'How fast do these 3 play?' })).toBeVisible()
  const all = page.getByLabel('Frames per second, the same for all')
  // it begins in its first field once it is open
  await expect(all).toBeFocused()
  await page.getByLabel('Frames per second of vine, where it differs').fill('23.976')
  await all.focus()
  await page.keyboard.type('25')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('dialog')).toBeHidden()
  await expect.poll(() => page.evaluate(() => document.activeElement?.tagName)).not.toBe('BODY')
  const head = (name: string) => page.getByRole('rowheader').filter({ hasText: name })
  await expect(head('fern')).toContainText('25 f/s')
  await expect(head('palm')).toContainText('25 f/s')
  await expect(head('vine')).toContainText('23.976 f/s')
  for (const name of ['fern', 'palm', 'vine']) await expect(head(name)).not.toContainText(/no rate/i)
  // one edit: one undo takes all back, and the cells then ask, one at a time
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(cell(page, 0, 0)).toHaveAttribute('data-state', 'Give its rate')
  await cell(page, 0, 0).getByRole('button', { name: 'Give its rate' }).click()
  await expect(page.getByRole('heading', { name: /^How fast does .* play\?$/ })).toBeVisible()
  await expect(page.getByLabel('Frames per second')).toBeFocused()
  expect(heard).toEqual([])
})

test('a watched folder: what arrives is poured, proven and put aside with its report; what cannot be is told', async ({
  page
}) => {
  test.setTimeout(120_000)
  const heard = complaints(page)
  await ownFolder(page)
  await page.goto('/')
  await beginPlain(page)
  // a folder of pictures that say no rate, and something that is no picture
  const plates = await sequence('plate', 4)
  const put = (path: string[], bytes: Uint8Array): Promise<void> =>
    page.evaluate(
      async ([path, data]) => {
        let folder = await (await navigator.storage.getDirectory()).getDirectoryHandle('out', { create: true })
        for (const name of path.slice(0, -1)) folder = await folder.getDirectoryHandle(name, { create: true })
        const file = await (await folder.getFileHandle(path.at(-1)!, { create: true })).createWritable()
        await file.write(Uint8Array.from(atob(data), c => c.charCodeAt(0)))
        await file.close()
      },
      [path, Buffer.from(bytes).toString('base64')] as const
    )
  for (const { name, bytes } of plates) await put(['palm shade', name], bytes)
  await drop(page, await sequence('first_25fps', 2))
  await page.getByRole('button', { name: 'Bring in…' }).click()
  await page.getByRole('menuitem', { name: 'Watch a folder…' }).click()
  const dialog = page.getByRole('dialog', { name: 'Watch a folder' })
  await dialog.getByLabel('Rate of sequences that name none').fill('quick')
  // menus and dialogs leave the page where it is
  expect(await page.evaluate(() => [window.scrollY, document.body.scrollTop])).toEqual([0, 0])
  await expect(dialog.getByText('Give a rate as 25')).toBeVisible()
  await dialog.getByLabel('Rate of sequences that name none').fill('12')
  await dialog.getByLabel('Seconds without a change').fill('1')
  await dialog.getByRole('button', { name: 'Choose the folder…' }).click()
  const came = dialog.getByRole('list', { name: 'What came' })
  await expect(came.getByText('3 deliveries, done.')).toBeVisible({ timeout: 60_000 })
  await put(['notes.txt'], new Uint8Array([1, 2, 3]))
  await expect(came.getByRole('listitem').filter({ hasText: 'notes.txt' })).toContainText('failed', { timeout: 30_000 })
  await expect(page.getByRole('button', { name: 'Watching out: 1 done, 1 failed' })).toBeAttached()
  await dialog.getByRole('button', { name: 'Stop watching' }).click()
  await dialog.getByRole('button', { name: 'Close', exact: true }).click()

  const found = await page.evaluate(async () => {
    const names: string[] = []
    const walk = async (folder: FileSystemDirectoryHandle, within: string): Promise<void> => {
      for await (const entry of (
        folder as FileSystemDirectoryHandle & { values(): AsyncIterable<FileSystemHandle> }
      ).values())
        if (entry.kind === 'directory') await walk(entry as FileSystemDirectoryHandle, `${within}${entry.name}/`)
        else names.push(`${within}${entry.name}`)
    }
    const out = await (await navigator.storage.getDirectory()).getDirectoryHandle('out')
    await walk(out, '')
    const report = await (await out.getDirectoryHandle('done')).getFileHandle('palm shade.report.json')
    return { names: names.sort(), report: JSON.parse(await (await report.getFile()).text()) as unknown }
  })
  expect(found.names.filter(name => !name.startsWith('poured/') && name !== '.pour-watch.json')).toEqual(
    [
      ...plates.map(({ name }) => `done/palm shade/${name}`),
      'done/palm shade.report.json',
      'failed/notes.txt',
      'failed/notes.txt.report.json'
    ].sort()
  )
  const poured = found.names.filter(name => name.startsWith('poured/'))
  expect(poured.filter(name => name.endsWith('.mov'))).toHaveLength(1)
  // an animated PNG, and four pictures
  expect(poured.filter(name => name.endsWith('.png'))).toHaveLength(5)
  expect(found.report).toMatchObject({
    pour: 'watch-report',
    arrival: 'palm shade',
    faults: [],
    deliveries: [{ source: 'palm shade' }, { source: 'palm shade' }, { source: 'palm shade' }]
  })
  // what came stands on the board, with the rate that was given
  await expect(page.getByRole('rowheader', { name: /palm shade 48×32 · 12 f\/s · 4/ })).toBeVisible()
  await expect(page.locator('footer .message')).toHaveCount(0)
  expect(heard).toEqual([])
})
