/** A timeline editor that believes what the file says. */
import { believed, judged, opensAll, taking, type Station } from '../station'

export const readsTheLabel: Station = {
  id: 'reads-the-label',
  name: 'Reads the label',
  family: 'a timeline editor that goes by what the file says of itself',
  explains: 'It looks for the alpha mode in the file, and takes straight where nothing is said.',
  kind: 'picture',
  refuses: opensAll,
  takes: ({ facts }) => taking(believed(facts)),
  judge: ({ facts, due }, { error }) =>
    judged(
      error,
      facts.claim.mode === 'unknown' ? 'setting' : 'wrong',
      facts.claim.mode === 'unknown'
        ? `The file does not say that it is ${due.mode}; set it for the clip by hand.`
        : 'The file says something else than its pixels hold: pour it again, or set the mode by hand.'
    )
}
