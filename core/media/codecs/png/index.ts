/** PNG pictures as the packets of a film: exact, 8 or 16 bits. */
import { memoryReader } from '../../../base/files/file'
import { sizeApart, standalone, type VideoCodec } from '../codec'
import { decodePngFile } from '../../pictures/png/file'
import { encodePng } from '../../pictures/png/encode'
import { colourFindings, hasAlpha, readPngInfo } from '../../pictures/png/header'
import { decodeIndependently } from '../../pictures/png/independent'

export const png: VideoCodec = {
  names: {
    quicktime: ['png '],
    avi: ['MPNG', 'PNG1'],
    matroska: ['V_MPNG', 'V_PNG1', 'V_QUICKTIME/png ']
  },
  async about(track, first, file) {
    const info = await readPngInfo(memoryReader(`${file}, frame 1`, first))
    const { header } = info
    if (header.width !== track.width || header.height !== track.height) throw sizeApart(file, header, track)
    return {
      kind: 'PNG',
      bitDepth: header.bitDepth === 16 ? 16 : 8,
      carriesAlpha: hasAlpha(info),
      colour: info.colour,
      tags: info.tags,
      pixelAspect: info.pixelAspect,
      findings: colourFindings(info)
    }
  },
  decoder: (packets, host) =>
    Promise.resolve(
      standalone(packets, (data, place) => decodePngFile(host, memoryReader(`${packets.file}, ${place}`, data)))
    ),
  proofDecoder: (packets, host) =>
    Promise.resolve(standalone(packets, (data, place) => decodeIndependently(host, data, `${packets.file}, ${place}`))),
  proofReader: { name: "a library's PNG decoder, frame by frame", independent: true },
  coder: {
    lossless: true,
    labels: 'numbers',
    exactAlpha: true,
    depths: [
      { depth: 8, colourBits: 8, alphaBits: 8 },
      { depth: 16, colourBits: 16, alphaBits: 16 }
    ],
    options: {},
    entry: ({ alpha }, container) => ({
      code: container === 'avi' ? 'MPNG' : 'png ',
      name: 'PNG',
      depth: alpha.mode === 'none' ? 24 : 32
    }),
    encode: (host, frame, { tags }) => Promise.resolve(encodePng(host, frame, { tags: tags ?? null }))
  }
}
