/** How a picture of its own measure is fitted into a place (SVG 2, 8.6 and 8.7: viewBox and preserveAspectRatio). */
import type { Affine } from '../../raster/line'

export type ViewBox = readonly [x: number, y: number, width: number, height: number]

/** The four numbers of a view box; null where there are none that can be. */
export function viewBoxOf(text: string | undefined): ViewBox | null {
  const numbers = (text ?? '')
    .trim()
    .split(/[\s,]+/)
    .map(Number)
  return numbers.length === 4 && numbers.every(Number.isFinite) && numbers[2]! > 0 && numbers[3]! > 0
    ? (numbers as unknown as ViewBox)
    : null
}

const SHARES: Readonly<Record<string, number>> = { Min: 0, Mid: 0.5, Max: 1 }

/** The placing of `view` in a place of a width and height, as `preserve` asks; what that does not say is the usual. */
export function fitted(
  view: ViewBox,
  [width, height]: readonly [number, number],
  preserve: string | undefined
): Affine {
  const [x, y, w, h] = view
  const [align = 'xMidYMid', how] = (preserve ?? '')
    .trim()
    .replace(/^defer\s+/, '')
    .split(/\s+/)
    .filter(Boolean)
  if (align === 'none') return { a: width / w, b: 0, c: 0, d: height / h, e: (-x * width) / w, f: (-y * height) / h }
  const scale = (how === 'slice' ? Math.max : Math.min)(width / w, height / h)
  const [, across = 'Mid', down = 'Mid'] = /^x(Min|Mid|Max)Y(Min|Mid|Max)$/.exec(align) ?? []
  return {
    a: scale,
    b: 0,
    c: 0,
    d: scale,
    e: (width - w * scale) * SHARES[across]! - x * scale,
    f: (height - h * scale) * SHARES[down]! - y * scale
  }
}
