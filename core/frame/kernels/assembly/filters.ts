// Filters of one plane of f32, and weighing of RGBA rows; see tests/oracles/filters.ts, which defines them.

/**
 * Means along rows of 2 * radius + 1 values; the outermost value goes on beyond the rim. Sums are f64, in which they
 * stay exact.
 */
export function boxAcross(from: usize, to: usize, width: i32, height: i32, radius: i32): void {
  const share: f64 = 1.0 / <f64>(2 * radius + 1)
  const last = width - 1
  for (let y = 0; y < height; y++) {
    let sum = <f64>(radius + 1) * <f64>load<f32>(from)
    for (let x = 1; x <= radius; x++) sum += <f64>load<f32>(from + ((<usize>min(last, x)) << 2))
    for (let x = 0; x < width; x++) {
      store<f32>(to + ((<usize>x) << 2), <f32>(sum * share))
      const enters = min(last, x + radius + 1)
      const leaves = max(0, x - radius)
      sum += <f64>load<f32>(from + ((<usize>enters) << 2)) - <f64>load<f32>(from + ((<usize>leaves) << 2))
    }
    from += (<usize>width) << 2
    to += (<usize>width) << 2
  }
}

/**
 * The same along columns, two at a time; `sums` takes a f64 a column and one more. Rows have room for a vector behind
 * the last.
 */
export function boxDown(from: usize, to: usize, width: i32, height: i32, radius: i32, sums: usize): void {
  const share = f64x2.splat(1.0 / <f64>(2 * radius + 1))
  const stride = (<usize>width) << 2
  memory.fill(sums, 0, (<usize>(width + 1)) << 3)
  for (let y = -radius; y <= radius; y++) {
    const row = from + <usize>min(height - 1, max(0, y)) * stride
    for (let x = 0; x < width; x += 2) {
      const at = sums + ((<usize>x) << 3)
      v128.store(at, f64x2.add(v128.load(at), f64x2.promote_low_f32x4(v128.load64_zero(row + ((<usize>x) << 2)))))
    }
  }
  for (let y = 0; y < height; y++) {
    const enters = from + <usize>min(height - 1, y + radius + 1) * stride
    const leaves = from + <usize>max(0, y - radius) * stride
    let x = 0
    for (; x < width; x += 2) {
      const at = sums + ((<usize>x) << 3)
      const place = (<usize>x) << 2
      const sum = v128.load(at)
      const mean = f32x4.demote_f64x2_zero(f64x2.mul(sum, share))
      if (x + 2 <= width) v128.store64_lane(to + place, mean, 0)
      else v128.store32_lane(to + place, mean, 0)
      v128.store(
        at,
        f64x2.add(
          sum,
          f64x2.sub(
            f64x2.promote_low_f32x4(v128.load64_zero(enters + place)),
            f64x2.promote_low_f32x4(v128.load64_zero(leaves + place))
          )
        )
      )
    }
    to += stride
  }
}

/**
 * The largest of 2 * reach + 1 values around each along its row, zero beyond the rim. `row` takes width + 2 * reach + 4
 * f32. Maxima of 1, 2, 4 … values are made from each other, and the window is two of them that overlap.
 */
export function largestAcross(from: usize, to: usize, width: i32, height: i32, reach: i32, row: usize): void {
  const window = 2 * reach + 1
  const length = width + 2 * reach
  for (let y = 0; y < height; y++) {
    memory.fill(row, 0, (<usize>(length + 4)) << 2)
    memory.copy(row + ((<usize>reach) << 2), from, (<usize>width) << 2)
    let span = 1
    while (span << 1 <= window) {
      const step = (<usize>span) << 2
      // each place takes the one `span` further on, which is still as it was
      for (let x = 0; x + span < length; x += 4) {
        const at = row + ((<usize>x) << 2)
        v128.store(at, f32x4.pmax(v128.load(at), v128.load(at + step)))
      }
      span <<= 1
    }
    const rest = (<usize>(window - span)) << 2
    let x = 0
    for (; x + 4 <= width; x += 4) {
      const at = row + ((<usize>x) << 2)
      v128.store(to + ((<usize>x) << 2), f32x4.pmax(v128.load(at), v128.load(at + rest)))
    }
    for (; x < width; x++) {
      const at = row + ((<usize>x) << 2)
      store<f32>(to + ((<usize>x) << 2), max(load<f32>(at), load<f32>(at + rest)))
    }
    from += (<usize>width) << 2
    to += (<usize>width) << 2
  }
}

/**
 * `count` values at `to`, each raised to that at `from` where it is larger. Both have room for a vector behind the
 * last.
 */
export function raise(to: usize, from: usize, count: i32): void {
  let i = 0
  for (; i + 4 <= count; i += 4) {
    const at = (<usize>i) << 2
    v128.store(to + at, f32x4.pmax(v128.load(to + at), v128.load(from + at)))
  }
  for (; i < count; i++) {
    const at = (<usize>i) << 2
    store<f32>(to + at, max(load<f32>(to + at), load<f32>(from + at)))
  }
}

/**
 * Rows of RGBA weighed into rows of `places` pixels: for each the index of its first pixel, which may lie beyond the
 * rim, and `taps` weights.
 */
export function weighAcross(
  from: usize,
  to: usize,
  width: i32,
  height: i32,
  places: i32,
  first: usize,
  shares: usize,
  taps: i32
): void {
  for (let y = 0; y < height; y++) {
    for (let n = 0; n < places; n++) {
      const begin = load<i32>(first + ((<usize>n) << 2))
      const weights = shares + ((<usize>(n * taps)) << 2)
      let sum = f32x4.splat(0)
      if (begin >= 0 && begin + taps <= width) {
        let at = from + ((<usize>begin) << 4)
        for (let k = 0; k < taps; k++) {
          sum = f32x4.add(sum, f32x4.mul(v128.load(at), v128.load32_splat(weights + ((<usize>k) << 2))))
          at += 16
        }
      } else {
        for (let k = 0; k < taps; k++) {
          const x = min(width - 1, max(0, begin + k))
          sum = f32x4.add(
            sum,
            f32x4.mul(v128.load(from + ((<usize>x) << 4)), v128.load32_splat(weights + ((<usize>k) << 2)))
          )
        }
      }
      v128.store(to, sum)
      to += 16
    }
    from += (<usize>width) << 4
  }
}

/** One row of `pixels` RGBA pixels from `taps` rows, whose places are listed at `rows`. */
export function weighRow(rows: usize, shares: usize, taps: i32, pixels: i32, to: usize): void {
  for (let i: usize = 0; i < (<usize>pixels) << 4; i += 16) {
    let sum = f32x4.splat(0)
    for (let k = 0; k < taps; k++) {
      sum = f32x4.add(
        sum,
        f32x4.mul(
          v128.load(<usize>load<u32>(rows + ((<usize>k) << 2)) + i),
          v128.load32_splat(shares + ((<usize>k) << 2))
        )
      )
    }
    v128.store(to + i, sum)
  }
}
