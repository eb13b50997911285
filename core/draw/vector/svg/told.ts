/**
 * What of an SVG file is not drawn, in words. Whatever is not known to be drawn is named: an element, a property, a
 * value, so that nothing is left out in silence.
 */
import { isBlend } from '../../scene/blend'
import { unfiltered } from './filter'
import { markerAt } from './marker'
import { isShade } from './paint'
import { isCarried } from './picture'
import type { Rules } from './rules'
import { isLength } from './shapes'
import type { Node } from './tree'

const SHAPES = ['path', 'rect', 'circle', 'ellipse', 'line', 'polyline', 'polygon']
const DRAWN: ReadonlySet<string> = new Set([
  ...SHAPES,
  ...['svg', 'g', 'a', 'switch', 'symbol', 'use', 'defs', 'linearGradient', 'radialGradient', 'stop'],
  ...['clipPath', 'mask', 'pattern', 'filter', 'style', 'title', 'desc', 'metadata', 'view', '#text', 'marker'],
  ...['text', 'tspan', 'image', 'glyphs'],
  // of programs that drew it, for themselves
  ...['namedview', 'RDF', 'path-effect', 'grid', 'guide', 'pgf', 'page']
])

const WORDS: Readonly<Record<string, string>> = {
  textPath: 'lettering along a path',
  foreignObject: 'a foreign object',
  script: 'a program, which never runs here',
  ...Object.fromEntries(
    ['animate', 'animateTransform', 'animateMotion', 'set', 'animateColor', 'discard'].map(tag => [
      tag,
      'its own animation: the still picture is drawn'
    ])
  )
}

/** Properties that change what is seen, and are not drawn whatever their value. */
const NEVER: Readonly<Record<string, string>> = {
  'backdrop-filter': 'filters on what lies behind',
  'mask-image': 'masks by pictures of style sheets',
  'mask-border': 'masks by borders',
  clip: 'clipping by rectangles of style sheets',
  perspective: 'perspective',
  'offset-path': 'motion along a path',
  zoom: 'zooming by style sheets',
  animation: 'its own animation: the still picture is drawn',
  'animation-name': 'its own animation: the still picture is drawn',
  rotate: 'turning by a property of its own',
  scale: 'scaling by a property of its own',
  translate: 'moving by a property of its own'
}

/** Properties of which only these values are drawn. */
const VALUES: Readonly<Record<string, RegExp>> = {
  'stroke-linejoin': /^(miter|round|bevel|inherit)$/,
  'stroke-linecap': /^(butt|round|square|inherit)$/,
  'fill-rule': /^(nonzero|evenodd|inherit)$/,
  'clip-rule': /^(nonzero|evenodd|inherit)$/,
  'vector-effect': /^(none|non-scaling-stroke)$/,
  'shape-rendering': /^(auto|geometricPrecision|inherit)$/,
  'color-interpolation': /^(auto|sRGB|inherit)$/,
  'transform-box': /^(view-box|fill-box|border-box)$/,
  'paint-order': /^(normal|(fill|stroke|markers)(\s+(fill|stroke|markers))*)$/,
  'mask-type': /^(luminance|alpha)$/,
  'mask-mode': /^match-source$/,
  isolation: /^(auto|isolate)$/,
  'image-rendering': /^(auto|optimizeQuality|smooth|optimizeSpeed|pixelated|crisp-edges|inherit)$/,
  overflow: /^(visible|hidden|auto|scroll|clip|inherit)$/
}

const COLOURS = ['fill', 'stroke', 'color', 'stop-color', 'flood-color']
const LENGTHS = [
  'stroke-width',
  'stroke-dashoffset',
  'x',
  'y',
  'width',
  'height',
  'cx',
  'cy',
  'r',
  'rx',
  'ry',
  'x1',
  'y1'
]
/** Elements whose places are lists, in lengths of their own. */
const LETTERED: ReadonlySet<string> = new Set(['text', 'tspan'])
const REFERENCES = ['clip-path', 'mask', 'filter'] as const
const KINDS: Readonly<Record<(typeof REFERENCES)[number], { tag: string; words: string }>> = {
  'clip-path': { tag: 'clipPath', words: 'clipping' },
  mask: { tag: 'mask', words: 'masks' },
  filter: { tag: 'filter', words: 'filters' }
}

/** The id that a value refers to within the file; null where it is none. */
export const referredTo = (value: string | undefined): string | null =>
  /^\s*url\(\s*['"]?#([^'")]+)['"]?\s*\)/.exec(value ?? '')?.[1] ?? null

const short = (text: string): string => (text.length > 40 ? `${text.slice(0, 40)}…` : text)

/** What is not drawn of one element, given its own styles. */
function ofElement(node: Node, style: Readonly<Record<string, string>>, byId: ReadonlyMap<string, Node>): string[] {
  const { tag, attributes } = node
  const found: string[] = []
  for (const [name, words] of Object.entries(NEVER))
    if (style[name] !== undefined && style[name] !== 'none') found.push(words)
  for (const [name, allowed] of Object.entries(VALUES)) {
    const value = style[name]?.trim()
    if (value !== undefined && !allowed.test(value)) found.push(`${name} “${short(value)}”`)
  }
  for (const name of COLOURS) {
    const value = style[name]?.trim()
    if (value === undefined || referredTo(value) !== null) continue
    if (!isShade(value)) found.push(`the colour “${short(value)}”`)
  }
  for (const name of LETTERED.has(tag) ? [] : LENGTHS) {
    const value = style[name]?.trim()
    if (value !== undefined && value !== 'auto' && !isLength(value)) found.push(`the length “${short(value)}”`)
  }
  for (const name of REFERENCES) {
    const value = style[name]?.trim()
    if (value === undefined || value === 'none') continue
    const id = referredTo(value)
    const { tag: kind, words } = KINDS[name]
    const other = id === null ? undefined : byId.get(id)
    if (id === null) found.push(`${words} by “${short(value)}”`)
    // a reference that leads nowhere draws nothing otherwise
    else if (other && other.tag !== kind) found.push(`${words} by another element`)
    else if (other?.tag === 'filter') {
      const why = unfiltered(other)
      if (why) found.push(why)
    }
  }
  const mode = style['mix-blend-mode']?.trim()
  if (mode !== undefined && !isBlend(mode)) found.push(`blending by “${short(mode)}”`)
  for (const place of ['start', 'mid', 'end'] as const) {
    const id = markerAt(style, place)
    const other = id === null ? undefined : byId.get(id)
    if (other && other.tag !== 'marker') found.push('markers by another element')
  }
  if (tag === 'image' && !isCarried(attributes.href ?? ''))
    found.push(
      attributes.href?.trim().startsWith('data:')
        ? 'a picture within it, of a kind that is not drawn'
        : `“${short(attributes.href ?? '')}”, which is not fetched`
    )
  if (
    attributes.pathLength !== undefined &&
    style['stroke-dasharray'] !== undefined &&
    !(Number(attributes.pathLength) > 0)
  )
    found.push('a path length that is none')
  if (
    /[a-z]/i.test(
      (style.transform ?? '').replace(
        /\b(matrix|translate|scale|rotate|skewX|skewY|none|e|px|deg)\b|\d+e[-+]?\d+/gi,
        ''
      )
    )
  )
    found.push(`the transform “${short(style.transform!)}”`)
  if (Object.values(style).some(value => /\b(var|calc|env|min|max|clamp)\(/.test(value)))
    found.push('values that are computed')
  if (tag === 'radialGradient' && Number.parseFloat(attributes.fr ?? '0') > 0 && (attributes.fx ?? attributes.fy))
    found.push('an inner circle of a gradient that is off its centre')
  if (tag === 'stop' || tag === '#text') return found
  const href = tag === 'image' ? '' : (attributes.href ?? '')
  if (href && !href.startsWith('#') && tag !== 'a') found.push(`“${short(href)}”, which is not fetched`)
  return found
}

/** Everything that is not drawn, each thing once. */
export function leftOutOf(root: Node, rules: Rules, byId: ReadonlyMap<string, Node>): string[] {
  const told = new Set<string>()
  let [sized, measured] = [false, false]
  const go = (node: Node): void => {
    const { tag } = node
    if (tag === 'metadata' || tag === 'namedview') return
    if (WORDS[tag]) told.add(WORDS[tag])
    else if (!DRAWN.has(tag)) told.add(`the element “${short(tag)}”`)
    if (tag === 'foreignObject' || tag === 'filter') return
    const style = rules.of(node)
    for (const words of ofElement(node, style, byId)) told.add(words)
    sized ||= style['font-size'] !== undefined || style.font !== undefined
    measured ||= !LETTERED.has(tag) && LENGTHS.some(name => /[\d.](em|rem|ex)\s*$/i.test(style[name] ?? ''))
    for (const child of node.children) go(child)
  }
  go(root)
  // em is that of lettering of the usual size; where one is set, lengths may mean another
  if (sized && measured) told.add('lengths in em, of lettering that has a size of its own')
  return [...told]
}
