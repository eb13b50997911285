/** The groups that people look for formats in: the form's list and the README's tables are drawn from these. */
import { holdsAlpha, type Carrying } from './traits/carrying'
import type { Described } from './traits/described'
import type { ShownOnPage } from './traits/on-page'

export interface Family {
  name: string
  has(format: Described & Carrying & ShownOnPage): boolean
}

/** Each format stands in the first that has it. */
export const FAMILIES: readonly Family[] = [
  {
    name: 'Films that play in real time',
    has: ({ delivers, uses, alpha }) =>
      delivers === 'film' && holdsAlpha({ alpha }) && (uses.includes('edits-live') || uses.includes('stages'))
  },
  {
    name: 'Films for fill and key, without alpha',
    has: format => format.delivers === 'film' && !holdsAlpha(format)
  },
  { name: 'A picture a frame', has: ({ delivers }) => delivers === 'pictures' },
  { name: 'Engines', has: ({ uses }) => uses.includes('sheet') },
  {
    name: 'Pages and messages',
    has: ({ page, uses }) => !!page || uses.includes('stickers') || uses.includes('compact')
  },
  { name: 'Exact films, to archive and to exchange', has: ({ lossless }) => lossless },
  { name: 'Other films', has: () => true }
]

/** The first family that has a format. */
export const familyOf = (format: Parameters<Family['has']>[0]): Family => FAMILIES.find(({ has }) => has(format))!
