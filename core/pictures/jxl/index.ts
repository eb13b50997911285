/**
 * JPEG XL pictures (ISO/IEC 18181), one a frame, read only: decoded by the format's own library, which gives 8 bits.
 */
import { impossible } from '../../errors'
import { readAll } from '../../files/file'
import { OPAQUE, STRAIGHT } from '../../frame/frame'
import { fromHead } from '../sequence/head'
import { decodeByMachine } from '../sequence/machine'
import { picturesOf } from '../sequence/pictures'
import { looksLikeJxl, readJxlInfo } from './header'

export const jxlSequence = picturesOf(
  {
    extension: 'jxl',
    lossless: false,
    exactAlpha: true,
    depths: [{ depth: 8, colourBits: 8, alphaBits: 8 }],
    alpha: {
      straight: { can: true, declares: 'an extra channel of the kind alpha, not associated' },
      premultiplied: { can: true, declares: 'the same, associated' },
      none: { can: true, declares: 'no extra channel' }
    },
    declaredMattes: [],
    limits: { width: 65535, height: 65535, rate: 'carried by names and notes' },
    options: {},
    needs: 'pictures',
    proofReader: { name: "the format's own library", independent: true }
  },
  {
    recognises: looksLikeJxl,
    async about(reader) {
      const info = await fromHead(reader, bytes => readJxlInfo(bytes, reader.name))
      const { width, height, bits, float, alpha, animated, orientation } = info
      const turned = orientation > 4
      const findings = []
      if (bits > 8)
        findings.push({
          id: 'wide-integers' as const,
          severity: 'warning' as const,
          frames: [],
          sentence: `It holds ${bits} bits${float ? ' of floating point' : ''}; the library that reads it gives 8. Ask for 16-bit PNG or OpenEXR where the depth matters.`
        })
      if (animated)
        findings.push({
          id: 'pages' as const,
          severity: 'warning' as const,
          frames: [],
          sentence: 'It is animated; its first picture is taken.'
        })
      return {
        kind: 'JPEG XL',
        width: turned ? height : width,
        height: turned ? width : height,
        bitDepth: 8,
        claim:
          alpha === 'none'
            ? { mode: 'none', matte: null, says: 'it has no alpha channel' }
            : alpha === 'straight'
              ? { mode: 'straight', matte: null, says: 'its alpha is not associated' }
              : // whether the library takes colour apart from alpha no file at hand shows: the pixels decide
                { mode: 'unknown', matte: null, says: 'its alpha is associated' },
        colour: 'sRGB',
        findings
      }
    },
    async decode(host, reader) {
      const bytes = await readAll(reader)
      const { alpha } = readJxlInfo(bytes, reader.name)
      return decodeByMachine(host, reader.name, bytes, 'image/jxl', alpha === 'none' ? OPAQUE : STRAIGHT)
    },
    encode: () => Promise.reject(impossible('JPEG XL is read, not written'))
  }
)
