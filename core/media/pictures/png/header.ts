/** What a PNG says of its picture before any pixel: IHDR, palette, transparency and colour tags. */
import { Unzlib } from 'fflate'
import { concatenate } from '../../../base/files/bytes'
import { MOST_PROFILE, profileFinding, readGamma, readProfile, type ProfileFound } from '../../colour-profile'
import { isWide, sayTags } from '../../../frame/colour-tags'
import { levelsOf, readContent, readMastering, type LightLevels } from '../../../source/light-levels'
import { unreadable } from '../../../base/errors'
import type { ByteReader } from '../../../base/files/file'
import { MAX_PIXELS } from '../../../frame/frame'
import { MOST_OF_SHAPE, nearestRate } from '../../../base/rate'
import type { Finding } from '../../../source/source'
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
  /**
   * By number: those of cICP, or what a profile or gamma of its own comes to; null for sRGB and where nothing is said.
   */
  tags: [number, number, number] | null
  /** Mastering display and light levels (PNG third edition, 11.3.2.7 and 11.3.2.8). */
  levels: LightLevels | null
  /** The profile, or gamma and primaries, that mean something else than sRGB; null where cICP or sRGB say it. */
  profile: ProfileFound | null
  /** Whether cICP says that codes run from 16 to 235 of 255, as those of films do. */
  limited: boolean
  /** Width and height of a pixel, from pHYs (11.3.5.3): more of them to the unit, less of each. */
  pixelAspect: [number, number]
  /** acTL of an animated file. */
  animation: { frames: number; plays: number } | null
}

const CHANNELS: Record<number, number> = { 0: 1, 2: 3, 3: 1, 4: 2, 6: 4 }
const DEPTHS: Record<number, number[]> = { 0: [1, 2, 4, 8, 16], 2: [8, 16], 3: [1, 2, 4, 8], 4: [8, 16], 6: [8, 16] }

/** Bits that one pixel takes, all its samples together. */
export function bitsPerPixel(header: PngHeader): number {
  return CHANNELS[header.colourType]! * header.bitDepth
}

/** Bytes of one unfiltered row of `width` pixels. */
export function rowBytes(header: PngHeader, width: number): number {
  return Math.ceil((width * bitsPerPixel(header)) / 8)
}

/** The header of a PNG (ISO/IEC 15948, 11.2.2). Throws a clear error where it says what cannot be. */
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

/** So long a profile may be, packed. */
const MOST_PACKED = 4 << 20

/**
 * What the codes mean, by the first that says it: cICP, iCCP, sRGB, then gAMA with cHRM (PNG third edition, 4.3). A
 * chunk that is damaged says nothing.
 */
async function profileOf(reader: ByteReader, chunks: ChunkPlace[]): Promise<ProfileFound | null> {
  const read = async (type: string, most: number): Promise<Uint8Array | null> => {
    const place = chunks.find(c => c.type === type)
    return place && place.length <= most ? readChunk(reader, place) : null
  }
  if (chunks.some(c => c.type === 'cICP')) return null
  const packed = await read('iCCP', MOST_PACKED)
  if (packed) {
    const end = packed.indexOf(0)
    const name = new TextDecoder('latin1').decode(packed.subarray(0, Math.max(0, end)))
    return readProfile(end < 0 ? new Uint8Array(0) : unpacked(packed.subarray(end + 2)), name)
  }
  if (chunks.some(c => c.type === 'sRGB')) return null
  const [gamma, places] = [await read('gAMA', 4), await read('cHRM', 32)]
  const numbers = places?.length === 32 ? Array.from({ length: 8 }, (_, n) => readU32(places, 4 * n) / 100000) : null
  if (gamma?.length !== 4 && !numbers) return null
  return readGamma(
    gamma?.length === 4 ? readU32(gamma, 0) / 100000 : null,
    numbers && [2, 4, 6].map(n => [numbers[n]!, numbers[n + 1]!] as const)
  )
}

/** A profile unpacked, as far as it may be; nothing of one that is damaged or far larger than any. */
function unpacked(bytes: Uint8Array): Uint8Array {
  const parts: Uint8Array[] = []
  let total = 0
  try {
    const stream = new Unzlib(part => {
      total += part.length
      if (total > MOST_PROFILE) throw new RangeError('larger than any profile')
      parts.push(part)
    })
    stream.push(bytes, true)
  } catch {
    // the picture is whole without it, and its profile is told as one that cannot be read
    return new Uint8Array(0)
  }
  return concatenate(parts)
}

/** In words, what a file says of its colour; null where it says nothing. */
function sayColour(tags: PngInfo['tags'], profile: ProfileFound | null, chunks: ChunkPlace[]): string | null {
  if (tags && isWide(tags)) return sayTags(tags)
  if (profile) return profile.name.startsWith('gamma') ? profile.name : `ICC profile ${profile.name}`
  if (tags) return `cICP ${tags.join('-')}`
  return chunks.some(c => c.type === 'sRGB') ? 'sRGB' : null
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
  // figures about the light are no reason not to read a picture: of another length they are none
  const figures = (type: string, length: number): Promise<Uint8Array | null> =>
    chunks.some(c => c.type === type && c.length === length) ? find(type, length) : Promise.resolve(null)
  const [mastered, brightest] = [await figures('mDCV', 24), await figures('cLLI', 8)]
  const profile = await profileOf(reader, chunks)
  const tags: PngInfo['tags'] =
    coding?.length === 4
      ? [coding[0]!, coding[1]!, coding[2]!]
      : profile?.tags && isWide(profile.tags)
        ? [profile.tags[0], profile.tags[1], profile.tags[2]]
        : null
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
    colour: sayColour(tags, profile, chunks),
    tags,
    levels: levelsOf(mastered && readMastering(mastered, 'picture'), brightest && readContent(brightest)),
    profile,
    limited: coding?.length === 4 && coding[3] === 0,
    pixelAspect: (shape?.length === 9 && nearestRate([readU32(shape, 4), readU32(shape, 0)], MOST_OF_SHAPE)) || [1, 1],
    animation: actl && actl.length === 8 ? { frames: readU32(actl, 0), plays: readU32(actl, 4) } : null
  }
}

/** True if the file can hold anything but full alpha. */
export function hasAlpha(info: PngInfo): boolean {
  return info.header.colourType === 4 || info.header.colourType === 6 || info.transparency !== null
}

/** What is to be told of a PNG's colour. */
export function colourFindings({ profile, limited }: Pick<PngInfo, 'profile' | 'limited'>): Finding[] {
  const found = profileFinding(profile)
  return [
    ...(found ? [found] : []),
    ...(limited
      ? [
          {
            id: 'limited-range-colour',
            severity: 'warning' as const,
            frames: [],
            sentence:
              'The file says that its colour is of limited range, 16 to 235 of 255. Codes are kept as they ' +
              'are, and look pale where nobody heeds that.',
            mend: {
              id: 'step' as const,
              label: 'Stretch it to full range',
              kind: 'bring-to-srgb',
              settings: { from: 'limited' }
            }
          }
        ]
      : [])
  ]
}
