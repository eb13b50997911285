// Reading the blocks of textures; how they lie is told in texture-block.ts.

import { ALPHA, ALPHAS, clamp255, COLOUR, COLOUR_ALPHA, GREY, LEVELS } from './texture-block'
import { levelsOf, PALETTE, readPalette, SCALED } from './texture-block'

/** The alphas of a block, sixteen bytes. */
function readAlphas(at: usize): void {
  levelsOf(load<u8>(at), load<u8>(at + 1))
  let bits = load<u64>(at) >> 16
  for (let n: usize = 0; n < 16; n++, bits >>= 3) store<u8>(ALPHAS + n, load<u8>(LEVELS + <usize>(bits & 7)))
}

/** What the four chromas of a block add to luma: red, green and blue of each, as whole codes. */
const CHROMA = memory.data(48, 16)

function readChroma(): void {
  for (let n: usize = 0; n < 4; n++) {
    const word = load<u32>(PALETTE + (n << 2))
    const scale = <f32>((<i32>((word >> 16) & 255) >> 3) + 1)
    const co = <f32>(<i32>(word & 255) - 128) / scale
    const cg = <f32>(<i32>((word >> 8) & 255) - 128) / scale
    store<i32>(CHROMA + 12 * n, <i32>nearest<f32>(co - cg))
    store<i32>(CHROMA + 12 * n + 4, <i32>nearest<f32>(cg))
    store<i32>(CHROMA + 12 * n + 8, <i32>nearest<f32>(-co - cg))
  }
}

/** Luma and one of the block's chromas as a colour. */
function colourOf(chroma: usize, luma: i32): u32 {
  const r = clamp255(luma + load<i32>(CHROMA + 12 * chroma))
  const g = clamp255(luma + load<i32>(CHROMA + 12 * chroma + 4))
  const b = clamp255(luma + load<i32>(CHROMA + 12 * chroma + 8))
  return <u32>r | (<u32>g << 8) | (<u32>b << 16) | 0xff000000
}

/**
 * Puts the pixels of a texture into RGBA of 8 bits. A texture of alpha alone changes nothing else of the picture that
 * is there.
 */
export function textureDecode(from: usize, to: usize, width: i32, height: i32, kind: i32): void {
  const wide = (width + 3) >> 2
  const high = (height + 3) >> 2
  for (let by = 0; by < high; by++)
    for (let bx = 0; bx < wide; bx++) {
      if (kind != COLOUR) {
        readAlphas(from)
        from += 8
      }
      let bits: u32 = 0
      if (kind != ALPHA && kind != GREY) {
        readPalette(from, kind != COLOUR)
        if (kind == SCALED) readChroma()
        bits = load<u32>(from + 4)
        from += 8
      }
      const columns = min(4, width - 4 * bx)
      const rows = min(4, height - 4 * by)
      for (let y = 0; y < rows; y++) {
        let at = to + (<usize>((4 * by + y) * width + 4 * bx) << 2)
        for (let x = 0; x < columns; x++, at += 4) {
          const n = <usize>(4 * y + x)
          const alpha = <u32>load<u8>(ALPHAS + n)
          if (kind == ALPHA) {
            store<u8>(at + 3, <u8>alpha)
            continue
          }
          if (kind == GREY) {
            store<u32>(at, (alpha * 0x010101) | 0xff000000)
            continue
          }
          const index = <usize>((bits >> (<u32>n << 1)) & 3)
          let word = load<u32>(PALETTE + (index << 2))
          if (kind == SCALED) word = colourOf(index, alpha)
          else if (kind == COLOUR_ALPHA) word = (word & 0xffffff) | (alpha << 24)
          store<u32>(at, word)
        }
      }
    }
}
