/**
 * Films as cameras, editors and other tools leave them: layouts without a codec, ProRes of 4:2:2 and of fields, other
 * brands and boxes.
 */
import sharp from 'sharp'
import { describe, expect, test } from 'vitest'
import { avi } from '../../core/media/containers/avi'
import { matroska } from '../../core/media/containers/matroska'
import { quicktime } from '../../core/media/containers/quicktime'
import type { CodecEntry, Container, MuxPlan } from '../../core/media/containers/container'
import { parseFrame, wrapFrame } from '../../core/media/codecs/prores/frame'
import { LAYOUT_CODES } from '../../core/media/codecs/uncompressed/layouts'
import { concatenate } from '../../core/base/files/bytes'
import { memorySink } from '../../core/base/files/sinks'
import { OPAQUE, STRAIGHT, type AlphaMode, type Frame } from '../../core/frame/frame'
import { slicesOf } from '../../core/frame/kernels/prores-slices'
import { takeIn } from '../../core/run/intake/intake'
import { openSource } from '../../core/open/open'
import { bytesFile, firstDifference, noise, random, testHost, writeFilm } from './support'

const host = await testHost()

interface Made {
  container: Container
  entry: CodecEntry
  width: number
  height: number
  alpha?: AlphaMode
}

/** A film of packets that the test made. */
async function filmOf(packets: readonly Uint8Array[], made: Made): Promise<Uint8Array<ArrayBuffer>> {
  const { container, entry, width, height, alpha = STRAIGHT } = made
  const sink = memorySink()
  const plan: MuxPlan = {
    entry,
    width,
    height,
    frames: packets.length,
    rate: [25, 1],
    alpha,
    pixelAspect: [1, 1],
    fields: 'progressive',
    options: {},
    isKey: () => true,
    sounds: []
  }
  const muxer = await container.mux(sink, plan, [])
  for (const packet of packets) await muxer.add(packet)
  await muxer.finish()
  return sink.bytes()
}

async function read(name: string, bytes: Uint8Array): Promise<{ format: string; kind: string; frames: Frame[] }> {
  const { found, findings } = await takeIn([bytesFile(name, bytes)], host)
  if (!found[0]) throw new Error(findings.map(f => f.sentence).join(' '))
  const source = await openSource({ ...found[0].spec, id: name }, host)
  const frames: Frame[] = []
  for (let i = 0; i < source.facts.frames; i++) frames.push(await source.frame(i))
  await source.close()
  return { format: source.facts.format, kind: source.facts.kind, frames }
}

/** RGBA of 16 bits that limited-range samples of 0 to 1 stand for, by BT.709, which the muxer writes as tags. */
function rgba([y, cb, cr]: readonly number[], alpha: number): number[] {
  const luma = (y! * 255 - 16) / 219
  const [u, v] = [(cb! * 255 - 128) / 224, (cr! * 255 - 128) / 224]
  const [r, b] = [luma + 1.5748 * v, luma + 1.8556 * u]
  const g = (luma - 0.2126 * r - 0.0722 * b) / 0.7152
  return [...[r, g, b].map(value => Math.max(0, Math.min(65535, value * 65535))), alpha * 65535]
}

describe('layouts of uncompressed QuickTime', () => {
  const [width, height] = [51, 5]
  /** How a pixel of codes is laid: bytes of each sample in order, with the channel it takes. */
  const rgbLayouts: Record<string, (codes: readonly number[]) => number[]> = {
    RGBA: ([r, g, b, a]) => [r!, g!, b!, a!],
    BGRA: ([r, g, b, a]) => [b!, g!, r!, a!],
    ABGR: ([r, g, b, a]) => [a!, b!, g!, r!]
  }

  test.each(Object.keys(rgbLayouts))('%s comes back code for code', async code => {
    const frame = noise({ width, height, depth: 8, seed: 5 })
    const packet = Uint8Array.from(
      Array.from({ length: width * height }, (_, p) =>
        rgbLayouts[code]!([...frame.samples.slice(4 * p, 4 * p + 4)])
      ).flat()
    )
    const film = await filmOf([packet], { container: quicktime, entry: { code, name: code, depth: 32 }, width, height })
    const { format, frames } = await read('plate.mov', film)
    expect(format).toBe('quicktime-raw')
    expect(firstDifference(frames[0]!.samples, frame.samples)).toBe(null)
  })

  test('b48r comes back code for code, r210 to its ten bits, rows padded to 64 pixels', async () => {
    const next = random(3)
    const codes = Array.from({ length: 3 * width * height }, () => Math.floor(next() * 65536))
    const plan = { container: quicktime, width, height, alpha: { mode: 'none' } as const }
    const wide = await filmOf([Uint8Array.from(codes.flatMap(code => [code >> 8, code & 255]))], {
      ...plan,
      entry: { code: 'b48r', name: 'RGB 16', depth: 48 }
    })
    const found = (await read('deep.mov', wide)).frames[0]!
    expect([...found.samples].filter((_, i) => i % 4 !== 3)).toEqual(codes)
    const packed = new DataView(new ArrayBuffer(256 * height))
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const [r, g, b] = [0, 1, 2].map(c => codes[3 * (y * width + x) + c]! >> 6) as [number, number, number]
        packed.setUint32(256 * y + 4 * x, ((r << 20) | (g << 10) | b) >>> 0)
      }
    const tens = await filmOf([new Uint8Array(packed.buffer)], {
      ...plan,
      entry: { code: 'r210', name: 'RGB 10', depth: 30 }
    })
    const read10 = [...(await read('ten.mov', tens)).frames[0]!.samples].filter((_, i) => i % 4 !== 3)
    expect(read10).toEqual(codes.map(code => Math.round(((code >> 6) * 65535) / 1023)))
  })

  /** Samples of a pixel, 0 to 1, in range: what every layout below is packed from. */
  const samples = (() => {
    const next = random(9)
    return Array.from({ length: width * height }, () => [
      (16 + Math.floor(next() * 219)) / 255,
      (40 + Math.floor(next() * 170)) / 255,
      (40 + Math.floor(next() * 170)) / 255,
      Math.floor(next() * 256) / 255
    ])
  })()
  const eight = (value: number): number => Math.round(value * 255)
  const at = (x: number, y: number): number[] => samples[y * width + Math.min(x, width - 1)]!

  const full: Record<string, { bits: number; pack(pixel: readonly number[]): number[]; alpha: boolean }> = {
    v408: { bits: 8, alpha: true, pack: ([y, cb, cr, a]) => [cb!, y!, cr!, a!].map(eight) },
    AYUV: { bits: 8, alpha: true, pack: ([y, cb, cr, a]) => [cr!, cb!, y!, a!].map(eight) },
    v308: { bits: 8, alpha: false, pack: ([y, cb, cr]) => [cr!, y!, cb!].map(eight) },
    v410: {
      bits: 10,
      alpha: false,
      pack([y, cb, cr]) {
        const word = ((4 * eight(cr!)) << 22) | ((4 * eight(y!)) << 12) | ((4 * eight(cb!)) << 2)
        return [word & 255, (word >>> 8) & 255, (word >>> 16) & 255, word >>> 24]
      }
    }
  }
  test.each(Object.keys(full))('%s: colour of every pixel, alpha code for code', async code => {
    const { pack, alpha } = full[code]!
    const film = await filmOf([Uint8Array.from(samples.flatMap(pack))], {
      container: quicktime,
      entry: { code, name: code, depth: alpha ? 32 : 24 },
      width,
      height,
      alpha: alpha ? STRAIGHT : { mode: 'none' }
    })
    const [frame] = (await read('ycc.mov', film)).frames
    expect(frame!.alpha.mode).toBe(alpha ? 'straight' : 'none')
    samples.forEach((pixel, p) => {
      const due = rgba(pixel, alpha ? pixel[3]! : 1)
      for (let c = 0; c < 4; c++) expect(Math.abs(frame!.samples[4 * p + c]! - due[c]!)).toBeLessThan(2)
    })
  })

  /** Rows of half the colour: Cb Y Cr Y for each pair, as words of so many bytes. */
  const halves: Record<string, (y: number) => number[]> = {
    '2vuy': y =>
      Array.from({ length: Math.ceil(width / 2) }, (_, k) =>
        [at(2 * k, y)[1]!, at(2 * k, y)[0]!, at(2 * k, y)[2]!, at(2 * k + 1, y)[0]!].map(eight)
      ).flat(),
    v216: y =>
      Array.from({ length: Math.ceil(width / 2) }, (_, k) =>
        [at(2 * k, y)[1]!, at(2 * k, y)[0]!, at(2 * k, y)[2]!, at(2 * k + 1, y)[0]!].flatMap(v => [0, eight(v)])
      ).flat(),
    v210(y) {
      const row = new DataView(new ArrayBuffer(Math.ceil(width / 48) * 128))
      const run = Array.from({ length: 2 * 3 * Math.ceil(width / 6) }, (_, k) => [
        at(2 * (k >> 1), y)[k & 1 ? 2 : 1]!,
        at(k, y)[0]!
      ]).flat()
      for (let n = 0; n + 2 < run.length; n += 3) {
        const [a, b, c] = [0, 1, 2].map(i => 4 * eight(run[n + i]!)) as [number, number, number]
        row.setUint32((n / 3) * 4, ((c << 20) | (b << 10) | a) >>> 0, true)
      }
      return [...new Uint8Array(row.buffer)]
    }
  }
  test.each(Object.keys(halves))('%s: colour on even columns as it is, between them its mean', async code => {
    const packet = Uint8Array.from(Array.from({ length: height }, (_, y) => halves[code]!(y)).flat())
    const plan = { container: quicktime, width, height, alpha: { mode: 'none' } as const }
    const film = await filmOf([packet], { ...plan, entry: { code, name: code, depth: 24 } })
    const [frame] = (await read('half.mov', film)).frames
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const left = at(x & ~1, y)
        const right = (x & ~1) + 2 < width ? at((x & ~1) + 2, y) : left
        const chroma = [1, 2].map(n => (x & 1 ? (left[n]! + right[n]!) / 2 : left[n]!))
        const due = rgba([at(x, y)[0]!, ...chroma], 1)
        for (let c = 0; c < 4; c++)
          expect(Math.abs(frame!.samples[4 * (y * width + x) + c]! - due[c]!)).toBeLessThan(40)
      }
  })

  test('a frame that is cut short is one clear error, in every layout', async () => {
    for (const code of LAYOUT_CODES) {
      const film = await filmOf([new Uint8Array(40)], {
        container: quicktime,
        entry: { code, name: code, depth: 32 },
        width,
        height
      })
      await expect(read('short.mov', film)).rejects.toThrow(/it holds 40 bytes where a frame of 51x5 takes \d+/)
    }
  })
})

/** Bits of a ProRes picture, for frames whose blocks are flat. */
class Bits {
  readonly bytes: number[] = []
  private count = 0

  put(value: number, length: number): void {
    for (let i = length - 1; i >= 0; i--) {
      if (this.count % 8 === 0) this.bytes.push(0)
      this.bytes[this.bytes.length - 1]! |= ((value >>> i) & 1) << (7 - (this.count++ % 8))
    }
  }

  /** A word of a codebook (RDD 36, 7.1.1.1). */
  word(book: number, value: number): void {
    const [switched, rice, exp] = [(book & 3) + 1, book >> 5, (book >> 2) & 7]
    if (value >= switched << rice) {
      const v = value - (switched << rice) + (1 << exp)
      const n = 31 - Math.clz32(v)
      this.put(0, n - exp + switched)
      this.put(v, n + 1)
    } else {
      this.put(0, value >> rice)
      this.put(1, 1)
      this.put(value & ((1 << rice) - 1), rice)
    }
  }
}

/** A component of a slice whose blocks are all of one DC coefficient. */
function flatComponent(dc: number, blocks: number): number[] {
  const bits = new Bits()
  bits.word(0xb8, (dc << 1) ^ (dc >> 31))
  let code = 5
  for (let b = 1; b < blocks; b++) {
    bits.word([0x04, 0x28, 0x28, 0x4d, 0x4d, 0x70, 0x70][Math.min(code, 6)]!, 0)
    code = 0
  }
  return bits.bytes
}

/**
 * A picture of 4:2:2 whose slices, of `1 << log2` macroblocks at most, are flat: `colour` gives 8-bit Y, Cb and Cr of
 * each.
 */
function flatPicture(
  { width, height, log2 }: { width: number; height: number; log2: number },
  colour: (slice: number) => readonly [number, number, number]
): Uint8Array {
  const slices = slicesOf(width, height, log2).map(({ mbs }, n) => {
    const parts = colour(n).map((code, c) =>
      // at quantiser 1 and weights 4, a step of DC is a sixteenth of a step of 8 bits: 8 for the transform, 4 for
      // depth, half for the weight
      flatComponent(Math.round((4 * code - 512) * 8 * 0.25), mbs * (c === 0 ? 4 : 2))
    )
    const sizes = parts.slice(0, 2).flatMap(part => [part.length >> 8, part.length & 255])
    return [6 << 3, 4, ...sizes, ...parts.flat()]
  })
  const head = new DataView(new ArrayBuffer(8 + 2 * slices.length))
  const size = slices.reduce((sum, slice) => sum + slice.length, head.byteLength)
  head.setUint8(0, 8 << 3)
  head.setUint32(1, size)
  head.setUint16(5, slices.length)
  head.setUint8(7, log2 << 4)
  slices.forEach((slice, n) => head.setUint16(8 + 2 * n, slice.length))
  return concatenate([new Uint8Array(head.buffer), Uint8Array.from(slices.flat())])
}

/** A frame of one picture, or of two fields, behind the head of `like`. */
function framed(
  like: Uint8Array,
  pictures: readonly Uint8Array[],
  flags: { chroma: number; fields: number }
): Uint8Array {
  const { pictureAt } = parseFrame(like, 'like', 'frame 1')
  const frame = concatenate([like.slice(0, pictureAt), ...pictures])
  new DataView(frame.buffer).setUint32(0, frame.length)
  frame[20] = (flags.chroma << 6) | (flags.fields << 2)
  return frame
}

const emptyFrame = (width: number, height: number, alphaBits: 0 | 16): Uint8Array =>
  wrapFrame({ width, height, rate: [25, 1], alphaBits, fields: 'progressive' }, [
    { data: new Uint8Array(0), sizes: new Uint16Array(0) }
  ])

describe('ProRes as plates come', () => {
  const [width, height] = [150, 40]

  test.each([
    ['apcn', 3],
    ['apch', 2],
    ['apcs', 1],
    ['apco', 0]
  ] as const)('%s, slices of at most 2 to the %i macroblocks: colour of every slice', async (code, log2) => {
    const slices = slicesOf(width, height, log2)
    const colours = slices.map((_, n) => [60 + ((n * 37) % 150), 90 + ((n * 11) % 80), 100 + ((n * 23) % 70)] as const)
    const frame = framed(emptyFrame(width, height, 0), [flatPicture({ width, height, log2 }, n => colours[n]!)], {
      chroma: 2,
      fields: 0
    })
    const alpha = { mode: 'none' } as const
    const film = await filmOf([frame], {
      container: quicktime,
      entry: { code, name: code, depth: 24 },
      width,
      height,
      alpha
    })
    const { format, kind, frames } = await read('plate.mov', film)
    expect(format).toBe('quicktime-prores-422')
    expect(kind).toMatch(/ProRes 422.*no alpha plane/)
    // the frame says BT.709
    let worst = 0
    slices.forEach(({ x, y, mbs }, n) => {
      const [luma, cb, cr] = colours[n]!
      const [l, u, v] = [(luma - 16) / 219, (cb - 128) / 224, (cr - 128) / 224]
      const [r, b] = [l + 1.5748 * v, l + 1.8556 * u]
      const due = [r, (l - 0.2126 * r - 0.0722 * b) / 0.7152, b].map(value =>
        Math.max(0, Math.min(65535, value * 65535))
      )
      const to = 4 * (Math.min(height - 1, y + 8) * width + Math.min(width - 3, x + 8 * mbs))
      for (let c = 0; c < 3; c++) worst = Math.max(worst, Math.abs(frames[0]!.samples[to + c]! - due[c]!))
    })
    // a code of 16 bits, of which a step of 8 bits has 257
    expect(worst).toBeLessThan(1)
  })

  test.each([
    ['top-first', 1],
    ['bottom-first', 2]
  ] as const)('4444 of fields, %s: alpha of both fields lies on its lines, exactly', async (order, flag) => {
    const whole = noise({ width: 97, height: 43, depth: 16, seed: 4, runs: 0.8 })
    const lines = (top: number): Frame => {
      const count = (whole.height - top + 1) >> 1
      const samples = new Uint16Array(4 * whole.width * count)
      for (let y = 0; y < count; y++)
        samples.set(
          whole.samples.subarray(4 * whole.width * (2 * y + top), 4 * whole.width * (2 * y + top + 1)),
          4 * whole.width * y
        )
      return { ...whole, height: count, samples }
    }
    const coded = (frame: Frame): Uint8Array => {
      const slices = host.kernels.prores(
        frame.samples as Uint16Array,
        frame.width,
        frame.height,
        { alphaBits: 16, fill: false, kr: 0.2126, kb: 0.0722 },
        count => new Uint8Array(count).fill(2)
      )
      const { width, height } = frame
      const one = wrapFrame({ width, height, rate: [25, 1], alphaBits: 16, fields: 'progressive' }, [slices])
      return one.slice(parseFrame(one, 'field', 'frame 1').pictureAt)
    }
    const fields = order === 'top-first' ? [lines(0), lines(1)] : [lines(1), lines(0)]
    const frame = framed(emptyFrame(97, 43, 16), fields.map(coded), { chroma: 3, fields: flag })
    const film = await filmOf([frame], {
      container: quicktime,
      entry: { code: 'ap4h', name: 'ProRes 4444', depth: 32 },
      width: 97,
      height: 43
    })
    const [found] = (await read('fields.mov', film)).frames
    const alphaOf = ({ samples }: Frame): number[] => [...samples].filter((_, i) => i % 4 === 3)
    expect(firstDifference(alphaOf(found!), alphaOf(whole))).toBe(null)
  })
})

describe('the same codecs in other boxes', () => {
  const frames = [1, 2].map(seed => noise({ width: 40, height: 24, depth: 16, seed }))

  test('a film of another brand is read as what it is', async () => {
    for (const id of ['quicktime-prores-4444', 'quicktime-png', 'quicktime-animation'] as const) {
      const given =
        id === 'quicktime-animation' ? [1, 2].map(seed => noise({ width: 40, height: 24, depth: 8, seed })) : frames
      const film = await writeFilm(id, given)
      const own = await read('own.mov', film)
      film.set(new TextEncoder().encode('mp42'), 8)
      const other = await read('other.mp4', film)
      expect(other.format).toBe(id)
      expect(other.frames).toEqual(own.frames)
    }
  })

  test('ProRes in Matroska, which leaves the head of each frame out', async () => {
    const film = await writeFilm('quicktime-prores-4444', frames)
    const own = await read('own.mov', film)
    const { picture } = await quicktime.demux(await host.openFile(bytesFile('own.mov', film)))
    const packets = picture.packets.map(({ offset, size }) => film.slice(offset + 8, offset + size))
    const boxed = await filmOf(packets, {
      container: matroska,
      entry: { code: 'V_PRORES', name: '', depth: 32, config: new TextEncoder().encode('ap4h') },
      width: 40,
      height: 24
    })
    const other = await read('own.mkv', boxed)
    expect([other.format, other.kind]).toEqual(['matroska-prores-4444', 'Matroska ProRes 4444, 16 bit alpha'])
    expect(other.frames).toEqual(own.frames)
  })

  test('PNG and Animation in Matroska, with the description of QuickTime', async () => {
    const shallow = [1, 2].map(seed => noise({ width: 40, height: 24, depth: 8, seed }))
    for (const [id, code, letters] of [
      ['quicktime-png', 'matroska-png', 'png '],
      ['quicktime-animation', 'matroska-animation', 'rle ']
    ] as const) {
      const film = await writeFilm(id, shallow)
      const { picture } = await quicktime.demux(await host.openFile(bytesFile('own.mov', film)))
      const config = new Uint8Array(86)
      config.set(new TextEncoder().encode(letters), 4)
      new DataView(config.buffer).setUint16(82, 32)
      const boxed = await filmOf(
        picture.packets.map(({ offset, size }) => film.slice(offset, offset + size)),
        { container: matroska, entry: { code: 'V_QUICKTIME', name: '', depth: 32, config }, width: 40, height: 24 }
      )
      const found = await read('own.mkv', boxed)
      expect(found.format).toBe(code)
      found.frames.forEach((frame, i) => expect(firstDifference(frame.samples, shallow[i]!.samples)).toBe(null))
    }
  })
})

describe('films of JPEG pictures', () => {
  test.each([
    ['quicktime', quicktime, 'jpeg'],
    ['avi', avi, 'MJPG'],
    ['matroska', matroska, 'V_MJPEG']
  ] as const)(
    'in %s are read as plates without alpha, as the pictures by themselves are',
    async (id, container, code) => {
      const [width, height] = [48, 32]
      const packets: Uint8Array[] = []
      const wanted: Uint8Array[] = []
      for (let n = 0; n < 3; n++) {
        const { samples } = noise({ width, height, depth: 8, seed: n, runs: 0.9 })
        const file = await sharp(Buffer.from(samples.buffer), { raw: { width, height, channels: 4 } })
          .removeAlpha()
          .jpeg({ quality: 90 })
          .toBuffer()
        packets.push(new Uint8Array(file))
        wanted.push(new Uint8Array(await sharp(file).ensureAlpha().raw().toBuffer()))
      }
      const entry = { code, name: 'Photo - JPEG', depth: 24 } as const
      const film = await filmOf(packets, { container, entry, width, height, alpha: OPAQUE })
      const { format, kind, frames } = await read('a camera.film', film)
      expect([format, kind.includes('Motion JPEG'), frames.length]).toEqual([`${id}-mjpeg`, true, 3])
      frames.forEach((frame, n) => expect(firstDifference(frame.samples, wanted[n]!)).toBeNull())
      expect(frames[0]!.alpha.mode).toBe('none')
    }
  )
})
