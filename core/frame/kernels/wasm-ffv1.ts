/** Binds the kernels of FFV1's slices. */
import type { Ffv1Begun, Ffv1Place, Ffv1Plan, Ffv1Slice } from './coded'
import type { KernelExports } from './exports'
import type { Room } from './wasm-room'

/**
 * Bytes that a symbol takes at most: so many zeros stand behind the data for each of a line's, which so may run on into
 * them.
 */
const SYMBOL_BYTES = 24

const lineBytes = ({ width, planes }: Ffv1Plan): number => planes * 3 * (width + 3) * 4

/** Puts what both directions share into memory: the tables, and room for lines that is clear. */
function prepare(exports: KernelExports, plan: Ffv1Plan, tables: number, transitions: number, lines: number): void {
  const { buffer } = exports.memory
  new Int16Array(buffer, tables, plan.tables.length).set(plan.tables)
  new Uint8Array(buffer, transitions, 512).set(plan.transitions)
  new Uint8Array(buffer, lines, lineBytes(plan)).fill(0)
}

/** See `Kernels.ffv1Decode`. */
export function wasmFfv1Decode(
  { exports, lay }: Room,
  { data, start, states, plan, to: target }: Ffv1Slice & { plan: Ffv1Plan; to: Ffv1Place }
): boolean {
  const { width, height, bits, planes, contexts } = plan
  const wide = bits > 8 ? 2 : 1
  const size = 4 * width * height
  const [from, kept, tables, transitions, lines, to] = lay(
    data.length + width * SYMBOL_BYTES + 64,
    states.length,
    plan.tables.byteLength,
    512,
    lineBytes(plan),
    size * wide
  ) as [number, number, number, number, number, number]
  prepare(exports, plan, tables, transitions, lines)
  const { buffer } = exports.memory
  const given = new Uint8Array(buffer, from, data.length + width * SYMBOL_BYTES + 64)
  given.set(data)
  given.fill(0, data.length)
  new Uint8Array(buffer, kept, states.length).set(states)
  const whole = exports.ffv1Decode({
    from,
    length: data.length,
    startAt: start.at,
    startLow: start.low,
    startRange: start.range,
    states: kept,
    tables,
    transitions,
    lines,
    to,
    width,
    height,
    bits,
    planes,
    first: contexts[0],
    second: contexts[1]
  })
  if (!whole) return false
  states.set(new Uint8Array(buffer, kept, states.length))
  const { samples, first, stride } = target
  const rows = bits > 8 ? new Uint16Array(buffer, to, size) : new Uint8Array(buffer, to, size)
  if (stride === width) samples.set(rows, 4 * first)
  else
    for (let y = 0; y < height; y++)
      samples.set(rows.subarray(4 * y * width, 4 * (y + 1) * width), 4 * (first + y * stride))
  return true
}

/**
 * Bytes that no slice exceeds: a symbol of 17 bits takes at most some 36 coded ones, each of at most eight bits where
 * states are unlikely.
 */
const most = ({ width, height, planes, bits }: Ffv1Plan): number =>
  width * height * planes * (bits > 8 ? 24 : 14) + 4096

/** See `Kernels.ffv1Encode`. */
export function wasmFfv1Encode(
  { exports, lay }: Room,
  {
    samples,
    stride,
    begun,
    plan
  }: { samples: Uint8Array | Uint16Array; stride: number; begun: Ffv1Begun; plan: Ffv1Plan }
): Uint8Array {
  const { width, height, bits, planes, contexts } = plan
  const wide = bits > 8 ? 2 : 1
  const stateBytes = 32 * (contexts[0] + contexts[1] + contexts[2])
  const [from, states, tables, transitions, lines, to] = lay(
    4 * width * height * wide,
    stateBytes,
    plan.tables.byteLength,
    512,
    lineBytes(plan),
    most(plan)
  ) as [number, number, number, number, number, number]
  prepare(exports, plan, tables, transitions, lines)
  const { buffer } = exports.memory
  new Uint8Array(buffer, states, stateBytes).fill(128)
  const target =
    bits > 8 ? new Uint16Array(buffer, from, 4 * width * height) : new Uint8Array(buffer, from, 4 * width * height)
  for (let y = 0; y < height; y++) target.set(samples.subarray(4 * y * stride, 4 * (y * stride + width)), 4 * y * width)
  const written = exports.ffv1Encode({
    samples: from,
    heldBefore: begun.held,
    runBefore: begun.run,
    startLow: begun.low,
    startRange: begun.range,
    states,
    tables,
    transitions,
    lines,
    to,
    width,
    height,
    bits,
    planes,
    first: contexts[0],
    second: contexts[1]
  })
  const out = new Uint8Array(begun.out.length + written)
  out.set(begun.out)
  out.set(new Uint8Array(buffer, to, written), begun.out.length)
  return out
}
