/** A realtime engine with premultiplied blending. */
import { BLACK_MATTE, ifAlpha, judged, opensAll, taking, type Station } from '../station'

export const enginePremultiplied: Station = {
  id: 'engine-premultiplied',
  name: 'Engine, premultiplied',
  family: 'a realtime engine with premultiplied blending and smooth filtering',
  explains: 'It draws at three quarters of the size, and adds the colour as stored to what shines through.',
  kind: 'picture',
  refuses: opensAll,
  takes: ({ facts }) => taking(ifAlpha(facts, BLACK_MATTE), { drawn: 0.75 }),
  judge: (_, { error }) =>
    judged(error, 'wrong', 'Pour an outlet premultiplied on black, or have the engine multiply on import.')
}
