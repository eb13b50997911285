/** OpenEXR files, one a frame: linear light, premultiplied, half or float. */
import { placesOf, profiled, readGamma } from '../../colour-profile'
import { sayTags } from '../../../frame/colour-tags'
import { concatenate } from '../../../base/files/bytes'
import type { Frame } from '../../../frame/frame'
import type { Host } from '../../../frame/host'
import type { Deliverable } from '../../formats/deliverable'
import type { Finding } from '../../../source/source'
import { fromHead } from '../sequence/head'
import { picturesOf, type PictureAbout } from '../sequence/pictures'
import { toHalf } from './half'
import { packRuns, predict } from './pack'
import { packPiz } from './piz'
import { decodeExr, layerOf, layersOfFile, looksLikeExr, readExrInfo, type ExrPart, type ExrLayer } from './read'
import { COMPRESSIONS, LOSSY } from './unpack'
import type { OptionValues } from '../../../base/settings/field'

/** What it writes, with the scan lines in one chunk. */
const WRITTEN: Record<string, { code: number; lines: number }> = {
  none: { code: 0, lines: 1 },
  rle: { code: 1, lines: 1 },
  zips: { code: 2, lines: 1 },
  zip: { code: 3, lines: 16 },
  piz: { code: 4, lines: 32 }
}

const isHalf = (options: OptionValues): boolean => options.samples !== 'float'

function attribute(name: string, type: string, value: Uint8Array): Uint8Array {
  const size = new Uint8Array(4)
  new DataView(size.buffer).setUint32(0, value.length, true)
  return concatenate([new TextEncoder().encode(`${name}\0${type}\0`), size, value])
}

function little(bytes: number, write: (view: DataView) => void): Uint8Array {
  const value = new Uint8Array(bytes)
  write(new DataView(value.buffer))
  return value
}

const floats = (...values: number[]): Uint8Array =>
  little(4 * values.length, view => values.forEach((value, i) => view.setFloat32(4 * i, value, true)))
const integers = (...values: number[]): Uint8Array =>
  little(4 * values.length, view => values.forEach((value, i) => view.setInt32(4 * i, value, true)))

const D65 = [0.3127, 0.329]

/** What the primaries of a file come to: light of BT.709's where it says nothing. */
function coloursOf({
  chromaticities: found
}: ExrPart): Pick<PictureAbout, 'colour' | 'tags'> & { findings: Finding[] } {
  if (!found) return { colour: 'linear light', tags: null, findings: [] }
  const place = (n: number): readonly [number, number] => [found[n]!, found[n + 1]!]
  const { tags, findings } = profiled(readGamma(null, [place(0), place(2), place(4)], place(6)))
  return { colour: tags ? `linear light, ${sayTags(tags)}` : 'linear light', tags, findings }
}

function header(frame: Frame, half: boolean, compression: number, deliverable: Deliverable): Uint8Array {
  const { rate, pixelAspect, tags } = deliverable
  const names = frame.alpha.mode === 'none' ? ['B', 'G', 'R'] : ['A', 'B', 'G', 'R']
  const channels = concatenate([
    ...names.map(name =>
      concatenate([new TextEncoder().encode(`${name}\0`), integers(half ? 1 : 2), new Uint8Array(4), integers(1, 1)])
    ),
    new Uint8Array(1)
  ])
  const window = integers(0, 0, frame.width - 1, frame.height - 1)
  return concatenate([
    integers(20000630, 2),
    attribute('channels', 'chlist', channels),
    attribute('chromaticities', 'chromaticities', floats(...(placesOf(tags?.[0] ?? 1) ?? placesOf(1)!).flat(), ...D65)),
    attribute('compression', 'compression', new Uint8Array([compression])),
    attribute('dataWindow', 'box2i', window),
    attribute('displayWindow', 'box2i', window),
    ...(rate && rate[0] <= 0x7fffffff ? [attribute('framesPerSecond', 'rational', integers(rate[0], rate[1]))] : []),
    attribute('lineOrder', 'lineOrder', new Uint8Array(1)),
    attribute('pixelAspectRatio', 'float', floats(pixelAspect[0] / pixelAspect[1])),
    attribute('screenWindowCenter', 'v2f', floats(0, 0)),
    attribute('screenWindowWidth', 'float', floats(1)),
    new Uint8Array(1)
  ])
}

/** Scan lines as the file holds them: for each line all of A, then B, G, R. */
function linesOf(frame: Frame, half: boolean, top: number, count: number): Uint8Array {
  const order = frame.alpha.mode === 'none' ? [2, 1, 0] : [3, 2, 1, 0]
  const { width, samples } = frame
  const each = half ? 2 : 4
  return little(order.length * width * count * each, view => {
    let at = 0
    for (let y = top; y < top + count; y++) {
      for (const channel of order) {
        for (let x = 0; x < width; x++, at += each) {
          const value = samples[4 * (y * width + x) + channel]!
          if (half) view.setUint16(at, toHalf(value), true)
          else view.setFloat32(at, value, true)
        }
      }
    }
  })
}

function encodeExr(host: Host, frame: Frame, deliverable: Deliverable): Uint8Array {
  const half = isHalf(deliverable.options)
  const { code, lines } = WRITTEN[String(deliverable.options.compression ?? 'zip')]!
  const head = header(frame, half, code, deliverable)
  const chunks: Uint8Array[] = []
  for (let y = 0; y < frame.height; y += lines) {
    const count = Math.min(lines, frame.height - y)
    const raw = linesOf(frame, half, y, count)
    const packed =
      code === 0
        ? raw
        : code === 1
          ? packRuns(predict(raw))
          : code === 4
            ? packPiz(raw, {
                each: Array<number>(frame.alpha.mode === 'none' ? 3 : 4).fill(half ? 1 : 2),
                width: frame.width,
                lines: count
              })
            : host.kernels.zlib(predict(raw))
    const data = packed.length < raw.length ? packed : raw
    chunks.push(concatenate([integers(y, data.length), data]))
  }
  let at = head.length + 8 * chunks.length
  const table = little(8 * chunks.length, view =>
    chunks.forEach((chunk, i) => {
      view.setBigUint64(8 * i, BigInt(at), true)
      at += chunk.length
    })
  )
  return concatenate([head, table, ...chunks])
}

/** Which layer is taken, where the file names any, and what cannot be taken at all. */
function layerFindings(
  layers: readonly ExrLayer[],
  taken: ExrLayer,
  { parts }: ReturnType<typeof readExrInfo>
): Finding[] {
  const findings: Finding[] = []
  const channels = parts.reduce((sum, part) => sum + part.channels.length, 0)
  const others = layers.filter(({ title }) => title !== taken.title)
  const named = ({ title }: ExrLayer): string => (title === '' ? 'the one without a name' : `"${title}"`)
  if (others.length || (taken.title !== '' && parts.length === 1) || channels > 4) {
    const left = others.length
      ? `; left out ${others.length === 1 ? 'is' : 'are'} ` +
        `${others.slice(0, 6).map(named).join(', ')}${others.length > 6 ? ` and ${others.length - 6} more` : ''}`
      : ''
    findings.push({
      id: 'layers',
      severity: others.length ? 'warning' : 'note',
      frames: [],
      sentence:
        `The file holds ${channels} channels in ` +
        `${layers.length === 1 ? 'one layer of colour' : `${layers.length} layers of colour`}: ` +
        `${named(taken)} is taken${left}.`
    })
  }
  const deep = parts.filter(part => part.deep)
  if (deep.length)
    findings.push({
      id: 'deep-data',
      severity: 'warning',
      frames: [],
      sentence:
        `Its ${deep.length === 1 ? `part "${deep[0]!.name}" holds` : `${deep.length} parts of that kind hold`} ` +
        'deep data, which is not read.'
    })
  if (LOSSY.has(taken.part.compression))
    findings.push({
      id: 'lossy-source',
      severity: 'note',
      frames: [],
      sentence:
        `It is packed with ${COMPRESSIONS[taken.part.compression]}, which keeps colour nearly, not ` +
        'exactly; what is read is what it kept.'
    })
  return findings
}

export const exrSequence = picturesOf(
  {
    extension: 'exr',
    lossless: true,
    exactAlpha: true,
    depths: [{ depth: 32, colourBits: 16, alphaBits: 16 }],
    alpha: {
      straight: { can: false, because: 'OpenEXR is premultiplied by its convention, and compositors take it so.' },
      premultiplied: {
        can: true,
        declares: 'convention: OpenEXR is linear light, premultiplied on black',
        matte: '#000000'
      },
      none: { can: true, declares: 'channels R, G and B alone' }
    },
    declaredMattes: ['#000000'],
    transfer: 'linear',
    halfFloat: isHalf,
    alphaBits: options => (isHalf(options) ? 16 : 32),
    limits: { width: 2 ** 31 - 1, height: 2 ** 31 - 1, rate: 'carried as framesPerSecond, which few programs read' },
    options: {
      samples: {
        label: 'Samples',
        help:
          'Half keeps eleven bits of precision at every brightness, which compositing is used to; float ' +
          'keeps 24 and is twice as large.',
        type: 'choice',
        choices: [
          { value: 'half', label: 'Half' },
          { value: 'float', label: 'Float' }
        ],
        default: 'half'
      },
      compression: {
        label: 'Compression',
        help:
          'All are exact. ZIP packs 16 lines together and suits clean graphics; PIZ suits grain and ' +
          'rendered noise; ZIPS packs single lines, which some programs read faster.',
        type: 'choice',
        choices: [
          { value: 'zip', label: 'ZIP' },
          { value: 'piz', label: 'PIZ' },
          { value: 'zips', label: 'ZIPS' },
          { value: 'rle', label: 'RLE' },
          { value: 'none', label: 'None' }
        ],
        default: 'zip'
      }
    },
    proofReader: { name: "Pour's own OpenEXR reader, tested on files of other writers", independent: false }
  },
  {
    recognises: looksLikeExr,
    async about(reader, layer) {
      const info = await fromHead(reader, bytes => readExrInfo(bytes, reader.name))
      const layers = layersOfFile(info)
      const taken = layerOf(info, layer, reader.name)
      const { part, channels } = taken
      const rate = part.framesPerSecond
      const colours = coloursOf(part)
      return {
        kind: part.channels.some(channel => channel.type === 2) ? 'OpenEXR, float' : 'OpenEXR, half',
        width: part.width,
        height: part.height,
        bitDepth: 32,
        claim:
          channels[3] !== null
            ? { mode: 'premultiplied', matte: '#000000', says: 'OpenEXR is premultiplied by convention' }
            : { mode: 'none', matte: null, says: 'no channel A' },
        colour: colours.colour,
        tags: colours.tags ?? null,
        rate: rate && rate[0] > 0 && rate[1] > 0 ? [rate[0], rate[1]] : null,
        pixelAspect: [part.pixelAspect, 1],
        ...(layers.length > 1 ? { layers: layers.map(({ title }) => title), layer: taken.title } : {}),
        findings: [...layerFindings(layers, taken, info), ...colours.findings]
      }
    },
    decode: (host, reader, { layer } = {}) => decodeExr(host, reader, layer),
    encode: encodeExr
  }
)
