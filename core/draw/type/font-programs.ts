/**
 * PostScript outlines of a font (Compact Font Format and Type 2 charstrings, technical notes 5176 and 5177): each
 * letter is a
 * small program. They are run through here without drawing, so that none that calls itself, or is longer than letters
 * are, reaches the parser.
 */

const MOST = { letters: 65_535, depth: 10, letter: 100_000, font: 40_000_000 }

interface Index {
  at(n: number): Uint8Array
  readonly count: number
  /** Where what follows begins. */
  readonly end: number
}

const viewOf = (bytes: Uint8Array): DataView => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)

/** An INDEX (5176, 5): objects of any length, by their offsets. */
function indexAt(bytes: Uint8Array, from: number): Index {
  const view = viewOf(bytes)
  const count = view.getUint16(from)
  if (count === 0) return { count, end: from + 2, at: () => new Uint8Array(0) }
  const size = view.getUint8(from + 2)
  if (size < 1 || size > 4) throw new Error('an index of its letters is damaged')
  const offset = (n: number): number => {
    let value = 0
    for (let i = 0; i < size; i++) value = value * 256 + view.getUint8(from + 3 + n * size + i)
    return value
  }
  const base = from + 2 + (count + 1) * size
  const end = base + offset(count)
  if (end > bytes.length) throw new Error('an index of its letters lies outside of it')
  return {
    count,
    end,
    at(n) {
      const [first, last] = [base + offset(n), base + offset(n + 1)]
      if (first > last || last > end) throw new Error('an index of its letters is damaged')
      return bytes.subarray(first, last)
    }
  }
}

/** Entries of a DICT (5176, 4) by their operator, two bytes of one as 1200 and the second. */
function dictOf(bytes: Uint8Array): Map<number, number[]> {
  const view = viewOf(bytes)
  const entries = new Map<number, number[]>()
  let operands: number[] = []
  for (let i = 0; i < bytes.length;) {
    const b = bytes[i++]!
    if (b <= 21) {
      entries.set(b === 12 ? 1200 + view.getUint8(i++) : b, operands)
      operands = []
    } else if (b === 28) {
      operands.push(view.getInt16(i))
      i += 2
    } else if (b === 29) {
      operands.push(view.getInt32(i))
      i += 4
    } else if (b === 30) {
      // a real number: nibbles up to one that is 15; none is needed here
      while (i < bytes.length && (bytes[i]! & 15) !== 15 && bytes[i]! >> 4 !== 15) i++
      i++
      operands.push(NaN)
    } else if (b >= 32 && b <= 246) operands.push(b - 139)
    else if (b >= 247 && b <= 250) operands.push((b - 247) * 256 + view.getUint8(i++) + 108)
    else if (b >= 251 && b <= 254) operands.push(-(b - 251) * 256 - view.getUint8(i++) - 108)
    else throw new Error('a table of its outlines is damaged')
  }
  return entries
}

const CHARSTRINGS = 17
const PRIVATE = 18
const SUBROUTINES = 19
const KEYED = 1230

/** Number that is added to a call of a subroutine (5177, 4.7). */
const biasOf = (count: number): number => (count < 1240 ? 107 : count < 33_900 ? 1131 : 32_768)

/** Runs programs without drawing, and counts what they do. */
class Runner {
  private stack: number[] = []
  private hints = 0
  private steps = 0
  private ended = false
  total = 0

  constructor(
    private readonly own: Index,
    private readonly shared: Index
  ) {}

  letter(program: Uint8Array): void {
    this.stack = []
    this.hints = 0
    this.steps = 0
    this.ended = false
    this.run(program, 0)
    this.total += this.steps
    if (this.total > MOST.font) throw new Error('its letters are longer than letters are')
  }

  private call(routines: Index, depth: number): void {
    const n = (this.stack.pop() ?? NaN) + biasOf(routines.count)
    if (!(Number.isInteger(n) && n >= 0 && n < routines.count))
      throw new Error('a letter of it calls what is not there')
    this.run(routines.at(n), depth + 1)
  }

  private stem(): void {
    this.hints += this.stack.length >> 1
    this.stack = []
  }

  private run(program: Uint8Array, depth: number): void {
    if (depth > MOST.depth) throw new Error('its letters call each other without end')
    const view = viewOf(program)
    for (let i = 0; i < program.length && !this.ended;) {
      if (++this.steps > MOST.letter) throw new Error('a letter of it is longer than letters are')
      const b = program[i++]!
      if (b === 28) {
        this.stack.push(view.getInt16(i))
        i += 2
      } else if (b === 255) {
        this.stack.push(view.getInt32(i) / 65_536)
        i += 4
      } else if (b >= 32) {
        if (b <= 246) this.stack.push(b - 139)
        else if (b <= 250) this.stack.push((b - 247) * 256 + view.getUint8(i++) + 108)
        else this.stack.push(-(b - 251) * 256 - view.getUint8(i++) - 108)
      } else if (b === 10) this.call(this.own, depth)
      else if (b === 29) this.call(this.shared, depth)
      else if (b === 11) return
      else if (b === 14) this.ended = true
      else if (b === 1 || b === 3 || b === 18 || b === 23) this.stem()
      else if (b === 19 || b === 20) {
        this.stem()
        i += (this.hints + 7) >> 3
      } else if (b === 12) {
        const second = view.getUint8(i++)
        // curves that may be flat; all other pairs reckon, and no font that is drawn has them
        if (second < 34 || second > 37) throw new Error('its letters reckon, which none that are read do')
        this.stack = []
      } else this.stack = []
      if (this.stack.length > 513) throw new Error('a letter of it has too many numbers')
    }
  }
}

/** Throws in words where the "CFF " table of a font is not what letters are made of. */
export function checkPrograms(table: Uint8Array): void {
  const names = indexAt(table, viewOf(table).getUint8(2))
  const tops = indexAt(table, names.end)
  const strings = indexAt(table, tops.end)
  const shared = indexAt(table, strings.end)
  if (names.count !== 1 || tops.count !== 1) throw new Error('it holds several fonts, or none')
  const top = dictOf(tops.at(0))
  if (top.has(KEYED)) throw new Error('its letters are kept by number, as those of East Asian scripts are')
  const [place] = top.get(CHARSTRINGS) ?? []
  const [size, from] = top.get(PRIVATE) ?? []
  if (!place || size === undefined || from === undefined || from < 0 || size < 0 || from + size > table.length)
    throw new Error('its outlines are not there')
  const [subroutines] = dictOf(table.subarray(from, from + size)).get(SUBROUTINES) ?? []
  const none: Index = { count: 0, end: 0, at: () => new Uint8Array(0) }
  const letters = indexAt(table, place)
  if (letters.count > MOST.letters) throw new Error('it has more letters than there are')
  const runner = new Runner(subroutines ? indexAt(table, from + subroutines) : none, shared)
  for (let n = 0; n < letters.count; n++) runner.letter(letters.at(n))
}
