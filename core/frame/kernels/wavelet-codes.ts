/**
 * The codes of a wavelet film's bands: one for each size that a quantised coefficient has, its sign behind it, some for
 * runs of zeros, and one that ends a band. They were learnt by asking a media library what it reads from chosen bits;
 * together they fill the whole tree of codes, so that none is missing.
 */

/** Bits of a code, and their number. */
export interface WaveletCode {
  code: number
  bits: number
}

/** What ends a band. */
export const BAND_END: WaveletCode = { code: 0x3114ba3, bits: 26 }

/** Runs of zeros, longest first. */
export const ZERO_RUNS: readonly (WaveletCode & { zeros: number })[] = [
  { zeros: 320, code: 0b1101110100101, bits: 13 },
  { zeros: 180, code: 0b1100010111111, bits: 13 },
  { zeros: 100, code: 0b11010000101, bits: 11 },
  { zeros: 60, code: 0b1101000011, bits: 10 },
  { zeros: 32, code: 0b110001010, bits: 9 },
  { zeros: 20, code: 0b11010001, bits: 8 },
  { zeros: 12, code: 0b1101001, bits: 7 },
  { zeros: 1, code: 0b0, bits: 1 }
]

/** Codes of the sizes 1 to 255, without their signs: bits of those that follow, then the codes. */
const LEVELS = `
  2 2;
  3 7;
  5 19;
  6 30 36;
  7 63 6b 6f;
  8 d4 dc;
  9 189 1a0 1ab;
  10 310 316 354 375 377;
  11 623 684 6ab 6ec;
  12 c44 c5c c5e d55 dd1 dd3 ddb;
  13 188b 18bb 1aa8 1ba0 1ba4 1bb5;
  14 3115 3175 317d 3553 3768;
  15 6228 62e8 62f8 6aa4 6e85 6e87 6ed3;
  16 c453 c5d3 c5f3 dd08 dd0c dda4;
  17 188a4 18ba5 18be5 1aa95 1aa97 1ba13 1bb4a 1bb4b;
  18 31748 317c8 35528 3552c 37424 37434 37436;
  19 62294 62e92 62f92 6aa52 6aa5a 6e84a 6e86a 6e86e;
  20 c452a c5d27 c5f26 d54a6 d54b6 dd096 dd0d6 dd0de;
  21 188a56 18ba4d 18be4e 18be4f 1aa96e 1ba12e 1ba12f 1ba1af 1ba1bf;
  22 317498 35529c 35529d 3552de 3552df 37435d 37437d;
  23 62295d 62e933 6aa53d 6aa53e 6aa53f 6e86b9 6e86f8;
  24 c452b8 c5d265 d54a78 d54a79 dd0d70 dd0d71 dd0df2 dd0df3;
  26 3114ba2;
  25 188a5b1 188a58b 188a595 188a5d6 188a5d7 188a5a8 188a5ae 188a5af 188a5c4 188a5c5 188a587 188a584 188a585
  188a5c6 188a5c7 188a5cc 188a5cd 188a581 188a582 188a583 188a5ce 188a5cf 188a5c2 188a5c3 188a5c1 188a5b4 188a5b5
  188a5e6 188a5e7 188a5e4 188a5e5 188a5ab 188a5e0 188a5e1 188a5e2 188a5e3 188a5b6 188a5b7 188a5fd 188a57e 188a57f
  188a5ec 188a5ed 188a5fe 188a5ff 188a57d 188a59c 188a59d 188a5e8 188a5e9 188a5ea 188a5eb 188a5ef 188a57a 188a57b
  188a578 188a579 188a5ba 188a5bb 188a5b8 188a5b9 188a588 188a589 18ba4c8 18ba4c9 188a5fa 188a5fb 188a5bc 188a5bd
  188a598 188a599 188a5f4 188a5f5 188a59b 188a5de 188a5df 188a596 188a597 188a5f8 188a5f9 188a5f1 188a58e 188a58f
  188a5dc 188a5dd 188a5f2 188a5f3 188a58c 188a58d 188a5a4 188a5f0 188a5a5 188a5a6 188a5a7 188a59a 188a5a2 188a5a3
  188a58a 188a5b0 188a5a0 188a5a1 188a5da 188a5db 188a59e 188a59f 188a5d8 188a5ee 188a5d9 188a5f6 188a5f7 188a57c
  188a5c8 188a5c9 188a594 188a5fc 188a5ca 188a5cb 188a5b2 188a5aa 188a5b3 188a572 188a573 188a5c0 188a5be 188a5bf
  188a592 188a580 188a593 188a590 188a591 188a586 188a5a9 188a5d2 188a5d3 188a5d4 188a5d5 188a5ac 188a5ad 188a5d0;`

/** Code of each size from 1 to 255, without the bit of its sign (1 is below zero), which follows. */
export const LEVEL_CODES: readonly WaveletCode[] = LEVELS.split(';')
  .map(group => group.trim().split(/\s+/))
  .filter(([bits]) => bits)
  .flatMap(([bits, ...codes]) => codes.map(code => ({ code: parseInt(code, 16), bits: Number(bits) })))

/** What a size stands for where sizes are companded: large ones lie further apart. */
export const companded = (size: number): number => size + Math.floor((768 * size ** 3) / 2 ** 24)

/** Bits that the first table of the decoder looks up, and those behind it. */
const WINDOWS = [12, 8, 7] as const

/** Kinds of what is looked up, as assembly/wavelet.ts knows them. */
const [RUN, LEVEL, DEEPER, END] = [0, 1, 2, 3]

/** An entry: kind, bits that it takes, zeros before, and size with sign plus 256 or the place of a deeper table. */
const entry = (kind: number, bits: number, zeros: number, value: number): number =>
  ((kind << 30) | (bits << 25) | (zeros << 14) | value) >>> 0

interface Leaf extends WaveletCode {
  kind: number
  zeros: number
  value: number
}

function leaves(): Leaf[] {
  return [
    ...ZERO_RUNS.map(run => ({ ...run, kind: RUN!, value: 256 })),
    ...LEVEL_CODES.flatMap(({ code, bits }, i) =>
      [0, 1].map(sign => ({
        kind: LEVEL!,
        code: code * 2 + sign,
        bits: bits + 1,
        zeros: 0,
        value: 256 + (sign ? -1 : 1) * (i + 1)
      }))
    ),
    { ...BAND_END, kind: END!, zeros: 0, value: 0 }
  ]
}

/**
 * Tables for the decoder, one behind the other: entries for every 12 bits that may follow, and deeper ones of 8 and 7
 * bits for longer codes. An entry takes as many whole runs of zeros as its bits hold, and the coefficient behind them.
 */
export function waveletDecodeTable(): Uint32Array<ArrayBuffer> {
  const table: number[] = []
  const fill = (codes: readonly Leaf[], depth: number, used: number): number => {
    const window = WINDOWS[depth]!
    const base = table.length
    for (let i = 0; i < 2 ** window; i++) table.push(0)
    const long = new Map<number, Leaf[]>()
    for (const leaf of codes) {
      const rest = leaf.bits - used
      const low = leaf.code & (2 ** rest - 1)
      if (rest > window) {
        const prefix = low >>> (rest - window)
        long.set(prefix, [...(long.get(prefix) ?? []), leaf])
        continue
      }
      const first = base + low * 2 ** (window - rest)
      table.fill(entry(leaf.kind, leaf.bits, leaf.zeros, leaf.value), first, first + 2 ** (window - rest))
    }
    for (const [prefix, deeper] of long)
      table[base + prefix] = entry(DEEPER!, window, 0, fill(deeper, depth + 1, used + window) >>> 0)
    return base
  }
  fill(leaves(), 0, 0)
  return joined(Uint32Array.from(table))
}

/** The first table with short codes joined: runs of zeros, and what follows them, as one entry. */
function joined(table: Uint32Array<ArrayBuffer>): Uint32Array<ArrayBuffer> {
  const [window] = WINDOWS
  const plain = table.slice(0, 2 ** window)
  for (let bits = 0; bits < 2 ** window; bits++) {
    let [used, zeros] = [0, 0]
    for (;;) {
      const next = plain[(bits << used) & (2 ** window - 1)]!
      const [kind, takes] = [next >>> 30, (next >>> 25) & 31]
      if (kind > LEVEL! || used + takes > window) break
      used += takes
      zeros += (next >>> 14) & 2047
      if (kind === LEVEL) {
        table[bits] = entry(LEVEL, used, zeros, next & 16383)
        break
      }
      table[bits] = entry(RUN!, used, zeros, 256)
    }
  }
  return table
}

/** The longest run of zeros that one code has. */
const LONGEST = ZERO_RUNS[0]!.zeros

/**
 * What begins a run of so many zeros in the fewest bits: as many of its codes as 32 bits hold, and the zeros that they
 * take.
 */
function runOf(zeros: number, cheapest: readonly number[]): bigint {
  let [taken, bits, code] = [0, 0, 0n]
  while (taken < zeros) {
    const next = ZERO_RUNS.filter(run => run.zeros <= zeros - taken).reduce((best, run) =>
      run.bits + cheapest[zeros - taken - run.zeros]! < best.bits + cheapest[zeros - taken - best.zeros]! ? run : best
    )
    if (bits + next.bits > 32) break
    taken += next.zeros
    bits += next.bits
    code = (code << BigInt(next.bits)) | BigInt(next.code)
  }
  return (BigInt(taken) << 48n) | (BigInt(bits) << 32n) | code
}

/** The size whose meaning lies nearest to each value from 0 to 1023, where sizes are companded. */
function nearestSizes(): Uint8Array {
  const nearest = new Uint8Array(1024)
  for (let value = 1, size = 1; value < 1024; value++) {
    while (size < 255 && companded(size + 1) - value <= value - companded(size)) size++
    nearest[value] = size
  }
  return nearest
}

/**
 * Tables for the encoder: of each quantised value from -1024 to 1023 the bits of its companded size's code (from bit
 * 32) and the code; then of each run of 0 to 320 zeros the zeros that are taken (from bit 48), bits and codes.
 */
export function waveletEncodeTable(): BigUint64Array<ArrayBuffer> {
  const table = new BigUint64Array(2048 + LONGEST + 1)
  for (const [value, size] of nearestSizes().entries()) {
    if (!size) continue
    const { code, bits } = LEVEL_CODES[size - 1]!
    for (const sign of [0, 1])
      table[1024 + (sign ? -value : value)] = (BigInt(bits + 1) << 32n) | BigInt(code * 2 + sign)
  }
  const cheapest = [0]
  for (let zeros = 1; zeros <= LONGEST; zeros++) {
    const costs = ZERO_RUNS.filter(run => run.zeros <= zeros).map(run => run.bits + cheapest[zeros - run.zeros]!)
    cheapest.push(Math.min(...costs))
    table[2048 + zeros] = runOf(zeros, cheapest)
  }
  return table
}
