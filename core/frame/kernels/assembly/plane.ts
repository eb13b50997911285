// Alpha by itself, u16 a pixel: its runs above zero, what shines through, and combs; see tests/oracles/plane.ts, whose
// every count this must give.

/** Alpha of the RGBA of 16 bits at `from`. Writes up to eight bytes beyond the last. */
export function alphaOf(from: usize, to: usize, pixels: i32): void {
  for (let i = 0; i < pixels; i += 4) {
    const at = from + ((<usize>i) << 3)
    const four = v128.shuffle<u8>(v128.load(at), v128.load(at, 16), 6, 7, 14, 15, 22, 23, 30, 31, 6, 7, 14, 15, 22, 23, 30, 31)
    store<u64>(to + ((<usize>i) << 1), i64x2.extract_lane(four, 0))
  }
}

/** The same of RGBA of 8 bits, as codes of 16. Writes up to fourteen bytes beyond the last. */
export function alphaOf8(from: usize, to: usize, pixels: i32): void {
  const widened = i16x8.splat(257)
  for (let i = 0; i < pixels; i += 8) {
    const at = from + ((<usize>i) << 2)
    const alphas = i16x8.narrow_i32x4_u(i32x4.shr_u(v128.load(at), 24), i32x4.shr_u(v128.load(at, 16), 24))
    v128.store(to + ((<usize>i) << 1), i16x8.mul(alphas, widened))
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

/**
 * Runs of alpha above zero in rows `top` to `bottom`: how many there are, and of the first `room` of them their row,
 * first and last column, and highest alpha, four i32 a run at `to`, in order of rows.
 */
export function runs(plane: usize, width: i32, top: i32, bottom: i32, to: usize, room: i32): i32 {
  let count = 0
  for (let y = top; y < bottom; y++) {
    const row = plane + ((<usize>(y * width)) << 1)
    for (let x = until(row, 0, width, false); x < width; x = until(row, x, width, false)) {
      const first = x
      x = until(row, x, width, true)
      if (count++ >= room) continue
      let n = first
      let highest = 0
      if (n + 8 <= x) {
        let most = v128.load(row + ((<usize>n) << 1))
        for (n += 8; n + 8 <= x; n += 8) most = i16x8.max_u(most, v128.load(row + ((<usize>n) << 1)))
        most = i16x8.max_u(most, v128.shuffle<u8>(most, most, 8, 9, 10, 11, 12, 13, 14, 15, 8, 9, 10, 11, 12, 13, 14, 15))
        most = i16x8.max_u(most, v128.shuffle<u8>(most, most, 4, 5, 6, 7, 4, 5, 6, 7, 4, 5, 6, 7, 4, 5, 6, 7))
        highest = max<i32>(i16x8.extract_lane_u(most, 0), i16x8.extract_lane_u(most, 1))
      }
      for (; n < x; n++) highest = max<i32>(highest, load<u16>(row + ((<usize>n) << 1)))
      store<i32>(to, y)
      store<i32>(to, first, 4)
      store<i32>(to, x - 1, 8)
      store<i32>(to, highest, 12)
      to += 16
    }
  }
  return count
}

// @ts-ignore: decorator
@inline
function rootOf(parent: usize, run: i32): i32 {
  let at = parent + ((<usize>run) << 2)
  while (load<i32>(at) != run) {
    const next = load<i32>(parent + ((<usize>load<i32>(at)) << 2))
    store<i32>(at, next)
    run = next
    at = parent + ((<usize>run) << 2)
  }
  return run
}

/**
 * Joins the `count` runs at `from` that touch at sides or corners. Puts at `out`, in i32: islands; those of at most
 * `speck` pixels and the most pixels of one; larger ones whose alpha stays below `faint` and their highest alpha.
 * `parent` has room for an i32 a run. The runs are used up.
 */
export function islands(from: usize, count: i32, parent: usize, speck: i32, faint: i32, out: usize): void {
  for (let n = 0; n < count; n++) store<i32>(parent + ((<usize>n) << 2), n)
  let above = 0
  let aboveEnd = 0
  let begin = 0
  let row = -1
  for (let n = 0; n < count; n++) {
    const run = from + ((<usize>n) << 4)
    const y = load<i32>(run)
    if (y != row) {
      above = y == row + 1 ? begin : n
      aboveEnd = n
      begin = n
      row = y
    }
    const first = load<i32>(run, 4)
    const last = load<i32>(run, 8)
    while (above < aboveEnd && load<i32>(from + ((<usize>above) << 4), 8) < first - 1) above++
    for (let m = above; m < aboveEnd && load<i32>(from + ((<usize>m) << 4), 4) <= last + 1; m++)
      store<i32>(parent + ((<usize>rootOf(parent, m)) << 2), rootOf(parent, n))
  }
  for (let n = 0; n < count; n++) {
    const run = from + ((<usize>n) << 4)
    store<i32>(run, load<i32>(run, 8) - load<i32>(run, 4) + 1)
  }
  for (let n = 0; n < count; n++) {
    const root = rootOf(parent, n)
    if (root == n) continue
    const run = from + ((<usize>n) << 4)
    const whole = from + ((<usize>root) << 4)
    store<i32>(whole, load<i32>(whole) + load<i32>(run))
    store<i32>(whole, max(load<i32>(whole, 12), load<i32>(run, 12)), 12)
  }
  let all = 0
  let specks = 0
  let speckMost = 0
  let faints = 0
  let faintMost = 0
  for (let n = 0; n < count; n++) {
    if (load<i32>(parent + ((<usize>n) << 2)) != n) continue
    all++
    const pixels = load<i32>(from + ((<usize>n) << 4))
    const most = load<i32>(from + ((<usize>n) << 4), 12)
    if (pixels <= speck) {
      specks++
      speckMost = max(speckMost, pixels)
    } else if (most < faint) {
      faints++
      faintMost = max(faintMost, most)
    }
  }
  store<i32>(out, all)
  store<i32>(out, specks, 4)
  store<i32>(out, speckMost, 8)
  store<i32>(out, faints, 12)
  store<i32>(out, faintMost, 16)
}

const FULL: i32 = 65535
const SLOPE: i32 = 16

// @ts-ignore: decorator
@inline
function between(a: i32, one: i32, other: i32): bool {
  return min(one, other) < a && a < max(one, other)
}

/**
 * Places within areas of alpha from `nearly` on that are not solid and on no slope, and behind them in `out` the lowest
 * alpha there; `out` holds the first and last row to look at as it begins.
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
      // four of them at a time where none is nearly solid and not quite
      if (x + 8 <= width) {
        const four = v128.load(plane + ((<usize>(y * width + x)) << 1))
        const near = v128.andnot(i16x8.ge_u(four, i16x8.splat(<i16>nearly)), i16x8.eq(four, i16x8.splat(-1)))
        if (!(i16x8.bitmask(near) & 0x55)) {
          x += 6
          continue
        }
      }
      const at = plane + ((<usize>(y * width + x)) << 1)
      const a = <i32>load<u16>(at)
      if (a < nearly || a == FULL) continue
      const left = <i32>load<u16>(at - across)
      const right = <i32>load<u16>(at + across)
      const over = <i32>load<u16>(at - down)
      const under = <i32>load<u16>(at + down)
      if (min(min(left, right), min(over, under)) < nearly) continue
      if (between(a, left, right) || between(a, over, under)) continue
      // eight bits flatten a gentle slope: further away it shows
      const ahead = min(x, min(width - 1 - x, SLOPE))
      const row = plane + ((<usize>(y * width)) << 1)
      if (between(a, load<u16>(row + ((<usize>(x - ahead)) << 1)), load<u16>(row + ((<usize>(x + ahead)) << 1)))) continue
      const rows = min(y, min(height - 1 - y, SLOPE))
      const away = (<usize>(rows * width)) << 1
      if (between(a, load<u16>(at - away), load<u16>(at + away))) continue
      count++
      if (a < least) least = a
    }
  }
  store<i32>(out, count)
  store<i32>(out, least, 4)
}

/**
 * Places where alpha has gone to and fro by more than `change` for `lines` lines, every other of them alike by half of
 * that, in every other column. `state`, zeroed: two i16 for each of those columns, the way it last went and for how
 * many lines. Rows before `top` and from `bottom` on are clear.
 */
export function comb(plane: usize, width: i32, top: i32, bottom: i32, change: i32, lines: i32, state: usize): i32 {
  let count = 0
  let counts = i32x4.splat(0)
  const row = (<usize>width) << 1
  const half = i32x4.splat(0xffff)
  const far = i32x4.splat(change)
  const back = i32x4.splat(-change)
  const close = i32x4.splat(change >> 1)
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
      const before = v128.load(here - (y > 1 ? 2 * row : row) + ((<usize>x) << 1))
      const drift = i32x4.abs(i32x4.sub(v128.and(now, half), v128.and(before, half)))
      const alike = i32x4.le_s(drift, close)
      const turned = v128.and(alike, i32x4.eq(i32x4.add(sign, i32x4.shr_s(i32x4.shl(last, 16), 16)), i32x4.splat(0)))
      const run = v128.and(i32x4.add(v128.and(turned, i32x4.shr_u(last, 16)), one), moves)
      counts = i32x4.sub(counts, i32x4.eq(run, i32x4.splat(lines)))
      v128.store(at, v128.or(v128.and(sign, half), i32x4.shl(run, 16)))
    }
    for (; x < width; x += 2, at += 4) {
      const step = <i32>load<u16>(here + ((<usize>x) << 1)) - <i32>load<u16>(here - row + ((<usize>x) << 1))
      const sign = step > change ? 1 : step < -change ? -1 : 0
      const before = <i32>load<u16>(here - (y > 1 ? 2 * row : row) + ((<usize>x) << 1))
      const turned = sign == -<i32>load<i16>(at) && abs(<i32>load<u16>(here + ((<usize>x) << 1)) - before) <= change >> 1
      const run = sign == 0 ? 0 : turned ? <i32>load<u16>(at, 2) + 1 : 1
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
