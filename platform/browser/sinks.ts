/** Sinks of a browser: parts handed on as they fill, so that nothing grows with the length; and folders the user chose. */
import { concatenate } from '../../core/files/bytes'
import { PATCHABLE, type ByteSink, type FilesSink } from '../../core/files/sinks'

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

/** Writes files into a chosen folder. Abort removes the files this job wrote. */
export function directorySink(folder: FileSystemDirectoryHandle): FilesSink {
  const written: string[] = []
  return {
    async add(name, bytes) {
      const file = await folder.getFileHandle(name, { create: true })
      written.push(name)
      const stream = await file.createWritable()
      await stream.write(bytes as Uint8Array<ArrayBuffer>)
      await stream.close()
    },
    close: () => Promise.resolve(),
    async abort() {
      for (const name of written) await folder.removeEntry(name).catch(() => undefined)
    }
  }
}

/** Copies a blob into a chosen folder under a name. */
export async function saveInto(folder: FileSystemDirectoryHandle, name: string, blob: Blob): Promise<void> {
  const file = await folder.getFileHandle(name, { create: true })
  await blob.stream().pipeTo(await file.createWritable())
}
