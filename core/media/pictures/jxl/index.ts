/**
 * JPEG XL pictures (ISO/IEC 18181), one a frame: read at their own depth, by a library that hands them out as PNG;
 * written at 8 bits, by another.
 */
import { isWide, sayTags } from '../../../frame/colour-tags'
import { damagedBy, impossible, unreadable } from '../../../base/errors'
import { memoryReader, readAll } from '../../../base/files/file'
import { OPAQUE, STRAIGHT } from '../../../frame/frame'
import { fromHead } from '../sequence/head'
import { decodePngFile } from '../png/file'
import { picturesOf } from '../sequence/pictures'
import { qualityOf, stillCoding } from '../still-coding'
import { looksLikeJxl, readJxlInfo } from './header'

export const jxlSequence = picturesOf(
  {
    extension: 'jxl',
    lossless: false,
    exactAlpha: false,
    exact: options => qualityOf(options) === null,
    // the encoder at hand takes 8 bits
    depths: [{ depth: 8, colourBits: 8, alphaBits: 8 }],
    alpha: {
      straight: { can: true, declares: 'an extra channel of the kind alpha, not associated' },
      premultiplied: {
        can: false,
        because: 'The encoder at hand writes straight alpha alone; an associated one is read.'
      },
      none: { can: true, declares: 'no extra channel' }
    },
    declaredMattes: [],
    limits: { width: 65535, height: 65535, rate: 'carried by names and notes' },
    options: stillCoding(
      'Lossless keeps every code, of colour under clear pixels too. Lossy changes colour, and alpha by a few codes.',
      85
    ),
    needs: 'jxl',
    proofReader: { name: 'a library of another hand', independent: true }
  },
  {
    recognises: looksLikeJxl,
    async about(reader) {
      const info = await fromHead(reader, bytes => readJxlInfo(bytes, reader.name))
      const { width, height, bits, float, alpha, animated, orientation, colour } = info
      const turned = orientation > 4
      const findings = []
      if (float)
        findings.push({
          id: 'wide-integers' as const,
          severity: 'warning' as const,
          frames: [],
          sentence:
            `It holds floats of ${bits} bits; the library that reads it gives whole numbers of 16, ` +
            'from black to white. Ask for OpenEXR where light beyond white matters.'
        })
      if (animated)
        findings.push({
          id: 'pages' as const,
          severity: 'warning' as const,
          frames: [],
          sentence: 'It is animated; its first picture is taken.'
        })
      const deep = bits > 8
      const tags = deep && Array.isArray(colour) ? ([colour[0], colour[1], 0] as [number, number, number]) : null
      if (deep && colour === 'other')
        findings.push({
          id: 'colour-profile' as const,
          severity: 'warning' as const,
          frames: [],
          sentence:
            'What it says of its colour Pour does not read. Its codes are kept and taken for those of sRGB; ' +
            'how far that is off is not known.'
        })
      return {
        kind: 'JPEG XL',
        width: turned ? height : width,
        height: turned ? width : height,
        bitDepth: deep ? 16 : 8,
        claim:
          alpha === 'none'
            ? { mode: 'none', matte: null, says: 'it has no alpha channel' }
            : alpha === 'straight'
              ? { mode: 'straight', matte: null, says: 'its alpha is not associated' }
              : // whether the library takes colour apart from alpha no file at hand shows: the pixels decide
                { mode: 'unknown', matte: null, says: 'its alpha is associated' },
        // what is not deep comes from the library as sRGB
        colour: tags && isWide(tags) ? sayTags(tags) : deep && colour ? null : 'sRGB',
        tags,
        findings
      }
    },
    async decode(host, reader) {
      const bytes = await readAll(reader)
      const { alpha, width, height, orientation, bits } = readJxlInfo(bytes, reader.name)
      if (!host.jxl) throw impossible('this machine has no decoder for it', reader.name)
      const png = await host.jxl(bytes, bits > 8).catch((error: unknown) => {
        throw damagedBy(error, why => unreadable(reader.name, null, `its picture is damaged (${why})`))
      })
      const frame = await decodePngFile(host, memoryReader(reader.name, png))
      const [w, h] = orientation > 4 ? [height, width] : [width, height]
      if (frame.width !== w || frame.height !== h)
        throw unreadable(reader.name, null, `it came out as ${frame.width}x${frame.height} instead of ${w}x${h}`)
      return { ...frame, alpha: alpha === 'none' ? OPAQUE : STRAIGHT }
    },
    async encode(host, frame, { options }) {
      if (!host.jxlEncoder) throw impossible('this machine has no encoder for JPEG XL')
      return host.jxlEncoder(frame.samples as Uint8Array, frame.width, frame.height, qualityOf(options))
    }
  }
)
