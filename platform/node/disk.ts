/** Files and folders on disk as the core takes them. */
import { readdir, realpath, stat } from 'node:fs/promises'
import path from 'node:path'
import { unreadable } from '../../core/errors'
import { diskError } from './disk-error'
import type { FileRef } from '../../core/files/file'

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
  if (info.isFile()) return [{ kind: 'disk', path: name, size: info.size, location }]
  if (!info.isDirectory()) throw unreadable(location, null, 'it is neither a file nor a folder')
  const files: FileRef[] = []
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
      else if (what?.isFile())
        files.push({ kind: 'disk', path: `${prefix}/${entry.name}`, size: (await stat(at)).size, location: at })
    }
  }
  await walk(location, name, 0)
  return files
}

export async function exists(location: string): Promise<boolean> {
  return stat(location).then(
    () => true,
    () => false
  )
}
