/**
 * Where deliveries go: what a format must be to be taken there, what serves best, and what the receiver has to set.
 * Plain data.
 */
import type { Parts } from './settings'
import type { Delivers } from '../../media/formats/traits/described'
import type { Purpose } from '../../media/formats/traits/described'
import type { FormatId } from '../../open/rows'
import type { AlphaMode } from '../../frame/frame'

export interface Destination {
  readonly id: string
  readonly name: string
  /** Stations that stand for it; none where no station does. */
  readonly stations: readonly string[]
  /** Traits of which a format has one at least. */
  readonly takes: readonly Purpose[]
  /** One file with its rate in it, a picture a frame, or either. */
  readonly delivers?: Delivers
  /** Whether one of the two serves better where either is taken. */
  readonly rather?: 'film' | 'pictures'
  /** How a page must show it. */
  readonly page?: 'film' | 'picture'
  readonly exact?: true
  readonly prefers: readonly Purpose[]
  readonly parts: Parts
  /** The mode that is right there, where the format can be in it. */
  readonly alpha: AlphaMode
  /** Whether formats that cannot be in it do not serve. */
  readonly onlySo?: true
  /** Steps an outlet for it has, by kind, with their settings. */
  readonly steps: readonly (readonly [kind: string, settings: Readonly<Record<string, unknown>>])[]
  /** What each family of receivers has to set, as sentences. */
  readonly receiver: string
  /** Formats that most receivers of this kind ask for, the most common first. */
  readonly usual: readonly FormatId[]
  /** What to do when nothing poured does. */
  readonly else: string
}

const BLACK: AlphaMode = { mode: 'premultiplied', matte: '#000000' }
const STRAIGHT: AlphaMode = { mode: 'straight' }

export const DESTINATIONS: readonly Destination[] = [
  {
    id: 'editor',
    name: 'Timeline editor',
    stations: ['reads-the-label', 'always-straight', 'alpha-off'],
    takes: ['master'],
    rather: 'film',
    prefers: ['edits-live'],
    parts: 'colour-alpha',
    alpha: STRAIGHT,
    steps: [],
    receiver: 'Set the clip to straight alpha where the editor asks; some leave alpha off until it is switched on.',
    usual: ['quicktime-prores-4444', 'quicktime-prores-4444-xq', 'png-sequence'],
    else: 'pour a QuickTime film'
  },
  {
    id: 'compositor',
    name: 'Compositor',
    stations: ['asks', 'reads-the-label', 'linear-light'],
    takes: ['master'],
    prefers: ['archival'],
    parts: 'colour-alpha',
    alpha: STRAIGHT,
    steps: [],
    receiver:
      'Answer straight when it asks how alpha is meant, and give a sequence its rate; it is in the names and the note.',
    usual: ['exr-sequence', 'quicktime-prores-4444', 'png-sequence', 'tiff-sequence'],
    else: 'pour a QuickTime film or a sequence'
  },
  {
    id: 'playout',
    name: 'Broadcast playout, fill and key',
    stations: [],
    takes: ['edits-live'],
    delivers: 'film',
    prefers: ['master'],
    parts: 'fill-key',
    alpha: BLACK,
    steps: [],
    receiver:
      'Set the keyer to a multiplied fill, and the key to full range; both films have equal length and start together.',
    usual: ['quicktime-prores-4444', 'mxf-prores-4444', 'quicktime-prores-4444-xq', 'mxf-vc3'],
    else: 'pour a film as fill and key'
  },
  {
    id: 'slides',
    name: 'Slide deck',
    stations: [],
    takes: ['decks'],
    prefers: ['everywhere'],
    parts: 'colour-alpha',
    alpha: STRAIGHT,
    steps: [],
    receiver:
      'Insert it as a picture, or as a film where the deck plays films with alpha; try it on the machine that shows it.',
    usual: ['apng', 'gif'],
    else: 'pour an animated PNG'
  },
  {
    id: 'engine',
    name: 'Realtime engine, as frames',
    stations: ['engine-premultiplied'],
    takes: ['for-engines'],
    delivers: 'pictures',
    prefers: ['everywhere'],
    parts: 'colour-alpha',
    alpha: BLACK,
    onlySo: true,
    steps: [],
    receiver: 'Blend it as premultiplied, and import it without the engine multiplying it once more; say the rate.',
    usual: ['png-sequence', 'tga-sequence'],
    else: 'pour a premultiplied sequence of TGA'
  },
  {
    id: 'engine-sheet',
    name: 'Realtime engine, as a sheet',
    stations: ['engine-premultiplied'],
    takes: ['sheet'],
    prefers: [],
    parts: 'colour-alpha',
    alpha: BLACK,
    onlySo: true,
    steps: [],
    receiver:
      'Cut it by its data file, or a plain sheet by its columns and rows from the top left; blend it as premultiplied, ' +
      'and with filtering on leave room between frames.',
    usual: ['packed-sheet', 'png-sheet'],
    else: 'pour a premultiplied PNG sheet'
  },
  {
    id: 'engine-film',
    name: 'Realtime engine, as a film',
    stations: ['engine-straight', 'small-draw'],
    takes: ['for-engines'],
    delivers: 'film',
    prefers: ['compact'],
    parts: 'colour-alpha',
    alpha: STRAIGHT,
    steps: [['edge-fill', {}]],
    receiver:
      'Let the film material use its alpha as straight. Filtered so, the finest edges come out some codes ' +
      'dark; where that shows, deliver premultiplied frames.',
    usual: ['webm-vp8', 'webm-vp9', 'quicktime-png'],
    else: 'pour WebM or QuickTime PNG'
  },
  {
    id: 'stage',
    name: 'Stage or installation player',
    stations: ['engine-straight'],
    takes: ['stages'],
    delivers: 'film',
    prefers: [],
    parts: 'colour-alpha',
    alpha: STRAIGHT,
    steps: [['edge-fill', {}]],
    receiver:
      'Blend its texture as straight, or ask for a premultiplied one where the shader of the player adds. Filtered as ' +
      'straight, the finest edges come out some codes dark. Keep the film on a fast disk: it is read as it is shown.',
    usual: ['quicktime-texture', 'quicktime-texture-scaled'],
    else: 'pour a texture film'
  },
  {
    id: 'web',
    name: 'Web page, as a film',
    stations: ['this-browser', 'no-codec'],
    takes: ['for-engines', 'compact'],
    page: 'film',
    prefers: ['compact'],
    parts: 'colour-alpha',
    alpha: STRAIGHT,
    steps: [],
    receiver: 'Show it in a video element, with a picture beside it for browsers that do not take its alpha.',
    usual: ['webm-vp9', 'webm-vp8'],
    else: 'pour WebM'
  },
  {
    id: 'web-picture',
    name: 'Web page, as a picture',
    stations: ['this-browser'],
    takes: ['stickers', 'compact', 'everywhere'],
    page: 'picture',
    prefers: ['compact'],
    parts: 'colour-alpha',
    alpha: STRAIGHT,
    steps: [],
    receiver: 'Show it in an img element; it plays by itself, and no player can stop it.',
    usual: ['webp-animated', 'apng', 'gif'],
    else: 'pour WebP or an animated PNG'
  },
  {
    id: 'sticker',
    name: 'Message sticker',
    stations: [],
    takes: ['stickers'],
    prefers: ['compact'],
    parts: 'colour-alpha',
    alpha: STRAIGHT,
    steps: [['fit', { width: 512, height: 512 }]],
    receiver: 'Each service has its own largest size and weight; ask for them, and set the size to theirs.',
    usual: ['webp-animated', 'apng', 'webm-vp9'],
    else: 'pour WebP or an animated PNG'
  },
  {
    id: 'archive',
    name: 'Archive',
    stations: [],
    takes: ['archival'],
    exact: true,
    prefers: ['archival'],
    parts: 'colour-alpha',
    alpha: STRAIGHT,
    steps: [],
    receiver: 'Keep the hand-over with it: the note says rate and alpha, the sums say whether anything changed.',
    usual: ['matroska-ffv1', 'png-sequence', 'tiff-sequence', 'exr-sequence'],
    else: 'pour FFV1 in Matroska, PNG, TIFF or OpenEXR'
  }
]

/** What may matter most. */
export const MATTERS = [
  { id: 'usual', name: 'what receivers most commonly take' },
  { id: 'exactness', name: 'every code kept' },
  { id: 'size', name: 'a small file' },
  { id: 'everywhere', name: 'opens everywhere' },
  { id: 'depth', name: 'the widest depth' }
] as const
export type Matter = (typeof MATTERS)[number]['id']
