/**
 * The rows that are films of a container Pour reads and writes itself: each a container, a codec, and what the pair is
 * good for.
 */
import { magicyuv } from '../codecs/magicyuv'
import { utvideo } from '../codecs/utvideo'
import { matroska } from '../containers/matroska'
import { mxf } from '../containers/mxf'
import { avi } from '../containers/avi'
import { ffv1 } from '../codecs/ffv1'
import { animation } from '../codecs/animation'
import { jpeg2000 } from '../codecs/jpeg2000'
import { mjpeg } from '../codecs/mjpeg'
import { png } from '../codecs/png'
import { prores422, prores4444, prores4444Xq } from '../codecs/prores'
import { textureAlpha, textureScaled } from '../codecs/texture'
import { bitmap, uncompressed } from '../codecs/uncompressed'
import { quicktime } from '../containers/quicktime'
import { vp8, vp9 } from '../codecs/vpx'
import { vc3 } from '../codecs/vc3'
import { wavelet } from '../codecs/wavelet'
import { webm } from '../containers/matroska/webm'
import { filmFormat, type FilmRow } from './film'

const IN_AVI = 'It is written in AVI, where it is at home; here it is read as it comes, and FFV1 is as lossless.'
const PLATE = 'It has no alpha: it is read to pull a matte from.'
/** What films without alpha hold. */
const BARE = 'colour alone, in one film'
const VC3_ALPHA = 'A film of it has no alpha: no program at hand says what its own plane of alpha holds.'
/** Of codecs without alpha, which carry it in a film of its own or not at all. */
const apart = (because: string): FilmRow['alpha'] => ({
  straight: { can: false, because },
  premultiplied: { can: false, because },
  none: { can: true, declares: 'the codec has no alpha' }
})
const SELDOM = 'It is read as it comes; hardly a program takes it in Matroska, where FFV1 is at home.'

export const films = [
  filmFormat({
    id: 'quicktime-prores-4444',
    name: 'QuickTime ProRes 4444',
    tag: 'MOV ProRes 4444',
    container: quicktime,
    codec: prores4444,
    uses: ['master', 'edits-live', 'decks']
  }),
  filmFormat({
    id: 'quicktime-prores-4444-xq',
    name: 'QuickTime ProRes 4444 XQ',
    tag: 'MOV ProRes 4444 XQ',
    container: quicktime,
    codec: prores4444Xq,
    uses: ['master', 'edits-live']
  }),
  filmFormat({
    id: 'quicktime-animation',
    name: 'QuickTime Animation RLE',
    tag: 'MOV Animation RLE',
    container: quicktime,
    codec: animation,
    uses: ['master']
  }),
  filmFormat({
    id: 'quicktime-png',
    name: 'QuickTime PNG',
    tag: 'MOV PNG',
    container: quicktime,
    codec: png,
    uses: ['master', 'for-engines']
  }),
  filmFormat({
    id: 'quicktime-raw',
    name: 'QuickTime uncompressed ARGB',
    tag: 'MOV uncompressed',
    container: quicktime,
    codec: uncompressed,
    alpha: {
      none: { can: true, declares: 'sample depth 24 at 8 bits; at 16 bits there is only ARGB, and alpha is solid' }
    },
    uses: ['master', 'seldom']
  }),
  filmFormat({
    id: 'quicktime-ffv1',
    name: 'QuickTime FFV1',
    tag: 'MOV FFV1',
    container: quicktime,
    codec: ffv1,
    uses: ['master', 'seldom']
  }),
  filmFormat({
    id: 'quicktime-texture',
    name: 'QuickTime texture film, BC3',
    tag: 'MOV BC3 texture',
    container: quicktime,
    codec: textureAlpha,
    uses: ['stages']
  }),
  filmFormat({
    id: 'quicktime-texture-scaled',
    name: 'QuickTime texture film, YCoCg and alpha',
    tag: 'MOV YCoCg texture',
    container: quicktime,
    codec: textureScaled,
    uses: ['stages']
  }),
  filmFormat({
    id: 'quicktime-wavelet',
    name: 'QuickTime wavelet (CFHD)',
    tag: 'MOV CFHD',
    container: quicktime,
    codec: wavelet,
    uses: ['master', 'edits-live']
  }),
  filmFormat({
    id: 'mxf-prores-4444',
    name: 'MXF ProRes 4444',
    tag: 'MXF ProRes 4444',
    container: mxf,
    codec: prores4444,
    uses: ['master', 'edits-live']
  }),
  filmFormat({
    id: 'mxf-prores-4444-xq',
    name: 'MXF ProRes 4444 XQ',
    tag: 'MXF ProRes 4444 XQ',
    container: mxf,
    codec: prores4444Xq,
    uses: ['master', 'edits-live']
  }),
  filmFormat({
    id: 'matroska-ffv1',
    name: 'Matroska FFV1',
    tag: 'MKV FFV1',
    container: matroska,
    codec: ffv1,
    uses: ['master', 'archival']
  }),
  filmFormat({
    id: 'matroska-wavelet',
    name: 'Matroska wavelet (CFHD)',
    tag: 'MKV CFHD',
    container: matroska,
    codec: wavelet,
    uses: ['master', 'seldom']
  }),
  filmFormat({
    id: 'webm-vp9',
    name: 'WebM VP9',
    tag: 'WebM VP9',
    container: webm,
    codec: vp9,
    carries: 'colour and alpha in one film for web pages',
    uses: ['for-engines', 'compact'],
    page: { element: 'film', type: 'video/webm; codecs=vp9', moves: true, order: 1 }
  }),
  filmFormat({
    id: 'webm-vp8',
    name: 'WebM VP8',
    tag: 'WebM VP8',
    container: webm,
    codec: vp8,
    carries: 'colour and alpha in one film for web pages',
    uses: ['for-engines', 'compact'],
    page: { element: 'film', type: 'video/webm; codecs=vp8', moves: true, order: 2 }
  }),
  filmFormat({
    id: 'avi-raw',
    name: 'AVI uncompressed',
    tag: 'AVI uncompressed',
    container: avi,
    codec: bitmap,
    uses: ['master', 'seldom']
  }),
  filmFormat({
    id: 'avi-png',
    name: 'AVI PNG',
    tag: 'AVI PNG',
    container: avi,
    codec: png,
    uses: ['master', 'seldom']
  }),
  filmFormat({
    id: 'avi-ffv1',
    name: 'AVI FFV1',
    tag: 'AVI FFV1',
    container: avi,
    codec: ffv1,
    uses: ['master', 'seldom']
  }),
  filmFormat({
    id: 'avi-wavelet',
    name: 'AVI wavelet (CFHD)',
    tag: 'AVI CFHD',
    container: avi,
    codec: wavelet,
    uses: ['master', 'edits-live']
  }),
  filmFormat({
    id: 'avi-utvideo',
    name: 'AVI UtVideo',
    tag: 'AVI UtVideo',
    container: avi,
    codec: utvideo,
    uses: ['master', 'edits-live']
  }),
  filmFormat({
    id: 'quicktime-utvideo',
    name: 'QuickTime UtVideo',
    tag: 'MOV UtVideo',
    container: quicktime,
    codec: utvideo,
    uses: [],
    readOnly: IN_AVI
  }),
  filmFormat({
    id: 'matroska-utvideo',
    name: 'Matroska UtVideo',
    tag: 'MKV UtVideo',
    container: matroska,
    codec: utvideo,
    uses: [],
    readOnly: IN_AVI
  }),
  filmFormat({
    id: 'avi-magicyuv',
    name: 'AVI MagicYUV',
    tag: 'AVI MagicYUV',
    container: avi,
    codec: magicyuv,
    uses: ['master']
  }),
  filmFormat({
    id: 'quicktime-magicyuv',
    name: 'QuickTime MagicYUV',
    tag: 'MOV MagicYUV',
    container: quicktime,
    codec: magicyuv,
    uses: [],
    readOnly: IN_AVI
  }),
  filmFormat({
    id: 'matroska-magicyuv',
    name: 'Matroska MagicYUV',
    tag: 'MKV MagicYUV',
    container: matroska,
    codec: magicyuv,
    uses: [],
    readOnly: IN_AVI
  }),
  filmFormat({
    id: 'quicktime-prores-422',
    name: 'QuickTime ProRes 422',
    tag: 'MOV ProRes 422',
    container: quicktime,
    codec: prores422,
    carries: BARE,
    uses: [],
    readOnly: PLATE
  }),
  filmFormat({
    id: 'mxf-prores-422',
    name: 'MXF ProRes 422',
    tag: 'MXF ProRes 422',
    container: mxf,
    codec: prores422,
    carries: BARE,
    uses: [],
    readOnly: PLATE
  }),
  filmFormat({
    id: 'matroska-prores-422',
    name: 'Matroska ProRes 422',
    tag: 'MKV ProRes 422',
    container: matroska,
    codec: prores422,
    carries: BARE,
    uses: [],
    readOnly: PLATE
  }),
  filmFormat({
    id: 'matroska-prores-4444',
    name: 'Matroska ProRes 4444',
    tag: 'MKV ProRes 4444',
    container: matroska,
    codec: prores4444,
    uses: [],
    readOnly: SELDOM
  }),
  filmFormat({
    id: 'matroska-prores-4444-xq',
    name: 'Matroska ProRes 4444 XQ',
    tag: 'MKV ProRes 4444 XQ',
    container: matroska,
    codec: prores4444Xq,
    uses: [],
    readOnly: SELDOM
  }),
  filmFormat({
    id: 'matroska-png',
    name: 'Matroska PNG',
    tag: 'MKV PNG',
    container: matroska,
    codec: png,
    uses: [],
    readOnly: SELDOM
  }),
  filmFormat({
    id: 'matroska-animation',
    name: 'Matroska Animation RLE',
    tag: 'MKV Animation RLE',
    container: matroska,
    codec: animation,
    uses: [],
    readOnly: SELDOM
  }),
  filmFormat({
    id: 'quicktime-vc3',
    name: 'QuickTime VC-3',
    tag: 'MOV VC-3',
    container: quicktime,
    codec: vc3,
    carries: BARE,
    alpha: apart(VC3_ALPHA),
    uses: ['edits-live']
  }),
  filmFormat({
    id: 'mxf-vc3',
    name: 'MXF VC-3',
    tag: 'MXF VC-3',
    container: mxf,
    codec: vc3,
    carries: BARE,
    alpha: apart(VC3_ALPHA),
    uses: ['edits-live']
  }),
  filmFormat({
    id: 'quicktime-jpeg2000',
    name: 'QuickTime JPEG 2000',
    tag: 'MOV JPEG 2000',
    container: quicktime,
    codec: jpeg2000,
    carries: BARE,
    uses: [],
    readOnly: 'It is read without alpha, as a plate or a matte: no decoder at hand takes a fourth component.'
  }),
  filmFormat({
    id: 'quicktime-mjpeg',
    name: 'QuickTime Motion JPEG',
    tag: 'MOV Motion JPEG',
    container: quicktime,
    codec: mjpeg,
    carries: BARE,
    uses: [],
    readOnly: PLATE
  }),
  filmFormat({
    id: 'avi-mjpeg',
    name: 'AVI Motion JPEG',
    tag: 'AVI Motion JPEG',
    container: avi,
    codec: mjpeg,
    carries: BARE,
    uses: [],
    readOnly: PLATE
  }),
  filmFormat({
    id: 'matroska-mjpeg',
    name: 'Matroska Motion JPEG',
    tag: 'MKV Motion JPEG',
    container: matroska,
    codec: mjpeg,
    carries: BARE,
    uses: [],
    readOnly: PLATE
  })
]
