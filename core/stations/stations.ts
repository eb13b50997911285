/** The stations there are so far. */
import { OPAQUE, STRAIGHT } from '../frame/frame'
import type { Station } from './station'

const alphaOff: Station = {
  id: 'alpha-off',
  name: 'Alpha off at first',
  family: 'a timeline editor that ignores alpha until it is told',
  kind: 'decode',
  opens: null,
  reads: () => ({ alpha: OPAQUE }),
  remedy: facts => `Switch alpha on for the clip, as ${facts.claim.mode === 'premultiplied' ? 'premultiplied' : 'straight'}.`
}

const alwaysStraight: Station = {
  id: 'always-straight',
  name: 'Always straight',
  family: 'a timeline editor that takes every alpha as straight',
  kind: 'decode',
  opens: null,
  reads: facts => ({ alpha: facts.claim.mode === 'none' ? OPAQUE : STRAIGHT }),
  remedy: () => 'Pour a straight outlet for this receiver, or set the clip to premultiplied there.'
}

const thisBrowser: Station = {
  id: 'this-browser',
  name: 'This browser',
  family: 'a web page that shows the file itself',
  kind: 'browser',
  opens: ['apng', 'webp-animated', 'gif', 'webm-vp9', 'webm-vp8'],
  reads: () => ({ alpha: STRAIGHT }),
  remedy: () => 'Pour WebM, WebP or an animated PNG for web pages.'
}

export const stations: readonly Station[] = [alphaOff, alwaysStraight, thisBrowser]
