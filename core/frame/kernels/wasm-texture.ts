/** Binds the kernels of textures; see `tests/oracles/texture.ts`, which defines what their blocks stand for. */
import type { TextureHow, TextureKind } from './coded'
import type { FrameSize } from './kernels'
import { BEYOND, type Room } from './wasm-room'

/** As assembly/texture-block.ts numbers them. */
const NUMBER: Readonly<Record<TextureKind, number>> = { colour: 1, 'colour-alpha': 3, alpha: 4, scaled: 5, grey: 6 }

/** Bytes of one block. */
const BLOCK: Readonly<Record<TextureKind, number>> = { colour: 8, 'colour-alpha': 16, alpha: 8, scaled: 16, grey: 8 }

/** Bytes that a texture of a size takes. */
export const textureBytes = ({ width, height }: FrameSize, kind: TextureKind): number =>
  Math.ceil(width / 4) * Math.ceil(height / 4) * BLOCK[kind]

/** See `Kernels.textureEncode`. */
export function wasmTextureEncode(
  { exports, lay, take }: Room,
  pixels: Uint8Array,
  { width, height }: FrameSize,
  { kind, effort, byAlpha }: TextureHow
): Uint8Array {
  const size = textureBytes({ width, height }, kind)
  const [from, to] = lay(pixels.length + BEYOND, size + BEYOND) as [number, number]
  new Uint8Array(exports.memory.buffer).set(pixels, from)
  exports.textureEncode({ from, width, height, to, kind: NUMBER[kind], effort, byAlpha: byAlpha ? 1 : 0 })
  return take(to, size)
}

/** See `Kernels.textureDecode`. */
export function wasmTextureDecode(
  { exports, lay, take }: Room,
  blocks: Uint8Array,
  { width, height }: FrameSize,
  kind: TextureKind,
  onto?: Uint8Array
): Uint8Array {
  const size = 4 * width * height
  const [from, to] = lay(blocks.length + BEYOND, size + BEYOND) as [number, number]
  const memory = new Uint8Array(exports.memory.buffer)
  memory.set(blocks, from)
  if (onto) memory.set(onto, to)
  exports.textureDecode(from, to, width, height, NUMBER[kind])
  return take(to, size)
}
