/** Pictures as the library holds them: how samples lie in its pixel layouts, and what they are as RGBA. */
import * as AV from 'node-av/constants'

/** A layout: where red, green, blue and alpha, or luma, two chromas and alpha, are found. */
export interface Layout {
  /** The library's number for it. */
  id: number
  bits: number
  /** Of packed layouts: the order of samples within a pixel, `_` for one that means nothing. */
  packed?: string
  bigEndian?: boolean
  /** Of planar layouts: what each plane holds, in order. */
  planes?: string
  /** Chroma has a sample for each 2^n pixels, across and down. */
  across?: number
  down?: number
  /** Y'CbCr in full range by its name. */
  full?: boolean
}

const layout = (name: string, rest: Omit<Layout, 'id'>): [string, Layout] => [
  name.toLowerCase(),
  { id: (AV as unknown as Record<string, number>)[`AV_PIX_FMT_${name}`]!, ...rest }
]

const PACKED8 = ['RGBA', 'BGRA', 'ARGB', 'ABGR'].map(name => layout(name, { bits: 8, packed: name.toLowerCase() }))
const BARE8 = ['0RGB', 'RGB0', '0BGR', 'BGR0'].map(name =>
  layout(name, { bits: 8, packed: name.toLowerCase().replace('0', '_') })
)
const ENDIAN = ['LE', 'BE'] as const
const PACKED16 = ENDIAN.flatMap(end =>
  (
    [
      ['RGBA64', 'rgba'],
      ['BGRA64', 'bgra'],
      ['RGB48', 'rgb'],
      ['BGR48', 'bgr'],
      ['GRAY16', 'y'],
      ['YA16', 'ya']
    ] as const
  ).map(([name, packed]) => layout(name + end, { bits: 16, packed, bigEndian: end === 'BE' }))
)
const PLANAR_RGB = [8, 9, 10, 12, 14, 16].flatMap(bits =>
  (
    [
      ['GBRP', 'gbr'],
      ['GBRAP', 'gbra']
    ] as const
  )
    .filter(([name]) => name === 'GBRP' || [8, 10, 12, 14, 16].includes(bits))
    .flatMap(([name, planes]) =>
      bits === 8
        ? [layout(name, { bits, planes })]
        : ENDIAN.map(end => layout(`${name}${bits}${end}`, { bits, planes, bigEndian: end === 'BE' }))
    )
)
const SAMPLINGS = [
  ['420', 1, 1],
  ['422', 1, 0],
  ['444', 0, 0]
] as const
const PLANAR_YUV = SAMPLINGS.flatMap(([name, across, down]) =>
  [8, 9, 10, 12, 14, 16].flatMap(bits =>
    [false, true].map(alpha =>
      layout(`YUV${alpha ? 'A' : ''}${name}P${bits === 8 ? '' : `${bits}LE`}`, {
        bits,
        planes: alpha ? 'yuva' : 'yuv',
        across,
        down
      })
    )
  )
)
const JPEG = SAMPLINGS.map(([name, across, down]) =>
  layout(`YUVJ${name}P`, { bits: 8, planes: 'yuv', across, down, full: true })
)
const ODD = [
  layout('YUV411P', { bits: 8, planes: 'yuv', across: 2, down: 0 }),
  layout('YUV410P', { bits: 8, planes: 'yuv', across: 2, down: 2 }),
  layout('YUV440P', { bits: 8, planes: 'yuv', across: 0, down: 1 }),
  layout('RGB24', { bits: 8, packed: 'rgb' }),
  layout('BGR24', { bits: 8, packed: 'bgr' }),
  layout('GRAY8', { bits: 8, packed: 'y' }),
  layout('YA8', { bits: 8, packed: 'ya' }),
  layout('GRAY10LE', { bits: 10, packed: 'y' }),
  layout('GRAY12LE', { bits: 12, packed: 'y' }),
  layout('RGBAF32LE', { bits: 32, packed: 'rgba' }),
  layout('GBRPF32LE', { bits: 32, planes: 'gbr' }),
  layout('GBRAPF32LE', { bits: 32, planes: 'gbra' }),
  layout('GBRPF16LE', { bits: -16, planes: 'gbr' }),
  layout('GBRAPF16LE', { bits: -16, planes: 'gbra' })
]

export const LAYOUTS = new Map<string, Layout>(
  [...PACKED8, ...BARE8, ...PACKED16, ...PLANAR_RGB, ...PLANAR_YUV, ...JPEG, ...ODD].filter(
    ([, { id }]) => id !== undefined
  )
)

export function layoutOf(id: number): [string, Layout] {
  const found = [...LAYOUTS].find(([, known]) => known.id === id)
  if (!found) throw new Error(`the witness has no words for pixel layout ${id}`)
  return found
}

/** Planes of samples, each with its size, as numbers in codes of the layout's bits (floats as they are). */
export interface Plane {
  width: number
  height: number
  samples: Float64Array
}
export type Planes = Record<string, Plane>

const halfToNumber = (half: number): number => {
  const [sign, power, rest] = [half >> 15 ? -1 : 1, (half >> 10) & 31, half & 1023]
  return (
    sign * (power === 0 ? rest * 2 ** -24 : power === 31 ? (rest ? NaN : Infinity) : (1024 + rest) * 2 ** (power - 25))
  )
}

const bytesOf = (bits: number): number => (bits === 8 ? 1 : bits === 32 ? 4 : 2)

function readAt(view: DataView, at: number, { bits, bigEndian }: Layout): number {
  if (bits === 8) return view.getUint8(at)
  if (bits === 32) return view.getFloat32(at, !bigEndian)
  const value = view.getUint16(at, !bigEndian)
  return bits === -16 ? halfToNumber(value) : value
}

export function shapeOf(channel: string, width: number, height: number, { across = 0, down = 0 }: Layout) {
  return channel === 'u' || channel === 'v'
    ? { width: -(-width >> across), height: -(-height >> down) }
    : { width, height }
}

/** Takes a tight buffer apart. */
export function planesOf(buffer: Uint8Array, width: number, height: number, lies: Layout): Planes {
  const view = new DataView(buffer.buffer, buffer.byteOffset, buffer.byteLength)
  const bytes = bytesOf(lies.bits)
  const planes: Planes = {}
  let at = 0
  if (lies.packed) {
    for (const [c, channel] of [...lies.packed].entries()) {
      if (channel === '_') continue
      const samples = new Float64Array(width * height)
      for (let i = 0; i < samples.length; i++) samples[i] = readAt(view, (i * lies.packed.length + c) * bytes, lies)
      planes[channel] = { width, height, samples }
    }
    return planes
  }
  for (const channel of lies.planes!) {
    const shape = shapeOf(channel, width, height, lies)
    const samples = new Float64Array(shape.width * shape.height)
    for (let i = 0; i < samples.length; i++, at += bytes) samples[i] = readAt(view, at, lies)
    planes[channel] = { ...shape, samples }
  }
  return planes
}

/** Puts planes together as a tight buffer. What a layout has and the planes have not is full. */
export function bufferOf(planes: Planes, width: number, height: number, lies: Layout): Buffer {
  const bytes = bytesOf(lies.bits)
  const full = lies.bits === 8 ? 255 : 2 ** lies.bits - 1
  const put = (view: DataView, at: number, value: number): void =>
    bytes === 1 ? view.setUint8(at, value) : view.setUint16(at, value, !lies.bigEndian)
  if (lies.packed) {
    const { length } = lies.packed
    const buffer = Buffer.alloc(width * height * length * bytes)
    const view = new DataView(buffer.buffer, buffer.byteOffset, buffer.byteLength)
    for (const [c, channel] of [...lies.packed].entries())
      for (let i = 0; i < width * height; i++)
        put(view, (i * length + c) * bytes, channel === '_' ? 0 : (planes[channel]?.samples[i] ?? full))
    return buffer
  }
  const parts: Buffer[] = []
  for (const channel of lies.planes!) {
    const shape = shapeOf(channel, width, height, lies)
    const buffer = Buffer.alloc(shape.width * shape.height * bytes)
    const view = new DataView(buffer.buffer, buffer.byteOffset, buffer.byteLength)
    for (let i = 0; i < shape.width * shape.height; i++) put(view, i * bytes, planes[channel]?.samples[i] ?? full)
    parts.push(buffer)
  }
  return Buffer.concat(parts)
}

/** Luma's weights of red and blue by matrix (ITU-R BT.601, BT.709, BT.2020). */
export const MATRICES = { bt601: [0.299, 0.114], bt709: [0.2126, 0.0722], bt2020: [0.2627, 0.0593] } as const
export type Matrix = keyof typeof MATRICES

/**
 * Chroma at half the size brought to the whole by nine parts of the nearest sample, three of each of the next two, and
 * one of the farthest: what decoders of WebP do.
 */
export function smoothed(plane: Plane, width: number, height: number): Plane {
  const samples = new Float64Array(width * height)
  const at = (x: number, y: number): number =>
    plane.samples[Math.min(plane.height - 1, Math.max(0, y)) * plane.width + Math.min(plane.width - 1, Math.max(0, x))]!
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const [cx, cy] = [x >> 1, y >> 1]
      const [nx, ny] = [x % 2 ? cx + 1 : cx - 1, y % 2 ? cy + 1 : cy - 1]
      samples[y * width + x] = (9 * at(cx, cy) + 3 * at(nx, cy) + 3 * at(cx, ny) + at(nx, ny)) / 16
    }
  return { width, height, samples }
}

/** Chroma of half the columns, which lies on the even ones (ITU-R BT.709): between two samples lies their mean. */
export function coSited({ width: columns, height, samples: given }: Plane, width: number): Plane {
  const samples = new Float64Array(width * height)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const here = given[y * columns + (x >> 1)]!
      const next = given[y * columns + Math.min(columns - 1, (x >> 1) + 1)]!
      samples[y * width + x] = x & 1 ? (here + next) / 2 : here
    }
  return { width, height, samples }
}

/**
 * RGBA of a picture as numbers from 0 to 1 (floats as they are), chroma repeated over the pixels that it stands for.
 */
export function rgbaOf(
  planes: Planes,
  { width, height }: { width: number; height: number },
  lies: Layout,
  { matrix = 'bt709' as Matrix, full = lies.full ?? false } = {}
): Float64Array {
  const out = new Float64Array(4 * width * height)
  const most = lies.bits === 32 || lies.bits === -16 ? 1 : 2 ** lies.bits - 1
  const { r, g, b, y, u, v, a } = planes
  const [kr, kb] = MATRICES[matrix]
  const scale = 2 ** (lies.bits - 8)
  for (let j = 0; j < height; j++)
    for (let i = 0; i < width; i++) {
      const n = j * width + i
      out[4 * n + 3] = a ? a.samples[n]! / most : 1
      if (r) {
        out[4 * n] = r.samples[n]! / most
        out[4 * n + 1] = g!.samples[n]! / most
        out[4 * n + 2] = b!.samples[n]! / most
        continue
      }
      if (!u) {
        out.fill(y!.samples[n]! / most, 4 * n, 4 * n + 3)
        continue
      }
      const c = (j >> (lies.down ?? 0)) * u.width + (i >> (lies.across ?? 0))
      const luma = full ? y!.samples[n]! / most : (y!.samples[n]! / scale - 16) / 219
      const range = full ? most : 224 * scale
      const cb = (u.samples[c]! - 128 * scale) / range
      const cr = (v!.samples[c]! - 128 * scale) / range
      out[4 * n] = luma + 2 * (1 - kr) * cr
      out[4 * n + 2] = luma + 2 * (1 - kb) * cb
      out[4 * n + 1] = (luma - kr * out[4 * n]! - kb * out[4 * n + 2]!) / (1 - kr - kb)
    }
  return out
}
