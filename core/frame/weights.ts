/** Luma weights of red and blue by which Y'CbCr is made of R'G'B'; green has the rest. */
export interface Weights {
  readonly kr: number
  readonly kb: number
}

export const BT601: Weights = { kr: 0.299, kb: 0.114 }
export const BT709: Weights = { kr: 0.2126, kb: 0.0722 }
/** Non-constant luminance. */
export const BT2020: Weights = { kr: 0.2627, kb: 0.0593 }
