/** A realtime engine that filters straight colour and alpha apart. */
import { STRAIGHT } from '../../../frame/frame'
import { ifAlpha, judged, opensAll, taking, type Station } from '../station'

export const engineStraight: Station = {
  id: 'engine-straight',
  name: 'Engine, straight',
  family: 'a realtime engine with straight blending and smooth filtering',
  explains:
    'It draws at three quarters of the size. Where it mixes neighbours, the colour under clear pixels comes ' +
    'into the rim.',
  kind: 'picture',
  refuses: opensAll,
  takes: ({ facts }) => taking(ifAlpha(facts, STRAIGHT), { texture: 'straight', drawn: 0.75 }),
  judge: ({ due }, { error }) =>
    judged(
      error,
      'wrong',
      due.mode === 'premultiplied'
        ? 'Pour a straight outlet with edge fill for this engine.'
        : 'Add the step Edge fill before pouring, or have the engine blend premultiplied.'
    )
}
