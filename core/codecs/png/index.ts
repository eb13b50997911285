/** PNG pictures as the samples of a QuickTime film: exact, 8 or 16 bits. */
import { unreadable } from '../../errors'
import { memoryReader } from '../../files/file'
import { decodePngFile } from '../../pictures/png-sequence'
import { encodePng } from '../../pictures/png/encode'
import { hasAlpha, readPngInfo } from '../../pictures/png/header'
import { decodeIndependently } from '../../pictures/png/independent'
import { DECLARED, quickTimeFormat, standalone } from '../../formats/film'

export const quicktimePng = quickTimeFormat(
  {
    id: 'quicktime-png',
    name: 'QuickTime PNG',
    tag: 'MOV PNG',
    lossless: true,
    exactAlpha: true,
    depths: [
      { depth: 8, colourBits: 8, alphaBits: 8 },
      { depth: 16, colourBits: 16, alphaBits: 16 }
    ],
    alpha: DECLARED,
    options: [],
    proofReader: { name: "a library's PNG decoder, frame by frame", independent: true },
    encode: (host, frame) => Promise.resolve(encodePng(host, frame))
  },
  {
    reads: ['png '],
    writes: ({ alpha }) => ({ code: 'png ', name: 'PNG', depth: alpha.mode === 'none' ? 24 : 32 }),
    async about(film, first, file) {
      const info = await readPngInfo(memoryReader(`${file}, frame 1`, first))
      const { header } = info
      if (header.width !== film.width || header.height !== film.height)
        throw unreadable(
          file,
          'frame 1',
          `its picture is ${header.width}x${header.height}; the film is ${film.width}x${film.height}`
        )
      return {
        kind: 'QuickTime PNG',
        bitDepth: header.bitDepth === 16 ? 16 : 8,
        carriesAlpha: hasAlpha(info),
        colour: info.colour
      }
    },
    decoder: (film, reader, host) =>
      Promise.resolve(
        standalone(reader, film, (data, place) => decodePngFile(host, memoryReader(`${reader.name}, ${place}`, data)))
      ),
    proofDecoder: (film, reader, host) =>
      Promise.resolve(
        standalone(reader, film, (data, place) => decodeIndependently(host, data, `${reader.name}, ${place}`))
      )
  }
)
