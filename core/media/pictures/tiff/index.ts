/**
 * TIFF files, one a frame: 8, 16 bits or float, with ExtraSamples that say how alpha is meant (TIFF 6.0, section 18).
 */
import { profiled } from '../../colour-profile'
import { writeProfile } from '../../profile-write'
import type { Frame } from '../../../frame/frame'
import type { Host } from '../../../frame/host'
import type { AlphaClaim, Finding } from '../../../source/source'
import type { Deliverable } from '../../formats/deliverable'
import { fromHead } from '../sequence/head'
import { picturesOf, type PictureAbout } from '../sequence/pictures'
import { upright } from '../sequence/upright'
import { decodeTiff, depthOf, looksLikeTiff, pagesOf, readTiffInfo, type TiffInfo } from './read'

const COMPRESSIONS: Record<string, number> = { none: 1, lzw: 5, deflate: 8 }
/** Bytes of one strip, before packing: small enough to stream, large enough to pack well. */
const STRIP = 1 << 18

/** Rows of floats as a file holds them: little-endian, without alpha where there is none. */
function floatRows(samples: Float32Array, channels: 3 | 4): Uint8Array {
  const rows = channels === 4 ? samples.slice() : samples.filter((_, i) => (i & 3) !== 3)
  return new Uint8Array(rows.buffer)
}

type Entry = readonly [tag: number, type: 3 | 4 | 5 | 7, values: ArrayLike<number>]

/** Bytes of a value: SHORT, LONG and each half of RATIONAL, UNDEFINED. */
const EACH = { 3: 2, 4: 4, 5: 4, 7: 1 } as const

/**
 * file: "II" 42, u32 place of the directory; strips; long values; directory
 * directory: u16 entries, then u16 tag, u16 type (3 SHORT, 4 LONG, 5 RATIONAL, 7 UNDEFINED), u32 count, value or its
 * place; u32 0
 */
function encodeTiff(host: Host, frame: Frame, { options, pixelAspect, tags }: Deliverable): Uint8Array {
  const { width, height, depth, alpha } = frame
  const channels = alpha.mode === 'none' ? 3 : 4
  const square = pixelAspect[0] === pixelAspect[1]
  const compression = COMPRESSIONS[String(options.compression ?? 'deflate')]!
  const pack = compression === 8 ? 'zlib' : compression === 5 ? 'lzw' : 'none'
  const predicted = compression !== 1 && depth !== 32
  const stride = (width * channels * depth) / 8
  const rowsPerStrip = Math.max(1, Math.min(height, Math.floor(STRIP / stride)))
  const strips: Uint8Array[] = []
  for (let y = 0; y < height; y += rowsPerStrip) {
    const part = frame.samples.subarray(4 * width * y, 4 * width * Math.min(height, y + rowsPerStrip))
    if (part instanceof Float32Array) {
      const raw = floatRows(part, channels)
      strips.push(pack === 'zlib' ? host.kernels.zlib(raw) : pack === 'lzw' ? host.kernels.lzw(raw) : raw)
    } else strips.push(host.kernels.strip(part, { width, channels, predicted, pack }))
  }
  let at = 8
  const offsets = strips.map(strip => {
    const place = at
    at += strip.length + (strip.length & 1)
    return place
  })
  const profile = writeProfile(tags)
  const entries: Entry[] = [
    [256, 4, [width]],
    [257, 4, [height]],
    [258, 3, Array<number>(channels).fill(depth)],
    [259, 3, [compression]],
    [262, 3, [2]],
    [273, 4, offsets],
    [277, 3, [channels]],
    [278, 4, [rowsPerStrip]],
    [279, 4, strips.map(strip => strip.length)],
    // of pixels that are not square only the ratio is told: more of them to the unit, less of each
    [282, 5, square ? [72, 1] : [pixelAspect[1], 1]],
    [283, 5, square ? [72, 1] : [pixelAspect[0], 1]],
    [284, 3, [1]],
    [296, 3, [square ? 2 : 1]],
    [317, 3, [predicted ? 2 : 1]],
    ...(channels === 4 ? ([[338, 3, [alpha.mode === 'premultiplied' ? 1 : 2]]] as Entry[]) : []),
    [339, 3, Array<number>(channels).fill(depth === 32 ? 3 : 1)],
    // ISO 15076-1, annex B.4
    ...(profile ? ([[34675, 7, profile]] as Entry[]) : [])
  ]
  const sizeOf = ([, type, values]: Entry): number => values.length * EACH[type]
  const placeOf = (entry: Entry): number => sizeOf(entry) + (sizeOf(entry) & 1)
  const long = entries.filter(entry => sizeOf(entry) > 4).reduce((sum, entry) => sum + placeOf(entry), 0)
  const directory = at + long
  const file = new Uint8Array(directory + 2 + 12 * entries.length + 4)
  const view = new DataView(file.buffer)
  file.set([0x49, 0x49, 42, 0])
  view.setUint32(4, directory, true)
  strips.forEach((strip, i) => file.set(strip, offsets[i]!))
  view.setUint16(directory, entries.length, true)
  entries.forEach((entry, i) => {
    const [tag, type, values] = entry
    const here = directory + 2 + 12 * i
    view.setUint16(here, tag, true)
    view.setUint16(here + 2, type, true)
    view.setUint32(here + 4, type === 5 ? values.length / 2 : values.length, true)
    let place = here + 8
    if (sizeOf(entry) > 4) {
      view.setUint32(here + 8, at, true)
      place = at
      at += placeOf(entry)
    }
    for (let n = 0; n < values.length; n++) {
      if (type === 7) view.setUint8(place + n, values[n]!)
      else if (type === 3) view.setUint16(place + 2 * n, values[n]!, true)
      else view.setUint32(place + 4 * n, values[n]!, true)
    }
  })
  return file
}

/** What of a file is not taken. */
function findingsOf({ sample, channels, photometric, extra }: TiffInfo): Finding[] {
  const findings: Finding[] = []
  const left = channels - (photometric === 2 ? 3 : 1) - (extra ? 1 : 0)
  if (left > 0)
    findings.push({
      id: 'more-channels',
      severity: 'warning',
      frames: [],
      sentence:
        `It has ${left} further ${left === 1 ? 'channel' : 'channels'} beside colour and alpha; ` +
        `${left === 1 ? 'it is' : 'they are'} left out.`
    })
  if (sample === 'uint32')
    findings.push({
      id: 'wide-integers',
      severity: 'note',
      frames: [],
      sentence: 'Its samples are whole numbers of 32 bits; the upper 16 of them are taken.'
    })
  return findings
}

function claimOf(extra: number | undefined): AlphaClaim {
  if (extra === undefined) return { mode: 'none', matte: null, says: 'no extra sample' }
  if (extra === 1) return { mode: 'premultiplied', matte: '#000000', says: 'ExtraSamples 1, associated alpha' }
  if (extra === 2) return { mode: 'straight', matte: null, says: 'ExtraSamples 2, unassociated alpha' }
  return { mode: 'unknown', matte: null, says: `ExtraSamples ${extra}, which does not say how alpha is meant` }
}

export const tiffSequence = picturesOf(
  {
    extension: 'tif',
    labels: 'profile',
    lossless: true,
    exactAlpha: true,
    depths: [
      { depth: 8, colourBits: 8, alphaBits: 8 },
      { depth: 16, colourBits: 16, alphaBits: 16 },
      { depth: 32, colourBits: 32, alphaBits: 32 }
    ],
    alpha: {
      straight: { can: true, declares: 'ExtraSamples 2, unassociated alpha' },
      premultiplied: { can: true, declares: 'ExtraSamples 1, associated alpha', matte: '#000000' },
      none: { can: true, declares: 'three samples a pixel' }
    },
    declaredMattes: ['#000000'],
    limits: { width: 65535, height: 65535, rate: 'carries no rate; the name and the note do' },
    options: {
      compression: {
        label: 'Compression',
        help: 'All three are exact. Deflate is the smallest; LZW is read by older programs.',
        type: 'choice',
        choices: [
          { value: 'deflate', label: 'Deflate' },
          { value: 'lzw', label: 'LZW' },
          { value: 'none', label: 'None' }
        ],
        default: 'deflate'
      }
    },
    proofReader: { name: "Pour's own TIFF reader, tested on files of other writers", independent: false }
  },
  {
    recognises: looksLikeTiff,
    async about(reader) {
      const info = await fromHead(reader, bytes => readTiffInfo(bytes, reader.name), { tail: true })
      const colours = profiled(info.profile)
      const about: PictureAbout = {
        kind: depthOf(info.sample) === 32 ? `TIFF, ${info.sample}` : 'TIFF',
        width: info.width,
        height: info.height,
        bitDepth: depthOf(info.sample),
        claim: claimOf(info.extra?.meaning),
        pixelAspect: info.pixelAspect,
        ...colours,
        findings: [...findingsOf(info), ...colours.findings]
      }
      return upright(about, info.orientation)
    },
    pages: pagesOf,
    decode: (host, reader, { page } = {}) => decodeTiff(host, reader, page),
    encode: encodeTiff
  }
)
