/** JPEG pictures as the packets of a film (ITU-T T.81): no alpha, read to pull a matte from. Decoded by the machine. */
import { OPAQUE } from '../../../frame/frame'
import { memoryReader } from '../../../base/files/file'
import { readJpegInfo } from '../../pictures/jpeg'
import { decodeByMachine } from '../../pictures/sequence/machine'
import { sizeApart, standalone, type VideoCodec } from '../codec'

export const mjpeg: VideoCodec = {
  names: { quicktime: ['jpeg', 'dmb1', 'mjpa'], avi: ['MJPG', 'mjpg'], matroska: ['V_MJPEG', 'V_QUICKTIME/jpeg'] },
  async about(track, first, file) {
    const info = await readJpegInfo(memoryReader(`${file}, frame 1`, first))
    // films of fields, each a picture of half the height, are refused with both sizes
    if (info.width !== track.width || info.height !== track.height) throw sizeApart(file, info, track)
    return { kind: 'Motion JPEG', bitDepth: 8, carriesAlpha: false }
  },
  decoder: (packets, host) =>
    Promise.resolve(
      standalone(packets, (data, place) =>
        decodeByMachine(host, `${packets.file}, ${place}`, data, 'image/jpeg', OPAQUE)
      )
    ),
  proofReader: { name: "the machine's own decoder", independent: true }
}
