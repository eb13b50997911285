/**
 * PNG pixels: inflate, unfilter, de-interlace, and spread every colour type to RGBA (ISO/IEC 15948, clauses 7 to 10).
 */
import { unreadable } from '../../../base/errors'
import { allocateSamples, OPAQUE, STRAIGHT, type Frame, type Samples } from '../../../frame/frame'
import type { Host } from '../../../frame/host'
import { bitsPerPixel, hasAlpha, rowBytes, type PngHeader, type PngInfo } from './header'

/** Adam7: first column, first row, column step, row step of each pass. */
const PASSES = [
  [0, 0, 8, 8],
  [4, 0, 8, 8],
  [0, 4, 4, 8],
  [2, 0, 4, 4],
  [0, 2, 2, 4],
  [1, 0, 2, 2],
  [0, 1, 1, 2]
] as const

interface Pass {
  x: number
  y: number
  stepX: number
  stepY: number
  width: number
  height: number
}

function passesOf(header: PngHeader, width: number, height: number): Pass[] {
  if (!header.interlaced) return [{ x: 0, y: 0, stepX: 1, stepY: 1, width, height }]
  return PASSES.map(([x, y, stepX, stepY]) => ({
    x,
    y,
    stepX,
    stepY,
    width: Math.ceil((width - x) / stepX),
    height: Math.ceil((height - y) / stepY)
  })).filter(pass => pass.width > 0 && pass.height > 0)
}

/**
 * Decodes one picture (an animated file's frame may be smaller than its canvas) from its zlib stream. 16-bit files give
 * 16-bit samples, all others 8-bit; lower depths are scaled to full range.
 */
export async function decodePixels(
  host: Host,
  name: string,
  info: PngInfo,
  packed: Uint8Array,
  { width, height }: { width: number; height: number } = info.header
): Promise<Frame> {
  const { header } = info
  const passes = passesOf(header, width, height)
  const size = passes.reduce((sum, pass) => sum + (rowBytes(header, pass.width) + 1) * pass.height, 0)
  if (size > packed.length * 1032 + 1024)
    throw unreadable(
      name,
      'picture data',
      `${packed.length} bytes cannot hold a picture of ${width}x${height}; the file was cut short or is damaged`
    )
  let filtered: Uint8Array
  try {
    filtered = await host.deflate.inflate(packed, size, 'zlib')
  } catch {
    throw unreadable(name, 'picture data', 'the compressed picture is damaged or incomplete')
  }
  // whole rows of RGB or RGBA: what nearly every file holds
  const { colourType, bitDepth } = header
  if (
    !header.interlaced &&
    (colourType === 6 || (colourType === 2 && !info.transparency)) &&
    (bitDepth === 8 || bitDepth === 16)
  ) {
    const samples = host.kernels.pngUnpack(filtered, width, height, colourType === 6 ? 4 : 3, bitDepth)
    if (!samples) throw unreadable(name, 'picture data', 'a row names a filter that does not exist')
    return { width, height, depth: bitDepth, samples, alpha: colourType === 6 ? STRAIGHT : OPAQUE, transfer: 'srgb' }
  }
  const samples = allocateSamples(width, height, header.bitDepth === 16 ? 16 : 8)
  const pixelBytes = Math.max(1, bitsPerPixel(header) >> 3)
  let at = 0
  for (const pass of passes) {
    const stride = rowBytes(header, pass.width)
    const rows = host.kernels.pngUnfilter(
      filtered.subarray(at, at + (stride + 1) * pass.height),
      stride,
      pass.height,
      pixelBytes
    )
    if (!rows) throw unreadable(name, 'picture data', 'a row names a filter that does not exist')
    spread(writerFor(info, rows, samples), pass, stride, width)
    at += (stride + 1) * pass.height
  }
  return {
    width,
    height,
    depth: header.bitDepth === 16 ? 16 : 8,
    samples,
    alpha: hasAlpha(info) ? STRAIGHT : OPAQUE,
    transfer: 'srgb'
  }
}

/** Lays the pixels of a pass where they belong. */
function spread(write: ReturnType<typeof writerFor>, pass: Pass, stride: number, width: number): void {
  for (let y = 0; y < pass.height; y++) {
    for (let x = 0; x < pass.width; x++)
      write(y * stride, x, 4 * ((pass.y + y * pass.stepY) * width + pass.x + x * pass.stepX))
  }
}

/** One pixel of a row into RGBA, for the colour type at hand. */
function writerFor(info: PngInfo, rows: Uint8Array, out: Samples): (row: number, x: number, to: number) => void {
  const { colourType, bitDepth } = info.header
  const { palette, transparency } = info
  const wide = bitDepth === 16
  const full = wide ? 65535 : 255
  const sample = wide
    ? (row: number, i: number): number => (rows[row + 2 * i]! << 8) | rows[row + 2 * i + 1]!
    : (row: number, i: number): number => rows[row + i]!
  const packed = (row: number, x: number): number => {
    const bit = x * bitDepth
    return (rows[row + (bit >> 3)]! >> (8 - bitDepth - (bit & 7))) & ((1 << bitDepth) - 1)
  }
  const put = (to: number, r: number, g: number, b: number, a: number): void => {
    out[to] = r
    out[to + 1] = g
    out[to + 2] = b
    out[to + 3] = a
  }
  const key = (i: number): number => (transparency ? (transparency[2 * i]! << 8) | transparency[2 * i + 1]! : -1)

  if (colourType === 6)
    return (row, x, to) =>
      put(to, sample(row, 4 * x), sample(row, 4 * x + 1), sample(row, 4 * x + 2), sample(row, 4 * x + 3))
  if (colourType === 4) {
    return (row, x, to) => {
      const grey = sample(row, 2 * x)
      put(to, grey, grey, grey, sample(row, 2 * x + 1))
    }
  }
  if (colourType === 2) {
    const [r0, g0, b0] = [key(0), key(1), key(2)]
    return (row, x, to) => {
      const [r, g, b] = [sample(row, 3 * x), sample(row, 3 * x + 1), sample(row, 3 * x + 2)]
      put(to, r, g, b, r === r0 && g === g0 && b === b0 ? 0 : full)
    }
  }
  if (colourType === 3) {
    const colours = palette!
    return (row, x, to) => {
      // an index beyond the palette is shown black, as the standard recommends to be lenient (11.2.2)
      const i = packed(row, x)
      put(to, colours[3 * i] ?? 0, colours[3 * i + 1] ?? 0, colours[3 * i + 2] ?? 0, transparency?.[i] ?? 255)
    }
  }
  const grey0 = key(0)
  const scale = bitDepth < 8 ? 255 / ((1 << bitDepth) - 1) : 1
  return (row, x, to) => {
    const stored = bitDepth < 8 ? packed(row, x) : sample(row, x)
    put(to, stored * scale, stored * scale, stored * scale, stored === grey0 ? 0 : full)
  }
}
