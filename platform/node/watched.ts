/** A folder of this machine as the watching engine sees it, and the lock that keeps a second watcher away. */
import { link, mkdir, open, readdir, readFile, rename, rm, stat, utimes, writeFile } from 'node:fs/promises'
import { hostname } from 'node:os'
import path from 'node:path'
import { isArrival, isUnfinished } from '../../core/run/delivery/arrivals'
import type { FolderEntry, WatchedPlace } from '../../core/run/delivery/watch'
import { impossible, unreadable } from '../../core/base/errors'
import { isAlive } from './alive'
import { onDisk } from './disk-error'

const JOURNAL = '.pour-watch.json'
const LOCK = '.pour-watch.lock'
/** A lock that another machine has not touched for so long is one that it left behind, in milliseconds. */
const LEFT = 60_000

async function standing(folder: string, name: string): Promise<FolderEntry | null> {
  const place = path.join(folder, name)
  try {
    const found = await stat(place)
    const times = (each: typeof found): number => Math.max(each.mtimeMs, each.ctimeMs)
    if (!found.isDirectory())
      return {
        name,
        state: `${found.ino} ${found.size} ${found.mtimeMs} ${found.ctimeMs}`,
        changed: times(found),
        unfinished: isUnfinished(name)
      }
    let changed = times(found)
    const lines: string[] = []
    const within = (await readdir(place, { recursive: true })).sort()
    for (const each of within) {
      // a name that is no text cannot be asked for; the folder is taken all the same
      const file = await stat(path.join(place, each)).catch(() => null)
      if (file) changed = Math.max(changed, times(file))
      lines.push(file ? `${each} ${file.size} ${file.mtimeMs} ${file.ctimeMs}` : each)
    }
    const unfinished = within.some(each => isUnfinished(path.basename(each)))
    return { name, state: `${found.ino}\n${lines.join('\n')}`, changed, unfinished }
  } catch (error) {
    // it, or something in it, went while it was looked at: the next look tells
    if (['ENOENT', 'ENOTDIR'].includes((error as NodeJS.ErrnoException).code ?? '')) return null
    throw error
  }
}

/** Writes a text in one go: whoever reads it finds the former or the new, never half of one. */
async function writeWhole(place: string, text: string): Promise<void> {
  const part = `${place}.${process.pid}.part`
  await onDisk(place, async () => {
    await writeFile(part, text, { flush: true })
    await rename(part, place)
  })
}

/** A watched folder on a disk. */
export function watchedFolder(folder: string): WatchedPlace {
  return {
    async look() {
      const names = await readdir(folder).catch((error: unknown) => {
        throw unreadable(
          folder,
          null,
          `the folder cannot be read (${(error as NodeJS.ErrnoException).code ?? String(error)})`
        )
      })
      const found: FolderEntry[] = []
      // what was put aside is not gone through again and again
      for (const name of names.filter(isArrival).sort()) {
        const each = await standing(folder, name)
        if (each) found.push(each)
      }
      return found
    },
    standing: name => standing(folder, name),
    aside: into =>
      readdir(path.join(folder, into)).then(
        names => names.map(name => name.replace(/\.report\.json$/, '')),
        () => []
      ),
    async putAside(name, into, as, report) {
      const aside = path.join(folder, into)
      await mkdir(aside, { recursive: true })
      // one that is cut off here is written again, since the journal has it
      await writeFile(path.join(aside, `${as}.report.json`), report, { flush: true })
      await rename(path.join(folder, name), path.join(aside, as))
    },
    remove: name => rm(path.join(folder, name), { force: true }),
    journal: () => readFile(path.join(folder, JOURNAL), 'utf8').catch(() => null),
    keepJournal: text => writeWhole(path.join(folder, JOURNAL), text)
  }
}

/** Takes away what a watcher that was killed had not ended writing. */
async function sweep(folder: string): Promise<void> {
  for (const name of await readdir(folder)) {
    const pid = /^\.pour-watch\.(?:json|lock)\.(\d+)\.(?:part|stale)$/.exec(name)?.[1]
    if (pid && !isAlive(Number(pid))) await rm(path.join(folder, name), { force: true })
  }
}

/**
 * Does `work` while nobody else watches the folder. Rejects where another does: on this machine as long as its process
 * lives, on another one as long as it touches the lock.
 */
export async function aloneIn<T>(folder: string, work: () => Promise<T>): Promise<T> {
  const lock = path.join(folder, LOCK)
  const mine = `${hostname()} ${process.pid}`
  const [own, stale] = [`${lock}.${process.pid}.part`, `${lock}.${process.pid}.stale`]
  await sweep(folder)
  await writeFile(own, mine)
  try {
    // a link fails where something stands, and is never seen half written
    for (let tries = 0; ; tries++) {
      try {
        await link(own, lock)
        break
      } catch (error) {
        if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error
        const holder = await readFile(lock, 'utf8').catch(() => '')
        const { mtimeMs } = await stat(lock).catch(() => ({ mtimeMs: 0 }))
        const [machine, pid] = holder.split(' ')
        const lives =
          machine === hostname() ? Number(pid) !== process.pid && isAlive(Number(pid)) : Date.now() - mtimeMs < LEFT
        if (lives || tries > 5)
          throw impossible(`${folder} is watched already, by process ${pid ?? '?'} on ${machine || 'another machine'}`)
        // of two that find it stale one alone moves it away; a fresh one that was taken for it is put back
        await rename(lock, stale).catch(() => undefined)
        const moved = await readFile(stale, 'utf8').catch(() => holder)
        if (moved !== holder) await link(stale, lock).catch(() => undefined)
        await rm(stale, { force: true })
      }
    }
  } finally {
    await rm(own, { force: true })
  }
  const touch = setInterval(() => void utimes(lock, new Date(), new Date()).catch(() => undefined), LEFT / 4)
  touch.unref()
  try {
    return await work()
  } finally {
    clearInterval(touch)
    await rm(lock, { force: true })
  }
}

/** Makes a folder where there is none, and says whether it can be written to. */
export async function madeFolder(place: string): Promise<void> {
  await mkdir(place, { recursive: true })
  const probe = path.join(place, `.pour-${process.pid}-probe`)
  await (await open(probe, 'w')).close()
  await rm(probe, { force: true })
}
