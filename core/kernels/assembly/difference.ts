// CIEDE2000 (ISO/CIE 11664-6) of four pairs of colours at once, in f32. No angle is taken: hue differences come from cross and
// dot products, the mean hue from the bisector of two unit vectors, and its multiples from the double-angle formulas. Only the
// rotation term needs an angle, and only within 90 degrees of 275, where a polynomial serves.

// Constants stand in memory, from where one instruction spreads each over a vector; as literals they would cost four apiece.
const K = memory.data<f32>([
  /* 0 */ 0,
  /* 1 */ 1,
  /* 2 */ 0.5,
  /* 3 */ 2,
  /* 4 */ 6103515625,
  /* 5 */ 16,
  /* 6 */ 0.004,
  /* 7 */ 0.008856451679035631,
  /* 8 */ 65535,
  /* 9 */ -120,
  /* 10 */ 0.0096181291,
  /* 11 */ 0.0555041087,
  /* 12 */ 0.240226507,
  /* 13 */ 0.6931471806,
  /* 14 */ 1e-20,
  /* 15 */ 1e-12,
  /* 16 */ 1e-09,
  /* 17 */ 50,
  /* 18 */ 20,
  /* 19 */ -0.085133,
  /* 20 */ 0.180141,
  /* 21 */ -0.3302995,
  /* 22 */ 0.999866,
  /* 23 */ 0.008333333333333333,
  /* 24 */ -0.16666666666666666,
  /* 25 */ -2,
  /* 26 */ 0.3333333333333333,
  /* 27 */ 0.008620689655172414,
  /* 28 */ 903.2962962962963,
  /* 29 */ 1.0521110608435826,
  /* 30 */ 0.4124564,
  /* 31 */ 0.3575761,
  /* 32 */ 0.1804375,
  /* 33 */ 0.2126729,
  /* 34 */ 0.7151522,
  /* 35 */ 0.072175,
  /* 36 */ 0.9184170164304805,
  /* 37 */ 0.0193339,
  /* 38 */ 0.119192,
  /* 39 */ 0.9503041,
  /* 40 */ 116,
  /* 41 */ 500,
  /* 42 */ 200,
  /* 43 */ -1.44269504,
  /* 44 */ 0.0013333558,
  /* 45 */ 0.14722431864600002,
  /* 46 */ 0.085,
  /* 47 */ 0.24,
  /* 48 */ 0.31824700652800003,
  /* 49 */ 0.033449108256,
  /* 50 */ 0.09079809994,
  /* 51 */ 0.17820130484000002,
  /* 52 */ 0.015,
  /* 53 */ 0.045,
  /* 54 */ 0.0871557427,
  /* 55 */ -0.9961946981,
  /* 56 */ 0.9961946981,
  /* 57 */ 0.0208351,
  /* 58 */ 4.58366236,
  /* 59 */ 1.0471975512,
  /* 60 */ -0.0001984126984126984,
  /* 61 */ 8388608
])

// @ts-ignore: decorator
@inline
function k(n: i32): v128 {
  return v128.load32_splat(K + ((<usize>n) << 2))
}

// @ts-ignore: decorator
@inline
function mul(a: v128, b: v128): v128 {
  return f32x4.mul(a, b)
}

// @ts-ignore: decorator
@inline
function add(a: v128, b: v128): v128 {
  return f32x4.add(a, b)
}

/** Cube root for 0 < t <= 1: a guess from the exponent, then two steps of Halley's method; within 1e-6. */
// @ts-ignore: decorator
@inline
function cubeRoot(t: v128): v128 {
  let y = i32x4.add(i32x4.trunc_sat_f32x4_s(mul(f32x4.convert_i32x4_s(t), k(26))), i32x4.splat(709921077))
  for (let n = 0; n < 2; n++) {
    const cube = mul(mul(y, y), y)
    y = mul(y, f32x4.div(add(cube, add(t, t)), add(add(cube, cube), t)))
  }
  return y
}

/** f of CIE L*a*b*. */
// @ts-ignore: decorator
@inline
function lightness(t: v128): v128 {
  const linear = mul(add(mul(t, k(28)), k(5)), k(27))
  return v128.bitselect(cubeRoot(f32x4.pmax(t, k(6))), linear, f32x4.gt(t, k(7)))
}

// @ts-ignore: decorator
@inline
function light(codes: v128, table: usize): v128 {
  // adding 2^23 leaves the rounded whole number in the low bits
  const at = v128.and(f32x4.add(f32x4.pmin(f32x4.pmax(codes, k(0)), k(8)), k(61)), i32x4.splat(0x7fffff))
  let value = f32x4.splat(load<f32>(table + ((<usize>i32x4.extract_lane(at, 0)) << 2)))
  value = f32x4.replace_lane(value, 1, load<f32>(table + ((<usize>i32x4.extract_lane(at, 1)) << 2)))
  value = f32x4.replace_lane(value, 2, load<f32>(table + ((<usize>i32x4.extract_lane(at, 2)) << 2)))
  return f32x4.replace_lane(value, 3, load<f32>(table + ((<usize>i32x4.extract_lane(at, 3)) << 2)))
}

/** L*, a*, b* under D65 of four sRGB-coded colours (0 to 65535, clamped), stored at `out`. `table` holds linear light for each code. */
// @ts-ignore: decorator
@inline
export function toLab(r: v128, g: v128, b: v128, table: usize, out: usize): void {
  const lr = light(r, table)
  const lg = light(g, table)
  const lb = light(b, table)
  const x = lightness(mul(add(add(mul(lr, k(30)), mul(lg, k(31))), mul(lb, k(32))), k(29)))
  const y = lightness(add(add(mul(lr, k(33)), mul(lg, k(34))), mul(lb, k(35))))
  const z = lightness(mul(add(add(mul(lr, k(37)), mul(lg, k(38))), mul(lb, k(39))), k(36)))
  v128.store(out, f32x4.sub(mul(y, k(40)), k(5)))
  v128.store(out, mul(f32x4.sub(x, y), k(41)), 16)
  v128.store(out, mul(f32x4.sub(y, z), k(42)), 32)
}

// @ts-ignore: decorator
@inline
function pow7share(c: v128): v128 {
  const c2 = mul(c, c)
  const c7 = mul(mul(mul(c2, c2), c2), c)
  return f32x4.sqrt(f32x4.div(c7, add(c7, k(4))))
}

/** exp(-u) for u >= 0. */
// @ts-ignore: decorator
@inline
function decay(u: v128): v128 {
  const z = f32x4.pmax(mul(u, k(43)), k(9))
  const whole = f32x4.floor(z)
  const f = f32x4.sub(z, whole)
  let p = add(k(10), mul(f, k(44)))
  p = add(k(11), mul(f, p))
  p = add(k(12), mul(f, p))
  p = add(k(13), mul(f, p))
  p = add(k(1), mul(f, p))
  return mul(p, i32x4.shl(i32x4.add(i32x4.trunc_sat_f32x4_s(whole), i32x4.splat(127)), 23))
}

/** The difference of the colours stored at `p` and `q`. */
// @ts-ignore: decorator
@inline
export function difference(p: usize, q: usize): v128 {
  const l1 = v128.load(p)
  const a1 = v128.load(p, 16)
  const b1 = v128.load(p, 32)
  const l2 = v128.load(q)
  const a2 = v128.load(q, 16)
  const b2 = v128.load(q, 32)
  const mean = mul(add(f32x4.sqrt(add(mul(a1, a1), mul(b1, b1))), f32x4.sqrt(add(mul(a2, a2), mul(b2, b2)))), k(2))
  const stretch = add(k(1), mul(k(2), f32x4.sub(k(1), pow7share(mean))))
  const s1 = mul(a1, stretch)
  const s2 = mul(a2, stretch)
  const c1 = f32x4.sqrt(add(mul(s1, s1), mul(b1, b1)))
  const c2 = f32x4.sqrt(add(mul(s2, s2), mul(b2, b2)))

  const dL = f32x4.sub(l2, l1)
  const dC = f32x4.sub(c2, c1)
  const cross = f32x4.sub(mul(s1, f32x4.sub(b2, b1)), mul(b1, f32x4.sub(s2, s1)))
  const dot = add(mul(s1, s2), mul(b1, b2))
  const both = mul(c1, c2)
  const near = f32x4.div(cross, f32x4.sqrt(f32x4.pmax(mul(add(both, dot), k(2)), k(14))))
  const far = f32x4.sqrt(f32x4.pmax(mul(f32x4.sub(both, dot), k(3)), k(0)))
  const farSigned = v128.or(far, v128.and(cross, i32x4.splat(0x80000000)))
  const dH = v128.bitselect(near, farSigned, f32x4.ge(dot, k(0)))

  const tiny = k(15)
  const ux = add(f32x4.div(s1, f32x4.pmax(c1, tiny)), f32x4.div(s2, f32x4.pmax(c2, tiny)))
  const uy = add(f32x4.div(b1, f32x4.pmax(c1, tiny)), f32x4.div(b2, f32x4.pmax(c2, tiny)))
  const norm = f32x4.pmax(f32x4.sqrt(add(mul(ux, ux), mul(uy, uy))), k(16))
  const cos = f32x4.div(ux, norm)
  const sin = f32x4.div(uy, norm)
  const cos2 = f32x4.sub(mul(k(3), mul(cos, cos)), k(1))
  const sin2 = mul(k(3), mul(sin, cos))
  const cos3 = f32x4.sub(mul(cos2, cos), mul(sin2, sin))
  const sin3 = add(mul(sin2, cos), mul(cos2, sin))
  const cos4 = f32x4.sub(mul(k(3), mul(cos2, cos2)), k(1))
  const sin4 = mul(k(3), mul(sin2, cos2))
  // the weights carry cos and sin of 30, 6 and 63 degrees
  let t = f32x4.sub(k(1), add(mul(cos, k(45)), mul(sin, k(46))))
  t = add(t, mul(cos2, k(47)))
  t = add(t, f32x4.sub(mul(cos3, k(48)), mul(sin3, k(49))))
  t = f32x4.sub(t, add(mul(cos4, k(50)), mul(sin4, k(51))))

  const meanC = mul(add(c1, c2), k(2))
  const l50 = f32x4.sub(mul(add(l1, l2), k(2)), k(17))
  const l50s = mul(l50, l50)
  const sL = add(k(1), f32x4.div(mul(l50s, k(52)), f32x4.sqrt(add(k(18), l50s))))
  const sC = add(k(1), mul(meanC, k(53)))
  const sH = add(k(1), mul(mul(meanC, t), k(52)))

  const cosd = add(mul(cos, k(54)), mul(sin, k(55)))
  const sind = add(mul(sin, k(54)), mul(cos, k(56)))
  const half = f32x4.div(sind, f32x4.pmax(add(k(1), cosd), k(2)))
  const h2 = mul(half, half)
  let atan = add(k(19), mul(h2, k(57)))
  atan = add(k(20), mul(h2, atan))
  atan = add(k(21), mul(h2, atan))
  atan = mul(half, add(k(22), mul(h2, atan)))
  const off = mul(atan, k(58))
  const turn = v128.and(mul(decay(mul(off, off)), k(59)), f32x4.ge(cosd, k(0)))
  const turn2 = mul(turn, turn)
  let wave = add(k(23), mul(turn2, k(60)))
  wave = add(k(24), mul(turn2, wave))
  wave = mul(turn, add(k(1), mul(turn2, wave)))
  const rotation = mul(mul(k(25), pow7share(meanC)), wave)

  const x = f32x4.div(dL, sL)
  const y = f32x4.div(dC, sC)
  const z = f32x4.div(dH, sH)
  return f32x4.sqrt(f32x4.pmax(add(add(mul(x, x), mul(y, y)), add(mul(z, z), mul(rotation, mul(y, z)))), k(0)))
}
