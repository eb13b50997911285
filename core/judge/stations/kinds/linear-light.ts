/** A compositor that lays layers over each other in linear light. */
import { believed, judged, opensAll, taking, type Station } from '../station'

export const linearLight: Station = {
  id: 'linear-light',
  name: 'Linear light',
  family: 'a compositor that works in linear light',
  explains:
    'It turns colour into light before it mixes. Edges mix as light does, which is not how film and web ' +
    'formats mean them.',
  kind: 'picture',
  refuses: opensAll,
  takes: ({ facts }) => taking(believed(facts), { light: 'linear' }),
  judge: (_, { error }) =>
    judged(error, 'setting', 'Have it mix this clip in display values, or judge the edges there and accept them.')
}
