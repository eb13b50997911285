/**
 * Frames of FFV1 (RFC 9043, 4.4 to 4.9): slices found from the end, each with states that live on until a key frame. Of
 * versions 0 and 1 the picture is one slice.
 */
import { unreadable } from '../../../base/errors'
import type { Samples } from '../../../frame/frame'
import type { Kernels } from '../../../frame/kernels/kernels'
import { contextOf, Lines, median, toRgba } from '../../../frame/kernels/ffv1-lines'
import { DEFAULT_TRANSITIONS, RangeDecoder, SYMBOL } from '../../../frame/kernels/range-coder'
import { crcOf, readFrameConfig, type Ffv1Config } from './config'
import { freshLearning, GolombDecoder } from './golomb'

interface SliceHead {
  x: number
  y: number
  width: number
  height: number
  /** Which set of tables each of the three kinds of plane has. */
  sets: number[]
}

/** What the contexts of a slice have learnt, for each kind of plane. */
type Learnt = { coded: 'range'; states: Uint8Array } | { coded: 'golomb'; states: Int32Array[] }

/** A picture's planes as they are stored, for what is not RGB. */
export interface PlanesFound {
  planes: Uint16Array[]
  shapes: { width: number; height: number }[]
}

const share = (whole: number, n: number, parts: number): number => Math.floor((whole * n) / parts)

export class Ffv1Pictures {
  private readonly learnt = new Map<number, Learnt>()

  constructor(
    private readonly config: Ffv1Config,
    private readonly size: { width: number; height: number },
    private readonly file: string,
    private readonly kernels: Kernels
  ) {}

  /** Where the slices of a packet begin and end, found from their lengths, which stand behind them. */
  private slicesOf(packet: Uint8Array, fail: (matter: string) => Error): Uint8Array[] {
    const tail = this.config.checked ? 8 : 3
    const slices: Uint8Array[] = []
    for (let end = packet.length; end > 0;) {
      if (end < tail) throw fail('its slices do not fill it; it is damaged')
      const at = end - tail
      const length = (packet[at]! << 16) | (packet[at + 1]! << 8) | packet[at + 2]!
      if (length > at) throw fail('a slice is longer than what stands before it; it is damaged')
      const slice = packet.subarray(at - length, end)
      if (this.config.checked && crcOf(slice) !== 0) throw fail(`the checksum of a slice does not fit; it is damaged`)
      slices.unshift(slice.subarray(0, length))
      end = at - length
      if (slices.length > 1024) throw fail('it has more slices than any picture')
    }
    return slices
  }

  /** The head of a picture of version 0 or 1, which is one slice: at a key frame it says anew what all say. */
  private wholeHead(coder: RangeDecoder, key: boolean, fail: (matter: string) => Error): SliceHead {
    if (key) {
      const found = readFrameConfig(coder, fail)
      if (
        (['bits', 'alpha', 'golomb', 'rgb', 'chroma', 'across', 'down'] as const).some(
          key => found[key] !== this.config[key]
        )
      )
        throw fail('it is coded otherwise than the first frame')
    }
    coder.transitions = this.config.transitions
    return { x: 0, y: 0, ...this.size, sets: [0, 0, 0] }
  }

  private headOf(coder: RangeDecoder, fail: (matter: string) => Error): SliceHead {
    const { slicesAcross, slicesDown, sets, alpha } = this.config
    const states = new Uint8Array(SYMBOL).fill(128)
    const whole = (): number => coder.symbol(states, 0, false)
    const [x, y, w, h] = [whole(), whole(), whole() + 1, whole() + 1]
    if (!(x + w <= slicesAcross && y + h <= slicesDown)) throw fail('a slice lies outside of the picture')
    const chosen: number[] = []
    for (let i = 0; i < (alpha ? 3 : 2); i++) chosen.push(whole())
    if (chosen.some(set => !(set < sets.length))) throw fail('a slice names tables that are not there')
    // picture structure and the shape of pixels, which the container says as well
    for (let i = 0; i < 3; i++) whole()
    const { width, height } = this.size
    const left = share(width, x, slicesAcross)
    const top = share(height, y, slicesDown)
    return {
      x: left,
      y: top,
      width: share(width, x + w, slicesAcross) - left,
      height: share(height, y + h, slicesDown) - top,
      sets: alpha ? chosen : [...chosen, chosen[1]!]
    }
  }

  /** What contexts begin with at a key frame. */
  private fresh({ sets }: SliceHead): Learnt {
    const chosen = sets.map(set => this.config.sets[set]!)
    if (this.config.golomb) return { coded: 'golomb', states: chosen.map(set => freshLearning(set.contexts)) }
    const states = new Uint8Array(chosen.reduce((sum, set) => sum + set.contexts, 0) * SYMBOL).fill(128)
    let at = 0
    for (const set of chosen) {
      if (set.first) states.set(set.first, at)
      at += set.contexts * SYMBOL
    }
    return { coded: 'range', states }
  }

  /** Reads a packet's slices, and has each put where it belongs. */
  private read(
    packet: Uint8Array,
    place: string,
    put: (head: SliceHead, slice: Uint8Array, coder: RangeDecoder, learnt: Learnt, fail: (m: string) => Error) => void
  ): void {
    const fail = (matter: string): Error => unreadable(this.file, place, matter)
    let key = false
    let covered = 0
    const old = this.config.version < 3
    for (const [n, slice] of (old ? [packet] : this.slicesOf(packet, fail)).entries()) {
      const coder = new RangeDecoder(slice, 0, old ? DEFAULT_TRANSITIONS : this.config.transitions)
      if (n === 0) key = coder.bit(new Uint8Array([128]), 0) === 1
      const head = old ? this.wholeHead(coder, key, fail) : this.headOf(coder, fail)
      if (head.width < 1 || head.height < 1) throw fail('a slice has no pixels')
      const learnt = key ? this.fresh(head) : this.learnt.get(n)
      if (!learnt) throw fail('it builds on a frame that is not there')
      this.learnt.set(n, learnt)
      covered += head.width * head.height
      put(head, slice, coder, learnt, fail)
    }
    if (covered !== this.size.width * this.size.height) throw fail('its slices do not cover the picture')
  }

  private tablesOf({ sets }: SliceHead): Int16Array {
    const tables = new Int16Array(3 * 1280)
    sets.forEach((set, i) => tables.set(this.config.sets[set]!.tables, 1280 * i))
    return tables
  }

  /** Where Golomb codes begin: behind a mark that ends what was range coded (RFC 9043, 3.8.1.1.1). */
  private golombAt(coder: RangeDecoder): number {
    if (this.config.micro > 1) coder.bit(new Uint8Array([129]), 0)
    return coder.at - 1
  }

  /** RGBA of a packet of RGB, with `bits` a sample as they are stored. */
  rgba(packet: Uint8Array, place: string): Samples {
    const { bits, alpha } = this.config
    const { width, height } = this.size
    const whole = bits > 8 ? new Uint16Array(4 * width * height) : new Uint8Array(4 * width * height)
    this.read(packet, place, (head, slice, coder, learnt, fail) => {
      const plan = {
        width: head.width,
        height: head.height,
        bits,
        planes: alpha ? (4 as const) : (3 as const),
        tables: this.tablesOf(head),
        contexts: head.sets.map(set => this.config.sets[set]!.contexts) as [number, number, number],
        transitions: this.config.transitions
      }
      const first = head.y * width + head.x
      const damaged = 'a slice ends early or breaks off; it is damaged'
      if (learnt.coded === 'range') {
        const start = { at: coder.at, low: coder.low, range: coder.range }
        const coded = { data: slice, start, states: learnt.states }
        if (!this.kernels.ffv1Decode(coded, plan, { samples: whole, first, stride: width })) throw fail(damaged)
        return
      }
      const part = this.golombRgba(new GolombDecoder(slice, this.golombAt(coder)), learnt.states, plan)
      if (!part) throw fail(damaged)
      for (let y = 0; y < head.height; y++)
        whole.set(part.subarray(4 * y * head.width, 4 * (y + 1) * head.width), 4 * (first + y * width))
    })
    // of 9 to 15 bits without alpha, green and blue stand in each other's place (RFC 9043, 3.7.2.1, the exception)
    if (!alpha && bits > 8 && bits < 16)
      for (let i = 0; i < whole.length; i += 4) [whole[i + 1], whole[i + 2]] = [whole[i + 2]!, whole[i + 1]!]
    return whole
  }

  private golombRgba(
    coder: GolombDecoder,
    states: readonly Int32Array[],
    plan: { width: number; height: number; bits: number; planes: 3 | 4; tables: Int16Array }
  ): Uint8Array | Uint16Array | null {
    const { width, height, bits, planes, tables } = plan
    const samples = bits > 8 ? new Uint16Array(4 * width * height) : new Uint8Array(4 * width * height)
    const lines = Array.from({ length: planes }, () => new Lines(width))
    for (let y = 0; y < height; y++) {
      const rows = lines.map((line, p) => {
        const set = p === 0 ? 0 : p === 3 ? 2 : 1
        return golombLine(coder, line, { width, bits: bits + 1, tables, set, states: states[set]! })
      })
      if (coder.over) return null
      toRgba(rows, width, bits, samples, 4 * width * y)
    }
    return samples
  }

  /**
   * The planes of a packet of Y'CbCr or grey, each of its own size: luma, then chroma where there is any, then alpha.
   */
  planes(packet: Uint8Array, place: string): PlanesFound {
    const { chroma, alpha, across, down, bits } = this.config
    const { width, height } = this.size
    const small = { width: (width + (1 << across) - 1) >> across, height: (height + (1 << down) - 1) >> down }
    const shapes = [this.size, ...(chroma ? [small, small] : []), ...(alpha ? [this.size] : [])]
    const planes = shapes.map(shape => new Uint16Array(shape.width * shape.height))
    this.read(packet, place, (head, slice, coder, learnt, fail) => {
      const golomb = learnt.coded === 'golomb' ? new GolombDecoder(slice, this.golombAt(coder)) : null
      const tables = this.tablesOf(head)
      let starts = 0
      const begins = head.sets.map(set => {
        const at = starts
        starts += this.config.sets[set]!.contexts * SYMBOL
        return at
      })
      for (const [p, plane] of planes.entries()) {
        const set = p === 0 ? 0 : alpha && p === planes.length - 1 ? 2 : 1
        const shape = shapes[p]!
        const [dx, dy] = shape === small ? [across, down] : [0, 0]
        const [left, top] = [head.x >> dx, head.y >> dy]
        // a slice has as many samples of chroma as its own size needs (RFC 9043, 4.7.2), whichever pixel it begins at;
        // the last may so lie beyond the plane
        const w = (head.width + (1 << dx) - 1) >> dx
        const h = (head.height + (1 << dy) - 1) >> dy
        const shown = Math.min(w, shape.width - left)
        const lines = new Lines(w)
        golomb?.newPlane()
        for (let y = 0; y < h; y++) {
          const how = { width: w, bits, tables, set }
          const row =
            learnt.coded === 'golomb'
              ? golombLine(golomb!, lines, { ...how, states: learnt.states[set]! })
              : rangeLine(coder, lines, { ...how, states: learnt.states, begins: begins[set]! })
          if (!row || golomb?.over || coder.at > slice.length + 4) throw fail('a slice ends early; it is damaged')
          if (top + y < shape.height) plane.set(row.subarray(2, 2 + shown), (top + y) * shape.width + left)
        }
      }
    })
    return { planes, shapes }
  }
}

interface LineHow {
  width: number
  bits: number
  tables: Int16Array
  set: number
}

/** What a sample is expected to be; of 16 bits that are no RGB, neighbours count as signed (RFC 9043, 3.3.1). */
function expectedAt(near: ReturnType<Lines['next']>, x: number, signed: boolean): number {
  const sign = (value: number): number => (signed && value >= 32768 ? value - 65536 : value)
  const [left, up, corner] = [sign(near.here[x - 1]!), sign(near.above[x]!), sign(near.above[x - 1]!)]
  return median(left, up, left + up - corner)
}

function golombLine(coder: GolombDecoder, lines: Lines, how: LineHow & { states: Int32Array }): Int32Array {
  const near = lines.next()
  const mask = 2 ** how.bits - 1
  coder.line(
    how.width,
    how.bits,
    how.states,
    x => contextOf(how.tables, how.set, near, 2 + x),
    (x, difference) => void (near.here[2 + x] = (expectedAt(near, 2 + x, false) + difference) & mask)
  )
  return near.here
}

function rangeLine(
  coder: RangeDecoder,
  lines: Lines,
  how: LineHow & { states: Uint8Array; begins: number }
): Int32Array | null {
  const near = lines.next()
  const mask = 2 ** how.bits - 1
  for (let x = 2; x < 2 + how.width; x++) {
    const context = contextOf(how.tables, how.set, near, x)
    const difference = coder.symbol(how.states, how.begins + Math.abs(context) * SYMBOL, true)
    if (Number.isNaN(difference)) return null
    near.here[x] = (expectedAt(near, x, how.bits === 16) + (context < 0 ? -difference : difference)) & mask
  }
  return near.here
}
