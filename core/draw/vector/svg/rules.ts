/** Style rules of SVG files: which styles an element has by itself (CSS 2.2, 6.4, as far as simple selectors go). */
import { everything, type Node } from './tree'

export type OwnStyles = Readonly<Record<string, string>>

interface Ruled {
  order: number
  styles: OwnStyles
}

/** Declarations of a style attribute or rule, by name. */
function declarations(text: string): Record<string, string> {
  const found: Record<string, string> = {}
  for (const part of text.split(';')) {
    const at = part.indexOf(':')
    const name = part.slice(0, at).trim()
    if (at > 0 && name && name !== '__proto__')
      found[name] = part
        .slice(at + 1)
        .replace('!important', '')
        .trim()
  }
  return found
}

/** Text without its comments; one that never ends hides all that follows. */
function uncommented(text: string): string {
  let kept = ''
  for (let at = 0; ;) {
    const begins = text.indexOf('/*', at)
    if (begins < 0) return kept + text.slice(at)
    kept += text.slice(at, begins)
    const ends = text.indexOf('*/', begins + 2)
    if (ends < 0) return kept
    at = ends + 2
  }
}

/**
 * The rules of a file's style elements whose selectors are one tag, class or id; the others are named in `unknown`.
 * An element's styles are looked up once, however often they are asked for, and however many rules there are.
 */
export class Rules {
  /** By selector: a tag, ".class" or "#id". */
  private readonly bySelector = new Map<string, Ruled[]>()
  private readonly known = new WeakMap<Node, OwnStyles>()

  constructor(root: Node, unknown: (what: string) => void) {
    let order = 0
    for (const node of everything(root)) {
      if (node.tag !== 'style') continue
      const text = uncommented(node.children.map(({ attributes }) => attributes.text ?? '').join(''))
      for (const rule of text.split('}')) {
        const [selectors, body, ...more] = rule.split('{')
        if (body === undefined || more.length > 0) {
          if (selectors!.trim()) unknown(`the style of “${selectors!.trim().slice(0, 40)}”`)
          continue
        }
        const styles = declarations(body)
        for (const selector of selectors!.split(',').map(each => each.trim())) {
          if (!/^[.#]?[\w-]+$/.test(selector)) unknown(`the style of “${selector.slice(0, 40)}”`)
          else {
            const ruled = { order: order++, styles }
            const same = this.bySelector.get(selector)
            if (same) same.push(ruled)
            else this.bySelector.set(selector, [ruled])
          }
        }
      }
    }
  }

  /** What an element's own attributes, the rules for it and its style say, the later over the former. */
  of(node: Node): OwnStyles {
    const known = this.known.get(node)
    if (known) return known
    const { tag, attributes } = node
    const classes = new Set((attributes.class ?? '').split(/\s+/).filter(Boolean))
    const byClass = [...classes].flatMap(name => this.bySelector.get(`.${name}`) ?? [])
    const own: Record<string, string> = { ...attributes }
    for (const { styles } of [
      ...(this.bySelector.get(tag) ?? []),
      ...byClass.sort((a, b) => a.order - b.order),
      ...(attributes.id === undefined ? [] : (this.bySelector.get(`#${attributes.id}`) ?? []))
    ])
      Object.assign(own, styles)
    if (attributes.style) Object.assign(own, declarations(attributes.style))
    this.known.set(node, own)
    return own
  }
}
