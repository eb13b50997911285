/** A delivery as strangers see it: frame by frame, as codes of the depth that was delivered. */
import * as AV from 'node-av/constants'
import sharp from 'sharp'
import type { Format } from '../../core/media/formats/format'
import { codesOf, pictureTrack, see, type SeenPicture, type SeenTrack } from './library'
import { coSited, smoothed, type Matrix } from './pixels'
import type { Poured } from './pour-all'

export interface SeenFrame {
  width: number
  height: number
  /** RGBA. */
  codes: Uint8Array | Uint16Array | Float32Array
}

/** Names without blanks, since the library opens files by patterns of its own. */
const safe = (name: string): string => name.replace(/[^\w.]/g, '_')

/** The matrix that luma and chroma were made with, as Pour's formats declare it. */
export const matrixOf = ({ colour }: SeenTrack): Matrix =>
  colour.matrix === 5 || colour.matrix === 6 ? 'bt601' : 'bt709'

/** A picture with the luma of another as its alpha; WebM's is of full range. */
function withAlpha(picture: SeenPicture, beside: SeenPicture | undefined): SeenPicture {
  return beside ? { ...picture, planes: { ...picture.planes, a: beside.planes.y! } } : picture
}

/** Lossy WebP, whose decoders smooth its chroma; its matrix is always BT.601. */
function asWebp(picture: SeenPicture): SeenPicture {
  const { planes, width, height } = picture
  if (!planes.u) return picture
  const [u, v] = [smoothed(planes.u, width, height), smoothed(planes.v!, width, height)]
  return { ...picture, planes: { ...planes, u, v }, lies: { ...picture.lies, across: 0, down: 0 } }
}

/** Chroma of half the columns, as broadcast means it. */
export function asBroadcast(picture: SeenPicture): SeenPicture {
  const { planes, width, lies } = picture
  if (!planes.u || lies.across !== 1 || lies.down) return picture
  const [u, v] = [coSited(planes.u, width), coSited(planes.v!, width)]
  return { ...picture, planes: { ...planes, u, v }, lies: { ...lies, across: 0 } }
}

export function framesOf(track: SeenTrack, bits: 8 | 16 | 32): SeenFrame[] {
  const webp = track.codec === AV.AV_CODEC_ID_WEBP || track.codec === AV.AV_CODEC_ID_WEBP_ANIM
  const matrix = webp ? 'bt601' : matrixOf(track)
  return track.pictures.map((seen, n) => {
    const picture = webp ? asWebp(seen) : asBroadcast(withAlpha(seen, track.beside[n]))
    return { width: picture.width, height: picture.height, codes: codesOf(picture, bits, { matrix }) }
  })
}

/** What a library of pictures reads, as stored. */
async function bySharp(bytes: Uint8Array, bits: 8 | 16 | 32): Promise<SeenFrame> {
  if (bits === 32) {
    const { data, info } = await sharp(bytes)
      .toColourspace('scrgb')
      .raw({ depth: 'float' })
      .toBuffer({ resolveWithObject: true })
    const floats = new Float32Array(new Uint8Array(data).buffer)
    const codes = new Float32Array(4 * info.width * info.height).fill(1)
    for (let i = 0; i < info.width * info.height; i++)
      for (let c = 0; c < info.channels; c++) codes[4 * i + c] = floats[info.channels * i + c]!
    return { width: info.width, height: info.height, codes }
  }
  const { data, info } = await sharp(bytes)
    .ensureAlpha()
    .toColourspace(bits === 16 ? 'rgb16' : 'srgb')
    .raw(bits === 16 ? { depth: 'ushort' } : {})
    .toBuffer({ resolveWithObject: true })
  const own = new Uint8Array(data)
  return { width: info.width, height: info.height, codes: bits === 16 ? new Uint16Array(own.buffer) : own }
}

/** The library of pictures divides what is marked as premultiplied by its alpha; multiplied again it is as stored. */
const multiplied = (frame: SeenFrame): SeenFrame => ({
  ...frame,
  codes: frame.codes.map((value, i, all) => (i % 4 === 3 ? value : value * all[i - (i % 4) + 3]!)) as Float32Array
})

/** Cells of a sheet, cut by the grid that stands in the outlet's plan. */
function cells(sheet: SeenFrame, { plan }: Poured): SeenFrame[] {
  const { width, height, frames, options } = plan.deliverable
  const gap = Number(options.gap ?? 0)
  const columns = Math.round((sheet.width + gap) / (width + gap))
  return Array.from({ length: frames }, (_, n) => {
    const [left, top] = [(n % columns) * (width + gap), Math.floor(n / columns) * (height + gap)]
    const codes = sheet.codes.slice(0, 4 * width * height)
    for (let y = 0; y < height; y++) {
      const at = 4 * ((top + y) * sheet.width + left)
      codes.set(sheet.codes.subarray(at, at + 4 * width) as never, 4 * y * width)
    }
    return { width, height, codes }
  })
}

interface TheirSheet {
  width: number
  height: number
  pages: { image: string }[]
  frames: (Record<'page' | 'x' | 'y' | 'width' | 'height' | 'left' | 'top', number> & { rotated: boolean })[]
}

/** Frames of a packed sheet, put together by its data out of what a library of pictures reads of its pages. */
async function pieces({ files, plan }: Poured, bits: 8 | 16 | 32): Promise<SeenFrame[]> {
  const named = (name: string): Uint8Array => files.find(file => file.name === name)!.bytes
  const told = JSON.parse(new TextDecoder().decode(named(plan.deliverable.names[0]!))) as TheirSheet
  const pages = await Promise.all(told.pages.map(({ image }) => bySharp(named(image), bits)))
  const { width, height } = told
  const solid = plan.deliverable.alpha.mode === 'none'
  return told.frames.map(at => {
    const page = pages[at.page]!
    const codes = page.codes.slice(0, 0).constructor as Uint8ArrayConstructor
    const frame = { width, height, codes: new codes(4 * width * height) }
    if (solid) for (let i = 3; i < frame.codes.length; i += 4) frame.codes[i] = bits === 16 ? 65_535 : 255
    for (let v = 0; v < at.height; v++)
      for (let u = 0; u < at.width; u++) {
        const [x, y] = at.rotated ? [at.x + at.height - 1 - v, at.y + u] : [at.x + u, at.y + v]
        const from = 4 * (y * page.width + x)
        frame.codes.set(page.codes.subarray(from, from + 4) as never, 4 * ((at.top + v) * width + at.left + u))
      }
    return frame
  })
}

export interface Witnessed {
  frames: SeenFrame[]
  track: SeenTrack | null
  complaints: string[]
  /** What floats may be off by, where the stranger divides colour by alpha and lets that of the thinnest go. */
  rounding?: number
}

/** What the strangers say of the main files of a delivery. */
export async function witnessed(format: Format, delivery: Poured): Promise<Witnessed> {
  const bits = delivery.plan.deliverable.depth
  const [first] = delivery.files
  if (format.id === 'packed-sheet') return { frames: await pieces(delivery, bits), track: null, complaints: [] }
  if (format.id === 'png-sheet')
    return { frames: cells(await bySharp(first!.bytes, bits), delivery), track: null, complaints: [] }
  if (format.delivers === 'film') {
    const seen = see(first!.bytes, safe(first!.name))
    const track = pictureTrack(seen)
    return { frames: framesOf(track, bits), track, complaints: seen.complaints }
  }
  const ofKey = new Set(delivery.plan.key?.deliverable.names)
  const pictures = delivery.files.filter(({ name }) => !name.endsWith('.txt') && !ofKey.has(name))
  // the media library hands out colour and alpha of AVIF as two tracks
  if (format.id === 'avif-sequence') {
    const frames = await Promise.all(pictures.map(({ bytes }) => bySharp(bytes, bits)))
    return { frames, track: null, complaints: [] }
  }
  // the media library does not read TIFF in floats
  if (format.id === 'tiff-sequence' && bits === 32) {
    const found = await Promise.all(pictures.map(({ bytes }) => bySharp(bytes, bits)))
    const frames = delivery.plan.deliverable.alpha.mode === 'premultiplied' ? found.map(multiplied) : found
    return { frames, track: null, complaints: [], rounding: frames === found ? 0 : 1e-6 }
  }
  const all = pictures.map(({ name, bytes }) => see(bytes, safe(name), { strict: format.id !== 'tiff-sequence' }))
  return {
    frames: all.flatMap(seen => framesOf(pictureTrack(seen), bits)),
    track: null,
    complaints: all.flatMap(({ complaints }) => complaints)
  }
}
