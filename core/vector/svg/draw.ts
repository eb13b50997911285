/**
 * Drawing an SVG file in floating point: fills and strokes with the exact area of each pixel, gradients, groups with
 * their opacity. What is not drawn is named. Nothing outside the file is fetched and no program in it runs.
 */
import { unreadable } from '../../errors'
import { MAX_PIXELS } from '../../frame/frame'
import { clearLayer, over, type Layer } from '../../scene/layer'
import { combined, placed, type Affine } from '../../scene/outline'
import { areaOf, isEmpty, type Bounds, type Coverage } from '../../scene/raster'
import { gradientOf, shadeOf, shareOf, STILL, transformOf, type Painting, type Shade } from './paint'
import { boxOf, lengthOf, pathOf, placedRuns, runsOf } from './shapes'
import { strokeAreas } from './stroke'
import { everything, ownStyles, readTree, rulesOf, type Node, type Rule } from './tree'

/** What is inherited (SVG 1.1, appendix on properties). */
const INHERITED = [
  ...['color', 'fill', 'fill-opacity', 'fill-rule', 'stroke', 'stroke-width', 'stroke-opacity', 'stroke-linecap'],
  ...['stroke-linejoin', 'stroke-miterlimit', 'stroke-dasharray', 'stroke-dashoffset', 'visibility']
]

const GROUPS = ['svg', 'g', 'a', 'switch', 'symbol']
/** Elements that draw nothing where they stand, and need no word. */
const SILENT = [
  ...[
    'defs',
    'title',
    'desc',
    'metadata',
    'style',
    'linearGradient',
    'radialGradient',
    'stop',
    'namedview',
    'RDF',
    '#text'
  ],
  ...['view', 'symbol']
]
const LEFT_OUT: Readonly<Record<string, string>> = {
  text: 'lettering, which is to be turned into outlines first',
  image: 'a picture within it',
  foreignObject: 'a foreign object',
  script: 'a program, which never runs here'
}
const MOVING = ['animate', 'animateTransform', 'animateMotion', 'set', 'animateColor']
/** References within references: uses of uses. */
const MOST_USES = 20
const MOST_DRAWN = 100_000
/** How much larger than the picture lines are laid out. */
const FINER = 8

export interface Drawing {
  width: number
  height: number
  /** Features that are not drawn, in words. */
  leftOut: string[]
  /** The picture at a size: premultiplied, in floating point. */
  at(width: number, height: number): Layer
}

/** Reads a drawing. Throws one clear error that names the file where it is damaged, too large or built too deep. */
export function readDrawing(text: string, file: string): Drawing {
  const root = readTree(text, file)
  const view = (root.attributes.viewBox ?? '')
    .trim()
    .split(/[\s,]+/)
    .map(Number)
  const box = view.length === 4 && view.every(Number.isFinite) && view[2]! > 0 && view[3]! > 0 ? view : null
  const own = [
    lengthOf(root.attributes.width, box?.[2] ?? 0, NaN),
    lengthOf(root.attributes.height, box?.[3] ?? 0, NaN)
  ]
  const ratio = box ? box[3]! / box[2]! : 0.5
  const w = own[0]! > 0 ? own[0]! : own[1]! > 0 && box ? own[1]! / ratio : (box?.[2] ?? 300)
  const h = own[1]! > 0 ? own[1]! : box ? w * ratio : 150
  const [width, height] = [Math.max(1, Math.round(w)), Math.max(1, Math.round(h))]
  if (!(width * height <= MAX_PIXELS)) throw unreadable(file, null, `a picture of ${width}x${height} cannot be taken`)
  const leftOut = new Set<string>()
  const rules = rulesOf(root, what => leftOut.add(what))
  for (const { tag, attributes } of everything(root)) {
    if (LEFT_OUT[tag]) leftOut.add(LEFT_OUT[tag])
    if (MOVING.includes(tag)) leftOut.add('its own animation: the still picture is drawn')
    for (const [name, what] of [
      ['clip-path', 'clipping'],
      ['mask', 'masks'],
      ['filter', 'filters'],
      ['mix-blend-mode', 'blending other than over']
    ] as const)
      if (attributes[name] !== undefined || attributes.style?.includes(`${name}:`)) leftOut.add(what)
    if (tag === 'pattern') leftOut.add('patterns')
    if (tag === 'marker') leftOut.add('markers on lines')
    const href = attributes.href ?? ''
    if (href && !href.startsWith('#') && tag !== 'a') leftOut.add(`“${href.slice(0, 40)}”, which is not fetched`)
  }
  return {
    width,
    height,
    leftOut: [...leftOut],
    at: (wide, high) => {
      const [bw, bh] = [box?.[2] ?? w, box?.[3] ?? h]
      const scale = Math.min(wide / bw, high / bh)
      const stretched = (root.attributes.preserveAspectRatio ?? '').trim().startsWith('none')
      const [sx, sy] = stretched ? [wide / bw, high / bh] : [scale, scale]
      const [x, y] = [(box?.[0] ?? 0) * sx - (wide - bw * sx) / 2, (box?.[1] ?? 0) * sy - (high - bh * sy) / 2]
      return new Draw(root, rules, { wide, high, size: [bw, bh], file }).all({ a: sx, b: 0, c: 0, d: sy, e: -x, f: -y })
    }
  }
}

interface Extent {
  wide: number
  high: number
  size: readonly [number, number]
  file: string
}

class Draw {
  private readonly byId = new Map<string, Node>()
  private readonly clip: Bounds
  private count = 0

  constructor(
    private readonly root: Node,
    private readonly rules: readonly Rule[],
    private readonly extent: Extent
  ) {
    for (const node of everything(root))
      if (node.attributes.id !== undefined && !this.byId.has(node.attributes.id))
        this.byId.set(node.attributes.id, node)
    this.clip = { left: 0, top: 0, right: extent.wide, bottom: extent.high }
  }

  all(at: Affine): Layer {
    const layer = clearLayer(this.clip)
    for (const child of this.root.children) this.draw(child, this.inherited(this.root, {}), at, layer, 0)
    return layer
  }

  private styles(node: Node): Record<string, string> {
    return ownStyles(node, this.rules)
  }

  private inherited(node: Node, from: Readonly<Record<string, string>>): Record<string, string> {
    const own = this.styles(node)
    return Object.fromEntries(
      INHERITED.flatMap(name => {
        const value = own[name] !== undefined && own[name] !== 'inherit' ? own[name] : from[name]
        return value === undefined ? [] : [[name, value]]
      })
    )
  }

  private draw(node: Node, from: Readonly<Record<string, string>>, outer: Affine, onto: Layer, uses: number): void {
    if (SILENT.includes(node.tag) && !(node.tag === 'symbol' && uses > 0)) return
    if (++this.count > MOST_DRAWN) throw unreadable(this.extent.file, null, 'it draws more than can be taken')
    const own = this.styles(node)
    if (own.display === 'none') return
    const style = this.inherited(node, from)
    let at = combined(outer, transformOf(own.transform))
    const opacity = shareOf(own.opacity)
    if (opacity === 0) return
    const children = node.tag === 'use' ? this.used(own, uses) : GROUPS.includes(node.tag) ? node.children : null
    // a group is laid over what is behind it as one
    const target = opacity < 1 ? clearLayer(this.clip) : onto
    if (children) {
      if (node.tag === 'use' || node.tag === 'svg') {
        const [w, h] = this.extent.size
        at = combined(at, { ...STILL, e: lengthOf(own.x, w), f: lengthOf(own.y, h) })
      }
      for (const child of children) this.draw(child, style, at, target, node.tag === 'use' ? uses + 1 : uses)
    } else if (style.visibility !== 'hidden') this.shape(node.tag, own, style, at, target)
    if (target !== onto) over(onto, target, opacity)
  }

  private used(own: Readonly<Record<string, string>>, uses: number): Node[] {
    const found = this.byId.get(/^#(.+)$/.exec(own.href ?? '')?.[1] ?? '')
    return found && uses < MOST_USES ? [found] : []
  }

  private shape(
    tag: string,
    own: Readonly<Record<string, string>>,
    style: Readonly<Record<string, string>>,
    at: Affine,
    onto: Layer
  ): void {
    const data = pathOf(tag, own, this.extent.size)
    if (data === null) return
    // curves are followed to a thousandth of a pixel of the picture, whatever the drawing's own measure
    const scale = FINER * Math.sqrt(Math.abs(at.a * at.d - at.b * at.c))
    if (!(scale > 0) || !Number.isFinite(scale)) return
    const runs = runsOf(data, { ...STILL, a: scale, d: scale })
    if (runs.length === 0) return
    const back = { ...STILL, a: 1 / scale, d: 1 / scale }
    const place = combined(at, back)
    const current = shadeOf(style.color ?? '#000', [0, 0, 0, 1]) ?? [0, 0, 0, 1]
    const box = boxOf(placedRuns(runs, back))
    const painting = (text: string): Painting | null => {
      const [, id, fallback] = /^\s*url\(\s*['"]?#([^'")]+)['"]?\s*\)\s*(.*)$/.exec(text) ?? []
      if (id === undefined) return shadeOf(text, current)
      const found = {
        byId: this.byId,
        styles: (node: Node) => this.styles(node),
        box,
        at,
        size: this.extent.size,
        current
      }
      return gradientOf(id, found) ?? (fallback ? shadeOf(fallback, current) : null)
    }
    const fill = painting(style.fill ?? '#000')
    if (fill && tag !== 'line') {
      const lines = placedRuns(runs, place).map(({ line }) => line)
      const area = areaOf(lines, this.clip, style['fill-rule'] === 'evenodd')
      lay(onto, area, fill, shareOf(style['fill-opacity']))
    }
    const stroke = painting(style.stroke ?? 'none')
    if (!stroke) return
    const diagonal = Math.hypot(...this.extent.size) / Math.SQRT2
    const width = lengthOf(style['stroke-width'], diagonal, 1)
    const dashes = (style['stroke-dasharray'] ?? 'none').split(/[\s,]+/).map(each => lengthOf(each, diagonal, NaN))
    const areas = strokeAreas(runs, {
      width: width * scale,
      cap: style['stroke-linecap'] ?? 'butt',
      join: style['stroke-linejoin'] ?? 'miter',
      miterLimit: Number(style['stroke-miterlimit'] ?? 4) || 4,
      dashes: dashes.every(each => each >= 0) ? dashes.map(each => each * scale) : [],
      dashOffset: lengthOf(style['stroke-dashoffset'], diagonal) * scale
    })
    const lines = areas.map(line => placed(line, place))
    lay(onto, areaOf(lines, this.clip), stroke, shareOf(style['stroke-opacity']))
  }
}

/** Lays a colour or a gradient over what is there, as far as the coverage goes. */
function lay(layer: Layer, coverage: Coverage | null, painting: Painting, opacity: number): void {
  if (!coverage || isEmpty(coverage) || opacity === 0) return
  const { left, top, right, bottom, values } = coverage
  const { pixels } = layer
  const row = layer.right - layer.left
  let shade: Shade = [0, 0, 0, 0]
  const changes = typeof painting === 'function' ? painting : null
  if (!changes) shade = painting as Shade
  for (let y = top, n = 0; y < bottom; y++) {
    for (let x = left; x < right; x++, n++) {
      if (values[n] === 0) continue
      if (changes) shade = changes(x + 0.5, y + 0.5)
      const cover = values[n]! * opacity * shade[3]
      const under = 1 - cover
      const at = 4 * ((y - layer.top) * row + x - layer.left)
      for (let c = 0; c < 3; c++) pixels[at + c] = shade[c]! * cover + pixels[at + c]! * under
      pixels[at + 3] = cover + pixels[at + 3]! * under
    }
  }
}
