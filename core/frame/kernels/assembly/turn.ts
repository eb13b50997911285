// Turning by any angle, on premultiplied float RGBA, by cubic convolution. Plain twin: tests/oracles/turn.ts.

/** Squares by which clear parts are passed over have sides of two to this power. */
export const SQUARE: i32 = 4

/** Weights of four neighbours at `t` between the middle two, in one vector. */
// @ts-ignore: decorator
@inline
function cubic(t: f32): v128 {
  return f32x4(((-0.5 * t + 1) * t - 0.5) * t, (1.5 * t - 2.5) * t * t + 1, ((-1.5 * t + 2) * t + 0.5) * t, (0.5 * t - 0.5) * t * t)
}

// @ts-ignore: decorator
@inline
function weighed(at: usize, shares: v128): v128 {
  let sum = f32x4.mul(v128.load(at), v128.shuffle<u32>(shares, shares, 0, 0, 0, 0))
  sum = f32x4.add(sum, f32x4.mul(v128.load(at, 16), v128.shuffle<u32>(shares, shares, 1, 1, 1, 1)))
  sum = f32x4.add(sum, f32x4.mul(v128.load(at, 32), v128.shuffle<u32>(shares, shares, 2, 2, 2, 2)))
  return f32x4.add(sum, f32x4.mul(v128.load(at, 48), v128.shuffle<u32>(shares, shares, 3, 3, 3, 3)))
}

/**
 * One row of the result, straight. `from` holds the picture with a rim of clear pixels, `rim` wide, in rows of `stride`
 * pixels; `used` tells of each square of it whether it or one beside it holds anything, in rows of `squares`. The row's
 * first pixel comes from `u`,
 * `v` of the picture, each further one from `du`, `dv` on.
 */
export function turnRow(from: usize, stride: i32, rim: i32, used: usize, squares: i32, width: i32, height: i32, to: usize, pixels: i32, u0: f64, v0: f64, du: f64, dv: f64): void {
  const row = <usize>16 * <usize>stride
  for (let x = 0; x < pixels; x++, to += 16) {
    const u = u0 + du * x
    const v = v0 + dv * x
    let result = f32x4.splat(0)
    if (u > -2 && v > -2 && u < width + 1 && v < height + 1) {
      const left = <i32>Math.floor(u)
      const top = <i32>Math.floor(v)
      if (load<u8>(used + <usize>(((top + rim) >> SQUARE) * squares + ((left + rim) >> SQUARE))) != 0) {
        const wx = cubic((u - left) as f32)
        const wy = cubic((v - top) as f32)
        const at = from + <usize>16 * <usize>((top - 1 + rim) * stride + left - 1 + rim)
        let sum = f32x4.mul(weighed(at, wx), v128.shuffle<u32>(wy, wy, 0, 0, 0, 0))
        sum = f32x4.add(sum, f32x4.mul(weighed(at + row, wx), v128.shuffle<u32>(wy, wy, 1, 1, 1, 1)))
        sum = f32x4.add(sum, f32x4.mul(weighed(at + 2 * row, wx), v128.shuffle<u32>(wy, wy, 2, 2, 2, 2)))
        sum = f32x4.add(sum, f32x4.mul(weighed(at + 3 * row, wx), v128.shuffle<u32>(wy, wy, 3, 3, 3, 3)))
        const a = f32x4.extract_lane(sum, 3)
        if (a > 1e-8) {
          result = f32x4.replace_lane(f32x4.div(sum, f32x4.splat(a)), 3, a)
          result = f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), result))
        }
      }
    }
    v128.store(to, result)
  }
}

/**
 * Colour of straight RGBA multiplied by alpha, in place, in rows of `stride`; squares of it that hold anything are
 * marked in `used`.
 */
export function multiplyMarking(at: usize, stride: i32, rows: i32, used: usize, squares: i32): void {
  for (let y = 0; y < rows; y++) {
    const marks = used + <usize>((y >> SQUARE) * squares)
    for (let x = 0; x < stride; x++) {
      const pixel = v128.load(at)
      const a = f32x4.extract_lane(pixel, 3)
      if (a != 0) store<u8>(marks + <usize>(x >> SQUARE), 1)
      v128.store(at, f32x4.replace_lane(f32x4.mul(pixel, f32x4.splat(a)), 3, a))
      at += 16
    }
  }
}
