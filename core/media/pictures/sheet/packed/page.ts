/** A page of a sheet as pixels: pieces laid in, turned where they are, their edges repeated around them. */
import type { Frame } from '../../../../frame/frame'
import { sizeInPage, type SheetPiece } from './data'

type Samples = Uint8Array | Uint16Array

export interface Laid {
  width: number
  samples: Samples
}

/** Copies pixel by pixel: both as places of a first sample. */
function copyPixel(to: Samples, at: number, from: Samples, of: number): void {
  to[at] = from[of]!
  to[at + 1] = from[of + 1]!
  to[at + 2] = from[of + 2]!
  to[at + 3] = from[of + 3]!
}

/** Lays a piece's pixels into a page, and its edge `extrude` times around it, as far as there is page. */
export function layIn(page: Laid & { height: number }, piece: SheetPiece, pixels: Samples, extrude: number): void {
  const { x, y, width, height, rotated } = piece
  const inPage = sizeInPage(piece)
  for (let v = -extrude; v < inPage.height + extrude; v++) {
    if (y + v < 0 || y + v >= page.height) continue
    const row = Math.min(inPage.height - 1, Math.max(0, v))
    if (!rotated && v === row) {
      const from = pixels.subarray(4 * row * width, 4 * (row + 1) * width)
      page.samples.set(from as Uint8Array, 4 * ((y + v) * page.width + x))
    }
    for (let u = -extrude; u < inPage.width + extrude; u++) {
      const column = Math.min(inPage.width - 1, Math.max(0, u))
      if (x + u < 0 || x + u >= page.width || (!rotated && v === row && u === column)) continue
      // turned by a quarter clockwise, a piece's left edge lies on top and its bottom on the left
      const of = rotated ? (height - 1 - column) * width + row : row * width + column
      copyPixel(page.samples, 4 * ((y + v) * page.width + x + u), pixels, 4 * of)
    }
  }
}

/** A frame as it was before it was trimmed: its piece out of the page, everything else empty. */
export function cutFrom(page: Frame, piece: SheetPiece, { width, height }: { width: number; height: number }): Frame {
  const samples = new (page.samples.constructor as Uint8ArrayConstructor)(4 * width * height)
  for (let row = 0; row < piece.height; row++) {
    const to = 4 * ((piece.top + row) * width + piece.left)
    if (!piece.rotated) {
      const from = 4 * ((piece.y + row) * page.width + piece.x)
      samples.set(page.samples.subarray(from, from + 4 * piece.width) as Uint8Array, to)
      continue
    }
    for (let column = 0; column < piece.width; column++)
      copyPixel(
        samples,
        to + 4 * column,
        page.samples as Samples,
        4 * ((piece.y + column) * page.width + piece.x + piece.height - 1 - row)
      )
  }
  return { ...page, width, height, samples }
}
