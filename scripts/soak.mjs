/**
 * `npm run soak [-- MINUTES]`: an hour, or so many minutes, of bringing in, pouring, proving and removing, and of two
 * watched folders, while the browser, the service, the command line and one of the watchers are killed at random
 * moments. It ends with 0 when nothing was lost, nothing is left lying, and the memory of every process is flat.
 */
import { execFile, execFileSync, spawn } from 'node:child_process'
import { createHash } from 'node:crypto'
import {
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  writeFileSync
} from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { strToU8, zipSync } from 'fflate'
import { ensureInstalled } from './ensure.mjs'

ensureInstalled()
const { buildCommandLine, buildPage, root } = await import('./build.mjs')
const script = await buildCommandLine()
await buildPage()
const { chromium } = await import('@playwright/test')
const sharp = (await import('sharp')).default

const minutes = Number(process.argv[2] ?? 60)
const until = Date.now() + minutes * 60_000
const port = 4340
const home = mkdtempSync(path.join(tmpdir(), 'pour-soak-'))
// its own place for what it unpacks: a server beside this one has its uploads elsewhere
const scratch = path.join(home, 'scratch')
mkdirSync(scratch, { recursive: true })
const faults = []
const counts = {
  pours: 0,
  kills: 0,
  uploads: 0,
  brought: 0,
  removed: 0,
  proven: 0,
  browserKills: 0,
  serviceKills: 0,
  storesThrownAway: 0,
  arrivals: 0,
  watcherKills: 0
}
/** Megabytes that processes hold, over time; of the page also what its own heap says. */
const memory = { service: [], page: [], browser: [], watcher: [] }

const random = most => Math.floor(Math.random() * most)
const wait = ms => new Promise(resolve => setTimeout(resolve, ms))
const fault = text => {
  faults.push(text)
  console.log(`  FAULT: ${text}`)
}

/** Pictures of soft, translucent shapes, each clip another. */
async function clip(folder, name, frames, width, height) {
  mkdirSync(folder, { recursive: true })
  const hue = random(360)
  for (let n = 1; n <= frames; n++) {
    const x = (width * n) / frames
    const svg =
      `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}"><defs><filter ` +
      `id="s"><feGaussianBlur stdDeviation="4"/></filter></defs><rect x="6" y="${height * 0.7}" ` +
      `width="${width - 12}" height="${height * 0.2}" rx="5" fill="hsl(${hue} 60% 30%)" ` +
      `fill-opacity="0.6"/><circle cx="${x}" cy="${height / 2}" r="${height / 4}" fill="hsl(${hue} ` +
      '80% 60%)" filter="url(#s)"/></svg>'
    await sharp(Buffer.from(svg))
      .png()
      .toFile(path.join(folder, `${name} 24fps_${String(n).padStart(4, '0')}.png`))
  }
}

function sums(folder) {
  const found = {}
  if (!existsSync(folder)) return found
  for (const entry of readdirSync(folder, { recursive: true, withFileTypes: true }))
    if (entry.isFile())
      found[path.relative(folder, path.join(entry.parentPath, entry.name))] = createHash('md5')
        .update(readFileSync(path.join(entry.parentPath, entry.name)))
        .digest('hex')
  return found
}

const same = (a, b) => JSON.stringify(Object.entries(a).sort()) === JSON.stringify(Object.entries(b).sort())
const visible = files => Object.fromEntries(Object.entries(files).filter(([name]) => !name.includes('.pour-')))

function pour(args, killAfter = null) {
  return new Promise(resolve => {
    const child = execFile(process.execPath, [script, ...args], { maxBuffer: 1 << 26 }, error =>
      resolve(error ? (error.code ?? -1) : 0)
    )
    if (killAfter !== null) setTimeout(() => child.kill('SIGKILL'), killAfter)
  })
}

/** The command line, killed at random: its target is what it was, or the new one whole. */
async function commandLine() {
  const format = ['png-sequence', 'quicktime-animation', 'quicktime-prores-4444', 'apng', 'webp-animated'][random(5)]
  const folder = path.join(home, 'cli')
  rmSync(folder, { recursive: true, force: true })
  mkdirSync(folder, { recursive: true })
  const to = path.join(folder, format === 'png-sequence' ? 'frames' : 'film.bin')
  const call = source => [
    'convert',
    source,
    '--format',
    format,
    '--rate',
    '24',
    '--to',
    to,
    '--set',
    'existing=replace'
  ]
  if ((await pour(call(path.join(home, 'a')))) !== 0) return fault(`${format}: a plain pour failed`)
  const before = sums(folder)
  const began = Date.now()
  cpSync(folder, `${folder} kept`, { recursive: true })
  if ((await pour(call(path.join(home, 'b')))) !== 0) return fault(`${format}: a second pour failed`)
  const took = Date.now() - began
  const after = sums(folder)
  rmSync(folder, { recursive: true, force: true })
  cpSync(`${folder} kept`, folder, { recursive: true })
  rmSync(`${folder} kept`, { recursive: true, force: true })
  for (let n = 0; n < 3; n++) {
    await pour(call(path.join(home, 'b')), random(took * 1.1))
    counts.kills++
    const now = visible(sums(folder))
    if (!same(now, before) && !same(now, after)) {
      const of = other => Object.keys(now).filter(name => now[name] === other[name]).length
      fault(`${format}: a kill left ${Object.keys(now).length} files, ${of(before)} former and ${of(after)} new`)
    }
  }
  if ((await pour(call(path.join(home, 'b')))) !== 0) fault(`${format}: no pour after a kill`)
  const clean = sums(folder)
  if (!same(clean, after)) fault(`${format}: files are left lying: ${Object.keys(clean).join(', ')}`)
  counts.pours += 3
}

const OUTLET = {
  ...{ id: 'o', name: 'Film', format: 'quicktime-animation', parts: 'colour-alpha', backing: '#000000', depth: 8 },
  ...{
    alpha: { mode: 'straight' },
    range: 'marked',
    namePattern: '{source}_{outlet}',
    framePattern: '{source}_{frame}'
  },
  ...{ digits: 4, startNumber: 1, existing: 'replace', sound: 'as-is', steps: [], options: {} }
}
const INBOX_JOB = {
  ...{ version: 1, id: 'j', name: 'Inbox', sources: {}, sourceOrder: [], outlets: { o: OUTLET }, outletOrder: ['o'] },
  ...{ preparations: [], receiver: null, waived: {} }
}

/** A folder that is watched by a process of its own, which goes on from turn to turn. */
class Inbox {
  arrived = []
  constructor(name) {
    this.place = path.join(home, name)
    this.out = path.join(home, `${name} out`)
    mkdirSync(this.place, { recursive: true })
  }
  begin() {
    const args = ['watch', this.place, '--job', path.join(home, 'inbox.pour'), '--to', this.out, '--settle', '0.3']
    this.process = spawn(process.execPath, [script, ...args], { stdio: 'ignore' })
  }
  async kill() {
    this.process.kill('SIGKILL')
    await new Promise(resolve => this.process.once('exit', resolve))
  }
  async end() {
    this.process.kill('SIGTERM')
    await new Promise(resolve => this.process.once('exit', resolve))
  }
  async put() {
    const name = `take ${this.arrived.length + 1}`
    const beside = path.join(home, `${name} comes`)
    await clip(beside, name, 3 + random(6), 96, 54)
    renameSync(beside, path.join(this.place, name))
    this.arrived.push(name)
    counts.arrivals++
  }
  /** Waits until nothing is left to take, then looks what became of all that ever came. */
  async settled() {
    const waits = () => readdirSync(this.place).some(name => name.startsWith('take'))
    for (let n = 0; n < 600 && waits(); n++) await wait(100)
    if (waits()) return fault(`${path.basename(this.place)}: an arrival is not taken within a minute`)
    await wait(300)
    const done = readdirSync(path.join(this.place, 'done')).filter(name => !name.endsWith('.json'))
    if (done.length !== this.arrived.length)
      fault(`${path.basename(this.place)}: ${this.arrived.length} arrived, ${done.length} are done`)
    const out = readdirSync(this.out)
    if (out.length !== this.arrived.length || out.some(name => !name.endsWith('.mov')))
      fault(`${path.basename(this.place)}: ${this.arrived.length} arrived, poured are ${out.join(', ')}`)
  }
}

const [steady, shaken] = [new Inbox('steady'), new Inbox('shaken')]

/** Arrivals at both folders; the watcher of one is killed in the middle, and begun again. */
async function watching() {
  for (const inbox of [steady, shaken]) for (let n = 0; n < 3; n++) await inbox.put()
  for (let n = random(3); n > 0; n--) {
    await wait(random(1500))
    await shaken.kill()
    counts.watcherKills++
    shaken.begin()
  }
  for (const inbox of [steady, shaken]) await inbox.settled()
  memory.watcher.push(resident(steady.process.pid))
}

let service = null

async function startService() {
  service = spawn(process.execPath, [path.join(root, '.output/server/index.mjs')], {
    stdio: 'ignore',
    env: { ...process.env, PORT: String(port), HOST: 'localhost', NUXT_EMPTY: 'true', TMPDIR: scratch }
  })
  for (let n = 0; n < 100; n++) {
    if (
      await fetch(`http://localhost:${port}/api/formats`).then(
        a => a.ok,
        () => false
      )
    )
      return
    await wait(100)
  }
  throw new Error('the service does not start')
}

async function stopService() {
  service.kill('SIGKILL')
  await new Promise(resolve => service.once('exit', resolve))
}

const resident = pid => Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) / 1024

/** All processes of the browser together. */
function browserResident() {
  const ids = execFileSync('pgrep', ['-f', profile], { encoding: 'utf8' }).trim().split('\n')
  return ids.reduce((sum, id) => {
    try {
      return sum + resident(id)
    } catch {
      return sum
    }
  }, 0)
}

/** Files at the stations, good, cut and senseless; now and then the service is killed with one in hand. */
async function atService() {
  const good = readFileSync(path.join(home, 'a', readdirSync(path.join(home, 'a'))[0]))
  const asked = Array.from({ length: 6 }, (_, n) => {
    const body = n % 3 === 0 ? good : n % 3 === 1 ? good.subarray(0, random(good.length)) : Buffer.alloc(2000, n)
    return fetch(`http://localhost:${port}/api/stations/engine-straight`, { method: 'POST', body }).then(
      async answer => ({ status: answer.status, text: (await answer.text()).slice(0, 100) }),
      () => null
    )
  })
  if (Math.random() < 0.3) {
    await wait(random(200))
    await stopService()
    counts.serviceKills++
    await Promise.all(asked)
    await startService()
    await wait(300)
    const left = readdirSync(scratch).filter(name => name.startsWith('pour-upload-'))
    if (left.length) fault(`uploads of a killed service are left: ${left.join(', ')}`)
    return
  }
  for (const answer of await Promise.all(asked))
    if (!answer || ![200, 400, 422, 503].includes(answer.status)) fault(`a station answered ${JSON.stringify(answer)}`)
  counts.uploads += asked.length
  memory.service.push(resident(service.pid))
}

const profile = path.join(home, 'profile')
/** Names of sources that must be on the board, and one that may or may not be. */
const expected = new Set()
let maybe = null

async function browser() {
  const context = await chromium.launchPersistentContext(profile, {
    timeout: 180_000,
    executablePath: '/usr/bin/chromium',
    viewport: { width: 1280, height: 800 },
    args: [
      '--no-sandbox',
      '--disable-gpu',
      '--disable-quic',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync'
    ]
  })
  const kill = () => {
    counts.browserKills++
    try {
      execFileSync('pkill', ['-9', '-f', profile])
    } catch {
      // it was gone already
    }
  }
  let killed = false
  try {
    const page = context.pages()[0] ?? (await context.newPage())
    page.on('pageerror', error => !killed && fault(`the page failed: ${error.message}`))
    await page.goto(`http://localhost:${port}/`)
    await page.getByText('kept in this browser').waitFor({ timeout: 30_000 })
    await wait(1500)
    const told = (await page.getByRole('alert').count()) ? await page.getByRole('alert').first().innerText() : ''
    if (/is no longer here/.test(told)) {
      // a browser that finds its own store damaged, as a kill may leave it, throws it away: all a page can do is say so
      counts.storesThrownAway++
      console.log('  the browser threw its store away, and the page said so')
      expected.clear()
      await page.getByRole('alert').getByRole('button').last().click()
    } else if (told) fault(`a notice: ${told}`)
    const rows = (await page.getByRole('rowheader').allInnerTexts()).map(text => text.split('\n')[0].trim())
    for (const name of expected) if (!rows.includes(name)) fault(`source ${name} is lost`)
    for (const name of rows)
      if (!expected.has(name)) {
        if (name !== maybe) fault(`source ${name} is there again`)
        else expected.add(name)
      }
    maybe = null
    const bad = await page
      .locator('[data-cell]')
      .filter({ hasText: /Broken|gone|Failed/ })
      .allInnerTexts()
    if (bad.length) fault(`cells are ${bad.join('; ').replace(/\n/g, ' ')}`)
    memory.page.push(await page.evaluate(() => performance.memory.usedJSHeapSize / 2 ** 20))

    if (expected.size < 4) {
      const name = `take ${Date.now() % 100000}`
      const folder = path.join(home, name)
      await clip(folder, name, 4 + random(10), 160, 90)
      const files = readdirSync(folder).map(file => ({
        file,
        data: readFileSync(path.join(folder, file)).toString('base64')
      }))
      rmSync(folder, { recursive: true })
      maybe = name
      if (Math.random() < 0.25) setTimeout(() => ((killed = true), kill()), random(1500))
      await page.evaluate(list => {
        const data = new DataTransfer()
        for (const { file, data: text } of list)
          data.items.add(new File([Uint8Array.from(atob(text), c => c.charCodeAt(0))], file, { type: 'image/png' }))
        for (const type of ['dragenter', 'drop'])
          document
            .querySelector('main')
            .dispatchEvent(new DragEvent(type, { bubbles: true, cancelable: true, dataTransfer: data }))
      }, files)
      await page.getByRole('rowheader').filter({ hasText: name }).waitFor({ timeout: 30_000 })
      if (killed) return
      // an edit is on disk within a moment of being seen
      await wait(100)
      expected.add(name)
      maybe = null
      counts.brought++
    }
    await page.keyboard.press('p')
    if (Math.random() < 0.4) {
      await wait(random(4000))
      killed = true
      kill()
      return
    }
    await page.waitForFunction(
      () =>
        ![...document.querySelectorAll('[data-cell]')].some(cell => /Pouring|Proving|Waiting/.test(cell.textContent)),
      null,
      { timeout: 180_000 }
    )
    memory.browser.push(browserResident())
    counts.proven += await page
      .locator('[data-cell]')
      .filter({ hasText: /Identical|Faithful/ })
      .count()
    if (expected.size > 2 || Math.random() < 0.3) {
      const [name] = expected
      await page.getByRole('rowheader').filter({ hasText: name }).locator('button').first().click()
      await page.getByRole('button', { name: /Remove source/ }).click()
      await page.getByRole('rowheader').filter({ hasText: name }).waitFor({ state: 'detached' })
      await wait(100)
      expected.delete(name)
      counts.removed++
    }
  } catch (error) {
    if (!killed) fault(`the browser's turn: ${String(error.message).split('\n')[0]}`)
  } finally {
    await context.close().catch(() => undefined)
  }
}

/** What is left in the browser's store once every source is removed and the page loaded anew. */
async function leftInStore() {
  const context = await chromium.launchPersistentContext(profile, {
    executablePath: '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu']
  })
  try {
    const page = context.pages()[0] ?? (await context.newPage())
    await page.goto(`http://localhost:${port}/`)
    await page.getByText('kept in this browser').waitFor()
    for (let n = await page.getByRole('rowheader').count(); n > 0; n--) {
      await page.getByRole('rowheader').first().locator('button').first().click()
      await page.getByRole('button', { name: /Remove source/ }).click()
      await wait(400)
    }
    await page.reload()
    await page.getByText('kept in this browser').waitFor()
    await wait(1500)
    return await page.evaluate(
      () =>
        new Promise(resolve => {
          const opening = indexedDB.open('pour')
          opening.onsuccess = () => {
            const names = ['files', 'sources', 'results', 'parts', 'runs', 'pages', 'aside']
            const reading = opening.result.transaction(names)
            const found = {}
            for (const name of names)
              reading.objectStore(name).count().onsuccess = event => (found[name] = event.target.result)
            reading.oncomplete = () => resolve(found)
          }
        })
    )
  } finally {
    await context.close()
  }
}

try {
  await clip(path.join(home, 'a'), 'first take', 12, 320, 180)
  await clip(path.join(home, 'b'), 'second take', 12, 320, 180)
  await startService()
  const packed = zipSync({
    'job.json': strToU8(JSON.stringify({ pour: 'job', version: 1, job: INBOX_JOB, media: {} }))
  })
  writeFileSync(path.join(home, 'inbox.pour'), packed)
  for (const inbox of [steady, shaken]) inbox.begin()
  for (let turn = 1; Date.now() < until; turn++) {
    await commandLine()
    await watching()
    for (let n = 0; n < 3; n++) await atService()
    for (let n = 0; n < 2; n++) await browser()
    const left = Math.max(0, Math.round((until - Date.now()) / 60_000))
    console.log(`turn ${turn}: ${JSON.stringify(counts)}; ${faults.length} faults; ${left} min left`)
  }
  const left = await leftInStore()
  for (const [table, count] of Object.entries(left)) if (count) fault(`${count} rows are left in ${table}`)
  const flat = (name, list, allowed) => {
    const third = Math.max(1, Math.floor(list.length / 3))
    const mean = part => part.reduce((a, b) => a + b, 0) / part.length
    const [first, last] = [mean(list.slice(0, third)), mean(list.slice(-third))]
    console.log(`${name}: ${first.toFixed(0)} MB in the first third, ${last.toFixed(0)} MB in the last`)
    if (last > first + allowed) fault(`${name} grew by ${(last - first).toFixed(0)} MB`)
  }
  if (memory.service.length > 2) flat('service', memory.service, 60)
  if (memory.page.length > 2) flat('page', memory.page, 30)
  if (memory.browser.length > 2) flat('browser', memory.browser, 150)
  if (memory.watcher.length > 2) flat('watcher', memory.watcher, 60)
} finally {
  for (const inbox of [steady, shaken]) if (inbox.process) await inbox.end()
  await stopService().catch(() => undefined)
  rmSync(home, { recursive: true, force: true })
}
console.log(`${minutes} minutes: ${JSON.stringify(counts)}; ${faults.length} faults`)
for (const text of faults) console.log(`- ${text}`)
process.exit(faults.length ? 1 : 0)
