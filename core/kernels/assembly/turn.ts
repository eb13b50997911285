// Turning by any angle, on premultiplied float RGBA, by cubic convolution. Plain twin: plain-turn.ts.

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
 * One row of the result, straight. `from` holds the picture with a rim of clear pixels, `rim` wide, in rows of `stride` pixels; the
 * row's first pixel comes from `u`, `v` of the picture, each further one from `du`, `dv` on.
 */
export function turnRow(from: usize, stride: i32, rim: i32, width: i32, height: i32, to: usize, pixels: i32, u0: f64, v0: f64, du: f64, dv: f64): void {
  for (let x = 0; x < pixels; x++) {
    // places that rounding leaves just beside a pixel are that pixel
    const u = Math.round((u0 + du * x) * 1e6) / 1e6
    const v = Math.round((v0 + dv * x) * 1e6) / 1e6
    let result = f32x4.splat(0)
    if (u > -2 && v > -2 && u < width + 1 && v < height + 1) {
      const left = Math.floor(u)
      const top = Math.floor(v)
      const wx = cubic((u - left) as f32)
      const wy = cubic((v - top) as f32)
      const at = from + <usize>16 * <usize>((<i32>top - 1 + rim) * stride + <i32>left - 1 + rim)
      const row = <usize>16 * <usize>stride
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
    v128.store(to, result)
    to += 16
  }
}

/** Colour of straight RGBA multiplied by alpha, in place. */
export function multiplyFloats(at: usize, pixels: i32): void {
  for (let i = 0; i < pixels; i++) {
    const pixel = v128.load(at)
    const a = f32x4.extract_lane(pixel, 3)
    v128.store(at, f32x4.replace_lane(f32x4.mul(pixel, f32x4.splat(a)), 3, a))
    at += 16
  }
}
