// Samples of one slice of FFV1 in RGB or RGBA, range coded (RFC 9043, 3.3 to 3.8.1). The twin is plain-ffv1.ts; states and what a symbol's
// bits find them by are told in range-coder.ts.

const SYMBOL: usize = 32
const LENGTH: usize = 1
const SIGN: usize = 11
const LOW: usize = 22
const BEFORE: i32 = 2

let range: u32 = 0
let low: u32 = 0
let at: usize = 0
let end: usize = 0
/** What states become: 256 bytes after a 0, 256 after a 1. */
let moves: usize = 0

// @ts-ignore: decorator
@inline
function bit(state: usize): bool {
  const s = <u32>load<u8>(state)
  const share = (range * s) >> 8
  const rest = range - share
  const one = low >= rest
  if (one) {
    low -= rest
    range = share
    store<u8>(state, load<u8>(moves + 256 + s))
  } else {
    range = rest
    store<u8>(state, load<u8>(moves + s))
  }
  if (range < 0x100) {
    range <<= 8
    low = (low << 8) | (at < end ? <u32>load<u8>(at) : 0)
    at++
  }
  return one
}

/** Set where a symbol is longer than any can be. */
let broken: bool = false

function symbol(state: usize): i32 {
  if (bit(state)) return 0
  let length: usize = 0
  while (bit(state + LENGTH + min<usize>(length, 9))) {
    if (++length > 31) {
      broken = true
      return 0
    }
  }
  let value: i32 = 1
  for (let i = <i32>length - 1; i >= 0; i--) value = (value << 1) + i32(bit(state + LOW + <usize>min(i, 9)))
  return bit(state + SIGN + min<usize>(length, 10)) ? -value : value
}

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

// @ts-ignore: decorator
@inline
function contextOf(tables: usize, deep: bool, here: usize, above: usize, top: usize, x: i32, left: i32, corner: i32, up: i32): i32 {
  let context = table(tables, 0, left - corner) + table(tables, 1, corner - up) + table(tables, 2, up - sample(above, x + 1))
  if (deep) context += table(tables, 3, sample(here, x - 2) - left) + table(tables, 4, sample(top, x) - up)
  return context
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

/** Returns 1 when the whole slice came out, 0 when the stream breaks. `lines` is cleared room. */
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
  end = from + <usize>length
  low = startLow
  range = startRange
  moves = transitions
  broken = false
  const mask = (1 << (bits + 1)) - 1
  const offset = 1 << bits
  const full = (1 << bits) - 1
  for (let y = 0; y < height; y++) {
    for (let p = 0; p < planes; p++) {
      begin(lines, width, p, y)
      const here = lineAt(lines, width, p, y)
      const above = lineAt(lines, width, p, y - 1)
      const top = lineAt(lines, width, p, y - 2)
      const set = setOf(p)
      const mine = tables + (<usize>(set * 1280) << 1)
      const deep = isDeep(mine)
      const contexts = states + <usize>(set == 0 ? 0 : set == 1 ? first : first + second) * SYMBOL
      let left = sample(here, BEFORE - 1)
      let corner = sample(above, BEFORE - 1)
      for (let x = BEFORE; x < BEFORE + width; x++) {
        const up = sample(above, x)
        const context = contextOf(mine, deep, here, above, top, x, left, corner, up)
        const difference = symbol(contexts + <usize>abs(context) * SYMBOL)
        const expected = median(left, up, left + up - corner)
        left = (expected + (context < 0 ? -difference : difference)) & mask
        store<i32>(here + (<usize>x << 2), left)
        corner = up
      }
    }
    if (broken || at > end + 4) return 0
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

let held: i32 = -1
let run: i32 = 0

function renew(): void {
  while (range < 0x100) {
    if (held < 0) held = <i32>(low >> 8)
    else if (low <= 0xff00) {
      store<u8>(at++, <u8>held)
      for (; run > 0; run--) store<u8>(at++, 0xff)
      held = <i32>(low >> 8)
    } else if (low >= 0x10000) {
      store<u8>(at++, <u8>(held + 1))
      for (; run > 0; run--) store<u8>(at++, 0)
      held = <i32>((low >> 8) & 0xff)
    } else run++
    low = (low & 0xff) << 8
    range <<= 8
  }
}

// @ts-ignore: decorator
@inline
function put(state: usize, one: bool): void {
  const s = <u32>load<u8>(state)
  const share = (range * s) >> 8
  if (one) {
    low += range - share
    range = share
    store<u8>(state, load<u8>(moves + 256 + s))
  } else {
    range -= share
    store<u8>(state, load<u8>(moves + s))
  }
  if (range < 0x100) renew()
}

function putSymbol(state: usize, value: i32): void {
  if (value == 0) {
    put(state, true)
    return
  }
  put(state, false)
  const size = abs(value)
  const length = 31 - clz(size)
  for (let i = 0; i < length; i++) put(state + LENGTH + <usize>min(i, 9), true)
  put(state + LENGTH + <usize>min(length, 9), false)
  for (let i = length - 1; i >= 0; i--) put(state + LOW + <usize>min(i, 9), ((size >> i) & 1) != 0)
  put(state + SIGN + <usize>min(length, 10), value < 0)
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
  held = heldBefore
  run = runBefore
  low = startLow
  range = startRange
  moves = transitions
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
      const here = lineAt(lines, width, p, y)
      const above = lineAt(lines, width, p, y - 1)
      const top = lineAt(lines, width, p, y - 2)
      const set = setOf(p)
      const mine = tables + (<usize>(set * 1280) << 1)
      const deep = isDeep(mine)
      const contexts = states + <usize>(set == 0 ? 0 : set == 1 ? first : first + second) * SYMBOL
      let left = sample(here, BEFORE - 1)
      let corner = sample(above, BEFORE - 1)
      for (let x = BEFORE; x < BEFORE + width; x++) {
        const up = sample(above, x)
        const context = contextOf(mine, deep, here, above, top, x, left, corner, up)
        const value = sample(here, x)
        const difference = value - median(left, up, left + up - corner)
        putSymbol(contexts + <usize>abs(context) * SYMBOL, ((context < 0 ? -difference : difference) << unused) >> unused)
        left = value
        corner = up
      }
    }
  }
  low += 0xff
  range = 0xff
  renew()
  range = 0xff
  renew()
  if (held >= 0) store<u8>(at++, <u8>held)
  for (; run > 0; run--) store<u8>(at++, 0xff)
  return <i32>(at - to)
}
