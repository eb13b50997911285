/**
 * What is known of findings by their kind: how a row names one, and whether it is about the file rather than its
 * pictures.
 */

export interface FindingKind {
  /** Short enough to be read at a glance; absent where the sentence alone is shown. */
  tag?: string
  /** About how the file labels its pixels, or what lies beside them: no step on the bench changes it. */
  ofTheFile?: boolean
  /**
   * Part of what was given is not in the clip: pictures of it, which is a loss, or what may be meant to be left: gaps,
   * tracks, layers.
   */
  leftOut?: 'pictures' | 'beside'
}

const KINDS = {
  'background-left-on': { tag: 'background left on' },
  'solid-everywhere': { tag: 'alpha solid everywhere' },
  'clear-everywhere': { tag: 'nothing to see' },
  'claim-contradicts-pixels': { tag: 'not as the file says', ofTheFile: true },
  'mode-doubted': { tag: 'mode in doubt', ofTheFile: true },
  'unlabelled-premultiplied': { tag: 'nothing labels it', ofTheFile: true },
  'first-frame-repeats': { tag: 'first frame repeats' },
  'missing-frames': { tag: 'frames are missing', ofTheFile: true, leftOut: 'beside' },
  'mixed-sizes': { tag: 'mixed sizes', ofTheFile: true, leftOut: 'pictures' },
  'mixed-alpha': { tag: 'some without alpha', ofTheFile: true },
  'mixed-depths': { ofTheFile: true },
  'time-stamps': { ofTheFile: true },
  'uneven-timing': { tag: 'times differ', ofTheFile: true },
  'edit-list': { tag: 'edited', ofTheFile: true },
  'more-tracks': { tag: 'more tracks', ofTheFile: true, leftOut: 'beside' },
  layers: { tag: 'one layer of several', ofTheFile: true, leftOut: 'beside' },
  'deep-data': { tag: 'deep data left out', ofTheFile: true, leftOut: 'beside' },
  'lossy-source': { ofTheFile: true },
  'more-channels': { tag: 'more channels', ofTheFile: true, leftOut: 'beside' },
  'wide-integers': { ofTheFile: true },
  'features-left-out': { tag: 'features left out', ofTheFile: true, leftOut: 'pictures' },
  'letters-missing': { tag: 'letters missing', ofTheFile: true, leftOut: 'pictures' },
  'letters-otherwise': { tag: 'other letters', ofTheFile: true },
  'letters-shrunk': { tag: 'lettering shrunk', ofTheFile: true },
  'letters-clipped': { tag: 'lettering cut off', ofTheFile: true, leftOut: 'pictures' },
  'letters-over': { tag: 'lettering too long', ofTheFile: true },
  'follows-nothing': { tag: 'width of its own', ofTheFile: true },
  'scene-backdrop': { ofTheFile: true },
  'scene-added-light': { ofTheFile: true },
  'scene-alone': { ofTheFile: true },
  'onto-nothing': { tag: 'path missing', ofTheFile: true },
  'onto-short': { tag: 'path too short', ofTheFile: true },
  'rides-nothing': { tag: 'path missing', ofTheFile: true },
  'camera-idle': { tag: 'camera without effect', ofTheFile: true },
  'values-idle': { tag: 'values without effect', ofTheFile: true },
  'matte-nothing': { tag: 'not cut', ofTheFile: true },
  'blend-unheld': { tag: 'mode not held by alpha', ofTheFile: true },
  'copies-fewer': { tag: 'fewer copies', ofTheFile: true },
  'dashes-solid': { tag: 'line not dashed', ofTheFile: true },
  'particles-fewer': { tag: 'fewer particles', ofTheFile: true },
  'letters-cut': { tag: 'lettering outside', ofTheFile: true, leftOut: 'pictures' },
  markers: { ofTheFile: true },
  'model-drawn': { ofTheFile: true },
  pages: { tag: 'more pages', ofTheFile: true, leftOut: 'beside' },
  'wide-colour': { ofTheFile: true },
  'no-rate': { tag: 'no rate', ofTheFile: true },
  'unreadable-frames': { tag: 'frames cannot be read', ofTheFile: true, leftOut: 'pictures' },
  'broken-values': { tag: 'broken values' },
  'alpha-beyond-range': { tag: 'alpha beyond its range' },
  'limited-range-alpha': { tag: 'limited-range alpha' },
  'on-off-alpha': { tag: 'alpha only on or off' },
  'light-outside-alpha': { tag: 'light outside alpha' },
  'colour-transfer': { tag: 'another curve', ofTheFile: true },
  'limited-range-colour': { tag: 'limited-range colour', ofTheFile: true },
  'colour-brought': { ofTheFile: true },
  'colour-profile': { tag: 'another profile', ofTheFile: true },
  'colour-untagged': { ofTheFile: true },
  'has-sound': { ofTheFile: true },
  'plate-sound': { tag: 'sound of a plate', ofTheFile: true }
} as const satisfies Readonly<Record<string, FindingKind>>

/** What a finding with something to know of it may be called. */
export type KnownFinding = keyof typeof KINDS

/** The kind of a finding's id. */
export const findingKind = (id: string): FindingKind => (Object.hasOwn(KINDS, id) ? KINDS[id as KnownFinding] : {})
