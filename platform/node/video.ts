/** VP8 and VP9 on Node: the codec library built to WebAssembly. One frame in, one out, as the browser's coders work. */
import type { LibAV as Library } from '@libav.js/variant-webm-vp9'
import type { VideoCoder, VideoCoding } from '../../core/host'

const NAMES = { vp8: 'libvpx', vp9: 'libvpx-vp9' } as const

let loaded: Promise<Library> | null = null

/** The library, loaded when it is first needed, once a thread. */
async function library(): Promise<Library> {
  loaded ??= (async () => {
    const { default: module } = await import('@libav.js/variant-webm-vp9')
    const made = await module.LibAV({ noworker: true, nothreads: true })
    // errors are thrown; what else it has to say is of no use to anybody
    await made.av_log_set_level(made.AV_LOG_QUIET)
    return made
  })()
  return loaded
}

interface Layout {
  offset: number
  stride: number
}

/** Luma, then both chroma planes, one behind another without padding. */
function planesOf(width: number, height: number, chroma: '4:2:0' | '4:4:4'): { layout: Layout[]; heights: number[] } {
  const [w, h] = chroma === '4:4:4' ? [width, height] : [(width + 1) >> 1, (height + 1) >> 1]
  return {
    layout: [
      { offset: 0, stride: width },
      { offset: width * height, stride: w },
      { offset: width * height + w * h, stride: w }
    ],
    heights: [height, h, h]
  }
}

/** More bits a second than any film takes: what the quantiser leaves is then all that counts. */
const UNBOUND = 2_000_000_000

/** The library's settings: one quantiser for the whole film, or bits a second to aim at. */
function settingsOf(how: VideoCoding, quantiser: number): { bitRate: number; options: Record<string, string> } {
  const shared = { deadline: 'realtime', 'cpu-used': '5', 'lag-in-frames': '0', 'auto-alt-ref': '0' }
  if (how.bitrate !== null) return { bitRate: Math.round(how.bitrate), options: shared }
  const fixed = { ...shared, qmin: `${quantiser}`, qmax: `${quantiser}` }
  return how.codec === 'vp9'
    ? { bitRate: 0, options: { ...fixed, crf: `${quantiser}` } }
    : { bitRate: UNBOUND, options: fixed }
}

export const nodeVideo: VideoCoder = {
  quantisersByFrame: false,

  async encoder(how) {
    const libav = await library()
    const { width, height, chroma } = how
    const format = chroma === '4:4:4' ? libav.AV_PIX_FMT_YUV444P : libav.AV_PIX_FMT_YUV420P
    const { layout } = planesOf(width, height, chroma)
    type Opened = Awaited<ReturnType<Library['ff_init_encoder']>>
    let opened: Opened | null = null
    // one after another: the library's memory is one, and its coders know the frame before
    let turn: Promise<unknown> = Promise.resolve()

    async function open(quantiser: number): Promise<Opened> {
      const { bitRate, options } = settingsOf(how, quantiser)
      return libav.ff_init_encoder(NAMES[how.codec], {
        ctx: {
          width,
          height,
          pix_fmt: format,
          bit_rate: bitRate,
          gop_size: 9999,
          framerate_num: Math.round(how.framesPerSecond * 1000),
          framerate_den: 1000
        },
        time_base: [1, Math.max(1, Math.round(how.framesPerSecond))],
        options
      })
    }

    return {
      encode(planes, index, key, quantiser) {
        const done = turn.then(async () => {
          opened ??= await open(quantiser)
          const [, context, frame, packet] = opened
          const [made] = await libav.ff_encode_multi(context, frame, packet, [
            {
              data: planes,
              layout,
              format,
              width,
              height,
              pts: index,
              ptshi: 0,
              // an intra picture is what a key frame is asked for by
              pict_type: key ? 1 : 0,
              key_frame: key ? 1 : 0
            }
          ])
          if (!made) throw new Error(`frame ${index + 1} did not come out of the coder`)
          return { data: made.data.slice(), key: ((made.flags ?? 0) & 1) === 1 }
        })
        turn = done.catch(() => undefined)
        return done
      },
      async close() {
        await turn
        if (opened) await libav.ff_free_encoder(opened[1], opened[2], opened[3])
        opened = null
      }
    }
  },

  decoder(codec) {
    type Opened = Awaited<ReturnType<Library['ff_init_decoder']>>
    let opened: Opened | null = null
    let turn: Promise<unknown> = Promise.resolve()
    return {
      decode(data, key, index) {
        const done = turn.then(async () => {
          const libav = await library()
          if (!opened && !key) throw new Error('decoding must begin with a key frame')
          opened ??= await libav.ff_init_decoder(NAMES[codec])
          const [, context, packet, frame] = opened
          const [picture] = await libav.ff_decode_multi(context, packet, frame, [
            { data, pts: index, ptshi: 0, dts: index, dtshi: 0, flags: key ? 1 : 0 }
          ])
          if (!picture?.layout || !picture.width || !picture.height) throw new Error('no picture came out')
          const full = picture.format === libav.AV_PIX_FMT_YUV444P
          if (!full && picture.format !== libav.AV_PIX_FMT_YUV420P)
            throw new Error('it is neither 4:2:0 nor 4:4:4 of 8 bits')
          const { layout, heights } = planesOf(picture.width, picture.height, full ? '4:4:4' : '4:2:0')
          const last = layout[2]!
          const out = new Uint8Array(last.offset + last.stride * heights[2]!)
          layout.forEach(({ offset, stride }, p) => {
            const from = picture.layout![p]!
            for (let y = 0; y < heights[p]!; y++)
              out.set(
                (picture.data as Uint8Array).subarray(
                  from.offset + y * from.stride,
                  from.offset + y * from.stride + stride
                ),
                offset + y * stride
              )
          })
          return out
        })
        turn = done.catch(() => undefined)
        return done
      },
      async close() {
        await turn
        if (opened) await (await library()).ff_free_decoder(opened[1], opened[2], opened[3])
        opened = null
      }
    }
  }
}
