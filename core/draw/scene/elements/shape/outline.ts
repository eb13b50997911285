/** The outline of a shape. */
import { arcInto, ellipseLine, type Line } from '../../../raster/line'
import type { ShapeLook } from './look'

/** The outline of a shape about its middle, running clockwise on the screen. */
export function figureLine({ form, width, height, corner, points, inner }: ShapeLook): Line {
  const [w, h] = [width / 2, height / 2]
  if (form === 'ellipse') return ellipseLine(w, h)
  const out: number[] = []
  if (form === 'rectangle') {
    const r = Math.min(corner, w, h)
    if (r <= 0) out.push(-w, -h, w, -h, w, h, -w, h)
    else {
      arcInto(out, [w - r, -h + r], [r, r], -Math.PI / 2, 0)
      arcInto(out, [w - r, h - r], [r, r], 0, Math.PI / 2)
      arcInto(out, [-w + r, h - r], [r, r], Math.PI / 2, Math.PI)
      arcInto(out, [-w + r, -h + r], [r, r], Math.PI, 1.5 * Math.PI)
    }
  } else {
    const count = form === 'star' ? 2 * points : points
    for (let n = 0; n < count; n++) {
      const at = (2 * Math.PI * n) / count - Math.PI / 2
      const far = form === 'star' && n & 1 ? inner : 1
      out.push(w * far * Math.cos(at), h * far * Math.sin(at))
    }
  }
  return Float64Array.from(out)
}
