// Pixels of RGBA as they lie in memory: four codes of 8 bits or of 16, as `T` says. Codes are told as those of 16 bits,
// which those of 8 are times 257.

/** Bytes of so many pixels. */
// @ts-ignore: decorator
@inline
export function bytesOf<T>(pixels: i32): usize {
  return sizeof<T>() == 1 ? (<usize>pixels) << 2 : (<usize>pixels) << 3
}

/** One code of the pixel at `at`. */
// @ts-ignore: decorator
@inline
export function code<T>(at: usize, channel: i32): i32 {
  if (sizeof<T>() == 1) return 257 * <i32>load<u8>(at + <usize>channel)
  return <i32>load<u16>(at + (<usize>channel << 1))
}

/** All four codes of the pixel at `at`, red lowest. */
// @ts-ignore: decorator
@inline
export function pixelAt<T>(at: usize): u64 {
  if (sizeof<T>() == 1) {
    let p = <u64>load<u32>(at)
    p = (p | (p << 16)) & 0x0000ffff0000ffff
    p = (p | (p << 8)) & 0x00ff00ff00ff00ff
    return p | (p << 8)
  }
  return load<u64>(at)
}

/** Whether the pixel at `at` is clear and black. */
// @ts-ignore: decorator
@inline
export function isBlack<T>(at: usize): bool {
  return sizeof<T>() == 1 ? load<u32>(at) == 0 : load<u64>(at) == 0
}

/** How many of the eight pixels at `at` are clear and black. */
// @ts-ignore: decorator
@inline
export function blackOfEight<T>(at: usize): i32 {
  const zero = i64x2.splat(0)
  if (sizeof<T>() == 1)
    return (
      popcnt(i32x4.bitmask(i32x4.eq(v128.load(at), zero))) + popcnt(i32x4.bitmask(i32x4.eq(v128.load(at, 16), zero)))
    )
  const low = i64x2.add(i64x2.eq(v128.load(at), zero), i64x2.eq(v128.load(at, 16), zero))
  const high = i64x2.add(i64x2.eq(v128.load(at, 32), zero), i64x2.eq(v128.load(at, 48), zero))
  return -total(i64x2.add(low, high))
}

/** The sum of two lanes of 64 bits. */
// @ts-ignore: decorator
@inline
export function total(pair: v128): i32 {
  return <i32>(i64x2.extract_lane(pair, 0) + i64x2.extract_lane(pair, 1))
}

/** The sum of four lanes of 32 bits. */
// @ts-ignore: decorator
@inline
export function totalOfFour(four: v128): i32 {
  const low = i32x4.extract_lane(four, 0) + i32x4.extract_lane(four, 1)
  return low + i32x4.extract_lane(four, 2) + i32x4.extract_lane(four, 3)
}

/** -1 for each of two pixels of 16 bits that is not all zero. */
// @ts-ignore: decorator
@inline
export function marked(pixels: v128): v128 {
  return i64x2.ne(pixels, i64x2.splat(0))
}

/** -1 for each of four pixels of 8 bits that is not all zero. */
// @ts-ignore: decorator
@inline
export function markedOfFour(pixels: v128): v128 {
  return i32x4.ne(pixels, i32x4.splat(0))
}

/** Each of two pixels' own alpha in all of its places. */
// @ts-ignore: decorator
@inline
export function ownAlpha(v: v128): v128 {
  return v128.shuffle<u8>(v, v, 6, 7, 6, 7, 6, 7, 6, 7, 14, 15, 14, 15, 14, 15, 14, 15)
}

/** Each of four pixels' own alpha in all of its places. */
// @ts-ignore: decorator
@inline
export function ownAlphaOfFour(v: v128): v128 {
  const two = v128.or(i32x4.shr_u(v, 24), v128.and(i32x4.shr_u(v, 16), i32x4.splat(0xff00)))
  return v128.or(two, i32x4.shl(two, 16))
}

/** One more at a place of a list of counts. */
// @ts-ignore: decorator
@inline
export function countAt(counts: usize, place: i32): void {
  const at = counts + (<usize>place << 2)
  store<i32>(at, load<i32>(at) + 1)
}
