/** A page or engine that draws small through mip-maps. */
import { STRAIGHT } from '../../../frame/frame'
import { ifAlpha, judged, opensAll, taking, type Station } from '../station'

export const smallDraw: Station = {
  id: 'small-draw',
  name: 'Drawn small',
  family: 'an engine that draws at a quarter of the size through halved copies',
  explains: 'Each halved copy mixes straight colour of four pixels, clear ones included, so a rim grows with distance.',
  kind: 'picture',
  refuses: opensAll,
  takes: ({ facts }) => taking(ifAlpha(facts, STRAIGHT), { texture: 'straight', drawn: 0.25 }),
  judge: ({ due }, { error }) =>
    judged(
      error,
      'wrong',
      due.mode === 'premultiplied' ? 'Pour a straight outlet with edge fill.' : 'Add the step Edge fill before pouring.'
    )
}
