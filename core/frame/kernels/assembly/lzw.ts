// LZW of TIFF 6.0 section 13; see tests/oracles/lzw.ts, whose every byte this must give. `table`: 16384 u32, the
// strings that have a code.

const CLEAR: u32 = 256
const END: u32 = 257
const FIRST: u32 = 258
const MOST: u32 = 4094
const ENTRIES: u32 = 16384
const NONE: u32 = 0xffffffff

let out: usize = 0
let held: u32 = 0
let count: u32 = 0

// @ts-ignore: decorator
@inline
function put(code: u32, width: u32): void {
  held = (held << width) | code
  count += width
  while (count >= 8) {
    count -= 8
    store<u8>(out++, <u8>(held >>> count))
  }
}

/** Packs `n` bytes; gives the bytes written at `to`, which has room for half as many again and 16. */
export function lzwPack(from: usize, n: i32, to: usize, table: usize): i32 {
  out = to
  held = 0
  count = 0
  let width: u32 = 9
  let next = FIRST
  memory.fill(table, 255, <usize>ENTRIES << 2)
  put(CLEAR, width)
  if (n > 0) {
    let string = <u32>load<u8>(from)
    for (let i = 1; i < n; i++) {
      const byte = <u32>load<u8>(from + i)
      const key = (string << 8) | byte
      // an entry is a string's code and the byte that makes it longer, and behind them the code of both together
      let place = (key * 2654435761) >>> 18
      let entry = load<u32>(table + (<usize>place << 2))
      while (entry != NONE && entry >>> 12 != key) {
        place = (place + 1) & (ENTRIES - 1)
        entry = load<u32>(table + (<usize>place << 2))
      }
      if (entry != NONE) {
        string = entry & 4095
        continue
      }
      put(string, width)
      store<u32>(table + (<usize>place << 2), (key << 12) | next)
      next++
      if (next == MOST) {
        put(CLEAR, width)
        memory.fill(table, 255, <usize>ENTRIES << 2)
        next = FIRST
        width = 9
      } else if (next + 1 > (<u32>1) << width) width++
      string = byte
    }
    put(string, width)
    if (next + 2 > (<u32>1) << width && width < 12) width++
  }
  put(END, width)
  if (count > 0) store<u8>(out++, <u8>(held << (8 - count)))
  return <i32>(out - to)
}
