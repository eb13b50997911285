/** The thresholds of every verdict, in the one place there is. They are shown with each verdict. */
export const THRESHOLDS = {
  /**
   * Alpha error in codes of the delivered depth that still counts as faithful; a codec lossy in alpha may miss by
   * 1/255.
   */
  alphaCodes: 1,
  alphaLossy: 1 / 255,
  /** CIEDE2000 over the backdrops, over all visible pixels. */
  colourMean: 1,
  colourHigh: 3,
  /** The share of pixels that must lie under `colourHigh`. */
  colourShare: 0.999
} as const
export type Thresholds = typeof THRESHOLDS
