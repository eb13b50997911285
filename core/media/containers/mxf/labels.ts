/**
 * Keys and labels of MXF that Pour reads and writes (SMPTE ST 377-1, ST 379-2, ST 382, RDD 44), and the local tags of
 * its sets.
 */

export const KEY = {
  /** Followed by kind (02 header, 03 body, 04 footer), status and version. */
  partition: '060e2b34020501010d010201010',
  header: '060e2b34020501010d01020101020400',
  body: '060e2b34020501010d01020101030400',
  footer: '060e2b34020501010d01020101040400',
  primer: '060e2b34020501010d01020101050100',
  index: '060e2b34025301010d01020101100100',
  random: '060e2b34020501010d01020101110100',
  /** Of metadata sets; two digits before the last say which. */
  set: (kind: string): string => `060e2b34025301010d010101010${kind}`,
  /** Of essence elements; the last eight digits are the track's number. */
  essence: '060e2b34010201010d010301'
} as const

/** Metadata sets by the digits of their keys. */
export const SET = {
  preface: '12f00',
  identification: '13000',
  storage: '11800',
  essenceData: '12300',
  material: '13600',
  source: '13700',
  track: '13b00',
  sequence: '10f00',
  clip: '11100',
  timecode: '11400',
  picture: '12800',
  rgba: '12900',
  wave: '14800',
  aes3: '14700',
  multiple: '14400'
} as const

export const LABEL = {
  oneItem: '060e2b34040101010d01020101010900',
  wave: '060e2b34040101010d01030102060100',
  several: '060e2b34040101030d010301027f0100',
  pictures: '060e2b34040101010103020201000000',
  sounds: '060e2b34040101010103020202000000',
  timecodes: '060e2b34040101010103020101000000'
} as const

/** What a picture is coded by, against the numbers of ITU-T H.273; by the digits that tell them apart. */
export const PRIMARIES: Record<string, number> = {
  '0103030000': 1,
  '0103020000': 5,
  '0103010000': 6,
  '0103040000': 9,
  '0103060000': 12
}
export const TRANSFERS: Record<string, number> = {
  '0101020000': 1,
  '0101010000': 6,
  '01010a0000': 16,
  '01010b0000': 18
}
export const MATRICES: Record<string, number> = { '0102020000': 1, '0102010000': 6, '0102060000': 9 }

/** BT.709, as Pour writes it. */
export const BT709 = {
  primaries: '060e2b34040101060401010103030000',
  transfer: '060e2b34040101010401010101020000',
  matrix: '060e2b34040101010401010102020000'
} as const

/** Which of the register's labels stands for a number of ITU-T H.273; null where none is known. */
export function labelOf(table: Readonly<Record<string, number>>, code: number): string | null {
  const digits = Object.entries(table).find(([, known]) => known === code)?.[0]
  // labels of later editions of the register; the edition is no part of what they mean
  return digits ? `060e2b340401010d040101${digits}` : null
}
