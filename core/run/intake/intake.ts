/**
 * Bringing in: a heap of files becomes sources. Nothing that is wrong with one file stops the rest; everything that
 * was left out is said.
 */
import { animationsIn } from '../../draw/vector/beside'
import { isAbort, PourError, sentenceOf } from '../../base/errors'
import { baseName, folderName, type ByteReader, type FileRef } from '../../base/files/file'
import { listZip, looksLikeZip } from '../../base/files/zip'
import type { Measured } from '../../media/formats/traits/reading'
import type { FormatId } from '../../open/rows'
import { formatById, recognise } from '../../open/registry'
import type { Depth } from '../../frame/frame'
import type { Host } from '../../frame/host'
import { sameRate, type Rate } from '../../base/rate'
import { AS_FOUND, waysOn, type Finding, type SourceFacts, type FilesSpec } from '../../source/source'
import { framesHeld } from '../../open/frame-order'
import { interpretedFacts } from '../../open/interpret'
import { halvesFinding } from '../../open/halves'
import { openStored } from '../../open/stored'
import { inOrder } from '../../base/pool'
import { naturally, sayNumbers } from '../../base/natural'
import { runsOf, type NumberedRun } from './numbering'
import { isRateNote, rateNoteName, rateInName, rateInNote, withoutRate } from './rate-hints'

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

interface Picture extends Measured {
  file: FileRef
  format: FormatId
}

const NOTES = /\.(txt|md|json)$/i

const inFolder = (folder: string, name: string): string => (folder ? `${folder}/${name}` : name)

/** What systems leave lying about. */
const QUIET = /(^|\/)(\.DS_Store|\._[^/]*|\.pour-[^/]*|thumbs\.db|desktop\.ini)(\/|$)/i
const HIDDEN = /(^|\/)\.(?!\.?\/)/

function note(id: string, severity: Finding['severity'], sentence: string): Finding {
  return { id, severity, frames: [], sentence }
}

interface Looked extends Measured {
  format: FormatId
  kind: 'film' | 'picture'
  /** Names of files beside it that belong to it. */
  beside?: readonly string[]
}

/** What has to be read of files to sort them; done here by `lookingAt`, or by workers. */
export interface Looking {
  /** The files within an archive; null for what is none. */
  unpack(file: FileRef): Promise<FileRef[] | null>
  /** The rate that a note speaks of. */
  note(file: FileRef): Promise<Rate | null>
  /** What a file is; null for no kind that is read. */
  look(file: FileRef): Promise<Looked | null>
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

/** Films without alpha, of which nobody has said how their picture is made up. */
const mayHaveHalves = ({ numbers, format, interpretation }: Omit<FilesSpec, 'id'>, facts: SourceFacts): boolean =>
  numbers === null &&
  interpretation.stacked === undefined &&
  facts.claim.mode === 'none' &&
  !facts.stacked &&
  formatById(format).delivers === 'film'

/** What intake looks at files with on this machine. */
export function lookingAt(host: Host): Looking {
  return {
    unpack: file =>
      reading(file, host, async reader => (looksLikeZip(await reader.read(0, 4)) ? listZip(file, reader) : null)),
    note: file =>
      reading(file, host, async reader =>
        rateInNote(new TextDecoder().decode(await reader.read(0, file.size)), baseName(file.path))
      ),
    look: file =>
      reading(file, host, async reader => {
        const known = await recognise(reader)
        if (!known) return null
        const { format, kind } = known
        const measured = kind === 'picture' ? await format.measure(reader) : { width: 0, height: 0 }
        const beside = kind === 'film' ? await format.beside?.(reader) : undefined
        return { format: format.id, kind, ...measured, ...(beside ? { beside } : {}) }
      }),
    async describe(spec) {
      const stored = await openStored({ ...spec, id: '' }, host, 'open')
      try {
        const facts = interpretedFacts(stored.facts, spec)
        const halves = mayHaveHalves(spec, facts) ? await halvesFinding(stored) : null
        return halves ? { ...facts, findings: [...facts.findings, halves] } : facts
      } finally {
        await stored.close()
      }
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
      else {
        const entries = found.value && (animationsIn(found.value) ?? found.value)
        // like-named pictures of two archives are two sources: each carries the archive it lies in
        for (const file of entries ?? []) result.push({ ...file, path: `${files[i]!.path}/${file.path}` })
        if (!entries) result.push(files[i]!)
      }
    }
  )
  return result
}

/** Files by their paths: one that comes again under the same path is left out, and told. */
function eachOnce(files: readonly FileRef[], findings: Finding[]): FileRef[] {
  const paths = new Set<string>()
  const again: string[] = []
  const once = files.filter(({ path }) => {
    if (!paths.has(path)) return !!paths.add(path)
    again.push(baseName(path))
    return false
  })
  if (again.length)
    findings.push(
      note(
        'same-names',
        'warning',
        `${again.length} ${again.length === 1 ? 'file has a name that' : 'files have names that'} came before ` +
          `and ${again.length === 1 ? 'was' : 'were'} left out: ` +
          `${again.slice(0, 4).join(', ')}${again.length > 4 ? ` and ${again.length - 4} more` : ''}.`
      )
    )
  return once
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

/**
 * Rates by the folder of the note that says them. One that is named after pictures speaks for these first, by its own
 * path, and for its folder where no other note does and no two disagree.
 */
async function noteRates(files: readonly FileRef[], looking: Looking): Promise<Map<string, Rate>> {
  const rates = new Map<string, Rate>()
  const named = new Map<string, Rate | null>()
  for (const file of files) {
    if (!NOTES.test(file.path) || file.size > 1 << 20) continue
    const found = await settled(looking.note(file))
    // an unreadable note only means that there is no hint; a damaged picture is reported where pictures are read
    if (!found.ok || !found.value) continue
    const folder = folderName(file.path)
    if (isRateNote(file.path)) {
      const before = named.get(folder)
      rates.set(file.path, found.value)
      named.set(folder, before === undefined || (before && sameRate(before, found.value)) ? found.value : null)
    } else rates.set(folder, found.value)
  }
  for (const [folder, rate] of named) if (rate && !rates.has(folder)) rates.set(folder, rate)
  return rates
}

/** The note named after the picture beside it; else the one in its folder, or in the nearest one above it. */
function rateFromNotes(notes: Map<string, Rate>, path: string): Rate | null {
  const own = notes.get(rateNoteName(path))
  if (own) return own
  for (let folder = folderName(path); ; folder = folderName(folder)) {
    const rate = notes.get(folder)
    if (rate || folder === '') return rate ?? null
  }
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
      `${pictures.length - kept.length} of ${pictures.length} pictures differ in size and were left out: ` +
        `${named.join('; ')}. The sequence is ${size}.`
    )
  )
  return kept
}

/** Gaps told by their places; the list in words names the first of them. */
const GAPS_SAID = 6

/** What is missing between the pictures there are; one that is there and cannot be read is not missing. */
function gapFinding(read: readonly number[], unread: readonly number[]): Finding | null {
  const numbers = [...new Set([...read, ...unread])].sort((a, b) => a - b)
  const gaps = numbers.flatMap((n, i) => {
    const next = numbers[i + 1]
    return next !== undefined && next > n + 1 ? [[n + 1, next - 1] as const] : []
  })
  if (gaps.length === 0) return null
  // the frame before each
  const after = gaps.map(([from]) => Math.max(1, read.filter(n => n < from).length))
  const missing = gaps.reduce((sum, [from, to]) => sum + to - from + 1, 0)
  const said = gaps
    .slice(0, GAPS_SAID)
    .map(([from, to]) => (from === to ? `${from}` : to === from + 1 ? `${from}, ${to}` : `${from} to ${to}`))
  const more = gaps.length - said.length
  const places = more
    ? `${said.join(', ')} and ${more} more ${more === 1 ? 'gap' : 'gaps'}`
    : [said.slice(0, -1).join(', '), said.at(-1)].filter(Boolean).join(' and ')
  const held = framesHeld(numbers) !== null
  return {
    id: 'missing-frames',
    severity: 'fault',
    frames: after,
    sentence:
      `${missing === 1 ? 'Picture' : 'Pictures'} ${places} ${missing === 1 ? 'is' : 'are'} missing ` +
      `between ${numbers[0]} and ${numbers.at(-1)}. The gap is closed, so the motion jumps ` +
      `there.${held ? '' : ' It is too long to be held.'}`,
    ...(held ? { mend: { id: 'hold-gaps', label: 'Hold the picture before' } } : {})
  }
}

/** Two pictures may carry the same number with other padding ("1" and "01"); the first in natural order stands. */
function withoutDoubles(
  pictures: readonly Picture[],
  numbers: ReadonlyMap<string, number>,
  findings: Finding[]
): Picture[] {
  const seen = new Set<number>()
  const doubles: string[] = []
  const kept = pictures.filter(picture => {
    const number = numbers.get(picture.file.path)!
    if (!seen.has(number)) return !!seen.add(number)
    doubles.push(baseName(picture.file.path))
    return false
  })
  if (doubles.length)
    findings.push(
      note(
        'double-numbers',
        'warning',
        `${doubles.slice(0, 4).join(', ')} ` +
          `${doubles.length > 4 ? `and ${doubles.length - 4} more ` : ''}repeat a number that is there already, ` +
          'and were left out.'
      )
    )
  return kept
}

/** Depth and alpha that all pictures are brought to, with a finding where they are not alike. */
function commonOf(pictures: readonly Picture[], findings: Finding[]): FilesSpec['common'] {
  const bitDepth = pictures.reduce<Depth>((most, { bitDepth = 8 }) => (bitDepth > most ? bitDepth : most), 8)
  const clear = pictures.find(({ claim }) => claim && claim.mode !== 'none')
  const claim = clear?.claim ?? pictures[0]!.claim
  if (!claim) return null
  const places = (which: (picture: Picture) => boolean): number[] =>
    pictures.flatMap((picture, i) => (which(picture) ? [i + 1] : []))
  const shallow = places(picture => (picture.bitDepth ?? 8) < bitDepth)
  const solid = clear ? places(picture => picture.claim?.mode === 'none') : []
  const some = (list: readonly number[]): string =>
    `${list.length === 1 ? 'Picture' : 'Pictures'} ${sayNumbers(list)} of ${pictures.length}`
  if (shallow.length)
    findings.push({
      id: 'mixed-depths',
      severity: 'note',
      frames: shallow,
      sentence:
        `${some(shallow)} ${shallow.length === 1 ? 'has' : 'have'} fewer than ${bitDepth} bits; the ` +
        `sequence is taken at ${bitDepth}, which loses nothing.`
    })
  if (solid.length)
    findings.push({
      id: 'mixed-alpha',
      severity: 'warning',
      frames: solid,
      sentence:
        `${some(solid)} ${solid.length === 1 ? 'has' : 'have'} no alpha while others have it; ` +
        `${solid.length === 1 ? 'it is' : 'they are'} taken as solid throughout.`,
      causes: 'Where the picture was meant to be clear there, it was stored without its alpha, so ask for it again.'
    })
  return { bitDepth, claim }
}

/** A picture of a run that could not be read: the number in its name, and why. */
interface Unread {
  number: number
  sentence: string
}

/** One run of pictures as a source. `unread` are those of its files that could not be read. */
async function sequence(
  run: NumberedRun,
  members: readonly Picture[],
  unread: readonly Unread[],
  reading: { notes: Map<string, Rate>; looking: Looking }
): Promise<Found> {
  const { notes, looking } = reading
  const findings: Finding[] = []
  const place = new Map(run.members.map(({ path, number }) => [path, number]))
  const sorted = [...members].sort(
    (a, b) => place.get(a.file.path)! - place.get(b.file.path)! || naturally(a.file.path, b.file.path)
  )
  const pictures = withoutDoubles(sameSize(sorted, findings), place, findings)
  const still = pictures.length === 1
  const first = pictures[0]!
  const numbers = pictures.map(({ file }) => place.get(file.path)!)
  const common = commonOf(pictures, findings)
  if (run.timed && !still)
    findings.push(
      note('time-stamps', 'note', 'Names carry times, not frame numbers: pictures follow each other in their order.')
    )
  const lost = unread.map(({ number }) => number)
  const gaps = still ? null : gapFinding(numbers, lost)
  if (gaps) findings.push(gaps)
  const sentences = unread.map(({ sentence }) => sentence)
  const damaged = unread.length && !still ? { numbers: unread.map(({ number }) => number), as: null } : null
  if (unread.length)
    findings.push({
      ...note(
        'unreadable-frames',
        'fault',
        `${unread.length} ${unread.length === 1 ? 'picture' : 'pictures'} of this sequence could not be read: ` +
          `${sentences.slice(0, 2).join('; ')}${unread.length > 2 ? ` and ${unread.length - 2} more` : ''}`
      ),
      ...waysOn(unread.length)
    })
  const named = rateInName(baseName(first.file.path)) ?? rateInName(folderName(first.file.path))
  const noted = rateFromNotes(notes, first.file.path)
  const rate = noted ?? named
  const spec = {
    kind: 'files' as const,
    name: still ? baseName(first.file.path).replace(/\.[^.]*$/, '') : withoutRate(run.title),
    format: first.format,
    files: pictures.map(p => p.file),
    numbers: still ? null : numbers,
    common,
    interpretation: {
      ...AS_FOUND,
      rate,
      rateFrom: rate ? (noted ? ('note' as const) : ('name' as const)) : null,
      ...(damaged ? { damaged } : {})
    },
    findings
  }
  return { spec, facts: await looking.describe(spec) }
}

/** A film as it is found: taken apart into colour and alpha where it says that they are halves of its picture. */
async function describedAs(spec: Omit<FilesSpec, 'id'>, looking: Looking): Promise<Found> {
  const facts = await looking.describe(spec)
  if (!facts.stacked) return { spec, facts }
  const apart = { ...spec, interpretation: { ...spec.interpretation, stacked: facts.stacked } }
  return { spec: apart, facts: await looking.describe(apart) }
}

/** Whether every file that came could be read; one that could not may still be on its way. */
export function isAllRead({ found, findings }: Intake): boolean {
  const all = [...findings, ...found.flatMap(({ spec }) => spec.findings)]
  return !all.some(({ id }) => id === 'unreadable-file' || id === 'unreadable-frames')
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
  const given = eachOnce(await unpack(files, looking, findings), findings).filter(file => !QUIET.test(file.path))
  const all = given.filter(file => !HIDDEN.test(file.path))
  const hidden = given.filter(file => HIDDEN.test(file.path)).map(file => baseName(file.path))
  if (hidden.length)
    findings.push(
      note(
        'hidden-files',
        'note',
        `${hidden.length === 1 ? 'A hidden file was' : `${hidden.length} hidden files were`} left out: ` +
          `${hidden.slice(0, 4).join(', ')}${hidden.length > 4 ? ` and ${hidden.length - 4} more` : ''}.`
      )
    )
  const notes = await noteRates(all, looking)
  const pictures: Picture[] = []
  const found: Found[] = []
  const stray: string[] = []
  const unread = new Map<string, string>()
  const at = new Map(all.map(file => [file.path, file]))
  /** Paths of files that belong to others. */
  const claimed = new Set<string>()
  // a description of a scene looks like a note until it is looked into
  const asked = all
    .filter(file => !NOTES.test(file.path) || /\.json$/i.test(file.path))
    // what tells of others says most under the shortest name
    .sort((a, b) => Number(/\.frames\.json$/i.test(a.path)) - Number(/\.frames\.json$/i.test(b.path)))
  const failed = (file: FileRef, error: unknown): void => {
    const sentence = sentenceOf(error)
    // what this machine cannot do is no fault of the file, and never one picture of a sequence
    if (error instanceof PourError && error.kind === 'impossible')
      findings.push(note('not-possible-here', 'fault', sentence))
    else unread.set(file.path, sentence)
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
      else if (!looked.value) {
        if (!NOTES.test(file.path)) stray.push(baseName(file.path))
      } else if (looked.value.kind === 'picture') pictures.push({ file, ...looked.value })
      else {
        const name = baseName(file.path).replace(/\.[^.]*$/, '')
        const { format, beside = [] } = looked.value
        const others = beside.flatMap(each => at.get(inFolder(folderName(file.path), each)) ?? [])
        // of two files that tell of the same others, the first is the source
        const known = others.length > 0 && others.every(({ path }) => claimed.has(path))
        for (const { path } of others) claimed.add(path)
        if (known) {
          findings.push(note('told-again', 'note', `${baseName(file.path)} tells of a sheet that was brought in.`))
          return
        }
        const spec = {
          kind: 'files' as const,
          name,
          format,
          files: [file, ...others],
          numbers: null,
          interpretation: AS_FOUND,
          findings: []
        }
        const described = await settled(describedAs(spec, looking))
        if (described.ok) found.push(described.value)
        else failed(file, described.error)
      }
    }
  )
  const byPath = new Map(
    pictures.filter(({ file }) => !claimed.has(file.path)).map(picture => [picture.file.path, picture])
  )
  for (const run of runsOf([...byPath.keys(), ...unread.keys()])) {
    const members = run.members.flatMap(({ path }) => byPath.get(path) ?? [])
    let lost = run.members.flatMap(({ path, number }): Unread[] => {
      const sentence = unread.get(path)
      return sentence === undefined ? [] : [{ number, sentence }]
    })
    // pictures that are not what their extension says are a sequence of their own
    const kinds = [...new Set(members.map(({ format }) => format))]
    for (const kind of kinds) {
      const alike = members.filter(({ format }) => format === kind)
      try {
        found.push(await sequence(run, alike, lost, { notes, looking }))
        lost = []
      } catch (error) {
        if (isAbort(error)) throw error
        findings.push(note('unreadable-file', 'fault', sentenceOf(error)))
      }
    }
    for (const { sentence } of lost) findings.push(note('unreadable-file', 'fault', sentence))
  }
  if (stray.length)
    findings.push(
      note(
        'stray-files',
        'note',
        `${stray.length} ${stray.length === 1 ? 'file is' : 'files are'} of no kind that Pour reads and ` +
          `${stray.length === 1 ? 'was' : 'were'} left out: ` +
          `${stray.slice(0, 4).join(', ')}${stray.length > 4 ? ` and ${stray.length - 4} more` : ''}.`
      )
    )
  onProgress?.(asked.length, asked.length)
  found.sort((a, b) => naturally(a.spec.name, b.spec.name))
  return { found, findings }
}
