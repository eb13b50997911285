/** Huffman codes told by their lengths alone, for codecs of 8-bit planes. */

/** Longest code that is looked up at once. */
const AT_ONCE = 12

export interface HuffmanTable {
  /** By the next `AT_ONCE` bits: the symbol and its length, or 0 where the code is longer. */
  quick: Uint16Array
  /** Of longer codes, and all others: ascending left-aligned codes, with their lengths and symbols. */
  codes: Uint32Array
  lengths: Uint8Array
  symbols: Uint8Array
}

/**
 * The table of codes whose lengths are given in the order that codes ascend, left-aligned from zero. Null when they do
 * not fill the space of codes exactly, which no whole stream has.
 */
export function huffmanTable(entries: readonly { symbol: number; length: number }[]): HuffmanTable | null {
  const count = entries.length
  const codes = new Uint32Array(count)
  const lengths = new Uint8Array(count)
  const symbols = new Uint8Array(count)
  const quick = new Uint16Array(1 << AT_ONCE)
  let code = 0
  for (const [i, { symbol, length }] of entries.entries()) {
    if (length < 1 || length > 32 || code >= 2 ** 32) return null
    codes[i] = code
    lengths[i] = length
    symbols[i] = symbol
    const step = 2 ** (32 - length)
    if (length <= AT_ONCE)
      quick.fill((length << 8) | symbol, code >>> (32 - AT_ONCE), (code + step) / 2 ** (32 - AT_ONCE))
    code += step
  }
  return code === 2 ** 32 ? { quick, codes, lengths, symbols } : null
}

/** Bits of a stretch of bytes, highest first; of little-endian words where `words` is set. */
export class Bits {
  private at = 0

  constructor(
    private readonly bytes: Uint8Array,
    private readonly words: boolean
  ) {}

  private byte(i: number): number {
    return this.bytes[this.words ? i ^ 3 : i] ?? 0
  }

  /** The next 32 bits, zeros beyond the end; nothing is taken. */
  peek(): number {
    const i = this.at >> 3
    const shift = this.at & 7
    const high = ((this.byte(i) << 24) | (this.byte(i + 1) << 16) | (this.byte(i + 2) << 8) | this.byte(i + 3)) >>> 0
    return shift === 0 ? high : ((high << shift) | (this.byte(i + 4) >>> (8 - shift))) >>> 0
  }

  skip(bits: number): void {
    this.at += bits
  }

  take(bits: number): number {
    const value = this.peek() >>> (32 - bits)
    this.at += bits
    return value
  }

  /** Whether more was taken than there is. */
  get over(): boolean {
    return this.at > this.bytes.length * 8
  }
}

/** Decodes symbols until `out` is full; false when the bits end before. */
export function unpackSymbols(bits: Bits, { quick, codes, lengths, symbols }: HuffmanTable, out: Uint8Array): boolean {
  for (let n = 0; n < out.length; n++) {
    const next = bits.peek()
    const found = quick[next >>> (32 - AT_ONCE)]!
    if (found) {
      out[n] = found & 255
      bits.skip(found >> 8)
      continue
    }
    let low = 0
    let high = codes.length - 1
    while (low < high) {
      const middle = (low + high + 1) >> 1
      if (codes[middle]! <= next) low = middle
      else high = middle - 1
    }
    out[n] = symbols[low]!
    bits.skip(lengths[low]!)
  }
  return !bits.over
}
