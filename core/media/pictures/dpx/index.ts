/**
 * DPX files (SMPTE ST 268-1), one a frame: RGB and RGBA of 8, 10, 12 and 16 bits, both byte orders; grey is read.
 *
 * 0 "SDPX" or "XPDS", 4 u32 place of the picture; 772 u32 width, 776 u32 height; the first element from 780: 800 u8
 * descriptor (6 luma, 50 RGB, 51 RGBA, 52 ABGR), 801 u8 transfer, 803 u8 bits, 804 u16 packing (0 packed, 1 filled to
 * words, left), 806 u16 encoding, 808 u32 place, 812 u32 bytes after each line; 1628 u32 twice, the shape of a pixel;
 * 1724 f32 frame rate (film), 1920 u32 time code, 1940 f32 frame rate (television)
 */
import { timecodeField } from '../../../base/settings/timecode-field'
import { timecodeAfter, timecodeProblem } from '../../../base/timecode'
import type { PictureKind } from '../../formats/format'
import { fromHead } from '../sequence/head'
import { picturesOf } from '../sequence/pictures'
import { decode, looksLikeDpx, readInfo, SCREENS, transferFindings } from './read'
import { encode, placed } from './write'

const UNSAID = 'DPX has no field that says how its alpha is meant'

const pictures = picturesOf(
  {
    extension: 'dpx',
    lossless: true,
    exactAlpha: true,
    depths: [
      { depth: 8, colourBits: 8, alphaBits: 8 },
      { depth: 16, colourBits: 16, alphaBits: 16 }
    ],
    alpha: {
      straight: { can: true, declares: UNSAID },
      premultiplied: { can: true, declares: UNSAID },
      none: { can: true, declares: 'three samples a pixel' }
    },
    declaredMattes: [],
    limits: { width: 65535, height: 65535, rate: 'carried as a float' },
    options: {
      bits: {
        label: 'Bits of deep pictures',
        help: 'What pictures of 16 bits are written with; those of 8 bits have 8.',
        type: 'choice',
        row: true,
        choices: [
          { value: '10', label: '10' },
          { value: '12', label: '12' },
          { value: '16', label: '16' }
        ],
        default: '16'
      },
      'byte-order': {
        label: 'Byte order',
        help: 'High byte first is what most programs write and all read.',
        type: 'choice',
        row: true,
        choices: [
          { value: 'big', label: 'high first' },
          { value: 'little', label: 'low first' }
        ],
        default: 'big'
      },
      timecode: timecodeField('; where it has none, none is written.')
    },
    codeBits: ({ bits }) => Number(bits ?? 16),
    refuses: ({ timecode }, rate) =>
      !timecode
        ? null
        : rate
          ? timecodeProblem(String(timecode), rate)
          : 'A time code counts at a rate, and nothing says how fast this source plays. Give its rate first.',
    proofReader: { name: "Pour's own DPX reader, tested on files of other writers", independent: false }
  },
  {
    recognises: looksLikeDpx,
    async about(reader) {
      const info = await fromHead(reader, bytes => readInfo(bytes, reader.name, reader.size))
      return {
        kind: `DPX, ${info.bits} bit`,
        width: info.width,
        height: info.height,
        bitDepth: info.bits === 8 ? 8 : 16,
        claim:
          info.channels === 4
            ? { mode: 'unknown', matte: null, says: UNSAID }
            : { mode: 'none', matte: null, says: 'no alpha channel' },
        colour: SCREENS[info.transfer] ?? null,
        pixelAspect: info.pixelAspect,
        rate: info.rate,
        timecode: info.timecode,
        findings: transferFindings(info.transfer)
      }
    },
    decode,
    encode: (_, frame, deliverable) => Promise.resolve(encode(frame, deliverable))
  }
)

/** DPX pictures. Which of the clip each is stands in its header; that is put in as they are laid down in order. */
export const dpxSequence: PictureKind = {
  ...pictures,
  async assemble(target, deliverable, host, feeds) {
    const laid = await pictures.assemble(target, deliverable, host, feeds)
    const { names, options, rate } = deliverable
    const timecodeOf = (index: number): string | null =>
      options.timecode && rate ? timecodeAfter(String(options.timecode), index, rate) : null
    return {
      ...laid,
      add: (index, encoded) =>
        laid.add(index, placed(encoded, { name: names[index]!, timecode: timecodeOf(index), options }))
    }
  }
}
