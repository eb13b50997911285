/**
 * What the key by the colour beside makes of coded film, measured by `tests/witness/keys.test.ts`, which fails where
 * these figures are no longer so. They stand here because the coder is at hand in those tests alone.
 */

/** Deviation of the noise before the coder, 0 to 1. */
export const CODED_NOISE = 0.008

/** The coder's constant rate factors: a camera's good setting, and a file sent for preview. */
export const CODED_RATES = [16, 24] as const

export interface CodedFigures {
  shot: string
  /** By rate factor: mean error of alpha at soft pixels, of 1, and the share of the clear area left with alpha. */
  figures: readonly { softAlpha: number; haze: number }[]
}

const row = (shot: string, ...figures: readonly (readonly [number, number])[]): CodedFigures => ({
  shot,
  figures: figures.map(([softAlpha, haze]) => ({ softAlpha, haze }))
})

export const CODED: readonly CodedFigures[] = [
  row('hair', [0.177, 0.073], [0.158, 0.084]),
  row('smoke', [0.054, 0.108], [0.059, 0.139]),
  row('glass', [0.034, 0.013], [0.037, 0.027]),
  row('lettering', [0.063, 0.033], [0.07, 0.074]),
  row('skin in motion', [0.016, 0.004], [0.023, 0.022]),
  row('pink ball in motion', [0.017, 0.002], [0.023, 0.005]),
  row('olive', [0.101, 0.038], [0.098, 0.076]),
  row('cyan', [0.067, 0.036], [0.082, 0.051]),
  row('yellow', [0.05, 0.027], [0.066, 0.045])
]
