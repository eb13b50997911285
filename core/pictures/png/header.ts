/** What a PNG says of its picture before any pixel: IHDR, palette, transparency and colour tags. */
import { isWide, sayTags } from '../../colour-tags'
import { unreadable } from '../../errors'
import type { ByteReader } from '../../files/file'
import { MAX_PIXELS } from '../../frame/frame'
import { MOST_OF_SHAPE, nearestRate } from '../../rate'
import { listChunks, readChunk, readU32, type ChunkPlace } from './chunks'

export interface PngHeader {
  width: number
  height: number
  /** Bits of a sample as stored: 1, 2, 4, 8 or 16. */
  bitDepth: number
  /** 0 grey, 2 RGB, 3 palette, 4 grey and alpha, 6 RGBA. */
  colourType: number
  interlaced: boolean
}

export interface PngInfo {
  header: PngHeader
  chunks: ChunkPlace[]
  /** RGB triples for colour type 3. */
  palette: Uint8Array | null
  /** tRNS as stored. */
  transparency: Uint8Array | null
  /** What the file says of its colour, in words; null when it says nothing. */
  colour: string | null
  /** cICP by number. */
  tags: [number, number, number] | null
  /** Width and height of a pixel, from pHYs (11.3.5.3): more of them to the unit, less of each. */
  pixelAspect: [number, number]
  /** acTL of an animated file. */
  animation: { frames: number; plays: number } | null
}

const CHANNELS: Record<number, number> = { 0: 1, 2: 3, 3: 1, 4: 2, 6: 4 }
const DEPTHS: Record<number, number[]> = { 0: [1, 2, 4, 8, 16], 2: [8, 16], 3: [1, 2, 4, 8], 4: [8, 16], 6: [8, 16] }

export function bitsPerPixel(header: PngHeader): number {
  return CHANNELS[header.colourType]! * header.bitDepth
}

/** Bytes of one unfiltered row of `width` pixels. */
export function rowBytes(header: PngHeader, width: number): number {
  return Math.ceil((width * bitsPerPixel(header)) / 8)
}

export function parseHeader(name: string, data: Uint8Array): PngHeader {
  const fail = (matter: string): Error => unreadable(name, 'chunk IHDR', matter)
  if (data.length !== 13) throw fail(`it is ${data.length} bytes long instead of 13`)
  const header: PngHeader = {
    width: readU32(data, 0),
    height: readU32(data, 4),
    bitDepth: data[8]!,
    colourType: data[9]!,
    interlaced: data[12] === 1
  }
  if (!DEPTHS[header.colourType]?.includes(header.bitDepth))
    throw fail(`colour type ${header.colourType} with ${header.bitDepth} bits does not exist`)
  if (data[10] !== 0 || data[11] !== 0 || data[12]! > 1)
    throw fail('its compression, filter or interlace method does not exist')
  if (header.width < 1 || header.height < 1) throw fail('the picture has no pixels')
  if (header.width * header.height > MAX_PIXELS)
    throw fail(`the picture claims ${header.width}x${header.height}, more than the ${MAX_PIXELS} pixels Pour takes`)
  return header
}

/** sRGB, cICP (PNG third edition, 11.3.2.6), iCCP and gAMA, said in words. */
async function colourTags(reader: ByteReader, chunks: ChunkPlace[]): Promise<string | null> {
  for (const type of ['cICP', 'sRGB', 'iCCP', 'gAMA']) {
    const place = chunks.find(c => c.type === type)
    if (!place || place.length > 1 << 20) continue
    const data = await readChunk(reader, place)
    if (type === 'cICP' && data.length === 4) return `cICP ${data[0]}-${data[1]}-${data[2]}`
    if (type === 'sRGB') return 'sRGB'
    if (type === 'iCCP')
      return `ICC profile ${new TextDecoder('latin1').decode(data.subarray(0, Math.max(0, data.indexOf(0))))}`
    if (type === 'gAMA' && data.length === 4) return `gamma ${readU32(data, 0) / 100000}`
  }
  return null
}

/** Reads everything before the pixels and checks it, so that a later decode can only fail in the pixel data. */
export async function readPngInfo(reader: ByteReader): Promise<PngInfo> {
  const chunks = await listChunks(reader)
  if (chunks[0]!.type !== 'IHDR')
    throw unreadable(reader.name, `chunk ${chunks[0]!.type}`, 'the first chunk is not IHDR')
  const header = parseHeader(reader.name, await readChunk(reader, chunks[0]!))
  const find = async (type: string, most: number): Promise<Uint8Array | null> => {
    const place = chunks.find(c => c.type === type)
    if (!place) return null
    if (place.length > most)
      throw unreadable(
        reader.name,
        `chunk ${type}`,
        `it is ${place.length} bytes long, more than the ${most} it may have`
      )
    return readChunk(reader, place)
  }
  const palette = await find('PLTE', 768)
  const transparency = await find('tRNS', 256)
  const actl = await find('acTL', 8)
  const shape = await find('pHYs', 9)
  const coding = await find('cICP', 4)
  const tags: PngInfo['tags'] = coding?.length === 4 ? [coding[0]!, coding[1]!, coding[2]!] : null
  if (header.colourType === 3 && (!palette || palette.length % 3 !== 0 || palette.length === 0))
    throw unreadable(reader.name, 'chunk PLTE', 'the palette is missing or damaged')
  if (transparency) {
    const needed = header.colourType === 0 ? 2 : header.colourType === 2 ? 6 : 0
    if (transparency.length < needed)
      throw unreadable(reader.name, 'chunk tRNS', 'it is too short for this colour type')
  }
  if (!chunks.some(c => c.type === 'IDAT')) throw unreadable(reader.name, null, 'the file holds no picture data')
  return {
    header,
    chunks,
    palette,
    transparency,
    colour: tags && isWide(tags) ? sayTags(tags) : await colourTags(reader, chunks),
    tags,
    pixelAspect: (shape?.length === 9 && nearestRate([readU32(shape, 4), readU32(shape, 0)], MOST_OF_SHAPE)) || [1, 1],
    animation: actl && actl.length === 8 ? { frames: readU32(actl, 0), plays: readU32(actl, 4) } : null
  }
}

/** True if the file can hold anything but full alpha. */
export function hasAlpha(info: PngInfo): boolean {
  return info.header.colourType === 4 || info.header.colourType === 6 || info.transparency !== null
}
