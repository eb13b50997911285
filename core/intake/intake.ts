/**
 * Bringing in: a heap of files becomes sources. Nothing that is wrong with one file stops the rest; everything that
 * was left out is said.
 */
import { PourError, sentenceOf } from '../errors'
import { baseName, folderName, type FileRef } from '../files/file'
import { listZip, looksLikeZip } from '../files/zip'
import type { Format } from '../formats/format'
import { recognise } from '../formats/registry'
import type { Host } from '../host'
import type { Rate } from '../rate'
import { AS_FOUND, type Finding, type SourceFacts, type SourceSpec } from '../source/source'
import { interpretedFacts, opened } from '../source/open'
import { naturally, numbered, sayNumbers } from './natural'
import { rateInName, rateInNote, withoutRate } from './rate-hints'

/** A source found among the files: all of its description but the id its owner will give it. */
export interface Found {
  spec: Omit<SourceSpec, 'id'>
  facts: SourceFacts
}

export interface Intake {
  found: Found[]
  /** Files that became no source, and why. */
  findings: Finding[]
}

interface Picture {
  file: FileRef
  format: Format
  width: number
  height: number
}

const NOTES = /\.(txt|md|json)$/i
const QUIET = /(^|\/)(\.|thumbs\.db$|desktop\.ini$)/i

function note(id: string, severity: Finding['severity'], sentence: string): Finding {
  return { id, severity, frames: [], sentence }
}

/** Replaces each archive by the files within it. */
async function unpack(files: readonly FileRef[], host: Host, findings: Finding[]): Promise<FileRef[]> {
  const result: FileRef[] = []
  for (const file of files) {
    try {
      const reader = await host.openFile(file)
      try {
        if (looksLikeZip(await reader.read(0, 4))) result.push(...(await listZip(file, reader)))
        else result.push(file)
      } finally {
        await reader.close()
      }
    } catch (error) {
      findings.push(note('unreadable-file', 'fault', sentenceOf(error)))
    }
  }
  return result
}

async function noteRates(files: readonly FileRef[], host: Host): Promise<Map<string, Rate>> {
  const rates = new Map<string, Rate>()
  for (const file of files) {
    if (!NOTES.test(file.path) || file.size > 1 << 20) continue
    try {
      const reader = await host.openFile(file)
      const rate = rateInNote(new TextDecoder().decode(await reader.read(0, file.size).finally(() => reader.close())))
      if (rate) rates.set(folderName(file.path), rate)
    } catch {
      // an unreadable note only means that there is no hint; a damaged picture is reported where pictures are read
    }
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
    const key = `${picture.format.id}\u0000${numbered(picture.file.path)?.stem ?? picture.file.path}`
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
    sizes.set(size, [...(sizes.get(size) ?? []), picture])
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
  host: Host
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
    name: still
      ? baseName(first.file.path).replace(/\.[^.]*$/, '')
      : withoutRate(names[0]?.title ?? baseName(first.file.path)),
    format: first.format.id,
    files: pictures.map(p => p.file),
    numbers: still ? null : numbers,
    interpretation: { ...AS_FOUND, rate, rateFrom: rate ? (noted ? ('note' as const) : ('name' as const)) : null },
    findings
  }
  return describe(spec, first.format, host)
}

async function describe(spec: Omit<SourceSpec, 'id'>, format: Format, host: Host): Promise<Found> {
  const source = await opened(format, 'open', spec.name, spec.files, host)
  await source.close()
  return { spec, facts: interpretedFacts(source.facts, spec) }
}

/**
 * Sorts files into films and sequences. Archives are opened, notes are read for a rate, pictures are grouped by folder,
 * name and number in natural order. `onProgress` is told how many files of how many have been looked at.
 */
export async function takeIn(
  files: readonly FileRef[],
  host: Host,
  onProgress?: (done: number, total: number) => void,
  signal?: AbortSignal
): Promise<Intake> {
  const findings: Finding[] = []
  const all = (await unpack(files, host, findings)).filter(file => !QUIET.test(file.path))
  const notes = await noteRates(all, host)
  const pictures: Picture[] = []
  const found: Found[] = []
  const stray: string[] = []
  const unreadByStem = new Map<string, string[]>()
  for (const [i, file] of all.entries()) {
    signal?.throwIfAborted()
    onProgress?.(i, all.length)
    if (NOTES.test(file.path)) continue
    try {
      const reader = await host.openFile(file)
      try {
        const known = await recognise(reader)
        if (!known) {
          stray.push(baseName(file.path))
          continue
        }
        const { format, kind } = known
        if (kind === 'picture') pictures.push({ file, format, ...(await format.measure(reader)) })
        else {
          const name = baseName(file.path).replace(/\.[^.]*$/, '')
          found.push(
            await describe(
              { name, format: format.id, files: [file], numbers: null, interpretation: AS_FOUND, findings: [] },
              format,
              host
            )
          )
        }
      } finally {
        await reader.close()
      }
    } catch (error) {
      const sentence = sentenceOf(error)
      const stem = numbered(file.path)?.stem
      // what this machine cannot do is no fault of the file, and never one picture of a sequence
      if (error instanceof PourError && error.kind === 'impossible')
        findings.push(note('not-possible-here', 'fault', sentence))
      else if (stem) unreadByStem.set(stem, [...(unreadByStem.get(stem) ?? []), sentence])
      else findings.push(note('unreadable-file', 'fault', sentence))
    }
  }
  for (const [key, members] of group(pictures)) {
    const stem = key.slice(key.indexOf('\u0000') + 1)
    try {
      found.push(await sequence(members, unreadByStem.get(stem) ?? [], notes, host))
      unreadByStem.delete(stem)
    } catch (error) {
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
  onProgress?.(all.length, all.length)
  found.sort((a, b) => naturally(a.spec.name, b.spec.name))
  return { found, findings }
}
