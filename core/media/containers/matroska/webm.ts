/**
 * WebM: the Matroska that browsers play. Its alpha lies beside the pictures (WebM Container Guidelines, "Alpha
 * channel").
 */
import type { Container, MuxPlan } from '../container'
import { matroska } from './index'
import { assembleMatroska, matroskaOverhead, type MatroskaKind } from './write'

const kindOf = ({ alpha }: MuxPlan): MatroskaKind => ({ docType: 'webm', side: alpha.mode !== 'none' })

export const webm: Container = {
  ...matroska,
  name: 'WebM',
  extension: 'webm',
  mime: 'video/webm',
  alpha: {
    straight: { can: true, declares: 'AlphaMode 1, alpha as side data of each frame' },
    premultiplied: { can: false, because: 'browsers take the alpha of WebM as straight.' },
    none: { can: true, declares: 'no AlphaMode' }
  },
  limits: { width: 16383, height: 16383, rate: 'times are whole milliseconds' },
  // of the codings that are carried, WebM takes none: it holds Opus and Vorbis
  sound: [],
  refusesRate: ([n, d]) =>
    n / d > 500 ? 'WebM holds times in whole milliseconds; this rate is too fast for that.' : null,
  mux: (sink, plan, feeds) => assembleMatroska(sink, plan, feeds, kindOf(plan)),
  overhead: plan => matroskaOverhead(plan, kindOf(plan))
}
