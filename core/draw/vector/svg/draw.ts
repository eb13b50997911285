/**
 * Drawing the elements of an SVG file in floating point: fills and strokes with the exact area of each pixel,
 * gradients, markers, pictures, groups with their opacity.
 */
import { clearLayer, over, type Layer } from '../../scene/layer'
import { combined, placed, type Affine } from '../../raster/line'
import type { Bitmap } from '../../scene/bitmap'
import { areaOf } from '../../raster/area'
import { isEmpty, spanOf, type Bounds, type Coverage } from '../../raster/coverage'
import { INHERITED, MOST_USES, type DrawnAround, type Size, type Spread, type Styles } from './around'
import { blended, isBlend } from '../../scene/blend'
import { clipBy, filteredBy, keptWithin, maskBy, type Hand } from './effects'
import { unfiltered } from './filter'
import { about, gradientOf, shadeOf, shareOf, STILL, transformOf, type Painting, type Shade } from './paint'
import { cornersOf, isMarked, markerAt, MARKED, markerPlace, type Corner } from './marker'
import { patternOf } from './pattern'
import { bitmapPaint, pictureFitted, picturePlace } from './picture'
import { boxOf, lengthOf, pathOf, placedRuns, runsOf } from './shapes'
import { Reaches } from './reach'
import type { OwnStyles, Rules } from './rules'
import { strokeAreas } from '../../raster/stroke'
import { referredTo } from './told'
import { everything, type Node } from './tree'
import { fitted, viewBoxOf } from './viewport'
import type { Work } from './work'

const GROUPS = ['svg', 'g', 'a', 'switch', 'symbol', 'text', 'tspan']
/** Elements that draw nothing where they stand. */
const SILENT: ReadonlySet<string> = new Set([
  ...['defs', 'title', 'desc', 'metadata', 'style', 'linearGradient', 'radialGradient', 'stop', 'namedview', 'RDF'],
  ...['#text', 'view', 'symbol', 'clipPath', 'mask', 'pattern', 'marker', 'filter', 'script']
])
/** How much larger than the picture lines are laid out. */
const FINER = 8

/** What a drawing is drawn with, and how large. */
export interface DrawingScope {
  wide: number
  high: number
  size: Size
  work: Work
  /** The patterns whose tiles this is in, the outermost first. */
  within: readonly string[]
  /** What pictures within the drawing show. */
  pictures: ReadonlyMap<Node, Bitmap>
}

/** What is done to an element as a whole. */
interface Effects {
  filters: Node | null
  clip: Node | null
  mask: Node | null
  mode: string
  opacity: number
}

/** Draws elements of one file, at one size. */
export class Draw implements Hand {
  private readonly clip: Bounds
  private readonly reaches = new Reaches()

  constructor(
    private readonly root: Node,
    private readonly rules: Rules,
    readonly byId: ReadonlyMap<string, Node>,
    private readonly extent: DrawingScope
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

  layer(bounds: Bounds): Layer {
    this.extent.work.layer((bounds.right - bounds.left) * (bounds.bottom - bounds.top))
    return clearLayer(bounds)
  }

  styles(node: Node): OwnStyles {
    return this.rules.of(node)
  }

  inherited(node: Node, from: Styles): Record<string, string> {
    const own = this.styles(node)
    return Object.fromEntries(
      INHERITED.flatMap(name => {
        const value = own[name] !== undefined && own[name] !== 'inherit' ? own[name] : from[name]
        return value === undefined ? [] : [[name, value]]
      })
    )
  }

  /** Where an element and what is in it lies, before it is placed; null where it draws nothing. */
  private boxOf(node: Node, size: Size, at: Affine = STILL, uses = 0): Spread | null {
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
    const held = node.tag === 'image' ? this.placeOf(node, own, size) : null
    if (node.tag === 'image' && !held) return null
    const data = held
      ? `M${held[0]} ${held[1]}H${held[2]}V${held[3]}H${held[0]}Z`
      : (cellOf(own) ?? pathOf(node.tag, own, size))
    if (data === null) return null
    const found = boxOf(
      placedRuns(runsOf(data, { ...STILL, a: 64, d: 64 }), combined(place, { ...STILL, a: 1 / 64, d: 1 / 64 }))
    )
    return Number.isFinite(found[0]) ? found : null
  }

  /** Where a picture within the drawing stands; null where it shows nothing. */
  private placeOf(node: Node, own: Styles, size: Size): Spread | null {
    const bitmap = this.extent.pictures.get(node)
    return bitmap ? picturePlace(bitmap, own, size) : null
  }

  /** Draws a picture within the drawing, fitted into its place and cut off at its rim. */
  private picture(node: Node, own: Styles, { style, at, onto, size }: DrawnAround): void {
    const bitmap = this.extent.pictures.get(node)
    const place = this.placeOf(node, own, size)
    if (!bitmap || !place) return
    const { rim, laid } = pictureFitted(bitmap, place, node.attributes.preserveAspectRatio)
    const smooth = !/^(optimizeSpeed|pixelated|crisp-edges)$/.test((style['image-rendering'] ?? 'auto').trim())
    this.lay(onto, areaOf([placed(rim, at)], onto), bitmapPaint(bitmap, combined(at, laid), smooth), 1)
  }

  /** An element's own box, without its own transform. */
  ownBox(node: Node, size: Size): Spread {
    return this.boxOf(node, size, STILL, node === this.root ? 0 : -1) ?? [0, 0, 0, 0]
  }

  transformOf(node: Node, own: Styles, size: Size): Affine {
    const at = transformOf(own.transform)
    if (own['transform-origin'] === undefined || own.transform === undefined) return at
    const fill = own['transform-box'] === 'fill-box' || own['transform-box'] === 'border-box'
    const [l, t, r, b] = fill ? this.ownBox(node, size) : [0, 0, ...size]
    const names: Styles = {
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

  draw(node: Node, around: DrawnAround): void {
    const { uses, size } = around
    if (SILENT.has(node.tag) && !(node.tag === 'symbol' && uses > 0)) return
    this.extent.work.thing()
    const own = this.styles(node)
    if (own.display === 'none') return
    const style = this.inherited(node, around.style)
    const at = combined(around.at, this.transformOf(node, own, size))
    const children = node.tag === 'use' ? this.used(own, uses) : GROUPS.includes(node.tag) ? chosen(node) : null
    this.asOne(node, own, { ...around, style, at }, target => {
      const inner = { ...around, style, at, onto: target }
      if (!children) {
        if (style.visibility === 'hidden' || style.visibility === 'collapse') return
        if (node.tag === 'image') this.picture(node, own, inner)
        else this.shape(node.tag, own, inner)
      } else if (node.tag === 'use') this.useOf(children, own, inner)
      else if (node.tag === 'svg') this.nested(node, own, inner)
      else for (const child of children) this.draw(child, inner)
    })
  }

  /** A symbol or a picture within the picture, in a place of its own, is fitted into it and cut off at its rim. */
  private nested(node: Node, own: Styles, around: DrawnAround): void {
    const [w, h] = around.size
    const [width, height] = [lengthOf(own.width, w, w), lengthOf(own.height, h, h)]
    if (!(width > 0 && height > 0)) return
    const moved = { ...STILL, e: lengthOf(own.x, w), f: lengthOf(own.y, h) }
    this.fittedIn(node, [width, height], { ...around, at: combined(around.at, moved) })
  }

  private fittedIn(node: Node, [width, height]: Size, around: DrawnAround): void {
    const view = viewBoxOf(node.attributes.viewBox)
    const inner = view ? fitted(view, [width, height], node.attributes.preserveAspectRatio) : STILL
    const size = view ? ([view[2], view[3]] as const) : ([width, height] as const)
    const visible = /^(visible|auto)$/.test(this.styles(node).overflow ?? '')
    const within = { ...around, at: combined(around.at, inner), size }
    if (visible) for (const child of node.children) this.draw(child, within)
    else this.extent.work.during(() => this.cutAtRim(node, [width, height], within, around.at))
  }

  private cutAtRim(node: Node, [width, height]: Size, within: DrawnAround, at: Affine): void {
    const target = this.layer(within.onto)
    for (const child of node.children) this.draw(child, { ...within, onto: target })
    const rim = pathOf('rect', { width: String(width), height: String(height) }, [width, height])!
    keptWithin(
      target,
      areaOf(
        placedRuns(runsOf(rim, STILL), at).map(({ line }) => line),
        target
      )
    )
    over(within.onto, target)
  }

  private useOf(children: readonly Node[], own: Styles, around: DrawnAround): void {
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

  used(own: Styles, uses: number): Node[] {
    const found = this.byId.get(/^#(.+)$/.exec(own.href ?? '')?.[1] ?? '')
    return found && uses < MOST_USES ? [found] : []
  }

  /**
   * Draws an element, as one where something is to be done with it as a whole: filtered, cut, masked, faded, blended.
   */
  private asOne(node: Node, own: Styles, around: DrawnAround, draw: (onto: Layer) => void): void {
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
    const { onto, style, size, uses, at } = around
    // what a filter takes in may lie anywhere; all else needs a layer no larger than the element
    const whole = filters !== null || node === this.root
    const bounds = whole ? onto : this.reaches.boundsOf(this, node, { style, size, uses, at }, onto)
    if (isEmpty(bounds)) return
    const { work } = this.extent
    work.during(() => this.asLayer(node, bounds, { filters, clip, mask, mode, opacity, around }, draw))
  }

  private asLayer(
    node: Node,
    bounds: Bounds,
    { filters, clip, mask, mode, opacity, around }: Effects & { around: DrawnAround },
    draw: (onto: Layer) => void
  ): void {
    let target = this.layer(bounds)
    draw(target)
    // each part of a filter takes a layer, and some more while it works
    if (filters) this.extent.work.layer(([...everything(filters)].length + 4) * (target.pixels.length / 4))
    if (filters) target = filteredBy(this, filters, { node, target, around })
    if (clip?.tag === 'clipPath') clipBy(this, clip, { node, target, around })
    if (mask?.tag === 'mask') maskBy(this, mask, { node, target, around })
    blended(around.onto, target, isBlend(mode) ? mode : 'normal', opacity)
  }

  /** A pattern as a paint; its tile is drawn by a drawer of its own, whose work counts with this one's. */
  private tiledBy(id: string, box: Spread, { at, uses, size }: DrawnAround): Painting | null {
    const { within } = this.extent
    // a pattern that is drawn with itself has no end, and paints nothing (SVG 2, 13.1)
    if (within.includes(id)) return null
    return patternOf(id, {
      ...{ byId: this.byId, box, at, size, within: within.length > 0 },
      tile: (content, [wide, high], place, measure) => {
        this.extent.work.layer(wide * high)
        const drawer = new Draw(this.root, this.rules, this.byId, {
          ...this.extent,
          wide,
          high,
          within: [...within, id]
        })
        const onto = clearLayer({ left: 0, top: 0, right: wide, bottom: high })
        const style = this.inherited(content, {})
        for (const child of content.children)
          drawer.draw(child, { style, at: place, onto, uses: uses + 1, size: measure })
        return onto
      }
    })
  }

  /** Lays a paint; one that is asked at each pixel, or looks many times, counts as so many layers of it. */
  private lay(onto: Layer, coverage: Coverage | null, paint: Painting, opacity: number): void {
    if (!coverage || isEmpty(coverage)) return
    const pixels = (coverage.right - coverage.left) * (coverage.bottom - coverage.top)
    this.extent.work.painted(pixels * (typeof paint !== 'function' ? 1 : (paint.looks ?? 8)))
    lay(onto, coverage, paint, opacity)
  }

  shape(tag: string, own: Styles, { style, at, onto, uses, size }: DrawnAround): void {
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
    const box = own.cell ? (own.cell.split(' ').map(Number) as unknown as Spread) : boxOf(placedRuns(runs, back))
    const painting = (text: string): Painting | null => {
      const [, id, fallback] = /^\s*url\(\s*['"]?#([^'")]+)['"]?\s*\)\s*(.*)$/.exec(text) ?? []
      if (id === undefined) return shadeOf(text, current)
      const found = { byId: this.byId, styles: (node: Node) => this.styles(node), box, at, size, current }
      return (
        gradientOf(id, found) ??
        (uses < MOST_USES ? this.tiledBy(id, box, { style, at, onto, uses, size }) : null) ??
        (fallback ? shadeOf(fallback, current) : null)
      )
    }
    const fill = (): void => {
      const paint = painting(style.fill ?? '#000')
      if (!paint || tag === 'line') return
      const lines = placedRuns(runs, place).map(({ line }) => line)
      this.lay(onto, areaOf(lines, onto, style['fill-rule'] === 'evenodd'), paint, shareOf(style['fill-opacity']))
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
      this.lay(onto, areaOf(lines, onto), paint, shareOf(style['stroke-opacity']))
    }
    const markers = (): void => {
      if (MARKED.has(tag) && isMarked(style)) this.mark(data, { style, at, onto, uses, size })
    }
    // what is not named follows in the usual order (SVG 2, 13.8)
    const named = (style['paint-order'] ?? 'normal').split(/\s+/).filter(each => each in { fill, stroke, markers })
    const does: Record<string, () => void> = { fill, stroke, markers }
    for (const one of new Set([...named, 'fill', 'stroke', 'markers'])) does[one]!()
  }

  /** Markers that are being drawn: none is drawn within itself. */
  private readonly marking: string[] = []

  /** Marks the corners of a path. */
  private mark(data: string, around: DrawnAround): void {
    const corners = cornersOf(data)
    const last = corners.length - 1
    for (const [i, corner] of corners.entries()) {
      const place = i === 0 ? (['start'] as const) : i === last ? (['end'] as const) : (['mid'] as const)
      for (const each of last === 0 ? (['start', 'end'] as const) : place) this.markOne(corner, each, around)
    }
  }

  private markOne(corner: Corner, place: 'start' | 'mid' | 'end', around: DrawnAround): void {
    const id = markerAt(around.style, place)
    const marker = id === null ? undefined : this.byId.get(id)
    if (marker?.tag !== 'marker' || around.uses >= MOST_USES || this.marking.includes(id!)) return
    const laid = markerPlace(this.styles(marker), { corner, place, style: around.style, size: around.size })
    if (!laid) return
    const at = combined(around.at, laid.at)
    this.marking.push(id!)
    this.extent.work.thing()
    this.fittedIn(marker, laid.size, { ...around, at, style: this.inherited(marker, {}), uses: around.uses + 1 })
    this.marking.pop()
  }
}

/** The cell of lettering, as path data; null for all else. */
function cellOf({ cell }: Styles): string | null {
  if (!cell) return null
  const [l, t, r, b] = cell.split(' ')
  return `M${l} ${t}H${r}V${b}H${l}Z`
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
  const width = right - left
  const row = layer.right - layer.left
  let shade: Shade = [0, 0, 0, 0]
  const changes = typeof painting === 'function' ? painting : null
  if (!changes) shade = painting as Shade
  for (let y = top; y < bottom; y++) {
    const [from, to] = spanOf(coverage, y)
    let n = (y - top) * width + from - left
    for (let x = from; x < to; x++, n++) {
      if (values[n] === 0) continue
      if (changes) shade = changes(x + 0.5, y + 0.5)
      const cover = values[n]! * opacity * shade[3]
      const under = 1 - cover
      const at = 4 * ((y - layer.top) * row + x - layer.left)
      pixels[at] = shade[0] * cover + pixels[at]! * under
      pixels[at + 1] = shade[1] * cover + pixels[at + 1]! * under
      pixels[at + 2] = shade[2] * cover + pixels[at + 2]! * under
      pixels[at + 3] = cover + pixels[at + 3]! * under
    }
  }
}
