// Samples of one slice of FFV1 in RGB or RGBA, range coded (RFC 9043, 3.3 to 3.8.1). The twin is plain-ffv1.ts; states and what a symbol's
// bits find them by are told in range-coder.ts.

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
  const last = BEFORE + width
  for (let x = BEFORE; x < last; x++) {
    let right = sample(above, x + 1)
    let context = 0
    let expected = up
    // most of an animation is flat: then the context is the first, and the sample is expected to be its neighbours
    if (deep || left != up || corner != up || right != up) {
      context = table(tables, 0, left - corner) + table(tables, 1, corner - up) + table(tables, 2, up - right)
      if (deep) context += table(tables, 3, sample(here, x - 2) - left) + table(tables, 4, sample(top, x) - up)
      expected = median(left, up, left + up - corner)
    }
    let state = contexts + (<usize>abs(context) << 5)
    let s = <u32>load<u8>(state)
    let share = (r * s) >> 8
    // where what is flat goes on, the one state that is used stays at hand
    while (!deep && l >= r - share && left == up && corner == up && right == up && x + 1 < last) {
      l -= r - share
      r = share
      s = <u32>load<u8>(moves + s, 256)
      if (r < 0x100) {
        r <<= 8
        l = (l << 8) | <u32>load<u8>(p++)
      }
      store<i32>(here + (<usize>x << 2), up)
      right = sample(above, ++x + 1)
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
        value <<= 1
        if (l >= r) {
          l -= r
          r = share
          store<u8>(place, load<u8>(moves + s, 256))
          value |= 1
        } else store<u8>(place, load<u8>(moves + s))
        if (r < 0x100) {
          r <<= 8
          l = (l << 8) | <u32>load<u8>(p++)
        }
      }
      state += SIGN + <usize>min(length, 10)
      s = <u32>load<u8>(state)
      share = (r * s) >> 8
      r -= share
      if (l >= r) {
        l -= r
        r = share
        store<u8>(state, load<u8>(moves + s, 256))
        value = -value
      } else store<u8>(state, load<u8>(moves + s))
      difference = context < 0 ? -value : value
    }
    if (r < 0x100) {
      r <<= 8
      l = (l << 8) | <u32>load<u8>(p++)
    }
    left = (expected + difference) & mask
    store<i32>(here + (<usize>x << 2), left)
    corner = up
    up = right
  }
  range = r
  low = l
  at = p
  return true
}

/** Returns 1 when the whole slice came out, 0 when the stream breaks. `lines` is cleared room; zeros stand behind the data. */
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
  const offset = 1 << bits
  const full = (1 << bits) - 1
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
        isDeep(mine),
        states + <usize>(set == 0 ? 0 : set == 1 ? first : first + second) * SYMBOL,
        transitions,
        mask
      )
      if (!whole || at > end + 4) return 0
    }
    const a = lineAt(lines, width, 0, y)
    const b = lineAt(lines, width, 1, y)
    const c = lineAt(lines, width, 2, y)
    const d = lineAt(lines, width, 3, y)
    for (let x = 0; x < width; x++) {
      const blue = sample(b, BEFORE + x) - offset
      const red = sample(c, BEFORE + x) - offset
      const green = sample(a, BEFORE + x) - ((blue + red) >> 2)
      const alpha = planes == 4 ? sample(d, BEFORE + x) : full
      const pixel = <usize>(y * width + x)
      if (bits > 8) {
        const place = to + (pixel << 3)
        store<u16>(place, <u16>(red + green))
        store<u16>(place, <u16>green, 2)
        store<u16>(place, <u16>(blue + green), 4)
        store<u16>(place, <u16>alpha, 6)
      } else {
        const place = to + (pixel << 2)
        store<u8>(place, <u8>(red + green))
        store<u8>(place, <u8>green, 1)
        store<u8>(place, <u8>(blue + green), 2)
        store<u8>(place, <u8>alpha, 3)
      }
    }
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
        if ((size >> i) & 1) {
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
      state += SIGN + <usize>min(length, 10)
      s = <u32>load<u8>(state)
      share = (r * s) >> 8
      if (difference < 0) {
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

/** Writes the slice's samples behind what the coder holds, ends the stream, and returns how many bytes were written to `to`. */
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
  const offset = 1 << bits
  const unused = 31 - bits
  for (let y = 0; y < height; y++) {
    for (let p = 0; p < planes; p++) begin(lines, width, p, y)
    const a = lineAt(lines, width, 0, y)
    const b = lineAt(lines, width, 1, y)
    const c = lineAt(lines, width, 2, y)
    const d = lineAt(lines, width, 3, y)
    for (let x = 0; x < width; x++) {
      const pixel = <usize>(y * width + x)
      let red: i32
      let green: i32
      let blue: i32
      let alpha: i32
      if (bits > 8) {
        const from = samples + (pixel << 3)
        red = <i32>load<u16>(from)
        green = <i32>load<u16>(from, 2)
        blue = <i32>load<u16>(from, 4)
        alpha = <i32>load<u16>(from, 6)
      } else {
        const from = samples + (pixel << 2)
        red = <i32>load<u8>(from)
        green = <i32>load<u8>(from, 1)
        blue = <i32>load<u8>(from, 2)
        alpha = <i32>load<u8>(from, 3)
      }
      blue -= green
      red -= green
      const place = <usize>(BEFORE + x) << 2
      store<i32>(a + place, green + ((blue + red) >> 2))
      store<i32>(b + place, blue + offset)
      store<i32>(c + place, red + offset)
      if (planes == 4) store<i32>(d + place, alpha)
    }
    for (let p = 0; p < planes; p++) {
      const set = setOf(p)
      const mine = tables + (<usize>(set * 1280) << 1)
      encodeLine(
        lineAt(lines, width, p, y),
        lineAt(lines, width, p, y - 1),
        lineAt(lines, width, p, y - 2),
        width,
        mine,
        isDeep(mine),
        states + <usize>(set == 0 ? 0 : set == 1 ? first : first + second) * SYMBOL,
        transitions,
        unused
      )
    }
  }
  // any number within the range ends the stream; this one needs no more than two bytes
  low += 0xff
  if (low > 0xffff) {
    carry(at)
    low &= 0xffff
  }
  store<u8>(at++, <u8>(low >> 8))
  store<u8>(at++, <u8>(low & 0xff))
  return <i32>(at - to)
}
