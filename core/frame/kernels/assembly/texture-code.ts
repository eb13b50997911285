// Writing the blocks of textures; how they lie is told in texture-block.ts.

import { ALPHA, ALPHAS, alphaAt, blue, clamp255, COLOUR, COLOUR_ALPHA, green, isEven } from './texture-block'
import { LEVELS, levelsOf, PIXELS, red, SCALED } from './texture-block'
import { codeColour, coverClear } from './texture-colour'

/** Takes the pixels of a block; those beyond the picture's rim are as the rim. */
function take(from: usize, width: i32, height: i32, bx: i32, by: i32): void {
  if (4 * bx + 4 <= width && 4 * by + 4 <= height) {
    const line = <usize>width << 2
    const at = from + (<usize>(4 * by * width + 4 * bx) << 2)
    for (let y: usize = 0; y < 4; y++) v128.store(PIXELS + (y << 4), v128.load(at + y * line))
    return
  }
  for (let y = 0; y < 4; y++)
    for (let x = 0; x < 4; x++) {
      const row = min(height - 1, 4 * by + y)
      const column = min(width - 1, 4 * bx + x)
      store<u32>(PIXELS + (<usize>(4 * y + x) << 2), load<u32>(from + (<usize>(row * width + column) << 2)))
    }
}

/** Luma and scaled chroma of the block at hand, in its place; luma goes where alpha was. */
function toScaled(): void {
  let most = 0
  for (let n: usize = 0; n < 16; n++) {
    const r = red(n)
    const g = green(n)
    const b = blue(n)
    most = max(most, max(abs(r - b) >> 1, abs(2 * g - r - b) >> 2))
  }
  const scale = most < 31 ? 4 : most < 63 ? 2 : 1
  for (let n: usize = 0; n < 16; n++) {
    const r = red(n)
    const g = green(n)
    const b = blue(n)
    const co = clamp255(128 + ((scale * (r - b)) >> 1))
    const cg = clamp255(128 + ((scale * (2 * g - r - b) + 2) >> 2))
    const y = (r + 2 * g + b + 2) >> 2
    store<u32>(PIXELS + (n << 2), <u32>(co | (cg << 8) | (((scale - 1) * 8) << 16) | (y << 24)))
  }
}

/** Squares of what the levels miss of the block's alphas; the nearest of each is left in `chosenLevels`. */
let chosenLevels: u64 = 0
function missLevels(a: i32, b: i32, best: i32): i32 {
  levelsOf(a, b)
  let sum = 0
  let bits: u64 = 0
  for (let n: usize = 0; n < 16; n++) {
    const alpha = alphaAt(n)
    let least = i32.MAX_VALUE
    let index: u64 = 0
    for (let k: usize = 0; k < 8; k++) {
      const far = alpha - <i32>load<u8>(LEVELS + k)
      if (far * far < least) {
        least = far * far
        index = <u64>k
      }
    }
    bits |= index << (3 * <u64>n)
    sum += least
    if (sum >= best) return sum
  }
  chosenLevels = bits
  return sum
}

function storeLevels(to: usize, a: i32, b: i32, bits: u64): void {
  store<u64>(to, <u64>a | (<u64>b << 8) | (bits << 16))
}

/** The nearest levels between the largest and the least, by how far along each lies. */
function fastLevels(to: usize, low: i32, high: i32): void {
  const span = high - low
  let bits: u64 = 0
  for (let n: usize = 0; n < 16; n++) {
    const step = <u64>((14 * (alphaAt(n) - low) + span) / (2 * span))
    // steps from the least: 1, 7, 6, 5, 4, 3, 2, 0
    bits |= (step == 0 ? 1 : step == 7 ? 0 : 8 - step) << (3 * <u64>n)
  }
  storeLevels(to, high, low, bits)
}

/** Codes the alphas of the block at hand. */
function codeLevels(to: usize, effort: i32): void {
  let low = 255
  let high = 0
  // the least and the largest of what is neither clear nor solid
  let inner = 255
  let outer = 0
  for (let n: usize = 0; n < 16; n++) {
    const alpha = alphaAt(n)
    low = min(low, alpha)
    high = max(high, alpha)
    if (alpha > 0 && alpha < 255) {
      inner = min(inner, alpha)
      outer = max(outer, alpha)
    }
  }
  if (low == high || inner > outer) {
    // one value, or clear and solid alone: nothing is missed
    let bits: u64 = 0
    for (let n: usize = 0; n < 16; n++) bits |= <u64>(alphaAt(n) == high ? 0 : 1) << (3 * <u64>n)
    storeLevels(to, high, low, bits)
    return
  }
  if (effort == 0 && low > 0 && high < 255) {
    fastLevels(to, low, high)
    return
  }
  let best = missLevels(high, low, i32.MAX_VALUE)
  let a = high
  let b = low
  let bits = chosenLevels
  if (best > 0 && (low == 0 || high == 255)) {
    const off = missLevels(inner, outer, best)
    if (off < best) {
      best = off
      a = inner
      b = outer
      bits = chosenLevels
    }
  }
  if (effort > 0) {
    // both ends a few codes in or out
    const reach = effort == 1 ? 1 : 3
    for (let da = -reach; da <= reach && best > 0; da++)
      for (let db = -reach; db <= reach && best > 0; db++) {
        const na = clamp255((a > b ? high : inner) + da)
        const nb = clamp255((a > b ? low : outer) + db)
        if (a > b != na > nb) continue
        const off = missLevels(na, nb, best)
        if (off < best) {
          best = off
          a = na
          b = nb
          bits = chosenLevels
        }
      }
  }
  storeLevels(to, a, b, bits)
}

/**
 * Codes RGBA of 8 bits as the blocks of a texture, row by row. Efforts are 0 to 2; with `byAlpha` colour is fitted the
 * better the more of it is seen.
 */
export function textureEncode(
  from: usize,
  width: i32,
  height: i32,
  to: usize,
  kind: i32,
  effort: i32,
  byAlpha: bool
): void {
  const wide = (width + 3) >> 2
  const high = (height + 3) >> 2
  const size: usize = kind == COLOUR || kind == ALPHA ? 8 : 16
  // the last block of one colour: most of a picture is clear, and clear is one
  let evenAt: usize = 0
  let evenWord: u32 = 0
  for (let by = 0; by < high; by++)
    for (let bx = 0; bx < wide; bx++) {
      take(from, width, height, bx, by)
      if (isEven()) {
        const word = load<u32>(PIXELS)
        if (evenAt && word == evenWord) {
          memory.copy(to, evenAt, size)
          to += size
          continue
        }
        evenAt = to
        evenWord = word
      }
      for (let n: usize = 0; n < 16; n++) store<u8>(ALPHAS + n, load<u8>(PIXELS + (n << 2) + 3))
      if (kind == ALPHA || kind == COLOUR_ALPHA) {
        codeLevels(to, effort)
        to += 8
        if (kind == ALPHA) continue
      }
      if (kind == SCALED) {
        if (effort == 0 && byAlpha) coverClear()
        toScaled()
        const seen = to
        to += 8
        codeColour(to, byAlpha, effort)
        for (let n: usize = 0; n < 16; n++) store<u8>(ALPHAS + n, load<u8>(PIXELS + (n << 2) + 3))
        codeLevels(seen, effort)
      } else {
        if (effort == 0 && byAlpha) coverClear()
        codeColour(to, byAlpha, effort)
      }
      to += 8
    }
}
