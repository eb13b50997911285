/** CRC-32 as PNG (ISO/IEC 15948, annex D) and ZIP use it, eight bytes a turn. */
const TABLES: Uint32Array[] = []
for (let t = 0; t < 8; t++) TABLES.push(new Uint32Array(256))
for (let n = 0; n < 256; n++) {
  let c = n
  for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1
  TABLES[0]![n] = c >>> 0
}
for (let n = 0; n < 256; n++)
  for (let t = 1; t < 8; t++) TABLES[t]![n] = (TABLES[0]![TABLES[t - 1]![n]! & 255]! ^ (TABLES[t - 1]![n]! >>> 8)) >>> 0

/** Continues `crc` (0 to begin with) over `bytes`. */
export function crc32(bytes: Uint8Array, crc = 0): number {
  const [t0, t1, t2, t3, t4, t5, t6, t7] = TABLES as [
    Uint32Array,
    Uint32Array,
    Uint32Array,
    Uint32Array,
    Uint32Array,
    Uint32Array,
    Uint32Array,
    Uint32Array
  ]
  let c = ~crc
  let i = 0
  for (const end = bytes.length - 7; i < end; i += 8) {
    c ^= bytes[i]! | (bytes[i + 1]! << 8) | (bytes[i + 2]! << 16) | (bytes[i + 3]! << 24)
    c =
      t7[c & 255]! ^
      t6[(c >>> 8) & 255]! ^
      t5[(c >>> 16) & 255]! ^
      t4[c >>> 24]! ^
      t3[bytes[i + 4]!]! ^
      t2[bytes[i + 5]!]! ^
      t1[bytes[i + 6]!]! ^
      t0[bytes[i + 7]!]!
  }
  for (; i < bytes.length; i++) c = t0[(c ^ bytes[i]!) & 255]! ^ (c >>> 8)
  return ~c >>> 0
}
