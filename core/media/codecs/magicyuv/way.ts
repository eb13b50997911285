import type { PlanarWay } from '../../../frame/kernels/coded'

/** MagicYUV predicts about 0, each line by itself, and packs into bytes. */
export const WAY: PlanarWay = { start: 0, lines: true, words: false }

/** Prediction by the median of left, above, and their sum less above-left. */
export const MEDIAN = 3
