/**
 * Golomb-Rice codes of FFV1 (RFC 9043, 3.8.2): each context learns how long its symbols are; where nothing changes,
 * runs are counted.
 */

/** Powers of two that a run grows by, each time one was whole. */
const RUNS = [0, 0, 0, 0, 1, 1, 1, 1, 2, 2, 2, 2, 3, 3, 3, 3, 4, 4, 5, 5, 6, 6, 7, 7, 8, 9, 10, 11, 12, 13, 14, 15]
const ESCAPE = 12

/** Of a context: drift, sum of errors, bias, count. */
export const LEARNT = 4

/** What is learned of each context before the first sample. */
export const freshLearning = (contexts: number): Int32Array => {
  const states = new Int32Array(LEARNT * contexts)
  for (let c = 0; c < contexts; c++) [states[LEARNT * c + 1], states[LEARNT * c + 3]] = [4, 1]
  return states
}

export class GolombDecoder {
  private at: number
  /** How long the next run is expected to be: it goes on from line to line. */
  private runLevel = 0

  constructor(
    private readonly bytes: Uint8Array,
    from: number
  ) {
    this.at = 8 * from
  }

  /** Planes that follow one another begin with the shortest run. */
  newPlane(): void {
    this.runLevel = 0
  }

  get over(): boolean {
    return this.at > 8 * this.bytes.length
  }

  bits(count: number): number {
    let value = 0
    for (let i = 0; i < count; i++, this.at++)
      value = 2 * value + (((this.bytes[this.at >> 3] ?? 0) >> (7 - (this.at & 7))) & 1)
    return value
  }

  private symbol(states: Int32Array, at: number, bits: number): number {
    let k = 0
    for (let n = states[at + 3]!; n < states[at + 1]!; n *= 2) k++
    let prefix = 0
    while (prefix < ESCAPE && !this.bits(1)) prefix++
    const coded = prefix < ESCAPE ? this.bits(k) + prefix * 2 ** k : this.bits(bits) + ESCAPE - 1
    let value = coded & 1 ? -(coded >>> 1) - 1 : coded >>> 1
    if (2 * states[at]! + states[at + 3]! < 0) value = ~value
    const result = ((value + states[at + 2]!) << (32 - bits)) >> (32 - bits)
    this.learn(states, at, value)
    return result
  }

  private learn(states: Int32Array, at: number, value: number): void {
    let [drift, errors, bias, count] = [
      states[at]! + value,
      states[at + 1]! + Math.abs(value),
      states[at + 2]!,
      states[at + 3]!
    ]
    if (count === 128) [count, drift, errors] = [count >> 1, drift >> 1, errors >> 1]
    count++
    if (drift <= -count) {
      bias = Math.max(bias - 1, -128)
      drift = Math.max(drift + count, -count + 1)
    } else if (drift > 0) {
      bias = Math.min(bias + 1, 127)
      drift = Math.min(drift - count, 0)
    }
    states.set([drift, errors, bias, count], at)
  }

  /** One line of differences: `contextAt` tells the context of a sample, `put` takes its difference and sign. */
  line(
    width: number,
    bits: number,
    states: Int32Array,
    contextAt: (x: number) => number,
    put: (x: number, difference: number) => void
  ): void {
    let mode: 'none' | 'whole' | 'part' = 'none'
    let run = 0
    for (let x = 0; x < width; x++) {
      const context = contextAt(x)
      const at = LEARNT * Math.abs(context)
      let difference: number
      if (context === 0 && mode === 'none') mode = 'whole'
      if (mode === 'none') difference = this.symbol(states, at, bits)
      else {
        if (run === 0 && mode === 'whole') {
          const length = RUNS[this.runLevel] ?? 15
          if (this.bits(1)) {
            run = 1 << length
            if (x + run <= width) this.runLevel++
          } else {
            run = length ? this.bits(length) : 0
            if (this.runLevel) this.runLevel--
            mode = 'part'
          }
        }
        if (--run < 0) {
          mode = 'none'
          run = 0
          difference = this.symbol(states, at, bits)
          if (difference >= 0) difference++
        } else difference = 0
      }
      put(x, context < 0 ? -difference : difference)
    }
  }
}
