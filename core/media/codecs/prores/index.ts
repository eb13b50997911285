/** ProRes: 4444 and 4444 XQ with alpha of 8 or 16 bits kept exactly, written and read; 422 read. After SMPTE RDD 36. */
import { FILL_EDGES } from '../fill-edges'
import { isTagged, matrixFor, type ColourTags } from '../../../frame/colour-tags'
import { Decoder as Turbo, Frame as TurboFrame } from 'turbores'
import { unreachable, unreadable } from '../../../base/errors'
import type { Packets, PictureTrack } from '../../containers/container'
import { withDepth } from '../../../frame/depth'
import type { Frame } from '../../../frame/frame'
import { rgbOf, sayWeights, untoldMatrix, WEIGHTS, weightsOf } from '../ycc'
import type { Host } from '../../../frame/host'
import type { YccPlanes } from '../../../frame/kernels/kernels'
import { concatenate } from '../../../base/files/bytes'
import { fields, letters } from '../../containers/quicktime/atoms'
import type { About, Decoder, VideoCodec } from '../codec'
import { decodeAlpha } from './alpha'
import { parseFrame, wrapFrame, type ParsedFrame } from './frame'
import { withinBudget } from './rate'
import type { Fields, OptionValues } from '../../../base/settings/field'

/** The matrix a frame is in: what it says, else what the film says, else BT.601 up to 576 lines and BT.709 above. */
function matrixOf(frame: ParsedFrame, film: PictureTrack): { kr: number; kb: number; name: string; told: boolean } {
  const told = WEIGHTS[frame.matrix]
  return told ? { ...told, told: true } : weightsOf({ colour: film.colour, height: frame.height })
}

/**
 * Colour through a library's decoder, alpha at full depth through our own reader; the two alphas are held against each
 * other.
 */
class ProresDecoder implements Decoder {
  private readonly target = new TurboFrame()

  constructor(
    private readonly decoder: Turbo,
    private readonly packets: Packets,
    private readonly host: Host
  ) {}

  async frame(index: number): Promise<Frame> {
    const { track, file } = this.packets
    const data = whole(await this.packets.data(index), track)
    const place = `frame ${index + 1}`
    const fail = (matter: string): Error => unreadable(file, place, matter)
    const header = parseFrame(data, file, place)
    const decoded = await this.decoder.decode(data, this.target)
    if (decoded instanceof Error) throw fail(`the picture is damaged (${decoded.message})`)
    const { codedWidth, codedHeight, visibleWidth: width, visibleHeight: height, frameData, pixelFormat } = decoded
    if (width !== track.width || height !== track.height)
      throw fail(`the frame is ${width}x${height}; the film is ${track.width}x${track.height}`)
    const sampling = /^I(444|422)A?P(10|12)$/.exec(pixelFormat)
    if (!sampling) throw fail(`its samples are ${pixelFormat}; 4:4:4 and 4:2:2 of 10 and 12 bits are read`)
    // the decoder's memory is its own and may move: nothing below waits before the planes have been used
    const given =
      frameData.byteOffset % 2
        ? new Uint16Array(frameData.slice().buffer)
        : new Uint16Array(frameData.buffer, frameData.byteOffset, frameData.byteLength >> 1)
    const planeSize = codedWidth * codedHeight
    const alpha = decodeAlpha(data, this.host.kernels, file, place, header)
    const half = sampling[1] === '422'
    const planes = given.subarray(0, (half ? 2 : 3) * planeSize)
    if (alpha && !half && sampling[2] === '12' && given.length >= 4 * planeSize)
      this.agree(alpha, { planes: given, stride: codedWidth, planeSize, width, height }, fail)
    const picture = { planes, stride: codedWidth, width, height, alpha, bits: Number(sampling[2]), half }
    return rgbOf(picture, matrixOf(header, track), this.host.kernels)
  }

  /** Both readers must have found the same alpha, to the 12 bits that the library gives. */
  private agree(
    alpha: Uint16Array,
    { planes, stride, planeSize, width, height }: Omit<YccPlanes, 'planes'> & { planes: Uint16Array },
    fail: (matter: string) => Error
  ): void {
    // rows without anything between them go at once
    const rows = stride === width ? height : 1
    for (let y = 0; y < height; y += rows) {
      const from = 3 * planeSize + y * stride
      const at = this.host.kernels.readingsApart(
        alpha.subarray(y * width, (y + rows) * width),
        planes.subarray(from, from + rows * width),
        32
      )
      if (at >= 0)
        throw fail(`two readers disagree about the alpha at pixel ${at % width}, ${y + Math.floor(at / width)}`)
    }
  }

  async close(): Promise<void> {
    this.target.clear()
    await this.decoder.close()
  }
}

/** A frame as QuickTime and MXF hold it: Matroska leaves out the size and the letters before it. */
function whole(data: Uint8Array, { container }: PictureTrack): Uint8Array {
  if (container !== 'matroska' || String.fromCharCode(...data.subarray(4, 8)) === 'icpf') return data
  return concatenate([fields([32, data.length + 8]), letters('icpf'), data])
}

/** A decoder for one of the profiles, by the four letters that QuickTime knows it by. */
async function openDecoder(code: string, packets: Packets, host: Host): Promise<Decoder> {
  const decoder = await Turbo.create({ proresFourCc: code as 'ap4h', useSharedMemory: false, concurrency: 0 })
  if (decoder instanceof Error)
    throw unreachable(`the ProRes decoder could not start (${decoder.message})`, packets.file)
  return new ProresDecoder(decoder, packets, host)
}

const OPTIONS: Fields = {
  'alpha-bits': {
    label: 'Alpha depth',
    help:
      'Alpha is coded without loss at either depth. 8 bits are smaller; 16 keep soft edges of deep ' +
      'sources exactly.',
    type: 'choice',
    choices: [
      { value: '16', label: '16 bit' },
      { value: '8', label: '8 bit' }
    ],
    default: '16'
  },
  rate: {
    label: 'Data rate, % of usual',
    help:
      'What full-frame content may come to, against the usual rate of the profile. Simple content takes ' +
      'less by itself.',
    type: 'number',
    whole: true,
    lightens: true,
    min: 20,
    max: 150,
    default: 100
  },
  fill: FILL_EDGES
}

const alphaBits = (options: OptionValues): 8 | 16 => (options['alpha-bits'] === '8' ? 8 : 16)

/** What a frame says of its colours, unless it says the usual and the film something else. */
function tagsOf({ primaries, transfer, matrix }: ParsedFrame, { colour }: PictureTrack): ColourTags | null {
  const own: ColourTags = [primaries, transfer, matrix]
  return isTagged(own) ? own : (colour ?? (primaries === 0 || primaries === 2 ? null : own))
}

interface Profile {
  name: string
  /** Four letters in QuickTime. */
  code: string
  /** Essence coding label in MXF (SMPTE RDD 44, table 3). */
  label: string
  /**
   * Bits of colour for each macroblock: the rate usually given for 1920x1080 at 29.97 frames a second, without alpha.
   */
  bitsPerMacroblock: number
  finest: number
}

/** What a film says of itself by its first frame. */
function aboutFrame(name: string, track: PictureTrack, first: Uint8Array, file: string): About {
  const header = parseFrame(whole(first, track), file, 'frame 1')
  const matrix = matrixOf(header, track)
  return {
    kind: `${name}, ${header.alphaBits ? `${header.alphaBits} bit alpha` : 'no alpha plane'}`,
    bitDepth: 16,
    carriesAlpha: header.alphaBits > 0,
    colour: sayWeights(matrix),
    tags: tagsOf(header, track),
    findings: untoldMatrix(matrix, header.height),
    fields: header.fields ?? 'progressive'
  }
}

const PROOF_READER = {
  name: "turbores for colour, Pour's own reader for alpha, the two alphas compared at 12 bits",
  independent: true
}

/** What it is called in Matroska: the letters of QuickTime stand in the codec's private data. */
const inMatroska = (code: string): string => `V_PRORES/${code}`

/** The profiles of 4:2:2, by the letters of QuickTime, and their labels in MXF (SMPTE RDD 44, table 3). */
const PLATES: Readonly<Record<string, { name: string; label: string }>> = {
  apco: { name: 'ProRes 422 Proxy', label: '060e2b340401010d0401020203060100' },
  apcs: { name: 'ProRes 422 LT', label: '060e2b340401010d0401020203060200' },
  apcn: { name: 'ProRes 422', label: '060e2b340401010d0401020203060300' },
  apch: { name: 'ProRes 422 HQ', label: '060e2b340401010d0401020203060400' }
}

/** The letters of QuickTime of a track, whichever container names it. */
function plateOf({ code }: PictureTrack): string {
  const found = Object.entries(PLATES).find(([letters, { label }]) =>
    [letters, label, inMatroska(letters)].includes(code)
  )
  return found![0]
}

/** 4:2:2: films to pull mattes from, read only. */
export const prores422: VideoCodec = {
  names: {
    quicktime: Object.keys(PLATES),
    mxf: Object.values(PLATES).map(({ label }) => label),
    matroska: Object.keys(PLATES).map(inMatroska)
  },
  about: (track, first, file) => aboutFrame(PLATES[plateOf(track)]!.name, track, first, file),
  decoder: (packets, host) => openDecoder(plateOf(packets.track), packets, host),
  proofReader: PROOF_READER
}

/** How MXF carries it (SMPTE RDD 44). */
const ESSENCE = { label: '060e2b340401010d0d010301021c0100', element: '17', bits: 12, colours: 'whole' } as const

function profile({ name, code, label, bitsPerMacroblock, finest }: Profile): VideoCodec {
  return {
    names: { quicktime: [code], mxf: [label], matroska: [inMatroska(code)] },
    about: (track, first, file) => aboutFrame(name, track, first, file),
    decoder: (packets, host) => openDecoder(code, packets, host),
    proofReader: PROOF_READER,
    coder: {
      lossless: false,
      exactAlpha: true,
      labels: 'numbers',
      depths: [{ depth: 16, colourBits: 12, alphaBits: 16 }],
      alphaBits,
      options: OPTIONS,
      limits: { width: 8192, height: 8192 },
      entry: ({ alpha }, container) => ({
        code: container === 'mxf' ? label : code,
        name,
        depth: alpha.mode === 'none' ? 24 : 32,
        essence: ESSENCE
      }),
      encode(host, frame, deliverable) {
        const { width, height } = frame
        const bits = frame.alpha.mode === 'none' ? 0 : alphaBits(deliverable.options)
        const wide = withDepth(frame, 16, host.kernels).samples as Uint16Array
        const budget =
          (Math.ceil(width / 16) *
            Math.ceil(height / 16) *
            bitsPerMacroblock *
            Number(deliverable.options.rate ?? 100)) /
          100 /
          8
        const fill = frame.alpha.mode === 'straight' && deliverable.options.fill !== false
        const { fields, rate, tags } = deliverable
        const how = { alphaBits: bits, fill, ...WEIGHTS[matrixFor(tags)]! } as const
        const pictures =
          fields === 'progressive'
            ? [host.kernels.prores(wide, width, height, how, withinBudget(budget, finest))]
            : fieldsOf(wide, width, height, fields).map(field =>
                host.kernels.prores(
                  field.samples,
                  width,
                  field.height,
                  { ...how, field: true },
                  withinBudget((budget * field.height) / height, finest)
                )
              )
        const shape = {
          width,
          height,
          rate,
          alphaBits: bits,
          tags: tags ?? null,
          fields: pictures.length > 1 ? fields : 'progressive'
        } as const
        return Promise.resolve(wrapFrame(shape, pictures))
      }
    }
  }
}

/** The lines of each field, the one first that is shown first. A single line has no second field. */
function fieldsOf(
  samples: Uint16Array,
  width: number,
  height: number,
  order: 'top-first' | 'bottom-first'
): { samples: Uint16Array; height: number }[] {
  const row = 4 * width
  const linesFrom = (first: number): { samples: Uint16Array; height: number } => {
    const lines = (height - first + 1) >> 1
    const field = new Uint16Array(row * lines)
    for (let y = 0; y < lines; y++)
      field.set(samples.subarray((first + 2 * y) * row, (first + 2 * y + 1) * row), y * row)
    return { samples: field, height: lines }
  }
  if (height < 2) return [linesFrom(0)]
  return order === 'top-first' ? [linesFrom(0), linesFrom(1)] : [linesFrom(1), linesFrom(0)]
}

/** 330 Mbit/s. */
export const prores4444 = profile({
  name: 'ProRes 4444',
  code: 'ap4h',
  label: '060e2b340401010d0401020203060500',
  bitsPerMacroblock: (330e6 * 1001) / 30000 / 8160,
  finest: 2
})

/** 500 Mbit/s. */
export const prores4444Xq = profile({
  name: 'ProRes 4444 XQ',
  code: 'ap4x',
  label: '060e2b340401010d0401020203060600',
  bitsPerMacroblock: (500e6 * 1001) / 30000 / 8160,
  finest: 1
})
