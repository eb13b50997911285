/** A frame laid over one colour, and how far a picture on a screen is off another. */
import { hexAtDepth, type HexColour } from '../../base/colour'
import { withAlphaMode } from '../../frame/alpha'
import { withDepth } from '../../frame/depth'
import { encodePng } from '../../media/pictures/png/encode'
import { OPAQUE, type Frame } from '../../frame/frame'
import type { Host } from '../../frame/host'
import type { Kernels } from '../../frame/kernels/kernels'

export interface PictureError {
  /** Largest difference of a channel, in codes of 255. */
  codes: number
  /** Largest and mean CIEDE2000; the mean is over pixels that differ. */
  max: number
  mean: number
  /** Share of all pixels that differ by more than one code. */
  share: number
  /** Whether pixels came out lighter or darker on the whole. */
  tends: 'lighter' | 'darker' | 'neither'
}

function opaque(samples: Uint8Array): Uint8ClampedArray<ArrayBuffer> {
  const pixels = new Uint8ClampedArray(samples)
  for (let i = 3; i < pixels.length; i += 4) pixels[i] = 255
  return pixels
}

/** A frame over one flat colour, opaque, 8 bits, rounded to nearest. */
export function compose(frame: Frame, backdrop: HexColour, kernels: Kernels): Uint8ClampedArray<ArrayBuffer> {
  if (frame.alpha.mode !== 'premultiplied') {
    // over a flat colour is the same as premultiplied on it
    const over =
      frame.alpha.mode === 'none' ? frame : withAlphaMode(frame, { mode: 'premultiplied', matte: backdrop }, kernels)
    return opaque(withDepth(over, 8, kernels).samples as Uint8Array)
  }
  // light outside alpha must come through, so nothing is un-premultiplied on the way
  const { samples } = withDepth(frame, 32, kernels)
  const back = hexAtDepth(backdrop, 32)
  const matte = hexAtDepth(frame.alpha.matte, 32)
  const pixels = new Uint8ClampedArray(samples.length)
  for (let i = 0; i < samples.length; i += 4) {
    const rest = 1 - samples[i + 3]!
    for (let c = 0; c < 3; c++)
      pixels[i + c] = Math.floor((samples[i + c]! + (back[c]! - matte[c]!) * rest) * 255 + 0.5)
    pixels[i + 3] = 255
  }
  return pixels
}

const SCREEN = { mode: 'none', matte: [0, 0, 0] } as const

/** Difference of two opaque 8-bit pictures of `width`. */
export function pictureError(
  shown: Uint8ClampedArray,
  truth: Uint8ClampedArray,
  width: number,
  kernels: Kernels
): PictureError {
  const pixels = truth.length / 4
  let codes = 0
  let beyondOne = 0
  let lean = 0
  for (let i = 0; i < truth.length; i += 4) {
    const [r, g, b] = [shown[i]! - truth[i]!, shown[i + 1]! - truth[i + 1]!, shown[i + 2]! - truth[i + 2]!]
    if (r === 0 && g === 0 && b === 0) continue
    const most = Math.max(Math.abs(r), Math.abs(g), Math.abs(b))
    if (most > codes) codes = most
    if (most > 1) beyondOne++
    // weights of lightness, ITU-R BT.709
    lean += 0.2126 * r + 0.7152 * g + 0.0722 * b
  }
  const wide = (picture: Uint8ClampedArray): Uint16Array =>
    kernels.widen(new Uint8Array(picture.buffer, picture.byteOffset, picture.length))
  const { colour, changed } = kernels.compare(wide(truth), wide(shown), width, pixels / width, {
    expected: SCREEN,
    found: SCREEN,
    opposite: [0, 0, 0]
  })
  return {
    codes,
    max: colour.max,
    mean: changed ? colour.sum / changed : 0,
    share: beyondOne / pixels,
    tends: codes <= 1 || lean === 0 ? 'neither' : lean > 0 ? 'lighter' : 'darker'
  }
}

/** A picture on a screen as a PNG file. */
export function screenPng(
  host: Host,
  { width, height, pixels }: { width: number; height: number; pixels: Uint8ClampedArray<ArrayBuffer> }
): Uint8Array {
  return encodePng(host, {
    width,
    height,
    depth: 8,
    samples: new Uint8Array(pixels.buffer),
    alpha: OPAQUE,
    transfer: 'srgb'
  })
}
