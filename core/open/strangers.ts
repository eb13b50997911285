/**
 * Who else has seen each format: a decoder that shares no code with Pour reads what Pour writes, and writes what Pour
 * reads, in the tests (`tests/witness`). A row without one says so wherever it is offered.
 */
import type { Stranger } from '../media/formats/traits/described'
import type { FormatId } from './rows'

const by = (name: string): Stranger => ({ seen: true, by: name })
const LIBRARY = by('a media library, in the tests')
const MACHINE = by('the decoder of the machine, which is no code of Pour’s')
const alone = (because: string): Stranger => ({ seen: false, because })

export const STRANGERS: Readonly<Record<FormatId, Stranger>> = {
  'quicktime-prores-4444': LIBRARY,
  'quicktime-prores-4444-xq': LIBRARY,
  'quicktime-prores-422': LIBRARY,
  'quicktime-animation': LIBRARY,
  'quicktime-png': LIBRARY,
  'quicktime-raw': LIBRARY,
  'quicktime-ffv1': LIBRARY,
  'quicktime-utvideo': LIBRARY,
  'quicktime-magicyuv': LIBRARY,
  'quicktime-vc3': LIBRARY,
  'mxf-vc3': LIBRARY,
  'quicktime-jpeg2000': LIBRARY,
  'jpeg2000-sequence': LIBRARY,
  'quicktime-mjpeg': LIBRARY,
  'quicktime-texture': LIBRARY,
  'quicktime-texture-scaled': by('a media library, in the tests; of other writers no such film was at hand'),
  'quicktime-wavelet': LIBRARY,
  'avi-wavelet': LIBRARY,
  'matroska-wavelet': LIBRARY,
  'mxf-prores-4444': LIBRARY,
  'mxf-prores-4444-xq': LIBRARY,
  'mxf-prores-422': LIBRARY,
  'avi-raw': LIBRARY,
  'avi-png': LIBRARY,
  'avi-ffv1': LIBRARY,
  'avi-utvideo': LIBRARY,
  'avi-magicyuv': LIBRARY,
  'avi-mjpeg': LIBRARY,
  'matroska-ffv1': LIBRARY,
  'matroska-prores-4444': LIBRARY,
  'matroska-prores-4444-xq': LIBRARY,
  'matroska-prores-422': LIBRARY,
  'matroska-png': LIBRARY,
  'matroska-animation': alone(
    'no other program at hand opens Animation in Matroska; its frames are those of QuickTime'
  ),
  'matroska-utvideo': LIBRARY,
  'matroska-magicyuv': LIBRARY,
  'matroska-mjpeg': LIBRARY,
  'webm-vp9': by('a media library in the tests, and browsers'),
  'webm-vp8': by('a media library in the tests, and browsers'),
  'packed-sheet': by('a picture library reads its pages, and a validator its data, in the tests'),
  'png-sheet': by('a picture library, in the tests'),
  'png-sequence': LIBRARY,
  'tiff-sequence': by('a media library and a picture library, in the tests'),
  'exr-sequence': LIBRARY,
  'dpx-sequence': LIBRARY,
  'webp-sequence': LIBRARY,
  'tga-sequence': LIBRARY,
  apng: LIBRARY,
  'webp-animated': LIBRARY,
  gif: LIBRARY,
  'jpeg-sequence': MACHINE,
  'avif-sequence': by('a picture library, in the tests, and browsers'),
  'jxl-sequence': LIBRARY,
  'bmp-sequence': LIBRARY,
  'qoi-sequence': LIBRARY,
  'opaque-film': MACHINE,
  scene: alone(
    'scenes are Pour’s own; what is drawn of them is held against exact areas, not against another renderer'
  ),
  'vector-animation': alone('the library that draws it is no code of Pour’s, and no second one is held against it'),
  model: alone('the library that draws it is no code of Pour’s, and no second one is held against it'),
  svg: by('a browser, in the tests')
}
