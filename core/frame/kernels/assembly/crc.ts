// CRC-32 as PNG (ISO/IEC 15948, annex D) and ZIP use it, eight bytes a turn.

const TABLES = memory.data(8192, 16)
let ready = false

function prepare(): void {
  for (let n: u32 = 0; n < 256; n++) {
    let c = n
    for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1
    store<u32>(TABLES + (<usize>n << 2), c)
  }
  for (let n: usize = 0; n < 256; n++) {
    for (let t: usize = 1; t < 8; t++) {
      const before = load<u32>(TABLES + ((t - 1) << 10) + (n << 2))
      store<u32>(TABLES + (t << 10) + (n << 2), load<u32>(TABLES + ((<usize>(before & 255)) << 2)) ^ (before >>> 8))
    }
  }
  ready = true
}

// @ts-ignore: decorator
@inline
function at(table: usize, byte: u32): u32 {
  return load<u32>(TABLES + (table << 10) + ((<usize>(byte & 255)) << 2))
}

export function crc32(from: usize, n: u32, crc: u32): u32 {
  if (!ready) prepare()
  let c = ~crc
  let i: u32 = 0
  for (; i + 8 <= n; i += 8) {
    const low = load<u32>(from + i) ^ c
    const high = load<u32>(from + i, 4)
    c = at(7, low) ^ at(6, low >>> 8) ^ at(5, low >>> 16) ^ at(4, low >>> 24) ^ at(3, high) ^ at(2, high >>> 8) ^ at(1, high >>> 16) ^ at(0, high >>> 24)
  }
  for (; i < n; i++) c = at(0, c ^ load<u8>(from + i)) ^ (c >>> 8)
  return ~c
}
