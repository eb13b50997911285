/** A program that takes numbered files for separate stills. */
import { believed, isSequence, RIGHT, taking, type Station } from '../station'

export const looseStills: Station = {
  id: 'loose-stills',
  name: 'Loose stills',
  family: 'a program that takes numbered files for separate pictures',
  explains: 'It imports every file by itself. What lies on the track is the first picture, and it never moves.',
  kind: 'picture',
  refuses: guest => (isSequence(guest) ? null : 'One film is one clip, so nothing falls apart.'),
  takes: ({ facts }) => taking(believed(facts)),
  pace: () => ({ kind: 'still' }),
  judge: ({ facts }) =>
    facts.frames === 1
      ? RIGHT
      : {
          standing: 'setting',
          sentence:
            `Brings in ${facts.frames} single pictures, and shows the first. Choose “image sequence” ` +
            'when importing, with only the first file selected.'
        }
}
