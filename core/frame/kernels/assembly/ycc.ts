// Limited-range Y'CbCr of 12 bits, planar and 4:4:4, to RGBA of 16-bit codes (ITU-R BT.709 clause 3, BT.601, BT.2020).

/** `ys`, `us`, `vs` are rows of `stride` u16; `as` the alpha, one u16 a pixel without padding, or 0 for full alpha. */
export function yccToRgba(
  ys: usize,
  us: usize,
  vs: usize,
  as: usize,
  stride: i32,
  width: i32,
  height: i32,
  kr: f32,
  kb: f32,
  to: usize
): void {
  const luma = f32x4.splat(65535.0 / 3504.0)
  const rv = f32x4.splat((2 * (1 - kr) * 65535.0) / 3584.0)
  const bu = f32x4.splat((2 * (1 - kb) * 65535.0) / 3584.0)
  const kg: f32 = <f32>1 - kr - kb
  const gv = f32x4.splat(((-2 * (1 - kr) * kr) / kg) * (65535.0 / 3584.0))
  const gu = f32x4.splat(((-2 * (1 - kb) * kb) / kg) * (65535.0 / 3584.0))
  const black = f32x4.splat(256)
  const middle = f32x4.splat(2048)
  const half = f32x4.splat(0.5)
  for (let y = 0; y < height; y++) {
    const row = (<usize>(y * stride)) << 1
    for (let x = 0; x < width; x += 4) {
      const at = row + ((<usize>x) << 1)
      const l = f32x4.mul(
        f32x4.sub(f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(v128.load64_zero(ys + at))), black),
        luma
      )
      const u = f32x4.sub(f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(v128.load64_zero(us + at))), middle)
      const v = f32x4.sub(f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(v128.load64_zero(vs + at))), middle)
      const r = i32x4.trunc_sat_f32x4_s(f32x4.floor(f32x4.add(f32x4.add(l, f32x4.mul(v, rv)), half)))
      const g = i32x4.trunc_sat_f32x4_s(
        f32x4.floor(f32x4.add(f32x4.add(l, f32x4.add(f32x4.mul(u, gu), f32x4.mul(v, gv))), half))
      )
      const b = i32x4.trunc_sat_f32x4_s(f32x4.floor(f32x4.add(f32x4.add(l, f32x4.mul(u, bu)), half)))
      const rg = i16x8.narrow_i32x4_u(r, g)
      const a = as ? v128.load64_zero(as + ((<usize>(y * width + x)) << 1)) : i16x8.splat(-1)
      const ba = v128.shuffle<u16>(i16x8.narrow_i32x4_u(b, b), a, 0, 1, 2, 3, 8, 9, 10, 11)
      // r0..3 g0..3 and b0..3 a0..3 become four pixels
      const low = v128.shuffle<u16>(rg, ba, 0, 4, 8, 12, 1, 5, 9, 13)
      const high = v128.shuffle<u16>(rg, ba, 2, 6, 10, 14, 3, 7, 11, 15)
      const out = to + ((<usize>(y * width + x)) << 3)
      v128.store(out, low)
      v128.store(out, high, 16)
    }
  }
}

/** Codes of fewer bits as those of `shift` more. */
export function yccDeepen(at: usize, count: i32, shift: i32): void {
  const end = at + ((<usize>count) << 1)
  for (; at + 16 <= end; at += 16) v128.store(at, i16x8.shl(v128.load(at), shift))
  for (; at < end; at += 2) store<u16>(at, load<u16>(at) << <u16>shift)
}

/**
 * A plane of half the columns, `from` codes a row, as wide as the picture: `width` of `stride` codes a row, `shift` bits
 * deeper. Its samples lie on the even columns; between two of them lies their mean, rounded up. Rows are written from
 * the first on, up to 16 codes beyond `width`.
 */
export function yccWiden(half: usize, from: i32, width: i32, height: i32, shift: i32, to: usize, stride: i32): void {
  const last = (width + 1) >> 1
  for (let y = 0; y < height; y++) {
    const row = half + (<usize>(y * from) << 1)
    const out = to + (<usize>(y * stride) << 1)
    for (let k: usize = 0; k < <usize>last; k += 8) {
      const here = v128.load(row + (k << 1))
      const between = i16x8.avgr_u(here, v128.load(row + (k << 1), 2))
      const low = v128.shuffle<u16>(here, between, 0, 8, 1, 9, 2, 10, 3, 11)
      const high = v128.shuffle<u16>(here, between, 4, 12, 5, 13, 6, 14, 7, 15)
      v128.store(out + (k << 2), i16x8.shl(low, shift))
      v128.store(out + (k << 2), i16x8.shl(high, shift), 16)
    }
    // behind the last there is none
    const end = <usize>last - 1
    store<u16>(out + (end << 2), load<u16>(row + (end << 1)) << <u16>shift, 2)
  }
}
