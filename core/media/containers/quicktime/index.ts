/** QuickTime: read through its index, written with the index last, or first where that is asked. */
import { TIMECODE_PATTERN, timecodeProblem } from '../../../base/timecode'
import type { Container } from '../container'
import { looksLikeQuickTime, readFilm } from './read'
import { assembleFilm, filmOverhead } from './write'

export const quicktime: Container = {
  id: 'quicktime',
  name: 'QuickTime',
  extension: 'mov',
  mime: 'video/quicktime',
  options: {
    timecode: {
      label: 'Starts at',
      help: 'Time code of the first frame, HH:MM:SS:FF; a semicolon before the frames makes it drop-frame. Left empty, the source goes on counting as it did; where it has none, none is written.',
      type: 'text',
      pattern: TIMECODE_PATTERN,
      example: '01:00:00:00',
      default: ''
    },
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
