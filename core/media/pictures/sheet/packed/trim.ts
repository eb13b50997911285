/** The piece of a frame that is worth its room in a sheet. */
import type { Frame } from '../../../../frame/frame'

export interface Piece {
  left: number
  top: number
  width: number
  height: number
}

/**
 * The smallest rectangle outside of which every pixel is empty: every code of it zero, or with `clear` its alpha alone.
 * A frame of empty pixels keeps its first one; one without alpha is kept whole.
 */
export function pieceOf({ width, height, samples, alpha }: Frame, clear: boolean): Piece {
  if (alpha.mode === 'none') return { left: 0, top: 0, width, height }
  const isEmpty = (x: number, y: number): boolean => {
    const at = 4 * (y * width + x)
    return !samples[at + 3] && (clear || !(samples[at]! || samples[at + 1]! || samples[at + 2]!))
  }
  const rowIsEmpty = (y: number): boolean => {
    for (let x = 0; x < width; x++) if (!isEmpty(x, y)) return false
    return true
  }
  let [top, bottom] = [0, height - 1]
  while (top < height && rowIsEmpty(top)) top++
  if (top === height) return { left: 0, top: 0, width: 1, height: 1 }
  while (rowIsEmpty(bottom)) bottom--
  let [left, right] = [width - 1, 0]
  for (let y = top; y <= bottom; y++) {
    // no column within what is known to be kept need be asked again
    for (let x = 0; x < left; x++) if (!isEmpty(x, y)) left = x
    for (let x = width - 1; x > right; x--) if (!isEmpty(x, y)) right = x
  }
  return { left, top, width: right - left + 1, height: bottom - top + 1 }
}

/** The samples of a piece, row by row. */
export function cutPiece({ width, samples }: Pick<Frame, 'width' | 'samples'>, piece: Piece): Uint8Array | Uint16Array {
  const cut = new (samples.constructor as Uint8ArrayConstructor)(4 * piece.width * piece.height)
  for (let row = 0; row < piece.height; row++) {
    const from = 4 * ((piece.top + row) * width + piece.left)
    cut.set(samples.subarray(from, from + 4 * piece.width) as Uint8Array, 4 * row * piece.width)
  }
  return cut
}
