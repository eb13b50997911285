/**
 * TIFF and TGA as scanners, renderers and old tools write them, held against other decoders or made by hand from known
 * values.
 */
import { createRequire } from 'node:module'
import { readFile } from 'node:fs/promises'
import sharp from 'sharp'
import TgaLoader from 'tga-js'
import { describe, expect, test } from 'vitest'
import type { Frame } from '../../core/frame/frame'
import { memoryReader } from '../../core/base/files/file'
import { takeIn } from '../../core/run/intake/intake'
import { toHalf } from '../../core/media/pictures/exr/half'
import { readJxlInfo } from '../../core/media/pictures/jxl/header'
import { decodeTiff, readTiffInfo } from '../../core/media/pictures/tiff/read'
import { openSource } from '../../core/open/open'
import { bytesFile, damage, firstDifference, noise, random, survives, testHost } from './support'

const host = await testHost()
const [width, height] = [37, 21]
const eight = noise({ width, height, depth: 8, seed: 6 })
const whole = sharp(Buffer.from(eight.samples.buffer), { raw: { width, height, channels: 4 } })

async function read(name: string, bytes: Uint8Array): Promise<{ frame: Frame; claim: string; findings: string[] }> {
  const { found, findings } = await takeIn([bytesFile(name, bytes)], host)
  if (!found[0]) throw new Error(findings.map(f => f.sentence).join(' '))
  const source = await openSource({ ...found[0].spec, id: name }, host)
  const frame = await source.frame(0)
  await source.close()
  return { frame, claim: source.facts.claim.mode, findings: source.facts.findings.map(f => f.id) }
}

interface Plain {
  little?: boolean
  bits: number
  format: number
  channels: number
  photometric?: number
  extras?: readonly number[]
  data: Uint8Array
  rowsPerStrip?: number
}

/** An uncompressed TIFF of one strip, or of the strips that `data` holds one behind the other. */
function tiff({
  little = true,
  bits,
  format,
  channels,
  photometric = 2,
  extras,
  data,
  rowsPerStrip
}: Plain): Uint8Array {
  const entries: [number, number, number[]][] = [
    [256, 3, [width]],
    [257, 3, [height]],
    [258, 3, Array<number>(channels).fill(bits)],
    [259, 3, [1]],
    [262, 3, [photometric]],
    [273, 4, [8]],
    [277, 3, [channels]],
    [278, 3, [rowsPerStrip ?? height]],
    [279, 4, [data.length]],
    ...(extras ? ([[338, 3, [...extras]]] as [number, number, number[]][]) : []),
    [339, 3, Array<number>(channels).fill(format)]
  ]
  const at = 8 + data.length + (data.length & 1)
  const out = new DataView(new ArrayBuffer(at + 2 + 12 * entries.length + 4 + 16 * entries.length))
  new Uint8Array(out.buffer).set(little ? [0x49, 0x49, 42, 0] : [0x4d, 0x4d, 0, 42])
  out.setUint32(4, at, little)
  new Uint8Array(out.buffer).set(data, 8)
  out.setUint16(at, entries.length, little)
  let far = at + 2 + 12 * entries.length + 4
  entries.forEach(([tag, type, values], i) => {
    const here = at + 2 + 12 * i
    out.setUint16(here, tag, little)
    out.setUint16(here + 2, type, little)
    out.setUint32(here + 4, values.length, little)
    const size = type === 3 ? 2 : 4
    let place = here + 8
    if (values.length * size > 4) {
      out.setUint32(here + 8, far, little)
      place = far
      far += values.length * size
    }
    values.forEach((value, n) =>
      type === 3 ? out.setUint16(place + 2 * n, value, little) : out.setUint32(place + 4 * n, value, little)
    )
  })
  return new Uint8Array(out.buffer)
}

describe('TIFF', () => {
  test('the form for large files, read as the one for small files', async () => {
    for (const compression of ['none', 'lzw', 'deflate'] as const) {
      const bytes = new Uint8Array(await whole.clone().tiff({ bigtiff: true, compression }).toBuffer())
      expect([bytes[2], bytes[3]]).toContain(43)
      const { frame } = await read('large.tif', bytes)
      expect(firstDifference(frame.samples, eight.samples)).toBe(null)
    }
  })

  test('one bit a pixel, black and white either way round', async () => {
    const grey = await whole
      .clone()
      .removeAlpha()
      .greyscale()
      .threshold(128)
      .raw()
      .toBuffer({ resolveWithObject: true })
    const bytes = new Uint8Array(
      await sharp(grey.data, { raw: grey.info }).tiff({ bitdepth: 1, compression: 'deflate' }).toBuffer()
    )
    const { frame } = await read('bits.tif', bytes)
    const first = grey.info.channels
    expect([...frame.samples].filter((_, i) => i % 4 === 0)).toEqual([...grey.data].filter((_, i) => i % first === 0))
    const data = new Uint8Array(Math.ceil(width / 8) * height).fill(0b10100000)
    const { frame: turned } = await read('turned.tif', tiff({ bits: 1, format: 1, channels: 1, photometric: 0, data }))
    expect([0, 1, 2, 3].map(x => turned.samples[4 * x])).toEqual([0, 255, 0, 255])
  })

  test.each([true, false])('half and whole numbers of 32 bits, little-endian %s', async little => {
    const next = random(2)
    const values = Float32Array.from({ length: 4 * width * height }, () => 2 * next())
    const halves = new DataView(new ArrayBuffer(2 * values.length))
    values.forEach((value, i) => halves.setUint16(2 * i, toHalf(value), little))
    const shape = { channels: 4, extras: [1], little }
    const { frame, claim } = await read(
      'half.tif',
      tiff({ ...shape, bits: 16, format: 3, data: new Uint8Array(halves.buffer) })
    )
    expect([frame.depth, claim]).toEqual([32, 'premultiplied'])
    values.forEach((value, i) => expect(Math.abs(frame.samples[i]! - value)).toBeLessThan(0.001))
    const words = new DataView(new ArrayBuffer(4 * values.length))
    const integers = [...values].map(value => Math.floor(value * 2 ** 31))
    integers.forEach((value, i) => words.setUint32(4 * i, value, little))
    const deep = await read('deep.tif', tiff({ ...shape, bits: 32, format: 1, data: new Uint8Array(words.buffer) }))
    expect(deep.findings).toContain('wide-integers')
    expect([...deep.frame.samples]).toEqual(integers.map(value => value >>> 16))
  })

  test('of several extra samples the one that is declared as alpha is taken, and others are told', async () => {
    const data = Uint8Array.from({ length: 6 * width * height }, (_, i) => (i % 6 === 4 ? 200 : (i % 6) * 10))
    const found = await read('depth.tif', tiff({ bits: 8, format: 1, channels: 6, extras: [0, 2, 0], data }))
    expect([...found.frame.samples.slice(0, 4)]).toEqual([0, 10, 20, 200])
    expect([found.claim, found.findings.includes('more-channels')]).toEqual(['straight', true])
  })

  test('a last strip that is filled up to the height of the others', async () => {
    // packed by hand: two strips of 16 rows, the second with rows beyond the picture
    const { deflateSync } = await import('node:zlib')
    const bytes = Buffer.from(await whole.clone().tiff({ compression: 'deflate', predictor: 'none' }).toBuffer())
    const info = readTiffInfo(new Uint8Array(bytes), 'x')
    expect(info.offsets).toHaveLength(1)
    const rows = info.rowsPerStrip + 11
    const padded = Buffer.alloc(rows * width * 4)
    padded.set(eight.samples)
    const packed = deflateSync(padded)
    const made = tiff({
      bits: 8,
      format: 1,
      channels: 4,
      extras: [2],
      data: new Uint8Array(packed),
      rowsPerStrip: rows
    })
    const view = new DataView(made.buffer)
    const at = view.getUint32(4, true)
    for (let i = 0; i < view.getUint16(at, true); i++) {
      const here = at + 2 + 12 * i
      if (view.getUint16(here, true) === 259) view.setUint16(here + 8, 8, true)
    }
    // one strip, taller than the picture, counts as the last
    const frame = await decodeTiff(host, memoryReader('padded.tif', made))
    expect([frame.width, frame.height]).toEqual([width, height])
    expect(firstDifference(frame.samples, eight.samples)).toBe(null)
  })

  test('inks are refused in words', async () => {
    const bytes = new Uint8Array(await whole.clone().removeAlpha().toColourspace('cmyk').tiff().toBuffer())
    await expect(read('print.tif', bytes)).rejects.toThrow('inks for print (CMYK); ask for RGB')
  })

  test('damaged files of the new kinds end in one clear error or a picture', async () => {
    const large = new Uint8Array(await whole.clone().tiff({ bigtiff: true, compression: 'lzw' }).toBuffer())
    for (let seed = 0; seed < 250; seed++)
      await survives(() => decodeTiff(host, memoryReader('x', damage(large, seed))))
  })
})

interface Tga {
  type: number
  bits: number
  descriptor?: number
  palette?: { first: number; bits: number; bytes: readonly number[] }
  data: readonly number[]
}

function tga({ type, bits, descriptor = 0x20, palette, data }: Tga): Uint8Array {
  const head = new DataView(new ArrayBuffer(18))
  head.setUint8(2, type)
  if (palette) {
    head.setUint8(1, 1)
    head.setUint16(3, palette.first, true)
    head.setUint16(5, palette.bytes.length / ((palette.bits + 7) >> 3), true)
    head.setUint8(7, palette.bits)
  }
  head.setUint16(12, width, true)
  head.setUint16(14, height, true)
  head.setUint8(16, bits)
  head.setUint8(17, descriptor)
  return Uint8Array.from([...new Uint8Array(head.buffer), ...(palette?.bytes ?? []), ...data])
}

/** What another decoder makes of it. */
function loaded(bytes: Uint8Array): Uint8Array {
  const loader = new TgaLoader()
  loader.load(bytes)
  return new Uint8Array(
    loader.getImageData({ width, height, data: new Uint8ClampedArray(4 * width * height) } as never).data
  )
}

describe('TGA', () => {
  const next = random(8)
  const numbers = Array.from({ length: width * height }, () => 3 + Math.floor(next() * 60))
  const colours = Array.from({ length: 60 }, () => [0, 0, 0, 0].map(() => Math.floor(next() * 256)))

  test('a palette of 24 bits, as another decoder reads it; of 32 bits with its alpha', async () => {
    const three = { first: 0, bits: 24, bytes: colours.flatMap(c => c.slice(0, 3)) }
    const bytes = tga({ type: 1, bits: 8, palette: three, data: numbers.map(n => n - 3) })
    const { frame, claim } = await read('palette.tga', bytes)
    expect(claim).toBe('none')
    expect(firstDifference(frame.samples, loaded(bytes))).toBe(null)
    const four = { first: 3, bits: 32, bytes: colours.flat() }
    const deep = await read('clear.tga', tga({ type: 1, bits: 8, descriptor: 0x28, palette: four, data: numbers }))
    expect([...deep.frame.samples]).toEqual(numbers.flatMap(n => [2, 1, 0, 3].map(c => colours[n - 3]![c]!)))
  })

  test('15 and 16 bits: five for each colour, one for alpha where it is counted', async () => {
    const words = Array.from({ length: width * height }, () => Math.floor(next() * 65536))
    const data = words.flatMap(word => [word & 255, word >> 8])
    const due = (alpha: boolean): number[] =>
      words.flatMap(word => [
        ...[10, 5, 0].map(shift => Math.round((((word >> shift) & 31) * 255) / 31)),
        alpha && !(word & 0x8000) ? 0 : 255
      ])
    for (const [bits, descriptor, alpha] of [
      [15, 0x20, false],
      [16, 0x20, false],
      [16, 0x21, true]
    ] as const)
      expect([...(await read('high.tga', tga({ type: 2, bits, descriptor, data }))).frame.samples]).toEqual(due(alpha))
  })

  test('grey with alpha, and rows that run from right to left', async () => {
    const data = Array.from({ length: 2 * width * height }, () => Math.floor(next() * 256))
    const grey = (await read('grey.tga', tga({ type: 3, bits: 16, descriptor: 0x28, data }))).frame
    expect([...grey.samples]).toEqual(
      Array.from({ length: width * height }, (_, p) => [
        data[2 * p]!,
        data[2 * p]!,
        data[2 * p]!,
        data[2 * p + 1]!
      ]).flat()
    )
    const turned = (await read('turned.tga', tga({ type: 3, bits: 16, descriptor: 0x38, data }))).frame
    expect([...turned.samples.slice(0, 4)]).toEqual([...grey.samples.slice(4 * (width - 1), 4 * width)])
  })

  test('what is cut short is one clear error', async () => {
    const palette = { first: 0, bits: 24, bytes: colours.flatMap(c => c.slice(0, 3)) }
    const bytes = tga({ type: 1, bits: 8, palette, data: numbers.map(n => n - 3) })
    for (const length of [30, 100, bytes.length - 5])
      await expect(read('short.tga', bytes.slice(0, length))).rejects.toThrow(/cut short/)
  })
})

/** A bitmap file of these rows, from the bottom; `header` bytes of header, masks where there are any. */
function bmp(
  bits: number,
  rows: readonly (readonly number[])[],
  how: { header?: number; masks?: number[]; palette?: number[] } = {}
): Uint8Array {
  const { header = 40, masks = [], palette = [] } = how
  const beside = header === 40 ? 4 * masks.length : 0
  const stride = ((width * bits + 31) >> 5) * 4
  const at = 14 + header + beside + palette.length
  const out = new DataView(new ArrayBuffer(at + stride * height))
  const bytes = new Uint8Array(out.buffer)
  bytes.set([0x42, 0x4d])
  out.setUint32(10, at, true)
  out.setUint32(14, header, true)
  out.setInt32(18, width, true)
  out.setInt32(22, height, true)
  out.setUint16(26, 1, true)
  out.setUint16(28, bits, true)
  out.setUint32(30, masks.length ? (header === 40 && masks.length === 4 ? 6 : 3) : 0, true)
  out.setUint32(46, palette.length / 4, true)
  masks.forEach((mask, n) => out.setUint32(54 + 4 * n, mask, true))
  bytes.set(palette, 14 + header + beside)
  rows.forEach((row, y) => bytes.set(row, at + (height - 1 - y) * stride))
  return bytes
}

describe('BMP', () => {
  const pixel = (x: number, y: number): number[] => [
    ...eight.samples.slice(4 * (y * width + x), 4 * (y * width + x) + 4)
  ]
  const rowsOf = (pack: (pixel: number[]) => number[]): number[][] =>
    Array.from({ length: height }, (_, y) => Array.from({ length: width }, (_, x) => pack(pixel(x, y))).flat())

  test('24 bits, 32 with a mask of alpha, and 32 whose fourth byte is left open, with and without meaning', async () => {
    const solid = [...eight.samples].map((code, i) => (i % 4 === 3 ? 255 : code))
    const three = await read(
      'three.bmp',
      bmp(
        24,
        rowsOf(([r, g, b]) => [b!, g!, r!])
      )
    )
    expect([three.claim, firstDifference(three.frame.samples, solid)]).toEqual(['none', null])
    const masks = [0xff, 0xff00, 0xff0000, 0xff000000]
    const said = await read(
      'said.bmp',
      bmp(
        32,
        rowsOf(all => all),
        { header: 108, masks }
      )
    )
    expect([said.claim, firstDifference(said.frame.samples, eight.samples)]).toEqual(['unknown', null])
    const open = await read(
      'open.bmp',
      bmp(
        32,
        rowsOf(([r, g, b, a]) => [b!, g!, r!, a!])
      )
    )
    expect([open.claim, firstDifference(open.frame.samples, eight.samples)]).toEqual(['unknown', null])
    const empty = await read(
      'empty.bmp',
      bmp(
        32,
        rowsOf(([r, g, b]) => [b!, g!, r!, 0])
      )
    )
    expect(firstDifference(empty.frame.samples, solid)).toBe(null)
  })

  test('palettes of 1, 4 and 8 bits, and 16 bits by masks', async () => {
    for (const bits of [1, 4, 8]) {
      const palette = Array.from({ length: 1 << bits }, (_, n) => [n, 255 - n, (n * 7) & 255, 0]).flat()
      const numbers = Array.from({ length: height }, (_, y) =>
        Array.from({ length: width }, (_, x) => (x * 5 + y * 3) & ((1 << bits) - 1))
      )
      const packed = numbers.map(row => {
        const bytes = new Uint8Array(Math.ceil((width * bits) / 8))
        row.forEach((number, x) => (bytes[(x * bits) >> 3]! |= number << (8 - bits - ((x * bits) & 7))))
        return [...bytes]
      })
      const { frame } = await read('palette.bmp', bmp(bits, packed, { palette }))
      expect([...frame.samples]).toEqual(numbers.flat().flatMap(n => [(n * 7) & 255, 255 - n, n, 255]))
    }
    const words = Array.from({ length: height }, (_, y) =>
      Array.from({ length: width }, (_, x) => (x * 911 + y * 7919) & 65535)
    )
    const bytes = words.map(row => row.flatMap(word => [word & 255, word >> 8]))
    const { frame } = await read('high.bmp', bmp(16, bytes, { masks: [0xf800, 0x7e0, 0x1f] }))
    const due = words
      .flat()
      .flatMap(w => [((w >> 11) * 255) / 31, (((w >> 5) & 63) * 255) / 63, ((w & 31) * 255) / 31, 255].map(Math.round))
    expect([...frame.samples]).toEqual(due)
  })

  test('runs are refused in words, what is cut short is one clear error', async () => {
    const whole = bmp(
      24,
      rowsOf(([r, g, b]) => [b!, g!, r!])
    )
    await expect(read('short.bmp', whole.slice(0, -40))).rejects.toThrow('cut short')
    whole[30] = 1
    await expect(read('runs.bmp', whole)).rejects.toThrow('packed as runs of 8 bits')
  })
})

/** QOI by its definition, every kind of piece used where it fits. */
function qoi({ samples }: Frame, channels: 3 | 4): Uint8Array {
  const out: number[] = [...new TextEncoder().encode('qoif'), 0, 0, 0, width, 0, 0, 0, height, channels, 0]
  const seen = Array.from({ length: 64 }, () => '0,0,0,0')
  let before = [0, 0, 0, 255]
  let run = 0
  const end = (): void => {
    if (run) out.push(0xc0 | (run - 1))
    run = 0
  }
  for (let i = 0; i < samples.length; i += 4) {
    const now = [samples[i]!, samples[i + 1]!, samples[i + 2]!, channels === 4 ? samples[i + 3]! : 255]
    const at = (now[0]! * 3 + now[1]! * 5 + now[2]! * 7 + now[3]! * 11) & 63
    if (now.join() === before.join()) {
      if (++run === 62) end()
    } else {
      end()
      const [dr, dg, db] = [0, 1, 2].map(c => ((now[c]! - before[c]! + 384) & 255) - 128) as [number, number, number]
      const small = (value: number, least: number, most: number): boolean => value >= least && value <= most
      if (seen[at] === now.join()) out.push(at)
      else if (now[3] !== before[3]) out.push(0xff, ...now)
      else if ([dr, dg, db].every(step => small(step, -2, 1)))
        out.push(0x40 | ((dr + 2) << 4) | ((dg + 2) << 2) | (db + 2))
      else if (small(dg, -32, 31) && small(dr - dg, -8, 7) && small(db - dg, -8, 7))
        out.push(0x80 | (dg + 32), ((dr - dg + 8) << 4) | (db - dg + 8))
      else out.push(0xfe, ...now.slice(0, 3))
    }
    seen[at] = now.join()
    before = now
  }
  end()
  return Uint8Array.from([...out, 0, 0, 0, 0, 0, 0, 0, 1])
}

describe('QOI', () => {
  test('every kind of piece is read, with alpha and without; what is cut short is one clear error', async () => {
    const next = random(5)
    const slow = { ...eight, samples: eight.samples.slice() }
    // slow changes, so that differences of both sizes occur
    for (let i = 4; i < slow.samples.length; i++)
      if (i % 4 !== 3 && next() < 0.6) slow.samples[i] = (slow.samples[i - 4]! + Math.floor(next() * 24) - 12) & 255
    for (const frame of [eight, slow]) {
      const whole = qoi(frame, 4)
      const found = await read('a.qoi', whole)
      expect([found.claim, firstDifference(found.frame.samples, frame.samples)]).toEqual(['straight', null])
      const plain = await read('b.qoi', qoi(frame, 3))
      const solid = [...frame.samples].map((code, i) => (i % 4 === 3 ? 255 : code))
      expect([plain.claim, firstDifference(plain.frame.samples, solid)]).toEqual(['none', null])
      await expect(read('c.qoi', whole.slice(0, 60))).rejects.toThrow(/cut short|cannot hold/)
    }
  })
})

describe('JPEG XL', () => {
  /** Written by the format's own library. */
  async function jxl(lossless: boolean, samples = eight.samples as Uint8Array): Promise<Uint8Array> {
    const { default: encode, init } = await import('@jsquash/jxl/encode.js')
    const place = createRequire(import.meta.url).resolve('@jsquash/jxl/codec/enc/jxl_enc.wasm')
    await init(await WebAssembly.compile(await readFile(place)))
    const image = { data: new Uint8ClampedArray(samples), width, height } as unknown as ImageData
    return new Uint8Array(await encode(image, { lossless, quality: 80 }))
  }

  test('lossless pictures are read code for code, with their alpha', async () => {
    const { frame, claim } = await read('leaf.jxl', await jxl(true))
    expect([frame.width, frame.height, frame.depth, claim]).toEqual([width, height, 8, 'straight'])
    // colour under clear pixels is the coder's to drop
    const wanted = (eight.samples as Uint8Array).slice()
    for (let i = 0; i < wanted.length; i += 4) if (wanted[i + 3] === 0) wanted.set(frame.samples.subarray(i, i + 3), i)
    expect(firstDifference(frame.samples, wanted)).toBeNull()
  })

  test('lossy pictures keep their size and their alpha', async () => {
    const { frame } = await read('leaf.jxl', await jxl(false))
    expect([frame.width, frame.height]).toEqual([width, height])
    let most = 0
    for (let i = 3; i < frame.samples.length; i += 4)
      most = Math.max(most, Math.abs(frame.samples[i]! - eight.samples[i]!))
    expect(most).toBeLessThan(8)
  })

  test('damaged files end in one clear error', async () => {
    const bytes = await jxl(true)
    for (let n = 0; n < 60; n++) await survives(() => read('leaf.jxl', damage(bytes, n)))
  })

  describe('a head written here, bit by bit from the standard', () => {
    type Bit = readonly [value: number, count: number]
    const U32 = (choice: number, value = 0, count = 0): Bit[] => [
      [choice, 2],
      ...(count ? [[value, count] as const] : [])
    ]
    const DEEP: Bit[] = [[0, 1], ...U32(0)]
    /** An extra channel of a kind, without a name. */
    const channel = (kind: Bit[], more: Bit[] = []): Bit[] => [[0, 1], ...kind, ...DEEP, ...U32(0), ...U32(0), ...more]
    const head = (channels: Bit[][], colour: Bit[] = [[1, 1]]): Uint8Array => {
      const bits: Bit[] = [
        [0, 1],
        ...U32(1, 719, 13),
        [5, 3],
        [0, 1],
        [0, 1],
        [0, 1],
        ...U32(3, 15, 6),
        [1, 1],
        ...(channels.length < 2 ? U32(channels.length) : U32(2, channels.length - 2, 4)),
        ...channels.flat(),
        [0, 1],
        ...colour
      ]
      const bytes = new Uint8Array(64)
      bytes.set([0xff, 0x0a])
      let at = 16
      for (const [value, count] of bits)
        for (let n = 0; n < count; n++, at++) if (Math.floor(value / 2 ** n) & 1) bytes[at >> 3]! |= 1 << (at & 7)
      return bytes
    }

    test.each([
      ['no channel more', [], 'none'],
      ['alpha', [channel(U32(0), [[0, 1]])], 'straight'],
      ['alpha by default', [[[1, 1]]], 'straight'],
      ['associated alpha', [channel(U32(0), [[1, 1]])], 'premultiplied'],
      ['alpha behind depth', [channel(U32(1)), channel(U32(0), [[0, 1]])], 'straight'],
      [
        'alpha behind a spot colour',
        [channel(U32(2, 0, 4), [[0xffff, 64]]), channel(U32(0), [[1, 1]])],
        'premultiplied'
      ],
      ['depth alone', [channel(U32(1))], 'none']
    ] as [string, Bit[][], string][])('%s', (_, channels, alpha) => {
      expect(readJxlInfo(head(channels), 'leaf.jxl')).toMatchObject({
        width: 1280,
        height: 720,
        bits: 16,
        alpha,
        colour: null
      })
    })

    const number = (value: number): Bit[] =>
      value < 2 ? U32(value) : value < 18 ? U32(2, value - 2, 4) : U32(3, value - 18, 6)
    const named = (primaries: number, curve: number): Bit[] => [
      [0, 1],
      [0, 1],
      ...number(0),
      ...number(1),
      ...number(primaries),
      [0, 1],
      ...number(curve)
    ]
    test.each([
      ['sRGB', named(1, 13), null],
      ['Display P3', named(11, 13), [12, 13]],
      ['BT.2020 with PQ', named(9, 16), [9, 16]],
      ['BT.2020 with HLG', named(9, 18), [9, 18]],
      ['linear', named(1, 8), [1, 8]],
      ['a gamma of 2.2', [[0, 1], [0, 1], ...number(0), ...number(1), ...number(1), [1, 1], [4545455, 24]], [1, 4]],
      ['another white', [[0, 1], [0, 1], ...number(0), ...number(10), ...number(1), [0, 1], ...number(13)], 'other'],
      [
        'a profile',
        [
          [0, 1],
          [1, 1]
        ],
        'other'
      ]
    ] as [string, Bit[], unknown][])('of %s', (_, colour, due) => {
      expect(readJxlInfo(head([[[1, 1]]], colour), 'leaf.jxl')).toMatchObject({ alpha: 'straight', colour: due })
    })
  })
})
