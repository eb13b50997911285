/** Filling a scene from a table: one scene a row. */
import Papa from 'papaparse'
import { impossible } from '../../base/errors'
import { kindOf } from './elements/kinds'
import type { Scene } from './scene'

/** Rows that a table may have: one delivery each. */
const MOST_ROWS = 2000

/** Columns that a scene's lettering asks for, in the order of its elements. */
export const fieldsOf = ({ elements }: Scene): string[] => [
  ...new Set(elements.flatMap(({ look }) => kindOf(look).words?.column(look) ?? []))
]

/** The scene with its lettering taken from a row; what the row leaves out stays. */
export function filled(scene: Scene, row: Readonly<Record<string, string>>, name: string): Scene {
  return {
    ...scene,
    name,
    elements: scene.elements.map(element => {
      const { words } = kindOf(element.look)
      const column = words?.column(element.look) ?? null
      if (!words || column === null || !Object.hasOwn(row, column)) return element
      const look = { ...element.look }
      words.set(look, row[column]!)
      return { ...element, look }
    })
  }
}

/** What a table makes of a scene. */
export interface Filled {
  scenes: Scene[]
  /**
   * Where table and scene do not meet, a sentence each: columns that no lettering takes, and lettering that no column
   * fills. To be agreed to before anything is poured.
   */
  apart: string[]
}

const named = (names: readonly string[]): string =>
  `${names
    .slice(0, 5)
    .map(name => `"${name}"`)
    .join(', ')}${names.length > 5 ? ` and ${names.length - 5} more` : ''}`

function apartOf(columns: readonly string[], { wanted, naming }: Columns): string[] {
  const unread = columns.filter(column => column !== naming && !wanted.includes(column))
  const unfilled = wanted.filter(field => !columns.includes(field))
  const said: string[] = []
  if (unread.length)
    said.push(`No lettering takes ${unread.length === 1 ? 'the column' : 'the columns'} ${named(unread)}.`)
  if (unfilled.length)
    said.push(`No column fills the lettering of ${named(unfilled)}; it keeps the words of the scene in every row.`)
  return said
}

interface Columns {
  /** Those that lettering asks for. */
  wanted: readonly string[]
  /** The one that names each scene. */
  naming: string
}

/**
 * Scenes from the text of a table whose first row names its columns; commas, semicolons or tabs between them. Each is
 * called by the column `names`, or the first. Throws one clear error where no column is asked for or the table is
 * empty; what else does not meet is told beside the scenes.
 */
export function filledFrom(scene: Scene, table: string, file: string, names?: string): Filled {
  const { data, meta, errors } = Papa.parse<Record<string, string>>(table.replace(/^\ufeff/, ''), {
    header: true,
    skipEmptyLines: 'greedy',
    transformHeader: text => text.trim()
  })
  const columns = (meta.fields ?? []).filter(name => name !== '')
  const broken = errors.find(error => error.type === 'Quotes')
  if (broken) throw impossible(`its quotes are not closed in row ${(broken.row ?? 0) + 2}`, file)
  if (data.length === 0) throw impossible('it has no rows below the names of its columns', file)
  if (data.length > MOST_ROWS) throw impossible(`it has ${data.length} rows; ${MOST_ROWS} are taken at most`, file)
  const wanted = fieldsOf(scene)
  if (wanted.length === 0) throw impossible('no lettering of the scene takes its words from a column', file)
  const missing = wanted.filter(field => !columns.includes(field))
  if (missing.length === wanted.length)
    throw impossible(`it has no column called ${missing.map(field => `"${field}"`).join(' or ')}`, file)
  const naming = names ?? columns[0]!
  if (!columns.includes(naming)) throw impossible(`it has no column called "${naming}"`, file)
  const taken = new Map<string, number>()
  const scenes = data.map((row, n) => {
    const own = (row[naming] ?? '').trim().slice(0, 60) || `row ${n + 1}`
    const times = (taken.get(own) ?? 0) + 1
    taken.set(own, times)
    return filled(scene, row, times > 1 ? `${own} ${times}` : own)
  })
  return { scenes, apart: apartOf(columns, { wanted, naming }) }
}
