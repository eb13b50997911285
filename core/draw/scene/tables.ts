/** Filling a scene from a table: one scene a row, its words, numbers, colours and pictures from columns. */
import Papa from 'papaparse'
import { HexColour } from '../../base/colour'
import { impossible } from '../../base/errors'
import { sayValue } from './elements/counter/count'
import { kindOf } from './elements/kinds'
import type { Element, Scene } from './scene'
import type { Columns } from './values'

/** Rows that a table may have: one delivery each. */
const MOST_ROWS = 2000

/** What of an element a column can fill. */
export const FILLED = ['words', 'number', 'colour', 'picture'] as const
export type FilledPart = (typeof FILLED)[number]

/** A part of an element that a column fills, or may. */
export interface Slot {
  id: string
  part: FilledPart
  column: string | null
}

/** Whether an element has a part. */
function has({ look }: Element, part: FilledPart): boolean {
  const kind = kindOf(look)
  if (part === 'words') return kind.words !== undefined
  if (part === 'colour') return kind.paint !== undefined && kind.paint(look) !== null
  return kind.fills?.[part] !== undefined
}

const columnOf = ({ look, columns }: Element, part: FilledPart): string | null =>
  part === 'words' ? (kindOf(look).words?.column(look) ?? null) : (columns?.[part] ?? null)

/** Everything in a scene that a column can fill, in the order of its elements. */
export const slotsOf = ({ elements }: Scene): Slot[] =>
  elements.flatMap(element =>
    FILLED.flatMap(part => (has(element, part) ? [{ id: element.id, part, column: columnOf(element, part) }] : []))
  )

/** Gives a part another column, or none. Changes the scene. */
export function matchColumn(scene: Scene, { id, part, column }: Slot): void {
  const element = scene.elements.find(other => other.id === id)
  if (!element) return
  if (part === 'words') {
    kindOf(element.look).words?.takeColumn(element.look, column)
    return
  }
  const { [part]: _before, ...others } = element.columns ?? {}
  const next: Columns = { ...others, ...(column === null ? {} : { [part]: column }) }
  if (Object.keys(next).length) element.columns = next
  else delete element.columns
}

/** Columns that a scene asks for, in the order of its elements. */
export const fieldsOf = (scene: Scene): string[] => [
  ...new Set(slotsOf(scene).flatMap(({ column }) => (column === null ? [] : [column])))
]

/** A table whose first row names its columns. */
export interface Table {
  file: string
  columns: string[]
  rows: Readonly<Record<string, string>>[]
}

/**
 * A table from its text; commas, semicolons or tabs between columns. Throws one clear error where it has no rows, too
 * many of them, or quotes that are not closed.
 */
export function readTable(text: string, file: string): Table {
  const { data, meta, errors } = Papa.parse<Record<string, string>>(text.replace(/^\ufeff/, ''), {
    header: true,
    skipEmptyLines: 'greedy',
    transformHeader: name => name.trim()
  })
  const broken = errors.find(error => error.type === 'Quotes')
  if (broken) throw impossible(`its quotes are not closed in row ${(broken.row ?? 0) + 2}`, file)
  if (data.length === 0) throw impossible('it has no rows below the names of its columns', file)
  if (data.length > MOST_ROWS) throw impossible(`it has ${data.length} rows; ${MOST_ROWS} are taken at most`, file)
  return { file, columns: (meta.fields ?? []).filter(name => name !== ''), rows: data }
}

/** A picture as elements carry it: a PNG file in base64, and its size. */
export interface CarriedPicture {
  data: string
  width: number
  height: number
}

/** What a table is filled in with: the column that names the scenes, if not the first, and pictures by their names. */
export interface Filling {
  names?: string | undefined
  pictures?: ReadonlyMap<string, CarriedPicture>
}

/** A scene that a row makes, and what of the row could not be filled in, a sentence each. */
export interface FilledRow {
  scene: Scene
  wrong: string[]
}

/** What a table makes of a scene. */
export interface Filled {
  rows: FilledRow[]
  /**
   * Where table and scene do not meet, a sentence each: columns that nothing takes, and parts that no column fills. To
   * be agreed to before anything is poured.
   */
  apart: string[]
}

/** A number as tables write it: with a point or a comma before its decimals, thousands apart or not; null for none. */
export function numberIn(text: string): number | null {
  const bare = text
    .trim()
    .replace(/[\s\u00a0\u202f'’_]/g, '')
    .replace(/^[−–]/, '-')
  if (/^[-+]?(\d+\.?\d*|\.\d+)$/.test(bare)) return Number(bare)
  // thousands by commas or points, decimals by the other
  if (/^[-+]?\d{1,3}(,\d{3})+(\.\d+)?$/.test(bare)) return Number(bare.replaceAll(',', ''))
  if (/^[-+]?\d{1,3}(\.\d{3})+(,\d+)?$/.test(bare)) return Number(bare.replaceAll('.', '').replace(',', '.'))
  if (/^[-+]?\d*,\d+$/.test(bare)) return Number(bare.replace(',', '.'))
  return null
}

/** A colour as tables write it: six or three digits of hexadecimal, with or without a cross before them. */
export function colourIn(text: string): HexColour | null {
  const bare = text.trim().replace(/^#/, '').toLowerCase()
  const six = /^[0-9a-f]{3}$/.test(bare) ? [...bare].map(digit => digit + digit).join('') : bare
  const found = HexColour.safeParse(`#${six}`)
  return found.success ? found.data : null
}

const called = ({ name, id }: Element): string => `“${name || id}”`

/** An element filled from a row; what cannot be is left as it is and told. */
function filledElement(
  element: Element,
  row: Readonly<Record<string, string>>,
  how: Filling,
  wrong: string[]
): Element {
  const given = (part: FilledPart): string | null => {
    const column = has(element, part) ? columnOf(element, part) : null
    return column !== null && Object.hasOwn(row, column) ? row[column]! : null
  }
  let next = element
  const changed = (change: (of: Element) => void): void => {
    if (next === element) next = { ...element, look: { ...element.look } }
    change(next)
  }
  const words = given('words')
  if (words !== null) {
    const { figures } = element.columns ?? {}
    const value = figures ? numberIn(words) : null
    if (figures && value === null && words.trim())
      wrong.push(`“${words.trim()}” is no number; ${called(element)} shows it as it stands.`)
    const said =
      figures && value !== null ? sayValue({ shows: 'number', ...figures, before: '', behind: '' }, value) : words
    changed(({ look }) => kindOf(look).words!.set(look, said))
  }
  const keeps = (said: string): void => void wrong.push(`${said}; ${called(element)} keeps its own.`)
  const shown = (text: string, of: string): string =>
    text.trim() ? `“${text.trim()}” is no ${of}` : `The ${of} is empty`
  const number = given('number')
  if (number !== null) {
    const value = numberIn(number)
    if (value === null) keeps(shown(number, 'number'))
    else changed(({ look }) => kindOf(look).fills!.number!(look, value))
  }
  const colour = given('colour')
  if (colour !== null) {
    const found = colourIn(colour)
    if (found === null) keeps(shown(colour, 'colour'))
    else changed(of => void (of.colours = [{ at: 0, colour: found, ease: 'linear' }]))
  }
  const picture = given('picture')
  if (picture !== null) {
    const found = how.pictures?.get(picture.trim())
    if (found) changed(({ look }) => kindOf(look).fills!.picture!(look, found))
    else keeps(picture.trim() ? `There is no picture “${picture.trim()}”` : 'The picture is empty')
  }
  return next
}

/** The scene with its parts taken from a row; what the row leaves out stays. */
export function filled(
  scene: Scene,
  row: Readonly<Record<string, string>>,
  name: string,
  how: Filling = {}
): FilledRow {
  const wrong: string[] = []
  const elements = scene.elements.map(element => filledElement(element, row, how, wrong))
  return { scene: { ...scene, name, elements }, wrong }
}

const named = (names: readonly string[]): string =>
  `${names
    .slice(0, 5)
    .map(name => `"${name}"`)
    .join(', ')}${names.length > 5 ? ` and ${names.length - 5} more` : ''}`

function apartOf(columns: readonly string[], wanted: readonly string[], naming: string): string[] {
  const unread = columns.filter(column => column !== naming && !wanted.includes(column))
  const unfilled = wanted.filter(field => !columns.includes(field))
  const said: string[] = []
  if (unread.length)
    said.push(`Nothing in the scene takes ${unread.length === 1 ? 'the column' : 'the columns'} ${named(unread)}.`)
  if (unfilled.length)
    said.push(`The table has no column ${named(unfilled)}; what takes it stays as it is in every row.`)
  return said
}

/** Columns that elements name for what they do not have, a sentence each. */
const idleColumns = ({ elements }: Scene): string[] =>
  elements.flatMap(element =>
    FILLED.flatMap(part => {
      const column = part === 'words' ? undefined : element.columns?.[part]
      if (column === undefined || has(element, part)) return []
      return [`${called(element)} has no ${part} to fill; the column "${column}" does nothing there.`]
    })
  )

/** Names of the pictures that a table's rows ask a scene for. */
export function picturesAsked(scene: Scene, { rows }: Table): string[] {
  const columns = slotsOf(scene).flatMap(({ part, column }) => (part === 'picture' && column !== null ? [column] : []))
  return [...new Set(rows.flatMap(row => columns.flatMap(column => row[column]?.trim() || [])))]
}

/**
 * Scenes from a table. Each is called by the column `names`, or the first. Throws one clear error where no column is
 * asked for, or none that is; what else does not meet is told beside the scenes.
 */
export function filledFrom(scene: Scene, { file, columns, rows }: Table, how: Filling = {}): Filled {
  const wanted = fieldsOf(scene)
  if (wanted.length === 0) throw impossible('nothing in the scene takes a column', file)
  const missing = wanted.filter(field => !columns.includes(field))
  if (missing.length === wanted.length)
    throw impossible(`it has no column called ${missing.map(field => `"${field}"`).join(' or ')}`, file)
  const naming = how.names ?? columns[0]!
  if (!columns.includes(naming)) throw impossible(`it has no column called "${naming}"`, file)
  const taken = new Map<string, number>()
  return {
    apart: [...apartOf(columns, wanted, naming), ...idleColumns(scene)],
    rows: rows.map((row, n) => {
      const own = (row[naming] ?? '').trim().slice(0, 60) || `row ${n + 1}`
      const times = (taken.get(own) ?? 0) + 1
      taken.set(own, times)
      return filled(scene, row, times > 1 ? `${own} ${times}` : own, how)
    })
  }
}

/** The column that is most likely meant for a part: of its element's name or words, whatever its case. */
export function likelyColumn({ name, look }: Element, part: FilledPart, columns: readonly string[]): string | null {
  const plain = (text: string): string => text.toLowerCase().replace(/[^\p{L}\p{N}]+/gu, '')
  const words = kindOf(look).words?.of(look)
  const wanted =
    part === 'words' || part === 'number' ? [name, ...(words === undefined ? [] : [words])] : [`${name} ${part}`, part]
  return columns.find(column => wanted.some(each => plain(each) !== '' && plain(each) === plain(column))) ?? null
}
