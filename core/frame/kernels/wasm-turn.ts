/** Binds the kernel that turns a picture. */
import type { FrameSize, SamplingPath } from './kernels'
import type { Room } from './wasm-room'

/** Clear pixels around the picture, as far as the filter reaches. */
const RIM = 4

/** Marks what lies beside a marked square as well, since the filter reaches there. */
function widened(used: Uint8Array, across: number, down: number): Uint8Array {
  const wide = new Uint8Array(used.length)
  for (let y = 0; y < down; y++) {
    for (let x = 0; x < across; x++) {
      if (used[y * across + x] === 0) continue
      for (let row = Math.max(0, y - 1); row <= Math.min(down - 1, y + 1); row++)
        wide.fill(1, row * across + Math.max(0, x - 1), row * across + Math.min(across, x + 2))
    }
  }
  return wide
}

/** See `Kernels.turn`. */
export function wasmTurn(
  { exports, lay }: Room,
  rgba: Float32Array,
  { width, height }: FrameSize,
  { width: toWidth, height: toHeight }: FrameSize,
  { u, v, du, dv }: SamplingPath
): Float32Array {
  const [stride, rows] = [width + 2 * RIM, height + 2 * RIM]
  const side = 2 ** Number(exports.SQUARE.value)
  const [across, down] = [Math.ceil(stride / side), Math.ceil(rows / side)]
  const [from, to, marks] = lay(16 * stride * rows, 16 * toWidth, across * down) as [number, number, number]
  const { buffer } = exports.memory
  const input = new Float32Array(buffer, from, 4 * stride * rows)
  input.fill(0, 0, 4 * stride * RIM).fill(0, 4 * stride * (height + RIM))
  for (let y = 0; y < height; y++) {
    const row = 4 * (y + RIM) * stride
    input.fill(0, row, row + 4 * RIM)
    input.set(rgba.subarray(4 * y * width, 4 * (y + 1) * width), row + 4 * RIM)
    input.fill(0, row + 4 * (width + RIM), row + 4 * stride)
  }
  const used = new Uint8Array(buffer, marks, across * down).fill(0)
  exports.multiplyMarking(from, stride, rows, marks, across)
  used.set(widened(used, across, down))
  const row = new Float32Array(buffer, to, 4 * toWidth)
  const result = new Float32Array(4 * toWidth * toHeight)
  for (let y = 0; y < toHeight; y++) {
    exports.turnRow({
      from,
      stride,
      rim: RIM,
      used: marks,
      squares: across,
      width,
      height,
      to,
      pixels: toWidth,
      u0: u - dv * y,
      v0: v + du * y,
      du,
      dv
    })
    result.set(row, 4 * y * toWidth)
  }
  return result
}
