/** Whether a source's files are still those that were read: told by a stamp of each, without reading them again. */
import { unreachable } from '../base/errors'
import type { FileRef } from '../base/files/file'
import type { Host } from '../frame/host'
import { filesOf, type SourceSpec } from './source'

/** A file's path and its stamp as the machine gives it: size and time of its last change, for what lies on a disk. */
export type Stamps = readonly (readonly [path: string, stamp: string])[]

/** What lies there to be changed: of what is within an archive, that. */
const whole = (file: FileRef): FileRef => (file.kind === 'zipped' ? whole(file.archive) : file)

/** The stamps of a source's files as they are now. */
export async function stampsOf(spec: SourceSpec, host: Host): Promise<Stamps> {
  const seen = new Map<string, string>()
  for (const file of new Set(filesOf(spec).map(whole))) {
    const key = file.kind === 'disk' ? file.location : file.path
    if (!seen.has(key)) seen.set(key, await host.stamp(file))
  }
  return [...seen]
}

/**
 * Rejects as unreachable when a file is not what it was when `before` was taken: nothing that was made from it can be
 * judged by it.
 */
export async function unchangedSince(before: Stamps, spec: SourceSpec, host: Host): Promise<void> {
  const now = new Map(await stampsOf(spec, host))
  const changed = before.find(([path, stamp]) => now.get(path) !== stamp)
  if (changed)
    throw unreachable(
      'it has changed since the pour began, so the source can no longer be compared with; pour it again',
      changed[0]
    )
}
