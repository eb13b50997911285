/** Patterns as paints: a tile that is drawn once and laid side by side (SVG 2, 13.3). */
import type { Layer } from '../../scene/layer'
import { combined, inverse, type Affine } from '../../raster/line'
import { STILL, transformOf, type Painting, type Shade } from './paint'
import { lengthOf } from './shapes'
import type { Node } from './tree'
import { fitted, viewBoxOf } from './viewport'

/** Pixels of a tile to one of the picture, across and down, and most of one tile; a larger one has fewer to a pixel. */
const FINER = 4
const MOST_TILE = 1 << 24
/** Patterns that take what they do not say from another. */
const MOST_LINKS = 20

/** Where a pattern is asked for. */
export interface Tiling {
  byId: ReadonlyMap<string, Node>
  /** The box of what is painted. */
  box: readonly [left: number, top: number, right: number, bottom: number]
  at: Affine
  /** The measure that shares of lengths are of. */
  size: readonly [number, number]
  /** Whether what is painted is a tile itself: its pixels are finer than the picture's already. */
  within: boolean
  /** Draws the children of a node onto a tile of so many pixels, at a place and by a measure. */
  tile(content: Node, pixels: readonly [number, number], at: Affine, size: readonly [number, number]): Layer
}

/** A pattern and those it takes from, the nearest first. */
function linked(id: string, byId: ReadonlyMap<string, Node>): Node[] {
  const chain: Node[] = []
  for (let next: string | undefined = id; next !== undefined && chain.length < MOST_LINKS;) {
    const node = byId.get(next)
    if (node?.tag !== 'pattern') break
    chain.push(node)
    next = /^#(.+)$/.exec(node.attributes.href ?? '')?.[1]
  }
  return chain
}

/** The paint of a pattern by its id; null where there is none, or it has no size or nothing in it. */
export function patternOf(id: string, { byId, box, at, size, within: inTile, tile }: Tiling): Painting | null {
  const chain = linked(id, byId)
  const attribute = (name: string): string | undefined =>
    chain.find(node => node.attributes[name] !== undefined)?.attributes[name]
  const content = chain.find(({ children }) => children.some(({ tag }) => tag !== '#text'))
  if (!content) return null
  const within = (attribute('patternUnits') ?? 'objectBoundingBox') === 'objectBoundingBox'
  const [l, t, r, b] = box
  const [w, h] = within ? [r - l, b - t] : size
  const share = (name: string, whole: number): number =>
    within && !/%/.test(attribute(name) ?? '') ? Number(attribute(name) ?? 0) * whole : lengthOf(attribute(name), whole)
  const [x, y] = [share('x', w) + (within ? l : 0), share('y', h) + (within ? t : 0)]
  const [width, height] = [share('width', w), share('height', h)]
  if (!(width > 0 && height > 0)) return null
  const placed = combined(at, transformOf(attribute('patternTransform')))
  const [across, down] = [width * Math.hypot(placed.a, placed.b), height * Math.hypot(placed.c, placed.d)]
  if (!(across > 0 && down > 0)) return null
  // the tile has pixels of its own, finer than those it is shown in
  const finer = Math.min(inTile ? 1 : FINER, Math.sqrt(MOST_TILE / (across * down)))
  const [tw, th] = [Math.max(1, Math.round(across * finer)), Math.max(1, Math.round(down * finer))]
  const view = viewBoxOf(attribute('viewBox'))
  const boxed = attribute('patternContentUnits') === 'objectBoundingBox'
  // what is in a tile is measured from its corner
  const inner = view
    ? fitted(view, [width, height], attribute('preserveAspectRatio'))
    : boxed
      ? { ...STILL, a: r - l, d: b - t }
      : STILL
  const place = combined({ ...STILL, a: tw / width, d: th / height }, inner)
  const { pixels } = tile(content, [tw, th], place, view ? [view[2], view[3]] : size)
  const back = inverse(placed)
  const samples = Array.from(
    { length: FINER * FINER },
    (_, n) => [((n % FINER) + 0.5) / FINER - 0.5, (Math.floor(n / FINER) + 0.5) / FINER - 0.5] as const
  )
  const wrapped = (value: number, length: number): number => ((value % length) + length) % length
  const shade = (px: number, py: number): Shade => {
    const sum: [number, number, number, number] = [0, 0, 0, 0]
    for (const [ox, oy] of samples) {
      const u = back.a * (px + ox) + back.c * (py + oy) + back.e - x
      const v = back.b * (px + ox) + back.d * (py + oy) + back.f - y
      const i = Math.min(tw - 1, Math.floor(wrapped(u, width) * (tw / width)))
      const j = Math.min(th - 1, Math.floor(wrapped(v, height) * (th / height)))
      for (let c = 0; c < 4; c++) sum[c]! += pixels[4 * (j * tw + i) + c]! / samples.length
    }
    return sum[3] > 0 ? [sum[0] / sum[3], sum[1] / sum[3], sum[2] / sum[3], sum[3]] : [0, 0, 0, 0]
  }
  return Object.assign(shade, { looks: samples.length })
}
