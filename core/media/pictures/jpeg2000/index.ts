/** JPEG 2000 pictures (ISO/IEC 15444-1), bare or as JP2, read only: grey and RGB to 16 bits, without alpha. */
import { impossible } from '../../../base/errors'
import { readAll } from '../../../base/files/file'
import { profiled, readProfile } from '../../colour-profile'
import { fromHead } from '../sequence/head'
import { picturesOf } from '../sequence/pictures'
import { decodeJ2k } from './decode'
import { looksLikeJ2k, readJ2kInfo } from './header'

const NO_ALPHA = 'The decoder at hand takes pictures of one or three components, and JPEG 2000 is not written.'

export const jpeg2000Sequence = picturesOf(
  {
    extension: 'jp2',
    lossless: false,
    exactAlpha: false,
    depths: [
      { depth: 8, colourBits: 8, alphaBits: 8 },
      { depth: 16, colourBits: 16, alphaBits: 16 }
    ],
    alpha: {
      straight: { can: false, because: NO_ALPHA },
      premultiplied: { can: false, because: NO_ALPHA },
      none: { can: true, declares: 'one or three components' }
    },
    declaredMattes: [],
    limits: { width: 65535, height: 65535, rate: 'carried by names and notes' },
    options: {},
    needs: 'j2k',
    proofReader: { name: 'a library of another hand', independent: true }
  },
  {
    recognises: looksLikeJ2k,
    async about(reader) {
      const info = await fromHead(reader, bytes => readJ2kInfo(bytes, reader.name, reader.size))
      const { width, height, bits, profile } = info
      const colours = profile ? profiled(readProfile(profile)) : { colour: null, findings: [] }
      return {
        kind: `JPEG 2000, ${bits} bit`,
        width,
        height,
        bitDepth: bits <= 8 ? 8 : 16,
        claim: { mode: 'none', matte: null, says: 'components of colour alone' },
        ...colours
      }
    },
    decode: async (host, reader) => decodeJ2k(host, await readAll(reader), reader.name, null),
    encode: () => Promise.reject(impossible('JPEG 2000 is read, not written'))
  }
)
