/** The field for the time code that a delivery begins at. */
import { TIMECODE_PATTERN } from '../timecode'
import type { Field } from './field'

/** `otherwise` says what is written where it is left empty and the source has none. */
export const timecodeField = (otherwise: string): Field => ({
  label: 'Starts at',
  help:
    'Time code of the first frame, HH:MM:SS:FF; a semicolon before the frames makes it drop-frame. ' +
    `Left empty, the source goes on counting as it did${otherwise}`,
  type: 'text',
  pattern: TIMECODE_PATTERN,
  example: '01:00:00:00',
  default: ''
})
