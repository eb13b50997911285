// Colour taken apart into foreground and background, on straight float RGBA, in place. Plain twins:
// tests/oracles/keys.ts.
import { drawPlate } from './screen'
import { codes16Of, floatsOf16, floatsOf8 } from './floats'

// @ts-ignore: decorator
@inline
function between01(v: v128): v128 {
  return f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), v))
}

// @ts-ignore: decorator
@inline
function withoutMatte(pixel: v128, a: f32, matte: v128): v128 {
  const left = f32x4.div(f32x4.sub(pixel, f32x4.mul(f32x4.splat(1 - a), matte)), f32x4.splat(a))
  return f32x4.replace_lane(between01(left), 3, a)
}

/** A matte colour, out of what each pixel's own alpha mixes it with. */
export function takeOut(at: usize, n: i32, r: f32, g: f32, b: f32): void {
  const matte = f32x4(r, g, b, 0)
  for (let i = 0; i < n; i++) {
    const pixel = v128.load(at)
    const a = f32x4.extract_lane(pixel, 3)
    v128.store(at, a > 0 ? withoutMatte(pixel, a, matte) : f32x4.replace_lane(f32x4.splat(0), 3, a))
    at += 16
  }
}

/** `up` and `down` are what makes alpha of the way a channel has gone from the background. */
export function takeBackground(at: usize, n: i32, r: f32, g: f32, b: f32, up: usize, down: usize): void {
  const back = f32x4(r, g, b, 0)
  const upward = v128.load(up)
  const downward = v128.load(down)
  for (let i = 0; i < n; i++) {
    const pixel = v128.load(at)
    const away = f32x4.sub(pixel, back)
    const need = f32x4.pmax(f32x4.mul(away, upward), f32x4.mul(away, downward))
    const most = max(max(f32x4.extract_lane(need, 0), f32x4.extract_lane(need, 1)), f32x4.extract_lane(need, 2))
    if (most <= 0) v128.store(at, f32x4.splat(0))
    else if (most >= 1) v128.store(at, f32x4.replace_lane(pixel, 3, 1))
    else v128.store(at, withoutMatte(pixel, most, back))
    at += 16
  }
}

/** Four pixels at a time; reads and writes up to three beyond the end. */
export function chromaKey(at: usize, plate: usize, n: i32, low: f32, high: f32, across: f32, spill: f32, lean: f32, channel: i32): void {
  const one = f32x4.splat(1)
  const zero = f32x4.splat(0)
  const red = f32x4.splat(0.2126)
  const green = f32x4.splat(0.7152)
  const blue = f32x4.splat(0.0722)
  const cb = f32x4.splat(1 / 1.8556)
  const cr = f32x4.splat(1 / 1.5748)
  const sharply = high <= low
  const perSpan = f32x4.splat(sharply ? 1 : 1 / (high - low))
  const weight = f32x4.splat(channel == 1 ? 0.7152 : channel == 0 ? 0.2126 : 0.0722)
  for (let i = 0; i < n; i += 4) {
    let p = v128.load(at)
    let q = v128.load(at, 16)
    let s = v128.load(at, 32)
    let t = v128.load(at, 48)
    let m = v128.shuffle<u32>(p, q, 0, 4, 1, 5)
    let k = v128.shuffle<u32>(s, t, 0, 4, 1, 5)
    let r = v128.shuffle<u32>(m, k, 0, 1, 4, 5)
    let g = v128.shuffle<u32>(m, k, 2, 3, 6, 7)
    m = v128.shuffle<u32>(p, q, 2, 6, 3, 7)
    k = v128.shuffle<u32>(s, t, 2, 6, 3, 7)
    let b = v128.shuffle<u32>(m, k, 0, 1, 4, 5)
    let a = v128.shuffle<u32>(m, k, 2, 3, 6, 7)
    p = v128.load(plate)
    q = v128.load(plate, 16)
    s = v128.load(plate, 32)
    t = v128.load(plate, 48)
    m = v128.shuffle<u32>(p, q, 0, 4, 1, 5)
    k = v128.shuffle<u32>(s, t, 0, 4, 1, 5)
    const kr = v128.shuffle<u32>(m, k, 0, 1, 4, 5)
    const kg = v128.shuffle<u32>(m, k, 2, 3, 6, 7)
    const kb = v128.shuffle<u32>(v128.shuffle<u32>(p, q, 2, 6, 3, 7), v128.shuffle<u32>(s, t, 2, 6, 3, 7), 0, 1, 4, 5)

    const ky = f32x4.add(f32x4.add(f32x4.mul(red, kr), f32x4.mul(green, kg)), f32x4.mul(blue, kb))
    const ku = f32x4.mul(f32x4.sub(kb, ky), cb)
    const kv = f32x4.mul(f32x4.sub(kr, ky), cr)
    const strength = f32x4.add(f32x4.mul(ku, ku), f32x4.mul(kv, kv))
    const y = f32x4.add(f32x4.add(f32x4.mul(red, r), f32x4.mul(green, g)), f32x4.mul(blue, b))
    const u = f32x4.mul(f32x4.sub(b, y), cb)
    const v = f32x4.mul(f32x4.sub(r, y), cr)
    const along = f32x4.add(f32x4.mul(u, ku), f32x4.mul(v, kv))
    const beside = f32x4.abs(f32x4.sub(f32x4.mul(u, kv), f32x4.mul(v, ku)))
    const share = between01(f32x4.div(f32x4.sub(along, f32x4.mul(beside, f32x4.splat(across))), strength))
    // a plate without a hue tells nothing
    const screen = v128.andnot(share, f32x4.lt(strength, f32x4.splat(1e-8)))
    const left = f32x4.sub(one, screen)
    const key = sharply ? v128.and(f32x4.ge(left, f32x4.splat(high)), one) : between01(f32x4.mul(f32x4.sub(left, f32x4.splat(low)), perSpan))

    const rest = f32x4.sub(one, key)
    const seen = f32x4.gt(key, zero)
    const perKey = f32x4.div(one, key)
    r = v128.and(seen, between01(f32x4.mul(f32x4.sub(r, f32x4.mul(rest, kr)), perKey)))
    g = v128.and(seen, between01(f32x4.mul(f32x4.sub(g, f32x4.mul(rest, kg)), perKey)))
    b = v128.and(seen, between01(f32x4.mul(f32x4.sub(b, f32x4.mul(rest, kb)), perKey)))
    if (spill > 0) {
      const main = channel == 0 ? r : channel == 1 ? g : b
      const aside = channel == 0 ? g : r
      const other = channel == 2 ? g : b
      const others = f32x4.add(
        f32x4.mul(f32x4.splat(lean), f32x4.pmax(aside, other)),
        f32x4.mul(f32x4.splat(1 - lean), f32x4.pmin(aside, other))
      )
      const excess = f32x4.pmax(zero, f32x4.mul(f32x4.sub(main, others), f32x4.splat(spill)))
      const held = f32x4.sub(main, excess)
      const lost = f32x4.mul(excess, weight)
      r = between01(f32x4.add(channel == 0 ? held : r, lost))
      g = between01(f32x4.add(channel == 1 ? held : g, lost))
      b = between01(f32x4.add(channel == 2 ? held : b, lost))
    }
    a = f32x4.mul(a, key)
    m = v128.shuffle<u32>(r, g, 0, 4, 1, 5)
    k = v128.shuffle<u32>(b, a, 0, 4, 1, 5)
    v128.store(at, v128.shuffle<u32>(m, k, 0, 1, 4, 5))
    v128.store(at, v128.shuffle<u32>(m, k, 2, 3, 6, 7), 16)
    m = v128.shuffle<u32>(r, g, 2, 6, 3, 7)
    k = v128.shuffle<u32>(b, a, 2, 6, 3, 7)
    v128.store(at, v128.shuffle<u32>(m, k, 0, 1, 4, 5), 32)
    v128.store(at, v128.shuffle<u32>(m, k, 2, 3, 6, 7), 48)
    at += 64
    plate += 64
  }
}

/**
 * Whole rows of codes, `wide` 1 for 16 bits, as codes of 16 bits with the screen taken out. `row` and `under` take a
 * row of floats each, with room for eight samples behind it.
 */
export function keyHue(
  from: usize,
  wide: i32,
  plate: usize,
  surfaces: usize,
  width: i32,
  height: i32,
  to: usize,
  row: usize,
  under: usize,
  low: f32,
  high: f32,
  across: f32,
  spill: f32,
  lean: f32,
  channel: i32
): void {
  const samples = width << 2
  for (let y = 0; y < height; y++) {
    if (wide) floatsOf16(from, row, samples)
    else floatsOf8(from, row, samples)
    let beneath = under
    if (plate) beneath = plate + ((<usize>(y * width)) << 4)
    else drawPlate(surfaces, under, width, <f64>y / <f64>height)
    chromaKey(row, beneath, width, low, high, across, spill, lean, channel)
    codes16Of(row, to, samples)
    from += (<usize>samples) << wide
    to += (<usize>samples) << 1
  }
}

// @ts-ignore: decorator
@inline
function dithered(values: v128, noise: v128): v128 {
  const full = f64x2.splat(255)
  const half = f64x2.splat(0.5)
  const codes = f64x2.mul(f64x2.pmin(f64x2.splat(1), f64x2.pmax(f64x2.splat(0), values)), full)
  const whole = f64x2.floor(f64x2.add(codes, half))
  const moved = f64x2.floor(f64x2.add(f64x2.add(codes, noise), half))
  const near = f64x2.lt(f64x2.abs(f64x2.sub(codes, whole)), f64x2.splat(1e-4))
  return f64x2.div(f64x2.pmin(full, f64x2.pmax(f64x2.splat(0), v128.bitselect(whole, moved, near))), full)
}

/**
 * In f64, as the twin computes, so that no rounding falls apart; reads and writes up to three samples beyond the end.
 */
export function dither8(at: usize, n: i32, first: i32): void {
  const per = f64x2.splat(1 / 4294967296)
  const half = f64x2.splat(0.5)
  let place = i32x4.add(i32x4.splat(first), i32x4(0, 1, 2, 3))
  for (let i = 0; i < n; i += 4) {
    let h = i32x4.mul(v128.xor(place, i32x4.shr_u(place, 16)), i32x4.splat(0x45d9f3b))
    h = i32x4.mul(v128.xor(h, i32x4.shr_u(h, 13)), i32x4.splat(0x119de1f3))
    h = v128.xor(h, i32x4.shr_u(h, 16))
    const values = v128.load(at)
    const low = dithered(f64x2.promote_low_f32x4(values), f64x2.sub(f64x2.mul(f64x2.convert_low_i32x4_u(h), per), half))
    const high = dithered(f64x2.promote_low_f32x4(v128.shuffle<u64>(values, values, 1, 0)), f64x2.sub(f64x2.mul(f64x2.convert_low_i32x4_u(v128.shuffle<u64>(h, h, 1, 0)), per), half))
    v128.store(at, v128.shuffle<u64>(f32x4.demote_f64x2_zero(low), f32x4.demote_f64x2_zero(high), 0, 2))
    place = i32x4.add(place, i32x4.splat(4))
    at += 16
  }
}
