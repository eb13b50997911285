/** Markers on the corners of lines (SVG 2, 11.6): where they stand, and which way they look. */
import SvgPath from 'svgpath'
import { combined, placing, type Affine } from '../../raster/line'
import type { Size, Styles } from './around'
import { STILL } from './paint'
import { lengthOf } from './shapes'
import { fitted, viewBoxOf } from './viewport'

type Way = readonly [number, number]

/** A corner of a path: where it lies, and the ways by which the line comes and goes; null at an end. */
export interface Corner {
  x: number
  y: number
  comes: Way | null
  goes: Way | null
}

/** Corners that one path may have marks on. */
const MOST_CORNERS = 20_000
/** Shapes that have corners to mark. */
export const MARKED: ReadonlySet<string> = new Set(['path', 'line', 'polyline', 'polygon'])

/** The first way between spots that leads anywhere; null where all are one. */
function way(spots: readonly Way[]): Way | null {
  const [from, ...others] = spots
  for (const to of others) {
    const [dx, dy] = [to[0] - from![0], to[1] - from![1]]
    if (Math.hypot(dx, dy) > 1e-9) return [dx, dy]
  }
  return null
}

/** An arc's ways at its beginning and end: those of the curves that stand for it. */
function arcWays(
  from: Way,
  [rx, ry, turn, large, sweep, x, y]: readonly number[]
): { out: Way | null; in: Way | null } {
  const curves: number[][] = []
  SvgPath(`M${from[0]} ${from[1]}A${rx} ${ry} ${turn} ${large} ${sweep} ${x} ${y}`)
    .unarc()
    .iterate(segment => {
      const [kind, ...numbers] = segment as [string, ...number[]]
      if (kind === 'C') curves.push(numbers)
    })
  const [first, last] = [curves[0], curves.at(-1)]
  const end: Way = [x!, y!]
  if (!first || !last) return { out: way([from, end]), in: way([from, end]) }
  const back = way([end, [last[2]!, last[3]!], [last[0]!, last[1]!]])
  return { out: way([from, [first[0]!, first[1]!]]), in: back && [-back[0], -back[1]] }
}

/**
 * The corners of path data, in its order; of a closed part the last stands where its first does. Throws a plain Error
 * where there are more than can be marked.
 */
export function cornersOf(data: string): Corner[] {
  const corners: Corner[] = []
  let first = 0
  let start: Way = [0, 0]
  const add = (x: number, y: number, comes: Way | null): void => {
    if (corners.length >= MOST_CORNERS) throw new Error('its lines have more corners than can be marked')
    corners.push({ x, y, comes, goes: null })
  }
  const leave = (goes: Way | null): void => {
    const last = corners.at(-1)
    if (last) last.goes = goes
  }
  SvgPath(data)
    .abs()
    .unshort()
    .iterate((segment, _, x, y) => {
      const [kind, ...n] = segment as [string, ...number[]]
      const from: Way = [x, y]
      if (kind === 'M') {
        start = [n[0]!, n[1]!]
        first = corners.length
        add(...start, null)
        return
      }
      if (kind === 'Z' || kind === 'z') {
        const closing = way([from, start])
        const opening = corners[first]
        leave(closing)
        add(...start, closing ?? corners.at(-1)?.comes ?? null)
        const end = corners.at(-1)!
        end.goes = opening?.goes ?? null
        if (opening) opening.comes = end.comes
        return
      }
      if (kind === 'A') {
        const ways = arcWays(from, n)
        leave(ways.out)
        add(n[5]!, n[6]!, ways.in)
        return
      }
      const to: Way = kind === 'H' ? [n[0]!, y] : kind === 'V' ? [x, n[0]!] : [n.at(-2)!, n.at(-1)!]
      const between = kind === 'C' || kind === 'Q' ? pairs(n.slice(0, -2)) : []
      leave(way([from, ...between, to]))
      const back = way([to, ...[...between].reverse(), from])
      add(...to, back && [-back[0], -back[1]])
    })
  // a step that leads nowhere looks where the one before it did
  for (const [i, corner] of corners.entries()) {
    if (!corner.comes && i > 0 && corner.goes) continue
    if (!corner.comes && !corner.goes && i > 0) corner.comes = corners[i - 1]!.comes
  }
  return corners
}

const pairs = (numbers: readonly number[]): Way[] =>
  Array.from({ length: numbers.length / 2 }, (_, i) => [numbers[2 * i]!, numbers[2 * i + 1]!])

/** The way a corner looks, in degrees clockwise beyond -180 up to 180: midway between coming and going. */
export function turnOf(corner: Corner): number {
  const turn = midway(corner) % 360
  return (turn > 180 ? turn - 360 : turn <= -180 ? turn + 360 : turn) + 0
}

function midway({ comes, goes }: Corner): number {
  const degrees = ([dx, dy]: Way): number => (Math.atan2(dy, dx) * 180) / Math.PI
  if (!comes || !goes) return comes || goes ? degrees((comes ?? goes)!) : 0
  const [a, b] = [degrees(comes), degrees(goes)]
  const between = ((((b - a) % 360) + 540) % 360) - 180
  return a + between / 2
}

/** The id of the marker that a style names for a place; null where it names none. */
export function markerAt(style: Styles, place: 'start' | 'mid' | 'end'): string | null {
  const named = style[`marker-${place}`] ?? style.marker
  return /^\s*url\(\s*['"]?#([^'")]+)['"]?\s*\)/.exec(named ?? '')?.[1] ?? null
}

/** Whether a style names any marker. */
export const isMarked = (style: Styles): boolean =>
  (['start', 'mid', 'end'] as const).some(place => markerAt(style, place) !== null)

/** An angle in degrees. */
function degreesOf(text: string): number {
  const [, number, unit = 'deg'] = /^([-+.\de]+)(deg|grad|rad|turn)?$/i.exec(text) ?? []
  const per: Record<string, number> = { deg: 1, grad: 0.9, rad: 180 / Math.PI, turn: 360 }
  const value = Number(number) * per[unit.toLowerCase()]!
  return Number.isFinite(value) ? value : 0
}

interface Marking {
  corner: Corner
  place: 'start' | 'mid' | 'end'
  /** Of the line that is marked, and the measure that shares of lengths are of. */
  style: Styles
  size: Size
}

/** Where a marker with these styles is laid, and its own size; null where it has none. */
export function markerPlace(
  own: Styles,
  { corner, place, style, size }: Marking
): { at: Affine; size: readonly [number, number] } | null {
  const [width, height] = [lengthOf(own.markerWidth, size[0], 3), lengthOf(own.markerHeight, size[1], 3)]
  if (!(width > 0 && height > 0)) return null
  const view = viewBoxOf(own.viewBox)
  const fit = view ? fitted(view, [width, height], own.preserveAspectRatio) : STILL
  const reference = (text: string | undefined, low: number, whole: number): number => {
    const share = { left: 0, top: 0, center: 0.5, right: 1, bottom: 1 }[text?.trim() ?? '']
    return share === undefined ? lengthOf(text, whole) : low + share * whole
  }
  const x = reference(own.refX, view?.[0] ?? 0, view?.[2] ?? width)
  const y = reference(own.refY, view?.[1] ?? 0, view?.[3] ?? height)
  const wide = lengthOf(style['stroke-width'], Math.hypot(...size) / Math.SQRT2, 1)
  const orient = (own.orient ?? '0').trim()
  const turned = orient.startsWith('auto')
    ? turnOf(corner) + (orient === 'auto-start-reverse' && place === 'start' ? 180 : 0)
    : degreesOf(orient)
  const at = combined(
    placing(corner.x, corner.y, own.markerUnits === 'userSpaceOnUse' ? 1 : wide, turned),
    // its reference point lies on the corner
    { ...STILL, e: -(fit.a * x + fit.e), f: -(fit.d * y + fit.f) }
  )
  return { at, size: [width, height] }
}
