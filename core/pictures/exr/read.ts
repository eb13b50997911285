/** Reading OpenEXR ("OpenEXR File Layout"): one part of scan lines, half, float or uint channels, none / RLE / ZIPS / ZIP / PIZ. */
import { unreadable } from '../../errors'
import { readAll, type ByteReader } from '../../files/file'
import { Cursor } from '../../files/view'
import { allocateSamples, MAX_PIXELS, OPAQUE, type Frame } from '../../frame/frame'
import type { Host } from '../../host'
import { fromHalf } from './half'
import { layersOf, type Layer } from './layers'
import { unpackRuns, unpredict } from './pack'
import { unpackPiz } from './piz'

const MAGIC = 20000630
const COMPRESSIONS = ['none', 'RLE', 'ZIPS', 'ZIP', 'PIZ', 'PXR24', 'B44', 'B44A', 'DWAA', 'DWAB']
/** Scan lines in one chunk, by compression. */
const LINES: Record<number, number> = { 0: 1, 1: 1, 2: 1, 3: 16, 4: 32 }

interface Channel {
  name: string
  /** 0 uint, 1 half, 2 float. */
  type: number
}

export interface ExrInfo {
  /** The display window: what the picture is. */
  width: number
  height: number
  /** The data window, placed in the display window. */
  data: { left: number; top: number; width: number; height: number }
  channels: Channel[]
  compression: number
  pixelAspect: number
  framesPerSecond: [number, number] | null
  chromaticities: boolean
  /** Where the table of chunk places begins. */
  tableAt: number
}

export function looksLikeExr(head: Uint8Array): boolean {
  return head[0] === 0x76 && head[1] === 0x2f && head[2] === 0x31 && head[3] === 0x01
}

export function readExrInfo(bytes: Uint8Array, file: string): ExrInfo {
  const fail = (matter: string, place: string | null = 'the header'): Error => unreadable(file, place, matter)
  const c = new Cursor(bytes, file, true)
  if (c.u32(0) !== MAGIC) throw fail('this is not an OpenEXR file', 'byte 0')
  const flags = c.u32(4) >>> 8
  if ((c.u32(4) & 255) !== 2) throw fail('its version is not 2')
  if (flags & 0x1a)
    throw fail(
      flags & 2 ? 'it is tiled; only scan lines are read' : 'it holds deep data or several parts, which are not read'
    )
  const info: Partial<ExrInfo> & { channels: Channel[] } = {
    channels: [],
    pixelAspect: 1,
    framesPerSecond: null,
    chromaticities: false
  }
  let display: number[] | null = null
  let window: number[] | null = null
  let at = 8
  for (;;) {
    const name = c.text(at)
    at += name.length + 1
    if (name === '') break
    const type = c.text(at)
    at += type.length + 1
    const size = c.u32(at)
    at += 4
    c.need(at, size)
    if (name === 'channels') {
      for (let p = at; p < at + size - 1;) {
        const channel = c.text(p)
        p += channel.length + 1
        if (channel === '') break
        if (c.u32(p + 8) !== 1 || c.u32(p + 12) !== 1) throw fail(`channel ${channel} is subsampled, which is not read`)
        info.channels.push({ name: channel, type: c.u32(p) })
        p += 16
        if (info.channels.length > 1024) throw fail('it has more channels than any picture needs')
      }
    } else if (name === 'compression') info.compression = c.u8(at)
    else if (name === 'dataWindow') window = [0, 4, 8, 12].map(n => c.i32(at + n))
    else if (name === 'displayWindow') display = [0, 4, 8, 12].map(n => c.i32(at + n))
    else if (name === 'pixelAspectRatio') info.pixelAspect = c.f32(at)
    else if (name === 'framesPerSecond' && type === 'rational') info.framesPerSecond = [c.i32(at), c.u32(at + 4)]
    else if (name === 'chromaticities') info.chromaticities = true
    at += size
  }
  if (!window || !display || info.compression === undefined || info.channels.length === 0)
    throw fail('channels, compression or windows are missing')
  const [width, height] = [display[2]! - display[0]! + 1, display[3]! - display[1]! + 1]
  const data = {
    left: window[0]! - display[0]!,
    top: window[1]! - display[1]!,
    width: window[2]! - window[0]! + 1,
    height: window[3]! - window[1]! + 1
  }
  for (const [w, h] of [
    [width, height],
    [data.width, data.height]
  ] as const)
    if (w < 1 || h < 1 || w * h > MAX_PIXELS) throw fail(`a picture of ${w}x${h} cannot be taken`)
  if (LINES[info.compression] === undefined)
    throw fail(
      `compression ${COMPRESSIONS[info.compression] ?? info.compression} is not read yet; none, RLE, ZIPS, ZIP and PIZ are`
    )
  if (info.channels.some(channel => channel.type > 2)) throw fail('a channel is of a type that does not exist')
  return { ...info, width, height, data, tableAt: at } as ExrInfo
}

/** The layer that is taken, and which samples of a pixel each channel of the file fills. */
function taken(channels: readonly Channel[]): { layer: Layer | null; fills: number[][] } {
  const [layer] = layersOf(channels.map(channel => channel.name))
  const fills = channels.map((_, index) => [0, 1, 2, 3].filter(role => layer?.channels[role] === index))
  return { layer: layer ?? null, fills }
}

export async function decodeExr(host: Host, reader: ByteReader): Promise<Frame> {
  const bytes = await readAll(reader)
  const info = readExrInfo(bytes, reader.name)
  const { width, height, data, channels, compression } = info
  const c = new Cursor(bytes, reader.name, true)
  const lines = LINES[compression]!
  const chunks = Math.ceil(data.height / lines)
  const pixelBytes = channels.reduce((sum, channel) => sum + (channel.type === 1 ? 2 : 4), 0)
  const lineBytes = pixelBytes * data.width
  c.need(info.tableAt, chunks * 8)
  if (lineBytes * data.height > (bytes.length - info.tableAt) * 1100 + 4096)
    throw unreadable(
      reader.name,
      null,
      `${bytes.length} bytes cannot hold a picture of ${data.width}x${data.height}; the file was cut short`
    )
  const samples = allocateSamples(width, height, 32) as Float32Array
  const { layer, fills } = taken(channels)
  if (!layer)
    throw unreadable(
      reader.name,
      'the header',
      `none of its channels is a colour: ${channels
        .map(channel => channel.name)
        .slice(0, 8)
        .join(', ')}`
    )
  const clear = layer.channels[3] !== null
  if (!clear) for (let i = 3; i < samples.length; i += 4) samples[i] = 1
  for (let n = 0; n < chunks; n++) {
    const at = c.u64(info.tableAt + 8 * n)
    const first = n * lines
    const place = `scan line ${first}`
    const size = c.u32(at + 4)
    const packed = c.slice(at + 8, size)
    const count = Math.min(lines, data.height - first)
    const raw = count * lineBytes
    let unpacked: Uint8Array | null = packed
    if (compression !== 0 && size < raw) {
      if (compression === 4)
        unpacked = unpackPiz(packed, raw, {
          each: channels.map(channel => (channel.type === 1 ? 1 : 2)),
          width: data.width,
          lines: count
        })
      else {
        const sorted =
          compression === 1
            ? unpackRuns(packed, raw)
            : await host.deflate.inflate(packed, raw, 'zlib').catch(() => null)
        unpacked = sorted && unpredict(sorted)
      }
    }
    if (!unpacked || unpacked.length < raw)
      throw unreadable(reader.name, place, 'its packed data is damaged or incomplete')
    const line = new DataView(unpacked.buffer, unpacked.byteOffset, unpacked.byteLength)
    let p = 0
    for (let row = 0; row < count; row++) {
      const y = data.top + first + row
      channels.forEach((channel, index) => {
        const each = channel.type === 1 ? 2 : 4
        const fill = fills[index]
        if (fill!.length && y >= 0 && y < height) {
          for (let x = 0; x < data.width; x++) {
            const u = data.left + x
            if (u < 0 || u >= width) continue
            const value =
              channel.type === 1
                ? fromHalf(line.getUint16(p + 2 * x, true))
                : channel.type === 2
                  ? line.getFloat32(p + 4 * x, true)
                  : line.getUint32(p + 4 * x, true)
            for (const k of fill!) samples[4 * (y * width + u) + k] = value
          }
        }
        p += each * data.width
      })
    }
  }
  return {
    width,
    height,
    depth: 32,
    samples,
    alpha: clear ? { mode: 'premultiplied', matte: '#000000' } : OPAQUE,
    transfer: 'linear'
  }
}
