/**
 * What the viewer draws: 8-bit RGBA pixels for each view. The colour view keeps its alpha, so that the screen lays it
 * over the backdrop; every other view is opaque.
 */
import { withAlphaMode } from '../../frame/alpha'
import { withDepth } from '../../frame/depth'
import { fullCode, type Frame } from '../../frame/frame'
import { coded } from '../../frame/transfer'
import type { Kernels } from '../../frame/kernels/kernels'

export const VIEWS = ['over', 'colour', 'alpha', 'boosted', 'premultiplied', 'edges'] as const
export type View = (typeof VIEWS)[number]

export interface ViewPixels {
  width: number
  height: number
  /** RGBA, straight, 8 bits. */
  pixels: Uint8ClampedArray<ArrayBuffer>
}

export const VIEW_NAMES: Record<View, string> = {
  over: 'Colour over backdrop',
  colour: 'Colour without alpha',
  alpha: 'Alpha as grey',
  boosted: 'Alpha boosted',
  premultiplied: 'Premultiplied',
  edges: 'Edges only'
}

/** How much alpha is multiplied in the boosted view: haze of one code becomes plain grey. */
const BOOST = 24

function bytesOf(frame: Frame, kernels: Kernels): Uint8ClampedArray<ArrayBuffer> {
  const bytes = withDepth(frame, 8, kernels).samples as Uint8Array<ArrayBuffer>
  // samples of the frame itself may be kept by whoever made it
  return bytes === frame.samples
    ? new Uint8ClampedArray(bytes)
    : new Uint8ClampedArray(bytes.buffer, bytes.byteOffset, bytes.length)
}

function grey(frame: Frame, map: (a: number) => number): Uint8ClampedArray<ArrayBuffer> {
  const pixels = new Uint8ClampedArray(frame.width * frame.height * 4)
  const scale = 255 / fullCode(frame.depth)
  for (let i = 0; i < pixels.length; i += 4) {
    const value = map(frame.samples[i + 3]! * scale)
    pixels[i] = value
    pixels[i + 1] = value
    pixels[i + 2] = value
    pixels[i + 3] = 255
  }
  return pixels
}

/** The frame in a view. 16-bit codes are shown at 8; alpha above zero never shows as zero in the boosted view. */
export function viewPixels(frame: Frame, view: View, kernels: Kernels): ViewPixels {
  const { width, height } = frame
  const straight = withAlphaMode(frame, frame.alpha.mode === 'none' ? frame.alpha : { mode: 'straight' }, kernels)
  switch (view) {
    case 'over':
      return { width, height, pixels: bytesOf(straight, kernels) }
    case 'alpha':
      return { width, height, pixels: grey(frame, a => a) }
    case 'boosted':
      return { width, height, pixels: grey(frame, a => (a > 0 ? Math.max(24, Math.min(255, a * BOOST)) : 0)) }
    case 'edges': {
      const pixels = bytesOf(straight, kernels)
      for (let i = 0; i < pixels.length; i += 4) {
        const a = frame.samples[i + 3]!
        const partial = a > 0 && a < fullCode(frame.depth)
        if (!partial) pixels.fill(frame.samples[i + 3]! > 0 ? 60 : 0, i, i + 3)
        pixels[i + 3] = 255
      }
      return { width, height, pixels }
    }
    case 'colour':
    case 'premultiplied': {
      const shown =
        view === 'colour' ? straight : withAlphaMode(straight, { mode: 'premultiplied', matte: '#000000' }, kernels)
      const pixels = bytesOf(shown, kernels)
      for (let i = 3; i < pixels.length; i += 4) pixels[i] = 255
      return { width, height, pixels }
    }
  }
}

/**
 * Heat of the difference: black where equal, then copper to white; colour and alpha together, weighted by what is seen.
 */
export function differencePixels(expectedFrame: Frame, foundFrame: Frame, kernels: Kernels): ViewPixels {
  const expected = withDepth(coded(expectedFrame, kernels), 16, kernels)
  const found = withDepth(coded(foundFrame, kernels), 16, kernels)
  const pixels = new Uint8ClampedArray(expected.width * expected.height * 4)
  const scale = 255 / fullCode(expected.depth)
  for (let i = 0; i < pixels.length; i += 4) {
    const visible = Math.max(expected.samples[i + 3]!, found.samples[i + 3]!) / fullCode(expected.depth)
    let worst = Math.abs(expected.samples[i + 3]! - found.samples[i + 3]!)
    for (let c = 0; c < 3; c++)
      worst = Math.max(worst, Math.abs(expected.samples[i + c]! - found.samples[i + c]!) * visible)
    const heat = worst === 0 ? 0 : Math.min(1, 0.25 + (worst * scale) / 24)
    pixels[i] = 255 * Math.min(1, heat * 1.8)
    pixels[i + 1] = 255 * Math.max(0, heat * 1.4 - 0.25)
    pixels[i + 2] = 255 * Math.max(0, heat * 1.6 - 0.7)
    pixels[i + 3] = 255
  }
  return { width: expected.width, height: expected.height, pixels }
}
