/** The plain twins of the kernels that filter a plane and weigh pixels. */
import { discReach } from '../../core/frame/kernels/terms'
import type { Taps } from '../../core/frame/kernels/kernels'

function boxAcross(from: Float32Array, to: Float32Array, width: number, height: number, radius: number): void {
  const share = 1 / (2 * radius + 1)
  for (let y = 0; y < height; y++) {
    const row = y * width
    const at = (x: number): number => from[row + Math.max(0, Math.min(width - 1, x))]!
    let sum = 0
    for (let x = -radius; x <= radius; x++) sum += at(x)
    for (let x = 0; x < width; x++) {
      to[row + x] = sum * share
      sum += at(x + radius + 1) - at(x - radius)
    }
  }
}

function turned(from: Float32Array, width: number, height: number): Float32Array {
  const to = new Float32Array(from.length)
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) to[x * height + y] = from[y * width + x]!
  return to
}

/** Three boxes of a whole radius along each axis; the outermost value goes on beyond the rim. */
export function blur(plane: Float32Array, width: number, height: number, radius: number): Float32Array {
  let a: Float32Array = plane.slice()
  let b: Float32Array = new Float32Array(plane.length)
  for (const [w, h] of [
    [width, height],
    [height, width]
  ] as const) {
    for (let n = 0; n < 3; n++) {
      boxAcross(a, b, w, h, radius)
      ;[a, b] = [b, a]
    }
    a = turned(a, w, h)
  }
  return a
}

/** The largest value within a disc of a whole radius around each pixel; beyond the rim is nothing. */
export function largest(plane: Float32Array, width: number, height: number, radius: number): Float32Array {
  const result = plane.slice()
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      let most = 0
      for (let dy = -radius; dy <= radius; dy++) {
        if (y + dy < 0 || y + dy >= height) continue
        const reach = discReach(radius, dy)
        for (let u = Math.max(0, x - reach); u <= Math.min(width - 1, x + reach); u++)
          most = Math.max(most, plane[(y + dy) * width + u]!)
      }
      result[y * width + x] = most
    }
  }
  return result
}

/** Pixels of RGBA weighed along rows, then along columns; the outermost pixel goes on beyond the rim. */
export function resample(rgba: Float32Array, width: number, height: number, across: Taps, down: Taps): Float32Array {
  const [w, h] = [across.first.length, down.first.length]
  const narrow = new Float32Array(4 * w * height)
  const result = new Float32Array(4 * w * h)
  /** One pixel of `to`, from pixels of `from` by the taps of its number. */
  const weigh = (
    [from, at]: [Float32Array, (n: number) => number],
    [to, o]: [Float32Array, number],
    { first, shares, count }: Taps,
    n: number,
    last: number
  ): void => {
    for (let k = 0; k < count; k++) {
      const i = at(Math.max(0, Math.min(last, first[n]! + k)))
      for (let c = 0; c < 4; c++) to[o + c]! += from[i + c]! * shares[n * count + k]!
    }
  }
  for (let y = 0; y < height; y++)
    for (let n = 0; n < w; n++) weigh([rgba, x => 4 * (y * width + x)], [narrow, 4 * (y * w + n)], across, n, width - 1)
  for (let n = 0; n < h; n++)
    for (let x = 0; x < w; x++) weigh([narrow, y => 4 * (y * w + x)], [result, 4 * (n * w + x)], down, n, height - 1)
  return result
}
