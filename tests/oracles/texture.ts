/**
 * Blocks of textures, plainly: what each stands for, in real numbers rounded to the nearest code (Khronos Data Format
 * Specification 1.3, chapters 20 and 21), and an encoder that tries every pair of a block's own colours.
 */
import type { TextureHow, TextureKind } from '../../core/frame/kernels/coded'
import type { FrameSize } from '../../core/frame/kernels/kernels'

type Triple = readonly [number, number, number]

const expand = (word: number): Triple => [((word >> 11) & 31) / 31, ((word >> 5) & 63) / 63, (word & 31) / 31]
const mix = (a: Triple, b: Triple, t: number): Triple => [0, 1, 2].map(c => a[c]! * (1 - t) + b[c]! * t) as never
const code = (share: number): number => Math.min(255, Math.max(0, Math.round(share * 255)))

/** The four colours of a block, 0 to 1; of BC1 the fourth is black where the first is not the larger. */
function paletteOf(a: number, b: number, four: boolean): Triple[] {
  const [first, last] = [expand(a), expand(b)]
  return four || a > b
    ? [first, last, mix(first, last, 1 / 3), mix(first, last, 2 / 3)]
    : [first, last, mix(first, last, 1 / 2), [0, 0, 0]]
}

function levelsOf(a: number, b: number): number[] {
  const steps = a > b ? 6 : 4
  const between = Array.from({ length: steps }, (_, n) => Math.round(a + ((b - a) * (n + 1)) / (steps + 1) - 1e-9))
  return a > b ? [a, b, ...between] : [a, b, ...between, 0, 255]
}

/** Sixteen alphas of a block of BC4. */
function alphasOf(block: Uint8Array): number[] {
  const levels = levelsOf(block[0]!, block[1]!)
  let bits = 0n
  for (let n = 5; n >= 0; n--) bits = (bits << 8n) | BigInt(block[2 + n]!)
  return Array.from({ length: 16 }, (_, n) => levels[Number((bits >> BigInt(3 * n)) & 7n)]!)
}

/** Sixteen colours of a block of BC1, each as red, green and blue, 0 to 1. */
function coloursOf(block: Uint8Array, four: boolean): Triple[] {
  const view = new DataView(block.buffer, block.byteOffset, 8)
  const palette = paletteOf(view.getUint16(0, true), view.getUint16(2, true), four)
  const bits = view.getUint32(4, true)
  return Array.from({ length: 16 }, (_, n) => palette[(bits >>> (2 * n)) & 3]!)
}

/** Luma and scaled chroma as red, green and blue in codes. */
function unscaled([co, cg, b]: Triple, luma: number): Triple {
  const scale = (code(b) >> 3) + 1
  const [o, g] = [(code(co) - 128) / scale, (code(cg) - 128) / scale]
  return [luma + o - g, luma + g, luma - o - g].map(value => code(value / 255)) as never
}

export function textureDecode(
  blocks: Uint8Array,
  { width, height }: FrameSize,
  kind: TextureKind,
  onto?: Uint8Array
): Uint8Array {
  const out = onto ? onto.slice() : new Uint8Array(4 * width * height)
  const size = kind === 'colour-alpha' || kind === 'scaled' ? 16 : 8
  const wide = Math.ceil(width / 4)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const at = size * ((y >> 2) * wide + (x >> 2))
      const n = 4 * (y & 3) + (x & 3)
      const block = blocks.subarray(at, at + size)
      const alpha = kind === 'colour' ? 255 : alphasOf(block)[n]!
      const i = 4 * (y * width + x)
      if (kind === 'alpha') out[i + 3] = alpha
      else if (kind === 'grey') out.set([alpha, alpha, alpha, 255], i)
      else {
        const colour = coloursOf(size === 16 ? block.subarray(8) : block, size === 16)[n]!
        if (kind === 'scaled') out.set([...unscaled(colour, alpha), 255], i)
        else out.set([...colour.map(code), kind === 'colour' ? 255 : alpha], i)
      }
    }
  return out
}

const word = ([r, g, b]: Triple): number =>
  (Math.round((r * 31) / 255) << 11) | (Math.round((g * 63) / 255) << 5) | Math.round((b * 31) / 255)

/** The pair of a block's own colours whose palette misses least. */
function colourBlock(pixels: readonly Triple[], weights: readonly number[]): Uint8Array {
  const words = [...new Set(pixels.map(word))]
  let best = { miss: Infinity, a: 0, b: 0, bits: 0 }
  for (const a of words)
    for (const b of words) {
      if (a < b) continue
      const palette = paletteOf(a, b, true).map(colour => colour.map(code))
      let miss = 0
      let bits = 0
      pixels.forEach((pixel, n) => {
        const far = palette.map(colour => colour.reduce((sum, value, c) => sum + (value - pixel[c]!) ** 2, 0))
        const index = a === b ? 0 : far.indexOf(Math.min(...far))
        miss += far[index]! * weights[n]!
        bits += index * 4 ** n
      })
      if (miss < best.miss) best = { miss, a, b, bits }
    }
  const block = new Uint8Array(8)
  const view = new DataView(block.buffer)
  view.setUint16(0, best.a, true)
  view.setUint16(2, best.b, true)
  view.setUint32(4, best.bits, true)
  return block
}

/** The pair of a block's own alphas whose levels miss least. */
function alphaBlock(alphas: readonly number[]): Uint8Array {
  const own = [...new Set(alphas)]
  let best = { miss: Infinity, a: 0, b: 0, bits: 0n }
  for (const a of own)
    for (const b of own) {
      const levels = levelsOf(a, b)
      let miss = 0
      let bits = 0n
      alphas.forEach((alpha, n) => {
        const far = levels.map(level => (level - alpha) ** 2)
        const index = far.indexOf(Math.min(...far))
        miss += far[index]!
        bits |= BigInt(index) << BigInt(3 * n)
      })
      if (miss < best.miss) best = { miss, a, b, bits }
    }
  return Uint8Array.from([
    best.a,
    best.b,
    ...Array.from({ length: 6 }, (_, n) => Number((best.bits >> BigInt(8 * n)) & 255n))
  ])
}

export function textureEncode(
  pixels: Uint8Array,
  { width, height }: FrameSize,
  { kind, byAlpha }: TextureHow
): Uint8Array {
  const parts: Uint8Array[] = []
  for (let by = 0; by < height; by += 4)
    for (let bx = 0; bx < width; bx += 4) {
      const own = Array.from({ length: 16 }, (_, n) => {
        const [x, y] = [Math.min(width - 1, bx + (n & 3)), Math.min(height - 1, by + (n >> 2))]
        return pixels.subarray(4 * (y * width + x), 4 * (y * width + x) + 4)
      })
      const weights = own.map(pixel => (byAlpha ? pixel[3]! + 0.5 : 1))
      if (kind === 'alpha' || kind === 'colour-alpha') parts.push(alphaBlock(own.map(pixel => pixel[3]!)))
      if (kind === 'scaled') {
        const most = Math.max(
          ...own.map(([r, g, b]) => Math.max(Math.abs(r! - b!) / 2, Math.abs(2 * g! - r! - b!) / 4))
        )
        const scale = most < 31 ? 4 : most < 63 ? 2 : 1
        parts.push(alphaBlock(own.map(([r, g, b]) => (r! + 2 * g! + b! + 2) >> 2)))
        const chroma = own.map(([r, g, b]): Triple => [
          Math.min(255, Math.max(0, Math.round(128 + (scale * (r! - b!)) / 2))),
          Math.min(255, Math.max(0, Math.round(128 + (scale * (2 * g! - r! - b!)) / 4))),
          8 * (scale - 1)
        ])
        parts.push(colourBlock(chroma, weights))
      } else if (kind !== 'alpha')
        parts.push(
          colourBlock(
            own.map(([r, g, b]): Triple => [r!, g!, b!]),
            weights
          )
        )
    }
  return Uint8Array.from(parts.flatMap(part => [...part]))
}
