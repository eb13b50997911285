// From pictures to macroblocks of VC-3 (SMPTE ST 2019-1): planes, coefficients, and their codes; what vc3.ts undoes.
import { narrowed, reds, greens, blues } from './lanes'
import { EVEN2, EVEN6, exchange, FLAT, ODD1, ODD3, ODD5, ODD7, SCAN } from './vc3'

const BLOCK = memory.data(64 * 4, 16)
/** Sizes of a block's coefficients at the quantiser at hand, in the scan's order. */
const SIZES = memory.data(64 * 2, 16)
/** What coefficients are multiplied by for their sizes: luma and chroma. */
const PARTS = memory.data(2 * 64 * 4, 16)
/** The last first coefficient of each component. */
const LAST = memory.data(3 * 4, 4)

/** From where on a coefficient is coded at all, in steps: below one it costs more than it shows. */
const LEAST: f32 = 1

// where tables lie, in entries of four bytes: first coefficients, the end of a block, sizes of four kinds, runs
const END: usize = 16
const OF_SIZES: usize = 32
const OF_RUNS: usize = 32 + 256

/** What lies beyond a line's end is its last code. */
function fillLine(line: usize, width: i32, whole: i32): void {
  const last = load<u16>(line + ((<usize>(width - 1)) << 1))
  for (let x = width; x < whole; x++) store<u16>(line + ((<usize>x) << 1), last)
}

/** Green, blue and red of a line of `width` pixels of RGBA, and what lies beyond up to `whole` codes. */
export function vc3SplitRgb(
  from: usize,
  width: i32,
  whole: i32,
  bits: i32,
  green: usize,
  blue: usize,
  red: usize
): void {
  const largest = (1 << bits) - 1
  const most = i16x8.splat(<i16>largest)
  for (let x: usize = 0; x < <usize>width; x += 8) {
    const at = from + (x << 3)
    const a = v128.load(at)
    const b = v128.load(at, 16)
    const c = v128.load(at, 32)
    const d = v128.load(at, 48)
    const to = x << 1
    v128.store(red + to, narrowed(reds(a, b, c, d), most))
    v128.store(green + to, narrowed(greens(a, b, c, d), most))
    v128.store(blue + to, narrowed(blues(a, b, c, d), most))
  }
  fillLine(green, width, whole)
  fillLine(blue, width, whole)
  fillLine(red, width, whole)
}

/**
 * A line of half the columns: each a quarter of its neighbours and a half of what it lies on (co-sited). Before the
 * line and behind it there is room for one more.
 */
function halved(from: usize, width: i32, to: usize, whole: i32): void {
  const half = (width + 1) >> 1
  const end = from + ((<usize>width) << 2)
  store<f32>(from - 4, load<f32>(from))
  store<f32>(end, load<f32>(end - 4))
  const quarter = f32x4.splat(0.25)
  const rounds = f32x4.splat(0.5)
  for (let k: usize = 0; k < <usize>half; k += 4) {
    const at = from + (k << 3)
    const a = v128.load(at)
    const b = v128.load(at, 16)
    const here = v128.shuffle<u32>(a, b, 0, 2, 4, 6)
    const right = v128.shuffle<u32>(a, b, 1, 3, 5, 7)
    const left = v128.shuffle<u32>(v128.load(at - 4), v128.load(at + 12), 0, 2, 4, 6)
    const sum = f32x4.add(f32x4.add(left, right), f32x4.add(here, here))
    const code = i32x4.trunc_sat_f32x4_u(f32x4.add(f32x4.mul(sum, quarter), rounds))
    v128.store64_lane(to + (k << 1), i16x8.narrow_i32x4_u(code, code), 0)
  }
  fillLine(to, half, whole >> 1)
}

/**
 * Luma and two chromas of half the columns, of limited range (ITU-R BT.709), of a line of `width` pixels of RGBA; `kr`
 * and `kb` weigh red and blue. `room` is for two lines of floats, and sixteen bytes before each.
 */
export function vc3SplitYcc(
  from: usize,
  width: i32,
  whole: i32,
  bits: i32,
  kr: f32,
  kb: f32,
  room: usize,
  luma: usize,
  first: usize,
  second: usize
): void {
  const unit = <f32>(1 << (bits - 8))
  const gain = f32x4.splat((219 * unit) / 65535)
  const black = f32x4.splat(16 * unit + 0.5)
  const middle = f32x4.splat(128 * unit)
  const toBlue = f32x4.splat((224 * unit) / (65535 * 2 * (1 - kb)))
  const toRed = f32x4.splat((224 * unit) / (65535 * 2 * (1 - kr)))
  const ofRed = f32x4.splat(kr)
  const ofBlue = f32x4.splat(kb)
  const ofGreen = f32x4.splat(1 - kr - kb)
  const other = room + ((<usize>width + 16) << 2)
  for (let x: usize = 0; x < <usize>width; x += 4) {
    const a = v128.load(from + (x << 3))
    const b = v128.load(from + (x << 3), 16)
    const rg = v128.shuffle<u16>(a, b, 0, 4, 8, 12, 1, 5, 9, 13)
    const red = f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(rg))
    const green = f32x4.convert_i32x4_u(i32x4.extend_high_i16x8_u(rg))
    const blue = f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(v128.shuffle<u16>(a, b, 2, 6, 10, 14, 3, 7, 11, 15)))
    const y = f32x4.add(f32x4.add(f32x4.mul(red, ofRed), f32x4.mul(green, ofGreen)), f32x4.mul(blue, ofBlue))
    const code = i32x4.trunc_sat_f32x4_u(f32x4.add(f32x4.mul(y, gain), black))
    v128.store64_lane(luma + (x << 1), i16x8.narrow_i32x4_u(code, code), 0)
    v128.store(room + (x << 2), f32x4.add(f32x4.mul(f32x4.sub(blue, y), toBlue), middle))
    v128.store(other + (x << 2), f32x4.add(f32x4.mul(f32x4.sub(red, y), toRed), middle))
  }
  fillLine(luma, width, whole)
  halved(room, width, first, whole)
  halved(other, width, second, whole)
}

/** Eight coefficients from eight values about their places, four at once: what `inverse` of vc3.ts undoes. */
// @ts-ignore: decorator
@inline
function forward(at: usize): void {
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
  const s0 = f32x4.add(x0, x7)
  const s1 = f32x4.add(x1, x6)
  const s2 = f32x4.add(x2, x5)
  const s3 = f32x4.add(x3, x4)
  const d0 = f32x4.sub(x0, x7)
  const d1 = f32x4.sub(x1, x6)
  const d2 = f32x4.sub(x2, x5)
  const d3 = f32x4.sub(x3, x4)
  const outer = f32x4.add(s0, s3)
  const inner = f32x4.add(s1, s2)
  const p = f32x4.sub(s0, s3)
  const q = f32x4.sub(s1, s2)
  v128.store(at, f32x4.mul(f32x4.add(outer, inner), a))
  v128.store(at, f32x4.mul(f32x4.sub(outer, inner), a), 128)
  v128.store(at, f32x4.add(f32x4.mul(p, b), f32x4.mul(q, c)), 64)
  v128.store(at, f32x4.sub(f32x4.mul(p, c), f32x4.mul(q, b)), 192)
  const o1 = f32x4.add(f32x4.add(f32x4.mul(d0, c1), f32x4.mul(d1, c3)), f32x4.add(f32x4.mul(d2, c5), f32x4.mul(d3, c7)))
  const o3 = f32x4.sub(f32x4.sub(f32x4.mul(d0, c3), f32x4.mul(d1, c7)), f32x4.add(f32x4.mul(d2, c1), f32x4.mul(d3, c5)))
  const o5 = f32x4.add(f32x4.sub(f32x4.mul(d0, c5), f32x4.mul(d1, c1)), f32x4.add(f32x4.mul(d2, c7), f32x4.mul(d3, c3)))
  const o7 = f32x4.sub(f32x4.add(f32x4.sub(f32x4.mul(d0, c7), f32x4.mul(d1, c5)), f32x4.mul(d2, c3)), f32x4.mul(d3, c1))
  v128.store(at, o1, 32)
  v128.store(at, o3, 96)
  v128.store(at, o5, 160)
  v128.store(at, o7, 224)
}

/** The coefficients of a block in the scan's order: the first as it is, others by `finer` times. */
function transformBlock(from: usize, stride: usize, finer: f32, to: usize): void {
  let line = from
  // what is all of one code, as most of a graphic is, has a first coefficient alone
  const one = i16x8.splat(load<i16>(from))
  let differs = i16x8.splat(0)
  for (let y = 0; y < 8; y++) {
    differs = v128.or(differs, v128.xor(v128.load(line), one))
    line += stride
  }
  if (!v128.any_true(differs)) {
    memory.fill(to, 0, 128)
    store<i16>(to, load<i16>(from) << 3)
    return
  }
  line = from
  for (let y: usize = 0; y < 8; y++) {
    const v = v128.load(line)
    v128.store(BLOCK + (y << 5), f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(v)))
    v128.store(BLOCK + (y << 5), f32x4.convert_i32x4_u(i32x4.extend_high_i16x8_u(v)), 16)
    line += stride
  }
  forward(BLOCK)
  forward(BLOCK + 16)
  exchange(BLOCK, BLOCK)
  exchange(BLOCK + 16, BLOCK + 128)
  exchange(BLOCK + 144, BLOCK + 144)
  forward(BLOCK)
  forward(BLOCK + 16)
  const times = f32x4.splat(finer)
  const first = <i16>nearest(load<f32>(BLOCK))
  for (let i: usize = 0; i < 64; i += 8) {
    const low = i32x4.trunc_sat_f32x4_s(f32x4.nearest(f32x4.mul(v128.load(BLOCK + (i << 2)), times)))
    const high = i32x4.trunc_sat_f32x4_s(f32x4.nearest(f32x4.mul(v128.load(BLOCK + (i << 2), 16), times)))
    v128.store(SIZES + (i << 1), i16x8.narrow_i32x4_s(low, high))
  }
  store<i16>(to, first)
  for (let i: usize = 1; i < 64; i++)
    store<i16>(to + (i << 1), load<i16>(SIZES + ((<usize>load<u8>(SCAN + i)) << 1)))
}

/**
 * The coefficients of a line of `across` macroblocks, 64 numbers of 16 bits a block, in the order they are coded in;
 * lines of planes lie `lumaStride` and `chromaStride` bytes apart.
 */
export function vc3Transform(
  luma: usize,
  first: usize,
  second: usize,
  lumaStride: i32,
  chromaStride: i32,
  across: i32,
  whole: bool,
  bits: i32,
  to: usize
): void {
  const finer: f32 = bits == 8 ? 16 : 4
  const half = whole ? 6 : 4
  for (let mb = 0; mb < across; mb++)
    for (let n = 0; n < 2 * half; n++) {
      const below = n >= half ? 1 : 0
      const place = n - half * below
      const component = whole ? place >> 1 : place < 2 ? 0 : place - 1
      const right = whole ? place & 1 : component ? 0 : place
      const stride = component ? chromaStride : lumaStride
      const plane = component == 0 ? luma : component == 1 ? first : second
      const columns = mb * (component && !whole ? 8 : 16) + 8 * right
      transformBlock(plane + <usize>(8 * below * stride + 2 * columns), stride, finer, to)
      to += 128
    }
}

// @ts-ignore: decorator
@inline
function sizesOf(coefficients: v128, parts: usize): v128 {
  const steps = f32x4.mul(f32x4.convert_i32x4_u(coefficients), v128.load(parts))
  const size = i32x4.trunc_sat_f32x4_s(f32x4.sub(steps, f32x4.splat(0.25)))
  return i32x4.max_s(size, v128.and(f32x4.ge(steps, f32x4.splat(LEAST)), i32x4.splat(1)))
}

/**
 * Sizes of those of a block's coefficients that there may be at the quantiser at hand; which of them there are, by bits
 * from the lowest.
 */
function quantise(from: usize, parts: usize, maybe: u64): u64 {
  const none = i16x8.splat(0)
  let there: u64 = 0
  for (let i: usize = 0; i < 64; i += 8) {
    if (!((maybe >> i) & 255)) continue
    const v = i16x8.abs(v128.load(from + (i << 1)))
    const both = i16x8.narrow_i32x4_u(
      sizesOf(i32x4.extend_low_i16x8_u(v), parts + (i << 2)),
      sizesOf(i32x4.extend_high_i16x8_u(v), parts + (i << 2) + 16)
    )
    v128.store(SIZES + (i << 1), both)
    there |= (<u64>i16x8.bitmask(i16x8.ne(both, none))) << i
  }
  return there & ~1
}

function setParts(weights: usize, quantiser: i32, bits: i32): void {
  const finer: f32 = bits == 8 ? 16 : 4
  for (let i: usize = 0; i < 128; i++)
    store<f32>(PARTS + (i << 2), <f32>32 / (load<f32>(weights + (i << 2)) * <f32>quantiser * finer))
}

// @ts-ignore: decorator
@inline
function componentOf(n: i32, whole: bool): i32 {
  if (whole) return (n >= 6 ? n - 6 : n) >> 1
  const place = n & 3
  return place < 2 ? 0 : place - 1
}

/** How many bits the difference of a first coefficient from the one before takes, not counting its code. */
// @ts-ignore: decorator
@inline
function bitsOf(difference: i32): i32 {
  return 32 - <i32>clz<i32>(abs(difference))
}

// @ts-ignore: decorator
@inline
function startAgain(bits: i32): void {
  const start = 1 << (bits + 2)
  store<i32>(LAST, start)
  store<i32>(LAST, start, 4)
  store<i32>(LAST, start, 8)
}

/**
 * Bits that each `step`th macroblock of a line takes at a quantiser; -1 where a size is beyond what codes hold. `codes`
 * are those of `codesFor` in `media/codecs/vc3/codes.ts`; `more` is how many bits go with a size of more than 64. At the
 * finest quantiser it notes in `marks`, 64 bits a block, which coefficients there are: at others there are no more.
 */
export function vc3Bits(
  coefficients: usize,
  marks: usize,
  across: i32,
  step: i32,
  whole: bool,
  bits: i32,
  more: i32,
  codes: usize,
  weights: usize,
  quantiser: i32
): i32 {
  setParts(weights, quantiser, bits)
  startAgain(bits)
  const blocks = whole ? 12 : 8
  const most = <u32>64 << more
  const end = load<u32>(codes + (END << 2)) & 31
  let sum: u32 = 0
  let holds = true
  for (let mb = 0; mb < across; mb += step) {
    sum += 12
    let at = coefficients + (<usize>(mb * blocks) << 7)
    let mark = marks + (<usize>(mb * blocks) << 3)
    for (let n = 0; n < blocks; n++, at += 128, mark += 8) {
      const component = componentOf(n, whole)
      const last = LAST + ((<usize>component) << 2)
      const first = <i32>load<i16>(at)
      const extra = bitsOf(first - load<i32>(last))
      store<i32>(last, first)
      sum += (load<u32>(codes + ((<usize>extra) << 2)) & 31) + extra + end
      let there = quantise(at, PARTS + (component ? 256 : 0), quantiser == 1 ? -1 : load<u64>(mark))
      if (quantiser == 1) store<u64>(mark, there)
      let before = 0
      while (there) {
        const place = <i32>ctz(there)
        there &= there - 1
        let size = <u32>load<u16>(SIZES + ((<usize>place) << 1))
        if (size > most) holds = false
        const run = place - before - 1
        before = place
        let kind: usize = run ? 64 : 0
        sum++
        if (size > 64) {
          kind += 128
          sum += more
          size = ((size - 1) & 63) + 1
        }
        sum += load<u32>(codes + ((OF_SIZES + kind + <usize>size - 1) << 2)) & 31
        if (run) sum += load<u32>(codes + ((OF_RUNS + <usize>run) << 2)) & 31
      }
    }
  }
  return holds ? sum : -1
}

let word: u64 = 0
let held: i32 = 0
let out: usize = 0

/** Puts the lowest bits of a number, 32 at most. */
// @ts-ignore: decorator
@inline
function put(value: u32, bits: i32): void {
  word = (word << <u64>bits) | <u64>value
  held += bits
  if (held >= 32) {
    held -= 32
    store<u32>(out, bswap<u32>(<u32>(word >> <u64>held)))
    out += 4
  }
}

// @ts-ignore: decorator
@inline
function putCode(entry: u32): void {
  put(entry >> 5, <i32>(entry & 31))
}

/** Codes a line of macroblocks at a quantiser that `vc3Bits` found to hold it; how many bytes it takes, whole fours. */
export function vc3Code(
  coefficients: usize,
  marks: usize,
  across: i32,
  whole: bool,
  bits: i32,
  more: i32,
  codes: usize,
  weights: usize,
  quantiser: i32,
  to: usize
): i32 {
  setParts(weights, quantiser, bits)
  startAgain(bits)
  word = 0
  held = 0
  out = to
  const blocks = whole ? 12 : 8
  const end = load<u32>(codes + (END << 2))
  let at = coefficients
  let mark = marks
  for (let mb = 0; mb < across; mb++) {
    put(quantiser << 1, 12)
    for (let n = 0; n < blocks; n++, at += 128, mark += 8) {
      const component = componentOf(n, whole)
      const last = LAST + ((<usize>component) << 2)
      const first = <i32>load<i16>(at)
      const difference = first - load<i32>(last)
      store<i32>(last, first)
      const extra = bitsOf(difference)
      putCode(load<u32>(codes + ((<usize>extra) << 2)))
      if (extra) put(difference < 0 ? difference + (1 << extra) - 1 : difference, extra)
      let there = quantise(at, PARTS + (component ? 256 : 0), load<u64>(mark))
      let before = 0
      while (there) {
        const place = <i32>ctz(there)
        there &= there - 1
        const size = <u32>load<u16>(SIZES + ((<usize>place) << 1)) - 1
        const run = place - before - 1
        before = place
        const kind: usize = (run ? 64 : 0) + (size > 63 ? 128 : 0)
        putCode(load<u32>(codes + ((OF_SIZES + kind + <usize>(size & 63)) << 2)))
        put(load<i16>(at + ((<usize>place) << 1)) < 0 ? 1 : 0, 1)
        if (size > 63) put(size >> 6, more)
        if (run) putCode(load<u32>(codes + ((OF_RUNS + <usize>run) << 2)))
      }
      putCode(end)
    }
  }
  if (held) put(0, 32 - held)
  return <i32>(out - to)
}
