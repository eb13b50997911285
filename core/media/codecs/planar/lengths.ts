/** Lengths of Huffman codes from how often each value occurs, and the codes that canonical lengths stand for. */

/** What stands for a value that does not occur. */
export const ABSENT = 255

/**
 * Lengths of the codes of 256 values, none beyond `longest`: rarer values are taken as more frequent than they are. The
 * only one that occurs has 0, those that do not have 255.
 */
export function codeLengths(counts: Uint32Array, longest = 24): Uint8Array {
  const lengths = new Uint8Array(256).fill(ABSENT)
  const nodes = [...counts.entries()]
    .filter(([, count]) => count > 0)
    .map(([value, count]) => ({ count, values: [value] }))
  for (const { values } of nodes) lengths[values[0]!] = 0
  nodes.sort((a, b) => b.count - a.count)
  while (nodes.length > 1) {
    const [a, b] = [nodes.pop()!, nodes.pop()!]
    const joined = { count: a.count + b.count, values: [...a.values, ...b.values] }
    for (const value of joined.values) lengths[value]!++
    // the rarest stand last
    nodes.splice(nodes.findLastIndex(({ count }) => count >= joined.count) + 1, 0, joined)
  }
  const found = lengths.reduce((most, length) => (length === ABSENT ? most : Math.max(most, length)), 0)
  return found > longest
    ? codeLengths(
        counts.map(count => (count ? (count >> 1) + 1 : 0)),
        longest
      )
    : lengths
}

/** A value and the length of its code. */
export interface CodeLength {
  symbol: number
  length: number
}

/** Lengths in the order that codes ascend: longest first, and of one length the highest value first. */
export const ascending = (lengths: Uint8Array): CodeLength[] =>
  [...lengths]
    .map((length, symbol) => ({ symbol, length }))
    .filter(({ length }) => length !== ABSENT)
    .sort((a, b) => b.length - a.length || b.symbol - a.symbol)

/** The same of one length the lowest value first; values without a code have no length. */
export const upwards = (lengths: ArrayLike<number>): CodeLength[] =>
  Array.from(lengths, (length, symbol) => ({ symbol, length }))
    .filter(({ length }) => length > 0)
    .sort((a, b) => b.length - a.length || a.symbol - b.symbol)

/** The code of each value, of lengths in the order that codes ascend, its bits from bit 32 on; see `planarCode`. */
export function codesOf(entries: readonly CodeLength[]): BigUint64Array {
  const codes = new BigUint64Array(256)
  let code = 0
  for (const { symbol, length } of entries) {
    if (!length) continue
    codes[symbol] = (BigInt(length) << 32n) | BigInt(code / 2 ** (32 - length))
    code += 2 ** (32 - length)
  }
  return codes
}
