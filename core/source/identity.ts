/** What files are, whatever they are called: two that differ in it are never taken for each other. */
import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex } from '@noble/hashes/utils.js'
import type { FileRef } from '../base/files/file'
import { beneath, type FilesSpec, type Interpretation, type SourceSpec } from './source'

/** Bytes in memory up to so many are looked at whole; of longer ones so many at either end. */
const WHOLE = 1 << 16

const digest = (bytes: Uint8Array): string => bytesToHex(sha256(bytes)).slice(0, 32)

/**
 * A file's identity, from what is known of it without opening it: on a disk what `filesAt` found it to be (disk and
 * number, size, times, head and tail), in an archive that of the archive and its entry.
 */
export function identityOf(file: FileRef): string {
  if (file.kind === 'disk') return file.is ?? `${file.location} ${file.size}`
  if (file.kind === 'zipped')
    return `${identityOf(file.archive)} entry ${file.offset} ${file.packedSize} ${file.size} ${file.crc}`
  if (file.kind === 'blob') {
    const changed = 'lastModified' in file.blob ? (file.blob as File).lastModified : ''
    return `${file.path} ${file.size} ${changed}`
  }
  const { bytes } = file
  const ends = bytes.length <= 2 * WHOLE ? [bytes] : [bytes.subarray(0, WHOLE), bytes.subarray(-WHOLE)]
  return `${file.path} ${file.size} ${ends.map(digest).join(' ')}`
}

const digests = new WeakMap<object, string>()

/** A digest of a long list, made once for as long as the list is the same: a page asks for it over and over. */
function ofList<T>(list: readonly T[] | null | undefined, each: (item: T) => unknown): string | null {
  if (!list) return null
  const known = digests.get(list) ?? digest(new TextEncoder().encode(JSON.stringify(list.map(each))))
  digests.set(list, known)
  return known
}

/** One short text for all the files of a source, in their order. */
export function filesIdentity({ format, files, key, common, numbers }: FilesSpec): string {
  return JSON.stringify([
    format,
    common ?? null,
    ofList(numbers, number => number),
    ofList(files, identityOf),
    ofList(key, identityOf)
  ])
}

/** What an interpretation says of frames; what was decided about formats changes none. */
const framesOf = ({ codesKept: _, ...rest }: Interpretation): Omit<Interpretation, 'codesKept'> => rest

/** Same key, same stored frames, whatever their alpha is taken for, at which rate, and whatever is done to them. */
export function storedKey(spec: SourceSpec): string {
  if (spec.kind === 'prepared') return storedKey(spec.of)
  const { alpha: _, rate: _rate, rateFrom: _from, ...taken } = framesOf(beneath(spec).interpretation)
  const shown = spec.kind === 'scene' ? Object.values(spec.others).map(specKey) : []
  return JSON.stringify([filesIdentity(beneath(spec)), taken, ...shown])
}

/** Same key, same frames: made of what the files are, so that another file under the same name is another source. */
export function specKey(spec: SourceSpec): string {
  const known = keys.get(spec)
  if (known !== undefined) return known
  const key = JSON.stringify(
    spec.kind === 'files'
      ? [spec.id, filesIdentity(spec), framesOf(spec.interpretation)]
      : [specKey(spec.of), spec.kind === 'prepared' ? spec.steps : 'scene', Object.values(spec.others).map(specKey)]
  )
  keys.set(spec, key)
  return key
}

const keys = new WeakMap<SourceSpec, string>()
