/** FFV1 version 3 (RFC 9043): every mode with alpha is read; RGBA of 8 and 16 bits is written, exact. */
import type { Packets, PictureTrack } from '../../containers/container'
import { OPAQUE, STRAIGHT, type Frame } from '../../frame/frame'
import { BT601, BT709 } from '../../frame/weights'
import type { Host } from '../../host'
import type { Decoder, PictureCodec } from '../codec'
import { readConfig, writeConfig, type Ffv1Config } from './config'
import { Ffv1Pictures, type PlanesFound } from './decode'
import { encodePicture, slicesDown } from './encode'

/** Codes of fewer bits as those of 16. */
function widened(samples: Uint16Array, bits: number): Uint16Array {
  const full = 2 ** bits - 1
  const codes = Uint16Array.from({ length: full + 1 }, (_, code) => Math.round((code * 65535) / full))
  return samples.map(code => codes[code & full]!)
}

/** RGBA of 16 bits from luma and chroma in limited range, or from grey in full range. */
function coloured(found: PlanesFound, config: Ffv1Config, track: PictureTrack, host: Host): Uint16Array {
  const { width, height } = track
  const { bits, chroma, alpha } = config
  const { planes, shapes } = found
  const matte = alpha ? widened(planes.at(-1)!, bits) : null
  const size = width * height
  if (!chroma) {
    const grey = widened(planes[0]!, bits)
    const samples = new Uint16Array(4 * size)
    for (let i = 0; i < size; i++) samples.fill(grey[i]!, 4 * i, 4 * i + 3)[4 * i + 3] = matte ? matte[i]! : 65535
    return samples
  }
  const twelve = new Uint16Array(3 * size)
  for (let p = 0; p < 3; p++) {
    const [dx, dy] = p ? [config.across, config.down] : [0, 0]
    const plane = planes[p]!
    const stride = shapes[p]!.width
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++)
        twelve[p * size + y * width + x] = plane[(y >> dy) * stride + (x >> dx)]! * 2 ** (12 - bits)
  }
  const named = track.colour?.[2]
  const weights = named === 1 ? BT709 : named === 5 || named === 6 ? BT601 : height <= 576 ? BT601 : BT709
  return host.kernels.yccToRgba({ planes: twelve, stride: width, planeSize: size, width, height }, matte, weights)
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
      const samples = coloured(this.pictures.planes(packet, place), this.config, this.packets.track, this.host)
      return bits === 8
        ? { ...shape, depth: 8, samples: this.host.kernels.narrow(samples) }
        : { ...shape, depth: 16, samples }
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

/** The record, from a codec's private bytes; a bitmap's header may stand before it where an AVI was repacked. */
const configOf = (track: PictureTrack, file: string): Ffv1Config => readConfig(track.config, file)

export const ffv1: PictureCodec = {
  names: { avi: ['FFV1'], matroska: ['V_FFV1'], quicktime: ['FFV1'] },
  about(track, _, file) {
    const { bits, alpha, rgb, golomb } = configOf(track, file)
    return {
      kind: `FFV1, ${bits} bit ${rgb ? 'RGB' : "Y'CbCr"}${golomb ? ', Golomb-Rice' : ''}`,
      bitDepth: bits > 8 ? 16 : 8,
      carriesAlpha: alpha
    }
  },
  decoder: (packets, host) => Promise.resolve(new Ffv1Decoder(packets, configOf(packets.track, packets.file), host)),
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
