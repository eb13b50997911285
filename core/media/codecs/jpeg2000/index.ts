/** JPEG 2000 pictures as the packets of a film (ISO/IEC 15444-3), read only, without alpha. */
import { decodeJ2k } from '../../pictures/jpeg2000/decode'
import { readJ2kInfo } from '../../pictures/jpeg2000/header'
import { sizeApart, standalone, type VideoCodec } from '../codec'

export const jpeg2000: VideoCodec = {
  names: { quicktime: ['mjp2'] },
  about(track, first, file) {
    const info = readJ2kInfo(first, `${file}, frame 1`)
    if (info.width !== track.width || info.height !== track.height) throw sizeApart(file, info, track)
    return { kind: `JPEG 2000, ${info.bits} bit`, bitDepth: info.bits <= 8 ? 8 : 16, carriesAlpha: false }
  },
  decoder: (packets, host) =>
    Promise.resolve(standalone(packets, (data, place) => decodeJ2k(host, data, packets.file, place))),
  proofReader: { name: 'a library of another hand', independent: true }
}
