// Coding the coefficients and the alpha of slices, SMPTE RDD 36 clause 7.1. All quantiser weights are 4, the standard's
// default, so that a coefficient in eighths is QF * 4 * scale; its quantised value comes from one rounding multiply.

// Code words of the first 64 values of each codebook: bits in the low 24, length above. A codebook is rice order << 5 |
// exp order << 2 | switch.
const WORDS = memory.data(8 * 64 * 4, 16)
const BOOKS = memory.data<u8>([0x04, 0x05, 0x06, 0x0a, 0x28, 0x29, 0x4c, 0x4d])
// Codebook (place in BOOKS) by the value coded before: runs by min(run, 15), levels by min(level, 9), DC by min(code,
// 6).
const RUN_BOOK = memory.data<u8>([2, 2, 1, 1, 0, 5, 5, 5, 5, 4, 4, 4, 4, 4, 4, 6])
const LEVEL_BOOK = memory.data<u8>([0, 3, 1, 2, 0, 4, 4, 4, 4, 6])
const DC_BOOK = memory.data<u8>([0, 4, 4, 7, 7, 8, 8])
const FIRST_DC: i32 = 0xb8
const LATE_DC: i32 = 0x70
// Code words by the value before: runs by min(run, 15), levels by min(level, 9); laid out as WORDS are.
const RUNS = memory.data(16 * 64 * 4, 16)
const LEVELS = memory.data(10 * 64 * 4, 16)
let ready = false

let out: usize = 0
let held: u64 = 0
let count: i32 = 0

// @ts-ignore: decorator
@inline
function put(value: u32, length: i32): void {
  held = (held << length) | <u64>value
  count += length
  if (count >= 32) {
    count -= 32
    store<u32>(out, bswap<u32>(<u32>(held >>> count)))
    out += 4
  }
}

function finish(): void {
  while (count > 0) {
    store<u8>(out, count >= 8 ? <u8>(held >>> (count - 8)) : <u8>(held << (8 - count)))
    out++
    count -= 8
  }
  held = 0
  count = 0
}

/**
 * A code word (RDD 36, 7.1.1.1): Rice up to the switch, Exp-Golomb beyond. Length in the high half, bits in the low.
 */
function word(book: i32, value: u32): u64 {
  const switchBits: u32 = (book & 3) + 1
  const rice: u32 = book >> 5
  const exp: u32 = (book >> 2) & 7
  const switchValue = switchBits << rice
  if (value >= switchValue) {
    const v = value - switchValue + (1 << exp)
    const n: u32 = 31 - clz(v)
    return ((<u64>(n - exp + switchBits + n + 1)) << 32) | v
  }
  return ((<u64>((value >> rice) + 1 + rice)) << 32) | (1 << rice) | (value & ((1 << rice) - 1))
}

function prepare(): void {
  for (let b: usize = 0; b < 8; b++) {
    for (let v: u32 = 0; v < 64; v++) {
      const w = word(load<u8>(BOOKS + b), v)
      store<u32>(WORDS + (((b << 6) + v) << 2), <u32>w | (<u32>(w >>> 32) << 24))
    }
  }
  for (let n: usize = 0; n < 16; n++) memory.copy(RUNS + (n << 8), WORDS + ((<usize>load<u8>(RUN_BOOK + n)) << 8), 256)
  for (let n: usize = 0; n < 10; n++) memory.copy(LEVELS + (n << 8), WORDS + ((<usize>load<u8>(LEVEL_BOOK + n)) << 8), 256)
  ready = true
}

// @ts-ignore: decorator
@inline
function putWord(place: usize, value: u32): void {
  if (value < 64) {
    const w = load<u32>(WORDS + (((place << 6) + value) << 2))
    put(w & 0xffffff, w >>> 24)
  } else {
    const w = word(load<u8>(BOOKS + place), value)
    put(<u32>w, <i32>(w >>> 32))
  }
}

function putLong(book: i32, value: u32): void {
  const w = word(book, value)
  put(<u32>w, <i32>(w >>> 32))
}

/** Quantises `n` coefficients (a multiple of 8) for `scale`. */
function quantise(from: usize, to: usize, n: i32, scale: i32): void {
  const factor = i16x8.splat(<i16>((8192 + scale / 2) / scale))
  for (let i: usize = 0; i < <usize>n << 1; i += 16) v128.store(to + i, i16x8.q15mulr_sat_s(v128.load(from + i), factor))
}

/**
 * Codes DC coefficients: the first as it is, then differences whose sign is told against the one before (RDD 36,
 * 7.1.1.3).
 */
function codeDc(q: usize, blocks: i32): void {
  let previous = <i32>load<i16>(q)
  putLong(FIRST_DC, <u32>((previous << 1) ^ (previous >> 31)))
  let code: u32 = 5
  let sign = 0
  for (let b = 1; b < blocks; b++) {
    const dc = <i32>load<i16>(q + ((<usize>b) << 1))
    const delta = dc - previous
    const negative = delta >> 31
    const size = <u32>((delta ^ negative) - negative)
    // an even code keeps the sign told before, an odd one turns it
    const told = delta == 0 ? 0 : negative == sign ? size << 1 : (size << 1) - 1
    const place = min<u32>(code, 6)
    if (place >= 5) putLong(LATE_DC, told)
    else putWord(load<u8>(DC_BOOK + place), told)
    code = told
    sign = delta == 0 ? 0 : negative
    previous = dc
  }
}

/**
 * Places of the eight coefficients from `i` on that are not zero; a slice of one macroblock has four blocks, and its
 * last eight reach beyond the end.
 */
// @ts-ignore: decorator
@inline
function placesAt(q: usize, i: i32, all: i32): i32 {
  const mask = i16x8.bitmask(i16x8.ne(v128.load(q + ((<usize>i) << 1)), i16x8.splat(0)))
  return i + 8 > all ? mask & ((1 << (all - i)) - 1) : mask
}

/**
 * Codes one component of `blocks` blocks from its quantised coefficients. The coder is kept in locals, which is twice
 * as fast.
 */
function codeComponent(q: usize, blocks: i32): void {
  codeDc(q, blocks)
  let to = out
  let bits = held
  let length = count
  let runs = RUNS + (4 << 8)
  let levels = LEVELS + (2 << 8)
  let last = blocks - 1
  const all = blocks << 6
  for (let i = blocks; i < all; i += 8) {
    let mask = placesAt(q, i, all)
    while (mask) {
      const at = i + ctz(mask)
      mask &= mask - 1
      const value = <i32>load<i16>(q + ((<usize>at) << 1))
      const negative = value >> 31
      const size = (value ^ negative) - negative
      const zeros = at - last - 1
      if (zeros < 64) {
        const w = load<u32>(runs + ((<usize>zeros) << 2))
        bits = (bits << (w >>> 24)) | <u64>(w & 0xffffff)
        length += w >>> 24
      } else {
        const w = word(load<u8>(BOOKS + load<u8>(RUN_BOOK + ((runs - RUNS) >> 8))), zeros)
        bits = (bits << (w >>> 32)) | (w & 0xffffffff)
        length += <i32>(w >>> 32)
        if (length >= 32) {
          length -= 32
          store<u32>(to, bswap<u32>(<u32>(bits >>> length)))
          to += 4
        }
      }
      if (size <= 64) {
        const w = load<u32>(levels + ((<usize>(size - 1)) << 2))
        bits = (((bits << (w >>> 24)) | <u64>(w & 0xffffff)) << 1) | <u64>(negative & 1)
        length += (w >>> 24) + 1
      } else {
        if (length >= 32) {
          length -= 32
          store<u32>(to, bswap<u32>(<u32>(bits >>> length)))
          to += 4
        }
        const w = word(load<u8>(BOOKS + load<u8>(LEVEL_BOOK + ((levels - LEVELS) >> 8))), size - 1)
        bits = (((bits << (w >>> 32)) | (w & 0xffffffff)) << 1) | <u64>(negative & 1)
        length += <i32>(w >>> 32) + 1
      }
      // two words of the tables and a sign come to less than 32 bits
      if (length >= 32) {
        length -= 32
        store<u32>(to, bswap<u32>(<u32>(bits >>> length)))
        to += 4
      }
      runs = RUNS + ((<usize>min(zeros, 15)) << 8)
      levels = LEVELS + ((<usize>min(size, 9)) << 8)
      last = at
    }
  }
  out = to
  held = bits
  count = length
  finish()
}

/** Bytes that `codeComponent` would write. */
function lengthOf(q: usize, blocks: i32, to: usize): i32 {
  out = to
  codeDc(q, blocks)
  let length = (<i32>(out - to) << 3) + count
  held = 0
  count = 0
  let runs = RUNS + (4 << 8)
  let levels = LEVELS + (2 << 8)
  let last = blocks - 1
  const all = blocks << 6
  for (let i = blocks; i < all; i += 8) {
    let mask = placesAt(q, i, all)
    while (mask) {
      const at = i + ctz(mask)
      mask &= mask - 1
      const size = abs<i32>(load<i16>(q + ((<usize>at) << 1)))
      const zeros = at - last - 1
      if (zeros < 64) length += load<u8>(runs + ((<usize>zeros) << 2), 3)
      else length += <i32>(word(load<u8>(BOOKS + load<u8>(RUN_BOOK + ((runs - RUNS) >> 8))), zeros) >>> 32)
      if (size <= 64) length += load<u8>(levels + ((<usize>(size - 1)) << 2), 3) + 1
      else length += <i32>(word(load<u8>(BOOKS + load<u8>(LEVEL_BOOK + ((levels - LEVELS) >> 8))), size - 1) >>> 32) + 1
      runs = RUNS + ((<usize>min(zeros, 15)) << 8)
      levels = LEVELS + ((<usize>min(size, 9)) << 8)
      last = at
    }
  }
  return (length + 7) >> 3
}

/** Codes `n` alpha values of 16-bit codes (RDD 36, 7.1.2): differences, and runs of what does not change. */
function codeAlpha(a: usize, n: i32, wide: bool): void {
  const bits = wide ? 16 : 8
  const mask = wide ? 65535 : 255
  const half = wide ? 64 : 8
  const short = wide ? 6 : 3
  let previous = mask
  let to = out
  let bitsHeld = held
  let length = count
  let i = 0
  while (i < n) {
    const value = <i32>load<u16>(a + ((<usize>i) << 1))
    let delta = (value - previous) & mask
    if (delta > mask - half) delta -= mask + 1
    if (delta == 0 || delta > half || delta < -half) {
      bitsHeld = (bitsHeld << (bits + 1)) | <u64>((1 << bits) | (delta & mask))
      length += bits + 1
    } else {
      const negative = delta >> 31
      const size = (delta ^ negative) - negative - 1
      bitsHeld = (bitsHeld << (short + 2)) | <u64>((size << 1) | (negative & 1))
      length += short + 2
    }
    previous = value
    i++
    let run = 0
    const same = i16x8.splat(<i16>value)
    while (i + 8 <= n && i16x8.all_true(i16x8.eq(v128.load(a + ((<usize>i) << 1)), same))) {
      i += 8
      run += 8
    }
    while (i < n && <i32>load<u16>(a + ((<usize>i) << 1)) == value) {
      i++
      run++
    }
    // up to 31 bits held, 17 of a value, and 16 of its run: 64
    if (run == 0) {
      bitsHeld = (bitsHeld << 1) | 1
      length++
    } else {
      const wide = run < 16 ? 4 : 15
      bitsHeld = (bitsHeld << (wide + 1)) | <u64>run
      length += wide + 1
    }
    while (length >= 32) {
      length -= 32
      store<u32>(to, bswap<u32>(<u32>(bitsHeld >>> length)))
      to += 4
    }
  }
  out = to
  held = bitsHeld
  count = length
  finish()
}

/** Alpha of a slice as one raster of 16 rows; 8-bit alpha rounded to nearest. */
function gatherAlpha(rgba: usize, width: i32, height: i32, x: i32, y: i32, mbs: i32, wide: bool, to: usize): void {
  const columns = mbs << 4
  for (let row = 0; row < 16; row++) {
    const source = rgba + ((<usize>(min(y + row, height - 1) * width)) << 3)
    for (let c = 0; c < columns; c++) {
      const a = <u32>load<u16>(source + ((<usize>min(x + c, width - 1)) << 3), 6)
      store<u16>(to + ((<usize>(row * columns + c)) << 1), wide ? a : (a + 128) / 257)
    }
  }
}

/**
 * Codes a slice whole: header, three components, alpha of `alphaBits` (0, 8 or 16). Returns its length in bytes.
 * `work` takes 2 * 256 * mbs coefficients.
 */
export function codeSlice(coefficients: usize, mbs: i32, index: i32, alphaBits: i32, rgba: usize, width: i32, height: i32, x: i32, y: i32, work: usize, to: usize): i32 {
  if (!ready) prepare()
  const header: usize = alphaBits ? 8 : 6
  const scale = index <= 128 ? index : (index - 96) << 2
  const size = mbs << 8
  out = to + header
  held = 0
  count = 0
  store<u8>(to, header << 3)
  store<u8>(to, index, 1)
  let start = out
  for (let c: usize = 0; c < 3; c++) {
    quantise(coefficients + ((c * <usize>size) << 1), work, size, scale)
    codeComponent(work, mbs << 2)
    const length = <u32>(out - start)
    if (c < 2 || alphaBits) store<u16>(to + 2 + (c << 1), bswap<u16>(<u16>length))
    start = out
  }
  if (alphaBits) {
    gatherAlpha(rgba, width, height, x, y, mbs, alphaBits == 16, work)
    codeAlpha(work, size, alphaBits == 16)
  }
  return <i32>(out - to)
}

/**
 * Bytes that the three components of a slice take for `index`. `work` as above, and at `to` room for the DC
 * coefficients.
 */
export function measureSlice(coefficients: usize, mbs: i32, index: i32, work: usize, to: usize): i32 {
  if (!ready) prepare()
  const scale = index <= 128 ? index : (index - 96) << 2
  const size = mbs << 8
  let length = 0
  for (let c: usize = 0; c < 3; c++) {
    quantise(coefficients + ((c * <usize>size) << 1), work, size, scale)
    length += lengthOf(work, mbs << 2, to)
  }
  return length
}
