/**
 * Reading OpenEXR ("OpenEXR File Layout"): parts of scan lines or tiles, half, float or uint channels, every
 * compression.
 */
import { unreadable } from '../../../base/errors'
import { readAll, type ByteReader } from '../../../base/files/file'
import { Cursor } from '../../../base/files/view'
import { allocateSamples, MAX_PIXELS, OPAQUE, type Frame } from '../../../frame/frame'
import type { Host } from '../../../frame/host'
import { fromHalf } from './half'
import { layersOf, rankOf, type LayerChannels } from './layers'
import { COMPRESSIONS, LINES, pixelBytes, unpackChunk } from './unpack'
import type { Channel } from './chunk'

const MAGIC = 20000630
const MAX_PARTS = 1024

export interface ExrPart {
  /** Empty where the file holds one part without a name. */
  name: string
  channels: Channel[]
  compression: number
  /** Deep samples are not read; the part is there to be told of. */
  deep: boolean
  /** Size of a tile; null for scan lines. */
  tile: { width: number; height: number } | null
  /** The display window: what the picture is. */
  width: number
  height: number
  /** The data window, placed in the display window. */
  data: { left: number; top: number; width: number; height: number }
  pixelAspect: number
  framesPerSecond: [number, number] | null
  /** x and y of red, green, blue and white, where they are given. */
  chromaticities: number[] | null
  /** Where its table of chunk places begins. */
  tableAt: number
}

export interface ExrInfo {
  parts: ExrPart[]
  /** Whether chunks begin with the number of their part. */
  several: boolean
}

/** Whether a file of these first bytes is OpenEXR. */
export function looksLikeExr(head: Uint8Array): boolean {
  return head[0] === 0x76 && head[1] === 0x2f && head[2] === 0x31 && head[3] === 0x01
}

interface Header {
  part: ExrPart
  chunks: number | null
  end: number
}

function channelsOf(c: Cursor, from: number, end: number, fail: (matter: string) => Error): Channel[] {
  const channels: Channel[] = []
  for (let p = from; p < end - 1;) {
    const name = c.text(p)
    p += name.length + 1
    if (name === '') break
    if (c.u32(p + 8) !== 1 || c.u32(p + 12) !== 1) throw fail(`channel ${name} is subsampled, which is not read`)
    channels.push({ name, type: c.u32(p), linear: c.u8(p + 4) === 1 })
    p += 16
    if (channels.length > 1024) throw fail('it has more channels than any picture needs')
  }
  if (channels.some(channel => channel.type > 2)) throw fail('a channel is of a type that does not exist')
  return channels
}

/** One header, up to and with the zero byte that ends it. */
function readHeader(c: Cursor, from: number, tiled: boolean, fail: (matter: string) => Error): Header {
  const part: Partial<ExrPart> & Pick<ExrPart, 'channels'> = { channels: [] }
  let [display, window]: (number[] | null)[] = [null, null]
  let chunks: number | null = null
  let kind = tiled ? 'tiledimage' : 'scanlineimage'
  let at = from
  for (;;) {
    const name = c.text(at)
    at += name.length + 1
    if (name === '') break
    const type = c.text(at)
    at += type.length + 1
    const size = c.u32(at)
    at += 4
    c.need(at, size)
    const letters = (): string => String.fromCharCode(...c.slice(at, Math.min(size, 255)))
    if (name === 'channels') part.channels = channelsOf(c, at, at + size, fail)
    else if (name === 'compression') part.compression = c.u8(at)
    else if (name === 'dataWindow') window = [0, 4, 8, 12].map(n => c.i32(at + n))
    else if (name === 'displayWindow') display = [0, 4, 8, 12].map(n => c.i32(at + n))
    else if (name === 'pixelAspectRatio') part.pixelAspect = c.f32(at)
    else if (name === 'framesPerSecond' && type === 'rational') part.framesPerSecond = [c.i32(at), c.u32(at + 4)]
    else if (name === 'chromaticities' && size === 32)
      part.chromaticities = Array.from({ length: 8 }, (_, n) => c.f32(at + 4 * n))
    else if (name === 'name' && type === 'string') part.name = letters()
    else if (name === 'type' && type === 'string') kind = letters()
    else if (name === 'chunkCount') chunks = c.i32(at)
    else if (name === 'tiles') part.tile = { width: c.u32(at), height: c.u32(at + 4) }
    at += size
  }
  if (!window || !display || part.compression === undefined || part.channels.length === 0)
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
  if (LINES[part.compression] === undefined)
    throw fail(`compression ${part.compression} is not read; ${COMPRESSIONS.join(', ')} are`)
  const tile = kind.endsWith('image') && kind.startsWith('tiled') ? part.tile : null
  if (tile === undefined || (tile && (tile.width < 1 || tile.height < 1 || tile.width * tile.height > MAX_PIXELS)))
    throw fail('the size of its tiles is missing or damaged')
  return {
    part: {
      name: '',
      pixelAspect: 1,
      framesPerSecond: null,
      chromaticities: null,
      ...part,
      compression: part.compression,
      deep: kind.startsWith('deep'),
      tile,
      width,
      height,
      data,
      tableAt: 0
    },
    chunks,
    end: at
  }
}

/** The parts of a file, from its headers. */
export function readExrInfo(bytes: Uint8Array, file: string): ExrInfo {
  const fail = (matter: string, place: string | null = 'the header'): Error => unreadable(file, place, matter)
  const c = new Cursor(bytes, file, true)
  if (c.u32(0) !== MAGIC) throw fail('this is not an OpenEXR file', 'byte 0')
  const flags = c.u32(4) >>> 8
  if ((c.u32(4) & 255) !== 2) throw fail('its version is not 2')
  const several = (flags & 0x10) !== 0
  if (!several) {
    if (flags & 8) throw fail('it holds deep data, which is not read')
    const { part, end } = readHeader(c, 8, (flags & 2) !== 0, fail)
    return { parts: [{ ...part, tableAt: end }], several }
  }
  const headers: Header[] = []
  let at = 8
  // an empty name where a header would begin ends the list
  while (c.u8(at) !== 0) {
    const header = readHeader(c, at, false, fail)
    headers.push(header)
    at = header.end
    if (headers.length > MAX_PARTS) throw fail('it has more parts than any picture needs')
  }
  at++
  const parts = headers.map(({ part, chunks }) => {
    if (chunks === null || chunks < 0) throw fail('a part does not say how many chunks it has')
    const tableAt = at
    at += 8 * chunks
    return { ...part, tableAt }
  })
  if (parts.length === 0) throw fail('it has no parts')
  return { parts, several }
}

/** A layer of a part of a file. */
export interface ExrLayer extends LayerChannels {
  /** What it is called: the part's name, the layer's, or both. Empty where neither has one. */
  title: string
  part: ExrPart
  number: number
}

/** Layers of colour of all parts, the one to be seen first. Only of parts that are as large as the first. */
export function layersOfFile({ parts }: ExrInfo): ExrLayer[] {
  const [first] = parts
  return parts
    .flatMap((part, number) =>
      part.deep || part.width !== first!.width || part.height !== first!.height
        ? []
        : layersOf(part.channels.map(channel => channel.name)).map(layer => {
            const title =
              parts.length === 1 || part.name === '' || layer.name.split('.')[0] === part.name
                ? layer.name
                : [part.name, layer.name].filter(Boolean).join('.')
            return { ...layer, title, rank: rankOf(title, layer.channels[3] !== null), part, number }
          })
    )
    .sort((a, b) => a.rank - b.rank || a.number - b.number)
}

/** One chunk's place in the picture, relative to the data window. */
interface Area {
  left: number
  top: number
  width: number
  lines: number
}

/** The chunks of a part, in the order of its table: scan lines, or the tiles of the largest level. */
function areasOf({ data, tile, compression }: ExrPart): Area[] {
  const step = tile ?? { width: data.width, height: LINES[compression]! }
  const areas: Area[] = []
  for (let top = 0; top < data.height; top += step.height)
    for (let left = 0; left < data.width; left += step.width)
      areas.push({
        left,
        top,
        width: Math.min(step.width, data.width - left),
        lines: Math.min(step.height, data.height - top)
      })
  return areas
}

/** Lays a chunk's lines into the frame, where they lie within it. */
function lay(
  samples: Float32Array,
  { part, channels: roles }: ExrLayer,
  { left, top, width, lines }: Area,
  raw: Uint8Array
): void {
  const line = new DataView(raw.buffer, raw.byteOffset, raw.byteLength)
  const { data, channels } = part
  const fills = channels.map((_, index) => [0, 1, 2, 3].filter(role => roles[role] === index))
  let p = 0
  for (let row = 0; row < lines; row++) {
    const y = data.top + top + row
    channels.forEach(({ type }, index) => {
      const fill = fills[index]!
      if (fill.length && y >= 0 && y < part.height) {
        for (let x = 0; x < width; x++) {
          const u = data.left + left + x
          if (u < 0 || u >= part.width) continue
          const value =
            type === 1
              ? fromHalf(line.getUint16(p + 2 * x, true))
              : type === 2
                ? line.getFloat32(p + 4 * x, true)
                : line.getUint32(p + 4 * x, true)
          for (const k of fill) samples[4 * (y * part.width + u) + k] = value
        }
      }
      p += (type === 1 ? 2 : 4) * width
    })
  }
}

/** The layer that is wanted by its title, or the first. */
export function layerOf(info: ExrInfo, wanted: string | undefined, file: string): ExrLayer {
  const layers = layersOfFile(info)
  const found = wanted === undefined ? layers[0] : layers.find(({ title }) => title === wanted)
  if (found) return found
  const deep = info.parts.some(part => part.deep)
  const names = info.parts.flatMap(part => part.channels.map(channel => channel.name))
  throw unreadable(
    file,
    'the header',
    layers.length
      ? `it has no layer "${wanted}"; it has ${layers.map(({ title }) => `"${title}"`).join(', ')}`
      : deep
        ? 'it holds deep data, which is not read'
        : `none of its channels is a colour: ${names.slice(0, 8).join(', ')}`
  )
}

/** Decodes the layer of that title, or the one to be seen first. */
export async function decodeExr(host: Host, reader: ByteReader, wanted?: string): Promise<Frame> {
  const bytes = await readAll(reader)
  const info = readExrInfo(bytes, reader.name)
  const seen = layerOf(info, wanted, reader.name)
  const { part, number } = seen
  const { width, height, data, channels, compression, tile } = part
  const c = new Cursor(bytes, reader.name, true)
  const areas = areasOf(part)
  c.need(part.tableAt, areas.length * 8)
  if (pixelBytes(channels) * data.width * data.height > (bytes.length - part.tableAt) * 1100 + 4096)
    throw unreadable(
      reader.name,
      null,
      `${bytes.length} bytes cannot hold a picture of ${data.width}x${data.height}; the file was cut short`
    )
  const samples = allocateSamples(width, height, 32) as Float32Array
  const clear = seen.channels[3] !== null
  if (!clear) for (let i = 3; i < samples.length; i += 4) samples[i] = 1
  for (const [n, area] of areas.entries()) {
    let at = c.u64(part.tableAt + 8 * n)
    const place = tile ? `tile ${area.left / tile.width}, ${area.top / tile.height}` : `scan line ${area.top}`
    if (info.several) {
      if (c.i32(at) !== number) throw unreadable(reader.name, place, 'its place leads into another part')
      at += 4
    }
    at += tile ? 16 : 4
    const packed = c.slice(at + 4, c.u32(at))
    const raw = await unpackChunk(
      compression,
      packed,
      { channels, width: area.width, lines: area.lines },
      (data, size) => host.deflate.inflate(data, size, 'zlib').catch(() => null)
    )
    if (!raw) throw unreadable(reader.name, place, 'its packed data is damaged or incomplete')
    lay(samples, seen, area, raw)
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
