/**
 * Bringing in: a heap of files becomes sources. Nothing that is wrong with one file stops the rest; everything that
 * was left out is said.
 */
import { isAbort, PourError, sentenceOf } from '../errors'
import { baseName, folderName, type ByteReader, type FileRef } from '../files/file'
import { listZip, looksLikeZip } from '../files/zip'
import type { FormatId } from '../formats/format'
import { formatById, recognise } from '../formats/registry'
import type { Host } from '../host'
import type { Rate } from '../rate'
import { AS_FOUND, type Finding, type SourceFacts, type FilesSpec } from '../source/source'
import { interpretedFacts, opened } from '../source/open'
import { inOrder } from '../work/pool'
import { naturally, numbered, sayNumbers } from './natural'
import { rateInName, rateInNote, withoutRate } from './rate-hints'

/** A source found among the files: all of its description but the id its owner will give it. */
export interface Found {
  spec: Omit<FilesSpec, 'id'>
  facts: SourceFacts
}

export interface Intake {
  found: Found[]
  /** Files that became no source, and why. */
  findings: Finding[]
}

interface Picture {
  file: FileRef
  format: FormatId
  width: number
  height: number
}

const NOTES = /\.(txt|md|json)$/i
/** What systems leave lying about. */
const QUIET = /(^|\/)(\.DS_Store|\._[^/]*|\.pour-[^/]*|thumbs\.db|desktop\.ini)(\/|$)/i
const HIDDEN = /(^|\/)\.(?!\.?\/)/

function note(id: string, severity: Finding['severity'], sentence: string): Finding {
  return { id, severity, frames: [], sentence }
}

/** What has to be read of files to sort them; done here by `lookingAt`, or by workers. */
export interface Looking {
  /** The files within an archive; null for what is none. */
  unpack(file: FileRef): Promise<FileRef[] | null>
  /** The rate that a note speaks of. */
  note(file: FileRef): Promise<Rate | null>
  /** What a file is; null for no kind that is read. */
  look(file: FileRef): Promise<{ format: FormatId; kind: 'film' | 'picture'; width: number; height: number } | null>
  describe(spec: Omit<FilesSpec, 'id'>): Promise<SourceFacts>
}

async function reading<T>(file: FileRef, host: Host, read: (reader: ByteReader) => Promise<T>): Promise<T> {
  const reader = await host.openFile(file)
  try {
    return await read(reader)
  } finally {
    await reader.close()
  }
}

export function lookingAt(host: Host): Looking {
  return {
    unpack: file =>
      reading(file, host, async reader => (looksLikeZip(await reader.read(0, 4)) ? listZip(file, reader) : null)),
    note: file =>
      reading(file, host, async reader => rateInNote(new TextDecoder().decode(await reader.read(0, file.size)))),
    look: file =>
      reading(file, host, async reader => {
        const known = await recognise(reader)
        if (!known) return null
        const { format, kind } = known
        const size = kind === 'picture' ? await format.measure(reader) : { width: 0, height: 0 }
        return { format: format.id, kind, ...size }
      }),
    async describe(spec) {
      const source = await opened(formatById(spec.format), 'open', spec.name, spec.files, host)
      await source.close()
      return interpretedFacts(source.facts, spec)
    }
  }
}

/** Files looked at together: enough to keep workers busy, few enough to stop at once. */
const TOGETHER = 6

/** Replaces each archive by the files within it. */
async function unpack(files: readonly FileRef[], looking: Looking, findings: Finding[]): Promise<FileRef[]> {
  const result: FileRef[] = []
  await inOrder(
    files.length,
    TOGETHER,
    i => settled(looking.unpack(files[i]!)),
    (found, i) => {
      if (!found.ok) findings.push(note('unreadable-file', 'fault', sentenceOf(found.error)))
      else for (const file of found.value ?? [files[i]!]) result.push(file)
    }
  )
  return result
}

type Settled<T> = { ok: true; value: T } | { ok: false; error: unknown }

/** How work ended, an abort alone passed on. */
async function settled<T>(work: Promise<T>): Promise<Settled<T>> {
  try {
    return { ok: true, value: await work }
  } catch (error) {
    if (isAbort(error)) throw error
    return { ok: false, error }
  }
}

async function noteRates(files: readonly FileRef[], looking: Looking): Promise<Map<string, Rate>> {
  const rates = new Map<string, Rate>()
  for (const file of files) {
    if (!NOTES.test(file.path) || file.size > 1 << 20) continue
    const found = await settled(looking.note(file))
    // an unreadable note only means that there is no hint; a damaged picture is reported where pictures are read
    if (found.ok && found.value) rates.set(folderName(file.path), found.value)
  }
  return rates
}

/** The note that lies in the file's folder, or in the nearest one above it. */
function rateFromNotes(notes: Map<string, Rate>, path: string): Rate | null {
  for (let folder = folderName(path); ; folder = folderName(folder)) {
    const rate = notes.get(folder)
    if (rate || folder === '') return rate ?? null
  }
}

function group(pictures: readonly Picture[]): Map<string, Picture[]> {
  const groups = new Map<string, Picture[]>()
  for (const picture of pictures) {
    const key = `${picture.format}\u0000${numbered(picture.file.path)?.stem ?? picture.file.path}`
    const members = groups.get(key)
    if (members) members.push(picture)
    else groups.set(key, [picture])
  }
  return groups
}

/** Keeps the pictures that have the commonest size; the others are named in a finding. */
function sameSize(pictures: readonly Picture[], findings: Finding[]): Picture[] {
  const sizes = new Map<string, Picture[]>()
  for (const picture of pictures) {
    const size = `${picture.width}x${picture.height}`
    const members = sizes.get(size)
    if (members) members.push(picture)
    else sizes.set(size, [picture])
  }
  if (sizes.size === 1) return [...pictures]
  const [size, kept] = [...sizes].sort((a, b) => b[1].length - a[1].length)[0]!
  const others = [...sizes].filter(([other]) => other !== size)
  const named = others.map(
    ([other, list]) =>
      `${list
        .map(p => baseName(p.file.path))
        .slice(0, 3)
        .join(', ')}${list.length > 3 ? ` and ${list.length - 3} more` : ''} (${other})`
  )
  findings.push(
    note(
      'mixed-sizes',
      'fault',
      `${pictures.length - kept.length} of ${pictures.length} pictures differ in size and were left out: ${named.join('; ')}. The sequence is ${size}.`
    )
  )
  return kept
}

function gapFinding(numbers: readonly number[]): Finding | null {
  const missing: number[] = []
  for (let i = 1; i < numbers.length; i++)
    for (let n = numbers[i - 1]! + 1; n < numbers[i]! && missing.length < 10000; n++) missing.push(n)
  if (missing.length === 0) return null
  const after = numbers.flatMap((n, i) => (i + 1 < numbers.length && numbers[i + 1]! > n + 1 ? [i + 1] : []))
  return {
    id: 'missing-frames',
    severity: 'fault',
    frames: after,
    sentence: `${missing.length === 1 ? 'Picture' : 'Pictures'} ${sayNumbers(missing)} ${missing.length === 1 ? 'is' : 'are'} missing between ${numbers[0]} and ${numbers.at(-1)}. The gap is closed, so the motion jumps there.`,
    mend: { id: 'hold-gaps', label: 'Hold the picture before' }
  }
}

/** Two pictures may carry the same number with other padding ("1" and "01"); the first in natural order stands. */
function withoutDoubles(pictures: readonly Picture[], findings: Finding[]): Picture[] {
  const seen = new Set<number>()
  const doubles: string[] = []
  const kept = pictures.filter(picture => {
    const number = numbered(picture.file.path)?.number ?? 0
    if (!seen.has(number)) return !!seen.add(number)
    doubles.push(baseName(picture.file.path))
    return false
  })
  if (doubles.length)
    findings.push(
      note(
        'double-numbers',
        'warning',
        `${doubles.slice(0, 4).join(', ')} ${doubles.length > 4 ? `and ${doubles.length - 4} more ` : ''}repeat a number that is there already, and were left out.`
      )
    )
  return kept
}

async function sequence(
  members: readonly Picture[],
  unread: readonly string[],
  notes: Map<string, Rate>,
  looking: Looking
): Promise<Found> {
  const findings: Finding[] = []
  const sorted = [...members].sort((a, b) => naturally(a.file.path, b.file.path))
  const pictures = withoutDoubles(sameSize(sorted, findings), findings)
  const names = pictures.map(p => numbered(p.file.path))
  const still = pictures.length === 1
  const first = pictures[0]!
  const numbers = names.map((name, i) => name?.number ?? i)
  const gaps = gapFinding(numbers)
  if (gaps) findings.push(gaps)
  if (unread.length)
    findings.push(
      note(
        'unreadable-frames',
        'fault',
        `${unread.length} ${unread.length === 1 ? 'picture' : 'pictures'} of this sequence could not be read: ${unread.slice(0, 2).join('; ')}${unread.length > 2 ? ` and ${unread.length - 2} more` : ''}`
      )
    )
  const named = rateInName(baseName(first.file.path)) ?? rateInName(folderName(first.file.path))
  const noted = rateFromNotes(notes, first.file.path)
  const rate = noted ?? named
  const spec = {
    kind: 'files' as const,
    name: still
      ? baseName(first.file.path).replace(/\.[^.]*$/, '')
      : withoutRate(names[0]?.title ?? baseName(first.file.path)),
    format: first.format,
    files: pictures.map(p => p.file),
    numbers: still ? null : numbers,
    interpretation: { ...AS_FOUND, rate, rateFrom: rate ? (noted ? ('note' as const) : ('name' as const)) : null },
    findings
  }
  return { spec, facts: await looking.describe(spec) }
}

/**
 * Sorts files into films and sequences. Archives are opened, notes are read for a rate, pictures are grouped by folder,
 * name and number in natural order. `onProgress` is told how many files of how many have been looked at.
 */
export function takeIn(
  files: readonly FileRef[],
  host: Host,
  onProgress?: (done: number, total: number) => void,
  signal?: AbortSignal
): Promise<Intake> {
  return takeInBy(lookingAt(host), files, onProgress, signal)
}

/** The same where `looking` reads the files. */
export async function takeInBy(
  looking: Looking,
  files: readonly FileRef[],
  onProgress?: (done: number, total: number) => void,
  signal?: AbortSignal
): Promise<Intake> {
  const findings: Finding[] = []
  const given = (await unpack(files, looking, findings)).filter(file => !QUIET.test(file.path))
  const all = given.filter(file => !HIDDEN.test(file.path))
  const hidden = given.filter(file => HIDDEN.test(file.path)).map(file => baseName(file.path))
  if (hidden.length)
    findings.push(
      note(
        'hidden-files',
        'note',
        `${hidden.length === 1 ? 'A hidden file was' : `${hidden.length} hidden files were`} left out: ${hidden.slice(0, 4).join(', ')}${hidden.length > 4 ? ` and ${hidden.length - 4} more` : ''}.`
      )
    )
  const notes = await noteRates(all, looking)
  const pictures: Picture[] = []
  const found: Found[] = []
  const stray: string[] = []
  const unreadByStem = new Map<string, string[]>()
  const asked = all.filter(file => !NOTES.test(file.path))
  const failed = (file: FileRef, error: unknown): void => {
    const sentence = sentenceOf(error)
    const stem = numbered(file.path)?.stem
    // what this machine cannot do is no fault of the file, and never one picture of a sequence
    if (error instanceof PourError && error.kind === 'impossible')
      findings.push(note('not-possible-here', 'fault', sentence))
    else if (stem) {
      const sentences = unreadByStem.get(stem)
      if (sentences) sentences.push(sentence)
      else unreadByStem.set(stem, [sentence])
    } else findings.push(note('unreadable-file', 'fault', sentence))
  }
  await inOrder(
    asked.length,
    TOGETHER,
    i => {
      signal?.throwIfAborted()
      return settled(looking.look(asked[i]!))
    },
    async (looked, i) => {
      signal?.throwIfAborted()
      onProgress?.(i, asked.length)
      const file = asked[i]!
      if (!looked.ok) failed(file, looked.error)
      else if (!looked.value) stray.push(baseName(file.path))
      else if (looked.value.kind === 'picture') pictures.push({ file, ...looked.value })
      else {
        const name = baseName(file.path).replace(/\.[^.]*$/, '')
        const { format } = looked.value
        const spec = {
          kind: 'files' as const,
          name,
          format,
          files: [file],
          numbers: null,
          interpretation: AS_FOUND,
          findings: []
        }
        const described = await settled(looking.describe(spec))
        if (described.ok) found.push({ spec, facts: described.value })
        else failed(file, described.error)
      }
    }
  )
  for (const [key, members] of group(pictures)) {
    const stem = key.slice(key.indexOf('\u0000') + 1)
    try {
      found.push(await sequence(members, unreadByStem.get(stem) ?? [], notes, looking))
      unreadByStem.delete(stem)
    } catch (error) {
      if (isAbort(error)) throw error
      findings.push(note('unreadable-file', 'fault', sentenceOf(error)))
    }
  }
  for (const sentences of unreadByStem.values())
    for (const sentence of sentences) findings.push(note('unreadable-file', 'fault', sentence))
  if (stray.length)
    findings.push(
      note(
        'stray-files',
        'note',
        `${stray.length} ${stray.length === 1 ? 'file is' : 'files are'} of no kind that Pour reads and ${stray.length === 1 ? 'was' : 'were'} left out: ${stray.slice(0, 4).join(', ')}${stray.length > 4 ? ` and ${stray.length - 4} more` : ''}.`
      )
    )
  onProgress?.(asked.length, asked.length)
  found.sort((a, b) => naturally(a.spec.name, b.spec.name))
  return { found, findings }
}
