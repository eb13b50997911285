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
  const flip = zero ? 0 : 255
  for (; x + 8 <= width; x += 8) {
    const found = flip ^ i16x8.bitmask(i16x8.eq(v128.load(row + ((<usize>x) << 1)), i16x8.splat(0)))
    if (found) return x + ctz(found)
  }
  while (x < width && (load<u16>(row + ((<usize>x) << 1)) == 0) != zero) x++
  return x
}

/** Runs of alpha above zero in rows `top` to `bottom`. */
export function countRuns(plane: usize, width: i32, top: i32, bottom: i32): i32 {
  let count = 0
  for (let y = top; y < bottom; y++) {
    const row = plane + ((<usize>(y * width)) << 1)
    for (let x = until(row, 0, width, false); x < width; x = until(row, x, width, false)) {
      x = until(row, x, width, true)
      count++
    }
  }
  return count
}

/** Their row, first and last column, and highest alpha: four i32 a run at `to`, in order of rows. */
export function runs(plane: usize, width: i32, top: i32, bottom: i32, to: usize): void {
  for (let y = top; y < bottom; y++) {
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

/**
 * Places within areas of alpha from `nearly` on that are not solid, and behind them in `out` the lowest alpha there; `out` holds the
 * first and last row to look at as it begins.
 */
export function bleed(plane: usize, width: i32, height: i32, nearly: i32, within: i32, out: usize): void {
  const top = load<i32>(out)
  const bottom = load<i32>(out, 4)
  let count = 0
  let least = FULL
  const across = (<usize>within) << 1
  const down = (<usize>(within * width)) << 1
  for (let y = within; y < min(height - within, bottom); y += 2) {
    if (y < top) continue
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
 * each of those columns, the way it last went and for how many lines. Rows before `top` and from `bottom` on are clear.
 */
export function comb(plane: usize, width: i32, top: i32, bottom: i32, change: i32, lines: i32, state: usize): i32 {
  let count = 0
  let counts = i32x4.splat(0)
  const row = (<usize>width) << 1
  const half = i32x4.splat(0xffff)
  const far = i32x4.splat(change)
  const back = i32x4.splat(-change)
  const one = i32x4.splat(1)
  for (let y = max(1, top); y < bottom; y++) {
    const here = plane + <usize>y * row
    let x = 0
    let at = state
    // four columns at a time, each a sign and a count in one word
    for (; x + 8 <= width; x += 8, at += 16) {
      const now = v128.load(here + ((<usize>x) << 1))
      const above = v128.load(here - row + ((<usize>x) << 1))
      const last = v128.load(at)
      // where nothing changes from line to line, and did not before, there is nothing to count
      if (!v128.any_true(v128.or(v128.xor(now, above), last))) continue
      const step = i32x4.sub(v128.and(now, half), v128.and(above, half))
      const sign = i32x4.sub(i32x4.lt_s(step, back), i32x4.gt_s(step, far))
      const moves = i32x4.ne(sign, i32x4.splat(0))
      const turned = i32x4.eq(i32x4.add(sign, i32x4.shr_s(i32x4.shl(last, 16), 16)), i32x4.splat(0))
      const run = v128.and(i32x4.add(v128.and(turned, i32x4.shr_u(last, 16)), one), moves)
      counts = i32x4.sub(counts, i32x4.eq(run, i32x4.splat(lines)))
      v128.store(at, v128.or(v128.and(sign, half), i32x4.shl(run, 16)))
    }
    for (; x < width; x += 2, at += 4) {
      const step = <i32>load<u16>(here + ((<usize>x) << 1)) - <i32>load<u16>(here - row + ((<usize>x) << 1))
      const sign = step > change ? 1 : step < -change ? -1 : 0
      const run = sign == 0 ? 0 : sign == -<i32>load<i16>(at) ? <i32>load<u16>(at, 2) + 1 : 1
      store<i16>(at, <i16>sign)
      store<u16>(at, <u16>run, 2)
      if (run == lines) count++
    }
  }
  for (let n = 0; n < 4; n++) {
    store<v128>(state, counts)
    count += load<i32>(state + ((<usize>n) << 2))
  }
  return count
}
