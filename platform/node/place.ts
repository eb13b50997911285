/**
 * Putting results where they belong, whole or not at all. Everything is written beside its place, under a name of its
 * own run, and takes its place only when all of it is there; a run that fails, is stopped or is killed leaves what
 * stood before exactly as it was. What a killed run left lying is cleared away by the next one that writes there. One
 * moment is not covered: pictures of a folder take their places one after the other, within milliseconds, and a machine
 * that dies between two of them leaves some of each, until the next run that writes there puts the former back.
 */
import { randomBytes } from 'node:crypto'
import { renameSync } from 'node:fs'
import {
  link,
  lstat,
  mkdir,
  open,
  readdir,
  readFile,
  rename,
  rm,
  stat,
  writeFile,
  type FileHandle
} from 'node:fs/promises'
import path from 'node:path'
import { impossible } from '../../core/base/errors'
import type { ByteSink, FilesSink } from '../../core/base/files/sinks'
import { isAlive } from './alive'
import { onDisk } from './disk-error'

/** What may happen to what stands at a place. */
export interface PlacePolicy {
  /** Without it, a place that is taken by the time all is written is left alone, and the run fails. */
  replace: boolean
  /** In a folder, files that go when others are put there: pictures of a former sequence that has other numbers. */
  former?: (name: string) => boolean
  /**
   * Handed what waits, where files are not to take their places when they are closed, but when somebody who has looked
   * at them says so.
   */
  hold?: (waiting: Waiting) => void
}

/** Files that are written whole, and wait beside their places. */
export interface Waiting {
  /** Where the file for a place waits; for folders, the place of one of its files. */
  where(location: string): string
  /** Puts all of them in their places; they stand there as they would without having waited. */
  settle(): Promise<void>
  /** Takes them away; what stood at their places stays. */
  drop(): Promise<void>
}

/** "name.pour-PID-RANDOM": the process tells the next run whether this one is still at work. */
const MARK = /\.pour-(\d+)-[0-9a-f]{8}(?:\.old)?$/
/** The list of a commit under way, within a folder's own room. */
const JOURNAL = 'commit.json'
/** Milliseconds between looks at a lock, and after which one that names nobody counts for nothing. */
const WAIT = 40
const STALE = 2000

const markOf = (): string => `.pour-${process.pid}-${randomBytes(4).toString('hex')}`

/** A name with room for the mark behind it within the 255 bytes that a name may have. */
const short = (name: string): string =>
  Buffer.from(name)
    .subarray(0, 200)
    .toString()
    .replace(/\ufffd+$/, '')

/** What runs that are no more left beside or within a place: files and folders with their mark. */
async function leftBehind(folder: string, name: string): Promise<string[]> {
  const entries = await readdir(folder).catch(() => [])
  return entries.filter(entry => {
    const pid = entry.startsWith(name) ? MARK.exec(entry.slice(name.length))?.[1] : undefined
    return pid !== undefined && Number(pid) !== process.pid && !isAlive(Number(pid))
  })
}

async function writeFully(handle: FileHandle, bytes: Uint8Array, at: number): Promise<void> {
  // a disk that fills up takes a part and says so only by the count
  for (let done = 0; done < bytes.length;) {
    const { bytesWritten } = await handle.write(bytes, done, bytes.length - done, at + done)
    if (bytesWritten === 0) throw Object.assign(new Error('nothing was written'), { code: 'ENOSPC' })
    done += bytesWritten
  }
}

interface Part {
  location: string
  part: string
  handle: FileHandle | null
  length: number
  ready: boolean
}

/** Gives a finished file its name; fails where the name is taken and may not be replaced. */
async function settle(part: string, location: string, { replace }: PlacePolicy): Promise<void> {
  if (replace) return rename(part, location)
  try {
    // a link, unlike a renaming, fails where something stands: two runs cannot both believe that they were first
    await link(part, location)
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException
    if (code === 'EEXIST') throw impossible(`${location} is there already`)
    // some disks have no links
    if (!['EPERM', 'ENOTSUP', 'EOPNOTSUPP', 'ENOSYS', 'EXDEV', 'EMLINK'].includes(code ?? '')) throw error
    const taken = await open(location, 'wx').catch((inner: unknown) => {
      throw (inner as NodeJS.ErrnoException).code === 'EEXIST' ? impossible(`${location} is there already`) : inner
    })
    await taken.close()
    return rename(part, location)
  }
  await rm(part)
}

/**
 * All parts take their places together; when one cannot, those that have are taken back and what stood there returns.
 */
async function settleAll(parts: readonly Part[], placing: PlacePolicy): Promise<void> {
  if (parts.length === 1) return settle(parts[0]!.part, parts[0]!.location, placing)
  const moved: { location: string; old: string }[] = []
  const settled: string[] = []
  try {
    for (const { location, part } of parts) {
      const old = `${part}.old`
      const there = await lstat(location).catch(() => null)
      if (there?.isDirectory()) throw impossible(`${location} is a folder`)
      if (placing.replace)
        await rename(location, old).then(
          () => moved.push({ location, old }),
          (error: NodeJS.ErrnoException) => {
            if (error.code !== 'ENOENT') throw error
          }
        )
      await settle(part, location, placing)
      settled.push(location)
    }
  } catch (error) {
    for (const location of settled) await rm(location, { force: true })
    for (const { location, old } of moved) await rename(old, location)
    throw error
  }
  for (const { old } of moved) await rm(old, { force: true })
}

/**
 * Sinks for files that belong together, a film or a fill and its key. The last to be closed puts all of them in their
 * places; aborting any of them removes them all. Rejects with an error that names the place when the disk refuses.
 */
export async function fileSinks(given: readonly string[], placing: PlacePolicy): Promise<ByteSink[]> {
  const locations = given.map(location => path.resolve(location))
  const parts: Part[] = []
  let over = false

  async function giveUp(): Promise<void> {
    over = true
    for (const each of parts) {
      await each.handle?.close().catch(() => undefined)
      each.handle = null
      await rm(each.part, { force: true })
    }
  }

  try {
    for (const location of locations)
      await onDisk(location, async () => {
        const folder = path.dirname(location)
        await mkdir(folder, { recursive: true })
        const there = await lstat(location).catch((error: NodeJS.ErrnoException) => {
          if (error.code !== 'ENOENT') throw error
          return null
        })
        if (there?.isDirectory()) throw impossible(`${location} is a folder`)
        if (there && !there.isFile() && !there.isSymbolicLink()) throw impossible(`${location} is not a file`)
        const name = short(path.basename(location))
        for (const entry of await leftBehind(folder, name)) {
          const at = path.join(folder, entry)
          // what a killed run had moved aside goes back, unless its successor stands already
          if (entry.endsWith('.old')) await link(at, location).catch(() => undefined)
          await rm(at, { force: true })
        }
        const part = path.join(folder, name + markOf())
        parts.push({ location, part, handle: await open(part, 'wx'), length: 0, ready: false })
      })
  } catch (error) {
    await giveUp()
    throw error
  }

  const settled = async (): Promise<void> => {
    await settleAll(parts, placing)
    over = true
  }
  placing.hold?.({
    where: location => parts.find(each => each.location === path.resolve(location))!.part,
    settle: () => onDisk(locations[0]!, settled),
    drop: () => (over ? Promise.resolve() : giveUp())
  })
  return parts.map(mine => ({
    append: bytes =>
      onDisk(mine.location, async () => {
        await writeFully(mine.handle!, bytes, mine.length)
        mine.length += bytes.length
      }),
    patch: (at, bytes) => onDisk(mine.location, () => writeFully(mine.handle!, bytes, at)),
    close: () =>
      onDisk(mine.location, async () => {
        const { handle } = mine
        if (!handle || over) return
        const { size } = await handle.stat()
        if (size !== mine.length)
          throw impossible(`${mine.location} has ${size} bytes on disk instead of ${mine.length}`)
        await handle.sync()
        mine.handle = null
        await handle.close()
        mine.ready = true
        if (!placing.hold && parts.every(each => each.ready)) await settled()
      }),
    abort: () => (over ? Promise.resolve() : giveUp())
  }))
}

/** Writes one file; see `fileSinks`. */
export async function fileSink(location: string, placing: PlacePolicy = { replace: true }): Promise<ByteSink> {
  const [sink] = await fileSinks([location], placing)
  return sink!
}

/** Takes away what runs that are no more left in a folder, after putting back what they had moved. */
async function clearUp(folder: string): Promise<void> {
  for (const entry of await leftBehind(folder, '')) {
    const left = path.join(folder, entry)
    await rollBack(folder, left)
    await rm(left, { recursive: true, force: true })
  }
}

/** The names that a commit under way concerns; null where none had begun: nothing is moved before the list is whole. */
async function journalIn(room: string): Promise<{ names: string[]; fresh: string[] } | null> {
  try {
    return JSON.parse(await readFile(path.join(room, JOURNAL), 'utf8')) as { names: string[]; fresh: string[] }
  } catch (error) {
    // not there, or cut short by the kill that left it
    if ((error as NodeJS.ErrnoException).code === 'ENOENT' || error instanceof SyntaxError) return null
    throw error
  }
}

/** Puts back what a commit that was cut off had moved away. */
async function rollBack(folder: string, room: string): Promise<void> {
  const journal = await journalIn(room)
  if (!journal) return
  const { names, fresh } = journal
  for (const name of fresh) {
    const waits = await open(path.join(room, 'new', name), 'r').catch(() => null)
    // what is not waiting any more has been put in its place by the run that was cut off
    if (waits) await waits.close()
    else await rm(path.join(folder, name), { force: true })
  }
  for (const name of names) await rename(path.join(room, 'old', name), path.join(folder, name)).catch(() => undefined)
}

/**
 * Writes files into a folder, made if need be. They wait in a room of their own within it and take their places
 * together when the sink is closed: until then, and when it is aborted, the folder holds what it held before. Rejects,
 * changing nothing, when one of them is there already and `replace` is not asked.
 */
export async function folderSink(given: string, placing: PlacePolicy): Promise<FilesSink> {
  const folder = path.resolve(given)
  const names: string[] = []
  const mark = markOf()
  const room = path.join(folder, mark)
  const [waiting, aside] = [path.join(room, 'new'), path.join(room, 'old')]
  let made: string | undefined
  let over = false
  await onDisk(folder, async () => {
    made = await mkdir(folder, { recursive: true })
    // alone: of two runs that find the same remains, the second would take what the first put back for what was to be
    // removed
    if ((await leftBehind(folder, '')).length) await alone(folder, () => clearUp(folder))
    // one by one: a refusal of the disk is then told as such
    await mkdir(room)
    await mkdir(waiting)
  })

  async function giveUp(): Promise<void> {
    over = true
    await rm(room, { recursive: true, force: true })
    // a folder that was made for this goes with it, unless somebody has put something in meanwhile
    if (made) await removeEmpty(folder)
  }

  async function commit(): Promise<void> {
    const held: string[] = []
    for (const name of names) {
      const there = await open(path.join(folder, name), 'r').catch((error: NodeJS.ErrnoException) => {
        if (error.code === 'ENOENT') return null
        throw error
      })
      if (!there) continue
      const folderLike = (await there.stat()).isDirectory()
      await there.close()
      if (folderLike) throw impossible(`${path.join(folder, name)} is a folder`)
      if (!placing.replace) throw impossible(`${path.join(folder, name)} is there already`)
      held.push(name)
    }
    const fresh = new Set(names)
    const { former } = placing
    if (placing.replace && former)
      for (const entry of await readdir(folder, { withFileTypes: true }))
        if (!fresh.has(entry.name) && entry.isFile() && former(entry.name)) held.push(entry.name)
    await mkdir(aside, { recursive: true })
    await writeFile(path.join(room, JOURNAL), JSON.stringify({ names: held, fresh: names }), { flush: true })
    for (const [into, list] of [
      [aside, held],
      [folder, names]
    ] as const)
      for (const within of new Set(list.map(name => path.dirname(name))))
        await mkdir(path.join(into, within), { recursive: true })
    try {
      // in one go: a process that is killed between two of these leaves a mixture until the next run puts it back
      for (const name of held) renameSync(path.join(folder, name), path.join(aside, name))
      for (const name of names) renameSync(path.join(waiting, name), path.join(folder, name))
    } catch (error) {
      await rollBack(folder, room)
      throw error
    }
    // without its journal a commit cannot be taken back: from here on the new pictures stand
    await rm(path.join(room, JOURNAL))
    await rm(room, { recursive: true, force: true })
  }

  const settled = async (): Promise<void> => {
    await alone(folder, commit)
    over = true
  }
  placing.hold?.({
    where: location => path.join(waiting, path.relative(folder, path.resolve(location))),
    settle: () => onDisk(folder, settled),
    drop: () => (over ? Promise.resolve() : giveUp())
  })

  return {
    add: (name, bytes) =>
      onDisk(path.join(folder, name), async () => {
        const at = path.join(waiting, name)
        await mkdir(path.dirname(at), { recursive: true })
        const handle = await open(at, 'wx')
        try {
          await writeFully(handle, bytes, 0)
        } finally {
          await handle.close()
        }
        names.push(name)
      }),
    close: () => (placing.hold ? Promise.resolve() : onDisk(folder, settled)),
    abort: () => (over ? Promise.resolve() : giveUp())
  }
}

/** Runs `work` while no other run puts anything in its place in this folder: two at once would leave a mixture. */
async function alone(folder: string, work: () => Promise<void>): Promise<void> {
  const lock = path.join(folder, '.pour-commit')
  for (;;) {
    const held = await open(lock, 'wx').catch((error: NodeJS.ErrnoException) => {
      if (error.code !== 'EEXIST') throw error
      return null
    })
    if (held) {
      await held.writeFile(String(process.pid))
      await held.close()
      break
    }
    const pid = Number(await readFile(lock, 'utf8').catch(() => ''))
    // a lock without a number is being written, or was left so by a run that was killed in that moment
    if (pid > 0 ? !isAlive(pid) : Date.now() - (await ageOf(lock)) > STALE) await rm(lock, { force: true })
    else await new Promise(resolve => setTimeout(resolve, WAIT))
  }
  try {
    await work()
  } finally {
    await rm(lock, { force: true })
  }
}

const ageOf = (at: string): Promise<number> =>
  stat(at).then(
    ({ mtimeMs }) => mtimeMs,
    () => Date.now()
  )

/** Removes a folder that is empty. */
async function removeEmpty(folder: string): Promise<void> {
  if ((await readdir(folder).catch(() => ['?'])).length === 0)
    await rm(folder, { recursive: true, force: true }).catch(() => undefined)
}
