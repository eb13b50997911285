// Blocks of 4 x 4 pixels as graphics hardware reads them (Khronos Data Format Specification 1.3: BC1 and BC3 in
// chapter 20, BC4 in chapter 21). A block of colour is two colours of 5, 6 and 5 bits, low byte first, and two bits a
// pixel that say where on the line between them it lies; a block of alpha is two values of 8 bits and three bits a
// pixel. BC3 is a block of alpha before one of colour. In luma and scaled chroma (`SCALED`) red and green are the
// chromas Co and Cg about 128, blue is (scale - 1) * 8, and the block of alpha is luma.

/** What a texture's blocks hold. */
export const COLOUR: i32 = 1
export const COLOUR_ALPHA: i32 = 3
export const ALPHA: i32 = 4
export const SCALED: i32 = 5
export const GREY: i32 = 6

/** RGBA of the block at hand, its alpha apart, weights of its pixels, and its palette. */
export const PIXELS = memory.data(64, 16)
export const ALPHAS = memory.data(16, 16)
export const WEIGHTS = memory.data(64, 16)
export const PALETTE = memory.data(16, 16)
export const LEVELS = memory.data(8, 8)

export function clamp255(v: i32): i32 {
  return max(0, min(255, v))
}

/** Red, green and blue of the pixel `n` of the block at hand. */
// @ts-ignore: decorator
@inline
export function red(n: usize): i32 {
  return <i32>load<u8>(PIXELS + (n << 2))
}
// @ts-ignore: decorator
@inline
export function green(n: usize): i32 {
  return <i32>load<u8>(PIXELS + (n << 2) + 1)
}
// @ts-ignore: decorator
@inline
export function blue(n: usize): i32 {
  return <i32>load<u8>(PIXELS + (n << 2) + 2)
}
// @ts-ignore: decorator
@inline
export function alphaAt(n: usize): i32 {
  return <i32>load<u8>(ALPHAS + n)
}

/** The four colours of a block, alpha solid; of BC1 the fourth is black where the first is not the larger. */
export function readPalette(at: usize, four: bool): void {
  const a = <i32>load<u16>(at)
  const b = <i32>load<u16>(at + 2)
  const ar = a >> 11
  const ag = (a >> 5) & 63
  const ab = a & 31
  const br = b >> 11
  const bg = (b >> 5) & 63
  const bb = b & 31
  four = four || a > b
  for (let n = 0; n < 4; n++) {
    let c: u32 = 0xff000000
    if (four) {
      const p = n == 0 ? 3 : n == 1 ? 0 : n == 2 ? 2 : 1
      const q = 3 - p
      c |= <u32>(((ar * p + br * q) * 510 + 93) / 186)
      c |= <u32>(((ag * p + bg * q) * 510 + 189) / 378) << 8
      c |= <u32>(((ab * p + bb * q) * 510 + 93) / 186) << 16
    } else if (n < 3) {
      const p = n == 0 ? 2 : n == 1 ? 0 : 1
      const q = 2 - p
      c |= <u32>(((ar * p + br * q) * 510 + 62) / 124)
      c |= <u32>(((ag * p + bg * q) * 510 + 126) / 252) << 8
      c |= <u32>(((ab * p + bb * q) * 510 + 62) / 124) << 16
    }
    store<u32>(PALETTE + (<usize>n << 2), c)
  }
}

/** The eight values of a block of alpha. */
export function levelsOf(a: i32, b: i32): void {
  store<u8>(LEVELS, <u8>a)
  store<u8>(LEVELS + 1, <u8>b)
  if (a > b) for (let n = 1; n < 7; n++) store<u8>(LEVELS + 1 + n, <u8>((2 * ((7 - n) * a + n * b) + 7) / 14))
  else {
    for (let n = 1; n < 5; n++) store<u8>(LEVELS + 1 + n, <u8>((2 * ((5 - n) * a + n * b) + 5) / 10))
    store<u8>(LEVELS + 6, 0)
    store<u8>(LEVELS + 7, 255)
  }
}

/** Whether all pixels of the block at hand are one. */
export function isEven(): bool {
  const first = i32x4.splat(load<i32>(PIXELS))
  const apart = v128.or(
    v128.or(v128.xor(v128.load(PIXELS), first), v128.xor(v128.load(PIXELS, 16), first)),
    v128.or(v128.xor(v128.load(PIXELS, 32), first), v128.xor(v128.load(PIXELS, 48), first))
  )
  return !v128.any_true(apart)
}

