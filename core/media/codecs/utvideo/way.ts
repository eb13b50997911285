import type { PlanarWay } from '../../../frame/kernels/coded'

/** UtVideo predicts about 128, line after line as if they were one, and packs into words. */
export const WAY: PlanarWay = { start: 128, lines: false, words: true }
