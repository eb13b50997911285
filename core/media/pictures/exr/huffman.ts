/**
 * The Huffman stage of OpenEXR's PIZ: 16-bit symbols and one more that repeats the symbol before it. Code lengths are
 * packed with runs of zeros; codes are canonical, the longest first.
 *
 * 0 u32 first symbol, 4 u32 last symbol (which is the repeat), 8 u32 bytes of lengths, 12 u32 bits of data, 16
 * reserved; lengths; data
 */

const SYMBOLS = 65537
const LONGEST = 58
const SHORT_RUN = 59
const LONG_RUN = 63
/** The shortest run of zeros that takes eight bits for its length. */
const LONG_FROM = 2 + LONG_RUN - SHORT_RUN
const HEADER = 20
/** Codes up to this long are found in one look. */
const QUICK = 12

class BitWriter {
  bytes: Uint8Array
  private held = 0
  private count = 0
  length = 0

  constructor(room: number) {
    this.bytes = new Uint8Array(room)
  }

  put(value: number, bits: number): void {
    if (bits > 16) {
      this.put(Math.floor(value / 65536), bits - 16)
      value %= 65536
      bits = 16
    }
    this.held = (this.held << bits) | value
    this.count += bits
    if (this.length + 8 > this.bytes.length) {
      const larger = new Uint8Array(this.bytes.length * 2)
      larger.set(this.bytes)
      this.bytes = larger
    }
    while (this.count >= 8) {
      this.count -= 8
      this.bytes[this.length++] = this.held >>> this.count
    }
    this.held &= (1 << this.count) - 1
  }

  /** Fills the last byte; returns the bits written before. */
  flush(): number {
    const bits = 8 * this.length + this.count
    if (this.count) this.put(0, 8 - this.count)
    return bits
  }
}

/** Code lengths for symbols that occur: the least frequent joined first. */
function lengthsFor(counts: Uint32Array): Uint8Array {
  const lengths = new Uint8Array(SYMBOLS)
  const used: number[] = []
  for (let s = 0; s < counts.length; s++) if (counts[s]) used.push(s)
  used.sort((a, b) => counts[a]! - counts[b]! || a - b)
  const leaves = used.length
  const weights = new Float64Array(2 * leaves)
  const parents = new Int32Array(2 * leaves)
  used.forEach((s, i) => (weights[i] = counts[s]!))
  // two queues, leaves and joints, each in order of weight
  let [leaf, joint] = [0, leaves]
  for (let next = leaves; next < 2 * leaves - 1; next++) {
    for (let n = 0; n < 2; n++) {
      const from = leaf < leaves && (joint >= next || weights[leaf]! <= weights[joint]!) ? leaf++ : joint++
      weights[next]! += weights[from]!
      parents[from] = next
    }
  }
  const depths = new Uint8Array(2 * leaves)
  for (let i = 2 * leaves - 3; i >= 0; i--) {
    depths[i] = depths[parents[i]!]! + 1
    if (i < leaves) lengths[used[i]!] = depths[i]!
  }
  return lengths
}

/** How many codes have each length, and the first of each. */
function canonical(lengths: Uint8Array): { counts: Float64Array; bases: Float64Array } {
  const counts = new Float64Array(LONGEST + 1)
  for (const length of lengths) counts[length]!++
  const bases = new Float64Array(LONGEST + 1)
  let code = 0
  for (let length = LONGEST; length > 0; length--) {
    bases[length] = code
    code = Math.floor((code + counts[length]!) / 2)
  }
  return { counts, bases }
}

function packLengths(lengths: Uint8Array, first: number, last: number): Uint8Array {
  const out = new BitWriter(4096)
  for (let s = first; s <= last; s++) {
    let run = 0
    while (s + run <= last && run < 255 + LONG_FROM && lengths[s + run] === 0) run++
    if (run >= LONG_FROM) {
      out.put(LONG_RUN, 6)
      out.put(run - LONG_FROM, 8)
    } else if (run >= 2) out.put(SHORT_RUN + run - 2, 6)
    else out.put(lengths[s]!, 6)
    if (run >= 2) s += run - 1
  }
  out.flush()
  return out.bytes.subarray(0, out.length)
}

/** Packs symbols; at least one. */
export function huffmanPack(symbols: Uint16Array): Uint8Array {
  const counts = new Uint32Array(SYMBOLS)
  let [first, last] = [65535, 0]
  for (const s of symbols) {
    counts[s]!++
    if (s < first) first = s
    if (s > last) last = s
  }
  const repeat = last + 1
  counts[repeat] = 1
  const lengths = lengthsFor(counts)
  const { bases } = canonical(lengths)
  const codes = new Float64Array(SYMBOLS)
  for (let s = first; s <= repeat; s++) if (lengths[s]) codes[s] = bases[lengths[s]!]!++
  const table = packLengths(lengths, first, repeat)
  const out = new BitWriter(symbols.length + 64)
  for (let i = 0; i < symbols.length;) {
    const s = symbols[i]!
    let more = 0
    while (more < 255 && symbols[i + more + 1] === s) more++
    i += more + 1
    if (lengths[s]! + lengths[repeat]! + 8 < lengths[s]! * more) {
      out.put(codes[s]!, lengths[s]!)
      out.put(codes[repeat]!, lengths[repeat]!)
      out.put(more, 8)
    } else for (; more >= 0; more--) out.put(codes[s]!, lengths[s]!)
  }
  const bits = out.flush()
  const packed = new Uint8Array(HEADER + table.length + out.length)
  const view = new DataView(packed.buffer)
  ;[first, repeat, table.length, bits].forEach((value, i) => view.setUint32(4 * i, value, true))
  packed.set(table, HEADER)
  packed.set(out.bytes.subarray(0, out.length), HEADER + table.length)
  return packed
}

function unpackLengths(table: Uint8Array, first: number, last: number): Uint8Array | null {
  const lengths = new Uint8Array(SYMBOLS)
  let at = 0
  const bits = (n: number): number => {
    let value = 0
    for (; n > 0; n--, at++) value = (value << 1) | (((table[at >> 3] ?? 0) >> (7 - (at & 7))) & 1)
    return value
  }
  for (let s = first; s <= last;) {
    if (at > 8 * table.length) return null
    const length = bits(6)
    if (length < SHORT_RUN) lengths[s++] = length
    else s += length === LONG_RUN ? bits(8) + LONG_FROM : length - SHORT_RUN + 2
    if (s > last + 1) return null
  }
  return lengths
}

/** Exactly `count` symbols, or null when the data is damaged. */
export function huffmanUnpack(packed: Uint8Array, count: number): Uint16Array | null {
  if (packed.length < HEADER) return null
  const view = new DataView(packed.buffer, packed.byteOffset, packed.byteLength)
  const [first, repeat, tableBytes, bits] = [0, 4, 8, 12].map(at => view.getUint32(at, true)) as [
    number,
    number,
    number,
    number
  ]
  if (first >= SYMBOLS || repeat >= SYMBOLS || first > repeat || tableBytes > packed.length - HEADER) return null
  const data = packed.subarray(HEADER + tableBytes)
  if (bits > 8 * data.length) return null
  const lengths = unpackLengths(packed.subarray(HEADER, HEADER + tableBytes), first, repeat)
  if (!lengths) return null
  const { counts, bases } = canonical(lengths)
  // symbols of each length in order, and what is found by the first bits alone
  const starts = new Int32Array(LONGEST + 2)
  for (let length = 1; length <= LONGEST; length++) starts[length + 1] = starts[length]! + counts[length]!
  const ordered = new Int32Array(starts[LONGEST + 1]!)
  const quick = new Int32Array(1 << QUICK)
  const next = starts.slice()
  for (let s = first; s <= repeat; s++) {
    const length = lengths[s]!
    if (length === 0) continue
    const code = bases[length]! + next[length]! - starts[length]!
    ordered[next[length]!++] = s
    if (length > QUICK) continue
    const from = code * 2 ** (QUICK - length)
    if (from >= 1 << QUICK) return null
    quick.fill((s << 6) | length, from, from + 2 ** (QUICK - length))
  }
  const out = new Uint16Array(count)
  let [at, done] = [0, 0]
  const peek = (from: number, n: number): number => {
    const byte = from >> 3
    const word = ((data[byte] ?? 0) << 16) | ((data[byte + 1] ?? 0) << 8) | (data[byte + 2] ?? 0)
    return (word >> (24 - (from & 7) - n)) & ((1 << n) - 1)
  }
  while (done < count) {
    if (at >= bits) return null
    const hit = quick[peek(at, QUICK)]!
    let symbol = -1
    if (hit) {
      symbol = hit >> 6
      at += hit & 63
    } else {
      let code = peek(at, QUICK)
      at += QUICK
      for (let length = QUICK + 1; length <= LONGEST && symbol < 0; length++) {
        code = code * 2 + peek(at++, 1)
        const n = code - bases[length]!
        if (n >= 0 && n < counts[length]!) symbol = ordered[starts[length]! + n]!
      }
      if (symbol < 0) return null
    }
    if (symbol === repeat) {
      const more = peek(at, 8)
      at += 8
      if (done === 0 || done + more > count) return null
      out.fill(out[done - 1]!, done, done + more)
      done += more
    } else out[done++] = symbol
  }
  return at <= bits ? out : null
}
