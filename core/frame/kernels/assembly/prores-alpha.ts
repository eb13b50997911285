// Alpha of one ProRes slice (SMPTE RDD 36, 7.1.2).

// one raster of 16 rows of at most 128 columns, with room for a vector behind it
const raster = memory.data(4096 + 16, 16)

/** The 57 bits and more from bit `at` on, in the high bits. */
// @ts-ignore: decorator
@inline
function bitsAt(from: usize, at: u32): u64 {
  return bswap<u64>(load<u64>(from + (at >>> 3))) << (at & 7)
}

/**
 * Decodes the slice of `size` bytes at `from`, behind which 16 bytes are zero, into the plane at `to`, whose rows are
 * `stride` codes apart:
 * `rows` rows, of `columns` columns the first `shown`. Returns 0 when the code ends early or holds too much.
 */
export function proresAlphaSlice(from: usize, size: u32, to: usize, stride: i32, columns: i32, shown: i32, rows: i32, wide: bool): bool {
  const mask: u32 = wide ? 65535 : 255
  const length: u32 = size << 3
  const count = columns << 4
  let alpha: u32 = mask
  let at: u32 = 0
  let i = 0
  while (i < count) {
    if (at >= length) return false
    let word = bitsAt(from, at)
    let used: u32 = 1
    if (word >>> 63) {
      alpha = (alpha + (wide ? <u32>(word >>> 47) & 65535 : <u32>(word >>> 55) & 255)) & mask
      used += wide ? 16 : 8
    } else {
      const code = wide ? <u32>(word >>> 56) & 127 : <u32>(word >>> 59) & 15
      const step = (code + 2) >>> 1
      alpha = (code & 1 ? alpha - step : alpha + step) & mask
      used += wide ? 7 : 4
    }
    store<u16>(raster + (<usize>i << 1), alpha)
    i++
    word <<= used
    at += used + 1
    if (word >>> 63) continue
    let run = <i32>(word >>> 59) & 15
    at += 4
    if (run == 0) {
      run = <i32>(word >>> 48) & 2047
      at += 11
    }
    if (i + run > count) return false
    const end = i + run
    const many = i16x8.splat(<i16>alpha)
    // beyond the run is what comes later, or the room behind the raster
    for (; i < end; i += 8) v128.store(raster + (<usize>i << 1), many)
    i = end
  }
  const scale: u32 = wide ? 1 : 257
  for (let row = 0; row < rows; row++) {
    const source = raster + (<usize>(row * columns) << 1)
    const target = to + (<usize>(row * stride) << 1)
    if (wide) memory.copy(target, source, <usize>shown << 1)
    else for (let c = 0; c < shown; c++) store<u16>(target + (<usize>c << 1), <u32>load<u16>(source + (<usize>c << 1)) * scale)
  }
  return true
}

/**
 * Column of the first of `n` alphas of 16 bits that lies further than `most` from one of 12 bits, or -1; reads up to 7
 * beyond the end.
 */
export function readingsApart(ours: usize, theirs: usize, n: i32, most: i32): i32 {
  const far = i16x8.splat(<i16>most)
  for (let i = 0; i < n; i += 8) {
    const a = v128.load(ours + (<usize>i << 1))
    const b = i16x8.shl(v128.load(theirs + (<usize>i << 1)), 4)
    const apart = i16x8.sub_sat_u(v128.or(i16x8.sub_sat_u(a, b), i16x8.sub_sat_u(b, a)), far)
    if (!v128.any_true(apart)) continue
    for (let k = i; k < min(i + 8, n); k++) {
      const difference = <i32>load<u16>(ours + (<usize>k << 1)) - (<i32>(load<u16>(theirs + (<usize>k << 1)) << 4) & 65535)
      if (difference > most || difference < -most) return k
    }
  }
  return -1
}
