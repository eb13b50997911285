/** What end-to-end tests share: pictures made by the core, ways to drop them, and the state of cells. */
import path from 'node:path'
import { expect, type Download, type Locator, type Page } from '@playwright/test'
import { readFile } from 'node:fs/promises'
import { encodePng } from '../../core/media/pictures/png/encode'
import type { Frame } from '../../core/frame/frame'
import { formatById } from '../../core/open/registry'
import { newOutlet, type Outlet } from '../../core/job/outlet/outlet'
import { nodeHost } from '../../platform/node/host'
import { noise } from '../unit/support'

const host = nodeHost(path.resolve(import.meta.dirname, '../../core/frame/kernels/build/kernels.wasm'))

export interface Dropped {
  name: string
  bytes: Uint8Array
}

export async function png(name: string, frame: Frame): Promise<Dropped> {
  return { name, bytes: await encodePng(await host, frame) }
}

export function picture(seed: number, width = 48, height = 32, depth: 8 | 16 = 8): Frame {
  return noise({ width, height, depth, seed, runs: 0.8 })
}

/** A numbered sequence; `leaveOut` are missing numbers. */
export async function sequence(
  name: string,
  count: number,
  { leaveOut = [] as number[], width = 48, height = 32, depth = 8 as 8 | 16 } = {}
): Promise<Dropped[]> {
  const numbers = Array.from({ length: count }, (_, i) => i + 1).filter(n => !leaveOut.includes(n))
  return Promise.all(
    numbers.map(n => png(`${name}_${String(n).padStart(4, '0')}.png`, picture(n, width, height, depth)))
  )
}

/** Drops files on the page as a person would. */
export async function drop(page: Page, files: readonly Dropped[]): Promise<void> {
  const sent = files.map(({ name, bytes }) => ({ name, data: Buffer.from(bytes).toString('base64') }))
  const transfer = await page.evaluateHandle(given => {
    const data = new DataTransfer()
    for (const { name, data: text } of given)
      data.items.add(new File([Uint8Array.from(atob(text), c => c.charCodeAt(0))], name))
    return data
  }, sent)
  await page.dispatchEvent('main', 'dragenter', { dataTransfer: transfer })
  await page.dispatchEvent('main', 'drop', { dataTransfer: transfer })
}

/** Answers the question for a rate. */
export async function giveRate(page: Page, rate: string): Promise<void> {
  await page.getByLabel('Frames per second').fill(rate)
  await page.getByRole('button', { name: 'Take this rate' }).click()
  await expect(page.getByRole('dialog')).toBeHidden()
}

export function cell(page: Page, row: number, column: number): Locator {
  return page.locator('[role=row][aria-owns]').nth(row).locator('[data-cell]').nth(column)
}

export async function bytesOf(download: Download): Promise<Uint8Array> {
  return new Uint8Array(await readFile(await download.path()))
}

/** Everything the page complained about; a test ends by expecting none of it. */
export function complaints(page: Page): string[] {
  const found: string[] = []
  page.on('pageerror', error => found.push(error.message))
  page.on('console', message => {
    if (message.type() === 'error') found.push(message.text())
  })
  return found
}

/**
 * Takes the browser's own picker away, which tests cannot answer; the page then falls back to an input, which they can.
 */
export async function withoutPicker(page: Page): Promise<void> {
  await page.addInitScript(() => {
    Reflect.deleteProperty(window, 'showOpenFilePicker')
  })
}

/** Three outlets that lose nothing and run fast: what most tests pour through. */
const PLAIN: readonly Outlet[] = [
  newOutlet('plain-film', formatById('quicktime-animation'), 'Editor hand-over'),
  newOutlet('plain-frames', formatById('png-sequence'), 'Compositing frames'),
  { ...newOutlet('plain-page', formatById('apng'), 'Web page'), depth: 8 }
]

/** Waits for the empty board, and gives its job these outlets in place of those it begins with. */
export async function beginPlain(page: Page): Promise<void> {
  // its own outlets are stored by then
  await expect(page.getByText('0 sources · 4 outlets')).toBeVisible()
  await expect(page.getByText('Bring in an animation with transparency')).toBeVisible()
  await page.evaluate(
    outlets =>
      new Promise<void>((resolve, reject) => {
        const opening = indexedDB.open('pour')
        opening.onerror = () => reject(opening.error)
        opening.onsuccess = () => {
          const writing = opening.result.transaction('jobs', 'readwrite')
          const rows = writing.objectStore('jobs').openCursor()
          rows.onsuccess = () => {
            const at = rows.result
            if (!at) return
            const row = at.value as { job: { outlets: unknown; outletOrder: string[] } }
            row.job.outlets = Object.fromEntries(outlets.map(outlet => [outlet.id, outlet]))
            row.job.outletOrder = outlets.map(outlet => outlet.id)
            at.update(row)
            at.continue()
          }
          writing.onerror = () => reject(writing.error)
          writing.oncomplete = () => {
            opening.result.close()
            resolve()
          }
        }
      }),
    PLAIN
  )
  await page.reload()
  await expect(page.getByText('0 sources · 3 outlets')).toBeVisible()
}

/** A name strap in a small size, by the form of its starter. */
export async function makeStrap(page: Page, name: string, seconds = 1.2, starter?: string): Promise<void> {
  await page.goto('/')
  await beginPlain(page)
  await page.getByRole('link', { name: 'Scenes' }).click()
  if (starter) await page.getByRole('button', { name: starter }).click()
  await page.getByLabel('Name', { exact: true }).fill(name)
  await page.getByLabel('Size').selectOption({ label: '640 × 360' })
  await page.getByLabel('Seconds').fill(String(seconds))
  await page.getByRole('button', { name: 'Make this scene' }).click()
  await expect(page.getByRole('combobox', { name: 'Scene' })).toBeVisible()
}

/** Names of all sources of the stored job, in their order; the board draws only the rows in sight. */
export async function sourceNames(page: Page): Promise<string[]> {
  return page.evaluate(
    () =>
      new Promise<string[]>((resolve, reject) => {
        const opening = indexedDB.open('pour')
        opening.onerror = () => reject(opening.error)
        opening.onsuccess = () => {
          const reading = opening.result.transaction('jobs').objectStore('jobs').getAll()
          reading.onsuccess = () => {
            const [{ job }] = reading.result as [
              { job: { sourceOrder: string[]; sources: Record<string, { name: string }> } }
            ]
            opening.result.close()
            resolve(job.sourceOrder.map(id => job.sources[id]!.name))
          }
          reading.onerror = () => reject(reading.error)
        }
      })
  )
}

/** Adds an outlet of a format by its name. */
export async function addOutlet(page: Page, name: string): Promise<void> {
  const outlets = page.getByRole('navigation', { name: 'Outlets' }).getByRole('button')
  await page.getByRole('button', { name: 'Add outlet…' }).click()
  await page.getByLabel('Find a format').fill(name)
  const list = page.getByRole('dialog', { name: 'Formats of a new outlet' })
  await expect(outlets.first()).toBeVisible()
  const stood = await outlets.count()
  await list
    .getByRole('button')
    .filter({ has: page.getByText(name, { exact: true }) })
    .click()
  // the form is the new outlet's only once it is kept: what is typed before would go to the one that was open
  await expect(outlets).toHaveCount(stood + 1)
  await expect(outlets.last()).toHaveAttribute('aria-current', 'true')
}

/** The rows of a table of the page's store. */
export const storedRows = <T>(page: Page, table: string): Promise<T[]> =>
  page.evaluate(
    name =>
      new Promise<T[]>((resolve, reject) => {
        const opening = indexedDB.open('pour')
        opening.onerror = () => reject(opening.error!)
        opening.onsuccess = () => {
          const all = opening.result.transaction(name).objectStore(name).getAll() as IDBRequest<T[]>
          all.onsuccess = () => resolve(all.result)
          all.onerror = () => reject(all.error!)
        }
      }),
    table
  )
