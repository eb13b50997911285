/** Small files that claim a great deal, made byte by byte. Each must be refused by its header. */
import zlib from 'node:zlib'
import { chunk, SIGNATURE, writeU32 } from '../../core/media/pictures/png/chunks'

const join = (...parts: (Uint8Array | number[] | string)[]): Uint8Array =>
  new Uint8Array(Buffer.concat(parts.map(part => Buffer.from(part as Uint8Array))))
const u16 = (value: number): number[] => [value & 255, value >>> 8]
const u32 = (value: number): number[] => [...u16(value & 0xffff), ...u16(value >>> 16)]
const big32 = (value: number): number[] => u32(value).reverse()

/** A canvas with `frames` frames of one pixel each. */
function gif(width: number, height: number, frames: number): Uint8Array {
  const frame = [0x2c, ...u16(0), ...u16(0), ...u16(1), ...u16(1), 0, 2, 2, 0x4c, 1, 0]
  return join(
    'GIF89a',
    u16(width),
    u16(height),
    [0x80, 0, 0],
    [0, 0, 0, 255, 255, 255],
    ...Array.from({ length: frames }, () => frame),
    [0x3b]
  )
}

function png(width: number, height: number, depth: number, ...rest: Uint8Array[]): Uint8Array {
  const header = new Uint8Array(13)
  writeU32(header, 0, width)
  writeU32(header, 4, height)
  header.set([depth, 6, 0, 0, 0], 8)
  return join(SIGNATURE, chunk('IHDR', header), ...rest, chunk('IEND'))
}

/** Frames of one pixel on a large canvas of 16 bits. */
function animatedPng(width: number, height: number, frames: number): Uint8Array {
  const pixel = zlib.deflateSync(new Uint8Array(9))
  let sequence = 0
  const control = (): Uint8Array =>
    chunk('fcTL', join(big32(sequence++), big32(1), big32(1), big32(0), big32(0), [0, 1, 0, 25, 0, 0]))
  const parts = Array.from({ length: frames }, (_, n) => [
    control(),
    n === 0 ? chunk('IDAT', pixel) : chunk('fdAT', join(big32(sequence++), pixel))
  ])
  return png(width, height, 16, chunk('acTL', join(big32(frames), big32(0))), ...parts.flat())
}

/** A directory of `entries` fields of a million values each, all over the same bytes. */
function tiffOfLists(entries: number): Uint8Array {
  const field = [...u16(60000), ...u16(1), ...u32(1 << 20), ...u32(8)]
  return join(
    'II',
    u16(42),
    u32(8 + (1 << 20)),
    new Uint8Array(1 << 20),
    u16(entries),
    ...Array.from({ length: entries }, () => field),
    u32(0)
  )
}

/** One pixel wide, each row a strip, and all strips the same long run of codes. */
function tiffOfOneStrip(height: number): Uint8Array {
  const codes = new Uint8Array(80_000).fill(0x80)
  const lists = 8 + codes.length
  const fields: [number, number, number, number][] = [
    [256, 4, 1, 1],
    [257, 4, 1, height],
    [258, 3, 1, 8],
    [259, 3, 1, 5],
    [262, 3, 1, 1],
    [273, 4, height, lists],
    [277, 3, 1, 1],
    [278, 4, 1, 1],
    [279, 4, height, lists + 4 * height]
  ]
  const each = (value: number): number[] => Array.from({ length: height }, () => u32(value)).flat()
  return join(
    'II',
    u16(42),
    u32(lists + 8 * height),
    codes,
    each(8),
    each(codes.length),
    u16(fields.length),
    ...fields.map(([tag, type, count, value]) => [...u16(tag), ...u16(type), ...u32(count), ...u32(value)]),
    u32(0)
  )
}

/** A large frame to show, and a picture of one pixel in it. */
function exr(width: number, height: number): Uint8Array {
  const attribute = (name: string, type: string, value: number[]): Uint8Array =>
    join(name, [0], type, [0], u32(value.length), value)
  const box = (w: number, h: number): number[] => [...u32(0), ...u32(0), ...u32(w - 1), ...u32(h - 1)]
  const channel = [...Buffer.from('R'), 0, ...u32(2), 0, 0, 0, 0, ...u32(1), ...u32(1), 0]
  const header = join(
    [0x76, 0x2f, 0x31, 0x01],
    u32(2),
    attribute('channels', 'chlist', channel),
    attribute('compression', 'compression', [0]),
    attribute('dataWindow', 'box2i', box(1, 1)),
    attribute('displayWindow', 'box2i', box(width, height)),
    [0]
  )
  return join(header, u32(header.length + 8), u32(0), u32(0), u32(4), u32(0))
}

interface Entry {
  name: string
  size: number
  packed: number
  offset: number
}

/** An archive of one packed run of bytes, and a directory that says what it likes about it. */
function zip(packed: Uint8Array, entries: readonly Entry[]): Uint8Array {
  const local = (e: Entry): Uint8Array =>
    join(
      'PK',
      [3, 4],
      u16(20),
      u16(0),
      u16(8),
      u32(0),
      u32(0),
      u32(e.packed),
      u32(e.size),
      u16(e.name.length),
      u16(0),
      e.name
    )
  const body = join(local(entries[0]!), packed)
  const directory = join(
    ...entries.map(e =>
      join(
        'PK',
        [1, 2],
        u16(20),
        u16(20),
        u16(0),
        u16(8),
        u32(0),
        u32(0),
        u32(e.packed),
        u32(e.size),
        u16(e.name.length),
        u16(0),
        u16(0),
        u16(0),
        u16(0),
        u32(0),
        u32(e.offset),
        e.name
      )
    )
  )
  return join(
    body,
    directory,
    'PK',
    [5, 6],
    u16(0),
    u16(0),
    u16(entries.length),
    u16(entries.length),
    u32(directory.length),
    u32(body.length),
    u16(0)
  )
}

/** Boxes within boxes. */
function avif(depth: number): Uint8Array {
  const boxes = new Uint8Array(8 * depth)
  for (let n = 0; n < depth; n++) boxes.set(join(big32(8 * (depth - n)), 'iprp'), 8 * n)
  return join(big32(24), 'ftypavif', big32(0), 'avifmif1', boxes)
}

const atom = (type: string, ...parts: (Uint8Array | number[] | string)[]): Uint8Array => {
  const body = join(...parts)
  return join(big32(8 + body.length), type, body)
}

/** A film whose index says that it has two thousand million frames. */
function film(): Uint8Array {
  const description = join(
    big32(86),
    'rle ',
    new Uint8Array(6),
    [0, 1],
    new Uint8Array(16),
    [0x40, 0, 0x20, 0],
    new Uint8Array(14),
    [0, 32],
    new Uint8Array(34),
    [0, 32, 0xff, 0xff]
  )
  const table = (type: string, ...rest: number[][]): Uint8Array => atom(type, [0, 0, 0, 0], ...rest)
  return join(
    atom('ftyp', 'qt  ', big32(0), 'qt  '),
    atom(
      'moov',
      atom(
        'trak',
        atom('tkhd', new Uint8Array(84)),
        atom(
          'mdia',
          atom('mdhd', new Uint8Array(24)),
          atom('hdlr', new Uint8Array(8), 'vide', new Uint8Array(12)),
          atom(
            'minf',
            atom(
              'stbl',
              atom('stsd', [0, 0, 0, 0], big32(1), description),
              table('stts', big32(0x7fffffff)),
              table('stsz', big32(0), big32(0x7fffffff)),
              table('stsc', big32(0x7fffffff)),
              table('stco', big32(0x7fffffff))
            )
          )
        )
      )
    )
  )
}

/** A canvas as large as the container can say. */
function webp(): Uint8Array {
  const part = (type: string, body: Uint8Array): Uint8Array => join(type, u32(body.length), body)
  const canvas = part('VP8X', join([0x12, 0, 0, 0], [0xff, 0x3f, 0], [0xff, 0x3f, 0]))
  const pixel = part('VP8L', join([0x2f], u32(0), [0x88, 0x88, 8]))
  const frame = part('ANMF', join([0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 40, 0, 0, 0], pixel))
  const body = join('WEBP', canvas, part('ANIM', new Uint8Array(6)), frame, frame)
  return join('RIFF', u32(body.length), body)
}

/** Every bomb by the name it is brought in under. */
export const BOMBS: Record<string, () => Uint8Array> = {
  'canvas.gif': () => gif(65535, 2048, 1),
  'canvas-of-many.gif': () => gif(65535, 2048, 30),
  'many-frames.gif': () => gif(4096, 4096, 300),
  'deep.png': () => animatedPng(16384, 8192, 30),
  'animated.png': () => animatedPng(8192, 8192, 30),
  'claims.png': () => png(16384, 8192, 8, chunk('IDAT', zlib.deflateSync(new Uint8Array(100)))),
  'empty-chunks.png': () => {
    const empty = Buffer.from(chunk('tEXt'))
    return png(8, 8, 8, new Uint8Array(Buffer.concat(Array.from({ length: 300_000 }, () => empty))))
  },
  'lists.tif': () => tiffOfLists(65535),
  'one-strip.tif': () => tiffOfOneStrip(20000),
  'display.exr': () => exr(16384, 8192),
  'wide.exr': () => exr(8192, 4000),
  'large.zip': () =>
    zip(new Uint8Array(2 << 20), [{ name: 'a_0001.png', size: 2 ** 31 - 11, packed: 2 << 20, offset: 0 }]),
  'over-each-other.zip': () =>
    zip(
      zlib.deflateRawSync(new Uint8Array(50 << 20)),
      Array.from({ length: 2000 }, (_, n) => ({ name: `a_${n}.png`, size: 50 << 20, packed: 50000, offset: 0 }))
    ),
  'nested.avif': () => avif(400_000),
  'index.mov': film,
  'canvas.webp': webp
}
