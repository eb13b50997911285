/** What a station shows: the delivered samples under its reading, laid over a backdrop, against how it should look. */
import { hexAtDepth, type HexColour } from '../colour'
import { readAs } from '../frame/alpha'
import { withDepth } from '../frame/depth'
import type { AlphaMode, Frame } from '../frame/frame'
import { ciede2000, toLab } from '../proof/ciede2000'

export interface StationShow {
  alpha: AlphaMode
  backdrop: HexColour
}

export interface StationFrame {
  width: number
  height: number
  /** Opaque RGBA, 8 bits: the picture on the station's screen. */
  pixels: Uint8ClampedArray<ArrayBuffer>
  error: PictureError
}

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

/** A frame over one flat colour, opaque, 8 bits, rounded to nearest. */
export function compose(frame: Frame, backdrop: HexColour): Uint8ClampedArray<ArrayBuffer> {
  const { samples } = withDepth(frame, 32)
  const back = hexAtDepth(backdrop, 32)
  const matte = frame.alpha.mode === 'premultiplied' ? hexAtDepth(frame.alpha.matte, 32) : ([0, 0, 0] as const)
  const pixels = new Uint8ClampedArray(samples.length)
  const { mode } = frame.alpha
  for (let i = 0; i < samples.length; i += 4) {
    const a = mode === 'none' ? 1 : samples[i + 3]!
    for (let c = 0; c < 3; c++) {
      const colour = samples[i + c]!
      const value = mode === 'premultiplied' ? colour + (back[c]! - matte[c]!) * (1 - a) : colour * a + back[c]! * (1 - a)
      pixels[i + c] = Math.floor(value * 255 + 0.5)
    }
    pixels[i + 3] = 255
  }
  return pixels
}

/** Difference of two opaque 8-bit pictures. */
export function pictureError(shown: Uint8ClampedArray, truth: Uint8ClampedArray): PictureError {
  const lab = new Float64Array(6)
  const error: PictureError = { codes: 0, max: 0, mean: 0, share: 0, tends: 'neither' }
  let differing = 0
  let beyondOne = 0
  let lean = 0
  for (let i = 0; i < truth.length; i += 4) {
    const codes = Math.max(Math.abs(shown[i]! - truth[i]!), Math.abs(shown[i + 1]! - truth[i + 1]!), Math.abs(shown[i + 2]! - truth[i + 2]!))
    if (codes === 0) continue
    differing++
    if (codes > 1) beyondOne++
    error.codes = Math.max(error.codes, codes)
    toLab(shown[i]! / 255, shown[i + 1]! / 255, shown[i + 2]! / 255, lab, 0)
    toLab(truth[i]! / 255, truth[i + 1]! / 255, truth[i + 2]! / 255, lab, 3)
    const difference = ciede2000(lab, 0, 3)
    lean += lab[0]! - lab[3]!
    error.mean += difference
    error.max = Math.max(error.max, difference)
  }
  if (differing) error.mean /= differing
  error.share = beyondOne / (truth.length / 4)
  if (differing && error.codes > 1) error.tends = lean > 0 ? 'lighter' : 'darker'
  return error
}

/** The station's screen and its error against the truth over the same backdrop. */
export function showAtStation(delivered: Frame, truth: Frame, show: StationShow): StationFrame {
  const pixels = compose(readAs(delivered, show.alpha), show.backdrop)
  return { width: delivered.width, height: delivered.height, pixels, error: pictureError(pixels, compose(truth, show.backdrop)) }
}

/** What the receiver would see, in one sentence. */
export function stationSentence(error: PictureError, alpha: AlphaMode, remedy: string): { right: boolean; sentence: string } {
  if (error.codes <= 1) return { right: true, sentence: 'Right as it is.' }
  const share = error.share < 0.001 ? 'less than 0.1 %' : `${Math.round(error.share * 1000) / 10} %`
  const seen = alpha.mode === 'none' ? `Nothing is see-through: ${share} of the picture is wrong.` : `Edges turn ${error.codes} codes ${error.tends === 'darker' ? 'too dark' : 'too bright'}, in ${share} of the picture.`
  return { right: false, sentence: `${seen} ${remedy}` }
}
