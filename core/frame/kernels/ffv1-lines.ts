/** Lines of FFV1 (RFC 9043, 3.3 to 3.7): neighbours, their median, contexts, and colours put together again. */
/** Samples on either side of a line that neighbours are looked for in. */
export const BEFORE = 2
const BEHIND = 1

/** Three lines of a plane: the one at hand, and the two above it. */
export class Lines {
  private lines: Int32Array[]

  constructor(private readonly width: number) {
    this.lines = [0, 1, 2].map(() => new Int32Array(BEFORE + width + BEHIND))
  }

  /**
   * Begins a line: what lies left of it is the first of the line above, what lies right of that is its last (RFC 9043,
   * 3.1).
   */
  next(): { here: Int32Array; above: Int32Array; top: Int32Array } {
    const [here, above, top] = [this.lines[2]!, this.lines[0]!, this.lines[1]!]
    this.lines = [here, above, top]
    here[BEFORE - 1] = above[BEFORE]!
    here[BEFORE - 2] = 0
    above[BEFORE + this.width] = above[BEFORE + this.width - 1]!
    return { here, above, top }
  }
}

/** The median of three, which predicts a sample (RFC 9043, 3.3). */
export const median = (a: number, b: number, c: number): number =>
  a > b ? (b > c ? b : a > c ? c : a) : a > c ? a : b > c ? c : b

/**
 * The context of a sample, negative where its difference is to change its sign (RFC 9043, 3.5). `x` counts from
 * `BEFORE`.
 */
export function contextOf(
  tables: Int16Array,
  set: number,
  { here, above, top }: { here: Int32Array; above: Int32Array; top: Int32Array },
  x: number
): number {
  const at = set * 1280
  const [left, corner, up, right] = [here[x - 1]!, above[x - 1]!, above[x]!, above[x + 1]!]
  return (
    tables[at + ((left - corner) & 255)]! +
    tables[at + 256 + ((corner - up) & 255)]! +
    tables[at + 512 + ((up - right) & 255)]! +
    tables[at + 768 + ((here[x - 2]! - left) & 255)]! +
    tables[at + 1024 + ((top[x]! - up) & 255)]!
  )
}

/** Lines of the planes as RGBA (RFC 9043, 3.7.2.1). */
export function toRgba(
  rows: readonly Int32Array[],
  width: number,
  bits: number,
  samples: Uint8Array | Uint16Array,
  at: number
): void {
  const offset = 1 << bits
  const full = (1 << bits) - 1
  const [first, second, third, fourth] = rows as [Int32Array, Int32Array, Int32Array, Int32Array | undefined]
  for (let x = 0; x < width; x++) {
    const b = second[BEFORE + x]! - offset
    const r = third[BEFORE + x]! - offset
    const g = first[BEFORE + x]! - ((b + r) >> 2)
    const to = at + 4 * x
    samples[to] = r + g
    samples[to + 1] = g
    samples[to + 2] = b + g
    samples[to + 3] = fourth ? fourth[BEFORE + x]! : full
  }
}
