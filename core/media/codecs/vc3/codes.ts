/** The code books of VC-3 as the tables that its kernel looks codes up in. */
import { BOOKS, type Vc3Book } from './books'
import type { Vc3Kind } from './kinds'

/** Bits that each table looks up at once, and those of the deeper tables behind that of sizes. */
const [FIRST, RUNS, SIZES, DEEP] = [7, 10, 12, 4]

/** What an entry says beside the bits that a code takes; see assembly/vc3.ts. */
const [RUN, MORE, DEEPER] = [32, 64, 128]

interface Meaning {
  /** Its length in base 36, and its bits in base 16. */
  word: string
  entry: number
}

const bitsOf = (word: string): number => parseInt(word[0]!, 36)
const codeOf = (word: string): number => parseInt(word.slice(1), 16)

/** Puts a code into a table of so many bits, wherever it begins what is looked up. */
function put(table: Uint32Array, window: number, code: number, { bits, entry }: { bits: number; entry: number }): void {
  const first = code * 2 ** (window - bits)
  table.fill(entry, first, first + 2 ** (window - bits))
}

/** The tables of a book, one behind the other: first coefficients, runs, sizes, and what goes deeper than those. */
function tablesOf({ first, end, sizes, runs }: Vc3Book): Uint32Array {
  const firsts = new Uint32Array(2 ** FIRST)
  for (const [extra, word] of first.entries())
    put(firsts, FIRST, codeOf(word), { bits: bitsOf(word), entry: (extra << 8) | bitsOf(word) })
  const runTable = new Uint32Array(2 ** RUNS)
  for (const [i, word] of runs.entries())
    put(runTable, RUNS, codeOf(word), { bits: bitsOf(word), entry: ((i + 1) << 8) | bitsOf(word) })
  const kinds = [0, RUN, MORE, RUN | MORE]
  const meanings: Meaning[] = [
    { word: end, entry: bitsOf(end) },
    ...sizes.flatMap((words, kind) =>
      words.map((word, i) => ({ word, entry: ((i + 1) << 8) | kinds[kind]! | bitsOf(word) }))
    )
  ]
  const sizeTable = new Uint32Array(2 ** SIZES)
  const deeper = new Map<number, Uint32Array>()
  for (const { word, entry } of meanings) {
    const [bits, code] = [bitsOf(word), codeOf(word)]
    if (bits <= SIZES) {
      put(sizeTable, SIZES, code, { bits, entry })
      continue
    }
    const prefix = code >> (bits - SIZES)
    const table = deeper.get(prefix) ?? new Uint32Array(2 ** DEEP)
    put(table, DEEP, code & (2 ** (bits - SIZES) - 1), { bits: bits - SIZES, entry })
    deeper.set(prefix, table)
  }
  const whole = new Uint32Array(firsts.length + runTable.length + sizeTable.length + deeper.size * 2 ** DEEP)
  let place = sizeTable.length
  const behind = firsts.length + runTable.length
  for (const [prefix, table] of deeper) {
    sizeTable[prefix] = (place << 8) | DEEPER
    whole.set(table, behind + place)
    place += table.length
  }
  whole.set(firsts)
  whole.set(runTable, firsts.length)
  whole.set(sizeTable, behind)
  return whole
}

const entryOf = (word: string): number => (codeOf(word) << 5) | bitsOf(word)

/** What its coder writes: a code over the five bits of its length; see assembly/vc3-code.ts for where each stands. */
export function codesFor({ book }: Vc3Kind): Uint32Array {
  const known = coding.get(book)
  if (known) return known
  const { first, end, sizes, runs } = BOOKS[book]
  const codes = new Uint32Array(32 + 4 * 64 + 64)
  codes.set(first.map(entryOf))
  codes[16] = entryOf(end)
  for (const [kind, words] of sizes.entries()) codes.set(words.map(entryOf), 32 + 64 * kind)
  codes.set(runs.map(entryOf), 32 + 4 * 64 + 1)
  coding.set(book, codes)
  return codes
}

const coding = new Map<Vc3Kind['book'], Uint32Array>()

const made = new Map<number, { codes: Uint32Array; weights: Float32Array }>()

/** Tables and weights of a kind of frames, made once. */
export function tablesFor({ id, book, luma, chroma }: Vc3Kind): { codes: Uint32Array; weights: Float32Array } {
  const known = made.get(id)
  if (known) return known
  const tables = { codes: tablesOf(BOOKS[book]), weights: Float32Array.from([...luma, ...chroma]) }
  made.set(id, tables)
  return tables
}
