/**
 * The range coder of FFV1 (RFC 9043, 3.8.1): a binary arithmetic coder whose states, one byte each, say how likely a 1
 * is, and move by a table with every bit.
 */

/** What states become: bytes 0 to 255 after a 0, 256 to 511 after a 1. */
export type Transitions = Uint8Array

/** Both halves of a table from what states become after a 1 (RFC 9043, 3.8.1.3). */
export function transitionsOf(afterOne: Uint8Array): Transitions {
  const table = new Uint8Array(512)
  table.set(afterOne, 256)
  for (let i = 1; i < 256; i++) table[i] = 256 - afterOne[256 - i]!
  return table
}

/**
 * The table a stream has that brings none (RFC 9043, 3.8.1.5): after a 1 the likelihood goes a twentieth of the way to
 * certainty; states on the way from a half come first, then the rest, none below 8 or above 248.
 */
export function defaultTransitions(): Uint8Array {
  // in 32-bit fractions, rounded where the standard's table was
  const one = 2n ** 32n
  const rise = (one * 5n) / 100n
  const risen = (p: bigint): bigint => p + (((one - p) * rise + one / 2n) >> 32n)
  const stateOf = (p: bigint): number => Number((256n * p + one / 2n) >> 32n)
  const most = 248
  const after = new Uint8Array(256)
  let last = 0
  for (let n = 0, p = one / 2n; n < 128; n++, p = risen(p)) {
    const state = Math.max(stateOf(p), last + 1)
    if (last > 0 && last < 256 && state <= most) after[last] = state
    last = state
  }
  for (let state = 256 - most; state <= most; state++)
    if (!after[state])
      after[state] = Math.min(most, Math.max(state + 1, stateOf(risen((BigInt(state) * one + 128n) >> 8n))))
  return after
}

/** The default table, both halves. */
export const DEFAULT_TRANSITIONS: Transitions = transitionsOf(defaultTransitions())

/** Bytes of state that a symbol takes. */
export const SYMBOL = 32

/** Where a symbol's bits find their states: zero or not, length, sign, and the bits below the highest. */
const LENGTH = 1
const SIGN = 11
const LOW = 22

export class RangeDecoder {
  low: number
  range = 0xff00
  /** Where the next byte is read. Beyond the end there are zeros. */
  at: number

  constructor(
    readonly bytes: Uint8Array,
    from: number,
    public transitions: Transitions
  ) {
    this.low = ((bytes[from] ?? 0) << 8) | (bytes[from + 1] ?? 0)
    this.at = from + 2
  }

  bit(states: Uint8Array, place: number): number {
    const state = states[place]!
    const share = (this.range * state) >>> 8
    this.range -= share
    let one = 0
    if (this.low >= this.range) {
      this.low -= this.range
      this.range = share
      one = 1
    }
    states[place] = this.transitions[256 * one + state]!
    if (this.range < 0x100) {
      this.range <<= 8
      this.low = (this.low << 8) | (this.bytes[this.at] ?? 0)
      this.at++
    }
    return one
  }

  /** A whole number (RFC 9043, 3.8.1.2); NaN where it is longer than any can be. */
  symbol(states: Uint8Array, place: number, signed: boolean): number {
    if (this.bit(states, place)) return 0
    let length = 0
    while (this.bit(states, place + LENGTH + Math.min(length, 9))) if (++length > 31) return NaN
    let value = 1
    for (let i = length - 1; i >= 0; i--) value = 2 * value + this.bit(states, place + LOW + Math.min(i, 9))
    return signed && this.bit(states, place + SIGN + Math.min(length, 10)) ? -value : value
  }
}

export class RangeEncoder {
  low = 0
  range = 0xff00
  /** The byte that a carry may still raise, -1 before the first; and how many of 255 follow it. */
  held = -1
  run = 0
  out: number[] = []

  constructor(readonly transitions: Transitions) {}

  private renew(): void {
    while (this.range < 0x100) {
      if (this.held < 0) this.held = this.low >>> 8
      else if (this.low <= 0xff00) {
        this.out.push(this.held)
        for (; this.run > 0; this.run--) this.out.push(0xff)
        this.held = this.low >>> 8
      } else if (this.low >= 0x10000) {
        this.out.push(this.held + 1)
        for (; this.run > 0; this.run--) this.out.push(0)
        this.held = (this.low >>> 8) & 0xff
      } else this.run++
      this.low = (this.low & 0xff) << 8
      this.range <<= 8
    }
  }

  bit(states: Uint8Array, place: number, one: number): void {
    const state = states[place]!
    const share = (this.range * state) >>> 8
    if (one) {
      this.low += this.range - share
      this.range = share
    } else this.range -= share
    states[place] = this.transitions[256 * one + state]!
    this.renew()
  }

  symbol(states: Uint8Array, place: number, value: number, signed: boolean): void {
    this.bit(states, place, value === 0 ? 1 : 0)
    if (value === 0) return
    const size = Math.abs(value)
    const length = 31 - Math.clz32(size)
    for (let i = 0; i < length; i++) this.bit(states, place + LENGTH + Math.min(i, 9), 1)
    this.bit(states, place + LENGTH + Math.min(length, 9), 0)
    for (let i = length - 1; i >= 0; i--) this.bit(states, place + LOW + Math.min(i, 9), (size >>> i) & 1)
    if (signed) this.bit(states, place + SIGN + Math.min(length, 10), value < 0 ? 1 : 0)
  }

  /**
   * Ends a slice with the mark that ends it (RFC 9043, 3.8.1.1.1: a 0 of state 129), and hands its bytes out: those
   * that a reader has taken by then, and no more.
   */
  endSlice(): Uint8Array {
    this.bit(new Uint8Array([129]), 0, 0)
    return this.end()
  }

  /** Ends the stream, and hands its bytes out: those that are needed whatever follows them. */
  end(): Uint8Array {
    for (let i = 0; i < 2; i++) {
      this.low += i === 0 ? 0xff : 0
      this.range = 0xff
      this.renew()
    }
    // what is held back now decides nothing
    return Uint8Array.from(this.out)
  }
}
