// From RGB to the transform coefficients of SMPTE RDD 36: BT.709 (or BT.601) Y'CbCr, limited range, and an 8x8 DCT in
// f32.
//
// Samples are kept in the standard's transform domain, f = s / 2^(b-9) - 256 for a b-bit sample s (7.5.1), so that
// limited-range luma is
// 438 Y' - 224 and chroma 448 C. Coefficients are stored as i16 in eighths, finer than the finest quantiser; within a
// slice component
// they stand position by position of the scan, all blocks at each (7.2), which is the order they are coded in.

/** Progressive block scan (RDD 36, figure 4), as places in a block whose rows and columns are exchanged. */
const SCAN = memory.data<u8>([
  0, 8, 1, 9, 16, 24, 17, 25, 2, 10, 3, 11, 18, 26, 19, 27, 32, 40, 33, 34, 41, 48, 56, 49, 42, 35, 43, 50, 57, 58, 51, 59,
  4, 12, 5, 6, 13, 20, 28, 21, 14, 7, 15, 22, 29, 36, 44, 37, 30, 23, 31, 38, 45, 52, 60, 53, 46, 39, 47, 54, 61, 62, 55, 63
])

/** Interlaced block scan (figure 5), as places in a block whose rows and columns are exchanged. */
const FIELD_SCAN = memory.data<u8>([
  0, 1, 8, 9, 2, 3, 10, 11, 16, 17, 24, 25, 18, 19, 26, 27, 4, 5, 12, 20, 13, 6, 7, 14, 21, 28, 29, 22, 15, 23, 30, 31,
  32, 33, 40, 48, 41, 34, 35, 42, 49, 56, 57, 50, 43, 36, 37, 44, 51, 58, 59, 52, 45, 38, 39, 46, 53, 60, 61, 54, 47, 55, 62, 63
])

/** 1 / (aan(u) aan(v)) for each place: what the fast transform leaves out. Filled on first use. */
const SCALE = memory.data(64 * 4, 16)
/** One block: samples, then coefficients, rows and columns exchanged. */
const BLOCK = memory.data(64 * 4, 16)
let ready = false

function prepare(): void {
  for (let u = 0; u < 8; u++) {
    for (let v = 0; v < 8; v++) {
      const a = u == 0 ? 1.0 : Math.cos((<f64>u * Math.PI) / 16.0) * Math.SQRT2
      const b = v == 0 ? 1.0 : Math.cos((<f64>v * Math.PI) / 16.0) * Math.SQRT2
      store<f32>(SCALE + ((<usize>(u * 8 + v)) << 2), <f32>(1.0 / (a * b)))
    }
  }
  ready = true
}

/**
 * One row of a slice to planar f32: `count` pixels from `from`, of which `inside` lie in the picture; the last of these
 * is repeated. Planes stand `plane` bytes apart. `kr` and `kb` are the luma weights of red and blue.
 */
function convertRow(from: usize, to: usize, plane: usize, inside: i32, count: i32, kr: f32, kb: f32): void {
  const unit: f32 = 1.0 / 65535.0
  const wr = f32x4.splat(kr * unit)
  const wg = f32x4.splat((1 - kr - kb) * unit)
  const wb = f32x4.splat(kb * unit)
  const one = f32x4.splat(unit)
  const cb = f32x4.splat(448 / (2 * (1 - kb)))
  const cr = f32x4.splat(448 / (2 * (1 - kr)))
  for (let x = 0; x < inside; x += 4) {
    const p = v128.load(from + ((<usize>x) << 3))
    const q = v128.load(from + ((<usize>x) << 3), 16)
    // two pixels a vector: gather each channel's four codes
    const rg = v128.shuffle<u16>(p, q, 0, 4, 8, 12, 1, 5, 9, 13)
    const b4 = v128.shuffle<u16>(p, q, 2, 6, 10, 14, 2, 6, 10, 14)
    const r = f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(rg))
    const g = f32x4.convert_i32x4_u(i32x4.extend_high_i16x8_u(rg))
    const b = f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(b4))
    const y = f32x4.add(f32x4.add(f32x4.mul(r, wr), f32x4.mul(g, wg)), f32x4.mul(b, wb))
    const at = to + ((<usize>x) << 2)
    v128.store(at, f32x4.sub(f32x4.mul(y, f32x4.splat(438)), f32x4.splat(224)))
    v128.store(at + plane, f32x4.mul(f32x4.sub(f32x4.mul(b, one), y), cb))
    v128.store(at + 2 * plane, f32x4.mul(f32x4.sub(f32x4.mul(r, one), y), cr))
  }
  for (let c: usize = 0; c < 3; c++) {
    const row = to + c * plane
    const last = load<f32>(row + ((<usize>(inside - 1)) << 2))
    for (let x = inside; x < count; x++) store<f32>(row + ((<usize>x) << 2), last)
  }
}

/**
 * Eight-point DCT of Arai, Agui and Nakajima on four columns: eight vectors `step` bytes apart, in place, scaled by
 * aan(k) * sqrt(8).
 */
// @ts-ignore: decorator
@inline
function transform(at: usize, step: usize): void {
  const d0 = v128.load(at)
  const d1 = v128.load(at + step)
  const d2 = v128.load(at + 2 * step)
  const d3 = v128.load(at + 3 * step)
  const d4 = v128.load(at + 4 * step)
  const d5 = v128.load(at + 5 * step)
  const d6 = v128.load(at + 6 * step)
  const d7 = v128.load(at + 7 * step)
  const t0 = f32x4.add(d0, d7)
  const t7 = f32x4.sub(d0, d7)
  const t1 = f32x4.add(d1, d6)
  const t6 = f32x4.sub(d1, d6)
  const t2 = f32x4.add(d2, d5)
  const t5 = f32x4.sub(d2, d5)
  const t3 = f32x4.add(d3, d4)
  const t4 = f32x4.sub(d3, d4)
  const e0 = f32x4.add(t0, t3)
  const e3 = f32x4.sub(t0, t3)
  const e1 = f32x4.add(t1, t2)
  const e2 = f32x4.sub(t1, t2)
  v128.store(at, f32x4.add(e0, e1))
  v128.store(at + 4 * step, f32x4.sub(e0, e1))
  const z1 = f32x4.mul(f32x4.add(e2, e3), f32x4.splat(0.707106781))
  v128.store(at + 2 * step, f32x4.add(e3, z1))
  v128.store(at + 6 * step, f32x4.sub(e3, z1))
  const o0 = f32x4.add(t4, t5)
  const o1 = f32x4.add(t5, t6)
  const o2 = f32x4.add(t6, t7)
  const z5 = f32x4.mul(f32x4.sub(o0, o2), f32x4.splat(0.382683433))
  const z2 = f32x4.add(f32x4.mul(o0, f32x4.splat(0.5411961)), z5)
  const z4 = f32x4.add(f32x4.mul(o2, f32x4.splat(1.306562965)), z5)
  const z3 = f32x4.mul(o1, f32x4.splat(0.707106781))
  const z11 = f32x4.add(t7, z3)
  const z13 = f32x4.sub(t7, z3)
  v128.store(at + 5 * step, f32x4.add(z13, z2))
  v128.store(at + 3 * step, f32x4.sub(z13, z2))
  v128.store(at + step, f32x4.add(z11, z4))
  v128.store(at + 7 * step, f32x4.sub(z11, z4))
}

/** Transposes the four by four block at `a` into `b` and the one at `b` into `a`; rows stand 32 bytes apart. */
// @ts-ignore: decorator
@inline
function exchange(a: usize, b: usize): void {
  const p0 = v128.load(a)
  const p1 = v128.load(a + 32)
  const p2 = v128.load(a + 64)
  const p3 = v128.load(a + 96)
  const q0 = v128.load(b)
  const q1 = v128.load(b + 32)
  const q2 = v128.load(b + 64)
  const q3 = v128.load(b + 96)
  put4(b, p0, p1, p2, p3)
  put4(a, q0, q1, q2, q3)
}

// @ts-ignore: decorator
@inline
function put4(to: usize, p0: v128, p1: v128, p2: v128, p3: v128): void {
  const t0 = v128.shuffle<f32>(p0, p1, 0, 4, 1, 5)
  const t1 = v128.shuffle<f32>(p2, p3, 0, 4, 1, 5)
  const t2 = v128.shuffle<f32>(p0, p1, 2, 6, 3, 7)
  const t3 = v128.shuffle<f32>(p2, p3, 2, 6, 3, 7)
  v128.store(to, v128.shuffle<f32>(t0, t1, 0, 1, 4, 5))
  v128.store(to + 32, v128.shuffle<f32>(t0, t1, 2, 3, 6, 7))
  v128.store(to + 64, v128.shuffle<f32>(t2, t3, 0, 1, 4, 5))
  v128.store(to + 96, v128.shuffle<f32>(t2, t3, 2, 3, 6, 7))
}

/**
 * One block from a plane whose rows are `stride` bytes apart, to place `block` of `blocks` at each position of the
 * scan.
 */
function transformBlock(from: usize, stride: usize, to: usize, block: i32, blocks: i32, scan: usize): void {
  for (let y: usize = 0; y < 8; y++) {
    v128.store(BLOCK + (y << 5), v128.load(from + y * stride))
    v128.store(BLOCK + (y << 5), v128.load(from + y * stride, 16), 16)
  }
  transform(BLOCK, 32)
  transform(BLOCK + 16, 32)
  exchange(BLOCK, BLOCK)
  exchange(BLOCK + 16, BLOCK + 128)
  exchange(BLOCK + 144, BLOCK + 144)
  transform(BLOCK, 32)
  transform(BLOCK + 16, 32)
  for (let i: usize = 0; i < 256; i += 16) v128.store(BLOCK + i, i32x4.trunc_sat_f32x4_s(f32x4.nearest(f32x4.mul(v128.load(BLOCK + i), v128.load(SCALE + i)))))
  let at = to + ((<usize>block) << 1)
  const step = (<usize>blocks) << 1
  for (let k: usize = 0; k < 64; k++) {
    store<i16>(at, <i16>load<i32>(BLOCK + ((<usize>load<u8>(scan + k)) << 2)))
    at += step
  }
}

/** In each 8x8 block with clear pixels and others, gives the clear ones the mean colour of the others. */
export function fillClear(rgba: usize, width: i32, height: i32): void {
  for (let top = 0; top < height; top += 8) {
    const bottom = min(top + 8, height)
    for (let left = 0; left < width; left += 8) {
      const right = min(left + 8, width)
      let clear = 0
      let seen: u32 = 0
      let r: u32 = 0
      let g: u32 = 0
      let b: u32 = 0
      for (let y = top; y < bottom; y++) {
        for (let x = left; x < right; x++) {
          const p = load<u64>(rgba + ((<usize>(y * width + x)) << 3))
          if (p >>> 48 == 0) clear++
          else {
            seen++
            r += <u32>(p & 65535)
            g += <u32>((p >>> 16) & 65535)
            b += <u32>((p >>> 32) & 65535)
          }
        }
      }
      if (clear == 0 || seen == 0) continue
      const mean = <u64>((r + seen / 2) / seen) | (<u64>((g + seen / 2) / seen) << 16) | (<u64>((b + seen / 2) / seen) << 32)
      for (let y = top; y < bottom; y++) {
        for (let x = left; x < right; x++) {
          const at = rgba + ((<usize>(y * width + x)) << 3)
          if (load<u16>(at, 6) == 0) store<u64>(at, mean)
        }
      }
    }
  }
}

/**
 * A slice of `mbs` macroblocks at pixel (x, y): its three components to `to`, one behind the other, 256 * mbs
 * coefficients each.
 * `planes` takes 3 * 16 * 128 f32. Beyond the picture's edges the last row and column are repeated.
 */
export function transformSlice(rgba: usize, width: i32, height: i32, x: i32, y: i32, mbs: i32, kr: f32, kb: f32, planes: usize, to: usize, field: bool): void {
  if (!ready) prepare()
  const scan = field ? FIELD_SCAN : SCAN
  const stride = (<usize>mbs) << 6
  const plane = stride << 4
  const inside = min(width - x, mbs << 4)
  for (let row = 0; row < 16; row++) {
    const source = min(y + row, height - 1)
    convertRow(rgba + ((<usize>(source * width + x)) << 3), planes + <usize>row * stride, plane, inside, mbs << 4, kr, kb)
  }
  const blocks = mbs << 2
  for (let c: usize = 0; c < 3; c++) {
    const from = planes + c * plane
    const out = to + ((c * <usize>blocks) << 7)
    for (let mb = 0; mb < mbs; mb++) {
      const corner = from + ((<usize>mb) << 6)
      // luma goes row by row through a macroblock, 4:4:4 chroma column by column (RDD 36, 7.2)
      const second = c == 0 ? corner + 32 : corner + 8 * stride
      const third = c == 0 ? corner + 8 * stride : corner + 32
      transformBlock(corner, stride, out, mb << 2, blocks, scan)
      transformBlock(second, stride, out, (mb << 2) + 1, blocks, scan)
      transformBlock(third, stride, out, (mb << 2) + 2, blocks, scan)
      transformBlock(corner + 8 * stride + 32, stride, out, (mb << 2) + 3, blocks, scan)
    }
  }
}
