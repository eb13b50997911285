// The two colours of a block, and which of its pixels is which: at once by the box of its colours, by the line that
// they lie along, or by trying what lies around.

import { alphaAt, blue, clamp255, green, isEven, PALETTE, PIXELS, readPalette } from './texture-block'
import { red, WEIGHTS } from './texture-block'

/** Red, green, blue and alpha of four pixels in lanes of eight bits, the largest or the least of a block. */
function rim(most: bool): v128 {
  const a = v128.load(PIXELS)
  const b = v128.load(PIXELS, 16)
  const c = v128.load(PIXELS, 32)
  const d = v128.load(PIXELS, 48)
  let v = most ? i8x16.max_u(i8x16.max_u(a, b), i8x16.max_u(c, d)) : i8x16.min_u(i8x16.min_u(a, b), i8x16.min_u(c, d))
  const half = i8x16.shuffle(v, v, 8, 9, 10, 11, 12, 13, 14, 15, 8, 9, 10, 11, 12, 13, 14, 15)
  v = most ? i8x16.max_u(v, half) : i8x16.min_u(v, half)
  const quarter = i8x16.shuffle(v, v, 4, 5, 6, 7, 4, 5, 6, 7, 4, 5, 6, 7, 4, 5, 6, 7)
  return most ? i8x16.max_u(v, quarter) : i8x16.min_u(v, quarter)
}

/** 5, 6 and 5 bits of a colour of 8 bits each. */
function pack565(r: i32, g: i32, b: i32): i32 {
  return (((r * 31 + 127) / 255) << 11) | (((g * 63 + 127) / 255) << 5) | ((b * 31 + 127) / 255)
}

/** The same of a colour in real numbers, which may lie beyond what there is. */
function packed(r: f32, g: f32, b: f32): i32 {
  return pack565(
    clamp255(<i32>nearest<f32>(r)),
    clamp255(<i32>nearest<f32>(g)),
    clamp255(<i32>nearest<f32>(b))
  )
}

/** What the palette misses of the block at hand, weighed; the nearest of each pixel is left in `chosen`. */
let chosen: u32 = 0
function miss(a: i32, b: i32, best: f32): f32 {
  store<u16>(BLOCK, <u16>a)
  store<u16>(BLOCK + 2, <u16>b)
  readPalette(BLOCK, true)
  let sum: f32 = 0
  let bits: u32 = 0
  for (let n: usize = 0; n < 16; n++) {
    const r = red(n)
    const g = green(n)
    const l = blue(n)
    let least = i32.MAX_VALUE
    let index: u32 = 0
    for (let k: usize = 0; k < 4; k++) {
      const dr = r - <i32>load<u8>(PALETTE + (k << 2))
      const dg = g - <i32>load<u8>(PALETTE + (k << 2) + 1)
      const db = l - <i32>load<u8>(PALETTE + (k << 2) + 2)
      const far = dr * dr + dg * dg + db * db
      if (far < least) {
        least = far
        index = <u32>k
      }
    }
    bits |= index << (<u32>n << 1)
    sum += <f32>least * load<f32>(WEIGHTS + (n << 2))
    if (sum >= best) return sum
  }
  chosen = bits
  return sum
}
const BLOCK = memory.data(8, 8)

/** The best pair of colours so far, what it misses, and its bits. */
let bestA = 0
let bestB = 0
let bestBits: u32 = 0
let bestMiss: f32 = 0

function tryPair(a: i32, b: i32): bool {
  const off = miss(a, b, bestMiss)
  if (off >= bestMiss) return false
  bestMiss = off
  bestA = a
  bestB = b
  bestBits = chosen
  return true
}

/** Both colours moved to where they miss least for the places that pixels have now: least squares, weighed. */
function refine(): bool {
  let aa: f32 = 0
  let ab: f32 = 0
  let bb: f32 = 0
  let ar: f32 = 0
  let ag: f32 = 0
  let al: f32 = 0
  let br: f32 = 0
  let bg: f32 = 0
  let bl: f32 = 0
  for (let n: usize = 0; n < 16; n++) {
    const k = (bestBits >> (<u32>n << 1)) & 3
    const p: f32 = k == 0 ? 1 : k == 1 ? 0 : k == 2 ? 2.0 / 3.0 : 1.0 / 3.0
    const q: f32 = 1 - p
    const w = load<f32>(WEIGHTS + (n << 2))
    const r = <f32>red(n)
    const g = <f32>green(n)
    const l = <f32>blue(n)
    aa += w * p * p
    ab += w * p * q
    bb += w * q * q
    ar += w * p * r
    ag += w * p * g
    al += w * p * l
    br += w * q * r
    bg += w * q * g
    bl += w * q * l
  }
  const det = aa * bb - ab * ab
  if (det < 1e-6 * aa * bb || det <= 0) return false
  const inv: f32 = 1 / det
  const a = packed((bb * ar - ab * br) * inv, (bb * ag - ab * bg) * inv, (bb * al - ab * bl) * inv)
  const b = packed((aa * br - ab * ar) * inv, (aa * bg - ab * ag) * inv, (aa * bl - ab * al) * inv)
  return tryPair(a, b)
}

/** Weights of the block's pixels: what is clear is seen by nobody, but a filter may still reach for it. */
function weigh(byAlpha: bool): f32 {
  let sum: f32 = 0
  for (let n: usize = 0; n < 16; n++) {
    const w: f32 = byAlpha ? <f32>alphaAt(n) + 0.5 : 1
    store<f32>(WEIGHTS + (n << 2), w)
    sum += w
  }
  return sum
}

/** The pair at both ends of the pixels along the line that they spread along most (power iteration, weighed). */
function tryAxis(sum: f32): void {
  let mr: f32 = 0
  let mg: f32 = 0
  let ml: f32 = 0
  for (let n: usize = 0; n < 16; n++) {
    const w = load<f32>(WEIGHTS + (n << 2))
    mr += w * <f32>red(n)
    mg += w * <f32>green(n)
    ml += w * <f32>blue(n)
  }
  mr /= sum
  mg /= sum
  ml /= sum
  let rr: f32 = 0
  let rg: f32 = 0
  let rl: f32 = 0
  let gg: f32 = 0
  let gl: f32 = 0
  let ll: f32 = 0
  for (let n: usize = 0; n < 16; n++) {
    const w = load<f32>(WEIGHTS + (n << 2))
    const r = <f32>red(n) - mr
    const g = <f32>green(n) - mg
    const l = <f32>blue(n) - ml
    rr += w * r * r
    rg += w * r * g
    rl += w * r * l
    gg += w * g * g
    gl += w * g * l
    ll += w * l * l
  }
  // begun along the channel that spreads most
  let x: f32 = rr
  let y: f32 = rg
  let z: f32 = rl
  if (gg > rr && gg >= ll) {
    x = rg
    y = gg
    z = gl
  } else if (ll > rr && ll > gg) {
    x = rl
    y = gl
    z = ll
  }
  for (let turn = 0; turn < 6; turn++) {
    const nx = rr * x + rg * y + rl * z
    const ny = rg * x + gg * y + gl * z
    const nz = rl * x + gl * y + ll * z
    const long = max(abs(nx), max(abs(ny), abs(nz)))
    if (long < 1e-9) return
    x = nx / long
    y = ny / long
    z = nz / long
  }
  const square = x * x + y * y + z * z
  let least: f32 = f32.MAX_VALUE
  let most: f32 = -f32.MAX_VALUE
  for (let n: usize = 0; n < 16; n++) {
    if (load<f32>(WEIGHTS + (n << 2)) < 1) continue
    const t =
      ((<f32>red(n) - mr) * x +
        (<f32>green(n) - mg) * y +
        (<f32>blue(n) - ml) * z) /
      square
    least = min(least, t)
    most = max(most, t)
  }
  if (most <= least) return
  const high = packed(mr + most * x, mg + most * y, ml + most * z)
  const low = packed(mr + least * x, mg + least * y, ml + least * z)
  tryPair(high, low)
}

/** Both colours a step of a channel up or down, as long as one of these misses less. */
function search(): void {
  for (let round = 0; round < 8; round++) {
    let better = false
    for (let end = 0; end < 2; end++)
      for (let c = 0; c < 3; c++)
        for (let way = -1; way < 2; way += 2) {
          const shift = c == 0 ? 11 : c == 1 ? 5 : 0
          const top = c == 1 ? 63 : 31
          const word = end ? bestB : bestA
          const now = (word >> shift) & top
          if (now + way < 0 || now + way > top) continue
          const moved = word + (way << shift)
          better = (end ? tryPair(bestA, moved) : tryPair(moved, bestB)) || better
        }
    if (!better) return
  }
}

/** Gives clear pixels the mean colour of those that are seen, so that what nobody sees does not widen the box. */
export function coverClear(): void {
  let count = 0
  let r = 0
  let g = 0
  let b = 0
  for (let n: usize = 0; n < 16; n++) {
    if (alphaAt(n) == 0) continue
    count++
    r += red(n)
    g += green(n)
    b += blue(n)
  }
  if (count == 0 || count == 16) return
  const mean = <u32>(r / count) | (<u32>(g / count) << 8) | (<u32>(b / count) << 16)
  for (let n: usize = 0; n < 16; n++) if (alphaAt(n) == 0) store<u32>(PIXELS + (n << 2), mean)
}

/** The ends of the block's box, the way its channels rise together, and each pixel by how far along it lies. */
function fastPair(): void {
  const low = rim(false)
  const high = rim(true)
  const mid = i8x16.avgr_u(low, high)
  // whether red and green, and blue and green, rise together over the block
  let rg = 0
  let bg = 0
  const mr = <i32>i8x16.extract_lane_u(mid, 0)
  const mg = <i32>i8x16.extract_lane_u(mid, 1)
  const ml = <i32>i8x16.extract_lane_u(mid, 2)
  for (let n: usize = 0; n < 16; n++) {
    const g = green(n) - mg
    rg += (red(n) - mr) * g
    bg += (blue(n) - ml) * g
  }
  let ar = <i32>i8x16.extract_lane_u(high, 0)
  let ag = <i32>i8x16.extract_lane_u(high, 1)
  let al = <i32>i8x16.extract_lane_u(high, 2)
  let br = <i32>i8x16.extract_lane_u(low, 0)
  let bg8 = <i32>i8x16.extract_lane_u(low, 1)
  let bl = <i32>i8x16.extract_lane_u(low, 2)
  // a little within the box, as the ends are seldom met
  const ir = (ar - br) >> 4
  const ig = (ag - bg8) >> 4
  const il = (al - bl) >> 4
  ar -= ir
  br += ir
  ag -= ig
  bg8 += ig
  al -= il
  bl += il
  if (rg < 0) {
    const swap = ar
    ar = br
    br = swap
  }
  if (bg < 0) {
    const swap = al
    al = bl
    bl = swap
  }
  let a = pack565(ar, ag, al)
  let b = pack565(br, bg8, bl)
  if (a < b) {
    const swap = a
    a = b
    b = swap
  }
  bestA = a
  bestB = b
  store<u16>(BLOCK, <u16>a)
  store<u16>(BLOCK + 2, <u16>b)
  readPalette(BLOCK, true)
  const first = load<u32>(PALETTE)
  const last = load<u32>(PALETTE + 4)
  const dr = <i32>(first & 255) - <i32>(last & 255)
  const dg = <i32>((first >> 8) & 255) - <i32>((last >> 8) & 255)
  const db = <i32>((first >> 16) & 255) - <i32>((last >> 16) & 255)
  const square = dr * dr + dg * dg + db * db
  if (square == 0) {
    bestBits = 0
    return
  }
  // each pixel by how far along it lies: six times that against one, three and five lengths
  const axis = i16x8(<i16>dr, <i16>dg, <i16>db, 0, <i16>dr, <i16>dg, <i16>db, 0)
  const base = <i32>(last & 255) * dr + <i32>((last >> 8) & 255) * dg + <i32>((last >> 16) & 255) * db
  const bases = i32x4.splat(base)
  const one = i32x4.splat(square)
  const three = i32x4.splat(3 * square)
  const five = i32x4.splat(5 * square)
  const six = i32x4.splat(6)
  let bits: u32 = 0
  for (let y: usize = 0; y < 4; y++) {
    const row = v128.load(PIXELS + (y << 4))
    const left = i32x4.dot_i16x8_s(i16x8.extend_low_i8x16_u(row), axis)
    const right = i32x4.dot_i16x8_s(i16x8.extend_high_i8x16_u(row), axis)
    const along = i32x4.mul(
      i32x4.sub(
        i32x4.add(
          i8x16.shuffle(left, right, 0, 1, 2, 3, 8, 9, 10, 11, 16, 17, 18, 19, 24, 25, 26, 27),
          i8x16.shuffle(left, right, 4, 5, 6, 7, 12, 13, 14, 15, 20, 21, 22, 23, 28, 29, 30, 31)
        ),
        bases
      ),
      six
    )
    // from the last to the first: 1, 3, 2, 0
    const past1 = i32x4.gt_s(along, one)
    const past3 = i32x4.gt_s(along, three)
    const past5 = i32x4.gt_s(along, five)
    const high1 = i32x4.bitmask(v128.andnot(past1, past5))
    const low1 = i32x4.bitmask(v128.not(past3))
    // bit 1 of the index is set in the middle two; bit 0 where it is nearer to the last
    for (let x: u32 = 0; x < 4; x++)
      bits |= ((((high1 >> x) & 1) << 1) | ((low1 >> x) & 1)) << ((<u32>(y << 2) + x) << 1)
  }
  bestBits = bits
}

function storeColour(to: usize): void {
  // a larger first colour is what tells readers of BC1 that there are four
  if (bestA < bestB) {
    store<u16>(to, <u16>bestB)
    store<u16>(to + 2, <u16>bestA)
    store<u32>(to + 4, bestBits ^ 0x55555555)
  } else {
    store<u16>(to, <u16>bestA)
    store<u16>(to + 2, <u16>bestB)
    store<u32>(to + 4, bestA == bestB ? 0 : bestBits)
  }
}

/** Two values of a channel of `top` steps, high half first, that come nearest to a code mixed two to one. */
function mixOf(code: i32, top: i32): i32 {
  const near = (code * top + 127) / 255
  let least = i32.MAX_VALUE
  let found = 0
  for (let a = max(0, near - 2); a <= min(top, near + 2); a++)
    for (let b = max(0, near - 2); b <= min(top, near + 2); b++) {
      const far = abs(((2 * a + b) * 510 + 3 * top) / (6 * top) - code)
      // of those that come as near, the pair that lies closest
      const cost = (far << 4) + abs(a - b)
      if (cost < least) {
        least = cost
        found = (a << 8) | b
      }
    }
  return found
}

/** A block of one colour: a mix of two comes nearer than either of what 5 and 6 bits hold. */
function codeEven(): void {
  const r = mixOf(<i32>load<u8>(PIXELS), 31)
  const g = mixOf(<i32>load<u8>(PIXELS + 1), 63)
  const b = mixOf(<i32>load<u8>(PIXELS + 2), 31)
  bestA = ((r >> 8) << 11) | ((g >> 8) << 5) | (b >> 8)
  bestB = ((r & 255) << 11) | ((g & 255) << 5) | (b & 255)
  bestBits = 0xaaaaaaaa
}

export function codeColour(to: usize, byAlpha: bool, effort: i32): void {
  if (isEven()) {
    codeEven()
    storeColour(to)
    return
  }
  if (effort == 0) {
    fastPair()
    storeColour(to)
    return
  }
  const sum = weigh(byAlpha)
  bestMiss = f32.MAX_VALUE
  const low = rim(false)
  const high = rim(true)
  tryPair(
    pack565(i8x16.extract_lane_u(high, 0), i8x16.extract_lane_u(high, 1), i8x16.extract_lane_u(high, 2)),
    pack565(i8x16.extract_lane_u(low, 0), i8x16.extract_lane_u(low, 1), i8x16.extract_lane_u(low, 2))
  )
  if (bestMiss > 0) tryAxis(sum)
  const turns = effort == 1 ? 1 : 4
  for (let turn = 0; turn < turns && bestMiss > 0; turn++) if (!refine()) break
  if (effort > 1 && bestMiss > 0) search()
  storeColour(to)
}
