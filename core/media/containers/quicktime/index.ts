/** QuickTime: read through its index, written with the index last, or first where that is asked. */
import { timecodeField } from '../../../base/settings/timecode-field'
import { timecodeProblem } from '../../../base/timecode'
import type { Container } from '../container'
import { looksLikeQuickTime, readFilm } from './read'
import { assembleFilm, filmOverhead } from './write'

export const quicktime: Container = {
  id: 'quicktime',
  name: 'QuickTime',
  extension: 'mov',
  mime: 'video/quicktime',
  options: {
    timecode: timecodeField('; where it has none, none is written.'),
    'fast-start': {
      label: 'Index first',
      help: 'Places the index before the frames, so that a film can be played while it is still arriving.',
      type: 'switch',
      default: false
    }
  },
  alpha: {
    straight: { can: true, declares: 'sample depth 32, graphics mode 0x100' },
    premultiplied: { can: true, declares: 'sample depth 32, graphics mode 0x102 on black, 0x101 on white' },
    none: { can: true, declares: 'sample depth 24' }
  },
  declaredMattes: ['#000000', '#ffffff'],
  limits: { width: 65535, height: 65535, rate: 'any fraction' },
  labels: 'numbers',
  sound: ['pcm', 'float', 'aac'],
  soundTracks: 32,
  refusesRate: () => null,
  refuses: (options, rate) => (options.timecode && rate ? timecodeProblem(String(options.timecode), rate) : null),
  recognise: looksLikeQuickTime,
  resembles: head => String.fromCharCode(...head.subarray(4, 8)) === 'ftyp',
  demux: readFilm,
  mux: assembleFilm,
  overhead: filmOverhead
}
