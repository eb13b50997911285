/**
 * One picture. A frame is a value: whoever receives one reads it and makes another, and never writes into it.
 * Its buffers may travel between threads by transfer, which ends the sender's use of them.
 */
import { z } from 'zod'
import { HexColour } from '../base/colour'
import { noRoom } from '../base/errors'

/** How colour and alpha stand to each other in stored samples. */
export const AlphaMode = z.discriminatedUnion('mode', [
  z.object({ mode: z.literal('none') }),
  z.object({ mode: z.literal('straight') }),
  z.object({ mode: z.literal('premultiplied'), matte: HexColour })
])
export type AlphaMode = z.infer<typeof AlphaMode>

/** Bits of one sample: unsigned codes of 8 or 16 bits, full range, or 32-bit float with 1.0 as full. */
export const Depth = z.union([z.literal(8), z.literal(16), z.literal(32)])
export type Depth = z.infer<typeof Depth>

export const Transfer = z.enum(['srgb', 'linear'])
export type Transfer = z.infer<typeof Transfer>

export type Samples = Uint8Array | Uint16Array | Float32Array

export interface Frame {
  readonly width: number
  readonly height: number
  readonly depth: Depth
  /** RGBA interleaved, rows from the top, no padding: length is width * height * 4. Array type follows `depth`. */
  readonly samples: Samples
  readonly alpha: AlphaMode
  readonly transfer: Transfer
}

/** 2^27 pixels: a 16384x8192 frame, one GiB at 16 bits. Larger pictures are refused before memory is taken. */
export const MAX_PIXELS = 2 ** 27

export const STRAIGHT: AlphaMode = { mode: 'straight' }
export const OPAQUE: AlphaMode = { mode: 'none' }

/** The largest code of a depth; 1 for float. */
export function fullCode(depth: Depth): number {
  return depth === 8 ? 255 : depth === 16 ? 65535 : 1
}

/** New zeroed samples for a picture, refused with a clear error when it is larger than `MAX_PIXELS`. */
export function allocateSamples(width: number, height: number, depth: Depth): Samples {
  if (!(width >= 1 && height >= 1 && width * height <= MAX_PIXELS))
    throw noRoom(`a picture of ${width}x${height} is larger than the ${MAX_PIXELS} pixels Pour takes`)
  const length = width * height * 4
  return depth === 8 ? new Uint8Array(length) : depth === 16 ? new Uint16Array(length) : new Float32Array(length)
}

/** Whether two modes read the same samples alike: mode, and matte where it is premultiplied. */
export function sameAlphaMode(a: AlphaMode, b: AlphaMode): boolean {
  return a.mode === b.mode && (a.mode !== 'premultiplied' || b.mode !== 'premultiplied' || a.matte === b.matte)
}
