/** A timeline editor that knows premultiplied alpha only. */
import { BLACK_MATTE, ifAlpha, judged, opensAll, taking, type Station } from '../station'

export const alwaysPremultiplied: Station = {
  id: 'always-premultiplied',
  name: 'Always premultiplied',
  family: 'a timeline editor that takes every alpha as premultiplied on black',
  explains: 'Colour that was never multiplied is laid on in full, so soft edges turn light and hard.',
  kind: 'picture',
  refuses: opensAll,
  takes: ({ facts }) => taking(ifAlpha(facts, BLACK_MATTE)),
  judge: (_, { error }) => judged(error, 'wrong', 'Pour an outlet premultiplied on black for this receiver.')
}
