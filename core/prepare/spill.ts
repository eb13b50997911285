/** What a screen's channel is held to where its light is taken off a subject. */
import type { Field } from '../base/settings/field'

/** Shares of the larger of the other two channels; the rest is the smaller's. */
const LEANS: Readonly<Record<string, number>> = { larger: 1, average: 1 / 2, double: 1 / 3, smaller: 0 }

export const heldTo = {
  type: 'choice',
  label: 'Held to',
  help: 'The larger keeps colours as they are; the others take off more, and shift what is yellow or cyan.',
  choices: [
    { value: 'larger', label: 'The larger of the other two' },
    { value: 'average', label: 'Their average' },
    { value: 'double', label: 'Their average, the smaller counted double' },
    { value: 'smaller', label: 'The smaller of them' }
  ],
  default: 'larger'
} as const satisfies Field

/** The share that goes with a choice. */
export const leanOf = (held: string): number => LEANS[held] ?? 1
