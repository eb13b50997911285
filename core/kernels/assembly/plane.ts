// Alpha by itself, u16 a pixel: its runs above zero, what shines through, and combs; see plain-plane.ts, whose every count this must give.

/** Alpha of the RGBA of 16 bits at `from`. Writes up to eight bytes beyond the last. */
export function alphaOf(from: usize, to: usize, pixels: i32): void {
  for (let i = 0; i < pixels; i += 4) {
    const at = from + ((<usize>i) << 3)
    const four = v128.shuffle<u8>(v128.load(at), v128.load(at, 16), 6, 7, 14, 15, 22, 23, 30, 31, 6, 7, 14, 15, 22, 23, 30, 31)
    store<u64>(to + ((<usize>i) << 1), i64x2.extract_lane(four, 0))
  }
}

/** The first column from `x` on whose alpha is zero, or is not, as `zero` says; `width` if there is none. */
// @ts-ignore: decorator
@inline
function until(row: usize, x: i32, width: i32, zero: bool): i32 {
  while (x < width) {
    if (x + 8 <= width) {
      const eight = v128.load(row + ((<usize>x) << 1))
      if (zero ? i16x8.all_true(eight) : !v128.any_true(eight)) {
        x += 8
        continue
      }
    }
    if ((load<u16>(row + ((<usize>x) << 1)) == 0) == zero) break
    x++
  }
  return x
}

/** Runs of alpha above zero. */
export function countRuns(plane: usize, width: i32, height: i32): i32 {
  let count = 0
  for (let y = 0; y < height; y++) {
    const row = plane + ((<usize>(y * width)) << 1)
    for (let x = until(row, 0, width, false); x < width; x = until(row, x, width, false)) {
      x = until(row, x, width, true)
      count++
    }
  }
  return count
}

/** Their row, first and last column, and highest alpha: four i32 a run at `to`, in order of rows. */
export function runs(plane: usize, width: i32, height: i32, to: usize): void {
  for (let y = 0; y < height; y++) {
    const row = plane + ((<usize>(y * width)) << 1)
    for (let x = until(row, 0, width, false); x < width; x = until(row, x, width, false)) {
      const first = x
      x = until(row, x, width, true)
      let n = first
      let most = i16x8.splat(0)
      for (; n + 8 <= x; n += 8) most = i16x8.max_u(most, v128.load(row + ((<usize>n) << 1)))
      most = i16x8.max_u(most, v128.shuffle<u8>(most, most, 8, 9, 10, 11, 12, 13, 14, 15, 8, 9, 10, 11, 12, 13, 14, 15))
      most = i16x8.max_u(most, v128.shuffle<u8>(most, most, 4, 5, 6, 7, 4, 5, 6, 7, 4, 5, 6, 7, 4, 5, 6, 7))
      let highest = max<i32>(i16x8.extract_lane_u(most, 0), i16x8.extract_lane_u(most, 1))
      for (; n < x; n++) highest = max<i32>(highest, load<u16>(row + ((<usize>n) << 1)))
      store<i32>(to, y)
      store<i32>(to, first, 4)
      store<i32>(to, x - 1, 8)
      store<i32>(to, highest, 12)
      to += 16
    }
  }
}

const FULL: i32 = 65535

/** Places within areas of alpha from `nearly` on that are not solid, and behind them in `out` the lowest alpha there. */
export function bleed(plane: usize, width: i32, height: i32, nearly: i32, within: i32, out: usize): void {
  let count = 0
  let least = FULL
  const across = (<usize>within) << 1
  const down = (<usize>(within * width)) << 1
  for (let y = within; y < height - within; y += 2) {
    for (let x = within; x < width - within; x += 2) {
      const at = plane + ((<usize>(y * width + x)) << 1)
      const a = <i32>load<u16>(at)
      if (a < nearly || a == FULL) continue
      if (<i32>load<u16>(at - across) < nearly || <i32>load<u16>(at + across) < nearly) continue
      if (<i32>load<u16>(at - down) < nearly || <i32>load<u16>(at + down) < nearly) continue
      count++
      if (a < least) least = a
    }
  }
  store<i32>(out, count)
  store<i32>(out, least, 4)
}

/**
 * Places where alpha has gone to and fro by more than `change` for `lines` lines, in every other column. `state`, zeroed: two i16 for
 * each of those columns, the way it last went and for how many lines.
 */
export function comb(plane: usize, width: i32, height: i32, change: i32, lines: i32, state: usize): i32 {
  let count = 0
  for (let y = 1; y < height; y++) {
    const row = plane + ((<usize>(y * width)) << 1)
    const above = row - ((<usize>width) << 1)
    let x = 0
    let at = state
    for (; x < width; x += 2, at += 4) {
      // where nothing changes from line to line, and did not before, there is nothing to count
      while (x + 8 <= width) {
        const same = v128.xor(v128.load(row + ((<usize>x) << 1)), v128.load(above + ((<usize>x) << 1)))
        if (v128.any_true(v128.or(same, v128.load(at)))) break
        x += 8
        at += 16
      }
      if (x >= width) break
      const step = <i32>load<u16>(row + ((<usize>x) << 1)) - <i32>load<u16>(above + ((<usize>x) << 1))
      const sign = step > change ? 1 : step < -change ? -1 : 0
      if (sign == 0) {
        store<u32>(at, 0)
        continue
      }
      const run = sign == -<i32>load<i16>(at) ? <i32>load<u16>(at, 2) + 1 : 1
      store<i16>(at, <i16>sign)
      store<u16>(at, <u16>run, 2)
      if (run == lines) count++
    }
  }
  return count
}
