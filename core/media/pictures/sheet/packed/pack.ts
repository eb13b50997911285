/** Where pieces go: as few pages as hold them, none larger than asked, with room around each. */
import { MaxRectsPacker } from 'maxrects-packer/dist/maxrects-packer.mjs'

export interface PackHow {
  /** Width and height that a page has at most. */
  most: number
  /** Clear pixels between pieces, and pixels that each is repeated by around itself. */
  padding: number
  extrude: number
  /** Whether pages are as wide and as high as powers of two. */
  powers: boolean
  /** Whether pieces may be turned by a quarter clockwise. */
  rotate: boolean
}

export interface PackedPages {
  pages: { width: number; height: number }[]
  /** Of each piece, where its own first pixel lies, without what is repeated around it. */
  places: { page: number; x: number; y: number; rotated: boolean }[]
}

interface Held {
  x: number
  y: number
  width: number
  height: number
  index: number
  rot?: boolean
  /** The library's own notes. */
  [noted: string]: unknown
}

/**
 * Places pieces of these sizes; the same sizes always lie in the same way. Null where one of them is larger than a page
 * may be.
 */
export function packPieces(
  pieces: readonly { width: number; height: number }[],
  { most, padding, extrude, powers, rotate }: PackHow
): PackedPages | null {
  if (pieces.some(({ width, height }) => Math.max(width, height) + 2 * extrude > most)) return null
  const packer = new MaxRectsPacker<Held>(most, most, padding, {
    smart: true,
    pot: powers,
    square: false,
    allowRotation: rotate,
    border: 0
  })
  packer.addArray(
    pieces.map(({ width, height }, index) => ({
      x: 0,
      y: 0,
      width: width + 2 * extrude,
      height: height + 2 * extrude,
      index
    }))
  )
  const places: PackedPages['places'] = []
  const pages = packer.bins.map(({ width, height, rects }, page) => {
    for (const { x, y, rot, index } of rects)
      places[index] = { page, x: x + extrude, y: y + extrude, rotated: rot === true }
    return { width, height }
  })
  return { pages, places }
}
