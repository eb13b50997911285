/** Colour tags by ITU-T H.273: the numbers that containers and codecs share for primaries, transfer and matrix. */

export type ColourTags = readonly [primaries: number, transfer: number, matrix: number]

const PRIMARIES: Readonly<Record<number, string>> = {
  1: 'BT.709',
  5: 'BT.601 (625 lines)',
  6: 'BT.601 (525 lines)',
  9: 'BT.2020',
  11: 'DCI-P3',
  12: 'Display P3'
}
const TRANSFERS: Readonly<Record<number, string>> = { 4: 'gamma 2.2', 8: 'linear light', 16: 'PQ', 18: 'HLG' }

/**
 * Transfers that programs show as sRGB or BT.709 shows: 0 and 2 say nothing, 14 and 15 are BT.2020's name for the same
 * curve.
 */
const USUAL = new Set([0, 1, 2, 6, 13, 14, 15])

/** Primaries that say nothing, or BT.709's. */
const PLAIN = new Set([0, 1, 2])

/** Those of standard definition, which lie so near that nobody sees them taken for BT.709's. */
const NEAR = new Set([5, 6, 7])

/**
 * Whether tags say anything that the usual ones would not, so that they are worth carrying. The matrix, which RGB has
 * left behind, is no matter.
 */
export const isTagged = (tags: ColourTags | null | undefined): boolean =>
  !!tags && (!PLAIN.has(tags[0]) || !USUAL.has(tags[1]))

/** Whether codes under these tags are visibly another colour than the same codes as sRGB would be. */
export const isWide = (tags: ColourTags | null | undefined): boolean =>
  isTagged(tags) && !(NEAR.has(tags![0]) && USUAL.has(tags![1]))

/** "BT.2020, HLG". */
export function sayTags([primaries, transfer]: ColourTags): string {
  const colours = PRIMARIES[primaries] ?? `primaries ${primaries}`
  return USUAL.has(transfer) ? colours : `${colours}, ${TRANSFERS[transfer] ?? `transfer ${transfer}`}`
}

/** Tags of what colour may be taken for by hand. */
const BY_HAND: Readonly<Record<string, ColourTags>> = { 'Display P3': [12, 13, 0], 'BT.2020': [9, 14, 0] }

/** The tags that a colour said by hand stands for; null for words that are none. */
export const tagsByHand = (words: string): ColourTags | null => (Object.hasOwn(BY_HAND, words) ? BY_HAND[words]! : null)

/** Whether two say the same of RGB codes. */
export const sameTags = (a: ColourTags | null | undefined, b: ColourTags | null | undefined): boolean =>
  !!a && !!b && a[0] === b[0] && (a[1] === b[1] || (USUAL.has(a[1]) && USUAL.has(b[1])))

/**
 * The matrix that Y'CbCr of these colours is coded with: BT.2020's belongs to its primaries, BT.709's to all others.
 */
export const matrixFor = (tags: ColourTags | null | undefined): 1 | 9 => (tags?.[0] === 9 ? 9 : 1)
