/**
 * The wavelet of OpenEXR's PIZ: pairs become mean and difference, along both axes, at ever larger steps. Where all
 * values stay below 2^14 means are signed and plain; else arithmetic is modulo 2^16.
 */

/** A plane within an array of 16-bit values: its size, and the steps from one value and from one line to the next. */
export interface Strided {
  values: Uint16Array
  start: number
  width: number
  height: number
  step: number
  line: number
}

type Pair = (values: Uint16Array, a: number, b: number) => void

const apart14: Pair = (v, a, b) => {
  const [x, y] = [(v[a]! << 16) >> 16, (v[b]! << 16) >> 16]
  v[a] = (x + y) >> 1
  v[b] = x - y
}

const join14: Pair = (v, a, b) => {
  const [low, high] = [(v[a]! << 16) >> 16, (v[b]! << 16) >> 16]
  const x = low + (high & 1) + (high >> 1)
  v[a] = x
  v[b] = x - high
}

const apart16: Pair = (v, a, b) => {
  const x = (v[a]! + 32768) & 65535
  const difference = x - v[b]!
  v[a] = ((x + v[b]!) >> 1) + (difference < 0 ? 32768 : 0)
  v[b] = difference
}

const join16: Pair = (v, a, b) => {
  const y = (v[a]! - (v[b]! >> 1)) & 65535
  v[a] = v[b]! + y - 32768
  v[b] = y
}

/** One level: squares of four values, then the odd column and the odd line. `across` first works along lines. */
function level(
  { values, start, width, height, step, line }: Strided,
  p: number,
  pair: Pair,
  linesFirst: boolean
): void {
  const [right, down] = [step * p, line * p]
  let y = 0
  for (; y <= height - 2 * p; y += 2 * p) {
    let x = 0
    for (; x <= width - 2 * p; x += 2 * p) {
      const at = start + y * line + x * step
      if (linesFirst) {
        pair(values, at, at + right)
        pair(values, at + down, at + down + right)
        pair(values, at, at + down)
        pair(values, at + right, at + down + right)
      } else {
        pair(values, at, at + down)
        pair(values, at + right, at + down + right)
        pair(values, at, at + right)
        pair(values, at + down, at + down + right)
      }
    }
    if (width & p) {
      const at = start + y * line + x * step
      pair(values, at, at + down)
    }
  }
  if (height & p) {
    for (let x = 0; x <= width - 2 * p; x += 2 * p) {
      const at = start + y * line + x * step
      pair(values, at, at + right)
    }
  }
}

/** In place; `most` is the largest value. */
export function waveletApart(plane: Strided, most: number): void {
  const pair = most < 1 << 14 ? apart14 : apart16
  for (let p = 1; 2 * p <= Math.min(plane.width, plane.height); p *= 2) level(plane, p, pair, true)
}

/** Puts a plane together in place; `most` is the largest value that it may hold. */
export function waveletJoin(plane: Strided, most: number): void {
  const pair = most < 1 << 14 ? join14 : join16
  let p = 1
  while (2 * p <= Math.min(plane.width, plane.height)) p *= 2
  for (p /= 2; p >= 1; p /= 2) level(plane, p, pair, false)
}
