/** An editor whose own window shows black where a clip is clear. */
import { believed, opensAll, RIGHT, ROUNDING, share, taking, type Station } from '../station'

export const onBlack: Station = {
  id: 'on-black',
  name: 'Clear looks black',
  family: 'an editor that shows black where nothing lies below',
  explains: 'It keeps the alpha, but its monitor cannot show “nothing”. Black there is the monitor’s, not the file’s.',
  kind: 'picture',
  refuses: opensAll,
  takes: ({ facts }) => taking(believed(facts), { onto: '#000000' }),
  judge: (_, { error }) =>
    error.codes <= ROUNDING
      ? RIGHT
      : {
          standing: 'setting',
          sentence:
            `Black in ${share(error.share)} of the picture is only its window. Put a colour on the ` +
            'track below to see the truth.'
        }
}
