/**
 * Scenes as others write them: what a file may leave out is filled in, and all that is wrong with it is found at once.
 * The JSON Schema that is published, the filling in and the names that are known all come from the one schema.
 */
import { closest } from 'fastest-levenshtein'
import { z } from 'zod'
import { deepest, lying, sayFault, type Issue } from '../../base/say-issue'
import { Scene } from './scene'

/** One thing that is wrong with a scene's file. */
export interface Fault {
  /** Where, by names and places from 0. */
  path: readonly (string | number)[]
  /** What stands there, as JSON, cut short; null where nothing does, and where its name is what is wrong. */
  found: string | null
  /** What may stand there, or what is wrong, in words. */
  matter: string
}

/** What of JSON Schema (draft 2020-12) a scene's schema is made of. */
interface Node {
  type?: string
  const?: unknown
  default?: unknown
  description?: string
  properties?: Record<string, Node>
  required?: string[]
  items?: Node
  prefixItems?: Node[]
  anyOf?: Node[]
  oneOf?: Node[]
}

type Data = Record<string, unknown>
const isData = (value: unknown): value is Data => typeof value === 'object' && value !== null && !Array.isArray(value)

/** Names in an element's place, which is the middle of what it lies in unless it is written. */
const PLACE = ['x', 'y'] as const

/** What has a default need not be written. */
function loosened(node: Node): void {
  for (const each of [node.items, ...(node.prefixItems ?? []), ...(node.anyOf ?? []), ...(node.oneOf ?? [])])
    if (each) loosened(each)
  for (const each of Object.values(node.properties ?? {})) loosened(each)
  if (!node.required) return
  node.required = node.required.filter(name => !('default' in node.properties![name]!))
  if (!node.required.length) delete node.required
}

let made: Node | null = null
function schemaNode(): Node {
  if (made) return made
  const node = z.toJSONSchema(Scene) as Node
  loosened(node)
  node.properties!.$schema = { type: 'string', description: 'Where this schema lies, for an editor.' }
  const element = node.properties!.elements!.items!
  element.required = element.required!.filter(name => !(PLACE as readonly string[]).includes(name))
  for (const name of PLACE)
    element.properties![name]!.description = 'In pixels; where it is not written, the middle of the picture or group.'
  return (made = node)
}

/** The schema of a scene's file (JSON Schema, draft 2020-12); published as `docs/scene.schema.json`. */
export const sceneSchema = (): object => ({
  ...structuredClone(schemaNode()),
  title: 'A scene of Pour',
  description: 'Lengths are pixels, angles degrees clockwise, times seconds. The first element lies in front.'
})

/** The part of a schema that speaks of a value: of several, the one with its kind, else the one of its type. */
function speakingOf(node: Node, value: unknown): Node {
  const parts = node.oneOf ?? node.anyOf
  if (!parts) return node
  const type = Array.isArray(value) ? 'array' : isData(value) ? 'object' : null
  const kind = isData(value) ? value.kind : undefined
  // what may be nothing, or one of several, lies within another such part
  const within = (part: Node, is: (part: Node) => boolean): boolean =>
    is(part) || (part.oneOf ?? part.anyOf ?? []).some(each => within(each, is))
  const ofKind = (part: Node): boolean => kind !== undefined && part.properties?.kind?.const === kind
  const found = parts.find(part => within(part, ofKind)) ?? parts.find(part => within(part, each => each.type === type))
  // what no part speaks of is left to the check
  return found ? speakingOf(found, value) : {}
}

/** What may stand in a tree of data, one member after the other. */
function* membersOf(node: Node, value: unknown): Generator<[string | number, Node, unknown]> {
  if (Array.isArray(value)) {
    for (const [n, each] of value.entries()) yield [n, node.prefixItems?.[n] ?? node.items ?? {}, each]
  } else if (isData(value)) {
    for (const [name, each] of Object.entries(value)) {
      const own = node.properties && Object.hasOwn(node.properties, name) ? node.properties[name]! : {}
      yield [name, own, each]
    }
  }
}

/** Whether a schema says anything of what lies in a value. */
const speaks = ({ properties, items, prefixItems }: Node): boolean => !!(properties ?? items ?? prefixItems)

/** The data with what it leaves out. */
function filled(node: Node, value: unknown): unknown {
  const own = speakingOf(node, value)
  if (!speaks(own)) return value
  if (Array.isArray(value)) return Array.from(membersOf(own, value), ([, part, each]) => filled(part, each))
  if (!isData(value)) return value
  const missing = Object.entries(own.properties ?? {}).flatMap(([name, part]): [string, unknown][] =>
    'default' in part && !Object.hasOwn(value, name) ? [[name, structuredClone(part.default)]] : []
  )
  const given = Array.from(membersOf(own, value), ([name, part, each]): [string, unknown] => [
    String(name),
    filled(part, each)
  ])
  return Object.fromEntries([...missing, ...given])
}

/** Elements whose place is not written stand in the middle of what they lie in. */
function settled(scene: unknown): unknown {
  if (!isData(scene) || !Array.isArray(scene.elements)) return scene
  // of a size that is wrong nothing follows
  const half = (size: unknown): number => (Number.isFinite(size) ? Number(size) / 2 : 0)
  const middle = { x: half(scene.width), y: half(scene.height) }
  const elements = scene.elements.map((element: unknown) =>
    isData(element) ? { ...('inside' in element ? { x: 0, y: 0 } : middle), ...element } : element
  )
  return { ...scene, elements }
}

/** Letters of a value that is told. */
const MOST_FOUND = 60
function said(value: unknown): string | null {
  if (value === undefined) return null
  const text = JSON.stringify(value)
  return text.length > MOST_FOUND ? `${text.slice(0, MOST_FOUND - 1)}…` : text
}

/** Letters of a name that is told. */
const MOST_NAME = 40

/** Names that nothing is called by, one after the other. */
function* unknownIn(node: Node, value: unknown, path: Fault['path'] = []): Generator<Fault> {
  const own = speakingOf(node, value)
  if (!speaks(own)) return
  const { properties } = own
  for (const [name, part, each] of membersOf(own, value)) {
    const at = [...path, typeof name === 'string' ? name.slice(0, MOST_NAME) : name]
    if (Array.isArray(value) || !properties || Object.hasOwn(properties, name)) yield* unknownIn(part, each, at)
    else {
      const called = String(name).slice(0, MOST_NAME)
      const nearest = closest(called, Object.keys(properties))
      yield { path: at, found: null, matter: `nothing is called “${called}” here; the nearest is “${nearest}”` }
    }
  }
}

function faultOf(given: Issue, data: unknown): Fault {
  const issue = deepest(given)
  const path = issue.path.filter(part => typeof part !== 'symbol')
  const found = lying(data, path)
  // a program that writes scenes is told every value there is, however many
  return { path, found: said(found), matter: found === undefined ? 'it is missing' : sayFault(issue, Infinity) }
}

/** A fault in a sentence without its full stop, its place as `elements.2.look.size`. */
export function sayWritten({ path, found, matter }: Fault): string {
  return `${path.join('.') || 'the scene'}: ${matter}${found === null ? '' : `; it is ${found}`}`
}

/** Faults that are told of one file. */
const MOST_FAULTS = 200

/**
 * A scene from data that somebody wrote: what it leaves out is filled in. Where something is wrong, all that is, names
 * that are unknown first.
 */
export function writtenScene(data: unknown): { scene: Scene; faults: [] } | { scene: null; faults: Fault[] } {
  const node = schemaNode()
  const unknown: Fault[] = []
  for (const fault of unknownIn(node, data)) if (unknown.push(fault) >= MOST_FAULTS) break
  const read = Scene.safeParse(filled(node, settled(data)))
  if (read.success && !unknown.length) return { scene: read.data, faults: [] }
  const wrong = (read.error?.issues ?? []).map(issue => faultOf(issue, data))
  return { scene: null, faults: [...unknown, ...wrong].slice(0, MOST_FAULTS) }
}
