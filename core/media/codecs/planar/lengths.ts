/** Lengths of Huffman codes from how often each value occurs, and the codes that canonical lengths stand for. */

/** What stands for a value that does not occur. */
export const ABSENT = 255

/**
 * Lengths of the codes of 256 values, none beyond `longest`: rarer values are taken as more frequent than they are. The
 * only one that occurs has 0, those that do not have 255.
 */
export function codeLengths(counts: Uint32Array, longest = 24): Uint8Array {
  const lengths = new Uint8Array(256).fill(ABSENT)
  const leaves = [...counts.entries()].filter(([, count]) => count > 0).sort((a, b) => a[1] - b[1])
  if (leaves.length === 1) lengths[leaves[0]![0]] = 0
  if (leaves.length < 2) return lengths
  // leaves from the rarest on, then the nodes that join two: those come in ascending order by themselves
  const weights = leaves.map(([, count]) => count)
  const parents: number[] = []
  let [leaf, node] = [0, leaves.length]
  const rarest = (): number => {
    const ofLeaves = node >= weights.length || (leaf < leaves.length && weights[leaf]! <= weights[node]!)
    return ofLeaves ? leaf++ : node++
  }
  const root = 2 * leaves.length - 2
  while (weights.length <= root) {
    const [a, b] = [rarest(), rarest()]
    parents[a] = parents[b] = weights.length
    weights.push(weights[a]! + weights[b]!)
  }
  const depths = new Uint8Array(root + 1)
  for (let n = root - 1; n >= 0; n--) depths[n] = depths[parents[n]!]! + 1
  // the rarest lies deepest
  if (depths[0]! > longest)
    return codeLengths(
      counts.map(count => (count ? (count >> 1) + 1 : 0)),
      longest
    )
  for (const [n, [value]] of leaves.entries()) lengths[value] = depths[n]!
  return lengths
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
