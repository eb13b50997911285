/** The settings of stills that are coded without loss or with, as they are asked. */
import type { Fields, OptionValues } from '../../base/settings/field'

/** `help` says what either keeps; `quality` is that of lossy ones where nobody says another. */
export const stillCoding = (help: string, quality: number): Fields => ({
  coding: {
    label: 'Coding',
    help,
    type: 'choice',
    row: true,
    choices: [
      { value: 'lossless', label: 'lossless' },
      { value: 'lossy', label: 'lossy' }
    ],
    default: 'lossless'
  },
  quality: {
    label: 'Quality',
    help: 'Of lossy pictures: 1 is smallest, 99 best.',
    type: 'number',
    whole: true,
    lightens: true,
    min: 1,
    max: 99,
    default: quality,
    when: { field: 'coding', is: 'lossy' }
  }
})

/** The quality that is asked, 1 to 99; null where every code is to be kept. */
export const qualityOf = ({ coding, quality }: OptionValues): number | null =>
  coding === 'lossy' ? Number(quality) : null
