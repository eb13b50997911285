/**
 * Lettering of a drawing (SVG 2, 11) as outlines, in the type faces that ship with Pour: lines with places, sizes,
 * weights and spacing of their own, of which what cannot be set is named.
 */
import { damagedBy, unreadable } from '../../../base/errors'
import type { Host, TypeFile } from '../../../frame/host'
import { fontsFor } from '../../type/fonts'
import { pointOf } from '../../type/outlines'
import { setLine, type Cluster, type PlacedGlyph, type SetLetter } from '../../type/set'
import type { Styles } from './around'
import type { Rules } from './rules'
import { isLength, lengthOf } from './shapes'
import type { Node } from './tree'

/** Letters that one drawing may have. */
const MOST_LETTERS = 20_000
/** Size of lettering where nothing says one. */
const USUAL = 16

/** What letters take from what they stand in. */
const SET = [
  ...['font-family', 'font-size', 'font-weight', 'font-style', 'letter-spacing', 'word-spacing', 'text-anchor'],
  ...['text-decoration', 'dominant-baseline', 'font-variant', 'font-stretch', 'writing-mode', 'direction'],
  ...['white-space', 'text-decoration-line', 'font-kerning', 'display']
] as const

/** Values that are drawn; any other is named. */
const PLAIN: Readonly<Record<string, RegExp>> = {
  'font-style': /^normal$/,
  'text-decoration': /^none\b/,
  'text-decoration-line': /^none$/,
  'dominant-baseline': /^(auto|alphabetic|baseline)$/,
  'font-variant': /^normal$/,
  'font-stretch': /^(normal|100%)$/,
  'writing-mode': /^(horizontal-tb|lr|lr-tb)$/,
  'baseline-shift': /^(0|baseline)$/,
  'text-transform': /^none$/,
  'font-feature-settings': /^normal$/
}

interface Letter {
  character: string
  /** The element that holds it, and the style it is set in. */
  holder: Node
  style: Styles
  size: number
  /** Whether its white space counts as it stands. */
  kept: boolean
  /** Places and shifts that it is given. */
  x: number | null
  y: number | null
  dx: number
  dy: number
}

/** A face for a family and weight; what differs from what was asked, in words. */
function faceFor(style: Styles): { id: string; told: string | null } {
  const families = (style['font-family'] ?? '').split(',').map(name => name.trim().replace(/^['"]|['"]$/g, ''))
  const first = families[0] ?? ''
  const fixed = families.some(name => /mono|courier|consol|typewriter/i.test(name))
  const weight = style['font-weight'] ?? '400'
  const heavy = weight === 'bold' || weight === 'bolder' ? 700 : weight === 'normal' ? 400 : Number(weight) || 400
  const own = first === 'IBM Plex Sans' || first === 'IBM Plex Mono'
  const id = fixed ? 'mono' : heavy >= 650 ? 'sans-bold' : heavy >= 550 ? 'sans-half-bold' : 'sans'
  const exact = fixed ? heavy === 400 : heavy === 400 || heavy === 600 || heavy === 700
  if (own && exact) return { id, told: null }
  if (own) return { id, told: `the weight ${heavy} of “${first}”, which is drawn in the nearest that is at hand` }
  return { id, told: `the type face “${first.slice(0, 40) || 'of the browser'}”: another is drawn in its place` }
}

/** A size of lettering, by that of what it stands in. */
function sizeOf(text: string | undefined, outer: number): number {
  const found = /^\s*([\d.]+)(em|%)\s*$/.exec(text ?? '')
  if (found) return (Number(found[1]) * outer) / (found[2] === '%' ? 100 : 1)
  const size = lengthOf(text, outer, NaN)
  return size >= 0 ? size : outer
}

/** A length of lettering: em is its own size. */
const lengthIn = (text: string | undefined, whole: number, size: number): number => {
  const em = /^\s*([-+.\d]+)em\s*$/.exec(text ?? '')
  return em ? Number(em[1]) * size : lengthOf(text, whole)
}

/** Numbers of a list of places, shares of `whole` included. */
const placesOf = (text: string | undefined, whole: number, size: number): number[] =>
  (text ?? '')
    .trim()
    .split(/[\s,]+/)
    .filter(Boolean)
    .map(each => lengthIn(each, whole, size))

/** Sets the lettering of drawings into their trees. */
export class Typesetter {
  private letters = 0
  readonly told = new Set<string>()

  constructor(
    private readonly rules: Rules,
    private readonly file: string,
    private readonly host: Host
  ) {}

  /**
   * Outlines every `text` below an element: letters become children named "glyphs" with path data. Rejects with one
   * clear error where a type face cannot be read, or there is more lettering than can be taken.
   */
  async set(node: Node, measure: readonly [number, number], outer: Styles = {}, size = USUAL): Promise<void> {
    const style = this.styleOf(node, outer)
    const own = sizeOf(this.rules.of(node)['font-size'], size)
    if (node.tag === 'text') return this.setText(node, measure, { style: outer, size })
    for (const child of node.children) await this.set(child, measure, style, own)
  }

  private styleOf(node: Node, outer: Styles): Styles {
    const own = this.rules.of(node)
    return Object.fromEntries(
      SET.flatMap(name => {
        const value = own[name] !== undefined && own[name] !== 'inherit' ? own[name].trim() : outer[name]
        return value === undefined ? [] : [[name, value]]
      })
    )
  }

  private async setText(
    text: Node,
    measure: readonly [number, number],
    outer: { style: Styles; size: number }
  ): Promise<void> {
    const letters: Letter[] = []
    this.gather(text, letters, { ...outer, measure, kept: false })
    collapse(letters)
    const fonts = new Map<string, readonly TypeFile[]>()
    const all = letters.map(({ character }) => character).join('')
    for (const { style } of letters) {
      const { id } = faceFor(style)
      if (fonts.has(id)) continue
      const { files, told } = await fontsFor(this.host, id, all)
      if (told.length) this.told.add('East Asian letters of other weights than the regular')
      fonts.set(id, files)
    }
    try {
      this.place(letters, fonts)
      measureBy(new Set(letters.map(({ holder }) => holder)))
    } catch (error) {
      throw damagedBy(error, why => unreadable(this.file, null, `its lettering cannot be set (${why})`))
    }
  }

  /** Letters of an element and what is in it, in order, each with the style it is set in; the elements are emptied. */
  private gather(
    node: Node,
    into: Letter[],
    given: { style: Styles; size: number; measure: readonly [number, number]; kept: boolean }
  ): void {
    const own = this.rules.of(node)
    const style = this.styleOf(node, given.style)
    const size = sizeOf(own['font-size'], given.size)
    const kept = node.attributes.space === 'preserve' || /^pre/.test(style['white-space'] ?? '') || given.kept
    for (const [name, drawn] of Object.entries(PLAIN)) {
      const value = (own[name] ?? style[name])?.trim()
      if (value !== undefined && value !== 'inherit' && !drawn.test(value))
        this.told.add(`${name} “${value.slice(0, 40)}” of lettering`)
    }
    const said = style['font-size']
    if (said !== undefined && !/^[\d.]+(em|%)$/.test(said) && !isLength(said))
      this.told.add(`the size “${said.slice(0, 40)}” of lettering`)
    if (own.font !== undefined) this.told.add('lettering set by “font” in one')
    if (own.textLength !== undefined) this.told.add('lettering fitted to a length')
    if (own.rotate !== undefined) this.told.add('letters turned one by one')
    if (own['alignment-baseline'] && own['alignment-baseline'] !== 'auto') this.told.add('base lines of other kinds')
    if (style.display === 'none') {
      node.children = []
      return
    }
    const begins = into.length
    const children = node.children
    node.children = []
    for (const child of children) {
      if (child.tag === '#text') {
        for (const character of child.attributes.text ?? '') {
          if (++this.letters > MOST_LETTERS)
            throw unreadable(this.file, null, `more than ${MOST_LETTERS} letters cannot be set`)
          const plain = kept ? character.replace(/\s/, ' ') : character
          into.push({ character: plain, holder: node, style, size, kept, x: null, y: null, dx: 0, dy: 0 })
        }
      } else if (child.tag === 'tspan' || child.tag === 'a') {
        node.children.push(child)
        this.gather(child, into, { style, size, measure: given.measure, kept })
      } else if (!['title', 'desc'].includes(child.tag)) this.told.add(`“${child.tag.slice(0, 40)}” within lettering`)
    }
    // the places of an element go to its letters; those of one within go before
    const [w, h] = given.measure
    const lists = [
      placesOf(own.x, w, size),
      placesOf(own.y, h, size),
      placesOf(own.dx, w, size),
      placesOf(own.dy, h, size)
    ]
    const blank = (letter: Letter): boolean => !kept && /\s/.test(letter.character)
    const placed = into.slice(begins)
    // spaces at the beginning fall away, and take no place
    const from = Math.max(
      0,
      placed.findIndex(letter => !blank(letter))
    )
    for (const [i, letter] of placed.slice(from).entries()) {
      letter.x ??= lists[0]![i] ?? null
      letter.y ??= lists[1]![i] ?? null
      letter.dx ||= lists[2]![i] ?? 0
      letter.dy ||= lists[3]![i] ?? 0
    }
  }

  /** Lays letters, a part from each given place on, and puts their outlines into the elements that hold them. */
  private place(letters: readonly Letter[], fonts: ReadonlyMap<string, readonly TypeFile[]>): void {
    let [x, y] = [0, 0]
    for (let from = 0; from < letters.length;) {
      let to = from + 1
      while (to < letters.length && letters[to]!.x === null && letters[to]!.y === null) to++
      const part = letters.slice(from, to)
      x = part[0]!.x ?? x
      y = part[0]!.y ?? y
      const laid = this.laidOut(part, fonts)
      const anchor = part[0]!.style['text-anchor']
      // the start of what runs to the left is its right end
      const leftward = part[0]!.style.direction === 'rtl'
      const atRight = anchor !== 'middle' && (anchor === 'end') !== leftward
      const shift = anchor === 'middle' ? -laid.width / 2 : atRight ? -laid.width : 0
      const downs: number[] = []
      for (const { dy } of part) downs.push((downs.at(-1) ?? y) + dy)
      for (const [cluster, right] of laid.clusters)
        this.outline(part[cluster.from]!, cluster, { x: x + shift + right, y: downs[cluster.from]! })
      x += leftward ? shift : shift + laid.width
      y = downs.at(-1)!
      from = to
    }
  }

  /** Letters of a part with how far each is moved to the right; and how far the part reaches. */
  private laidOut(
    part: readonly Letter[],
    fonts: ReadonlyMap<string, readonly TypeFile[]>
  ): { width: number; clusters: [Cluster, number][] } {
    // letters that are moved one by one are not drawn as one
    const apart = part.some(({ dx, dy }) => dx !== 0 || dy !== 0)
    const letters = part.map(({ character, style, size }): SetLetter => {
      const { id, told } = faceFor(style)
      if (told) this.told.add(told)
      const spaced = lengthIn(style['letter-spacing'], size, size)
      const features = [
        ...(spaced !== 0 || apart ? ['-liga', '-clig'] : []),
        ...(style['font-kerning'] === 'none' ? ['-kern'] : [])
      ].join(',')
      const spacing = spaced + (character === ' ' ? lengthIn(style['word-spacing'], size, size) : 0)
      return { character, fonts: fonts.get(id)!, size, spacing, features, style: `${id} ${size} ${features}` }
    })
    const leftward = part[0]!.style.direction === 'rtl'
    const { clusters, missing, keptJoined } = setLine(letters, leftward ? 'rtl' : 'ltr')
    if (leftward && part.some(({ dx }) => dx !== 0)) this.told.add('letters moved one by one that run to the left')
    for (const letter of missing) this.told.add(`the letter “${letter}”, which no face has`)
    if (keptJoined) this.told.add('spacing between letters that join')
    const moved: number[] = []
    for (const { dx } of part) moved.push((moved.at(-1) ?? 0) + dx)
    const last = clusters.at(-1)
    const width = last ? last.x + last.advance + last.spacing + moved.at(-1)! : 0
    return { width, clusters: clusters.map(cluster => [cluster, moved[cluster.from]!]) }
  }

  private outline({ holder, size }: Letter, cluster: Cluster, at: { x: number; y: number }): void {
    if (!(size > 0)) return
    const { file, advance } = cluster
    const left = at.x + cluster.x
    const d = cluster.glyphs.map(glyph => pathData({ ...glyph, x: at.x + glyph.x, y: at.y + glyph.y }, size)).join('')
    // a paint is measured by the cells of letters, not by their outlines (SVG 2, 11.1)
    const unit = size / file.unitsPerEm
    const cell = [left, at.y - file.ascender * unit, left + advance, at.y - file.descender * unit]
    const last = holder.children.at(-1)
    if (last?.tag === 'glyphs') {
      const box = last.attributes.cell!.split(' ').map(Number)
      const joined = box.map((edge, i) => (i < 2 ? Math.min : Math.max)(edge, cell[i]!))
      last.attributes = { ...last.attributes, d: last.attributes.d! + d, cell: joined.join(' ') }
    } else if (d) holder.children.push({ tag: 'glyphs', attributes: { d, cell: cell.join(' ') }, children: [] })
  }
}

/** Outlines of a letter as path data of plain decimals. */
function pathData(glyph: PlacedGlyph, size: number): string {
  const point = pointOf(glyph, size)
  return glyph.file
    .outline(glyph.glyph)
    .map(({ type, values }) => {
      const points = Array.from({ length: values.length / 2 }, (_, n) => point(values[2 * n]!, values[2 * n + 1]!))
      return type + points.flatMap(spot => spot.map(number => Number(number.toFixed(5)))).join(' ')
    })
    .join('')
}

/** Paints of lettering are measured by the cells of all its letters, whichever element holds them. */
function measureBy(holders: ReadonlySet<Node>): void {
  const glyphs = [...holders].flatMap(({ children }) => children.filter(({ tag }) => tag === 'glyphs'))
  const boxes = glyphs.map(({ attributes }) => attributes.cell!.split(' ').map(Number))
  const edge = (n: number): number => (n < 2 ? Math.min : Math.max)(...boxes.map(box => box[n]!))
  const cell = [0, 1, 2, 3].map(edge).join(' ')
  for (const each of glyphs) each.attributes = { ...each.attributes, cell }
}

/** White space as it counts: one space for several, none at the beginning and the end (CSS Text 3, 4.1). */
function collapse(letters: Letter[]): void {
  let spaced = true
  const kept = letters.filter(letter => {
    if (letter.kept) {
      spaced = false
      return true
    }
    if (!/\s/.test(letter.character)) {
      spaced = false
      return true
    }
    letter.character = ' '
    const first = !spaced
    spaced = true
    return first
  })
  while (kept.length && kept.at(-1)!.character === ' ' && !kept.at(-1)!.kept) kept.pop()
  letters.splice(0, letters.length, ...kept)
}
