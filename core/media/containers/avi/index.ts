/** AVI: headers first, frames in order, old index and, beyond a GiB, those of OpenDML. */
import type { Container } from '../container'
import { looksLikeAvi, readAvi } from './read'
import { assembleAvi, aviOverhead } from './write'

export const avi: Container = {
  id: 'avi',
  name: 'AVI',
  extension: 'avi',
  mime: 'video/x-msvideo',
  options: {},
  alpha: {
    straight: { can: true, declares: '32 bits a pixel; AVI has no way to say more, so the receiver must be told' },
    premultiplied: { can: true, declares: '32 bits a pixel; AVI has no way to say more, so the receiver must be told' },
    none: { can: true, declares: '24 bits a pixel' }
  },
  declaredMattes: [],
  limits: { width: 32767, height: 32767, rate: 'any fraction' },
  sound: ['pcm', 'float'],
  soundTracks: 1,
  refusesRate: () => null,
  recognise: looksLikeAvi,
  demux: readAvi,
  mux: (sink, plan, feed) => assembleAvi(sink, plan, feed),
  overhead: plan => aviOverhead(plan)
}
