/** VP8 and VP9 on Node: the codec library built to WebAssembly. One frame in, one out, as the browser's coders work. */
import type { LibAV as Library } from '@libav.js/variant-webm-vp9'
import type { VideoCoder, VideoCoding } from '../../core/frame/host'

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

/**
 * A picture as the library is handed it. It copies half of an odd height rounded down, so of chroma at half the height
 * the last row would be whatever lay there before; such a picture is handed in with a row more, which is not coded.
 */
function handedIn(
  planes: Uint8Array,
  { width, height, chroma }: { width: number; height: number; chroma: '4:2:0' | '4:4:4' }
): { data: Uint8Array; height: number; layout: Layout[] } {
  if (chroma === '4:4:4' || height % 2 === 0)
    return { data: planes, height, layout: planesOf(width, height, chroma).layout }
  const data = new Uint8Array(planes.length + width)
  data.set(planes.subarray(0, width * height))
  data.copyWithin(width * height, width * (height - 1), width * height)
  data.set(planes.subarray(width * height), width * (height + 1))
  return { data, height: height + 1, layout: planesOf(width, height + 1, chroma).layout }
}

/** The planes of a decoded picture, read where they lie: the library's own copy ends a row early at odd heights. */
async function handedOut(libav: Library, frame: number): Promise<Uint8Array> {
  const [width, height, format] = [
    await libav.AVFrame_width(frame),
    await libav.AVFrame_height(frame),
    await libav.AVFrame_format(frame)
  ]
  const full = format === libav.AV_PIX_FMT_YUV444P
  if (!full && format !== libav.AV_PIX_FMT_YUV420P) throw new Error('it is neither 4:2:0 nor 4:4:4 of 8 bits')
  const { layout, heights } = planesOf(width, height, full ? '4:4:4' : '4:2:0')
  const last = layout[2]!
  const out = new Uint8Array(last.offset + last.stride * heights[2]!)
  for (const [p, { offset, stride }] of layout.entries()) {
    const [from, step] = [await libav.AVFrame_data_a(frame, p), await libav.AVFrame_linesize_a(frame, p)]
    const rows = await libav.copyout_u8(from, step * (heights[p]! - 1) + stride)
    for (let y = 0; y < heights[p]!; y++) out.set(rows.subarray(y * step, y * step + stride), offset + y * stride)
  }
  return out
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
              ...handedIn(planes, how),
              format,
              width,
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
          const [pointer] = await libav.ff_decode_multi(
            context,
            packet,
            frame,
            [{ data, pts: index, ptshi: 0, dts: index, dtshi: 0, flags: key ? 1 : 0 }],
            { copyoutFrame: 'ptr' }
          )
          if (!pointer) throw new Error('no picture came out')
          const out = await handedOut(libav, pointer).finally(() => libav.av_frame_free_js(pointer))
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
