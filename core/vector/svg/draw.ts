/**
 * Drawing an SVG file in floating point: fills and strokes with the exact area of each pixel, gradients, groups with
 * their opacity. What is not drawn is named. Nothing outside the file is fetched and no program in it runs.
 */
import { unreadable } from '../../errors'
import { MAX_PIXELS } from '../../frame/frame'
import { clearLayer, over, type Layer } from '../../scene/layer'
import { combined, inverse, placed, type Affine } from '../../scene/outline'
import { areaOf, boundsOf, isEmpty, type Bounds, type Coverage } from '../../scene/raster'
import { blended, isBlend, kept } from './blend'
import { filtered, unfiltered } from './filter'
import { about, gradientOf, shadeOf, shareOf, STILL, transformOf, type Painting, type Shade } from './paint'
import { boxOf, lengthOf, pathOf, placedRuns, runsOf } from './shapes'
import { strokeAreas } from './stroke'
import { leftOutOf, referredTo } from './told'
import { everything, ownStyles, readTree, rulesOf, type Node, type Rule } from './tree'
import { fitted, viewBoxOf, type Box } from './viewport'

/** What is inherited (SVG 1.1, appendix on properties). */
const INHERITED = [
  ...['color', 'fill', 'fill-opacity', 'fill-rule', 'stroke', 'stroke-width', 'stroke-opacity', 'stroke-linecap'],
  ...[
    'stroke-linejoin',
    'stroke-miterlimit',
    'stroke-dasharray',
    'stroke-dashoffset',
    'visibility',
    'paint-order',
    'clip-rule'
  ]
]

const GROUPS = ['svg', 'g', 'a', 'switch', 'symbol']
/** Elements that draw nothing where they stand. */
const SILENT: ReadonlySet<string> = new Set([
  ...['defs', 'title', 'desc', 'metadata', 'style', 'linearGradient', 'radialGradient', 'stop', 'namedview', 'RDF'],
  ...['#text', 'view', 'symbol', 'clipPath', 'mask', 'pattern', 'marker', 'filter', 'script', 'text', 'image']
])
/** References within references: uses of uses. */
const MOST_USES = 20
const MOST_DRAWN = 100_000
/** How much larger than the picture lines are laid out. */
const FINER = 8
/** Pixels of a pattern's tile to one of the picture, across and down, and most of one tile. */
const TILE = 4
const MOST_TILE = 1 << 24
/** Pixels of layers that effects may take in all: a thousand of a picture of 1080p. */
const MOST_LAYERS = 2 ** 31

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
  const box = viewBoxOf(root.attributes.viewBox)
  const own = [
    lengthOf(root.attributes.width, box?.[2] ?? 0, NaN),
    lengthOf(root.attributes.height, box?.[3] ?? 0, NaN)
  ]
  const ratio = box ? box[3] / box[2] : 0.5
  const w = own[0]! > 0 ? own[0]! : own[1]! > 0 && box ? own[1]! / ratio : (box?.[2] ?? 300)
  const h = own[1]! > 0 ? own[1]! : box ? w * ratio : 150
  const [width, height] = [Math.max(1, Math.round(w)), Math.max(1, Math.round(h))]
  if (!(width * height <= MAX_PIXELS)) throw unreadable(file, null, `a picture of ${width}x${height} cannot be taken`)
  const leftOut = new Set<string>()
  const rules = rulesOf(root, what => leftOut.add(what))
  const byId = new Map<string, Node>()
  for (const node of everything(root))
    if (node.attributes.id !== undefined && !byId.has(node.attributes.id)) byId.set(node.attributes.id, node)
  for (const what of leftOutOf(root, rules, byId)) leftOut.add(what)
  return {
    width,
    height,
    leftOut: [...leftOut],
    at: (wide, high) => {
      const view: Box = box ?? [0, 0, w, h]
      const at = fitted(view, [wide, high], box ? root.attributes.preserveAspectRatio : undefined)
      return new Draw(root, rules, byId, { wide, high, size: [view[2], view[3]], file }).all(at)
    }
  }
}

interface Extent {
  wide: number
  high: number
  size: readonly [number, number]
  file: string
}

/** What is drawn at one place in the tree. */
interface Around {
  style: Readonly<Record<string, string>>
  at: Affine
  onto: Layer
  uses: number
  /** The measure that shares of lengths are of. */
  size: readonly [number, number]
}

type Spread = readonly [left: number, top: number, right: number, bottom: number]

class Draw {
  private readonly clip: Bounds
  private count = 0
  /** Pixels of layers that were taken for effects. */
  private layers = 0

  constructor(
    private readonly root: Node,
    private readonly rules: readonly Rule[],
    private readonly byId: ReadonlyMap<string, Node>,
    private readonly extent: Extent
  ) {
    this.clip = { left: 0, top: 0, right: extent.wide, bottom: extent.high }
  }

  all(at: Affine): Layer {
    const onto = clearLayer(this.clip)
    const own = this.styles(this.root)
    if (own.display === 'none') return onto
    const around = { style: this.inherited(this.root, {}), at, onto, uses: 0, size: this.extent.size }
    this.asOne(this.root, own, around, target => {
      for (const child of this.root.children) this.draw(child, { ...around, onto: target })
    })
    return onto
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

  /** Where an element and what is in it lies, before it is placed; null where it draws nothing. */
  private boxOf(node: Node, size: readonly [number, number], at: Affine = STILL, uses = 0): Spread | null {
    if (SILENT.has(node.tag) && !(node.tag === 'symbol' && uses > 0)) return null
    const own = this.styles(node)
    const children = node.tag === 'use' ? this.used(own, uses) : GROUPS.includes(node.tag) ? node.children : null
    const place = uses < 0 ? at : combined(at, this.transformOf(node, own, size))
    if (children) {
      const moved =
        node.tag === 'use'
          ? combined(place, { ...STILL, e: lengthOf(own.x, size[0]), f: lengthOf(own.y, size[1]) })
          : place
      const deeper = Math.max(0, uses) + (node.tag === 'use' ? 1 : 0)
      const boxes = children.flatMap(child => {
        const found = this.boxOf(child, size, moved, deeper)
        return found ? [found] : []
      })
      if (boxes.length === 0) return null
      const edge = (n: 0 | 1 | 2 | 3): number => (n < 2 ? Math.min : Math.max)(...boxes.map(box => box[n]))
      return [edge(0), edge(1), edge(2), edge(3)]
    }
    const data = pathOf(node.tag, own, size)
    if (data === null) return null
    const found = boxOf(
      placedRuns(runsOf(data, { ...STILL, a: 64, d: 64 }), combined(place, { ...STILL, a: 1 / 64, d: 1 / 64 }))
    )
    return Number.isFinite(found[0]) ? found : null
  }

  /** An element's own box, without its own transform. */
  private ownBox(node: Node, size: readonly [number, number]): Spread {
    return this.boxOf(node, size, STILL, node === this.root ? 0 : -1) ?? [0, 0, 0, 0]
  }

  private transformOf(node: Node, own: Readonly<Record<string, string>>, size: readonly [number, number]): Affine {
    const at = transformOf(own.transform)
    if (own['transform-origin'] === undefined || own.transform === undefined) return at
    const fill = own['transform-box'] === 'fill-box' || own['transform-box'] === 'border-box'
    const [l, t, r, b] = fill ? this.ownBox(node, size) : [0, 0, ...size]
    const names: Readonly<Record<string, string>> = {
      left: '0%',
      top: '0%',
      center: '50%',
      right: '100%',
      bottom: '100%'
    }
    const given = own['transform-origin'].trim().split(/\s+/)
    const [x = '50%', y = '50%'] = given[0] === 'top' || given[0] === 'bottom' ? [given[1] ?? '50%', given[0]] : given
    const place = (text: string, low: number, high: number): number => low + lengthOf(names[text] ?? text, high - low)
    return about(at, [place(x, l!, r!), place(y, t!, b!)])
  }

  private draw(node: Node, around: Around): void {
    const { uses, size } = around
    if (SILENT.has(node.tag) && !(node.tag === 'symbol' && uses > 0)) return
    if (++this.count > MOST_DRAWN) throw unreadable(this.extent.file, null, 'it draws more than can be taken')
    const own = this.styles(node)
    if (own.display === 'none') return
    const style = this.inherited(node, around.style)
    const at = combined(around.at, this.transformOf(node, own, size))
    const children = node.tag === 'use' ? this.used(own, uses) : GROUPS.includes(node.tag) ? chosen(node) : null
    this.asOne(node, own, { ...around, style, at }, target => {
      const inner = { ...around, style, at, onto: target }
      if (!children) {
        if (style.visibility !== 'hidden' && style.visibility !== 'collapse') this.shape(node.tag, own, inner)
      } else if (node.tag === 'use') this.useOf(children, own, inner)
      else if (node.tag === 'svg') this.nested(node, own, inner)
      else for (const child of children) this.draw(child, inner)
    })
  }

  /** A symbol or a picture within the picture, in a place of its own, is fitted into it and cut off at its rim. */
  private nested(node: Node, own: Readonly<Record<string, string>>, around: Around): void {
    const [w, h] = around.size
    const [width, height] = [lengthOf(own.width, w, w), lengthOf(own.height, h, h)]
    if (!(width > 0 && height > 0)) return
    const moved = { ...STILL, e: lengthOf(own.x, w), f: lengthOf(own.y, h) }
    this.fittedIn(node, [width, height], { ...around, at: combined(around.at, moved) })
  }

  private fittedIn(node: Node, [width, height]: readonly [number, number], around: Around): void {
    const view = viewBoxOf(node.attributes.viewBox)
    const inner = view ? fitted(view, [width, height], node.attributes.preserveAspectRatio) : STILL
    const size = view ? ([view[2], view[3]] as const) : ([width, height] as const)
    const visible = /^(visible|auto)$/.test(this.styles(node).overflow ?? '')
    const target = visible ? around.onto : clearLayer(this.clip)
    for (const child of node.children)
      this.draw(child, { ...around, at: combined(around.at, inner), onto: target, size })
    if (visible) return
    const rim = pathOf('rect', { width: String(width), height: String(height) }, [width, height])!
    this.keptWithin(
      target,
      areaOf(
        placedRuns(runsOf(rim, STILL), around.at).map(({ line }) => line),
        this.clip
      )
    )
    over(around.onto, target)
  }

  private useOf(children: readonly Node[], own: Readonly<Record<string, string>>, around: Around): void {
    const [w, h] = around.size
    const at = combined(around.at, { ...STILL, e: lengthOf(own.x, w), f: lengthOf(own.y, h) })
    for (const child of children) {
      const inner = { ...around, at, uses: around.uses + 1 }
      if (child.tag !== 'symbol' && child.tag !== 'svg') this.draw(child, inner)
      else {
        const style = this.inherited(child, around.style)
        const size = [lengthOf(own.width, w, w), lengthOf(own.height, h, h)] as const
        this.fittedIn(child, size, { ...inner, style })
      }
    }
  }

  private used(own: Readonly<Record<string, string>>, uses: number): Node[] {
    const found = this.byId.get(/^#(.+)$/.exec(own.href ?? '')?.[1] ?? '')
    return found && uses < MOST_USES ? [found] : []
  }

  /** Draws an element, as one where something is to be done with it as a whole: filtered, cut, masked, faded, blended. */
  private asOne(node: Node, own: Readonly<Record<string, string>>, around: Around, draw: (onto: Layer) => void): void {
    const opacity = shareOf(own.opacity)
    if (opacity === 0) return
    const find = (name: string): Node | null => this.byId.get(referredTo(own[name]) ?? '') ?? null
    const [filter, clip, mask] = [find('filter'), find('clip-path'), find('mask')]
    const mode = (own['mix-blend-mode'] ?? 'normal').trim()
    const filters = filter?.tag === 'filter' && !unfiltered(filter) ? filter : null
    if (
      opacity === 1 &&
      !filters &&
      clip?.tag !== 'clipPath' &&
      mask?.tag !== 'mask' &&
      mode === 'normal' &&
      own.isolation !== 'isolate'
    )
      return draw(around.onto)
    // each takes layers as large as the picture: many of them in a large one are more than anybody draws
    this.layers += this.extent.wide * this.extent.high * (filters ? 8 : 2)
    if (this.layers > MOST_LAYERS)
      throw unreadable(this.extent.file, null, 'it filters, cuts or fades more than can be taken')
    let target = clearLayer(this.clip)
    draw(target)
    if (filters) target = this.filteredBy(filters, node, target, around)
    if (clip?.tag === 'clipPath') this.clipBy(clip, node, target, around, 0)
    if (mask?.tag === 'mask') this.maskBy(mask, node, target, around)
    blended(around.onto, target, isBlend(mode) ? mode : 'normal', opacity)
  }

  /** The space of what is measured by an element's box, or of the drawing. */
  private spaceOf(units: string | undefined, node: Node, size: readonly [number, number], usual: string): Affine {
    if ((units ?? usual) !== 'objectBoundingBox') return STILL
    const [l, t, r, b] = this.ownBox(node, size)
    return { a: r - l, b: 0, c: 0, d: b - t, e: l, f: t }
  }

  private keptWithin(layer: Layer, area: Coverage | null): void {
    const row = layer.right - layer.left
    kept(layer, n => {
      const [x, y] = [layer.left + (n % row), layer.top + Math.floor(n / row)]
      if (!area || x < area.left || x >= area.right || y < area.top || y >= area.bottom) return 0
      return area.values[(y - area.top) * (area.right - area.left) + x - area.left]!
    })
  }

  private clipBy(clip: Node, node: Node, target: Layer, around: Around, depth: number): void {
    const own = this.styles(clip)
    const space = this.spaceOf(clip.attributes.clipPathUnits, node, around.size, 'userSpaceOnUse')
    const at = combined(around.at, combined(space, transformOf(own.transform)))
    const shapes = clearLayer(this.clip)
    for (const child of clip.children) {
      const inner = this.styles(child)
      if (inner.display === 'none' || this.inherited(child, {}).visibility === 'hidden') continue
      const one = clearLayer(this.clip)
      const style = { fill: '#000', stroke: 'none', 'fill-rule': inner['clip-rule'] ?? own['clip-rule'] ?? 'nonzero' }
      this.clipShape(child, { style, at, onto: one, uses: 0, size: around.size })
      const further = this.byId.get(referredTo(inner['clip-path']) ?? '')
      if (further?.tag === 'clipPath' && depth < MOST_USES)
        this.clipBy(further, child, one, { ...around, at }, depth + 1)
      over(shapes, one)
    }
    const outer = this.byId.get(referredTo(own['clip-path']) ?? '')
    if (outer?.tag === 'clipPath' && outer !== clip && depth < MOST_USES)
      this.clipBy(outer, node, target, around, depth + 1)
    kept(target, n => shapes.pixels[4 * n + 3]!)
  }

  /** A shape of a clip, or what it uses, filled whatever its own colours are. */
  private clipShape(node: Node, around: Around): void {
    const own = this.styles(node)
    const at = combined(around.at, this.transformOf(node, own, around.size))
    if (node.tag !== 'use') {
      const geometry = Object.fromEntries(Object.entries(own).filter(([name]) => !INHERITED.includes(name)))
      return this.shape(node.tag, geometry, { ...around, at })
    }
    const moved = { ...STILL, e: lengthOf(own.x, around.size[0]), f: lengthOf(own.y, around.size[1]) }
    for (const child of this.used(own, around.uses))
      this.clipShape(child, { ...around, at: combined(at, moved), uses: around.uses + 1 })
  }

  private maskBy(mask: Node, node: Node, target: Layer, around: Around): void {
    const own = this.styles(mask)
    const region = this.spaceOf(mask.attributes.maskUnits, node, around.size, 'objectBoundingBox')
    const within = (mask.attributes.maskUnits ?? 'objectBoundingBox') === 'objectBoundingBox'
    const [w, h] = within ? [1, 1] : around.size
    const length = (name: string, whole: number, usual: string): number => lengthOf(own[name] ?? usual, whole)
    const rim = {
      x: String(length('x', w, '-10%')),
      y: String(length('y', h, '-10%')),
      width: String(length('width', w, '120%')),
      height: String(length('height', h, '120%'))
    }
    const space = this.spaceOf(mask.attributes.maskContentUnits, node, around.size, 'userSpaceOnUse')
    const shown = clearLayer(this.clip)
    const style = this.inherited(mask, {})
    for (const child of mask.children)
      this.draw(child, { style, at: combined(around.at, space), onto: shown, uses: around.uses + 1, size: around.size })
    const data = pathOf('rect', rim, [w, h])
    const runs = data ? runsOf(data, STILL) : []
    this.keptWithin(
      shown,
      areaOf(
        placedRuns(runs, combined(around.at, region)).map(({ line }) => line),
        this.clip
      )
    )
    const byAlpha = own['mask-type'] === 'alpha'
    const { pixels } = shown
    kept(target, n =>
      byAlpha
        ? pixels[4 * n + 3]!
        : Math.min(1, 0.2125 * pixels[4 * n]! + 0.7154 * pixels[4 * n + 1]! + 0.0721 * pixels[4 * n + 2]!)
    )
  }

  private filteredBy(filter: Node, node: Node, target: Layer, { at, size, style }: Around): Layer {
    const within = (filter.attributes.filterUnits ?? 'objectBoundingBox') === 'objectBoundingBox'
    const space = this.spaceOf(filter.attributes.filterUnits, node, size, 'objectBoundingBox')
    const [w, h] = within ? [1, 1] : size
    const a = filter.attributes
    const [x, y] = [lengthOf(a.x ?? '-10%', w), lengthOf(a.y ?? '-10%', h)]
    const [width, height] = [lengthOf(a.width ?? '120%', w), lengthOf(a.height ?? '120%', h)]
    const rim = pathOf('rect', { x: `${x}`, y: `${y}`, width: `${width}`, height: `${height}` }, [1, 1])
    const lines = rim ? placedRuns(runsOf(rim, STILL), combined(at, space)).map(({ line }) => line) : []
    return filtered(target, filter, {
      styles: each => this.styles(each),
      current: shadeOf(style.color ?? '#000', [0, 0, 0, 1]) ?? [0, 0, 0, 1],
      scale: [Math.hypot(at.a, at.b), Math.hypot(at.c, at.d)],
      region: boundsOf(lines)
    })
  }

  /** A pattern's tile, drawn once and laid side by side (SVG 2, 13.3). */
  private patternOf(id: string, box: Spread, around: Around): Painting | null {
    const chain: Node[] = []
    for (let next: string | undefined = id; next !== undefined && chain.length < 20;) {
      const node = this.byId.get(next)
      if (node?.tag !== 'pattern') break
      chain.push(node)
      next = /^#(.+)$/.exec(node.attributes.href ?? '')?.[1]
    }
    if (chain.length === 0 || around.uses >= MOST_USES) return null
    const attribute = (name: string): string | undefined =>
      chain.find(node => node.attributes[name] !== undefined)?.attributes[name]
    const content = chain.find(({ children }) => children.some(({ tag }) => tag !== '#text'))
    if (!content) return null
    const within = (attribute('patternUnits') ?? 'objectBoundingBox') === 'objectBoundingBox'
    const [l, t, r, b] = box
    const [w, h] = within ? [r - l, b - t] : around.size
    const share = (name: string, whole: number): number =>
      within && !/%/.test(attribute(name) ?? '')
        ? Number(attribute(name) ?? 0) * whole
        : lengthOf(attribute(name), whole)
    const [x, y, width, height] = [
      share('x', w) + (within ? l : 0),
      share('y', h) + (within ? t : 0),
      share('width', w),
      share('height', h)
    ]
    if (!(width > 0 && height > 0)) return null
    const placed = combined(around.at, transformOf(attribute('patternTransform')))
    const [sx, sy] = [Math.hypot(placed.a, placed.b), Math.hypot(placed.c, placed.d)]
    // the tile has pixels of its own, finer than those it is shown in
    const [tw, th] = [Math.ceil(width * sx * TILE), Math.ceil(height * sy * TILE)]
    if (!(tw > 0 && th > 0 && tw * th <= MOST_TILE)) return null
    const view = viewBoxOf(attribute('viewBox'))
    const boxed = attribute('patternContentUnits') === 'objectBoundingBox'
    const inner = view
      ? fitted(view, [width, height], attribute('preserveAspectRatio'))
      : boxed
        ? { ...STILL, a: r - l, d: b - t }
        : // what is in a tile is measured from its corner
          STILL
    const tile = new Draw(this.root, this.rules, this.byId, { ...this.extent, wide: tw, high: th })
    const onto = clearLayer({ left: 0, top: 0, right: tw, bottom: th })
    const at = combined({ ...STILL, a: tw / width, d: th / height }, inner)
    const style = this.inherited(content, {})
    for (const child of content.children)
      tile.draw(child, { style, at, onto, uses: around.uses + 1, size: view ? [view[2], view[3]] : around.size })
    const back = inverse(placed)
    const samples = Array.from(
      { length: TILE * TILE },
      (_, n) => [((n % TILE) + 0.5) / TILE - 0.5, (Math.floor(n / TILE) + 0.5) / TILE - 0.5] as const
    )
    return (px, py) => {
      const sum: [number, number, number, number] = [0, 0, 0, 0]
      for (const [ox, oy] of samples) {
        const [u, v] = [
          back.a * (px + ox) + back.c * (py + oy) + back.e - x,
          back.b * (px + ox) + back.d * (py + oy) + back.f - y
        ]
        const i = Math.min(tw - 1, Math.floor((((u % width) + width) % width) * (tw / width)))
        const j = Math.min(th - 1, Math.floor((((v % height) + height) % height) * (th / height)))
        for (let c = 0; c < 4; c++) sum[c]! += onto.pixels[4 * (j * tw + i) + c]! / samples.length
      }
      return sum[3] > 0 ? [sum[0] / sum[3], sum[1] / sum[3], sum[2] / sum[3], sum[3]] : [0, 0, 0, 0]
    }
  }

  private shape(tag: string, own: Readonly<Record<string, string>>, { style, at, onto, uses, size }: Around): void {
    const data = pathOf(tag, own, size)
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
      const found = { byId: this.byId, styles: (node: Node) => this.styles(node), box, at, size, current }
      return (
        gradientOf(id, found) ??
        this.patternOf(id, box, { style, at, onto, uses, size }) ??
        (fallback ? shadeOf(fallback, current) : null)
      )
    }
    const fill = (): void => {
      const paint = painting(style.fill ?? '#000')
      if (!paint || tag === 'line') return
      const lines = placedRuns(runs, place).map(({ line }) => line)
      lay(onto, areaOf(lines, this.clip, style['fill-rule'] === 'evenodd'), paint, shareOf(style['fill-opacity']))
    }
    const stroke = (): void => {
      const paint = painting(style.stroke ?? 'none')
      if (!paint) return
      // a stroke that keeps its width is laid out as it is shown
      const fixed = own['vector-effect'] === 'non-scaling-stroke'
      const [laid, unit, after] = fixed
        ? [
            placedRuns(runs, {
              ...place,
              a: place.a * FINER,
              b: place.b * FINER,
              c: place.c * FINER,
              d: place.d * FINER,
              e: place.e * FINER,
              f: place.f * FINER
            }),
            FINER,
            { ...STILL, a: 1 / FINER, d: 1 / FINER }
          ]
        : [runs, scale, place]
      const diagonal = Math.hypot(...size) / Math.SQRT2
      const width = lengthOf(style['stroke-width'], diagonal, 1)
      const dashes = (style['stroke-dasharray'] ?? 'none').split(/[\s,]+/).map(each => lengthOf(each, diagonal, NaN))
      const stated = Number(own.pathLength)
      const share = stated > 0 ? lengthOfRuns(laid) / unit / stated : 1
      const areas = strokeAreas(laid, {
        width: width * unit,
        cap: style['stroke-linecap'] ?? 'butt',
        join: style['stroke-linejoin'] ?? 'miter',
        miterLimit: Number(style['stroke-miterlimit'] ?? 4) || 4,
        dashes: dashes.every(each => each >= 0) ? dashes.map(each => each * unit * share) : [],
        dashOffset: lengthOf(style['stroke-dashoffset'], diagonal) * unit * share
      })
      const lines = areas.map(line => placed(line, after))
      lay(onto, areaOf(lines, this.clip), paint, shareOf(style['stroke-opacity']))
    }
    const order = (style['paint-order'] ?? 'normal').split(/\s+/)
    const strokeFirst =
      order.indexOf('stroke') >= 0 && (order.indexOf('fill') < 0 || order.indexOf('stroke') < order.indexOf('fill'))
    for (const one of strokeFirst ? [stroke, fill] : [fill, stroke]) one()
  }
}

/** The child of a switch that is shown: the first that asks for nothing special. */
function chosen(node: Node): Node[] {
  if (node.tag !== 'switch') return node.children
  const first = node.children.find(
    ({ tag, attributes }) =>
      tag !== '#text' &&
      attributes.requiredExtensions === undefined &&
      (attributes.systemLanguage === undefined || /^en\b/i.test(attributes.systemLanguage.trim()))
  )
  return first ? [first] : []
}

/** The length of runs, closed ones round to their beginning. */
function lengthOfRuns(runs: readonly { line: Float64Array; closed: boolean }[]): number {
  let sum = 0
  for (const { line, closed } of runs) {
    for (let i = 2; i < line.length; i += 2) sum += Math.hypot(line[i]! - line[i - 2]!, line[i + 1]! - line[i - 1]!)
    if (closed) sum += Math.hypot(line[0]! - line.at(-2)!, line[1]! - line.at(-1)!)
  }
  return sum
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
