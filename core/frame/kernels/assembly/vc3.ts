// Macroblocks of VC-3 (SMPTE ST 2019-1): from their codes to planes. A block is 8x8: a first coefficient coded as its
// difference from the block before, others by size, run and place along the diagonal scan.

/** Diagonal scan, as places in a block whose rows and columns are exchanged. */
export const SCAN = memory.data<u8>([
  0, 8, 1, 2, 9, 16, 24, 17, 10, 3, 4, 11, 18, 25, 32, 40, 33, 26, 19, 12, 5, 6, 13, 20, 27, 34, 41, 48, 56, 49, 42, 35,
  28, 21, 14, 7, 15, 22, 29, 36, 43, 50, 57, 58, 51, 44, 37, 30, 23, 31, 38, 45, 52, 59, 60, 53, 46, 39, 47, 54, 61, 62, 55, 63
])

/** Kinds of an entry: bits in the lowest five, then a run follows, more of the size follows, and the size itself. */
const RUN: u32 = 32
const MORE: u32 = 64
/** A code that goes on in a deeper table, whose place is in the size's stead. */
const DEEPER: u32 = 128

/** Half the cosines of the transform, by sixteenths of a half turn; of the first coefficient the root of an eighth. */
export const FLAT: f32 = 0.35355339059327373
export const EVEN2: f32 = 0.46193976625564337
export const EVEN6: f32 = 0.19134171618254492
export const ODD1: f32 = 0.4903926402016152
export const ODD3: f32 = 0.4157348061512726
export const ODD5: f32 = 0.27778511650980114
export const ODD7: f32 = 0.09754516100806412

const BLOCK = memory.data(64 * 4, 16)
/** What a coefficient of each place is multiplied by, of luma and of chroma, at the quantiser at hand. */
const SCALES = memory.data(2 * 64 * 4, 16)
/** The last first coefficient of each component. */
const LAST = memory.data(3 * 4, 4)

// @ts-ignore: decorator
@inline
function bitsAt(from: usize, bit: u64): u64 {
  return bswap<u64>(load<u64>(from + <usize>(bit >> 3))) << (bit & 7)
}

/** Eight values about their places, four at once: `at` has eight vectors, 32 bytes apart. */
// @ts-ignore: decorator
@inline
function inverse(at: usize): void {
  const x0 = v128.load(at)
  const x1 = v128.load(at, 32)
  const x2 = v128.load(at, 64)
  const x3 = v128.load(at, 96)
  const x4 = v128.load(at, 128)
  const x5 = v128.load(at, 160)
  const x6 = v128.load(at, 192)
  const x7 = v128.load(at, 224)
  const a = f32x4.splat(FLAT)
  const b = f32x4.splat(EVEN2)
  const c = f32x4.splat(EVEN6)
  const c1 = f32x4.splat(ODD1)
  const c3 = f32x4.splat(ODD3)
  const c5 = f32x4.splat(ODD5)
  const c7 = f32x4.splat(ODD7)
  const sum = f32x4.mul(f32x4.add(x0, x4), a)
  const difference = f32x4.mul(f32x4.sub(x0, x4), a)
  const o = f32x4.add(f32x4.mul(x2, b), f32x4.mul(x6, c))
  const p = f32x4.sub(f32x4.mul(x2, c), f32x4.mul(x6, b))
  const e0 = f32x4.add(sum, o)
  const e3 = f32x4.sub(sum, o)
  const e1 = f32x4.add(difference, p)
  const e2 = f32x4.sub(difference, p)
  const o0 = f32x4.add(f32x4.add(f32x4.mul(x1, c1), f32x4.mul(x3, c3)), f32x4.add(f32x4.mul(x5, c5), f32x4.mul(x7, c7)))
  const o1 = f32x4.sub(f32x4.sub(f32x4.mul(x1, c3), f32x4.mul(x3, c7)), f32x4.add(f32x4.mul(x5, c1), f32x4.mul(x7, c5)))
  const o2 = f32x4.add(f32x4.sub(f32x4.mul(x1, c5), f32x4.mul(x3, c1)), f32x4.add(f32x4.mul(x5, c7), f32x4.mul(x7, c3)))
  const o3 = f32x4.sub(f32x4.add(f32x4.sub(f32x4.mul(x1, c7), f32x4.mul(x3, c5)), f32x4.mul(x5, c3)), f32x4.mul(x7, c1))
  v128.store(at, f32x4.add(e0, o0))
  v128.store(at, f32x4.add(e1, o1), 32)
  v128.store(at, f32x4.add(e2, o2), 64)
  v128.store(at, f32x4.add(e3, o3), 96)
  v128.store(at, f32x4.sub(e3, o3), 128)
  v128.store(at, f32x4.sub(e2, o2), 160)
  v128.store(at, f32x4.sub(e1, o1), 192)
  v128.store(at, f32x4.sub(e0, o0), 224)
}

/** Exchanges rows and columns of the four by four values at two places. */
// @ts-ignore: decorator
@inline
export function exchange(p: usize, q: usize): void {
  const a = v128.load(p)
  const b = v128.load(p, 32)
  const c = v128.load(p, 64)
  const d = v128.load(p, 96)
  const e = v128.load(q)
  const f = v128.load(q, 32)
  const g = v128.load(q, 64)
  const h = v128.load(q, 96)
  const ab = v128.shuffle<u32>(a, b, 0, 4, 1, 5)
  const cd = v128.shuffle<u32>(c, d, 0, 4, 1, 5)
  const abHigh = v128.shuffle<u32>(a, b, 2, 6, 3, 7)
  const cdHigh = v128.shuffle<u32>(c, d, 2, 6, 3, 7)
  const ef = v128.shuffle<u32>(e, f, 0, 4, 1, 5)
  const gh = v128.shuffle<u32>(g, h, 0, 4, 1, 5)
  const efHigh = v128.shuffle<u32>(e, f, 2, 6, 3, 7)
  const ghHigh = v128.shuffle<u32>(g, h, 2, 6, 3, 7)
  v128.store(q, v128.shuffle<u64>(ab, cd, 0, 2))
  v128.store(q, v128.shuffle<u64>(ab, cd, 1, 3), 32)
  v128.store(q, v128.shuffle<u64>(abHigh, cdHigh, 0, 2), 64)
  v128.store(q, v128.shuffle<u64>(abHigh, cdHigh, 1, 3), 96)
  v128.store(p, v128.shuffle<u64>(ef, gh, 0, 2))
  v128.store(p, v128.shuffle<u64>(ef, gh, 1, 3), 32)
  v128.store(p, v128.shuffle<u64>(efHigh, ghHigh, 0, 2), 64)
  v128.store(p, v128.shuffle<u64>(efHigh, ghHigh, 1, 3), 96)
}

/** The samples of the block at hand, to lines of codes `stride` bytes apart. */
function putBlock(to: usize, stride: usize, most: f32): void {
  inverse(BLOCK)
  inverse(BLOCK + 16)
  exchange(BLOCK, BLOCK)
  exchange(BLOCK + 16, BLOCK + 128)
  exchange(BLOCK + 144, BLOCK + 144)
  inverse(BLOCK)
  inverse(BLOCK + 16)
  const half = f32x4.splat(0.5)
  const ceiling = f32x4.splat(most)
  for (let y: usize = 0; y < 8; y++) {
    const at = BLOCK + (y << 5)
    const low = i32x4.trunc_sat_f32x4_u(f32x4.min(ceiling, f32x4.add(v128.load(at), half)))
    const high = i32x4.trunc_sat_f32x4_u(f32x4.min(ceiling, f32x4.add(v128.load(at, 16), half)))
    v128.store(to, i16x8.narrow_i32x4_u(low, high))
    to += stride
  }
}

/** A block of a first coefficient alone: all of one code. */
function putFlat(to: usize, stride: usize, first: f32, most: f32): void {
  const code = i16x8.splat(<i16>min(most, max<f32>(0, first * 0.125 + 0.5)))
  for (let y = 0; y < 8; y++) {
    v128.store(to, code)
    to += stride
  }
}

/** Sets what coefficients are multiplied by: weights of luma and chroma, in the scan's order, times the quantiser. */
function setScales(weights: usize, quantiser: i32): void {
  const part = f32x4.splat(<f32>quantiser / 32.0)
  for (let i: usize = 0; i < 512; i += 16) v128.store(SCALES + i, f32x4.mul(v128.load(weights + i), part))
}

/**
 * Decodes a line of `across` macroblocks to three planes of codes, whose lines lie `lumaStride` and `chromaStride`
 * bytes apart; 0 where all is well. `codes` has tables of first coefficients (128 entries), runs (1024), and sizes (4096
 * and deeper ones); `weights` 64 numbers of luma and 64 of chroma. `more` is how many bits go before a size that
 * has them.
 */
export function vc3Line(
  from: usize,
  bytes: i32,
  across: i32,
  bits: i32,
  whole: bool,
  more: i32,
  codes: usize,
  weights: usize,
  luma: usize,
  first: usize,
  second: usize,
  lumaStride: i32,
  chromaStride: i32
): i32 {
  const runs = codes + 128 * 4
  const sizes = runs + 1024 * 4
  const most = <f32>((1 << bits) - 1)
  const end = (<u64>bytes) << 3
  const blocks = whole ? 12 : 8
  const start = 1 << (bits + 2)
  store<i32>(LAST, start)
  store<i32>(LAST, start, 4)
  store<i32>(LAST, start, 8)
  let bit: u64 = 0
  let quantiser = -1
  for (let mb = 0; mb < across; mb++) {
    if (bit + 12 > end) return 1
    const head = bitsAt(from, bit)
    const asked = <i32>(head >> 53)
    bit += 12
    if (asked != quantiser) {
      quantiser = asked
      setScales(weights, quantiser)
    }
    for (let n = 0; n < blocks; n++) {
      // 4:2:2: two of luma, one of each chroma, and again below; 4:4:4: two of each, and again below
      const half = blocks >> 1
      const below = n >= half ? 1 : 0
      const place = n - half * below
      const component = whole ? place >> 1 : place < 2 ? 0 : place - 1
      const right = whole ? place & 1 : component ? 0 : place
      if (bit >= end) return 1
      let word = bitsAt(from, bit)
      const coded = load<u32>(codes + ((<usize>(word >> 57)) << 2))
      const length = <u64>(coded & 31)
      const extra = <u64>(coded >> 8)
      word <<= length
      let last = load<i32>(LAST + ((<usize>component) << 2))
      if (extra) {
        const value = <i32>(word >> (64 - extra))
        last += value >> (<i32>extra - 1) ? value : value - (1 << <i32>extra) + 1
        store<i32>(LAST + ((<usize>component) << 2), last)
      }
      bit += length + extra
      const scales = SCALES + (component ? 256 : 0)
      let at: i32 = 0
      let busy = false
      while (true) {
        if (bit >= end) return 1
        word = bitsAt(from, bit)
        let entry = load<u32>(sizes + ((<usize>(word >> 52)) << 2))
        if (entry & DEEPER) entry = load<u32>(sizes + ((<usize>(entry >> 8) + (<usize>(word >> 48) & 15)) << 2))
        const taken = entry & 31
        word <<= <u64>taken
        bit += <u64>taken
        let size = <i32>(entry >> 8)
        if (!size) break
        const negative = word >> 63
        word <<= 1
        bit++
        if (entry & MORE) {
          size += (<i32>(word >> (64 - <u64>more))) << 6
          word <<= <u64>more
          bit += <u64>more
        }
        at++
        if (entry & RUN) {
          const run = load<u32>(runs + ((<usize>(word >> 54)) << 2))
          at += <i32>(run >> 8)
          bit += <u64>(run & 31)
        }
        if (at > 63) return 2
        if (!busy) {
          memory.fill(BLOCK, 0, 256)
          store<f32>(BLOCK, <f32>last)
          busy = true
        }
        const value = (<f32>size + 0.75) * load<f32>(scales + ((<usize>at) << 2))
        store<f32>(BLOCK + ((<usize>load<u8>(SCAN + at)) << 2), negative ? -value : value)
      }
      const stride = component ? chromaStride : lumaStride
      const plane = component == 0 ? luma : component == 1 ? first : second
      const columns = mb * (component && !whole ? 8 : 16) + 8 * right
      const to = plane + ((<usize>(8 * below * (stride >> 1) + columns)) << 1)
      if (busy) putBlock(to, stride, most)
      else putFlat(to, stride, <f32>last, most)
    }
  }
  return 0
}

/** Eight codes, times what their largest is to be 65535 by. */
// @ts-ignore: decorator
@inline
function widened(at: usize, times: v128): v128 {
  const v = v128.load(at)
  return i16x8.narrow_i32x4_u(
    i32x4.trunc_sat_f32x4_u(f32x4.nearest(f32x4.mul(f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(v)), times))),
    i32x4.trunc_sat_f32x4_u(f32x4.nearest(f32x4.mul(f32x4.convert_i32x4_u(i32x4.extend_high_i16x8_u(v)), times)))
  )
}

/**
 * Solid RGBA of 16 bits from planes of green, blue and red, `stride` codes a row; rows are written from the first on, up
 * to seven pixels beyond `width`.
 */
export function vc3Join(
  green: usize,
  blue: usize,
  red: usize,
  stride: i32,
  width: i32,
  height: i32,
  bits: i32,
  to: usize
): void {
  const times = f32x4.splat(<f32>65535 / <f32>((1 << bits) - 1))
  const solid = i16x8.splat(-1)
  for (let y = 0; y < height; y++) {
    const row = (<usize>(y * stride)) << 1
    const out = to + ((<usize>(y * width)) << 3)
    for (let x: usize = 0; x < <usize>width; x += 8) {
      const at = row + (x << 1)
      const r = widened(red + at, times)
      const g = widened(green + at, times)
      const b = widened(blue + at, times)
      const rgLow = v128.shuffle<u16>(r, g, 0, 8, 1, 9, 2, 10, 3, 11)
      const rgHigh = v128.shuffle<u16>(r, g, 4, 12, 5, 13, 6, 14, 7, 15)
      const baLow = v128.shuffle<u16>(b, solid, 0, 8, 1, 9, 2, 10, 3, 11)
      const baHigh = v128.shuffle<u16>(b, solid, 4, 12, 5, 13, 6, 14, 7, 15)
      v128.store(out + (x << 3), v128.shuffle<u32>(rgLow, baLow, 0, 4, 1, 5))
      v128.store(out + (x << 3), v128.shuffle<u32>(rgLow, baLow, 2, 6, 3, 7), 16)
      v128.store(out + (x << 3), v128.shuffle<u32>(rgHigh, baHigh, 0, 4, 1, 5), 32)
      v128.store(out + (x << 3), v128.shuffle<u32>(rgHigh, baHigh, 2, 6, 3, 7), 48)
    }
  }
}
