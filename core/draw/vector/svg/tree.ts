/**
 * SVG files (W3C SVG 1.1 and 2) as a tree of elements with the attributes and styles that each has by itself. Nothing
 * outside is fetched.
 */
import { XMLParser } from 'fast-xml-parser'
import { inWords, unreadable } from '../../../base/errors'

export interface Node {
  tag: string
  attributes: Readonly<Record<string, string>>
  children: Node[]
}

export const MOST_BYTES = 16 << 20
const MOST_NODES = 200_000
const MOST_DEEP = 120

/** One element as the parser gives it: its name with what is in it, and its attributes beside. */
type Parsed = Record<string, unknown>

const PLAIN: Readonly<Record<string, string>> = { amp: '&', lt: '<', gt: '>', quot: '"', apos: "'" }
/** A character by its number; none where there is no such character. */
function numbered(number: number): string {
  return number > 0 && number <= 0x10ffff && !(number >= 0xd800 && number <= 0xdfff) ? String.fromCodePoint(number) : ''
}
const plain = (text: string): string =>
  text.replace(/&(?:#(\d{1,7})|#x([0-9a-f]{1,6})|(amp|lt|gt|quot|apos));/gi, (whole, tens, hex, name) =>
    tens
      ? numbered(Number(tens))
      : hex
        ? numbered(Number.parseInt(hex as string, 16))
        : (PLAIN[name as string] ?? whole)
  )
/** Elements whose spaces are part of what they say. */
const WORDED: ReadonlySet<string> = new Set(['text', 'tspan', 'a', 'textPath', 'style'])

/** True where text begins as an SVG file does: its first element, after declarations and comments, is `svg`. */
export function looksLikeSvg(head: string): boolean {
  let at = head.startsWith('\uFEFF') ? 1 : 0
  const past = (end: string): void => {
    const found = head.indexOf(end, at)
    at = found < 0 ? head.length : found + end.length
  }
  while (at < head.length) {
    if (/\s/.test(head[at]!)) at++
    else if (head.startsWith('<!--', at)) past('-->')
    else if (head.startsWith('<?', at)) past('?>')
    else if (/^<!doctype/i.test(head.slice(at, at + 9))) {
      const [inner, closed] = [head.indexOf('[', at), head.indexOf('>', at)]
      if (inner >= 0 && inner < closed) past(']')
      past('>')
    } else return /^<(?:svg:)?svg[\s>]/.test(head.slice(at, at + 9))
  }
  return false
}

/**
 * The root element. Throws one clear error where the text is no SVG, is built too deep, or declares entities of its
 * own.
 */
export function readTree(text: string, file: string): Node {
  if (/<!ENTITY/i.test(text))
    throw unreadable(file, null, 'it declares entities of its own, which are not taken; save it as plain SVG')
  let parsed: Parsed[]
  try {
    const parser = new XMLParser({
      preserveOrder: true,
      ignoreAttributes: false,
      attributeNamePrefix: '',
      parseAttributeValue: false,
      parseTagValue: false,
      trimValues: false,
      processEntities: false,
      removeNSPrefix: true
    })
    parsed = parser.parse(text) as Parsed[]
  } catch (error) {
    throw unreadable(file, null, `it is not a complete XML file (${inWords(error)})`)
  }
  let count = 0
  const nodeOf = (given: Parsed, depth: number, within: string): Node | null => {
    const tag = Object.keys(given).find(key => key !== ':@')
    if (!tag || tag.startsWith('?')) return null
    const text = tag === '#text' ? String(given[tag]) : null
    if (text !== null && !text.trim() && !WORDED.has(within)) return null
    if (depth > MOST_DEEP || ++count > MOST_NODES)
      throw unreadable(file, null, 'it is built deeper or longer than any drawing needs')
    if (text !== null) return { tag, attributes: { text: within === 'style' ? text : plain(text) }, children: [] }
    const attributes: Record<string, string> = {}
    for (const [name, value] of Object.entries((given[':@'] as Record<string, unknown> | undefined) ?? {}))
      attributes[name] = plain(String(value))
    const children = (given[tag] as Parsed[]).flatMap(child => nodeOf(child, depth + 1, tag) ?? [])
    return { tag, attributes, children }
  }
  const root = parsed.flatMap(each => nodeOf(each, 0, '') ?? []).find(({ tag }) => tag === 'svg')
  if (!root) throw unreadable(file, null, 'this is not an SVG file: its outermost element is another')
  return root
}

/** Everything in the tree, the root first. */
export function* everything(node: Node): Generator<Node> {
  yield node
  for (const child of node.children) yield* everything(child)
}
