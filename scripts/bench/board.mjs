/**
 * How the board holds up: a job of so many sources and outlets opened in Chromium, its first row, and frames while it
 * is scrolled.
 */
import { spawn } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { ensureInstalled } from '../ensure.mjs'

ensureInstalled()
const { buildPage, root } = await import('../build.mjs')
await buildPage()
const { chromium } = await import('@playwright/test')
const sharp = (await import('sharp')).default
const port = 4350
const server = spawn(process.execPath, [path.join(root, '.output/server/index.mjs')], {
  stdio: 'ignore',
  env: { ...process.env, PORT: String(port), HOST: 'localhost', NUXT_EMPTY: 'true' }
})
const address = `http://localhost:${port}/`
for (let n = 0; n < 100; n++) {
  if (
    await fetch(address).then(
      a => a.ok,
      () => false
    )
  )
    break
  await new Promise(resolve => setTimeout(resolve, 100))
}
const picture = await sharp({ create: { width: 64, height: 36, channels: 4, background: '#7a3b1f80' } })
  .png()
  .toBuffer()

/** A job of copies of one source and one outlet, written as the page writes it. */
function fill([sources, outlets, png]) {
  const bytes = Uint8Array.from(atob(png), c => c.charCodeAt(0))
  return new Promise((resolve, reject) => {
    const opening = indexedDB.open('pour')
    opening.onsuccess = () => {
      const writing = opening.result.transaction(['jobs', 'files', 'sources', 'examinations'], 'readwrite')
      const jobs = writing.objectStore('jobs')
      jobs.getAll().onsuccess = event => {
        const row = event.target.result[0]
        const [outlet] = Object.values(row.job.outlets)
        row.job.outlets = {}
        for (let n = 0; n < outlets; n++)
          row.job.outlets[`o${n}`] = {
            ...outlet,
            id: `o${n}`,
            name: `Outlet ${n + 1}`,
            format: 'png-sequence',
            depth: 8,
            options: {}
          }
        row.job.outletOrder = Object.keys(row.job.outlets)
        const files = writing.objectStore('files')
        for (let n = 1; n <= 24; n++)
          files.put({ id: `f${n}`, path: `plate_${n}.png`, size: bytes.length, blob: new Blob([bytes]), handle: null })
        for (let n = 0; n < sources; n++) {
          const id = `s${n}`
          row.job.sources[id] = {
            id,
            name: `source ${n + 1}`,
            facts: {
              name: 'plate',
              format: 'png-sequence',
              kind: 'PNG sequence',
              width: 64,
              height: 36,
              frames: 24,
              rate: null,
              rateFrom: 'unknown',
              bitDepth: 8,
              claim: { mode: 'straight', matte: null, says: 'PNG is straight by its standard' },
              colour: null,
              pixelAspect: [1, 1],
              plays: null,
              bytes: bytes.length * 24,
              findings: []
            },
            findings: [],
            interpretation: { rate: [24, 1], rateFrom: 'asked', alpha: null, holdGaps: false },
            marks: null,
            steps: []
          }
          row.job.sourceOrder.push(id)
          writing.objectStore('sources').put({
            id,
            format: 'png-sequence',
            files: Array.from({ length: 24 }, (_, i) => ({
              kind: 'stored',
              fileId: `f${i + 1}`,
              path: `plate_${i + 1}.png`,
              size: bytes.length
            })),
            numbers: Array.from({ length: 24 }, (_, i) => i + 1)
          })
        }
        jobs.put(row)
      }
      writing.oncomplete = () => {
        opening.result.close()
        resolve()
      }
      writing.onerror = () => reject(writing.error)
    }
  })
}

/** Scrolls the board for two seconds; the time of each frame. */
function scroll() {
  const board = document.querySelector('[role=grid]')
  // read once: to ask in every frame would lay the page out an extra time
  const end = board.scrollHeight - board.clientHeight
  let top = board.scrollTop
  return new Promise(resolve => {
    const times = []
    let last = performance.now()
    const began = last
    const step = now => {
      times.push(now - last)
      last = now
      top = top + 60 >= end ? 0 : top + 60
      board.scrollTop = top
      if (now - began < 2000) requestAnimationFrame(step)
      else resolve(times)
    }
    requestAnimationFrame(step)
  })
}

/** Scrolls, and says what the page's own thread spent on each frame: script, style and layout, and all its tasks. */
async function scrolled(page, cdp) {
  const read = async () =>
    Object.fromEntries((await cdp.send('Performance.getMetrics')).metrics.map(({ name, value }) => [name, value]))
  const before = await read()
  const times = await page.evaluate(scroll)
  const after = await read()
  const spent = (...names) => names.reduce((sum, name) => sum + after[name] - before[name], 0) * (1000 / times.length)
  times.sort((a, b) => a - b)
  const rate = Math.round(1000 / (times.reduce((a, b) => a + b, 0) / times.length))
  return (
    `${rate} frames/s, 95th ${ms(times[Math.floor(times.length * 0.95)]).trim()}, of each the page takes ` +
    `${spent('TaskDuration').toFixed(1)} ms (script ${spent('ScriptDuration').toFixed(1)}, style and ` +
    `layout ${spent('RecalcStyleDuration', 'LayoutDuration').toFixed(1)})`
  )
}

/**
 * Rows of plain text that were all there from the start: what this browser scrolls at best, beside so much other
 * work.
 */
async function yardstick(page, busy) {
  const row = '<div style="width:180px;margin:4px;border-radius:8px;background:#333;padding:8px">a row<br>of text</div>'
  await page.setContent(
    '<body style="margin:0;background:#111;color:#eee"><div role=grid ' +
      `style="height:700px;overflow:auto">${`<div style="display:flex;height:88px">${row.repeat(6)}</div>`.repeat(600)}</div></body>`
  )
  if (busy)
    await page.evaluate(() => {
      const spin = URL.createObjectURL(new Blob(['for (;;) Math.random()']))
      for (let n = 0; n < navigator.hardwareConcurrency; n++) new Worker(spin)
    })
  await page.waitForTimeout(500)
  const times = await page.evaluate(scroll)
  return Math.round(1000 / (times.reduce((a, b) => a + b, 0) / times.length))
}

const ms = value => `${Math.round(value)} ms`.padStart(8)
for (const [sources, outlets] of [
  [20, 6],
  [150, 6],
  [300, 20]
]) {
  const profile = mkdtempSync(path.join(tmpdir(), 'pour-board-'))
  const context = await chromium.launchPersistentContext(profile, {
    executablePath: '/usr/bin/chromium',
    viewport: { width: 1280, height: 800 },
    args: ['--no-sandbox', '--disable-gpu']
  })
  try {
    const page = context.pages()[0]
    await page.goto(address)
    await page.getByText('0 sources · 4 outlets').waitFor()
    await page.waitForTimeout(500)
    await page.evaluate(fill, [sources, outlets, picture.toString('base64')])
    const began = performance.now()
    await page.reload({ waitUntil: 'commit' })
    await page.getByRole('rowheader').first().waitFor()
    const first = performance.now() - began
    const cdp = await context.newCDPSession(page)
    await cdp.send('Performance.enable')
    const busy = await scrolled(page, cdp)
    await page.getByText('Nothing is running.').waitFor({ timeout: 300_000 })
    const looked = performance.now() - began
    const rest = await scrolled(page, cdp)
    // what is poured first stands at the top
    await page.evaluate(() => (document.querySelector('[role=grid]').scrollTop = 0))
    await page.waitForTimeout(500)
    const asked = performance.now()
    await page.keyboard.press('p')
    await page.locator('[data-state^=Pouring], [data-state^=Proving], [data-state=Identical]').first().waitFor()
    const begins = performance.now() - asked
    const pouring = await scrolled(page, cdp)
    console.log(
      `${sources} x ${outlets}\n  first row ${ms(first).trim()}, all looked at after ` +
        `${(looked / 1000).toFixed(1)} s\n  scrolled while sources are looked at: ${busy}\n  scrolled at rest: ` +
        `${rest}\n  scrolled while pouring, which begins ${ms(begins).trim()} after it was asked for: ${pouring}`
    )
  } finally {
    await context.close()
    rmSync(profile, { recursive: true, force: true })
  }
}
{
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu']
  })
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
  const rest = await yardstick(page, false)
  console.log(
    `plain rows, the yardstick: ${rest} frames/s, beside workers that never rest ${await yardstick(page, true)}`
  )
  await browser.close()
}
server.kill()
