/**
 * VP9 and VP8, with alpha coded as a picture of its own beside each frame. Coding and decoding are the machine's: the
 * browser's, or the codec library's on Node.
 */
import type { Packets } from '../../containers/container'
import { damagedBy, impossible, unreadable } from '../../../base/errors'
import type { Deliverable } from '../../formats/deliverable'
import { OPAQUE, STRAIGHT, type Frame } from '../../../frame/frame'
import type { Host, VideoCoding } from '../../../frame/host'
import type { Field, Fields, OptionValues } from '../../../base/settings/field'
import type { Decoder, InOrder, VideoCodec } from '../codec'
import { fromPlanes, i420Size, matrixFor, planesSize, toPlanes, type Chroma, type VpxMatrix } from './planes'
import { budgetFor, quantiserOf } from './rate'

type Name = VideoCoding['codec']

function video(host: Host, file: string | null = null): NonNullable<Host['video']> {
  if (!host.video) throw impossible('there is no coder of VP8 and VP9 on this machine', file)
  return host.video
}

/** Matrices by ITU-T H.273, table 4. */
const MATRIX_NAMES: Record<number, string> = { 1: 'bt709', 5: 'bt470bg', 6: 'smpte170m' }
const MATRIX_CODES: Record<VpxMatrix['name'], number> = { bt709: 1, smpte170m: 6 }

const matrixOf = ({ height, colour }: Packets['track']): VpxMatrix =>
  matrixFor(height, (colour && MATRIX_NAMES[colour[2]]) ?? null)

function decoderOf(codec: Name, packets: Packets, host: Host): Decoder {
  const { file, track } = packets
  const { width, height } = track
  const alpha = track.packets[0]?.side !== undefined
  const decoders = {
    colour: video(host, file).decoder(codec),
    matte: alpha ? video(host, file).decoder(codec) : null
  }
  const matrix = matrixOf(track)
  let next = 0
  let held: Frame | null = null
  /** What is held, for somebody who may hand its memory on. */
  const copied = (frame: Frame): Frame => ({ ...frame, samples: frame.samples.slice() })
  return {
    async frame(index, signal) {
      if (held && index === next - 1) return copied(held)
      let key = index
      while (key > 0 && !track.packets[key]!.key) key--
      if (index < next || key > next) next = key
      for (; next <= index; next++) {
        signal?.throwIfAborted()
        try {
          const { key: stands } = track.packets[next]!
          const [data, side] = [await packets.data(next), await packets.side(next)]
          const [colour, matte] = await Promise.all([
            decoders.colour.decode(data, stands, next),
            decoders.matte && side ? decoders.matte.decode(side, stands, next) : Promise.resolve(null)
          ])
          if (next === index)
            held = {
              width,
              height,
              depth: 8,
              samples: fromPlanes(colour, matte, { width, height }, matrix, host.kernels),
              alpha: alpha ? STRAIGHT : OPAQUE,
              transfer: 'srgb'
            }
        } catch (error) {
          const place = `frame ${next + 1}`
          next = 0
          held = null
          throw damagedBy(error, why => unreadable(file, place, `it cannot be decoded (${why})`))
        }
      }
      return copied(held!)
    },
    async close() {
      await Promise.all([decoders.colour.close(), decoders.matte?.close()])
    }
  }
}

/** The part of a target size that VP8's colour aims at, when there is alpha beside it. */
const VP8_COLOUR_SHARE = 0.6

const keyEvery = (options: OptionValues): number => Math.max(1, Number(options['key-interval'] ?? 60))

/** Two encoders side by side, colour and alpha, whose packets leave in pairs. */
async function inOrder(codec: Name, deliverable: Deliverable, host: Host): Promise<InOrder> {
  const { width, height, rate, options, alpha } = deliverable
  const [n, d] = rate!
  const quality = Number(options.quality ?? 100)
  const every = keyEvery(options)
  const total = 1000 * Number(options.size ?? 0)
  const steered = codec === 'vp9' && video(host).quantisersByFrame
  const budget =
    total > 0 && steered ? budgetFor(total, deliverable.frames, every, width * height, quantiserOf(quality)) : null
  // what VP8 makes of alpha is not known beforehand; colour is given the larger share
  const share = alpha.mode === 'none' ? 0.97 : VP8_COLOUR_SHARE
  const bitrate = total > 0 && !steered ? (8 * total * share * n) / (d * deliverable.frames) : null
  const how: VideoCoding = {
    codec,
    width,
    height,
    framesPerSecond: n / d,
    quality,
    bitrate,
    exact: false,
    matrix: matrixFor(height).name,
    chroma: chromaOf(codec, options)
  }
  const colour = await video(host).encoder(how)
  const matte =
    alpha.mode === 'none' ? null : await video(host).encoder({ ...how, bitrate: null, exact: true, chroma: '4:2:0' })
  const grey = new Uint8Array(i420Size({ width, height })).fill(128)
  return {
    async code(planes, index) {
      const key = index % every === 0
      const size = planesSize({ width, height }, how.chroma)
      const side = grey.slice()
      side.set(planes.subarray(size))
      const quantiser = budget?.quantiser(key) ?? quantiserOf(quality)
      const [picture, alphaPicture] = await Promise.all([
        colour.encode(planes.subarray(0, size), index, key, quantiser),
        matte ? matte.encode(side, index, key, 0) : Promise.resolve(null)
      ])
      budget?.spent(key, picture.data.length, alphaPicture?.data.length ?? 0)
      return { data: picture.data, key: picture.key, side: alphaPicture?.data ?? null }
    },
    async close() {
      await Promise.all([colour.close(), matte?.close()])
    }
  }
}

const CHROMA: Field = {
  label: 'Colour detail',
  help:
    'Halved is what every player of WebM shows with its alpha. Full keeps the colour of lettering and ' +
    'thin lines, which halved colour smears onto what lies beside them; but players other than browsers ' +
    'built on Chromium show it without alpha, or not at all.',
  type: 'choice',
  choices: [
    { value: '4:2:0', label: 'Halved, 4:2:0' },
    { value: '4:4:4', label: 'Full, 4:4:4, few players' }
  ],
  default: '4:2:0'
}

const chromaOf = (codec: Name, options: OptionValues): Chroma =>
  codec === 'vp9' && options.chroma === '4:4:4' ? '4:4:4' : '4:2:0'

const OPTIONS: Fields = {
  quality: {
    label: 'Quality',
    help:
      'Of colour: 0 is smallest, 100 best. At 100 VP9 loses nothing but rounding, and flat graphics come ' +
      'out smallest; film and grain want 80 to 90.',
    type: 'number',
    whole: true,
    lightens: true,
    min: 0,
    max: 100,
    default: 100
  },
  size: {
    label: 'Aim at size, kB',
    help:
      'Kilobytes for the whole film, alpha with it; 0 leaves the size to the quality. The quality is then ' +
      'the best that is spent, so an easy film stays smaller. VP8 keeps to it only roughly.',
    type: 'number',
    whole: true,
    aims: true,
    min: 0,
    max: 4_000_000,
    default: 0
  },
  'key-interval': {
    label: 'Key frame every',
    help: 'Frames from one key frame to the next. Shorter seeks faster, longer is smaller.',
    type: 'number',
    whole: true,
    min: 1,
    max: 600,
    default: 60
  }
}

function vpx(codec: Name, exactAlpha: boolean): VideoCodec {
  const name = codec.toUpperCase()
  return {
    names: { matroska: [`V_${name}`] },
    about(track) {
      const alpha = track.packets[0]?.side !== undefined
      return {
        kind: `${name}${alpha ? ' with alpha' : ''}`,
        bitDepth: 8,
        carriesAlpha: alpha,
        colour: `${matrixOf(track).name === 'bt709' ? 'BT.709' : 'BT.601'}, limited range`
      }
    },
    decoder: (packets, host) => Promise.resolve(decoderOf(codec, packets, host)),
    proofReader: { name: "the codec's own library, in the browser or on Node", independent: true },
    coder: {
      lossless: false,
      exactAlpha,
      depths: [{ depth: 8, colourBits: 8, alphaBits: 8 }],
      options: codec === 'vp9' ? { chroma: CHROMA, ...OPTIONS } : OPTIONS,
      needs: 'video',
      entry: ({ height }) => ({
        code: `V_${name}`,
        name,
        depth: 32,
        colour: [1, 1, MATRIX_CODES[matrixFor(height).name]]
      }),
      keyEvery,
      inOrder: (deliverable, host) => inOrder(codec, deliverable, host),
      // workers prepare the planes; the encoders, which know the frames before, take them in order
      encode: (_, { samples, width, height }, { options }) =>
        Promise.resolve(toPlanes(samples as Uint8Array, width, height, matrixFor(height), chromaOf(codec, options)))
    }
  }
}

export const vp9 = vpx('vp9', true)
export const vp8 = vpx('vp8', false)
