/**
 * The stranger: a general-purpose media library that shares no code with Pour. It decodes what Pour writes, strictly,
 * and encodes what Pour reads. Everything it says stands here as plain data.
 */
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import * as AV from 'node-av/constants'
import { Codec, CodecContext, Dictionary, FormatContext, Frame, Log, Packet, Rational, type Stream } from 'node-av/lib'
import { bufferOf, LAYOUTS, layoutOf, planesOf, rgbaOf, type Layout, type Matrix, type Planes } from './pixels'

/** What the library complained of since it was last asked. */
let complaints: string[] = []
Log.setCallback((level, message) => void (level <= AV.AV_LOG_ERROR && complaints.push(message.trim())), {
  maxLevel: AV.AV_LOG_ERROR as never
})

/** A picture as it was decoded. */
export interface SeenPicture {
  width: number
  height: number
  layout: string
  lies: Layout
  planes: Planes
  /** In units of the track's time base. */
  at: number
  interlaced: boolean
  topFirst: boolean
  aspect: [number, number]
  colour: { range: number; primaries: number; transfer: number; matrix: number }
}

export interface SeenTrack {
  kind: 'picture' | 'sound' | 'other'
  /** The library's number of its codec. */
  codec: number
  tag: string | null
  timeBase: [number, number]
  start: number
  duration: number
  rate: [number, number]
  aspect: [number, number]
  fieldOrder: number
  colour: { range: number; primaries: number; transfer: number; matrix: number }
  words: Record<string, string>
  pictures: SeenPicture[]
  /** Pictures coded beside those of WebM, their alpha as luma; empty where there are none. */
  beside: SeenPicture[]
  /** Of sound: samples a second, channels, samples interleaved from -1 to 1, and the time of the first in samples. */
  sound: { rate: number; channels: number; samples: Float64Array; at: number } | null
}

export interface Seen {
  tracks: SeenTrack[]
  /** What it complained of: nothing, for a good file. */
  complaints: string[]
}

const ratio = ({ num, den }: { num: number; den: number }): [number, number] => [num, den]

const must = (result: number, what: string): number => {
  if (result < 0) throw new Error(`the witness cannot ${what} (${result}): ${complaints.join('; ')}`)
  return result
}

/** Runs `work` over a file of these bytes. */
function withFile<T>(bytes: Uint8Array, name: string, work: (file: string) => T): T {
  const folder = mkdtempSync(path.join(tmpdir(), 'pour-witness-'))
  try {
    const file = path.join(folder, name)
    writeFileSync(file, bytes)
    return work(file)
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}

function samplesOf(frame: Frame): Float64Array {
  const { channels, nbSamples: count } = frame
  const format = frame.format as number
  const out = new Float64Array(channels * count)
  const planar = [AV.AV_SAMPLE_FMT_S16P, AV.AV_SAMPLE_FMT_S32P, AV.AV_SAMPLE_FMT_FLTP, AV.AV_SAMPLE_FMT_U8P].includes(
    format as never
  )
  const read = (view: DataView, i: number): number =>
    format === AV.AV_SAMPLE_FMT_S16 || format === AV.AV_SAMPLE_FMT_S16P
      ? view.getInt16(2 * i, true) / 2 ** 15
      : format === AV.AV_SAMPLE_FMT_S32 || format === AV.AV_SAMPLE_FMT_S32P
        ? view.getInt32(4 * i, true) / 2 ** 31
        : format === AV.AV_SAMPLE_FMT_U8 || format === AV.AV_SAMPLE_FMT_U8P
          ? (view.getUint8(i) - 128) / 128
          : view.getFloat32(4 * i, true)
  for (const [p, plane] of (frame.data ?? []).entries()) {
    const view = new DataView(plane.buffer, plane.byteOffset, plane.byteLength)
    if (!planar) for (let i = 0; i < out.length; i++) out[i] = read(view, i)
    else for (let i = 0; i < count; i++) out[i * channels + p] = read(view, i)
    if (!planar) break
  }
  return out
}

function pictureOf(frame: Frame): SeenPicture {
  const [layout, lies] = layoutOf(frame.format as number)
  const { width, height } = frame
  return {
    width,
    height,
    layout,
    lies,
    planes: planesOf(frame.toBuffer(), width, height, lies),
    at: Number(frame.bestEffortTimestamp),
    interlaced: frame.hasFlags(AV.AV_FRAME_FLAG_INTERLACED),
    topFirst: frame.hasFlags(AV.AV_FRAME_FLAG_TOP_FIELD_FIRST),
    aspect: ratio(frame.sampleAspectRatio),
    colour: {
      range: frame.colorRange,
      primaries: frame.colorPrimaries,
      transfer: frame.colorTrc,
      matrix: frame.colorSpace
    }
  }
}

export interface How {
  /** A decoder by its name; else the one it takes by itself. */
  decoder?: string
  /**
   * Whether whatever it finds amiss is an error. Of TIFF it is not: there the library takes every field that it does
   * not know for damage.
   */
  strict?: boolean
}

/** Decodes a file whole. Damage of any kind is an error, not a picture held. */
export function see(bytes: Uint8Array, name: string, how: How = {}): Seen {
  return withFile(bytes, name, file => {
    complaints = []
    const context = new FormatContext()
    must(context.openInputSync(file), 'open it')
    try {
      must(context.findStreamInfoSync(null), 'find its tracks')
      const tracks = context.streams.map(stream => trackOf(stream))
      const decoders = context.streams.map(stream => decoderOf(stream, how))
      let matte: CodecContext | null = null
      const take = (index: number): void => {
        const decoder = decoders[index]
        const frame = new Frame()
        frame.alloc()
        while (decoder && decoder.receiveFrameSync(frame) >= 0) {
          const track = tracks[index]!
          if (track.kind === 'picture') track.pictures.push(pictureOf(frame))
          else hear(track, frame)
          frame.unref()
        }
      }
      const packet = new Packet()
      packet.alloc()
      while (context.readFrameSync(packet) >= 0) {
        const decoder = decoders[packet.streamIndex]
        if (decoder) {
          must(decoder.sendPacketSync(packet), 'decode a packet')
          take(packet.streamIndex)
          const side = packet.getSideData(AV.AV_PKT_DATA_MATROSKA_BLOCKADDITIONAL)
          if (side && side.readBigUInt64BE(0) === 1n) {
            matte ??= decoderOf(context.streams[packet.streamIndex]!, how)!
            takeBeside(matte, side.subarray(8), packet, tracks[packet.streamIndex]!)
          }
        }
        packet.unref()
      }
      for (const [index, decoder] of decoders.entries()) {
        decoder?.sendPacketSync(null)
        take(index)
      }
      for (const decoder of decoders) decoder?.freeContext()
      return { tracks, complaints }
    } finally {
      context.closeInputSync()
    }
  })
}

/** Decodes what is coded beside a packet of WebM. */
function takeBeside(decoder: CodecContext, data: Buffer, { pts, isKeyframe }: Packet, track: SeenTrack): void {
  const packet = new Packet()
  packet.alloc()
  packet.data = Buffer.from(data)
  packet.pts = pts
  packet.isKeyframe = isKeyframe
  must(decoder.sendPacketSync(packet), 'decode what is coded beside a packet')
  const frame = new Frame()
  frame.alloc()
  while (decoder.receiveFrameSync(frame) >= 0) {
    track.beside.push(pictureOf(frame))
    frame.unref()
  }
  packet.free()
}

function trackOf(stream: Stream): SeenTrack {
  const { codecpar } = stream
  return {
    kind:
      codecpar.codecType === AV.AVMEDIA_TYPE_VIDEO
        ? 'picture'
        : codecpar.codecType === AV.AVMEDIA_TYPE_AUDIO
          ? 'sound'
          : 'other',
    codec: codecpar.codecId,
    tag: codecpar.codecTagString,
    timeBase: ratio(stream.timeBase),
    start: Number(stream.startTime),
    duration: Number(stream.duration),
    rate: ratio(stream.avgFrameRate.num ? stream.avgFrameRate : stream.rFrameRate),
    aspect: ratio(stream.sampleAspectRatio),
    fieldOrder: (codecpar.toJSON() as { fieldOrder: number }).fieldOrder,
    colour: {
      range: codecpar.colorRange,
      primaries: codecpar.colorPrimaries,
      transfer: codecpar.colorTrc,
      matrix: codecpar.colorSpace
    },
    words: stream.metadata?.getAll() ?? {},
    pictures: [],
    beside: [],
    sound: null
  }
}

function decoderOf(stream: Stream, { decoder: name, strict = true }: How): CodecContext | null {
  const { codecpar } = stream
  if (codecpar.codecType !== AV.AVMEDIA_TYPE_VIDEO && codecpar.codecType !== AV.AVMEDIA_TYPE_AUDIO) return null
  const isPicture = codecpar.codecType === AV.AVMEDIA_TYPE_VIDEO
  const codec = name && isPicture ? Codec.findDecoderByName(name as never) : Codec.findDecoder(codecpar.codecId)
  if (!codec) throw new Error(`the witness has no decoder for codec ${codecpar.codecId}`)
  const decoder = new CodecContext()
  decoder.allocContext3(codec)
  must(decoder.parametersToContext(codecpar), 'set its decoder up')
  decoder.pktTimebase = stream.timeBase
  decoder.threadCount = 1
  if (strict) must(decoder.setOption('err_detect', 'crccheck+bitstream+explode'), 'make its decoder strict')
  must(decoder.open2Sync(codec, null), 'open its decoder')
  return decoder
}

function hear(track: SeenTrack, frame: Frame): void {
  const samples = samplesOf(frame)
  if (track.sound) {
    const joined = new Float64Array(track.sound.samples.length + samples.length)
    joined.set(track.sound.samples)
    joined.set(samples, track.sound.samples.length)
    track.sound.samples = joined
    return
  }
  const [num, den] = track.timeBase
  const at = Math.round((Number(frame.pts) * num * frame.sampleRate) / den)
  track.sound = { rate: frame.sampleRate, channels: frame.channels, samples, at }
}

/** The one track of pictures. */
export function pictureTrack({ tracks }: Seen): SeenTrack {
  const found = tracks.filter(track => track.kind === 'picture')
  if (found.length !== 1) throw new Error(`${found.length} tracks of pictures`)
  return found[0]!
}

/** A seen picture as RGBA codes of so many bits; of 32, as floats. */
export function codesOf(
  picture: SeenPicture,
  bits: 8 | 16 | 32,
  how: { matrix?: Matrix; full?: boolean } = {}
): Uint8Array | Uint16Array | Float32Array {
  const values = rgbaOf(picture.planes, picture, picture.lies, how)
  if (bits === 32) return Float32Array.from(values)
  const most = 2 ** bits - 1
  const codes = bits === 8 ? new Uint8Array(values.length) : new Uint16Array(values.length)
  for (let i = 0; i < codes.length; i++) codes[i] = Math.round(Math.min(1, Math.max(0, values[i]!)) * most)
  return codes
}

/** What is to be written by the library. */
export interface Written {
  /** The name of its container: "mov", "avi", "matroska", "webm", "mxf", "image2". */
  container: string
  /** File name, by whose ending it knows more. */
  name: string
  codec: string
  layout: string
  width: number
  height: number
  rate: [number, number]
  /** Planes of each picture, in codes of the layout's bits. */
  pictures: Planes[]
  /** Time of each picture in units of `timeBase`; else one a frame. */
  times?: number[]
  durations?: number[]
  timeBase?: [number, number]
  codecOptions?: Record<string, string | number>
  containerOptions?: Record<string, string | number>
  aspect?: [number, number]
  colour?: Partial<SeenPicture['colour']>
  flags?: number[]
  fieldOrder?: 'top-first' | 'bottom-first'
  gop?: number
  tag?: string
  sounds?: WrittenSound[]
}

export interface WrittenSound {
  codec: string
  format: 's16' | 's32' | 'flt' | 'fltp' | 'u8'
  rate: number
  channels: 1 | 2
  /** Interleaved, from -1 to 1. */
  samples: Float64Array
  /** Samples before which it does not begin. */
  at?: number
  words?: Record<string, string>
}

const SAMPLE_FORMATS = {
  s16: AV.AV_SAMPLE_FMT_S16,
  s32: AV.AV_SAMPLE_FMT_S32,
  flt: AV.AV_SAMPLE_FMT_FLT,
  fltp: AV.AV_SAMPLE_FMT_FLTP,
  u8: AV.AV_SAMPLE_FMT_U8
} as const

/**
 * Settings by their names, also those of one codec or container alone. Never as a dictionary: the library frees one
 * that was handed to it a second time.
 */
function setAll(target: CodecContext | FormatContext, settings: Record<string, string | number> = {}): void {
  for (const [name, value] of Object.entries(settings))
    must(
      target.setOption(name, String(value), AV.AV_OPT_TYPE_STRING as never, AV.AV_OPT_SEARCH_CHILDREN),
      `set ${name}`
    )
}

const encoderNamed = (name: string): Codec => {
  const codec = Codec.findEncoderByName(name as never)
  if (!codec) throw new Error(`the witness has no encoder "${name}"`)
  return codec
}

interface Coding {
  coder: CodecContext
  stream: Stream
  frames: () => Generator<Frame>
}

function pictureCoding(context: FormatContext, film: Written): Coding {
  const codec = encoderNamed(film.codec)
  const lies = LAYOUTS.get(film.layout)
  if (!lies) throw new Error(`no layout "${film.layout}"`)
  const coder = new CodecContext()
  coder.allocContext3(codec)
  coder.width = film.width
  coder.height = film.height
  coder.pixelFormat = lies.id as never
  const [unit, units] = film.timeBase ?? [film.rate[1], film.rate[0]]
  coder.timeBase = new Rational(unit, units)
  coder.framerate = new Rational(...film.rate)
  coder.threadCount = 1
  if (film.gop) coder.gopSize = film.gop
  if (film.aspect) coder.sampleAspectRatio = new Rational(...film.aspect)
  if (film.colour?.range !== undefined) coder.colorRange = film.colour.range as never
  if (film.colour?.primaries !== undefined) coder.colorPrimaries = film.colour.primaries as never
  if (film.colour?.transfer !== undefined) coder.colorTrc = film.colour.transfer as never
  if (film.colour?.matrix !== undefined) coder.colorSpace = film.colour.matrix as never
  if (film.tag) coder.codecTag = film.tag
  if (film.flags) coder.setFlags(...(film.flags as never[]))
  if (context.oformat && (Number(context.oformat.flags) & AV.AVFMT_GLOBALHEADER) !== 0)
    coder.setFlags(AV.AV_CODEC_FLAG_GLOBAL_HEADER)
  setAll(coder, film.codecOptions)
  must(coder.open2Sync(codec, null), `open the encoder ${film.codec}`)
  const stream = context.newStream()
  must(stream.codecpar.fromContext(coder), 'describe its track')
  stream.timeBase = coder.timeBase
  stream.avgFrameRate = new Rational(...film.rate)
  if (film.aspect) stream.sampleAspectRatio = new Rational(...film.aspect)
  if (film.tag) stream.codecpar.codecTag = film.tag
  return {
    coder,
    stream,
    *frames() {
      for (const [n, planes] of film.pictures.entries()) {
        const frame = Frame.fromVideoBuffer(bufferOf(planes, film.width, film.height, lies), {
          width: film.width,
          height: film.height,
          format: lies.id as never,
          timeBase: { num: unit, den: units },
          pts: BigInt(film.times?.[n] ?? n),
          ...(film.aspect ? { sampleAspectRatio: { num: film.aspect[0], den: film.aspect[1] } } : {})
        })
        frame.duration = BigInt(film.durations?.[n] ?? 1)
        if (film.colour?.range !== undefined) frame.colorRange = film.colour.range as never
        if (film.colour?.matrix !== undefined) frame.colorSpace = film.colour.matrix as never
        if (film.fieldOrder) {
          frame.setFlags(AV.AV_FRAME_FLAG_INTERLACED)
          if (film.fieldOrder === 'top-first') frame.setFlags(AV.AV_FRAME_FLAG_TOP_FIELD_FIRST)
        }
        yield frame
      }
    }
  }
}

function soundCoding(context: FormatContext, sound: WrittenSound): Coding {
  const codec = encoderNamed(sound.codec)
  const coder = new CodecContext()
  coder.allocContext3(codec)
  const layout = { nbChannels: sound.channels, order: 1 as never, mask: sound.channels === 1 ? 4n : 3n }
  coder.sampleRate = sound.rate
  coder.channelLayout = layout
  coder.sampleFormat = SAMPLE_FORMATS[sound.format] as never
  coder.timeBase = new Rational(1, sound.rate)
  if (context.oformat && (Number(context.oformat.flags) & AV.AVFMT_GLOBALHEADER) !== 0)
    coder.setFlags(AV.AV_CODEC_FLAG_GLOBAL_HEADER)
  must(coder.open2Sync(codec, null), `open the encoder ${sound.codec}`)
  const stream = context.newStream()
  must(stream.codecpar.fromContext(coder), 'describe its sound')
  stream.timeBase = coder.timeBase
  if (sound.words) stream.metadata = Dictionary.fromObject(sound.words)
  const size = coder.frameSize || 1024
  const bytes = sound.format === 's16' ? 2 : sound.format === 'u8' ? 1 : 4
  return {
    coder,
    stream,
    *frames() {
      const { channels } = sound
      const total = sound.samples.length / channels
      for (let from = 0; from < total; from += size) {
        const count = Math.min(size, total - from)
        const buffer = Buffer.alloc(count * channels * bytes)
        const view = new DataView(buffer.buffer, buffer.byteOffset, buffer.byteLength)
        for (let i = 0; i < count; i++)
          for (let c = 0; c < channels; c++) {
            const value = sound.samples[(from + i) * channels + c]!
            const place = sound.format === 'fltp' ? c * count + i : i * channels + c
            if (sound.format === 's16') view.setInt16(2 * place, Math.round(value * 32768), true)
            else if (sound.format === 's32') view.setInt32(4 * place, Math.round(value * 2 ** 31), true)
            else if (sound.format === 'u8') view.setUint8(place, Math.round(value * 128 + 128))
            else view.setFloat32(4 * place, value, true)
          }
        yield Frame.fromAudioBuffer(buffer, {
          nbSamples: count,
          format: SAMPLE_FORMATS[sound.format] as never,
          sampleRate: sound.rate,
          channelLayout: layout,
          timeBase: { num: 1, den: sound.rate },
          pts: BigInt((sound.at ?? 0) + from)
        })
      }
    }
  }
}

/** Writes a film. Packets of all tracks go into the file in the order of their times. */
export function write(film: Written): Buffer {
  return withFile(new Uint8Array(0), film.name, file => {
    complaints = []
    const context = new FormatContext()
    must(context.allocOutputContext2(null, film.container, file), `begin a file "${film.container}"`)
    const codings = [pictureCoding(context, film), ...(film.sounds ?? []).map(sound => soundCoding(context, sound))]
    must(context.openOutputSync(), 'open the file')
    setAll(context, film.containerOptions)
    must(context.writeHeaderSync(null), 'write the head')
    const packet = new Packet()
    packet.alloc()
    const packets: { packet: Packet; seconds: number }[] = []
    for (const { coder, stream, frames } of codings) {
      const drain = (): void => {
        while (coder.receivePacketSync(packet) >= 0) {
          const own = packet.clone()!
          own.streamIndex = stream.index
          own.rescaleTs(coder.timeBase, stream.timeBase)
          packets.push({ packet: own, seconds: (Number(own.dts) * stream.timeBase.num) / stream.timeBase.den })
          packet.unref()
        }
      }
      for (const frame of frames()) {
        must(coder.sendFrameSync(frame), 'encode a picture')
        frame.free()
        drain()
      }
      must(coder.sendFrameSync(null), 'end the coding')
      drain()
    }
    for (const { packet: next } of packets.sort((a, b) => a.seconds - b.seconds)) {
      must(context.interleavedWriteFrameSync(next), 'write a packet')
      next.free()
    }
    must(context.writeTrailerSync(), 'end the file')
    context.closeOutputSync()
    for (const { coder } of codings) coder.freeContext()
    context.freeContext()
    return readFileSync(file)
  })
}
