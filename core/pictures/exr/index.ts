/** OpenEXR files, one a frame: linear light, premultiplied, half or float. */
import { concatenate } from '../../files/bytes'
import type { Frame } from '../../frame/frame'
import type { Host } from '../../host'
import type { Deliverable } from '../../formats/format'
import type { Finding } from '../../source/source'
import { layersOf, type Layer } from './layers'
import { fromHead } from '../sequence/head'
import { picturesOf } from '../sequence/pictures'
import { toHalf } from './half'
import { packRuns, predict } from './pack'
import { packPiz } from './piz'
import { decodeExr, looksLikeExr, readExrInfo } from './read'
import type { OptionValues } from '../../settings/field'

const COMPRESSIONS: Record<string, { code: number; lines: number }> = {
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

/** xy of red, green, blue and white of ITU-R BT.709, which sRGB shares. */
const BT709 = [0.64, 0.33, 0.3, 0.6, 0.15, 0.06, 0.3127, 0.329]

function header(frame: Frame, half: boolean, compression: number, { rate, pixelAspect }: Deliverable): Uint8Array {
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
    attribute('chromaticities', 'chromaticities', floats(...BT709)),
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
  const { code, lines } = COMPRESSIONS[String(deliverable.options.compression ?? 'zip')]!
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

/** Which layer is taken, where the file names any. */
function layerFindings(layers: readonly Layer[], channels: number): Finding[] {
  const [first, ...others] = layers
  if (!first || (first.name === '' && others.length === 0 && channels <= 4)) return []
  const named = (layer: Layer): string => (layer.name === '' ? 'the one without a name' : `"${layer.name}"`)
  const left = others.length
    ? `; left out ${others.length === 1 ? 'is' : 'are'} ${others.slice(0, 6).map(named).join(', ')}${others.length > 6 ? ` and ${others.length - 6} more` : ''}`
    : ''
  return [
    {
      id: 'layers',
      severity: others.length ? 'warning' : 'note',
      frames: [],
      sentence: `The file holds ${channels} channels in ${layers.length === 1 ? 'one layer of colour' : `${layers.length} layers of colour`}: ${named(first)} is taken${left}.`
    }
  ]
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
        help: 'Half keeps eleven bits of precision at every brightness, which compositing is used to; float keeps 24 and is twice as large.',
        type: 'choice',
        choices: [
          { value: 'half', label: 'Half' },
          { value: 'float', label: 'Float' }
        ],
        default: 'half'
      },
      compression: {
        label: 'Compression',
        help: 'All are exact. ZIP packs 16 lines together and suits clean graphics; PIZ suits grain and rendered noise; ZIPS packs single lines, which some programs read faster.',
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
    async about(reader) {
      const info = await fromHead(reader, bytes => readExrInfo(bytes, reader.name))
      const types = new Set(info.channels.map(channel => channel.type))
      const rate = info.framesPerSecond
      const layers = layersOf(info.channels.map(channel => channel.name))
      return {
        kind: types.has(2) ? 'OpenEXR, float' : 'OpenEXR, half',
        width: info.width,
        height: info.height,
        bitDepth: 32,
        claim:
          layers[0] && layers[0].channels[3] !== null
            ? { mode: 'premultiplied', matte: '#000000', says: 'OpenEXR is premultiplied by convention' }
            : { mode: 'none', matte: null, says: 'no channel A' },
        colour: info.chromaticities ? 'linear light, chromaticities given' : 'linear light',
        rate: rate && rate[0] > 0 && rate[1] > 0 ? [rate[0], rate[1]] : null,
        pixelAspect: [info.pixelAspect, 1],
        findings: layerFindings(layers, info.channels.length)
      }
    },
    decode: decodeExr,
    encode: encodeExr
  }
)
