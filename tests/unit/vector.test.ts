/**
 * Vector animations: drawn in floats over nothing, what they mark and what is left out of them, and what is refused.
 */
import { zipSync } from 'fflate'
import sharp from 'sharp'
import { describe, expect, test } from 'vitest'
import type { Frame } from '../../core/frame/frame'
import { takeIn } from '../../core/run/intake/intake'
import { openSource } from '../../core/open/open'
import { readAnimation } from '../../core/draw/vector/animation'
import { vectorDisc } from '../material/vector'
import { bytesFile, damage, survives, testHost } from './support'

const host = await testHost()
const bytesOf = (data: unknown): Uint8Array => new TextEncoder().encode(JSON.stringify(data))

async function taken(
  data: unknown
): Promise<{ findings: { id: string; sentence: string }[]; frames: number; frame(i: number): Promise<Frame> }> {
  const { found, findings } = await takeIn([bytesFile('disc.json', bytesOf(data))], host)
  if (!found[0]) throw new Error(findings.map(f => f.sentence).join(' '))
  const source = await openSource({ ...found[0].spec, id: JSON.stringify(data).slice(0, 200) }, host)
  return { findings: source.facts.findings, frames: source.facts.frames, frame: i => source.frame(i) }
}

describe('drawing', () => {
  test('alpha of 60 % is 39321, colour is exact, a disc has its area, and nothing lies where it is clear', async () => {
    const { frame, frames } = await taken(vectorDisc({ opacity: 60 }))
    expect(frames).toBe(50)
    const { samples, width, height, alpha } = await frame(10)
    expect([width, height, alpha.mode]).toEqual([96, 64, 'straight'])
    const middle = 4 * (32 * 96 + 48)
    expect(samples[middle + 3]).toBe(39321)
    for (const [c, code] of [0x17, 0x5c, 0x4e].entries())
      expect(Math.abs(samples[middle + c]! - code * 257)).toBeLessThanOrEqual(1)
    let sum = 0
    for (let i = 0; i < samples.length; i += 4) {
      sum += samples[i + 3]! / 39321
      if (samples[i + 3] === 0) expect([...samples.slice(i, i + 3)]).toEqual([0, 0, 0])
    }
    expect(Math.abs(sum / (Math.PI * 20 * 20) - 1)).toBeLessThan(0.005)
  })

  test('what moves, moves from frame to frame, and the same frame is the same each time', async () => {
    const { frame } = await taken(vectorDisc({ moves: true }))
    const [first, last, again] = [await frame(0), await frame(49), await frame(0)]
    expect(again.samples).toEqual(first.samples)
    expect(last.samples).not.toEqual(first.samples)
    await expect(frame(50)).rejects.toThrow('there are 50 frames')
  })
})

describe('what it says of itself', () => {
  test('markers are told with their frames', async () => {
    const { findings } = await taken({
      ...vectorDisc({}),
      markers: [
        { cm: 'hover', tm: 0, dr: 12 },
        { cm: 'press', tm: 12, dr: 0 },
        { cm: '', tm: 3, dr: 1 }
      ]
    })
    expect(findings.find(({ id }) => id === 'markers')!.sentence).toBe(
      'It marks “hover” 1 to 12, “press” 13 to 50; each may be kept as a span, on the bench.'
    )
  })

  test('features that are not drawn are named: programs, sound, pictures elsewhere, lettering without outlines', async () => {
    const plain = vectorDisc({})
    const { findings } = await taken({
      ...plain,
      layers: [
        ...plain.layers,
        { ty: 6, ip: 0, op: 50, st: 0, refId: 'tone' },
        { ty: 3, ip: 0, op: 50, st: 0, ks: { o: { a: 0, k: 100, x: 'var $bm_rt = 50' } } }
      ],
      assets: [{ id: 'leaf', w: 8, h: 8, u: 'http://elsewhere.example/', p: 'leaf.png', e: 0 }],
      fonts: { list: [{ fName: 'A', fFamily: 'Palm Sans' }] }
    })
    const { sentence } = findings.find(({ id }) => id === 'features-left-out')!
    for (const part of ['expressions', 'sound', '“leaf.png”', 'Palm Sans']) expect(sentence).toContain(part)
  })

  test('rates between whole numbers are what they mean, and work areas are kept', () => {
    const read = readAnimation(JSON.stringify({ ...vectorDisc({}), fr: 29.97, ip: 10, op: 40 }), 'x')
    expect([read.rate, read.frames, read.first]).toEqual([[30000, 1001], 30, 10])
  })
})

test('what cannot be an animation is refused in words', () => {
  const plain = vectorDisc({})
  for (const [data, why] of [
    [{ ...plain, w: 0 }, 'a picture of 0x64 cannot be taken'],
    [{ ...plain, w: 1e9 }, 'cannot be taken'],
    [{ ...plain, fr: 0 }, 'a rate of 0 frames'],
    [{ ...plain, op: 1e9 }, 'frames; from 1 to'],
    [{ ...plain, layers: undefined }, 'layers are missing']
  ] as const)
    expect(() => readAnimation(JSON.stringify(data), 'x')).toThrow(why)
  const deep = JSON.stringify({ ...plain, layers: ['here'] }).replace(
    '"here"',
    `${'['.repeat(5000)}${']'.repeat(5000)}`
  )
  expect(() => readAnimation(deep, 'x')).toThrow('deeper or longer')
})

test('a note in JSON beside pictures stays a note', async () => {
  const { found, findings } = await takeIn([bytesFile('readme.json', bytesOf({ rate: '24 frames per second' }))], host)
  expect([found.length, findings.map(f => f.id)]).toEqual([0, []])
})

test('damaged animations end in one clear error or a picture', async () => {
  const whole = bytesOf(vectorDisc({ moves: true }))
  for (let seed = 0; seed < 120; seed++) {
    await survives(async () => {
      const bytes = damage(whole, seed)
      const { width, height } = readAnimation(new TextDecoder().decode(bytes), 'x.json')
      if (width * height > 1e6) return
      const { found } = await takeIn([bytesFile('x.json', bytes)], host)
      if (!found[0]) return
      const source = await openSource({ ...found[0].spec, id: `damaged ${seed}` }, host)
      await source.frame(0)
      await source.close()
    })
  }
})

describe('zipped with its pictures', () => {
  const leaf = async (): Promise<Uint8Array> =>
    new Uint8Array(
      await sharp({ create: { width: 96, height: 64, channels: 4, background: { r: 200, g: 40, b: 90, alpha: 1 } } })
        .png()
        .toBuffer()
    )
  const pictured = () => {
    const disc = vectorDisc({})
    const still = <T>(k: T): { a: 0; k: T } => ({ a: 0, k })
    const ks = { o: still(60), r: still(0), p: still([0, 0, 0]), a: still([0, 0, 0]), s: still([100, 100, 100]) }
    return {
      ...disc,
      assets: [{ id: 'leaf', w: 96, h: 64, u: 'images/', p: 'leaf one.png', e: 0 }],
      layers: [{ ty: 2, refId: 'leaf', ip: 0, op: 50, st: 0, ks }],
      markers: [
        { cm: 'open', tm: 0, dr: 20 },
        { cm: 'turn, slowly', tm: 20, dr: 30 }
      ]
    }
  }
  const text = (data: unknown): Uint8Array => new TextEncoder().encode(JSON.stringify(data))

  test('its pictures are drawn, none of them becomes a source of its own, and its markers are told', async () => {
    const zip = zipSync({
      'manifest.json': text({ version: '1', animations: [{ id: 'leaf' }] }),
      'animations/leaf.json': text(pictured()),
      'images/leaf one.png': await leaf()
    })
    const { found } = await takeIn([bytesFile('leaf turns.lottie', zip)], host)
    expect(found.map(({ facts }) => facts.kind)).toEqual(['vector animation'])
    const { facts, spec } = found[0]!
    expect(facts.findings.filter(({ id }) => id === 'features-left-out')).toEqual([])
    expect(facts.marked).toEqual([
      { name: 'open', from: 1, to: 20 },
      { name: 'turn, slowly', from: 21, to: 50 }
    ])
    const source = await openSource({ ...spec, id: 'leaf' }, host)
    const { samples } = await source.frame(3)
    await source.close()
    const at = 4 * (32 * 96 + 48)
    expect(samples[at + 3]! / 65535).toBeCloseTo(0.6, 2)
    for (const [c, code] of [200, 40, 90].entries()) expect(samples[at + c]! / 257).toBeCloseTo(code, -0.5)
  })

  test('a picture that is not in the archive is named, and nothing is fetched', async () => {
    const zip = zipSync({ 'manifest.json': text({}), 'animations/leaf.json': text(pictured()) })
    const { found } = await takeIn([bytesFile('leaf turns.lottie', zip)], host)
    expect(found[0]!.facts.findings.map(({ sentence }) => sentence).join()).toContain('leaf one.png')
  })
})
