/**
 * QuickTime Animation run-length coding (QuickTime File Format Specification, "Animation" sample data).
 *
 * sample: u32 size (with these four bytes), u16 header; if header & 8: u16 first line, u16 0, u16 lines, u16 0; then
 * the lines line:   u8 skip + 1, then codes until -1:
 *         0 → another skip byte; -n → repeat the next pixel n times; n → n pixels follow
 * pixels: A R G B at 32 bits, R G B at 24, big-endian 5-5-5 at 16
 */
import { unreadable } from '../../../base/errors'
import type { RleDepth } from '../../../frame/kernels/coded'
import type { FrameSize, Kernels } from '../../../frame/kernels/kernels'

const UPDATE = 8

const FAULTS = {
  'ends-at-line': (line: number) => `the data ends at line ${line}; the film was cut short or is damaged`,
  'ends-within': (line: number) => `the data ends within line ${line}; the film was cut short or is damaged`,
  'too-wide': (line: number) => `line ${line} holds more pixels than the picture is wide`
}

/**
 * The picture a sample makes of `canvas`, the one before (RGBA, 8 bits; null for a beginning, clear or black): pixels
 * the sample skips stay. One too short for a header changes nothing, and hands `canvas` itself out. Errors name `file`
 * and `place`.
 */
export function decodeRle(
  sample: Uint8Array,
  canvas: Uint8Array | null,
  { width, height, depth }: FrameSize & { depth: RleDepth },
  kernels: Kernels,
  { file, place }: { file: string; place: string }
): Uint8Array {
  const u16 = (i: number): number => (sample[i]! << 8) | sample[i + 1]!
  const update = sample.length >= 8 && (u16(4) & UPDATE) !== 0
  const least = update ? 14 : 8
  const [at, line, lines] = sample.length < least ? [0, 0, 0] : update ? [14, u16(6), u16(10)] : [6, 0, height]
  if (line + lines > height)
    throw unreadable(
      file,
      `${place}, byte 6 of its data`,
      `it changes lines up to ${line + lines} of a picture ${height} lines high`
    )
  if (lines === 0 && canvas) return canvas
  const result = kernels.rleDecode(sample, at, canvas, { line, lines, width, height, depth })
  if (result instanceof Uint8Array) return result
  throw unreadable(file, `${place}, byte ${result.at} of its data`, FAULTS[result.fault](result.line))
}
