/**
 * Which numbered files belong together, and which of the numbers in their names counts the frames. A name alone cannot
 * tell ("shot_0001_v2", "0001_1920x1080", "frame0001@2x"): the frame number is the field that runs from file to file
 * while the others stand.
 */
import { naturally } from '../../base/natural'

/** Files of one run, in the order of their frames. */
export interface NumberedRun {
  /** What they are called, without number and extension. */
  title: string
  members: { path: string; number: number }[]
  /** Whether names carry times rather than numbers: members are numbered by their order, and nothing can be missing. */
  timed: boolean
}

interface Name {
  path: string
  folder: string
  /** What stands between the numbers; one more than those. */
  letters: string[]
  digits: string[]
}

/** More digits than any frame number has: times in milliseconds, dates with times. */
const TIME_DIGITS = 10
/** Fields that change together and have so many digits between them are a date and a time. */
const DATE_DIGITS = 6
/** Files that may be a run by their times alone. */
const LEAST_TIMED = 3

function nameOf(path: string): Name {
  const slash = path.lastIndexOf('/') + 1
  const file = path.slice(slash)
  const dot = file.lastIndexOf('.')
  const [stem, extension] = dot > 0 ? [file.slice(0, dot), file.slice(dot).toLowerCase()] : [file, '']
  const letters = stem.split(/\d+/)
  letters[letters.length - 1] += extension
  return { path, folder: path.slice(0, slash), letters, digits: stem.match(/\d+/g) ?? [] }
}

function grouped<T>(items: readonly T[], key: (item: T) => string): T[][] {
  const groups = new Map<string, T[]>()
  for (const item of items) {
    const of = key(item)
    const members = groups.get(of)
    if (members) members.push(item)
    else groups.set(of, [item])
  }
  return [...groups.values()]
}

/** The numbers beside the one at `field`: files of one run share them. */
const othersAt = (name: Name, field: number): string =>
  name.digits.map((digits, i) => (i === field ? '' : String(BigInt(digits)))).join('\u0000')

/** What files of a run are called: the letters, and the numbers that stand, around the one that runs. */
function titleOf({ folder, letters, digits }: Name, field: number, signed: boolean): string {
  const before = letters.slice(0, field + 1).map((part, i) => part + (i < field ? digits[i]! : ''))
  const after = letters.slice(field + 1).map((part, i) => part + (digits[field + 1 + i] ?? ''))
  const trimmed = before
    .join('')
    .slice(0, signed ? -1 : undefined)
    .replace(/[\s._-]+$/, '')
  const rest = after
    .join('')
    .replace(/\.[^.]*$/, '')
    .replace(/[\s._-]+$/, '')
  const own = trimmed + rest
  return (
    own.replace(/^[\s._-]+/, '') ||
    folder
      .replace(/\/$/, '')
      .replace(/^.*\//, '')
      .replace(/\.zip$/i, '') ||
    'frames'
  )
}

function byNumber(names: readonly Name[], field: number, sign = 1): NumberedRun['members'] {
  return names.map(({ path, digits }) => ({ path, number: sign * Number(digits[field]!) }))
}

const sorted = (members: NumberedRun['members']): NumberedRun['members'] =>
  members.sort((a, b) => a.number - b.number || naturally(a.path, b.path))

function inOrder(names: readonly Name[]): NumberedRun['members'] {
  return [...names].sort((a, b) => naturally(a.path, b.path)).map(({ path }, i) => ({ path, number: i + 1 }))
}

/** A run with what it needs to be joined with its negative numbers. */
interface Part extends NumberedRun {
  names: readonly Name[]
  field: number
}

/**
 * The fields of a name that are a date with a time of day behind it, in one piece each or in three; empty where there
 * is none.
 */
function clockFields({ digits }: Name): number[] {
  const two = (i: number): boolean => digits[i]?.length === 2
  const year = digits.findIndex(
    (part, i) => /^(19|20)\d\d$/.test(part) && two(i + 1) && Number(digits[i + 1]) <= 12 && two(i + 2)
  )
  const date = digits.findIndex(part => /^(19|20)\d\d(0[1-9]|1[0-2])([0-2]\d|3[01])$/.test(part))
  const from = year >= 0 ? year : date
  if (from < 0) return []
  const time = year >= 0 ? year + 3 : date + 1
  const until = digits[time]?.length === 6 ? time : two(time) && two(time + 1) && two(time + 2) ? time + 2 : -1
  return until < 0 ? [] : Array.from({ length: until - from + 1 }, (_, i) => from + i)
}

/** Runs among names that differ in their numbers alone. */
function partsOf(names: readonly Name[]): Part[] {
  const fields = names[0]!.digits.length
  const part = (members: readonly Name[], field: number): Part => {
    const title = titleOf(members[0]!, field, false)
    const timed =
      members.length > 1 && members.some(name => name.digits[field]!.replace(/^0+/, '').length >= TIME_DIGITS)
    return { title, members: timed ? inOrder(members) : sorted(byNumber(members, field)), timed, names: members, field }
  }
  const running = Array.from({ length: fields }, (_, i) => i).filter(
    i => new Set(names.map(name => String(BigInt(name.digits[i]!)))).size > 1
  )
  // a single file, or copies with other padding: as before, the last number is taken
  if (running.length === 0) return [part(names, fields - 1)]
  const clock = clockFields(names[0]!)
  if (running.every(field => clock.includes(field)))
    return [
      { title: titleOf(names[0]!, clock[0]!, false), members: inOrder(names), timed: true, names, field: clock[0]! }
    ]
  const splits = running.map(field => ({ field, groups: grouped(names, name => othersAt(name, field)) }))
  const [best] = splits.sort((a, b) => a.groups.length - b.groups.length || b.field - a.field)
  const alone = best!.groups.every(group => group.length === 1)
  const longest = (field: number): number => names.reduce((most, name) => Math.max(most, name.digits[field]!.length), 0)
  const digits = running.reduce((sum, field) => sum + longest(field), 0)
  if (alone && names.length >= LEAST_TIMED && running.length > 1 && digits >= DATE_DIGITS)
    return [
      { title: titleOf(names[0]!, running[0]!, false), members: inOrder(names), timed: true, names, field: running[0]! }
    ]
  return best!.groups.map(group => part(group, best!.field))
}

/** Joins "f-2, f-1" to "f0, f1": a run before zero is written with a sign that looks like a hyphen. */
function withNegatives(parts: Part[]): Part[] {
  const gone = new Set<Part>()
  for (const minus of parts) {
    const { field, names, timed } = minus
    const [first] = names
    if (timed || !first!.letters[field]!.endsWith('-')) continue
    const bare = first!.letters.map((part, i) => (i === field ? part.slice(0, -1) : part)).join('\u0001')
    const plus = parts.find(
      part =>
        part !== minus &&
        !part.timed &&
        part.field === field &&
        part.names[0]!.folder === first!.folder &&
        part.names[0]!.letters.join('\u0001') === bare &&
        othersAt(part.names[0]!, field) === othersAt(first!, field) &&
        part.members[0]!.number === 0
    )
    if (!plus || minus.members[0]!.number === 0) continue
    plus.members = sorted([...plus.members, ...byNumber(names, field, -1)])
    gone.add(minus)
  }
  return parts.filter(part => !gone.has(part))
}

/**
 * Every path once, in the run it belongs to. Runs are told by folder, by the letters of the name and its extension, and
 * by the numbers that stand; files without a number are runs of one.
 */
export function runsOf(paths: readonly string[]): NumberedRun[] {
  const names = paths.map(nameOf)
  const bare = names
    .filter(name => name.digits.length === 0)
    .map((name): NumberedRun => {
      const title = name.letters[0]!.replace(/\.[^.]*$/, '')
      return { title, members: [{ path: name.path, number: 0 }], timed: false }
    })
  const alike = grouped(
    names.filter(name => name.digits.length > 0),
    name => [name.folder, ...name.letters].join('\u0000')
  )
  return [
    ...bare,
    ...withNegatives(alike.flatMap(partsOf)).map(({ title, members, timed }) => ({ title, members, timed }))
  ]
}
