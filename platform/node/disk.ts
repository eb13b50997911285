/** Files and folders on disk as the core takes them, and sinks that write there. */
import { mkdir, open, readdir, rename, rm, stat, writeFile } from 'node:fs/promises'
import path from 'node:path'
import { unreadable } from '../../core/errors'
import type { FileRef } from '../../core/files/file'
import type { ByteSink, FilesSink } from '../../core/files/sinks'

/** No folder is searched deeper than this; a link that points upward cannot make the search endless. */
const MAX_DEPTH = 12

/** Every file of a folder and those below it, or the one file. Names are relative to `location`'s parent. */
export async function filesAt(location: string): Promise<FileRef[]> {
  const info = await stat(location).catch(() => {
    throw unreadable(location, null, 'there is no such file or folder')
  })
  const name = path.basename(path.resolve(location))
  if (info.isFile()) return [{ kind: 'disk', path: name, size: info.size, location }]
  const files: FileRef[] = []
  const walk = async (folder: string, prefix: string, depth: number): Promise<void> => {
    for (const entry of await readdir(folder, { withFileTypes: true })) {
      const at = path.join(folder, entry.name)
      if (entry.isDirectory()) {
        if (depth < MAX_DEPTH) await walk(at, `${prefix}/${entry.name}`, depth + 1)
      } else if (entry.isFile())
        files.push({ kind: 'disk', path: `${prefix}/${entry.name}`, size: (await stat(at)).size, location: at })
    }
  }
  await walk(location, name, 0)
  return files
}

/** Writes one file under a temporary name and gives it its own when it is complete. */
export async function fileSink(location: string): Promise<ByteSink> {
  await mkdir(path.dirname(path.resolve(location)), { recursive: true })
  const part = `${location}.part`
  const handle = await open(part, 'w')
  let at = 0
  return {
    async append(bytes) {
      await handle.write(bytes, 0, bytes.length, at)
      at += bytes.length
    },
    async patch(where, bytes) {
      await handle.write(bytes, 0, bytes.length, where)
    },
    async close() {
      await handle.close()
      await rename(part, location)
    },
    async abort() {
      await handle.close().catch(() => undefined)
      await rm(part, { force: true })
    }
  }
}

/** Writes files into a folder, made if need be. An aborted job removes the files it wrote, and nothing else. */
export async function folderSink(folder: string): Promise<FilesSink> {
  await mkdir(folder, { recursive: true })
  const written: string[] = []
  return {
    async add(name, bytes) {
      const at = path.join(folder, name)
      written.push(at)
      await mkdir(path.dirname(at), { recursive: true })
      await writeFile(at, bytes)
    },
    close: () => Promise.resolve(),
    async abort() {
      for (const at of written) await rm(at, { force: true })
    }
  }
}

export async function exists(location: string): Promise<boolean> {
  return stat(location).then(
    () => true,
    () => false
  )
}
