/** Matroska: read block by block, written in clusters with an index of them behind. */
import type { Container } from '../container'
import { looksLikeEbml } from './ebml'
import { readMatroska } from './read'
import { assembleMatroska, matroskaOverhead } from './write'

export const matroska: Container = {
  id: 'matroska',
  name: 'Matroska',
  extension: 'mkv',
  mime: 'video/x-matroska',
  options: {},
  alpha: {
    straight: {
      can: true,
      declares: 'a plane of alpha beside the colour; nothing says more, and readers take it as straight'
    },
    premultiplied: { can: false, because: 'nothing in Matroska could say it, and readers take its alpha as straight.' },
    none: { can: true, declares: 'no plane of alpha' }
  },
  declaredMattes: [],
  limits: {
    width: 65535,
    height: 65535,
    rate: 'times are whole milliseconds; the length of a frame is in nanoseconds'
  },
  labels: 'numbers',
  sound: ['pcm', 'float', 'aac'],
  soundTracks: 32,
  refusesRate: ([n, d]) =>
    n / d > 500 ? 'Matroska holds times in whole milliseconds; this rate is too fast for that.' : null,
  recognise: looksLikeEbml,
  demux: readMatroska,
  mux: assembleMatroska,
  overhead: matroskaOverhead
}
