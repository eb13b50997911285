// Blocks of dynamic Huffman codes (RFC 1951, 3.2.7), of tokens: literals below 256, else a match's length above bit 16
// and its distance, less one, below.

/** Bytes of the tables that a block's codes are made in. */
export const TABLES: usize = 8192

// places in the tables, from `tables`
export const LITERAL_FREQ: usize = 0 // 288 u32
export const DISTANCE_FREQ: usize = 1152 // 32 u32
const LITERAL_LEN: usize = 1280 // 288 u8
const DISTANCE_LEN: usize = 1568 // 32 u8
const LITERAL_CODE: usize = 1600 // 288 u16
const DISTANCE_CODE: usize = 2176 // 32 u16
const SORTED: usize = 2240 // 288 u32: symbols by frequency
const DEPTHS: usize = 3392 // 288 u32: their frequencies, then their code lengths
const COUNTS: usize = 4544 // 64 u32
const RUNS: usize = 4800 // 640 u16: code lengths, run-length coded
const RUN_FREQ: usize = 6080 // 32 u32
const RUN_LEN: usize = 6208 // 32 u8
const RUN_CODE: usize = 6240 // 32 u16

const RUN_ORDER = memory.data<u8>([16, 17, 18, 0, 8, 7, 9, 6, 10, 5, 11, 4, 12, 3, 13, 2, 14, 1, 15])

/** Bytes of the frequencies, which stand first and are counted by whoever makes the tokens. */
export const FREQUENCIES: usize = 1280

let out: usize = 0
let bits: u64 = 0
let held: u32 = 0

/** What is written from now on goes to `to`. */
export function writeTo(to: usize): void {
  out = to
  bits = 0
  held = 0
}

/** Fills the last byte up; where the next one goes. */
export function wholeByte(): usize {
  held = (held + 7) & ~7
  flush()
  return out
}

// @ts-ignore: decorator
@inline
function put(value: u32, count: u32): void {
  bits |= (<u64>value) << held
  held += count
}

// @ts-ignore: decorator
@inline
function flush(): void {
  store<u64>(out, bits)
  out += held >>> 3
  bits >>= held & 56
  held &= 7
}

// @ts-ignore: decorator
@inline
export function lengthSymbol(length: u32): u32 {
  const l = length - 3
  if (l < 8) return 257 + l
  if (length == 258) return 285
  const n = 31 - clz(l)
  return 257 + ((n - 1) << 2) + ((l >> (n - 2)) & 3)
}

// @ts-ignore: decorator
@inline
export function distanceSymbol(distance: u32): u32 {
  const d = distance - 1
  if (d < 4) return d
  const n = 31 - clz(d)
  return (n << 1) + ((d >> (n - 1)) & 1)
}

// @ts-ignore: decorator
@inline
export function bump(at: usize): void {
  store<u32>(at, load<u32>(at) + 1)
}

/**
 * Lengths of an optimal prefix code for `symbols` frequencies, none longer than `most`. Symbols that never occur get 0.
 */
function codeLengths(frequencies: usize, lengths: usize, symbols: i32, most: i32, tables: usize): void {
  const sorted = tables + SORTED
  const a = tables + DEPTHS
  const counts = tables + COUNTS
  let n = 0
  memory.fill(lengths, 0, symbols)
  for (let s = 0; s < symbols; s++) {
    const f = load<u32>(frequencies + (<usize>s << 2))
    if (f == 0) continue
    // by insertion: most blocks use few symbols, and those of noise are nearly in order
    let at = n++
    while (at > 0 && load<u32>(a + (<usize>(at - 1) << 2)) > f) {
      store<u32>(a + (<usize>at << 2), load<u32>(a + (<usize>(at - 1) << 2)))
      store<u32>(sorted + (<usize>at << 2), load<u32>(sorted + (<usize>(at - 1) << 2)))
      at--
    }
    store<u32>(a + (<usize>at << 2), f)
    store<u32>(sorted + (<usize>at << 2), s)
  }
  if (n == 0) return
  if (n == 1) {
    store<u8>(lengths + load<u32>(sorted), 1)
    return
  }
  minimumRedundancy(a, n)
  memory.fill(counts, 0, 256)
  for (let i = 0; i < n; i++) bump(counts + (<usize>min(<i32>load<u32>(a + (<usize>i << 2)), 63) << 2))
  for (let l = most + 1; l < 64; l++) store<u32>(counts + (<usize>most << 2), load<u32>(counts + (<usize>most << 2)) + load<u32>(counts + (<usize>l << 2)))
  // too many at the longest length: lengthen shorter codes until all fit (Kraft's sum)
  let total: u32 = 0
  for (let l = most; l > 0; l--) total += load<u32>(counts + (<usize>l << 2)) << (most - l)
  while (total > <u32>1 << most) {
    store<u32>(counts + (<usize>most << 2), load<u32>(counts + (<usize>most << 2)) - 1)
    for (let l = most - 1; l > 0; l--) {
      const at = counts + (<usize>l << 2)
      if (load<u32>(at) == 0) continue
      store<u32>(at, load<u32>(at) - 1)
      store<u32>(at + 4, load<u32>(at + 4) + 2)
      break
    }
    total--
  }
  let i = 0
  for (let l = most; l > 0; l--) {
    for (let c = load<u32>(counts + (<usize>l << 2)); c > 0; c--) store<u8>(lengths + load<u32>(sorted + (<usize>(i++) << 2)), l)
  }
}

/**
 * Moffat and Katajainen, "In-place calculation of minimum-redundancy codes" (1995): ascending frequencies become code
 * lengths.
 */
function minimumRedundancy(a: usize, n: i32): void {
  store<u32>(a, load<u32>(a) + load<u32>(a, 4))
  let root = 0
  let leaf = 2
  for (let next = 1; next < n - 1; next++) {
    const at = a + (<usize>next << 2)
    if (leaf >= n || load<u32>(a + (<usize>root << 2)) < load<u32>(a + (<usize>leaf << 2))) {
      store<u32>(at, load<u32>(a + (<usize>root << 2)))
      store<u32>(a + (<usize>root << 2), next)
      root++
    } else {
      store<u32>(at, load<u32>(a + (<usize>leaf << 2)))
      leaf++
    }
    if (leaf >= n || (root < next && load<u32>(a + (<usize>root << 2)) < load<u32>(a + (<usize>leaf << 2)))) {
      store<u32>(at, load<u32>(at) + load<u32>(a + (<usize>root << 2)))
      store<u32>(a + (<usize>root << 2), next)
      root++
    } else {
      store<u32>(at, load<u32>(at) + load<u32>(a + (<usize>leaf << 2)))
      leaf++
    }
  }
  store<u32>(a + (<usize>(n - 2) << 2), 0)
  for (let next = n - 3; next >= 0; next--) {
    const at = a + (<usize>next << 2)
    store<u32>(at, load<u32>(a + (<usize>load<u32>(at) << 2)) + 1)
  }
  let free = 1
  let used = 0
  let depth = 0
  let inner = n - 2
  let next = n - 1
  while (free > 0) {
    while (inner >= 0 && load<u32>(a + (<usize>inner << 2)) == <u32>depth) {
      used++
      inner--
    }
    while (free > used) {
      store<u32>(a + (<usize>next << 2), depth)
      next--
      free--
    }
    free = 2 * used
    depth++
    used = 0
  }
}

/** Canonical codes, bits reversed as deflate packs them (RFC 1951, 3.2.2). */
function assignCodes(lengths: usize, codes: usize, symbols: i32, tables: usize): void {
  const counts = tables + COUNTS
  memory.fill(counts, 0, 128)
  for (let s = 0; s < symbols; s++) bump(counts + (<usize>load<u8>(lengths + s) << 2))
  store<u32>(counts, 0)
  const next = counts + 64
  let code: u32 = 0
  for (let l = 1; l < 16; l++) {
    code = (code + load<u32>(counts + (<usize>(l - 1) << 2))) << 1
    store<u32>(next + (<usize>l << 2), code)
  }
  for (let s = 0; s < symbols; s++) {
    const l = <u32>load<u8>(lengths + s)
    if (l == 0) continue
    const at = next + (<usize>l << 2)
    let value = load<u32>(at)
    store<u32>(at, value + 1)
    let reversed: u32 = 0
    for (let b: u32 = 0; b < l; b++) {
      reversed = (reversed << 1) | (value & 1)
      value >>= 1
    }
    store<u16>(codes + (<usize>s << 1), reversed)
  }
}

/**
 * Run-length codes the code lengths (RFC 1951, 3.2.7): entries of symbol and extra bits, symbol in the low byte.
 * Returns how many.
 */
function codeRuns(lengths: usize, count: i32, runs: usize, frequencies: usize): i32 {
  let made = 0
  let i = 0
  while (i < count) {
    const value = <u32>load<u8>(lengths + i)
    let run = 1
    while (i + run < count && <u32>load<u8>(lengths + i + run) == value) run++
    i += run
    if (value == 0) {
      while (run >= 3) {
        const take = min(run, 138)
        const symbol = take < 11 ? 17 : 18
        store<u16>(runs + (<usize>(made++) << 1), symbol | ((take - (take < 11 ? 3 : 11)) << 8))
        bump(frequencies + (<usize>symbol << 2))
        run -= take
      }
    } else {
      store<u16>(runs + (<usize>(made++) << 1), value)
      bump(frequencies + (<usize>value << 2))
      run--
      while (run >= 3) {
        const take = min(run, 6)
        store<u16>(runs + (<usize>(made++) << 1), 16 | ((take - 3) << 8))
        bump(frequencies + (16 << 2))
        run -= take
      }
    }
    while (run > 0) {
      store<u16>(runs + (<usize>(made++) << 1), value)
      bump(frequencies + (<usize>value << 2))
      run--
    }
  }
  return made
}

/** Writes a block of `count` tokens, whose frequencies stand in `tables`. */
export function writeBlock(tokens: usize, count: i32, tables: usize, last: bool): void {
  const literalFreq = tables + LITERAL_FREQ
  const distanceFreq = tables + DISTANCE_FREQ
  const literalLen = tables + LITERAL_LEN
  const distanceLen = tables + DISTANCE_LEN
  const literalCode = tables + LITERAL_CODE
  const distanceCode = tables + DISTANCE_CODE
  store<u32>(literalFreq + (256 << 2), 1)
  codeLengths(literalFreq, literalLen, 286, 15, tables)
  codeLengths(distanceFreq, distanceLen, 30, 15, tables)
  let literals = 286
  while (literals > 257 && load<u8>(literalLen + literals - 1) == 0) literals--
  let distances = 30
  while (distances > 1 && load<u8>(distanceLen + distances - 1) == 0) distances--
  // both tables count as one sequence
  const all = tables + SORTED
  memory.copy(all, literalLen, literals)
  memory.copy(all + literals, distanceLen, distances)
  const runFreq = tables + RUN_FREQ
  memory.fill(runFreq, 0, 128)
  const runs = tables + RUNS
  const made = codeRuns(all, literals + distances, runs, runFreq)
  codeLengths(runFreq, tables + RUN_LEN, 19, 7, tables)
  assignCodes(tables + RUN_LEN, tables + RUN_CODE, 19, tables)
  assignCodes(literalLen, literalCode, 286, tables)
  assignCodes(distanceLen, distanceCode, 30, tables)
  let order = 19
  while (order > 4 && load<u8>(tables + RUN_LEN + load<u8>(RUN_ORDER + order - 1)) == 0) order--
  put(last ? 1 : 0, 1)
  put(2, 2)
  put(literals - 257, 5)
  put(distances - 1, 5)
  put(order - 4, 4)
  flush()
  for (let i = 0; i < order; i++) {
    put(load<u8>(tables + RUN_LEN + load<u8>(RUN_ORDER + i)), 3)
    flush()
  }
  for (let i = 0; i < made; i++) {
    const run = <u32>load<u16>(runs + (<usize>i << 1))
    const symbol = run & 255
    put(load<u16>(tables + RUN_CODE + (<usize>symbol << 1)), load<u8>(tables + RUN_LEN + symbol))
    if (symbol == 16) put(run >> 8, 2)
    else if (symbol == 17) put(run >> 8, 3)
    else if (symbol == 18) put(run >> 8, 7)
    flush()
  }
  // code and length of each literal side by side, so that one look-up serves
  const joined = tables + SORTED
  for (let s = 0; s < 256; s++) store<u32>(joined + (<usize>s << 2), (<u32>load<u16>(literalCode + (<usize>s << 1)) << 8) | load<u8>(literalLen + s))
  for (let i = 0; i < count; i++) {
    const token = load<u32>(tokens + (<usize>i << 2))
    const length = token >>> 16
    if (length == 0) {
      const literal = load<u32>(joined + (<usize>token << 2))
      put(literal >>> 8, literal & 255)
      // three literals of 15 bits and a rest of 7 fit into the 64 that are held
      if (held > 33) flush()
      continue
    }
    flush()
    const symbol = lengthSymbol(length)
    put(load<u16>(literalCode + (<usize>symbol << 1)), load<u8>(literalLen + symbol))
    if (symbol >= 265 && symbol < 285) {
      const extra = (symbol - 261) >> 2
      put((length - 3) & ((1 << extra) - 1), extra)
    }
    const distance = (token & 65535) + 1
    const ds = distanceSymbol(distance)
    put(load<u16>(distanceCode + (<usize>ds << 1)), load<u8>(distanceLen + ds))
    if (ds >= 4) {
      const extra = (ds >> 1) - 1
      put((distance - 1) & ((1 << extra) - 1), extra)
    }
    flush()
  }
  flush()
  put(load<u16>(literalCode + (256 << 1)), load<u8>(literalLen + 256))
  flush()
}
