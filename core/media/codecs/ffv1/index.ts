/** FFV1 (RFC 9043): versions 0, 1 and 3 are read; RGB and RGBA of 8 and 16 bits are written as version 3, exact. */
import { unreadable } from '../../../base/errors'
import type { Packets, PictureTrack } from '../../containers/container'
import { wideCodes } from '../../../frame/depth'
import { OPAQUE, STRAIGHT, type Frame } from '../../../frame/frame'
import type { Host } from '../../../frame/host'
import { DEFAULT_TRANSITIONS, RangeDecoder } from '../../../frame/kernels/range-coder'
import type { Decoder, VideoCodec } from '../codec'
import { rgbaOfPlanes } from '../planar/colour'
import { untoldMatrix, weightsOf } from '../ycc'
import { readConfig, readFrameConfig, writeConfig, type Ffv1Config } from './config'
import { Ffv1Pictures, type PlanesFound } from './decode'
import { encodePicture, slicesDown } from './encode'

/** Codes of fewer bits as those of 16. */
function widened(samples: Uint16Array, bits: number): Uint16Array {
  const codes = wideCodes(bits)
  return samples.map(code => codes[code & (codes.length - 1)]!)
}

/** RGBA, of 8 bits or of 16, from luma and chroma, or from grey. */
function coloured(found: PlanesFound, config: Ffv1Config, track: PictureTrack): Uint8Array | Uint16Array {
  const { width, height } = track
  const { bits, chroma, alpha, across, down } = config
  const { planes, shapes } = found
  const small = chroma ? { across, down, stride: shapes[1]!.width } : null
  return rgbaOfPlanes(
    { width, height, bits, planes, chroma: small, alpha: alpha ? planes.at(-1)! : null },
    { ...weightsOf(track), full: track.range === 'full' }
  )
}

/** Frames build on those before, back to a key frame. */
class Ffv1Decoder implements Decoder {
  private pictures: Ffv1Pictures
  /** Frame whose states are at hand. */
  private next = 0

  constructor(
    private readonly packets: Packets,
    private readonly config: Ffv1Config,
    private readonly host: Host
  ) {
    this.pictures = this.fresh()
  }

  private fresh(): Ffv1Pictures {
    return new Ffv1Pictures(this.config, this.packets.track, this.packets.file, this.host.kernels)
  }

  async frame(index: number, signal?: AbortSignal): Promise<Frame> {
    const { packets } = this.packets.track
    let key = index
    while (key > 0 && !packets[key]?.key) key--
    if (index < this.next || key > this.next) {
      this.pictures = this.fresh()
      this.next = key
    }
    while (this.next < index) {
      signal?.throwIfAborted()
      this.decode(await this.packets.data(this.next), this.next)
      this.next++
    }
    const frame = this.decode(await this.packets.data(index), index)
    this.next = index + 1
    return frame
  }

  private decode(packet: Uint8Array, index: number): Frame {
    const place = `frame ${index + 1}`
    const { width, height } = this.packets.track
    const { rgb, bits, alpha } = this.config
    const shape = { width, height, alpha: alpha ? STRAIGHT : OPAQUE, transfer: 'srgb' as const }
    try {
      if (rgb) {
        const samples = this.pictures.rgba(packet, place)
        return bits === 8
          ? { ...shape, depth: 8, samples }
          : { ...shape, depth: 16, samples: bits === 16 ? samples : widened(samples as Uint16Array, bits) }
      }
      const samples = coloured(this.pictures.planes(packet, place), this.config, this.packets.track)
      return samples instanceof Uint8Array ? { ...shape, depth: 8, samples } : { ...shape, depth: 16, samples }
    } catch (error) {
      // what the states have learnt of it is not to be believed
      this.pictures = this.fresh()
      this.next = 0
      throw error
    }
  }

  close(): Promise<void> {
    return Promise.resolve()
  }
}

/** How a film is coded: by the record in the codec's private bytes, or, of versions 0 and 1, by its first frame. */
function configOf(track: PictureTrack, first: Uint8Array, file: string): Ffv1Config {
  if (track.config.length > 0) return readConfig(track.config, file)
  const fail = (matter: string): Error => unreadable(file, 'frame 1', matter)
  const coder = new RangeDecoder(first, 0, DEFAULT_TRANSITIONS)
  if (coder.bit(new Uint8Array([128]), 0) !== 1) throw fail('the film does not begin with a key frame')
  return readFrameConfig(coder, fail)
}

export const ffv1: VideoCodec = {
  names: { avi: ['FFV1'], matroska: ['V_FFV1'], quicktime: ['FFV1'] },
  about(track, first, file) {
    const { bits, alpha, rgb, chroma, golomb } = configOf(track, first, file)
    return {
      kind: `FFV1, ${bits} bit ${rgb ? 'RGB' : "Y'CbCr"}${golomb ? ', Golomb-Rice' : ''}`,
      bitDepth: bits > 8 ? 16 : 8,
      carriesAlpha: alpha,
      ...(!rgb && chroma ? { findings: untoldMatrix(weightsOf(track), track.height) } : {})
    }
  },
  decoder: async (packets, host) =>
    new Ffv1Decoder(packets, configOf(packets.track, await packets.data(0), packets.file), host),
  proofReader: { name: "Pour's own FFV1 reader, tested on files of other writers", independent: false },
  coder: {
    lossless: true,
    exactAlpha: true,
    depths: [
      { depth: 8, colourBits: 8, alphaBits: 8 },
      { depth: 16, colourBits: 16, alphaBits: 16 }
    ],
    options: {},
    entry({ depth, alpha, width, height }, container) {
      const channels = alpha.mode === 'none' ? 3 : 4
      return {
        code: container === 'matroska' ? 'V_FFV1' : 'FFV1',
        name: 'FFV1',
        depth: channels * depth,
        config: writeConfig({ bits: depth, alpha: channels === 4, slicesDown: slicesDown(width, height) })
      }
    },
    encode: (host, frame, { fields, pixelAspect }) =>
      Promise.resolve(encodePicture(frame, { fields, pixelAspect }, host.kernels))
  }
}
