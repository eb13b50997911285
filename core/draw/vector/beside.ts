/**
 * Pictures that lie beside a vector animation in its archive: put into its text, since nothing is ever fetched for it.
 */
import { toBase64 } from '../../base/files/base64'
import { readAll, type FileRef } from '../../base/files/file'
import { listZip } from '../../base/files/zip'
import type { Host } from '../../frame/host'
import { MOST_BYTES } from './animation'

const KINDS: Readonly<Record<string, string>> = {
  png: 'image/png',
  jpg: 'image/jpeg',
  jpeg: 'image/jpeg',
  webp: 'image/webp'
}

const nameOf = (path: string): string => path.slice(path.lastIndexOf('/') + 1)

/**
 * Files of an archive of vector animations: the animations alone, as what lies beside them belongs to them; null where
 * it is none.
 */
export function animationsIn(files: readonly FileRef[]): FileRef[] | null {
  if (!files.some(({ path }) => path === 'manifest.json')) return null
  const found = files.filter(({ path }) => /^(?:animations|a)\/[^/]+\.json$/.test(path))
  return found.length ? found : null
}

/**
 * The animation's text with the pictures that lie in its archive; as it was where there are none, or it lies in no
 * archive.
 */
export async function withPictures(text: string, file: FileRef, host: Host): Promise<string> {
  if (file.kind !== 'zipped') return text
  let data: { assets?: unknown }
  try {
    data = JSON.parse(text) as typeof data
  } catch {
    return text
  }
  if (!Array.isArray(data.assets)) return text
  const reader = await host.openFile(file.archive)
  const entries = await listZip(file.archive, reader).finally(() => reader.close())
  let room = MOST_BYTES - text.length
  for (const asset of data.assets as Record<string, unknown>[]) {
    if (typeof asset?.p !== 'string' || asset.p.startsWith('data:')) continue
    const name = nameOf(asset.p)
    const entry = entries.find(({ path }) => nameOf(path) === name)
    const kind = KINDS[name.slice(name.lastIndexOf('.') + 1).toLowerCase()]
    // a picture that is not there, or not of these kinds, is named among what is left out
    if (!entry || !kind || entry.size * 1.4 > room) continue
    const opened = await host.openFile(entry)
    const words = toBase64(await readAll(opened).finally(() => opened.close()))
    room -= words.length
    Object.assign(asset, { u: '', e: 1, p: `data:${kind};base64,${words}` })
  }
  return JSON.stringify(data)
}
