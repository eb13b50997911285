/** JSON that says the same for equal values: the order of fields changes when a document is written and read again. */
import { configure } from 'safe-stable-stringify'

const canonical = configure({ deterministic: true, circularValue: Error })

/** The text of a value that JSON can hold, its fields in the order of their names; equal for equal values. */
export const sameJson = (value: unknown): string => canonical(value) ?? ''
