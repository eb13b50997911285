/**
 * Colour and alpha as two halves of one solid picture, for codecs that have no alpha of their own: alpha, as grey, lies
 * below the colour or beside it. Each half goes on beyond its edge by its own pixels, so that coding and filtering mix
 * nothing of the other into it; halves have even sides, as halved chroma asks.
 */
import { z } from 'zod'
import { edgeFilled } from './edge-fill'
import { fullCode, OPAQUE, STRAIGHT, type Frame, type Samples } from './frame'
import { keyed } from './keyed'

/** Which half of the picture holds alpha. */
export const AlphaHalf = z.enum(['below', 'above', 'right', 'left'])
export type AlphaHalf = z.infer<typeof AlphaHalf>

/** How a picture is to be taken apart: where its alpha lies, and the size that it comes to. */
export const Halves = z.object({
  alpha: AlphaHalf,
  width: z.number().int().min(1).max(65_535),
  height: z.number().int().min(1).max(65_535)
})
export type Halves = z.infer<typeof Halves>

/** Pixels that each half goes on by where the other half follows. */
export const GUARD = 8
/** Pixels that colour is carried on by under what is clear: as far as blocks of codecs reach. */
const REACH = 16

const even = (n: number): number => n + (n % 2)
const isBeside = (alpha: AlphaHalf): boolean => alpha === 'right' || alpha === 'left'

/** Size of each half. */
export const halfSize = ({ alpha, width, height }: Halves): { width: number; height: number } =>
  isBeside(alpha)
    ? { width: even(width + GUARD), height: even(height) }
    : { width: even(width), height: even(height + GUARD) }

/** Size of the picture that is stored. */
export function stackedSize(stacked: Halves): { width: number; height: number } {
  const { width, height } = halfSize(stacked)
  return isBeside(stacked.alpha) ? { width: 2 * width, height } : { width, height: 2 * height }
}

/** Where the first pixel of colour and that of alpha lie in a picture of this size. */
function corners(alpha: AlphaHalf, { width, height }: { width: number; height: number }) {
  const far = isBeside(alpha) ? { x: width / 2, y: 0 } : { x: 0, y: height / 2 }
  const near = { x: 0, y: 0 }
  return alpha === 'below' || alpha === 'right' ? { colour: near, alpha: far } : { colour: far, alpha: near }
}

/**
 * The solid picture that a frame is stored as. Straight colour goes on under clear pixels near what can be seen, so
 * that neither coding nor filtering darkens an edge.
 */
export function stack(frame: Frame, alpha: AlphaHalf): Frame {
  const { width, height, depth } = frame
  const { samples: colour } = frame.alpha.mode === 'straight' ? edgeFilled(frame, REACH) : frame
  const half = halfSize({ alpha, width, height })
  const size = stackedSize({ alpha, width, height })
  const at = corners(alpha, size)
  const samples = new (frame.samples.constructor as Uint8ArrayConstructor)(4 * size.width * size.height)
  const full = fullCode(depth)
  const solid = frame.alpha.mode === 'none'
  for (let y = 0; y < half.height; y++) {
    const row = Math.min(height - 1, y) * width
    const toColour = 4 * ((at.colour.y + y) * size.width + at.colour.x)
    const toAlpha = 4 * ((at.alpha.y + y) * size.width + at.alpha.x)
    for (let x = 0; x < half.width; x++) {
      const from = 4 * (row + Math.min(width - 1, x))
      const [i, j] = [toColour + 4 * x, toAlpha + 4 * x]
      samples[i] = colour[from]!
      samples[i + 1] = colour[from + 1]!
      samples[i + 2] = colour[from + 2]!
      samples[j] = samples[j + 1] = samples[j + 2] = solid ? full : frame.samples[from + 3]!
      samples[i + 3] = samples[j + 3] = full
    }
  }
  return { ...frame, ...size, samples, alpha: OPAQUE }
}

function cutOut(
  { width, samples }: Frame,
  at: { x: number; y: number },
  of: { width: number; height: number }
): Samples {
  const out = new (samples.constructor as Uint8ArrayConstructor)(4 * of.width * of.height)
  for (let y = 0; y < of.height; y++) {
    const from = 4 * ((at.y + y) * width + at.x)
    out.set(samples.subarray(from, from + 4 * of.width) as Uint8Array, 4 * y * of.width)
  }
  return out
}

/** The largest frame that halves of a picture of this size hold. */
export const mostOf = (alpha: AlphaHalf, { width, height }: { width: number; height: number }): Halves =>
  isBeside(alpha)
    ? { alpha, width: Math.max(1, width >> 1), height }
    : { alpha, width, height: Math.max(1, height >> 1) }

/** Whether a picture of this size has halves that hold the frame it is to be taken apart into. */
export function holdsStacked(stacked: Halves, size: { width: number; height: number }): boolean {
  const most = mostOf(stacked.alpha, size)
  const divides = (isBeside(stacked.alpha) ? size.width : size.height) % 2 === 0
  return divides && stacked.width <= most.width && stacked.height <= most.height
}

/** The frame that a stored picture holds, straight until somebody knows better. `holdsStacked` must be so. */
export function unstack(stored: Frame, stacked: Halves): Frame {
  const at = corners(stacked.alpha, stored)
  const { width, height } = stacked
  const samples = keyed(cutOut(stored, at.colour, stacked), cutOut(stored, at.alpha, stacked))
  return { ...stored, width, height, samples, alpha: STRAIGHT }
}

/** How one half lies to the other, in words. */
export const LIES: Record<AlphaHalf, string> = {
  below: 'below',
  above: 'above',
  right: 'right of',
  left: 'left of'
}

/** What a film says of itself by the name of its track. */
export const sayStacked = ({ alpha, width, height }: Halves): string =>
  `Alpha ${LIES[alpha]} colour, ${width}x${height}`

/** What the name of a track says, where it says that. */
export function readStacked(name: string): Halves | null {
  const match = /^Alpha (below|above|right of|left of) colour, (\d{1,5})x(\d{1,5})$/.exec(name)
  if (!match) return null
  const alpha = (Object.keys(LIES) as AlphaHalf[]).find(half => LIES[half] === match[1])!
  const read = Halves.safeParse({ alpha, width: Number(match[2]), height: Number(match[3]) })
  return read.success ? read.data : null
}
