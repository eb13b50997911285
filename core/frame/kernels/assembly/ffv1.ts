// Samples of one slice of FFV1 in RGB or RGBA, range coded (RFC 9043, 3.3 to 3.8.1). The twin is plain-ffv1.ts; states
// and what a symbol's bits find them by are told in range-coder.ts.

const SYMBOL: usize = 32
const LENGTH: usize = 1
const SIGN: usize = 11
const LOW: usize = 22
const BEFORE: i32 = 2

/** Where the coder stands between two lines. Within one it is kept in locals, which is twice as fast. */
let range: u32 = 0
let low: u32 = 0
let at: usize = 0

// @ts-ignore: decorator
@inline
function median(a: i32, b: i32, c: i32): i32 {
  const most = max(a, b)
  const least = min(a, b)
  return c > most ? most : c < least ? least : c
}

// @ts-ignore: decorator
@inline
function sample(line: usize, x: i32): i32 {
  return load<i32>(line + (<usize>x << 2))
}

// @ts-ignore: decorator
@inline
function table(tables: usize, n: usize, difference: i32): i32 {
  return <i32>load<i16>(tables + ((n << 8) << 1) + (<usize>(difference & 255) << 1))
}

/** Whether the two tables that look further have anything in them. */
function isDeep(tables: usize): bool {
  for (let i: usize = 768; i < 1280; i++) if (load<i16>(tables + (i << 1)) != 0) return true
  return false
}

/** Of the three sets, those that look further, a bit each. */
function deepSets(tables: usize): i32 {
  return i32(isDeep(tables)) | (i32(isDeep(tables + 2560)) << 1) | (i32(isDeep(tables + 5120)) << 2)
}

// @ts-ignore: decorator
@inline
function setOf(plane: i32): i32 {
  return plane == 0 ? 0 : plane == 3 ? 2 : 1
}

/** Three lines of a plane lie behind one another; this is the one for row `y` less `back`. */
// @ts-ignore: decorator
@inline
function lineAt(lines: usize, width: i32, plane: i32, y: i32): usize {
  return lines + (<usize>((plane * 3 + ((y + 3) % 3)) * (width + 3)) << 2)
}

function begin(lines: usize, width: i32, plane: i32, y: i32): void {
  const here = lineAt(lines, width, plane, y)
  const above = lineAt(lines, width, plane, y - 1)
  store<i32>(here, 0)
  store<i32>(here + 4, load<i32>(above + 8))
  store<i32>(above + (<usize>(BEFORE + width) << 2), load<i32>(above + (<usize>(BEFORE + width - 1) << 2)))
}

/** Lines of the planes as RGBA (RFC 9043, 3.7.2.1), four pixels at once; lines have room for the last vector. */
function toPixels(lines: usize, width: i32, y: i32, to: usize, bits: i32, planes: i32): void {
  const a = lineAt(lines, width, 0, y) + (BEFORE << 2)
  const b = lineAt(lines, width, 1, y) + (BEFORE << 2)
  const c = lineAt(lines, width, 2, y) + (BEFORE << 2)
  const d = planes == 4 ? lineAt(lines, width, 3, y) + (BEFORE << 2) : 0
  const offset = i32x4.splat(1 << bits)
  const full = i32x4.splat((1 << bits) - 1)
  const wide = bits > 8
  const row = to + ((<usize>(y * width)) << (wide ? 3 : 2))
  for (let x = 0; x < width; x += 4) {
    const at = <usize>x << 2
    const blue = i32x4.sub(v128.load(b + at), offset)
    const red = i32x4.sub(v128.load(c + at), offset)
    const green = i32x4.sub(v128.load(a + at), i32x4.shr_s(i32x4.add(blue, red), 2))
    const alpha = d ? v128.load(d + at) : full
    const r = v128.and(i32x4.add(red, green), full)
    const g = v128.and(green, full)
    const bl = v128.and(i32x4.add(blue, green), full)
    const al = v128.and(alpha, full)
    const left = width - x
    if (wide) {
      const first = v128.or(r, i32x4.shl(g, 16))
      const second = v128.or(bl, i32x4.shl(al, 16))
      const low = v128.shuffle<i32>(first, second, 0, 4, 1, 5)
      const high = v128.shuffle<i32>(first, second, 2, 6, 3, 7)
      const place = row + (<usize>x << 3)
      if (left >= 4) {
        v128.store(place, low)
        v128.store(place, high, 16)
      } else {
        store<u64>(place, i64x2.extract_lane(low, 0))
        if (left > 1) store<u64>(place, i64x2.extract_lane(low, 1), 8)
        if (left > 2) store<u64>(place, i64x2.extract_lane(high, 0), 16)
      }
    } else {
      const pixels = v128.or(v128.or(r, i32x4.shl(g, 8)), v128.or(i32x4.shl(bl, 16), i32x4.shl(al, 24)))
      const place = row + (<usize>x << 2)
      if (left >= 4) v128.store(place, pixels)
      else {
        store<u32>(place, i32x4.extract_lane(pixels, 0))
        if (left > 1) store<u32>(place, i32x4.extract_lane(pixels, 1), 4)
        if (left > 2) store<u32>(place, i32x4.extract_lane(pixels, 2), 8)
      }
    }
  }
}

/** RGBA as lines of the planes. */
function fromPixels(lines: usize, width: i32, y: i32, samples: usize, bits: i32, planes: i32): void {
  const a = lineAt(lines, width, 0, y) + (BEFORE << 2)
  const b = lineAt(lines, width, 1, y) + (BEFORE << 2)
  const c = lineAt(lines, width, 2, y) + (BEFORE << 2)
  const d = lineAt(lines, width, 3, y) + (BEFORE << 2)
  const offset = 1 << bits
  for (let x = 0; x < width; x++) {
    const pixel = <usize>(y * width + x)
    let red: i32
    let green: i32
    let blue: i32
    let alpha: i32
    if (bits > 8) {
      const word = load<u64>(samples + (pixel << 3))
      red = <i32>(word & 0xffff)
      green = <i32>((word >> 16) & 0xffff)
      blue = <i32>((word >> 32) & 0xffff)
      alpha = <i32>(word >> 48)
    } else {
      const word = load<u32>(samples + (pixel << 2))
      red = <i32>(word & 0xff)
      green = <i32>((word >> 8) & 0xff)
      blue = <i32>((word >> 16) & 0xff)
      alpha = <i32>(word >> 24)
    }
    blue -= green
    red -= green
    const place = <usize>x << 2
    store<i32>(a + place, green + ((blue + red) >> 2))
    store<i32>(b + place, blue + offset)
    store<i32>(c + place, red + offset)
    if (planes == 4) store<i32>(d + place, alpha)
  }
}

/** One line of a plane. Returns false where a symbol is longer than any can be. */
function decodeLine(
  here: usize,
  above: usize,
  top: usize,
  width: i32,
  tables: usize,
  deep: bool,
  contexts: usize,
  moves: usize,
  mask: i32
): bool {
  let r = range
  let l = low
  let p = at
  let left = sample(here, BEFORE - 1)
  let corner = sample(above, BEFORE - 1)
  let up = sample(above, BEFORE)
  // places in the lines, as bytes
  const last = (<usize>(BEFORE + width)) << 2
  for (let x: usize = BEFORE << 2; x < last; x += 4) {
    let right = load<i32>(above + x, 4)
    let context = 0
    let expected = up
    // most of an animation is flat: then the context is the first, and the sample is expected to be its neighbours
    if (deep || left != up || corner != up || right != up) {
      context = table(tables, 0, left - corner) + table(tables, 1, corner - up) + table(tables, 2, up - right)
      if (deep) context += table(tables, 3, load<i32>(here + x - 8) - left) + table(tables, 4, load<i32>(top + x) - up)
      expected = median(left, up, left + up - corner)
    }
    let state = contexts + (<usize>abs(context) << 5)
    let s = <u32>load<u8>(state)
    let share = (r * s) >> 8
    // where what is flat goes on, the one state that is used stays at hand
    while (!deep && l >= r - share && left == up && corner == up && right == up && x + 4 < last) {
      l -= r - share
      r = share
      s = <u32>load<u8>(moves + s, 256)
      if (r < 0x100) {
        r <<= 8
        l = (l << 8) | <u32>load<u8>(p++)
      }
      store<i32>(here + x, up)
      x += 4
      right = load<i32>(above + x, 4)
      if (right != up) {
        store<u8>(state, <u8>s)
        context = table(tables, 2, up - right)
        state = contexts + (<usize>abs(context) << 5)
        s = <u32>load<u8>(state)
      }
      share = (r * s) >> 8
    }
    r -= share
    let difference = 0
    if (l >= r) {
      l -= r
      r = share
      store<u8>(state, load<u8>(moves + s, 256))
    } else {
      store<u8>(state, load<u8>(moves + s))
      if (r < 0x100) {
        r <<= 8
        l = (l << 8) | <u32>load<u8>(p++)
      }
      let length: i32 = 0
      while (true) {
        const place = state + LENGTH + <usize>min(length, 9)
        s = <u32>load<u8>(place)
        share = (r * s) >> 8
        r -= share
        const more = l >= r
        if (more) {
          l -= r
          r = share
          store<u8>(place, load<u8>(moves + s, 256))
        } else store<u8>(place, load<u8>(moves + s))
        if (r < 0x100) {
          r <<= 8
          l = (l << 8) | <u32>load<u8>(p++)
        }
        if (!more) break
        if (++length > 31) return false
      }
      let value: i32 = 1
      for (let i = length - 1; i >= 0; i--) {
        const place = state + LOW + <usize>min(i, 9)
        s = <u32>load<u8>(place)
        share = (r * s) >> 8
        r -= share
        // bits of a number are as good as random: nothing branches on them
        const bit = u32(l >= r)
        const mask = -bit
        l -= r & mask
        r ^= (r ^ share) & mask
        store<u8>(place, load<u8>(moves + s + (bit << 8)))
        value = (value << 1) | bit
        if (r < 0x100) {
          r <<= 8
          l = (l << 8) | <u32>load<u8>(p++)
        }
      }
      state += SIGN + <usize>min(length, 10)
      s = <u32>load<u8>(state)
      share = (r * s) >> 8
      r -= share
      const minus = u32(l >= r)
      l -= r & -minus
      r ^= (r ^ share) & -minus
      store<u8>(state, load<u8>(moves + s + (minus << 8)))
      difference = minus != u32(context < 0) ? -value : value
    }
    if (r < 0x100) {
      r <<= 8
      l = (l << 8) | <u32>load<u8>(p++)
    }
    left = (expected + difference) & mask
    store<i32>(here + x, left)
    corner = up
    up = right
  }
  range = r
  low = l
  at = p
  return true
}

/**
 * Returns 1 when the whole slice came out, 0 when the stream breaks. `lines` is cleared room; zeros stand behind the
 * data.
 */
export function ffv1Decode(
  from: usize,
  length: i32,
  startAt: i32,
  startLow: u32,
  startRange: u32,
  states: usize,
  tables: usize,
  transitions: usize,
  lines: usize,
  to: usize,
  width: i32,
  height: i32,
  bits: i32,
  planes: i32,
  first: i32,
  second: i32
): i32 {
  at = from + <usize>startAt
  const end = from + <usize>length
  low = startLow
  range = startRange
  const mask = (1 << (bits + 1)) - 1
  const deep = deepSets(tables)
  for (let y = 0; y < height; y++) {
    for (let p = 0; p < planes; p++) {
      begin(lines, width, p, y)
      const set = setOf(p)
      const mine = tables + (<usize>(set * 1280) << 1)
      const whole = decodeLine(
        lineAt(lines, width, p, y),
        lineAt(lines, width, p, y - 1),
        lineAt(lines, width, p, y - 2),
        width,
        mine,
        (deep & (1 << set)) != 0,
        states + <usize>(set == 0 ? 0 : set == 1 ? first : first + second) * SYMBOL,
        transitions,
        mask
      )
      if (!whole || at > end + 4) return 0
    }
    toPixels(lines, width, y, to, bits, planes)
  }
  return 1
}

/** Raises the byte before a place by one, and those of 255 before it to nought. */
function carry(place: usize): void {
  let p = place - 1
  while (load<u8>(p) == 0xff) store<u8>(p--, 0)
  store<u8>(p, load<u8>(p) + 1)
}

/** One line of a plane. Bytes are written as they come; a carry goes back over them. */
function encodeLine(
  here: usize,
  above: usize,
  top: usize,
  width: i32,
  tables: usize,
  deep: bool,
  contexts: usize,
  moves: usize,
  unused: i32
): void {
  let r = range
  let l = low
  let p = at
  let left = sample(here, BEFORE - 1)
  let corner = sample(above, BEFORE - 1)
  let up = sample(above, BEFORE)
  const last = BEFORE + width
  for (let x = BEFORE; x < last; x++) {
    let right = sample(above, x + 1)
    let context = 0
    let expected = up
    if (deep || left != up || corner != up || right != up) {
      context = table(tables, 0, left - corner) + table(tables, 1, corner - up) + table(tables, 2, up - right)
      if (deep) context += table(tables, 3, sample(here, x - 2) - left) + table(tables, 4, sample(top, x) - up)
      expected = median(left, up, left + up - corner)
    }
    let value = sample(here, x)
    let state = contexts + (<usize>abs(context) << 5)
    let s = <u32>load<u8>(state)
    let share = (r * s) >> 8
    // where what is flat goes on, the one state that is used stays at hand
    while (!deep && value == up && left == up && corner == up && right == up && x + 1 < last) {
      l += r - share
      r = share
      s = <u32>load<u8>(moves + s, 256)
      if (l > 0xffff) {
        carry(p)
        l &= 0xffff
      }
      if (r < 0x100) {
        store<u8>(p++, <u8>(l >> 8))
        l = (l & 0xff) << 8
        r <<= 8
      }
      right = sample(above, ++x + 1)
      value = sample(here, x)
      if (right != up) {
        store<u8>(state, <u8>s)
        context = table(tables, 2, up - right)
        state = contexts + (<usize>abs(context) << 5)
        s = <u32>load<u8>(state)
      }
      share = (r * s) >> 8
    }
    const plain = value - expected
    const difference = ((context < 0 ? -plain : plain) << unused) >> unused
    if (difference == 0) {
      l += r - share
      r = share
      store<u8>(state, load<u8>(moves + s, 256))
      if (l > 0xffff) {
        carry(p)
        l &= 0xffff
      }
    } else {
      r -= share
      store<u8>(state, load<u8>(moves + s))
      if (r < 0x100) {
        store<u8>(p++, <u8>(l >> 8))
        l = (l & 0xff) << 8
        r <<= 8
      }
      const size = abs(difference)
      const length = 31 - clz(size)
      for (let i = 0; i <= length; i++) {
        const place = state + LENGTH + <usize>min(i, 9)
        s = <u32>load<u8>(place)
        share = (r * s) >> 8
        if (i < length) {
          l += r - share
          r = share
          store<u8>(place, load<u8>(moves + s, 256))
          if (l > 0xffff) {
            carry(p)
            l &= 0xffff
          }
        } else {
          r -= share
          store<u8>(place, load<u8>(moves + s))
        }
        if (r < 0x100) {
          store<u8>(p++, <u8>(l >> 8))
          l = (l & 0xff) << 8
          r <<= 8
        }
      }
      for (let i = length - 1; i >= 0; i--) {
        const place = state + LOW + <usize>min(i, 9)
        s = <u32>load<u8>(place)
        share = (r * s) >> 8
        // as in decoding, nothing branches on the bits of a number
        const bit = <u32>((size >> i) & 1)
        r -= share
        l += r & -bit
        r ^= (r ^ share) & -bit
        store<u8>(place, load<u8>(moves + s + (bit << 8)))
        if (l > 0xffff) {
          carry(p)
          l &= 0xffff
        }
        if (r < 0x100) {
          store<u8>(p++, <u8>(l >> 8))
          l = (l & 0xff) << 8
          r <<= 8
        }
      }
      state += SIGN + <usize>min(length, 10)
      s = <u32>load<u8>(state)
      share = (r * s) >> 8
      const minus = <u32>difference >>> 31
      r -= share
      l += r & -minus
      r ^= (r ^ share) & -minus
      store<u8>(state, load<u8>(moves + s + (minus << 8)))
      if (l > 0xffff) {
        carry(p)
        l &= 0xffff
      }
    }
    if (r < 0x100) {
      store<u8>(p++, <u8>(l >> 8))
      l = (l & 0xff) << 8
      r <<= 8
    }
    left = value
    corner = up
    up = right
  }
  range = r
  low = l
  at = p
}

/**
 * Writes the slice's samples behind what the coder holds, ends the stream, and returns how many bytes were written to
 * `to`.
 */
export function ffv1Encode(
  samples: usize,
  heldBefore: i32,
  runBefore: i32,
  startLow: u32,
  startRange: u32,
  states: usize,
  tables: usize,
  transitions: usize,
  lines: usize,
  to: usize,
  width: i32,
  height: i32,
  bits: i32,
  planes: i32,
  first: i32,
  second: i32
): i32 {
  at = to
  // what the coder held back stands there from now on, and takes a carry where it comes
  if (heldBefore >= 0) store<u8>(at++, <u8>heldBefore)
  for (let i = 0; i < runBefore; i++) store<u8>(at++, 0xff)
  low = startLow
  if (low > 0xffff) {
    carry(at)
    low &= 0xffff
  }
  range = startRange
  const unused = 31 - bits
  const deep = deepSets(tables)
  for (let y = 0; y < height; y++) {
    for (let p = 0; p < planes; p++) begin(lines, width, p, y)
    fromPixels(lines, width, y, samples, bits, planes)
    for (let p = 0; p < planes; p++) {
      const set = setOf(p)
      const mine = tables + (<usize>(set * 1280) << 1)
      encodeLine(
        lineAt(lines, width, p, y),
        lineAt(lines, width, p, y - 1),
        lineAt(lines, width, p, y - 2),
        width,
        mine,
        (deep & (1 << set)) != 0,
        states + <usize>(set == 0 ? 0 : set == 1 ? first : first + second) * SYMBOL,
        transitions,
        unused
      )
    }
  }
  // the mark that ends a slice: a 0 of state 129 (RFC 9043, 3.8.1.1.1); a reader that holds what it has read against
  // the slice's length finds the two alike only with it
  range -= (range * 129) >> 8
  if (range < 0x100) {
    store<u8>(at++, <u8>(low >> 8))
    low = (low & 0xff) << 8
    range <<= 8
  }
  // any number within the range ends the stream; of this one a single byte is needed
  low += 0xff
  if (low > 0xffff) {
    carry(at)
    low &= 0xffff
  }
  store<u8>(at++, <u8>(low >> 8))
  return <i32>(at - to)
}
