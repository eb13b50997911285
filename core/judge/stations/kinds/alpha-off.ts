/** A timeline editor in which alpha is off until somebody switches it on. */
import { OPAQUE } from '../../../frame/frame'
import { judged, opensAll, share, switchWord, taking, type Station } from '../station'

export const alphaOff: Station = {
  id: 'alpha-off',
  name: 'Alpha off at first',
  family: 'a timeline editor that ignores alpha until it is told',
  explains: 'The clip fills the frame until its alpha is switched on in the clip’s settings.',
  kind: 'picture',
  refuses: opensAll,
  takes: () => taking(OPAQUE),
  judge: ({ due }, { error }) =>
    judged(
      error,
      'setting',
      `Switch alpha on for the clip, as ${switchWord(due)}.`,
      `Nothing is see-through: ${share(error.share)} of the picture is wrong.`
    )
}
