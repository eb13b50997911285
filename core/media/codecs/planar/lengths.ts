/** Lengths of Huffman codes from how often each value occurs, and the codes that canonical lengths stand for. */

/** What stands for a value that does not occur. */
export const ABSENT = 255

/** Longest code that is made: rarer values are taken as more frequent than they are. */
const LONGEST = 24

/** Lengths of the codes of 256 values; 0 of the only one that occurs, 255 of those that do not. */
export function codeLengths(counts: Uint32Array): Uint8Array {
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
  const longest = lengths.reduce((most, length) => (length === ABSENT ? most : Math.max(most, length)), 0)
  return longest > LONGEST ? codeLengths(counts.map(count => (count ? (count >> 1) + 1 : 0))) : lengths
}

/** Lengths in the order that codes ascend: longest first, and of one length the highest value first. */
export const ascending = (lengths: Uint8Array): { symbol: number; length: number }[] =>
  [...lengths]
    .map((length, symbol) => ({ symbol, length }))
    .filter(({ length }) => length !== ABSENT)
    .sort((a, b) => b.length - a.length || b.symbol - a.symbol)

/** The code of each value, its bits from bit 32 on; see `Kernels.planarCode`. */
export function codesOf(lengths: Uint8Array): BigUint64Array {
  const codes = new BigUint64Array(256)
  let code = 0
  for (const { symbol, length } of ascending(lengths)) {
    if (!length) continue
    codes[symbol] = (BigInt(length) << 32n) | BigInt(code / 2 ** (32 - length))
    code += 2 ** (32 - length)
  }
  return codes
}
