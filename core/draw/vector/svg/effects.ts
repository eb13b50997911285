/** What is done to an element as a whole: clipping, masking, filtering (CSS Masking 1, Filter Effects 1). */
import { over, type Layer } from '../../scene/layer'
import { combined, type Affine } from '../../raster/line'
import { areaOf } from '../../raster/area'
import { boundsOf, type Bounds, type Coverage } from '../../raster/coverage'
import { INHERITED, MOST_USES, type DrawnAround, type Size, type Spread, type Styles } from './around'
import { kept } from '../../scene/blend'
import { filtered } from './filter'
import { shadeOf, STILL, transformOf } from './paint'
import { lengthOf, pathOf, placedRuns, runsOf } from './shapes'
import type { OwnStyles } from './rules'
import { referredTo } from './told'
import type { Node } from './tree'

/** The drawer, as effects need it. */
export interface Hand {
  readonly byId: ReadonlyMap<string, Node>
  /** A clear layer, which counts as work. */
  layer(bounds: Bounds): Layer
  styles(node: Node): OwnStyles
  inherited(node: Node, from: Styles): Record<string, string>
  transformOf(node: Node, own: Styles, size: Size): Affine
  /** An element's own box, without its own transform. */
  ownBox(node: Node, size: Size): Spread
  used(own: Styles, uses: number): Node[]
  draw(node: Node, around: DrawnAround): void
  shape(tag: string, own: Styles, around: DrawnAround): void
}

/** An element, what was drawn of it, and where it stands. */
export interface Whole {
  node: Node
  target: Layer
  around: DrawnAround
}

type Units = 'objectBoundingBox' | 'userSpaceOnUse'

/** The space of what is measured by an element's box, or of the drawing. */
function spaceOf(
  hand: Hand,
  units: string | undefined,
  { node, size }: { node: Node; size: Size },
  usual: Units
): Affine {
  if ((units ?? usual) !== 'objectBoundingBox') return STILL
  const [l, t, r, b] = hand.ownBox(node, size)
  return { a: r - l, b: 0, c: 0, d: b - t, e: l, f: t }
}

/** Keeps of a layer what lies within an area. */
export function keptWithin(layer: Layer, area: Coverage | null): void {
  const row = layer.right - layer.left
  kept(layer, n => {
    const [x, y] = [layer.left + (n % row), layer.top + Math.floor(n / row)]
    if (!area || x < area.left || x >= area.right || y < area.top || y >= area.bottom) return 0
    return area.values[(y - area.top) * (area.right - area.left) + x - area.left]!
  })
}

/** Keeps of a target what a clip leaves, and those that clip it or its parts. */
export function clipBy(hand: Hand, clip: Node, { node, target, around }: Whole, depth = 0): void {
  const own = hand.styles(clip)
  const space = spaceOf(hand, clip.attributes.clipPathUnits, { node, size: around.size }, 'userSpaceOnUse')
  const at = combined(around.at, combined(space, transformOf(own.transform)))
  const shapes = hand.layer(target)
  for (const child of clip.children) {
    const inner = hand.styles(child)
    if (inner.display === 'none' || hand.inherited(child, {}).visibility === 'hidden') continue
    const style = { fill: '#000', stroke: 'none', 'fill-rule': inner['clip-rule'] ?? own['clip-rule'] ?? 'nonzero' }
    const further = hand.byId.get(referredTo(inner['clip-path']) ?? '')
    const cut = further?.tag === 'clipPath' && depth < MOST_USES
    // only what is cut by itself needs a layer of its own
    const one = cut ? hand.layer(target) : shapes
    clipShape(hand, child, { style, at, onto: one, uses: 0, size: around.size })
    if (!cut) continue
    clipBy(hand, further, { node: child, target: one, around: { ...around, at } }, depth + 1)
    over(shapes, one)
  }
  const outer = hand.byId.get(referredTo(own['clip-path']) ?? '')
  if (outer?.tag === 'clipPath' && outer !== clip && depth < MOST_USES)
    clipBy(hand, outer, { node, target, around }, depth + 1)
  kept(target, n => shapes.pixels[4 * n + 3]!)
}

/** A shape of a clip, or what it uses, filled whatever its own colours are. */
function clipShape(hand: Hand, node: Node, around: DrawnAround): void {
  const own = hand.styles(node)
  const at = combined(around.at, hand.transformOf(node, own, around.size))
  if (node.tag === 'text' || node.tag === 'tspan') {
    for (const child of node.children) clipShape(hand, child, { ...around, at })
    return
  }
  if (node.tag !== 'use') {
    const geometry = Object.fromEntries(Object.entries(own).filter(([name]) => !INHERITED.includes(name)))
    return hand.shape(node.tag, geometry, { ...around, at })
  }
  const moved = { ...STILL, e: lengthOf(own.x, around.size[0]), f: lengthOf(own.y, around.size[1]) }
  for (const child of hand.used(own, around.uses))
    clipShape(hand, child, { ...around, at: combined(at, moved), uses: around.uses + 1 })
}

/** Keeps of a target as much as a mask lets through, by its light or its alpha. */
export function maskBy(hand: Hand, mask: Node, { node, target, around }: Whole): void {
  const own = hand.styles(mask)
  const region = spaceOf(hand, mask.attributes.maskUnits, { node, size: around.size }, 'objectBoundingBox')
  const within = (mask.attributes.maskUnits ?? 'objectBoundingBox') === 'objectBoundingBox'
  const [w, h] = within ? [1, 1] : around.size
  const length = (name: string, whole: number, usual: string): number => lengthOf(own[name] ?? usual, whole)
  const rim = {
    x: String(length('x', w, '-10%')),
    y: String(length('y', h, '-10%')),
    width: String(length('width', w, '120%')),
    height: String(length('height', h, '120%'))
  }
  const space = spaceOf(hand, mask.attributes.maskContentUnits, { node, size: around.size }, 'userSpaceOnUse')
  const shown = hand.layer(target)
  const style = hand.inherited(mask, {})
  for (const child of mask.children)
    hand.draw(child, { style, at: combined(around.at, space), onto: shown, uses: around.uses + 1, size: around.size })
  const data = pathOf('rect', rim, [w, h])
  const runs = data ? runsOf(data, STILL) : []
  keptWithin(
    shown,
    areaOf(
      placedRuns(runs, combined(around.at, region)).map(({ line }) => line),
      target
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

/** A target through a filter, within the filter's region. */
export function filteredBy(hand: Hand, filter: Node, { node, target, around: { at, size, style } }: Whole): Layer {
  const within = (filter.attributes.filterUnits ?? 'objectBoundingBox') === 'objectBoundingBox'
  const space = spaceOf(hand, filter.attributes.filterUnits, { node, size }, 'objectBoundingBox')
  const [w, h] = within ? [1, 1] : size
  const a = filter.attributes
  const [x, y] = [lengthOf(a.x ?? '-10%', w), lengthOf(a.y ?? '-10%', h)]
  const [width, height] = [lengthOf(a.width ?? '120%', w), lengthOf(a.height ?? '120%', h)]
  const rim = pathOf('rect', { x: `${x}`, y: `${y}`, width: `${width}`, height: `${height}` }, [1, 1])
  const lines = rim ? placedRuns(runsOf(rim, STILL), combined(at, space)).map(({ line }) => line) : []
  return filtered(target, filter, {
    styles: each => hand.styles(each),
    current: shadeOf(style.color ?? '#000', [0, 0, 0, 1]) ?? [0, 0, 0, 1],
    scale: [Math.hypot(at.a, at.b), Math.hypot(at.c, at.d)],
    region: boundsOf(lines)
  })
}
