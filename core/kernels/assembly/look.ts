// Looking at one frame, RGBA of 16 bits: counts by alpha, levels in use, excess, the colour under clear pixels.
// results, in f64 from `out`: 0 clear, 1 solid, 2 least, 3 most, 4 fine, 5 excess, 6 deficit, 7 index of the first clear pixel or -1,
// 8 largest spread of colour under clear pixels

// @ts-ignore: decorator
@inline
function put(out: usize, place: i32, value: f64): void {
  store<f64>(out + (<usize>place << 3), value)
}

// @ts-ignore: decorator
@inline
function fine(code: u32): bool {
  return (code >> 8) != (code & 255)
}

/** `histogram` 256 u32, zeroed; `levels` 8192 bytes, zeroed. */
export function look(from: usize, pixels: i32, histogram: usize, levels: usize, out: usize): void {
  let clear = 0
  let solid = 0
  let least: u32 = 65535
  let most: u32 = 0
  let deep = 0
  let excess = 0
  let deficit = 0
  let firstClear: i32 = -1
  let spread: u32 = 0
  let cr: u32 = 0
  let cg: u32 = 0
  let cb: u32 = 0
  // pixels of runs that are clear and black
  let blackRuns = 0
  for (let i = 0; i < pixels; i++) {
    // once the first clear pixel is known to be black as well, four more of its kind tell nothing new
    if (firstClear >= 0 && (cr | cg | cb) == 0) {
      while (i + 4 <= pixels && !v128.any_true(v128.or(v128.load(from + ((<usize>i) << 3)), v128.load(from + ((<usize>i) << 3), 16)))) {
        i += 4
        blackRuns += 4
      }
      if (i >= pixels) break
    }
    const p = load<u64>(from + ((<usize>i) << 3))
    const r = <u32>(p & 65535)
    const g = <u32>((p >>> 16) & 65535)
    const b = <u32>((p >>> 32) & 65535)
    const a = <u32>(p >>> 48)
    const bin = histogram + ((<usize>(a >> 8)) << 2)
    store<u32>(bin, load<u32>(bin) + 1)
    if (a == 0) {
      least = 0
      clear++
      if (firstClear < 0) {
        firstClear = i
        cr = r
        cg = g
        cb = b
      } else if (r != cr || g != cg || b != cb) {
        const dr = r > cr ? r - cr : cr - r
        const dg = g > cg ? g - cg : cg - g
        const db = b > cb ? b - cb : cb - b
        spread = max(spread, max(dr, max(dg, db)))
      }
      if (r > 257 || g > 257 || b > 257) excess++
      if (r < 65278 || g < 65278 || b < 65278) deficit++
      if (p != 0 && (fine(r) || fine(g) || fine(b))) deep++
      continue
    }
    if (a < least) least = a
    if (a > most) most = a
    store<u8>(levels + (a >> 3), <u8>(<u32>load<u8>(levels + (a >> 3)) | ((<u32>1) << (a & 7))))
    if (a == 65535) solid++
    else {
      if (r > a + 257 || g > a + 257 || b > a + 257) excess++
      const rest = <i32>(65535 - a) - 257
      if (<i32>r < rest || <i32>g < rest || <i32>b < rest) deficit++
    }
    if (fine(a) || fine(r) || fine(g) || fine(b)) deep++
  }
  clear += blackRuns
  // black is what white left over by no alpha cannot be
  deficit += blackRuns
  store<u32>(histogram, load<u32>(histogram) + blackRuns)
  if (clear) store<u8>(levels, load<u8>(levels) | 1)
  put(out, 0, clear)
  put(out, 1, solid)
  put(out, 2, least)
  put(out, 3, most)
  put(out, 4, deep)
  put(out, 5, excess)
  put(out, 6, deficit)
  put(out, 7, firstClear)
  put(out, 8, spread)
}

/** Pixels whose four codes are exactly those of `wanted`. */
export function countSame(from: usize, pixels: i32, wanted: u64): i32 {
  let count = 0
  for (let i = 0; i < pixels; i++) if (load<u64>(from + ((<usize>i) << 3)) == wanted) count++
  return count
}

/** 8-bit codes to 16: code * 257. `codes` is rounded up to sixteen; the caller keeps that much room. */
export function widen(from: usize, to: usize, codes: i32): void {
  for (let i = 0; i < codes; i += 16) {
    const bytes = v128.load(from + i)
    v128.store(to + 2 * i, v128.shuffle<u8>(bytes, bytes, 0, 0, 1, 1, 2, 2, 3, 3, 4, 4, 5, 5, 6, 6, 7, 7))
    v128.store(to + 2 * i, v128.shuffle<u8>(bytes, bytes, 8, 8, 9, 9, 10, 10, 11, 11, 12, 12, 13, 13, 14, 14, 15, 15), 16)
  }
}

/** 16-bit codes to 8, rounded to nearest: floor((code + 128) / 257), as t - (t >> 8) >> 8 with t = code + 128. */
export function narrow(from: usize, to: usize, codes: i32): void {
  const round = i16x8.splat(128)
  for (let i = 0; i < codes; i += 16) {
    // saturating: the last codes would run over, and all of them become 255
    const low = i16x8.add_sat_u(v128.load(from + 2 * i), round)
    const high = i16x8.add_sat_u(v128.load(from + 2 * i, 16), round)
    v128.store(to + i, i8x16.narrow_i16x8_u(i16x8.shr_u(i16x8.sub(low, i16x8.shr_u(low, 8)), 8), i16x8.shr_u(i16x8.sub(high, i16x8.shr_u(high, 8)), 8)))
  }
}
