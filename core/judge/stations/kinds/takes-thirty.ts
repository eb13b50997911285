/** An importer of sequences that assumes 30 frames a second. */
import { framesPerSecond, secondsOf } from '../../../base/rate'
import { believed, isSequence, RIGHT, taking, type Station } from '../station'

const ASSUMED = 30
const about = (value: number): string => String(Math.round(value * 100) / 100)

export const takesThirty: Station = {
  id: 'takes-thirty',
  name: 'Takes thirty',
  family: 'an importer of numbered pictures that assumes 30 frames a second',
  explains:
    'Numbered pictures carry no rate, so it takes its own. The picture is what it shows at the moment this ' +
    'frame is due.',
  kind: 'picture',
  refuses: guest => (isSequence(guest) ? null : 'A film carries its own rate, so nothing is assumed.'),
  takes: ({ facts }) => taking(believed(facts)),
  pace: () => ({ kind: 'assumed', framesPerSecond: ASSUMED }),
  judge({ facts }) {
    const { rate, frames } = facts
    if (frames === 1) return RIGHT
    if (!rate)
      return {
        standing: 'setting',
        sentence:
          `Plays ${frames} frames in ${about(frames / ASSUMED)} s. Nothing says whether that is ` +
          'right: the receiver must be told the rate.'
      }
    const fps = framesPerSecond(rate)
    if (fps === ASSUMED) return RIGHT
    const faster = ASSUMED > fps
    return {
      standing: 'setting',
      sentence:
        `Takes ${about(frames / ASSUMED)} s instead of ${about(secondsOf(frames, rate))} s: ` +
        `everything moves ${about(faster ? ASSUMED / fps : fps / ASSUMED)} times too ` +
        `${faster ? 'fast' : 'slow'}. Set ${about(fps)} frames a second for the sequence.`
    }
  }
}
