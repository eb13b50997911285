/** A timeline editor that knows straight alpha only. */
import { STRAIGHT } from '../../../frame/frame'
import { ifAlpha, judged, opensAll, taking, type Station } from '../station'

export const alwaysStraight: Station = {
  id: 'always-straight',
  name: 'Always straight',
  family: 'a timeline editor that takes every alpha as straight',
  explains: 'Colour that has been multiplied already is multiplied once more, so soft edges turn dark.',
  kind: 'picture',
  refuses: opensAll,
  takes: ({ facts }) => taking(ifAlpha(facts, STRAIGHT)),
  judge: (_, { error }) => judged(error, 'wrong', 'Pour a straight outlet for this receiver.')
}
