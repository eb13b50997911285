/** Whether two places on disk are one, whatever they are called: links, case and ways around do not matter. */
import { readdir, stat } from 'node:fs/promises'
import path from 'node:path'
import { wrongCall } from '../../core/base/errors'
import type { FileRef } from '../../core/base/files/file'
import { asOnDisk, goesUp } from './resolved'
import { beneath, filesOf, type FilesSpec, type SourceSpec } from '../../core/source/source'

type Described = SourceSpec | Omit<FilesSpec, 'id'>

/**
 * What a place really is: its disk and its number there; of a place that is not there yet, the deepest folder that is
 * and the rest of its name.
 */
async function identity(location: string): Promise<string> {
  const at = goesUp(location) ? await asOnDisk(location) : location
  try {
    const { dev, ino } = await stat(at, { bigint: true })
    return `${dev}:${ino}`
  } catch {
    return asOnDisk(at)
  }
}

function locations(file: FileRef): string[] {
  if (file.kind === 'disk') return [file.location]
  return file.kind === 'zipped' ? locations(file.archive) : []
}

/** Every file on disk that a source is read from, those its preparation looks at with it. */
export function diskFilesOf(spec: Described): string[] {
  return [...new Set(filesOf(spec).flatMap(locations))]
}

/** The same, and the folders of a sequence: pictures written between its own would become part of it. */
export function placesOf(spec: Described): string[] {
  const files = diskFilesOf(spec)
  return (spec.kind === 'files' ? spec : beneath(spec)).numbers
    ? [...new Set([...files, ...files.map(file => path.dirname(file))])]
    : files
}

/** Rejects when one of `targets` is one of the `sources`. */
export async function refuseSame(sources: readonly string[], targets: readonly string[]): Promise<void> {
  const known = new Map<string, string>()
  for (const source of sources) known.set(await identity(source), source)
  for (const target of targets) {
    const source = known.get(await identity(target))
    if (source === undefined) continue
    const called = path.resolve(source) === path.resolve(target) ? '' : `, called ${source} there`
    throw wrongCall(`${target} is the source itself${called}; give another place`)
  }
}

/** Rejects when one of the files that would be written into a folder, by those names, is one of the `sources`. */
export async function refuseWithin(
  sources: readonly string[],
  folder: string,
  writes: (name: string) => boolean
): Promise<void> {
  const there = await readdir(folder).catch(() => [])
  await refuseSame(sources, [folder, ...there.filter(writes).map(name => path.join(folder, name))])
}
