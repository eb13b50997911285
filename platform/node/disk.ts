/** Files and folders on disk as the core takes them. */
import { createHash } from 'node:crypto'
import { open, readdir, realpath, stat } from 'node:fs/promises'
import path from 'node:path'
import { unreadable } from '../../core/base/errors'
import { diskError } from './disk-error'
import type { FileRef } from '../../core/base/files/file'
import { inOrder } from '../../core/base/pool'

/** No folder is searched deeper than this; a link that points upward cannot make the search endless. */
const MAX_DEPTH = 12

/** Every file of a folder and those below it, or the one file. Names are relative to `location`'s parent. */
export async function filesAt(location: string): Promise<FileRef[]> {
  const info = await stat(location).catch((error: NodeJS.ErrnoException) => {
    throw error.code === 'ENOENT' || error.code === 'ENOTDIR'
      ? unreadable(location, null, 'there is no such file or folder')
      : diskError(error, location)
  })
  const name = path.basename(path.resolve(location))
  if (info.isFile()) return [{ kind: 'disk', path: name, size: info.size, location, is: await identityAt(location) }]
  if (!info.isDirectory()) throw unreadable(location, null, 'it is neither a file nor a folder')
  const files: Extract<FileRef, { kind: 'disk' }>[] = []
  // links are followed, each folder once: one that leads back up would go round for ever
  const seen = new Set<string>()
  const walk = async (folder: string, prefix: string, depth: number): Promise<void> => {
    const real = await realpath(folder)
    if (seen.has(real) || depth > MAX_DEPTH) return
    seen.add(real)
    for (const entry of await readdir(folder, { withFileTypes: true })) {
      const at = path.join(folder, entry.name)
      // a link whose end is gone is no file
      const what = entry.isSymbolicLink() ? await stat(at).catch(() => null) : entry
      if (what?.isDirectory()) await walk(at, `${prefix}/${entry.name}`, depth + 1)
      else if (what?.isFile()) {
        // one whose name is no text cannot be opened by it; it is told of where it is, and the others are taken
        const size = await stat(at).then(
          found => found.size,
          () => 0
        )
        files.push({ kind: 'disk', path: `${prefix}/${entry.name}`, size, location: at })
      }
    }
  }
  await walk(location, name, 0)
  const found: FileRef[] = []
  await inOrder(
    files.length,
    TOGETHER,
    i => identityAt(files[i]!.location),
    (is, i) => void found.push({ ...files[i]!, is })
  )
  return found
}

/** One file, under the name that it is known by. Rejects where it is gone. */
export async function fileAt(location: string, name: string): Promise<FileRef> {
  const { size } = await stat(location).catch((error: NodeJS.ErrnoException) => {
    throw diskError(error, location)
  })
  return { kind: 'disk', path: name, size, location, is: await identityAt(location) }
}

/** Bytes of a head and a tail. */
const END = 4096
/** Files asked of the disk at once. */
const TOGETHER = 16

/**
 * What a file is: its disk and number there, its size, when it was last written and last changed in any way (which
 * nobody can set), and a digest of its head and tail.
 */
export async function identityAt(location: string): Promise<string> {
  try {
    const { dev, ino, size, mtimeNs, ctimeNs } = await stat(location, { bigint: true })
    const known = `${dev} ${ino} ${size} ${mtimeNs} ${ctimeNs}`
    const handle = await open(location)
    try {
      const hash = createHash('sha256')
      for (const at of [0, Math.max(0, Number(size) - END)]) {
        const { bytesRead, buffer } = await handle.read(Buffer.alloc(END), 0, END, at)
        hash.update(buffer.subarray(0, bytesRead))
      }
      return `${known} ${hash.digest('hex').slice(0, 32)}`
    } finally {
      await handle.close()
    }
  } catch (error) {
    // one that cannot be read is told of by whoever opens it
    return `unread ${(error as NodeJS.ErrnoException).code ?? ''} ${location}`
  }
}

export async function exists(location: string): Promise<boolean> {
  return stat(location).then(
    () => true,
    () => false
  )
}
