/** MXF OP1a: read element by element, written frame by frame with an index in the footer. */
import { timecodeField } from '../../../base/settings/timecode-field'
import { timecodeProblem } from '../../../base/timecode'
import { sameTags, type ColourTags } from '../../../frame/colour-tags'
import type { Container } from '../container'
import { labelOf, PRIMARIES, TRANSFERS } from './labels'
import { looksLikeMxf, readMxf } from './read'
import { assembleMxf, mxfOverhead } from './write'

const UNSAID = 'a plane of alpha in each frame; MXF has no way to say more, so the receiver must be told'

/** What of tags there are labels for; 0 says nothing. */
const sayable = ([primaries, transfer]: ColourTags): ColourTags => [
  labelOf(PRIMARIES, primaries) ? primaries : 0,
  labelOf(TRANSFERS, transfer) ? transfer : 0,
  0
]

export const mxf: Container = {
  id: 'mxf',
  name: 'MXF',
  extension: 'mxf',
  mime: 'application/mxf',
  options: {
    timecode: timecodeField(', or it counts from zero.')
  },
  alpha: {
    straight: { can: true, declares: UNSAID },
    premultiplied: { can: true, declares: UNSAID },
    none: { can: true, declares: 'no plane of alpha' }
  },
  declaredMattes: [],
  limits: { width: 65535, height: 65535, rate: 'any fraction' },
  labels: 'numbers',
  says: tags => sameTags(tags, sayable(tags)),
  sound: ['pcm'],
  soundTracks: 16,
  refusesRate: () => null,
  refuses: (options, rate) => (options.timecode && rate ? timecodeProblem(String(options.timecode), rate) : null),
  recognise: looksLikeMxf,
  demux: readMxf,
  mux: assembleMxf,
  overhead: mxfOverhead
}
