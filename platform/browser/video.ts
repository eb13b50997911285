/** The browser's video codecs (W3C WebCodecs), frame in, frame out. */
import type { CodedPicture, VideoCoder, VideoCoding } from '../../core/frame/host'

const CODECS = { vp8: 'vp8', vp9: 'vp09.00.10.08' } as const
/**
 * VP9 of profile 1 with chroma of full size; the subsampling must be named (VP Codec ISO Media File Format Binding,
 * "codecs").
 */
const VP9_FULL = 'vp09.01.10.08.03.01.01.01.00'

/** VP9's profile, from the two bits behind the frame marker (VP9 bitstream specification, 6.2). */
const profileOf = (data: Uint8Array): number => ((data[0]! >> 5) & 1) | (((data[0]! >> 4) & 1) << 1)

/**
 * VP8 offers no constant quality; bits a pixel for a quality of 0 to 100, and for an alpha that should lose nothing.
 */
const bitsPerPixel = ({ quality, exact }: VideoCoding): number => (exact ? 4 : 0.02 * 2 ** ((quality / 100) * 7))

export const browserVideo: VideoCoder = {
  quantisersByFrame: true,

  async encoder(how) {
    const { codec, width, height, framesPerSecond } = how
    const waiting = new Map<number, { resolve(picture: CodedPicture): void; reject(error: Error): void }>()
    let failure: Error | null = null
    const fail = (error: Error): void => {
      failure = error
      for (const { reject } of waiting.values()) reject(error)
      waiting.clear()
    }
    const encoder = new VideoEncoder({
      output(chunk) {
        const data = new Uint8Array(chunk.byteLength)
        chunk.copyTo(data)
        waiting.get(chunk.timestamp)?.resolve({ data, key: chunk.type === 'key' })
        waiting.delete(chunk.timestamp)
      },
      error: fail
    })
    const rate =
      codec === 'vp9'
        ? { bitrateMode: 'quantizer' as const }
        : {
            bitrateMode: 'variable' as const,
            bitrate: Math.round(how.bitrate ?? bitsPerPixel(how) * width * height * framesPerSecond)
          }
    // realtime mode hands each frame out as it comes, so nothing is held back when the next depends on it
    const config: VideoEncoderConfig = {
      codec: how.chroma === '4:4:4' ? VP9_FULL : CODECS[codec],
      width,
      height,
      framerate: framesPerSecond,
      latencyMode: 'realtime',
      ...rate
    }
    if (!(await VideoEncoder.isConfigSupported(config)).supported)
      throw new Error(`this browser does not encode ${codec.toUpperCase()} at ${width}x${height}`)
    encoder.configure(config)
    return {
      encode(planes, index, key, quantiser) {
        if (failure) return Promise.reject(failure)
        const timestamp = index * 1_000_000
        const frame = new VideoFrame(planes as Uint8Array<ArrayBuffer>, {
          format: how.chroma === '4:4:4' ? 'I444' : 'I420',
          codedWidth: width,
          codedHeight: height,
          timestamp,
          colorSpace: { primaries: 'bt709', transfer: 'bt709', matrix: how.matrix, fullRange: false }
        })
        const done = new Promise<CodedPicture>((resolve, reject) => waiting.set(timestamp, { resolve, reject }))
        encoder.encode(frame, {
          keyFrame: key,
          ...(codec === 'vp9' ? { vp9: { quantizer: quantiser } } : {})
        } as VideoEncoderEncodeOptions)
        frame.close()
        return done
      },
      close() {
        if (encoder.state !== 'closed') encoder.close()
        return Promise.resolve()
      }
    }
  },

  decoder(codec) {
    const waiting = new Map<number, { resolve(planes: Uint8Array): void; reject(error: Error): void }>()
    let decoder: VideoDecoder | null = null
    const start = (first: Uint8Array): VideoDecoder => {
      const made = new VideoDecoder({
        output(frame) {
          const wait = waiting.get(frame.timestamp)
          waiting.delete(frame.timestamp)
          const bytes = new Uint8Array(frame.allocationSize())
          if (frame.format !== 'I420' && frame.format !== 'I444')
            wait?.reject(new Error(`it came out as ${frame.format ?? 'nothing'}, not 4:2:0 or 4:4:4`))
          else
            frame
              .copyTo(bytes)
              .then(
                () => wait?.resolve(bytes),
                (error: unknown) => wait?.reject(error as Error)
              )
              .finally(() => frame.close())
        },
        error(error) {
          for (const { reject } of waiting.values()) reject(error)
          waiting.clear()
          decoder = null
        }
      })
      made.configure({ codec: codec === 'vp9' && profileOf(first) === 1 ? VP9_FULL : CODECS[codec] })
      return made
    }
    return {
      decode(data, key, index) {
        if (!decoder || decoder.state === 'closed') {
          if (!key) return Promise.reject(new Error('decoding must begin with a key frame'))
          decoder = start(data)
        }
        const timestamp = index * 1_000_000
        const done = new Promise<Uint8Array>((resolve, reject) => waiting.set(timestamp, { resolve, reject }))
        decoder.decode(
          new EncodedVideoChunk({ type: key ? 'key' : 'delta', timestamp, data: data as Uint8Array<ArrayBuffer> })
        )
        return done
      },
      close() {
        if (decoder && decoder.state !== 'closed') decoder.close()
        return Promise.resolve()
      }
    }
  }
}
