// PNG row filters, ISO/IEC 15948 clause 9. `from` holds height rows of stride bytes; `to` takes rows of stride + 1
// bytes. The five candidate rows stand at `scratch`, each stride + 16 bytes apart.

// @ts-ignore: decorator
@inline
function paeth(a: i32, b: i32, c: i32): i32 {
  const pa = abs(b - c)
  const pb = abs(a - c)
  const pc = abs(a + b - c - c)
  return pa <= pb && pa <= pc ? a : pb <= pc ? b : c
}

// @ts-ignore: decorator
@inline
function cost(code: i32): i32 {
  const c = code & 255
  return c < 128 ? c : 256 - c
}

/** Absolute values of 16 signed bytes, summed into four lanes; -128 counts as 128. */
// @ts-ignore: decorator
@inline
function addCost(sum: v128, codes: v128): v128 {
  const absolute = i8x16.abs(codes)
  return i32x4.add(sum, i32x4.extadd_pairwise_i16x8_u(i16x8.extadd_pairwise_i8x16_u(absolute)))
}

// @ts-ignore: decorator
@inline
function total(sum: v128): i32 {
  return i32x4.extract_lane(sum, 0) + i32x4.extract_lane(sum, 1) + i32x4.extract_lane(sum, 2) + i32x4.extract_lane(sum, 3)
}

/** Paeth on eight 16-bit lanes. */
// @ts-ignore: decorator
@inline
function paeth8(a: v128, b: v128, c: v128): v128 {
  const pa = i16x8.abs(i16x8.sub(b, c))
  const pb = i16x8.abs(i16x8.sub(a, c))
  const pc = i16x8.abs(i16x8.sub(i16x8.add(a, b), i16x8.add(c, c)))
  const takeA = v128.and(i16x8.le_s(pa, pb), i16x8.le_s(pa, pc))
  const takeB = i16x8.le_s(pb, pc)
  return v128.bitselect(a, v128.bitselect(b, c, takeB), takeA)
}

/** `zeros` is a row of stride zero bytes that stands above the first row. */
export function pngFilter(from: usize, to: usize, zeros: usize, scratch: usize, stride: i32, height: i32, pixelBytes: i32): void {
  const room = <usize>stride + 16
  const sub = scratch
  const upward = scratch + room
  const average = scratch + room * 2
  const predicted = scratch + room * 3
  const one = i8x16.splat(1)
  for (let y = 0; y < height; y++) {
    const row = from + <usize>y * <usize>stride
    const above = y > 0 ? row - <usize>stride : zeros
    let s0 = 0
    let s1 = 0
    let s2 = 0
    let s3 = 0
    let s4 = 0
    let x = 0
    const lead = min(pixelBytes, stride)
    for (; x < lead; x++) {
      const v = <i32>load<u8>(row + x)
      const u = <i32>load<u8>(above + x)
      store<u8>(sub + x, v)
      store<u8>(upward + x, v - u)
      store<u8>(average + x, v - (u >> 1))
      store<u8>(predicted + x, v - u)
      s0 += cost(v)
      s1 += cost(v)
      s2 += cost(v - u)
      s3 += cost(v - (u >> 1))
      s4 += cost(v - u)
    }
    let v0 = i32x4.splat(0)
    let v1 = i32x4.splat(0)
    let v2 = i32x4.splat(0)
    let v3 = i32x4.splat(0)
    let v4 = i32x4.splat(0)
    for (; x + 16 <= stride; x += 16) {
      const v = v128.load(row + x)
      const l = v128.load(row + x - pixelBytes)
      const u = v128.load(above + x)
      const c = v128.load(above + x - pixelBytes)
      const d1 = i8x16.sub(v, l)
      const d2 = i8x16.sub(v, u)
      // avgr rounds up; the filter rounds down: take one off where the sum was odd
      const floorAverage = i8x16.sub(i8x16.avgr_u(l, u), v128.and(v128.xor(l, u), one))
      const d3 = i8x16.sub(v, floorAverage)
      const low = paeth8(i16x8.extend_low_i8x16_u(l), i16x8.extend_low_i8x16_u(u), i16x8.extend_low_i8x16_u(c))
      const high = paeth8(i16x8.extend_high_i8x16_u(l), i16x8.extend_high_i8x16_u(u), i16x8.extend_high_i8x16_u(c))
      const d4 = i8x16.sub(v, i8x16.narrow_i16x8_u(low, high))
      v128.store(sub + x, d1)
      v128.store(upward + x, d2)
      v128.store(average + x, d3)
      v128.store(predicted + x, d4)
      v0 = addCost(v0, v)
      v1 = addCost(v1, d1)
      v2 = addCost(v2, d2)
      v3 = addCost(v3, d3)
      v4 = addCost(v4, d4)
    }
    for (; x < stride; x++) {
      const v = <i32>load<u8>(row + x)
      const l = <i32>load<u8>(row + x - pixelBytes)
      const u = <i32>load<u8>(above + x)
      const c = <i32>load<u8>(above + x - pixelBytes)
      const d3 = v - ((l + u) >> 1)
      const d4 = v - paeth(l, u, c)
      store<u8>(sub + x, v - l)
      store<u8>(upward + x, v - u)
      store<u8>(average + x, d3)
      store<u8>(predicted + x, d4)
      s0 += cost(v)
      s1 += cost(v - l)
      s2 += cost(v - u)
      s3 += cost(d3)
      s4 += cost(d4)
    }
    let least = s0 + total(v0)
    let best = 0
    let source = row
    s1 += total(v1)
    s2 += total(v2)
    s3 += total(v3)
    s4 += total(v4)
    if (s1 < least) {
      least = s1
      best = 1
      source = sub
    }
    if (s2 < least) {
      least = s2
      best = 2
      source = upward
    }
    if (s3 < least) {
      least = s3
      best = 3
      source = average
    }
    if (s4 < least) {
      best = 4
      source = predicted
    }
    store<u8>(to, best)
    memory.copy(to + 1, source, stride)
    to += <usize>stride + 1
  }
}

/**
 * A row of filter type 1, 3 or 4, a pixel of 3 to 8 bytes at a time. Reads and writes up to five bytes beyond the row:
 * what is written there is written again by the row that follows.
 */
function unfilterPixels(type: u8, from: usize, to: usize, above: usize, stride: i32, pixelBytes: i32): void {
  const end = to + <usize>stride
  const step = <usize>pixelBytes
  const byte = i16x8.splat(255)
  let a = i16x8.splat(0)
  if (type == 1) {
    while (to < end) {
      a = i8x16.add(v128.load64_zero(from), a)
      v128.store64_lane(to, a, 0)
      from += step
      to += step
    }
  } else if (type == 3) {
    while (to < end) {
      const b = i16x8.extend_low_i8x16_u(v128.load64_zero(above))
      a = v128.and(i16x8.add(i16x8.extend_low_i8x16_u(v128.load64_zero(from)), i16x8.shr_u(i16x8.add(a, b), 1)), byte)
      v128.store64_lane(to, i8x16.narrow_i16x8_u(a, a), 0)
      from += step
      to += step
      above += step
    }
  } else {
    let c = i16x8.splat(0)
    while (to < end) {
      const b = i16x8.extend_low_i8x16_u(v128.load64_zero(above))
      const fromA = i16x8.sub(b, c)
      const fromB = i16x8.sub(a, c)
      const pa = i16x8.abs(fromA)
      const pb = i16x8.abs(fromB)
      const pc = i16x8.abs(i16x8.add(fromA, fromB))
      // the nearest of left, above and corner; on a tie the earlier
      const least = i16x8.min_s(pa, i16x8.min_s(pb, pc))
      const predicted = v128.bitselect(a, v128.bitselect(b, c, i16x8.eq(pb, least)), i16x8.eq(pa, least))
      a = v128.and(i16x8.add(i16x8.extend_low_i8x16_u(v128.load64_zero(from)), predicted), byte)
      v128.store64_lane(to, i8x16.narrow_i16x8_u(a, a), 0)
      c = b
      from += step
      to += step
      above += step
    }
  }
}

/**
 * Returns 0 if a row names a filter type above 4, else 1. `from`, `to` and `zeros` have 16 bytes of room behind them.
 */
export function pngUnfilter(from: usize, to: usize, zeros: usize, stride: i32, height: i32, pixelBytes: i32): i32 {
  for (let y = 0; y < height; y++) {
    const type = load<u8>(from++)
    const above = y > 0 ? to - <usize>stride : zeros
    const lead = min(pixelBytes, stride)
    if (type > 4) return 0
    if (type == 0) {
      memory.copy(to, from, stride)
    } else if (type == 2) {
      let x = 0
      for (; x + 16 <= stride; x += 16) v128.store(to + x, i8x16.add(v128.load(from + x), v128.load(above + x)))
      for (; x < stride; x++) store<u8>(to + x, load<u8>(from + x) + load<u8>(above + x))
    } else if (pixelBytes > 2 && pixelBytes <= 8) {
      unfilterPixels(type, from, to, above, stride, pixelBytes)
    } else if (type == 1) {
      for (let x = 0; x < lead; x++) store<u8>(to + x, load<u8>(from + x))
      for (let x = lead; x < stride; x++) store<u8>(to + x, load<u8>(from + x) + load<u8>(to + x - pixelBytes))
    } else if (type == 3) {
      for (let x = 0; x < lead; x++) store<u8>(to + x, load<u8>(from + x) + (load<u8>(above + x) >> 1))
      for (let x = lead; x < stride; x++) store<u8>(to + x, <i32>load<u8>(from + x) + ((<i32>load<u8>(to + x - pixelBytes) + <i32>load<u8>(above + x)) >> 1))
    } else {
      for (let x = 0; x < lead; x++) store<u8>(to + x, load<u8>(from + x) + load<u8>(above + x))
      for (let x = lead; x < stride; x++) {
        store<u8>(to + x, <i32>load<u8>(from + x) + paeth(load<u8>(to + x - pixelBytes), load<u8>(above + x), load<u8>(above + x - pixelBytes)))
      }
    }
    from += stride
    to += stride
  }
  return 1
}

/**
 * RGBA samples as rows of PNG: 16-bit codes big-endian, alpha left out for 3 channels. `to` has 16 bytes of room behind
 * it.
 */
export function pngRows(from: usize, to: usize, pixels: i32, wide: i32, channels: i32): void {
  if (channels == 4) {
    if (!wide) {
      memory.copy(to, from, <usize>pixels << 2)
      return
    }
    for (let i = 0; i < pixels; i += 2) {
      const v = v128.load(from + ((<usize>i) << 3))
      v128.store(to + ((<usize>i) << 3), v128.shuffle<u8>(v, v, 1, 0, 3, 2, 5, 4, 7, 6, 9, 8, 11, 10, 13, 12, 15, 14))
    }
    return
  }
  for (let i = 0; i < pixels; i++) {
    if (wide) {
      const v = v128.load64_zero(from + ((<usize>i) << 3))
      v128.store64_lane(to + <usize>i * 6, v128.shuffle<u8>(v, v, 1, 0, 3, 2, 5, 4, 7, 6, 0, 0, 0, 0, 0, 0, 0, 0), 0)
    } else store<u32>(to + <usize>i * 3, load<u32>(from + ((<usize>i) << 2)))
  }
}

/** Rows of PNG back to RGBA samples; full alpha is put in for 3 channels. `from` has 16 bytes of room behind it. */
export function pngSamples(from: usize, to: usize, pixels: i32, wide: i32, channels: i32): void {
  if (channels == 4) {
    pngRows(from, to, pixels, wide, 4)
    return
  }
  for (let i = 0; i < pixels; i++) {
    if (wide) {
      const v = v128.load64_zero(from + <usize>i * 6)
      store<u64>(to + ((<usize>i) << 3), i64x2.extract_lane(v128.shuffle<u8>(v, v, 1, 0, 3, 2, 5, 4, 7, 6, 0, 0, 0, 0, 0, 0, 0, 0), 0) | 0xffff000000000000)
    } else store<u32>(to + ((<usize>i) << 2), load<u32>(from + <usize>i * 3) | 0xff000000)
  }
}
