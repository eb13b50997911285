/** CIEDE2000 colour difference (CIE 142-2001; ISO/CIE 11664-6), from sRGB under D65. */

/** sRGB-coded 0..1 to linear light (IEC 61966-2-1). */
function linear(v: number): number {
  return v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4
}

/**
 * Table of linear light for 4096 steps of coded value, interpolated between: within 1e-7 of the curve where it matters.
 */
const STEPS = 4096
const LINEAR = Float64Array.from({ length: STEPS + 2 }, (_, i) => linear(Math.min(1, i / STEPS)))

/** Linear light of an sRGB-coded value, both 0..1; values beyond are clamped. */
export function toLinear(v: number): number {
  const x = Math.max(0, Math.min(1, v)) * STEPS
  const i = Math.floor(x)
  return LINEAR[i]! + (LINEAR[i + 1]! - LINEAR[i]!) * (x - i)
}

function lightness(t: number): number {
  return t > 216 / 24389 ? Math.cbrt(t) : (t * (24389 / 27) + 16) / 116
}

/** CIE L*a*b* of an sRGB-coded colour (0..1), D65 white. Writes three values at `at`. */
export function toLab(r: number, g: number, b: number, lab: Float64Array, at: number): void {
  const [lr, lg, lb] = [toLinear(r), toLinear(g), toLinear(b)]
  const x = lightness((0.4124564 * lr + 0.3575761 * lg + 0.1804375 * lb) / 0.95047)
  const y = lightness(0.2126729 * lr + 0.7151522 * lg + 0.072175 * lb)
  const z = lightness((0.0193339 * lr + 0.119192 * lg + 0.9503041 * lb) / 1.08883)
  lab[at] = 116 * y - 16
  lab[at + 1] = 500 * (x - y)
  lab[at + 2] = 200 * (y - z)
}

const DEGREES = Math.PI / 180
const POW25_7 = 25 ** 7

/** Difference of the L*a*b* colours at `i` and `j`, with all weights 1. */
export function ciede2000(lab: ArrayLike<number>, i: number, j: number): number {
  const [l1, a1, b1, l2, a2, b2] = [lab[i]!, lab[i + 1]!, lab[i + 2]!, lab[j]!, lab[j + 1]!, lab[j + 2]!]
  const meanC = (Math.hypot(a1, b1) + Math.hypot(a2, b2)) / 2
  const meanC7 = meanC ** 7
  const stretch = 1 + 0.5 * (1 - Math.sqrt(meanC7 / (meanC7 + POW25_7)))
  const c1 = Math.hypot(a1 * stretch, b1)
  const c2 = Math.hypot(a2 * stretch, b2)
  const hue = (b: number, a: number): number => (a === 0 && b === 0 ? 0 : (Math.atan2(b, a) / DEGREES + 360) % 360)
  const h1 = hue(b1, a1 * stretch)
  const h2 = hue(b2, a2 * stretch)
  let dh = c1 * c2 === 0 ? 0 : h2 - h1
  if (dh > 180) dh -= 360
  else if (dh < -180) dh += 360
  const dL = l2 - l1
  const dC = c2 - c1
  const dH = 2 * Math.sqrt(c1 * c2) * Math.sin((dh * DEGREES) / 2)
  const L = (l1 + l2) / 2
  const C = (c1 + c2) / 2
  let h = h1 + h2
  if (c1 * c2 !== 0) {
    if (Math.abs(h1 - h2) > 180) h += h < 360 ? 360 : -360
    h /= 2
  }
  const T =
    1 -
    0.17 * Math.cos((h - 30) * DEGREES) +
    0.24 * Math.cos(2 * h * DEGREES) +
    0.32 * Math.cos((3 * h + 6) * DEGREES) -
    0.2 * Math.cos((4 * h - 63) * DEGREES)
  const L50 = (L - 50) ** 2
  const sL = 1 + (0.015 * L50) / Math.sqrt(20 + L50)
  const sC = 1 + 0.045 * C
  const sH = 1 + 0.015 * C * T
  const C7 = C ** 7
  const rT = -2 * Math.sqrt(C7 / (C7 + POW25_7)) * Math.sin(60 * Math.exp(-(((h - 275) / 25) ** 2)) * DEGREES)
  return Math.sqrt((dL / sL) ** 2 + (dC / sC) ** 2 + (dH / sH) ** 2 + rT * (dC / sC) * (dH / sH))
}
