/**
 * What stores need of a page, without one: a store of its own, locks, local storage, a window that hears events, and
 * folders that live in memory. Import it before anything of the application.
 */
import 'fake-indexeddb/auto'
import { createPinia, setActivePinia } from 'pinia'
import { inlinePool } from '../../../platform/node/pool'
import type { Pool } from '../../../core/base/pool'
import type { Tasks } from '../../../core/tasks/tasks'
import { testHost } from '../support'

class Storage {
  private readonly kept = new Map<string, string>()
  getItem(key: string): string | null {
    return this.kept.get(key) ?? null
  }
  setItem(key: string, value: string): void {
    this.kept.set(key, value)
  }
  removeItem(key: string): void {
    this.kept.delete(key)
  }
  clear(): void {
    this.kept.clear()
  }
}
const localStorage = new Storage()

/** Locks that are held until what they were given for ends. */
const held = new Set<string>()
const locks = {
  async request(name: string, ...rest: unknown[]): Promise<unknown> {
    const work = rest.at(-1) as (lock: object | null) => unknown
    const { ifAvailable = false } = rest.length > 1 ? (rest[0] as { ifAvailable?: boolean }) : {}
    if (ifAvailable && held.has(name)) return work(null)
    held.add(name)
    try {
      return await work({ name })
    } finally {
      held.delete(name)
    }
  },
  query: async () => ({ held: [...held].map(name => ({ name })) })
}

const classes = new Set<string>()
class StorageEvent extends Event {}
const page = {
  Storage,
  StorageEvent,
  localStorage,
  window: Object.assign(new EventTarget(), { localStorage }),
  document: {
    documentElement: {
      classList: { toggle: (name: string, on: boolean) => void (on ? classes.add(name) : classes.delete(name)) }
    }
  },
  navigator: {
    locks,
    storage: {
      estimate: async () => ({ usage: 0, quota: room.bytes }),
      persisted: async () => true,
      persist: async () => true
    }
  }
}
for (const [name, value] of Object.entries(page))
  Object.defineProperty(globalThis, name, { value, configurable: true, writable: true })

/** Bytes that the browser has room for; a test may make it small. */
export const room = { bytes: 1 << 30 }
/** The build that looks. */
export const build = { id: 'one' }
export const shownClasses: ReadonlySet<string> = classes
export { localStorage, held as locksHeld }

const inThread = testHost().then(host => inlinePool(host))
/** Tasks that were run since the last visit, by name; and what stands in their way, where a test wants it. */
export const asked: string[] = []
export const pool: Pool<Tasks> = {
  size: 2,
  load: 0,
  run(name, given, options) {
    asked.push(name)
    return inThread.then(inner => inner.run(name, given, options))
  },
  close: () => Promise.resolve()
}

/** A browser that was never here. */
export async function forget(): Promise<void> {
  const { database } = await import('~/db/database')
  await Promise.all(database.tables.map(table => table.clear()))
  localStorage.clear()
  build.id = 'one'
  room.bytes = 1 << 30
}

/** Begins a visit: stores are new, what the browser kept is not. */
export function visit(): void {
  asked.length = 0
  held.clear()
  setActivePinia(createPinia())
}

/** A folder in memory, as a page is given one. */
export class MemoryFolder {
  readonly kind = 'directory'
  readonly entries = new Map<string, MemoryFolder | MemoryFile>()
  constructor(readonly name: string) {}
  async getFileHandle(name: string, { create = false } = {}): Promise<MemoryFile> {
    const found = this.entries.get(name)
    if (found instanceof MemoryFile) return found
    if (found) throw new DOMException('is a folder', 'TypeMismatchError')
    if (!create) throw new DOMException(`${name} is not there`, 'NotFoundError')
    const made = new MemoryFile(name)
    this.entries.set(name, made)
    return made
  }
  async getDirectoryHandle(name: string, { create = false } = {}): Promise<MemoryFolder> {
    const found = this.entries.get(name)
    if (found instanceof MemoryFolder) return found
    if (found) throw new DOMException('is a file', 'TypeMismatchError')
    if (!create) throw new DOMException(`${name} is not there`, 'NotFoundError')
    const made = new MemoryFolder(name)
    this.entries.set(name, made)
    return made
  }
  async removeEntry(name: string): Promise<void> {
    if (!this.entries.delete(name)) throw new DOMException(`${name} is not there`, 'NotFoundError')
  }
  async *values(): AsyncGenerator<MemoryFolder | MemoryFile> {
    yield* [...this.entries.values()]
  }
  async *keys(): AsyncGenerator<string> {
    yield* [...this.entries.keys()]
  }
  /** All files within, by path. */
  list(within = ''): string[] {
    return [...this.entries.values()]
      .flatMap(each => (each instanceof MemoryFolder ? each.list(`${within}${each.name}/`) : [`${within}${each.name}`]))
      .sort()
  }
  put(name: string, bytes: Uint8Array): void {
    const file = new MemoryFile(name)
    file.bytes = new File([new Uint8Array(bytes)], name, { lastModified: 1 })
    this.entries.set(name, file)
  }
}

export class MemoryFile {
  readonly kind = 'file'
  bytes: File
  constructor(readonly name: string) {
    this.bytes = new File([], name, { lastModified: 1 })
  }
  async getFile(): Promise<File> {
    return this.bytes
  }
  async createWritable(): Promise<WritableStream & { write(data: BlobPart): Promise<void> }> {
    const parts: BlobPart[] = []
    const end = (): void => void (this.bytes = new File(parts, this.name, { lastModified: 2 }))
    const stream = new WritableStream<BlobPart>({ write: part => void parts.push(part), close: end })
    return Object.assign(stream, {
      write: async (data: BlobPart) => void parts.push(data),
      close: async () => end(),
      abort: async () => undefined
    })
  }
}

export const asHandle = (folder: MemoryFolder): FileSystemDirectoryHandle =>
  folder as unknown as FileSystemDirectoryHandle
