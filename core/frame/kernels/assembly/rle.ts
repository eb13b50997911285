// QuickTime Animation run-length coding of RGBA pixels of 8 bits (QuickTime File Format, "Animation" sample data); the
// layout is told in core/media/formats/quicktime-animation/rle.ts, beside the twin of these loops.

const END: u8 = 0xff
const MOST_LITERALS = 127
const MOST_REPEATS = 128
const MOST_SKIP = 254

// @ts-ignore: decorator
@inline
function word(pixels: usize, i: i32, mask: u32): u32 {
  return load<u32>(pixels + ((<usize>i) << 2)) & mask
}

/** Length of the run of pixels equal to the one at `x`, at most `most`, before `end`. */
// @ts-ignore: decorator
@inline
function runAt(pixels: usize, x: i32, end: i32, mask: u32, most: i32): i32 {
  const first = word(pixels, x, mask)
  const stop = min(end, x + most)
  let n = x + 1
  if (n < stop && word(pixels, n, mask) != first) return 1
  const all = i32x4.splat(first)
  const masks = i32x4.splat(mask)
  for (; n + 4 <= stop; n += 4) {
    const same = i32x4.bitmask(i32x4.eq(v128.and(v128.load(pixels + ((<usize>n) << 2)), masks), all))
    if (same != 15) return n + ctz(~same) - x
  }
  while (n < stop && word(pixels, n, mask) == first) n++
  return n - x
}

/** Pixels from `x` on that are as they were in the frame before. */
// @ts-ignore: decorator
@inline
function keptAt(pixels: usize, before: usize, x: i32, end: i32, mask: u32): i32 {
  let n = x
  const masks = i32x4.splat(mask)
  for (; n + 4 <= end; n += 4) {
    const at = (<usize>n) << 2
    const same = i32x4.bitmask(i32x4.eq(v128.and(v128.load(pixels + at), masks), v128.and(v128.load(before + at), masks)))
    if (same != 15) return n + ctz(~same) - x
  }
  while (n < end && word(pixels, n, mask) == word(before, n, mask)) n++
  return n - x
}

// @ts-ignore: decorator
@inline
function put(to: usize, pixel: u32, size: i32): usize {
  // R G B A in a little-endian word becomes A R G B in bytes, or R G B
  if (size == 4) {
    store<u32>(to, rotl<u32>(pixel, 8))
    return to + 4
  }
  store<u16>(to, <u16>pixel)
  store<u8>(to + 2, <u8>(pixel >>> 16))
  return to + 3
}

/**
 * Writes a frame; `before` is 0 for one that needs no other. Returns its length. `to` has room for its bound and a
 * vector more.
 */
export function rleEncode(pixels: usize, before: usize, width: i32, height: i32, depth: i32, to: usize): i32 {
  const size = depth >> 3
  const mask: u32 = size == 4 ? 0xffffffff : 0x00ffffff
  let top = 0
  let bottom = height
  if (before) {
    while (top < height && keptAt(pixels, before, top * width, (top + 1) * width, mask) == width) top++
    while (bottom > top && keptAt(pixels, before, (bottom - 1) * width, bottom * width, mask) == width) bottom--
  }
  const update = before != 0
  let at = to + (update ? 14 : 6)
  store<u16>(to + 4, update ? 0x0800 : 0)
  if (update) {
    store<u16>(to + 6, bswap<u16>(<u16>top))
    store<u16>(to + 8, 0)
    store<u16>(to + 10, bswap<u16>(<u16>(bottom - top)))
    store<u16>(to + 12, 0)
  }
  for (let y = top; y < bottom; y++) {
    const end = (y + 1) * width
    let x = y * width
    let skip = before ? keptAt(pixels, before, x, end, mask) : 0
    if (skip == width) {
      store<u8>(at, 1)
      store<u8>(at + 1, END)
      at += 2
      continue
    }
    const first = min(skip, MOST_SKIP)
    store<u8>(at++, <u8>(first + 1))
    x += first
    skip -= first
    while (x < end) {
      if (skip > 0) {
        const part = min(skip, MOST_SKIP)
        store<u8>(at, 0)
        store<u8>(at + 1, <u8>(part + 1))
        at += 2
        x += part
        skip -= part
        continue
      }
      const run = runAt(pixels, x, end, mask, MOST_REPEATS)
      if (run > 1) {
        // what stayed is skipped where that reaches as far; all of the rest of the line needs no word at all
        store<u8>(at, <u8>(256 - run))
        at = put(at + 1, word(pixels, x, mask), size)
        x += run
      } else {
        const countAt = at++
        let count = 0
        while (count < MOST_LITERALS && x < end) {
          const w = word(pixels, x, mask)
          if (x + 1 < end && word(pixels, x + 1, mask) == w) break
          if (before && count > 0 && word(before, x, mask) == w) break
          at = put(at, w, size)
          x++
          count++
        }
        store<u8>(countAt, <u8>count)
      }
      if (before && x < end) {
        skip = keptAt(pixels, before, x, end, mask)
        if (x + skip == end) break
        // a run that reaches further is the shorter word
        if (skip > 0 && runAt(pixels, x, end, mask, MOST_REPEATS) > skip) skip = 0
      }
    }
    store<u8>(at++, END)
  }
  const length = <i32>(at - to)
  store<u32>(to, bswap<u32>(<u32>length))
  return length
}

// what was wrong, and where: read by the caller when the answer is not 0
let wrongAt: i32 = 0
let wrongLine: i32 = 0

export function rleWrongAt(): i32 {
  return wrongAt
}

export function rleWrongLine(): i32 {
  return wrongLine
}

// @ts-ignore: decorator
@inline
function wrong(kind: i32, at: i32, line: i32): i32 {
  wrongAt = at
  wrongLine = line
  return kind
}

// @ts-ignore: decorator
@inline
function pixelAt(data: usize, depth: i32): u32 {
  if (depth == 32) return rotr<u32>(load<u32>(data), 8)
  if (depth == 24) return 0xff000000 | (<u32>load<u8>(data, 2) << 16) | <u32>load<u16>(data)
  const w = <u32>bswap<u16>(load<u16>(data))
  const r = (w >> 10) & 31
  const g = (w >> 5) & 31
  const b = w & 31
  return 0xff000000 | (((b << 3) | (b >> 2)) << 16) | (((g << 3) | (g >> 2)) << 8) | ((r << 3) | (r >> 2))
}

/**
 * Lays `n` bytes of a sample's lines, which begin at `at`, onto the canvas. 0, or 1 data ends at a line, 2 within one,
 * 3 too many pixels.
 */
export function rleDecode(data: usize, n: i32, from: i32, canvas: usize, width: i32, line: i32, lines: i32, depth: i32): i32 {
  const size = depth >> 3
  let at = from
  for (; lines > 0; lines--, line++) {
    const begin = line * width
    const end = begin + width
    if (at >= n) return wrong(1, at, line)
    let x = begin + <i32>load<u8>(data + at++) - 1
    for (;;) {
      if (at >= n) return wrong(2, at, line)
      const code = load<u8>(data + at++)
      if (code == END) break
      if (code == 0) {
        if (at >= n) return wrong(2, at, line)
        x += <i32>load<u8>(data + at++) - 1
        continue
      }
      const repeats = code > 127
      const count = repeats ? 256 - <i32>code : <i32>code
      if (x < begin || x + count > end) return wrong(3, at - 1, line)
      if (at + (repeats ? size : count * size) > n) return wrong(2, at, line)
      let to = canvas + ((<usize>x) << 2)
      x += count
      if (repeats) {
        const pixel = pixelAt(data + at, depth)
        at += size
        const four = i32x4.splat(pixel)
        let k = count
        for (; k >= 4; k -= 4, to += 16) v128.store(to, four)
        for (; k > 0; k--, to += 4) store<u32>(to, pixel)
      } else if (depth == 32) {
        let k = count
        let source = data + at
        for (; k >= 4; k -= 4, to += 16, source += 16) v128.store(to, v128.swizzle(v128.load(source), i8x16(1, 2, 3, 0, 5, 6, 7, 4, 9, 10, 11, 8, 13, 14, 15, 12)))
        for (; k > 0; k--, to += 4, source += 4) store<u32>(to, rotr<u32>(load<u32>(source), 8))
        at += count * 4
      } else {
        for (let k = count; k > 0; k--, to += 4, at += size) store<u32>(to, pixelAt(data + at, depth))
      }
    }
  }
  return 0
}
