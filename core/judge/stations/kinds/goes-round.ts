/** A player that repeats every clip without end. */
import { sayStutter } from '../../proof/seam'
import { believed, judged, RIGHT, taking, type Station } from '../station'

export const goesRound: Station = {
  id: 'goes-round',
  name: 'Goes round',
  family: 'a screen or an engine that plays every clip over and over',
  explains: 'When the last frame has been shown, the first follows at once, whatever the file says of loops.',
  kind: 'picture',
  seam: true,
  refuses: ({ facts }) => (facts.frames < 3 ? 'A picture that does not move has no end to go round from.' : null),
  takes: ({ facts }) => taking(believed(facts)),
  judge({ facts }, { error, seam }) {
    const picture = judged(error, 'wrong', 'The file must say how its alpha is meant.')
    if (picture.standing !== 'right') return picture
    if (seam?.kind === 'repeats')
      return {
        standing: 'wrong',
        sentence:
          'The first frame comes twice at every turn: a stutter of one ' +
          `frame${sayStutter(facts.rate)}. Pour it again without its last frame.`,
        seen: 'It stutters at every turn.'
      }
    if (seam?.kind === 'jumps')
      return {
        standing: 'setting',
        sentence:
          `It jumps at every turn, ${Math.round(seam.times)} times as far as from frame to frame. If ` +
          'it is no loop, it must be set to play once.',
        seen: 'It jumps at every turn.'
      }
    return RIGHT
  }
}
