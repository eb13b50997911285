/** What is told of pictures that their file keeps turned. */
import { ORIENTATION_WORDS, type Orientation } from '../frame/orient'
import type { Finding } from './source'

/** A note of what was done to set them upright; nothing where they are so already. */
export function turnedFindings(orientation: Orientation): Finding[] {
  const done = ORIENTATION_WORDS[orientation]
  return done
    ? [
        {
          id: 'orientation',
          severity: 'note',
          frames: [],
          sentence:
            `The file keeps its picture turned (orientation ${orientation}); it is ${done} here, as ` +
            'the file asks.',
          causes: 'Programs that ignore the field show it as it is stored. What Pour writes is upright.'
        }
      ]
    : []
}
