/** A compositor that asks on import. */
import { STRAIGHT } from '../../../frame/frame'
import { BLACK_MATTE, ifAlpha, opensAll, RIGHT, ROUNDING, sayEdges, switchWord, taking, type Station } from '../station'

export const asks: Station = {
  id: 'asks',
  name: 'Asks first',
  family: 'a compositor that asks how alpha is meant',
  explains: 'Whoever imports the file must answer, so the answer must reach them. The picture shows the right answer.',
  kind: 'picture',
  refuses: opensAll,
  takes: ({ facts, due }) => taking(ifAlpha(facts, due)),
  mistaken: ({ facts, due }) => taking(ifAlpha(facts, due.mode === 'premultiplied' ? STRAIGHT : BLACK_MATTE)),
  judge: ({ facts, due }, { mistaken }) => {
    if (facts.claim.mode === 'none' || due.mode === 'none' || !mistaken || mistaken.codes <= ROUNDING) return RIGHT
    return {
      standing: 'setting',
      sentence:
        `Answer “${switchWord(due)}”, and it is right. With the other answer: ` +
        `${sayEdges(mistaken).replace(/^Edges/, 'edges')}`
    }
  }
}
