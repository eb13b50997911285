/** Colours and gradients of SVG, as shares of red, green and blue at a place (SVG 1.1, 11.2 and 13.2). */
import colours from 'color-string'
import { combined, inverse, type Affine } from '../../raster/line'
import { lengthOf } from './shapes'
import type { Node } from './tree'

/** Red, green, blue and alpha, 0 to 1, straight. */
export type Shade = readonly [number, number, number, number]
/**
 * One colour, or the colour at a pixel's middle, which holds until the next is asked for; `looks` is how often it looks
 * for one pixel.
 */
export type Painting = Shade | (((x: number, y: number) => Shade) & { looks?: number })

/** A colour as CSS writes it; null for none, and for what is no colour. */
export function shadeOf(text: string, current: Shade): Shade | null {
  const name = text.trim()
  if (name === 'none' || name === 'transparent') return null
  if (name === 'currentColor' || name === 'currentcolor') return current
  const found = colours.get.rgb(name) ?? hsl(name)
  return found ? [found[0] / 255, found[1] / 255, found[2] / 255, found[3]] : null
}

/** Whether a value of a fill or stroke is understood. */
export const isShade = (text: string): boolean =>
  /^(none|transparent|inherit|currentcolor)$/i.test(text.trim()) || shadeOf(text, [0, 0, 0, 1]) !== null

/** An HSL colour as codes of red, green and blue, and alpha; null where it is none. */
function hsl(text: string): [number, number, number, number] | null {
  const found = colours.get.hsl(text)
  if (!found) return null
  const [h, s, l, a] = found
  const chroma = (1 - Math.abs((2 * l) / 100 - 1)) * (s / 100)
  const part = (n: number): number => {
    const k = (n + h / 60) % 6
    return Math.round(255 * (l / 100 + chroma * (Math.max(0, Math.min(1, Math.abs(k - 3) - 1)) - 0.5)))
  }
  return [part(0), part(4), part(2), a]
}

/** A number from 0 to 1, or a share. */
export function shareOf(text: string | undefined, fallback = 1): number {
  if (text === undefined) return fallback
  const value = parseFloat(text) / (text.trim().endsWith('%') ? 100 : 1)
  return Number.isFinite(value) ? Math.min(1, Math.max(0, value)) : fallback
}

const NUMBER = '[-+]?(?:\\d+\\.?\\d*|\\.\\d+)(?:e[-+]?\\d+)?'

export const STILL: Affine = { a: 1, b: 0, c: 0, d: 1, e: 0, f: 0 }

/** A transform about a place (CSS Transforms 1, 6: transform-origin). */
export function about(at: Affine, [x, y]: readonly [number, number]): Affine {
  return combined({ ...STILL, e: x, f: y }, combined(at, { ...STILL, e: -x, f: -y }))
}

/** A list of transforms (SVG 1.1, 7.6); what is not understood moves nothing. */
export function transformOf(text: string | undefined): Affine {
  let at = STILL
  for (const [, kind, inside] of (text ?? '').matchAll(/\b(\w+)\s*\(([^()]*)\)/g)) {
    const n = (inside!.match(new RegExp(NUMBER, 'gi')) ?? []).map(Number)
    const turn = ((n[0] ?? 0) * Math.PI) / 180
    const moved = (x: number, y: number): Affine => ({ ...STILL, e: x, f: y })
    if (kind === 'translate') at = combined(at, moved(n[0] ?? 0, n[1] ?? 0))
    else if (kind === 'scale') at = combined(at, { ...STILL, a: n[0] ?? 1, d: n[1] ?? n[0] ?? 1 })
    else if (kind === 'rotate') {
      const turned = { a: Math.cos(turn), b: Math.sin(turn), c: -Math.sin(turn), d: Math.cos(turn), e: 0, f: 0 }
      const [x, y] = [n[1] ?? 0, n[2] ?? 0]
      at = combined(at, combined(moved(x, y), combined(turned, moved(-x, -y))))
    } else if (kind === 'skewX') at = combined(at, { ...STILL, c: Math.tan(turn) })
    else if (kind === 'skewY') at = combined(at, { ...STILL, b: Math.tan(turn) })
    else if (kind === 'matrix' && n.length === 6)
      at = combined(at, { a: n[0]!, b: n[1]!, c: n[2]!, d: n[3]!, e: n[4]!, f: n[5]! })
  }
  return at
}

interface Stop {
  at: number
  shade: Shade
}

interface Found {
  /** An element by its id. */
  byId: ReadonlyMap<string, Node>
  styles(node: Node): Record<string, string>
  /** The box of what is painted, before it is placed, and how it is placed. */
  box: readonly [number, number, number, number]
  at: Affine
  size: readonly [number, number]
  current: Shade
}

/** The gradient of that id; null where there is none that can be drawn. */
export function gradientOf(id: string, found: Found): Painting | null {
  // what a gradient lacks it takes from the one it refers to
  const chain: Node[] = []
  for (let next: string | undefined = id; next !== undefined && chain.length < 20;) {
    const node = found.byId.get(next)
    if (!node) break
    chain.push(node)
    next = /^#(.+)$/.exec(node.attributes.href ?? '')?.[1]
  }
  const [own] = chain
  if (own?.tag !== 'linearGradient' && own?.tag !== 'radialGradient') return null
  const attribute = (name: string): string | undefined =>
    chain.find(node => node.attributes[name] !== undefined)?.attributes[name]
  const stops: Stop[] = []
  for (const node of chain.find(({ children }) => children.some(({ tag }) => tag === 'stop'))?.children ?? []) {
    if (node.tag !== 'stop') continue
    const style = found.styles(node)
    const shade = shadeOf(style['stop-color'] ?? '#000', found.current) ?? [0, 0, 0, 0]
    const at = Math.max(stops.at(-1)?.at ?? 0, shareOf(style.offset, 0))
    stops.push({ at, shade: [shade[0], shade[1], shade[2], shade[3] * shareOf(style['stop-opacity'])] })
  }
  if (stops.length === 0) return null
  const within = attribute('gradientUnits') !== 'userSpaceOnUse'
  const [l, t, r, b] = found.box
  const space = within ? { a: r - l, b: 0, c: 0, d: b - t, e: l, f: t } : STILL
  if (within && !(r > l && b > t)) return stops.at(-1)!.shade
  const back = inverse(combined(found.at, combined(space, transformOf(attribute('gradientTransform')))))
  const [w, h] = within ? [1, 1] : found.size
  const length = (name: string, whole: number, fallback: string): number => lengthOf(attribute(name) ?? fallback, whole)
  const place = spreadOf(attribute('spreadMethod') ?? 'pad')
  // one colour for all pixels, filled anew for each: a picture has millions
  const shade: [number, number, number, number] = [0, 0, 0, 0]
  const shadeAt = (share: number): Shade => {
    const t = place(share)
    let n = 0
    while (n < stops.length && stops[n]!.at <= t) n++
    if (n === 0) return stops[0]!.shade
    if (n === stops.length) return stops[n - 1]!.shade
    const { at, shade: from } = stops[n - 1]!
    const { at: end, shade: to } = stops[n]!
    const k = (t - at) / (end - at)
    shade[0] = from[0] + (to[0] - from[0]) * k
    shade[1] = from[1] + (to[1] - from[1]) * k
    shade[2] = from[2] + (to[2] - from[2]) * k
    shade[3] = from[3] + (to[3] - from[3]) * k
    return shade
  }
  if (own.tag === 'linearGradient') {
    const [x1, y1] = [length('x1', w, '0%'), length('y1', h, '0%')]
    const [dx, dy] = [length('x2', w, '100%') - x1, length('y2', h, '0%') - y1]
    const square = dx * dx + dy * dy
    if (!(square > 0)) return stops.at(-1)!.shade
    return (x, y) => {
      const u = back.a * x + back.c * y + back.e
      const v = back.b * x + back.d * y + back.f
      return shadeAt(((u - x1) * dx + (v - y1) * dy) / square)
    }
  }
  const [cx, cy] = [length('cx', w, '50%'), length('cy', h, '50%')]
  const radius = length('r', within ? 1 : Math.hypot(w, h) / Math.SQRT2, '50%')
  if (!(radius > 0)) return stops.at(-1)!.shade
  const [fx, fy] = [length('fx', w, String(cx)), length('fy', h, String(cy))]
  const [ox, oy] = [fx - cx, fy - cy]
  const qc = ox * ox + oy * oy - radius * radius
  const fr = length('fr', within ? 1 : Math.hypot(w, h) / Math.SQRT2, '0')
  return (x, y) => {
    const u = back.a * x + back.c * y + back.e - fx
    const v = back.b * x + back.d * y + back.f - fy
    // the circle from the focus through the place: where its ray meets the outer circle
    const qa = u * u + v * v
    const qb = 2 * (u * ox + v * oy)
    if (qa === 0) return shadeAt(0)
    const reach = (-qb + Math.sqrt(Math.max(0, qb * qb - 4 * qa * qc))) / (2 * qa)
    // colours begin at the rim of the inner circle (SVG 2, 13.2.3: fr)
    const share = reach > 0 ? 1 / reach : 1
    return shadeAt(fr > 0 && fx === cx && fy === cy ? (share * radius - fr) / (radius - fr) : share)
  }
}

function spreadOf(method: string): (share: number) => number {
  if (method === 'repeat') return share => share - Math.floor(share)
  if (method === 'reflect') return share => 1 - Math.abs((((share % 2) + 2) % 2) - 1)
  return share => Math.min(1, Math.max(0, share))
}
