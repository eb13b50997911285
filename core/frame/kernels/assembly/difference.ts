// CIEDE2000 (ISO/CIE 11664-6) of four pairs of colours at once, in f32. No angle is taken: hue differences come from
// cross and dot products, the mean hue from the bisector of the two hues, and its multiples from polynomials in its
// cosine and sine. Only the rotation term needs an angle, and only within 75 degrees of 275, where a polynomial serves;
// beyond, it moves a difference by less than one part in ten thousand.

// Constants stand in memory, from where one instruction spreads each over a vector; as literals they would cost four
// apiece.
const K = memory.data<f32>([
  /* 0 */ 0,
  /* 1 */ 1,
  /* 2 */ 0.5,
  /* 3 */ 2,
  /* 4 */ 6103515625,
  /* 5 */ 16,
  /* 6: the cube root's guess */ -0.0013020833333333333,
  /* 7 */ 0.008856451679035631,
  /* 8 */ 65535,
  /* 9 */ -120,
  /* 10 */ 0.0096181291,
  /* 11 */ 0.0555041087,
  /* 12 */ 0.240226507,
  /* 13 */ 0.6931471806,
  /* 14 */ 1e-20,
  /* 15 */ 0.01,
  /* 16 */ 13935104,
  /* 17 */ 50,
  /* 18 */ 20,
  /* 19 */ -0.085133,
  /* 20 */ 0.180141,
  /* 21 */ -0.3302995,
  /* 22 */ 0.999866,
  /* 23 */ 0.008333333333333333,
  /* 24 */ -0.16666666666666666,
  /* 25 */ -2,
  /* 26: linear part of lightness */ 7.787037037037037,
  /* 27 */ 0.13793103448275862,
  /* 28: r^(-2/3) near 1 */ -0.4971490092722914,
  /* 29 */ 2.051759218641131,
  /* 30: sRGB light to X, Y, Z over the white of D65 */ 0.43394994,
  /* 31 */ 0.37620977,
  /* 32 */ 0.18984029,
  /* 33 */ 0.2126729,
  /* 34 */ 0.7151522,
  /* 35 */ 0.072175,
  /* 36 */ -3.2787381193560123,
  /* 37 */ 0.01775658,
  /* 38 */ 0.10946796,
  /* 39 */ 0.87277546,
  /* 40 */ 116,
  /* 41 */ 500,
  /* 42 */ 200,
  /* 43 */ -1.44269504,
  /* 44 */ 0.0013333558,
  /* 45: T without its last cosine's half turn */ 1.09079809994,
  /* 46 */ 0.24,
  /* 47 */ 0.18159619988,
  /* 48 */ 0.71280521935,
  /* 49 */ 0.465471325,
  /* 50 */ 0.636494013,
  /* 51 */ 0.118449108,
  /* 52 */ 0.015,
  /* 53 */ 0.045,
  /* 54 */ 0.0871557427,
  /* 55 */ -0.9961946981,
  /* 56 */ 0.9961946981,
  /* 57 */ 0.0208351,
  /* 58 */ 4.58366236,
  /* 59 */ 1.0471975512,
  /* 60 */ -0.0001984126984126984,
  /* 61 */ 8388608,
  /* 62 */ 2.724121704460944,
  /* 63 */ 0.066898216512,
  /* 64 */ 0.2588190451,
  /* 65 */ 1e-30,
  /* 66 */ 1e-6
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

// @ts-ignore: decorator
@inline
function sub(a: v128, b: v128): v128 {
  return f32x4.sub(a, b)
}

/**
 * Cube root for 0.008 <= t <= 1.1, within one part in 150,000; beyond, some number. A guess y of t^(-1/3) from the
 * exponent (adding 2^23 and more leaves a whole number in the low bits); then t^(1/3) = t y^2 (t y^3)^(-2/3), the last
 * factor by a polynomial between 0.898 and 1.103.
 */
// @ts-ignore: decorator
@inline
function cubeRoot(t: v128): v128 {
  const y = i32x4.shl(add(mul(f32x4.convert_i32x4_s(t), k(6)), k(16)), 8)
  const ty2 = mul(t, mul(y, y))
  const r = mul(ty2, y)
  let q = add(mul(r, k(28)), k(29))
  q = add(mul(r, q), k(36))
  q = add(mul(r, q), k(62))
  return mul(ty2, q)
}

/** f of CIE L*a*b* where some of four values may be dark. */
// @ts-ignore: decorator
@inline
function lightness(t: v128): v128 {
  return v128.bitselect(cubeRoot(t), add(mul(t, k(26)), k(27)), f32x4.gt(t, k(7)))
}

/** Linear light of four codes; see `toLab`. */
// @ts-ignore: decorator
@inline
function light(codes: v128, table: usize, clamps: bool): v128 {
  // adding 2^23 leaves the rounded whole number in the low bits
  const within = clamps ? f32x4.pmin(f32x4.pmax(codes, k(0)), k(8)) : codes
  const at = v128.and(add(within, k(61)), i32x4.splat(0x7fffff))
  let value = v128.load32_zero(table + ((<usize>i32x4.extract_lane(at, 0)) << 2))
  value = v128.load32_lane(table + ((<usize>i32x4.extract_lane(at, 1)) << 2), value, 1)
  value = v128.load32_lane(table + ((<usize>i32x4.extract_lane(at, 2)) << 2), value, 2)
  return v128.load32_lane(table + ((<usize>i32x4.extract_lane(at, 3)) << 2), value, 3)
}

/** L*, a*, b* under D65 of four colours in linear light (0 to 1), stored at `out`. */
// @ts-ignore: decorator
@inline
export function labOfLight(lr: v128, lg: v128, lb: v128, out: usize): void {
  let x = add(add(mul(lr, k(30)), mul(lg, k(31))), mul(lb, k(32)))
  let y = add(add(mul(lr, k(33)), mul(lg, k(34))), mul(lb, k(35)))
  let z = add(add(mul(lr, k(37)), mul(lg, k(38))), mul(lb, k(39)))
  if (v128.any_true(f32x4.le(f32x4.pmin(f32x4.pmin(x, y), z), k(7)))) {
    x = lightness(x)
    y = lightness(y)
    z = lightness(z)
  } else {
    x = cubeRoot(x)
    y = cubeRoot(y)
    z = cubeRoot(z)
  }
  v128.store(out, sub(mul(y, k(40)), k(5)))
  v128.store(out, mul(sub(x, y), k(41)), 16)
  v128.store(out, mul(sub(y, z), k(42)), 32)
}

/**
 * L*, a*, b* under D65 of four sRGB-coded colours (0 to 65535; what may lie beyond must be clamped), stored at `out`.
 * `table` holds linear light for each code.
 */
// @ts-ignore: decorator
@inline
export function toLab(r: v128, g: v128, b: v128, table: usize, clamps: bool, out: usize): void {
  labOfLight(light(r, table, clamps), light(g, table, clamps), light(b, table, clamps), out)
}

/**
 * sqrt(C^7 / (C^7 + 25^7)). Chroma below 0.01 gives nothing; it is raised to that, for the seventh power of less is
 * slow to compute with.
 */
// @ts-ignore: decorator
@inline
function pow7share(chroma: v128): v128 {
  const c = f32x4.pmax(chroma, k(15))
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
  const f = sub(z, whole)
  let p = add(k(10), mul(f, k(44)))
  p = add(k(11), mul(f, p))
  p = add(k(12), mul(f, p))
  p = add(k(13), mul(f, p))
  p = add(k(1), mul(f, p))
  return mul(p, i32x4.shl(i32x4.add(i32x4.trunc_sat_f32x4_s(whole), i32x4.splat(127)), 23))
}

/** R_T for mean chroma, and cosine and sine of the mean hue's distance from 275 degrees. */
function rotation(meanC: v128, cosd: v128, sind: v128): v128 {
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
  return mul(mul(k(25), pow7share(meanC)), wave)
}

/** The square of the difference of the colours stored at `p` and `q`. */
// @ts-ignore: decorator
@inline
export function squaredDifference(p: usize, q: usize): v128 {
  const l1 = v128.load(p)
  const a1 = v128.load(p, 16)
  const b1 = v128.load(p, 32)
  const l2 = v128.load(q)
  const a2 = v128.load(q, 16)
  const b2 = v128.load(q, 32)
  const mean = mul(add(f32x4.sqrt(add(mul(a1, a1), mul(b1, b1))), f32x4.sqrt(add(mul(a2, a2), mul(b2, b2)))), k(2))
  const stretch = add(k(1), mul(k(2), sub(k(1), pow7share(mean))))
  const s1 = mul(a1, stretch)
  const s2 = mul(a2, stretch)
  const c1 = f32x4.sqrt(add(mul(s1, s1), mul(b1, b1)))
  const c2 = f32x4.sqrt(add(mul(s2, s2), mul(b2, b2)))

  const dL = sub(l2, l1)
  const dC = sub(c2, c1)
  const cross = sub(mul(s1, sub(b2, b1)), mul(b1, sub(s2, s1)))
  const dot = add(mul(s1, s2), mul(b1, b2))
  const both = mul(c1, c2)
  // dH is `turn` over `under`, which is left undivided
  let turn = cross
  let under = f32x4.sqrt(f32x4.pmax(mul(add(both, dot), k(2)), k(14)))
  const across = f32x4.lt(dot, k(0))
  if (v128.any_true(across)) {
    // hues more than a quarter turn apart
    const far = f32x4.sqrt(mul(sub(both, dot), k(3)))
    turn = v128.bitselect(v128.or(far, v128.and(cross, i32x4.splat(0x80000000))), turn, across)
    under = v128.bitselect(k(1), under, across)
  }

  // the sum of both hues' unit vectors points to the mean hue; scaled by both chromas, it needs no division
  const tiny = k(66)
  const w1 = f32x4.pmax(c1, tiny)
  const w2 = f32x4.pmax(c2, tiny)
  const ux = add(mul(s1, w2), mul(s2, w1))
  const uy = add(mul(b1, w2), mul(b2, w1))
  const norm = f32x4.div(k(1), f32x4.sqrt(f32x4.pmax(add(mul(ux, ux), mul(uy, uy)), k(65))))
  const cos = mul(ux, norm)
  const sin = mul(uy, norm)
  // T in cos h, sin h, cos 2h and sin 2h / 2; the weights carry cosines and sines of 30, 6 and 63 degrees
  const cos2 = sub(mul(k(3), mul(cos, cos)), k(1))
  const product = mul(sin, cos)
  let t = add(k(45), mul(cos2, sub(k(46), add(mul(cos2, k(47)), mul(product, k(48))))))
  t = add(t, mul(cos, sub(mul(cos2, k(50)), k(49))))
  t = sub(t, mul(sin, add(mul(cos2, k(63)), k(51))))

  const meanC = mul(add(c1, c2), k(2))
  const l50 = sub(mul(add(l1, l2), k(2)), k(17))
  const l50s = mul(l50, l50)
  // S_L is `lightOver` over `lightUnder`; one division serves all three quotients
  const lightUnder = f32x4.sqrt(add(k(18), l50s))
  const lightOver = add(lightUnder, mul(l50s, k(52)))
  const sC = add(k(1), mul(meanC, k(53)))
  const sH = mul(add(k(1), mul(mul(meanC, t), k(52))), under)
  const lightAndChroma = mul(lightOver, sC)
  const inverse = f32x4.div(k(1), mul(lightAndChroma, sH))
  const x = mul(mul(dL, lightUnder), mul(mul(sC, sH), inverse))
  const y = mul(dC, mul(mul(lightOver, sH), inverse))
  const z = mul(turn, mul(lightAndChroma, inverse))
  let sum = add(mul(x, x), add(mul(y, y), mul(z, z)))
  const cosd = add(mul(cos, k(54)), mul(sin, k(55)))
  if (v128.any_true(f32x4.gt(cosd, k(64)))) {
    const sind = add(mul(sin, k(54)), mul(cos, k(56)))
    sum = add(sum, mul(rotation(meanC, cosd, sind), mul(y, z)))
  }
  return f32x4.pmax(sum, k(0))
}
