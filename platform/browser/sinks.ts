/**
 * Sinks of a browser: parts handed on as they fill, so that nothing grows with the length; and folders the user chose.
 */
import { concatenate } from '../../core/base/files/bytes'
import { PATCHABLE, type ByteSink } from '../../core/base/files/sinks'

/** Bytes gathered before a part is handed on. */
const PART = 8 << 20

/** Keeps parts somewhere by number; `discard` forgets them all. */
export interface PartStore {
  keep(index: number, part: Blob): Promise<void>
  discard(): Promise<void>
}

/** A file as numbered parts. The first part, which may be patched, is handed on last. */
export function partSink(store: PartStore): ByteSink {
  let head = new Uint8Array(0)
  let held: Uint8Array[] = []
  let heldBytes = 0
  let next = 1
  async function flush(): Promise<void> {
    if (!heldBytes) return
    const part = new Blob(held as Uint8Array<ArrayBuffer>[])
    held = []
    heldBytes = 0
    await store.keep(next++, part)
  }
  return {
    async append(bytes) {
      let rest = bytes
      if (head.length < PATCHABLE) {
        const taken = rest.subarray(0, PATCHABLE - head.length)
        head = new Uint8Array(concatenate([head, taken]))
        rest = rest.subarray(taken.length)
      }
      if (!rest.length) return
      held.push(rest)
      heldBytes += rest.length
      if (heldBytes >= PART) await flush()
    },
    patch(at, bytes) {
      head.set(bytes, at)
      return Promise.resolve()
    },
    async close() {
      await flush()
      await store.keep(0, new Blob([head]))
    },
    abort: () => store.discard()
  }
}

/** Whether a folder holds a file of this name. */
export async function folderHas(folder: FileSystemDirectoryHandle, name: string): Promise<boolean> {
  return folder.getFileHandle(name).then(
    () => true,
    () => false
  )
}

/**
 * Copies a blob into a chosen folder under a name. The browser writes it beside its place and puts it there when it is
 * whole; should that fail, what stood there stays, and a name that was new is taken away again.
 */
export async function saveInto(folder: FileSystemDirectoryHandle, name: string, blob: Blob): Promise<void> {
  const there = await folderHas(folder, name)
  try {
    const file = await folder.getFileHandle(name, { create: true })
    await blob.stream().pipeTo(await file.createWritable())
  } catch (error) {
    if (!there) await folder.removeEntry(name).catch(() => undefined)
    throw error
  }
}

/** Files for a folder, each read when it is its turn. */
export interface Loose {
  name: string
  blob(): Promise<Blob>
}

/**
 * Copies files into the folder `name` of a chosen one, made if need be. Where there are such files already, all are
 * written to a room beside them first: only when every one is on the disk does the first take the place of another, so
 * that a full disk, a refusal or a stop leaves what stood before.
 */
export async function saveAll(
  into: FileSystemDirectoryHandle,
  name: string,
  files: readonly Loose[],
  signal?: AbortSignal
): Promise<void> {
  const there = await into.getDirectoryHandle(name).then(
    folder => folder,
    () => null
  )
  const write = async (folder: FileSystemDirectoryHandle): Promise<void> => {
    for (const file of files) {
      signal?.throwIfAborted()
      await saveInto(folder, file.name, await file.blob())
    }
  }
  const fresh = there ? `${name}.pour-${crypto.randomUUID().slice(0, 8)}` : name
  try {
    await write(await into.getDirectoryHandle(fresh, { create: true }))
  } catch (error) {
    await into.removeEntry(fresh, { recursive: true }).catch(() => undefined)
    throw error
  }
  if (!there) return
  await write(there)
  await into.removeEntry(fresh, { recursive: true })
}
