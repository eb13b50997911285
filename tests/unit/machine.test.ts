/** Formats that the machine decodes and Pour only reads: JPEG, AVIF, films without alpha. */
import fc from 'fast-check'
import {
  BufferTarget,
  EncodedPacket,
  EncodedVideoPacketSource,
  MkvOutputFormat,
  MovOutputFormat,
  Mp4OutputFormat,
  Output
} from 'mediabunny'
import sharp from 'sharp'
import { expect, test } from 'vitest'
import { memoryReader } from '../../core/base/files/file'
import type { FormatId } from '../../core/open/rows'
import { formatById, recognise } from '../../core/open/registry'
import { takeIn } from '../../core/run/intake/intake'
import { bytesFile, damage, noise, survives, testHost } from './support'

const host = await testHost()

/** Soft content, which a lossy codec holds well. */
function soft(width: number, height: number): Buffer {
  const rgba = Buffer.alloc(width * height * 4)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      rgba.set(
        [Math.round((255 * x) / width), Math.round((255 * y) / height), 90, Math.round((255 * x) / (width - 1))],
        4 * (y * width + x)
      )
  return rgba
}

const picture = (width: number, height: number): ReturnType<typeof sharp> =>
  sharp(soft(width, height), { raw: { width, height, channels: 4 } })

async function opened(id: FormatId, bytes: Uint8Array) {
  const source = await formatById(id).open('still', [bytesFile('still', bytes)], host)
  return { facts: source.facts, frame: await source.frame(0) }
}

test('JPEG pictures come in as solid colour, whatever way they are coded', async () => {
  for (const options of [{ progressive: false }, { progressive: true }, { chromaSubsampling: '4:4:4' }]) {
    const bytes = await picture(61, 35)
      .flatten({ background: '#000' })
      .jpeg({ quality: 95, ...options })
      .toBuffer()
    const known = await recognise(memoryReader('a.bin', bytes))
    expect(known).toMatchObject({ kind: 'picture', format: { id: 'jpeg-sequence' } })
    const { facts, frame } = await opened('jpeg-sequence', bytes)
    expect(facts).toMatchObject({ width: 61, height: 35, kind: 'JPEG picture', claim: { mode: 'none' } })
    const plain = await sharp(bytes).raw().toBuffer()
    for (let p = 0; p < 61 * 35; p++)
      expect([...frame.samples.subarray(4 * p, 4 * p + 4)]).toEqual([...plain.subarray(3 * p, 3 * p + 3), 255])
  }
  const grey = await picture(20, 10).removeAlpha().toColourspace('b-w').jpeg().toBuffer()
  const { facts, frame } = await opened('jpeg-sequence', grey)
  expect(facts.kind).toBe('JPEG, grey picture')
  for (let i = 0; i < frame.samples.length; i += 4) expect(frame.samples[i]).toBe(frame.samples[i + 2])
})

test('a numbered run of JPEG pictures becomes one sequence', async () => {
  const files = await Promise.all(
    [1, 2, 3].map(async n => bytesFile(`plate_25fps.00${n}.jpg`, await picture(32, 24).removeAlpha().jpeg().toBuffer()))
  )
  const { found, findings } = await takeIn(files, host)
  expect(findings).toEqual([])
  expect(found.map(f => f.facts)).toMatchObject([{ frames: 3, rate: [25, 1], kind: 'JPEG sequence' }])
})

test('AVIF stills say their size, whether they have alpha, and hand it out straight', async () => {
  const bytes = await picture(64, 40).avif({ lossless: true }).toBuffer()
  expect(await recognise(memoryReader('a.bin', bytes))).toMatchObject({
    kind: 'picture',
    format: { id: 'avif-sequence' }
  })
  const { facts, frame } = await opened('avif-sequence', bytes)
  expect(facts).toMatchObject({ width: 64, height: 40, claim: { mode: 'straight' } })
  const due = soft(64, 40)
  for (let i = 0; i < due.length; i += 4) {
    expect(frame.samples[i + 3]).toBe(due[i + 3])
    if (due[i + 3]! > 64)
      for (let c = 0; c < 3; c++) expect(Math.abs(frame.samples[i + c]! - due[i + c]!)).toBeLessThanOrEqual(3)
  }
  const solid = await picture(64, 40).removeAlpha().avif({ quality: 80 }).toBuffer()
  expect((await opened('avif-sequence', solid)).facts.claim.mode).toBe('none')
})

test('a reference "prem" is reported as premultiplied', async () => {
  const bytes = await picture(64, 40).avif({ lossless: true }).toBuffer()
  const auxl = bytes.indexOf('auxl')
  expect(auxl).toBeGreaterThan(0)
  bytes.write('prem', auxl)
  const source = await formatById('avif-sequence').open('still', [bytesFile('still', bytes)], host)
  expect(source.facts.claim).toMatchObject({ mode: 'premultiplied', matte: '#000000' })
})

/** A film of the container with packets that no decoder will be asked for. */
async function film(
  format: Mp4OutputFormat | MovOutputFormat | MkvOutputFormat,
  codec: 'avc' | 'av1' | 'vp9',
  times: readonly number[]
): Promise<Uint8Array> {
  const output = new Output({ format, target: new BufferTarget() })
  const source = new EncodedVideoPacketSource(codec)
  output.addVideoTrack(source, { frameRate: 25 })
  await output.start()
  const config = {
    avc: {
      codec: 'avc1.42001e',
      description: Uint8Array.from([1, 0x42, 0, 0x1e, 0xff, 0xe1, 0, 4, 0x67, 0x42, 0, 0x1e, 1, 0, 2, 0x68, 0xce])
    },
    av1: { codec: 'av01.0.04M.08' },
    vp9: { codec: 'vp09.00.10.08' }
  }[codec]
  for (const [i, time] of times.entries())
    await source.add(
      new EncodedPacket(
        Uint8Array.from({ length: 40 }, (_, n) => n),
        i === 0 ? 'key' : 'delta',
        time,
        0.04
      ),
      { decoderConfig: { ...config, codedWidth: 64, codedHeight: 36 } }
    )
  await output.finalize()
  return new Uint8Array((output.target as BufferTarget).buffer!)
}

test('films without alpha are recognised by their bytes, and Node says who decodes them', async () => {
  const times = [0, 0.04, 0.08]
  for (const [format, codec, name] of [
    [new Mp4OutputFormat(), 'avc', 'H.264'],
    [new MovOutputFormat(), 'avc', 'H.264'],
    [new MkvOutputFormat(), 'avc', 'H.264'],
    [new Mp4OutputFormat(), 'av1', 'AV1'],
    [new MkvOutputFormat(), 'av1', 'AV1'],
    [new Mp4OutputFormat(), 'vp9', 'VP9']
  ] as const) {
    const bytes = await film(format, codec, times)
    expect(await recognise(memoryReader('plate', bytes))).toMatchObject({ kind: 'film', format: { id: 'opaque-film' } })
    await expect(formatById('opaque-film').open('plate', [bytesFile('plate', bytes)], host)).rejects.toMatchObject({
      kind: 'impossible',
      matter: expect.stringContaining(`${name} is decoded by the browser`) as string
    })
    const { findings } = await takeIn([bytesFile('plate', bytes)], host)
    expect(findings).toMatchObject([{ id: 'not-possible-here' }])
  }
})

test('truncated and mutated JPEG, AVIF and films end in one clear error each, or in a picture', async () => {
  const small = noise({ width: 24, height: 16, depth: 8 })
  const raw = sharp(Buffer.from(small.samples), { raw: { width: 24, height: 16, channels: 4 } })
  const originals: [FormatId, Uint8Array][] = [
    ['jpeg-sequence', new Uint8Array(await raw.clone().removeAlpha().jpeg({ quality: 60 }).toBuffer())],
    ['avif-sequence', new Uint8Array(await raw.clone().avif({ quality: 50 }).toBuffer())],
    ['opaque-film', await film(new Mp4OutputFormat(), 'avc', [0, 0.04])],
    ['opaque-film', await film(new MkvOutputFormat(), 'av1', [0, 0.04])]
  ]
  let refused = 0
  await fc.assert(
    fc.asyncProperty(
      fc.integer({ min: 1, max: 2 ** 31 - 1 }),
      fc.constantFrom(...originals),
      async (seed, [id, original]) => {
        const bytes = damage(original, seed)
        const outcome = await survives(async () => {
          await recognise(memoryReader('still', bytes))
          await opened(id, bytes)
        })
        if (outcome === 'refused') refused++
      }
    ),
    { numRuns: 1500 }
  )
  expect(refused).toBeGreaterThan(300)
})
