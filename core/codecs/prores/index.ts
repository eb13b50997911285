/** ProRes 4444 and 4444 XQ: 12-bit colour, alpha of 8 or 16 bits kept exactly. Encoder after SMPTE RDD 36. */
import { isTagged, type ColourTags } from '../../colour-tags'
import { Decoder as Turbo, Frame as TurboFrame } from 'turbores'
import { unreachable, unreadable } from '../../errors'
import type { Packets, PictureTrack } from '../../containers/container'
import { withDepth } from '../../frame/depth'
import { OPAQUE, STRAIGHT, type Frame } from '../../frame/frame'
import { BT2020, BT601, BT709 } from '../../frame/weights'
import type { Host } from '../../host'
import type { Decoder, PictureCodec } from '../codec'
import { decodeAlpha } from './alpha'
import { parseFrame, wrapFrame, type ParsedFrame } from './frame'
import { withinBudget } from './rate'
import type { Fields, OptionValues } from '../../settings/field'

/** Luma weights of red and blue by H.273 matrix code: BT.709, BT.601 (two codes), BT.2020. */
const WEIGHTS: Record<number, { kr: number; kb: number; name: string }> = {
  1: { ...BT709, name: 'BT.709' },
  5: { ...BT601, name: 'BT.601' },
  6: { ...BT601, name: 'BT.601' },
  9: { ...BT2020, name: 'BT.2020' }
}

/** The matrix a frame is in: what it says, else what the film says, else BT.601 up to 576 lines and BT.709 above. */
function matrixOf(frame: ParsedFrame, film: PictureTrack): { kr: number; kb: number; name: string; told: boolean } {
  const told = WEIGHTS[frame.matrix] ?? WEIGHTS[film.colour?.[2] ?? 0]
  return told ? { ...told, told: true } : { ...WEIGHTS[frame.height <= 576 ? 6 : 1]!, told: false }
}

/** Colour through a library's decoder, alpha at full depth through our own reader; the two alphas are held against each other. */
class ProresDecoder implements Decoder {
  private readonly target = new TurboFrame()

  constructor(
    private readonly decoder: Turbo,
    private readonly packets: Packets,
    private readonly host: Host
  ) {}

  async frame(index: number): Promise<Frame> {
    const { track, file } = this.packets
    const data = await this.packets.data(index)
    const place = `frame ${index + 1}`
    const fail = (matter: string): Error => unreadable(file, place, matter)
    const header = parseFrame(data, file, place)
    const decoded = await this.decoder.decode(data, this.target)
    if (decoded instanceof Error) throw fail(`the picture is damaged (${decoded.message})`)
    const { codedWidth, codedHeight, visibleWidth: width, visibleHeight: height, frameData, pixelFormat } = decoded
    if (width !== track.width || height !== track.height)
      throw fail(`the frame is ${width}x${height}; the film is ${track.width}x${track.height}`)
    if (!pixelFormat.startsWith('I444') || !pixelFormat.endsWith('P12'))
      throw fail(`its samples are ${pixelFormat}; only 4:4:4 of 12 bits is read`)
    // the decoder's memory is its own and may move: nothing below waits before the planes have been used
    const planes =
      frameData.byteOffset % 2
        ? new Uint16Array(frameData.slice().buffer)
        : new Uint16Array(frameData.buffer, frameData.byteOffset, frameData.byteLength >> 1)
    const planeSize = codedWidth * codedHeight
    const alpha = decodeAlpha(data, this.host.kernels, file, place, header)
    if (alpha && planes.length >= 4 * planeSize) this.agree(alpha, planes, planeSize, codedWidth, width, height, fail)
    const samples = this.host.kernels.yccToRgba(
      { planes, stride: codedWidth, planeSize, width, height },
      alpha,
      matrixOf(header, track)
    )
    return { width, height, depth: 16, samples, alpha: alpha ? STRAIGHT : OPAQUE, transfer: 'srgb' }
  }

  /** Both readers must have found the same alpha, to the 12 bits that the library gives. */
  private agree(
    alpha: Uint16Array,
    planes: Uint16Array,
    planeSize: number,
    stride: number,
    width: number,
    height: number,
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
    help: 'Alpha is coded without loss at either depth. 8 bits are smaller; 16 keep soft edges of deep sources exactly.',
    type: 'choice',
    choices: [
      { value: '16', label: '16 bit' },
      { value: '8', label: '8 bit' }
    ],
    default: '16'
  },
  rate: {
    label: 'Data rate, % of usual',
    help: 'What full-frame content may come to, against the usual rate of the profile. Simple content takes less by itself.',
    type: 'number',
    whole: true,
    min: 20,
    max: 150,
    default: 100
  },
  fill: {
    label: 'Fill clear edges',
    help: 'Carries edge colour into the clear pixels of a straight picture, so that coding leaves no dark rim. Alpha stays as it is.',
    type: 'switch',
    default: true
  }
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
  /** Bits of colour for each macroblock: the rate usually given for 1920x1080 at 29.97 frames a second, without alpha. */
  bitsPerMacroblock: number
  finest: number
}

function profile({ name, code, label, bitsPerMacroblock, finest }: Profile): PictureCodec {
  return {
    names: { quicktime: [code], mxf: [label] },
    about(track, first, file) {
      const header = parseFrame(first, file, 'frame 1')
      const matrix = matrixOf(header, track)
      const untold = {
        id: 'colour-untagged',
        severity: 'note' as const,
        frames: [],
        sentence: `The film does not say which colour matrix it is in; ${matrix.name} is taken, as is usual for ${header.height} lines.`
      }
      return {
        kind: `${name}, ${header.alphaBits ? `${header.alphaBits} bit alpha` : 'no alpha plane'}`,
        bitDepth: 16,
        carriesAlpha: header.alphaBits > 0,
        colour: matrix.told ? `${matrix.name}, limited range` : null,
        tags: tagsOf(header, track),
        findings: matrix.told ? [] : [untold]
      }
    },
    decoder: (packets, host) => openDecoder(code, packets, host),
    proofReader: {
      name: "turbores for colour, Pour's own reader for alpha, the two alphas compared at 12 bits",
      independent: true
    },
    coder: {
      lossless: false,
      exactAlpha: true,
      depths: [{ depth: 16, colourBits: 12, alphaBits: 16 }],
      alphaBits,
      options: OPTIONS,
      limits: { width: 8192, height: 8192 },
      entry: ({ alpha }, container) => ({
        code: container === 'mxf' ? label : code,
        name,
        depth: alpha.mode === 'none' ? 24 : 32
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
        const slices = host.kernels.prores(
          wide,
          width,
          height,
          { alphaBits: bits, fill, ...WEIGHTS[1]! },
          withinBudget(budget, finest)
        )
        return Promise.resolve(
          wrapFrame({ width, height, rate: deliverable.rate, alphaBits: bits, tags: deliverable.tags ?? null }, slices)
        )
      }
    }
  }
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
