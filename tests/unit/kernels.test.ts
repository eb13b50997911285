import { inflateSync } from 'node:zlib'
import fc from 'fast-check'
import { beforeAll, expect, test } from 'vitest'
import type { Differences, Kernels, Taps } from '../../core/frame/kernels/kernels'
import { Lease, leasing } from '../../core/frame/kernels/lease'
import { plainKernels as plain } from '../oracles/kernels'
import { firstDifference, noise, random, testHost } from './support'

let wasm: Kernels
beforeAll(async () => void (wasm = (await testHost()).kernels))

const codes8 = fc.uint8Array({ minLength: 0, maxLength: 400 }).map(a => a.subarray(0, a.length & ~3))
const codes16 = fc.uint16Array({ minLength: 0, maxLength: 400 }).map(a => a.subarray(0, a.length & ~3))
const matte = (max: number) =>
  fc.tuple(
    ...([0, 1, 2].map(() => fc.integer({ min: 0, max })) as [
      fc.Arbitrary<number>,
      fc.Arbitrary<number>,
      fc.Arbitrary<number>
    ])
  )

test('the SIMD kernels give the codes of their plain twins', () => {
  expect(wasm.name).toBe('wasm')
  fc.assert(
    fc.property(codes8, matte(255), (s, m) => {
      expect(wasm.premultiply8(s, m)).toEqual(plain.premultiply8(s, m))
      expect(wasm.unpremultiply8(s, m)).toEqual(plain.unpremultiply8(s, m))
    }),
    { numRuns: 300 }
  )
  fc.assert(
    fc.property(codes16, matte(65535), (s, m) => {
      expect(wasm.premultiply16(s, m)).toEqual(plain.premultiply16(s, m))
      expect(wasm.unpremultiply16(s, m)).toEqual(plain.unpremultiply16(s, m))
    }),
    { numRuns: 300 }
  )
})

test('every pair of 8-bit colour and alpha is multiplied to round(c * a / 255), and back within 1 / 2a of a code', () => {
  const all = new Uint8Array(256 * 256 * 4)
  for (let c = 0; c < 256; c++) for (let a = 0; a < 256; a++) all.set([c, c, c, a], 4 * (c * 256 + a))
  const once = wasm.premultiply8(all, [0, 0, 0])
  const back = wasm.unpremultiply8(once, [0, 0, 0])
  for (let c = 0; c < 256; c++) {
    for (let a = 0; a < 256; a++) {
      const i = 4 * (c * 256 + a)
      if (once[i] !== Math.round((c * a) / 255)) throw new Error(`${c} * ${a} gave ${once[i]}`)
      if (a === 0 && back[i] !== 0) throw new Error('clear pixels must come back black')
      // a rounding of half a code when multiplied is 255 / 2a codes when divided, and rounding adds half a code
      if (a > 0 && Math.abs(back[i]! - c) > 255 / (2 * a) + 0.5) throw new Error(`${c} at ${a} came back as ${back[i]}`)
    }
  }
})

test('16-bit straight to premultiplied and back loses no more than the rounding', () => {
  fc.assert(
    fc.property(codes16, s => {
      const back = wasm.unpremultiply16(wasm.premultiply16(s, [0, 0, 0]), [0, 0, 0])
      for (let i = 0; i < s.length; i += 4) {
        const a = s[i + 3]!
        for (let c = 0; c < 3; c++)
          if (a > 0) expect(Math.abs(back[i + c]! - s[i + c]!)).toBeLessThanOrEqual(65535 / (2 * a) + 0.5)
      }
    })
  )
})

test('depths convert to the codes of their twins, at every code', () => {
  const all = Uint16Array.from({ length: 65536 }, (_, code) => code)
  expect(wasm.narrow(all)).toEqual(plain.narrow(all))
  const bytes = Uint8Array.from({ length: 256 }, (_, code) => code)
  expect(wasm.widen(bytes)).toEqual(plain.widen(bytes))
  fc.assert(fc.property(codes8, s => void expect(wasm.widen(s)).toEqual(plain.widen(s))))
  for (const codes of [all, bytes]) expect(firstDifference(wasm.toFloats(codes), plain.toFloats(codes))).toBeNull()
  expect(firstDifference(wasm.toCodes16(wasm.toFloats(all)), all)).toBeNull()
  expect(firstDifference(wasm.toCodes8(wasm.toFloats(bytes)), bytes)).toBeNull()
  const odd = Float32Array.from([
    0.5,
    -0.5,
    1,
    1.5,
    NaN,
    Infinity,
    -Infinity,
    0.5 / 255,
    0.5 / 65535,
    0.4999999,
    0.9999999
  ])
  fc.assert(
    fc.property(fc.float32Array({ maxLength: 70, min: -2, max: 2 }), fc.integer({ min: 0, max: 9000 }), (s, zeros) => {
      const values = Float32Array.from([...odd, ...new Float32Array(zeros), ...s])
      if (
        firstDifference(wasm.toCodes16(values), plain.toCodes16(values)) ??
        firstDifference(wasm.toCodes8(values), plain.toCodes8(values))
      )
        throw new Error('the twins differ')
    })
  )
})

/** Two frames of which the second strays from the first as codecs stray, or not at all, or wildly. */
const pairs = fc
  .record({
    width: fc.integer({ min: 1, max: 40 }),
    height: fc.integer({ min: 1, max: 12 }),
    seed: fc.integer({ min: 1, max: 1e6 }),
    stray: fc.constantFrom(0, 3, 300, 5000, 60000)
  })
  .map(({ width, height, seed, stray }) => {
    const a = noise({ width, height, depth: 16, seed }).samples as Uint16Array
    const next = random(seed + 1)
    const b = a.map(code =>
      next() < 0.4 ? code : Math.max(0, Math.min(65535, Math.round(code + (next() - 0.5) * stray)))
    )
    return { width, height, a, b }
  })
const stored = fc.oneof(
  fc.constant({ mode: 'straight' as const, matte: [0, 0, 0] as const }),
  fc.constant({ mode: 'none' as const, matte: [0, 0, 0] as const }),
  matte(65535).map(m => ({ mode: 'premultiplied' as const, matte: m }))
)

test('runs of clear and solid pixels, which the kernels pass over, give the codes of their twins as well', () => {
  const runs = fc.array(
    fc.record({ length: fc.integer({ min: 1, max: 3000 }), alpha: fc.constantFrom(0, 65535, -1), seed: fc.integer() }),
    { minLength: 1, maxLength: 8 }
  )
  fc.assert(
    fc.property(
      runs,
      fc.constantFrom([0, 0, 0], [65535, 65535, 65535], [1, 300, 65000]) as fc.Arbitrary<[number, number, number]>,
      (parts, m) => {
        const samples = new Uint16Array(
          parts.flatMap(({ length, alpha, seed }) =>
            Array.from({ length: 4 * length }, (_, i) =>
              i % 4 === 3 && alpha >= 0 ? alpha : (Math.imul(i + 1, seed | 1) >>> 7) & 65535
            )
          )
        )
        const narrow = plain.narrow(samples)
        const m8 = m.map(code => code >> 8) as [number, number, number]
        const first = wasm.premultiply16(samples, m)
        expect(firstDifference(first, plain.premultiply16(samples, m))).toBeNull()
        // given back, its memory holds what was there before
        first.fill(12345)
        new Lease({ samples: first }, wasm).end()
        expect(firstDifference(wasm.unpremultiply16(samples, m), plain.unpremultiply16(samples, m))).toBeNull()
        expect(firstDifference(wasm.premultiply8(narrow, m8), plain.premultiply8(narrow, m8))).toBeNull()
        expect(firstDifference(wasm.unpremultiply8(narrow, m8), plain.unpremultiply8(narrow, m8))).toBeNull()
      }
    ),
    { numRuns: 60 }
  )
})

test('memory that was given back is used once, whole, and for results of its size only', () => {
  const rows = (seed: number): Uint8Array =>
    Uint8Array.from({ length: 4 * 257 }, (_, i) => (i % 257 === 0 ? 0 : (Math.imul(i + 1, seed) >>> 5) & 255))
  const unpacked = (seed: number): Uint8Array => wasm.pngUnpack(rows(seed), 64, 4, 4, 8) as Uint8Array
  const due = (seed: number): Uint8Array => plain.pngUnpack(rows(seed), 64, 4, 4, 8) as Uint8Array
  const first = unpacked(7)
  const [lease, again] = [new Lease({ samples: first }, wasm), new Lease({ samples: first }, wasm)]
  const held = new WeakRef(first.buffer)
  lease.end()
  lease.end()
  // another lease runs on the same samples: they are not given back before it has ended
  expect(firstDifference(again.frame.samples, due(7))).toBeNull()
  expect(held.deref()?.byteLength).toBe(first.byteLength)
  again.end()
  const [second, third] = [unpacked(11), unpacked(13)]
  expect(second.buffer).not.toBe(third.buffer)
  expect(firstDifference(second, due(11))).toBeNull()
  expect(firstDifference(third, due(13))).toBeNull()
  // a part of a buffer that somebody else may read is never taken
  const whole = new Uint8Array(2048)
  new Lease({ samples: whole.subarray(0, 1024) }, wasm).end()
  expect(unpacked(17).buffer).not.toBe(whole.buffer)
  expect(whole.every(byte => byte === 0)).toBe(true)
})

test.each(['plain', 'wasm'] as const)('a frame cannot be used once its lease has ended (%s)', async which => {
  const kernels = which === 'plain' ? plain : wasm
  const frame = { samples: new Uint8Array(1024).fill(7) }
  const lease = new Lease(frame, kernels)
  lease.end()
  expect(() => lease.frame).toThrow('after its lease had ended')
  // nor can who kept the samples beside the lease
  expect(frame.samples.length).toBe(0)
  expect(() => new Uint8Array(8).set(frame.samples.slice())).toThrow(TypeError)
  // what is handed on stays whole
  const kept = new Lease({ samples: new Uint8Array(1024).fill(9) }, kernels)
  const second = new Lease(kept.frame, kernels)
  const mine = kept.keep()
  second.end()
  expect(mine.samples.every(byte => byte === 9)).toBe(true)
  expect(() => kept.frame).toThrow()
  // and leases end when the work on them fails
  let leaked: Lease<{ samples: Uint8Array }> | null = null
  await expect(
    leasing(kernels, lease => {
      leaked = lease({ samples: new Uint8Array(64) })
      throw new Error('stop')
    })
  ).rejects.toThrow('stop')
  expect(() => leaked!.frame).toThrow()
})

test('where two readings of alpha part is found, at any place and by any distance', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 300 }),
      fc.integer({ min: 0, max: 299 }),
      fc.integer({ min: -80, max: 80 }),
      fc.integer({ min: 1, max: 2 ** 30 }),
      (length, place, by, seed) => {
        const next = random(seed)
        const theirs = Uint16Array.from({ length }, () => Math.floor(next() * 4096))
        const ours = theirs.map(alpha => Math.min(65535, Math.max(0, 16 * alpha + Math.floor(next() * 65) - 32)))
        const at = place % length
        ours[at] = Math.min(65535, Math.max(0, 16 * theirs[at]! + by))
        expect(wasm.readingsApart(ours, theirs, 32)).toBe(plain.readingsApart(ours, theirs, 32))
        expect(plain.readingsApart(ours, theirs, 32)).toBe(Math.abs(ours[at]! - 16 * theirs[at]!) > 32 ? at : -1)
      }
    ),
    { numRuns: 500 }
  )
  const long = new Uint16Array(70_000)
  const other = long.slice()
  other[66_001] = 900
  expect(wasm.readingsApart(long, other, 32)).toBe(66_001)
})

test('comparing counts as its twin does, and its differences are within 0.01, or half a per cent where they are large', () => {
  // a verdict is decided at differences of 1 to 10; far above, hues near their opposites amplify the rounding of single
  // precision, and where they stand opposite each other the formula itself jumps by a third
  const near = (got: number, due: number) =>
    Math.max(got, due) > 50 ? Math.min(got, due) > 25 : Math.abs(got - due) < (due > 10 ? 0.005 * due : 0.01)
  fc.assert(
    fc.property(pairs, stored, stored, matte(65535), ({ width, height, a, b }, expected, found, opposite) => {
      const how = { expected, found, opposite }
      const due = plain.compare(a, b, width, height, how)
      const got = wasm.compare(a, b, width, height, how)
      expect({ ...got, colour: null, edge: null }).toEqual({ ...due, colour: null, edge: null })
      expect(got.colour.visible).toBe(due.colour.visible)
      expect(got.edge.pixels).toBe(due.edge.pixels)
      expect([got.colour.max, due.colour.max]).toSatisfy(([x, y]: number[]) => near(x!, y!))
      expect([got.edge.max, due.edge.max]).toSatisfy(([x, y]: number[]) => near(x!, y!))
      // where two hues stand opposite each other the formula jumps, and rounding decides to which side
      const jumps = due.colour.max > 20 ? 0.05 * due.colour.sum : 0
      expect(Math.abs(got.colour.sum - due.colour.sum)).toBeLessThanOrEqual(0.01 * Math.max(1, due.changed) + jumps)
      expect(got.colour.bins.reduce((x, y) => x + y, 0)).toBe(due.colour.bins.reduce((x, y) => x + y, 0))
    }),
    { numRuns: 300 }
  )
})

test('comparing frames of several bands adds up to what its twin counts, edges across borders included', () => {
  // bands are a few rows high at this width; runs of clear and solid, partial alpha at places that fall on every border
  const [width, height] = [9001, 14]
  const picture = (seed: number): Uint16Array => {
    const samples = new Uint16Array(4 * width * height)
    for (let p = 0; p < width * height; p++) {
      const [x, y] = [p % width, Math.floor(p / width)]
      const run = Math.imul(Math.floor(x / 37) + 101 * y + seed, 0x9e3779b1) >>> 28
      const alpha = run < 7 ? 0 : run < 14 ? 65535 : 4096 * run + x
      samples.set(
        alpha === 0 ? [0, 0, 0, 0] : [(x * 7919) & 65535, (y * 4801) & 65535, (p * 31) & 65535, alpha & 65535],
        4 * p
      )
    }
    return samples
  }
  const due = picture(1)
  const how = {
    expected: { mode: 'straight', matte: [0, 0, 0] },
    found: { mode: 'straight', matte: [0, 0, 0] },
    opposite: [9000, 40000, 20000]
  } as const
  const changes: ((row: number) => boolean)[] = [() => false, row => row === 4, row => row > 9, () => true]
  for (const changed of changes) {
    const found = due.map((code, i) =>
      i % 4 < 3 && code > 0 && changed(Math.floor(i / 4 / width)) ? code ^ 129 : code
    )
    const [want, got] = [plain, wasm].map(kernels => kernels.compare(due, found, width, height, how as never)) as [
      Differences,
      Differences
    ]
    expect({ ...got, colour: null, edge: null }).toEqual({ ...want, colour: null, edge: null })
    expect([got.edge.pixels, got.colour.visible]).toEqual([want.edge.pixels, want.colour.visible])
    expect(Math.abs(got.colour.max - want.colour.max)).toBeLessThan(0.01)
    expect(Math.abs(got.edge.max - want.edge.max)).toBeLessThan(0.01)
    expect(Math.abs(got.edge.sum - want.edge.sum)).toBeLessThan(0.001 * want.edge.sum + 1e-6)
    expect(Math.abs(got.colour.sum - want.colour.sum)).toBeLessThan(0.001 * want.colour.sum + 1e-6)
  }
})

test('triples vote as those of the twin do, at soft edges, ramps and rims', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 70 }),
      fc.integer({ min: 1, max: 70 }),
      fc.integer(),
      (width, height, seed) => {
        const next = random(seed)
        const s = new Uint16Array(4 * width * height)
        const [slope, rise, clear] = [next() * 4000, next() * 4000, next() < 0.7]
        for (let i = 0, p = 0; i < s.length; i += 4, p++) {
          const soft = slope * (p % width) + rise * Math.floor(p / width) + 3000 * next()
          const a = Math.round(Math.max(clear ? 0 : 9, Math.min(65535, next() < 0.02 ? 65535 : soft - 8000)))
          const colour = [0.9, 0.4, 0.1].map(share =>
            Math.min(65535, share * (next() < 0.5 ? a : 65535) + 900 * next())
          )
          s.set([...colour, a], i)
        }
        const [ours, theirs] = [new Uint8Array(width * height), new Uint8Array(width * height)]
        expect(wasm.triples(s, width, height, ours)).toEqual(plain.triples(s, width, height, theirs))
        expect(ours).toEqual(theirs)
      }
    ),
    { numRuns: 60 }
  )
})

test('triples of a large frame, of which every fourth pixel is asked, vote as those of the twin do', () => {
  const next = random(11)
  const [width, height] = [1030, 1021]
  const s = new Uint16Array(4 * width * height)
  for (let p = 0; p < width * height; p++) {
    const a = Math.max(0, Math.min(65535, Math.round(700 * (p % width) - 300 * Math.floor(p / width) + 6000 * next())))
    s.set([a * 0.9, a >> 1, 65535 * next() * (p % 5 === 0 ? 1 : 0), a], 4 * p)
  }
  const ours = wasm.triples(s, width, height)
  expect(ours).toEqual(plain.triples(s, width, height))
  expect(ours.premultiplied).toBeGreaterThan(500)
})

test('looking counts as its twin does', () => {
  fc.assert(
    fc.property(
      fc.oneof(
        codes16,
        codes8.map(s => plain.widen(s))
      ),
      s => {
        expect(wasm.look(s)).toEqual(plain.look(s))
      }
    ),
    { numRuns: 300 }
  )
})

test('an examination finds what its twin finds, of 8 and 16 bits, with alpha and without', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 90 }),
      fc.integer({ min: 1, max: 90 }),
      fc.integer(),
      fc.boolean(),
      fc.boolean(),
      (width, height, seed, alpha, wide) => {
        const next = random(seed)
        const s = wide ? new Uint16Array(4 * width * height) : new Uint8Array(4 * width * height)
        const full = wide ? 65535 : 255
        // areas of one alpha, combed lines, nearly solid parts that shine through, and single pixels
        const levels = [0, 0, 1, full, full, Math.round(0.95 * full), Math.round(0.5 * full)]
        let level = 0
        for (let i = 0, p = 0; i < s.length; i += 4, p++) {
          if (next() < 0.05) level = levels[Math.floor(next() * levels.length)]!
          const line = Math.floor(p / width)
          const a = seed % 3 === 0 && p % width > width / 2 ? (line % 2) * full : next() < 0.02 ? full : level
          s.set([Math.floor(next() * 3) * (a >> 1), 7, a, a], i)
        }
        // most animations have nothing above and below; some have clear pixels of a colour there
        if (seed % 2 === 0) s.fill(0, 0, 4 * width * Math.floor(height * next()))
        if (seed % 5 === 0) s.fill(0, 4 * width * Math.floor(height * next()))
        // one of a colour, and stretches that are clear and black behind it
        if (seed % 7 === 0) s.set([9, 0, 0, 0], 0)
        const same = [...s.subarray(0, 4)].map(code => (wide ? code : code * 257)) as [number, number, number, number]
        const how = { width, height, same, alpha }
        expect(wasm.examine(s, how)).toEqual(plain.examine(s, how))
      }
    ),
    { numRuns: 150 }
  )
})

test(
  'large frames, of which fewer pixels are asked, are examined as their twin does, crowded with partial ' +
    'pixels or not',
  () => {
    const [width, height] = [1037, 1021]
    for (const crowd of [0.05, 0.25, 0.4, 0.9]) {
      const next = random(5)
      const s = new Uint8Array(4 * width * height)
      for (let i = 4 * width * 200; i < s.length - 4 * width * 100; i += 4) {
        const a = next() < crowd ? Math.floor(255 * next()) : 255 * Math.floor(2 * next())
        s.set([(a * 200) / 255, (i >> 8) & 255 & a, a, a], i)
      }
      const how = { width, height, same: [0, 0, 0, 65535] as [number, number, number, number], alpha: true }
      const found = wasm.examine(s, how)
      expect(found).toEqual(plain.examine(s, how))
      expect(found.alpha!.triples.premultiplied).toBeGreaterThan(1000)
    }
  }
)

test('fingerprints agree with their twin at every length and type, and change with any byte, its place and the length', () => {
  fc.assert(
    fc.property(
      fc.uint8Array({ minLength: 0, maxLength: 200 }),
      fc.nat(),
      fc.integer({ min: 1, max: 255 }),
      (bytes, at, flip) => {
        const print = wasm.fingerprint(bytes)
        expect(print).toMatch(/^[0-9a-f]{32}$/)
        expect(print).toBe(plain.fingerprint(bytes))
        const wide = new Uint16Array(bytes.slice(0, bytes.length & ~1).buffer)
        expect(wasm.fingerprint(wide)).toBe(plain.fingerprint(wide))
        expect(wasm.fingerprint(new Uint8Array([...bytes, 0]))).not.toBe(print)
        if (bytes.length === 0) return
        const changed = bytes.slice()
        changed[at % bytes.length]! ^= flip
        expect(wasm.fingerprint(changed)).not.toBe(print)
        // the same bytes elsewhere
        const turned = Uint8Array.from([...bytes.subarray(1), bytes[0]!])
        if (firstDifference(turned, bytes)) expect(wasm.fingerprint(turned)).not.toBe(print)
      }
    ),
    { numRuns: 300 }
  )
  // beyond one stretch of the kernel's, and not a whole number of blocks
  const long = new Float32Array(70_001).map((_, i) => Math.sin(i))
  expect(wasm.fingerprint(long)).toBe(plain.fingerprint(long))
})

test('filters of a plane and the weighing of pixels agree with their twins, at every width', () => {
  const apart = (a: Float32Array, b: Float32Array): number =>
    a.reduce((most, v, i) => Math.max(most, Math.abs(v - b[i]!)), 0)
  const taps = (from: number, to: number, count: number, seed: number): Taps => {
    const next = random(seed)
    const shares = Float32Array.from({ length: to * count }, () => next() - 0.2)
    return { first: Int32Array.from({ length: to }, () => Math.floor(next() * (from + 4)) - 4), count, shares }
  }
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 45 }),
      fc.integer({ min: 1, max: 40 }),
      fc.integer({ min: 1, max: 9 }),
      fc.integer({ min: 1, max: 2 ** 30 }),
      (width, height, radius, seed) => {
        const next = random(seed)
        const plane = Float32Array.from({ length: width * height }, () =>
          next() < 0.5 ? 0 : next() < 0.5 ? 1 : next()
        )
        // rows that hold nothing are passed over
        if (height > 6) plane.fill(0, 0, 2 * width)
        expect(apart(wasm.blur(plane, width, height, radius), plain.blur(plane, width, height, radius))).toBeLessThan(
          1e-6
        )
        expect(
          firstDifference(wasm.largest(plane, width, height, radius), plain.largest(plane, width, height, radius))
        ).toBeNull()
        const rgba = Float32Array.from({ length: 4 * width * height }, () => next())
        const [across, down] = [
          taps(width, radius + 3, 1 + (seed % 8), seed + 1),
          taps(height, radius + 50, 1 + (seed % 5), seed + 2)
        ]
        expect(
          apart(wasm.resample(rgba, width, height, across, down), plain.resample(rgba, width, height, across, down))
        ).toBeLessThan(1e-5)
      }
    ),
    { numRuns: 150 }
  )
})

test('taking backgrounds out agrees with its twins wherever it is seen, and dither to the last bit', () => {
  // of edges that are all but clear, colour is a small number divided by a small number: what is seen of it is compared
  const seen = (rgba: Float32Array): Float32Array => rgba.map((v, i) => (i % 4 === 3 ? v : v * rgba[i - (i % 4) + 3]!))
  const unit = fc.constantFrom(0, 0.2, 0.5, 0.71, 1)
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 70 }),
      fc.integer({ min: 1, max: 2 ** 30 }),
      fc.tuple(unit, unit, unit),
      fc.integer({ min: 0, max: 2 }),
      unit,
      (pixels, seed, colour, channel, share) => {
        const next = random(seed)
        const near = (c: number): number => (next() < 0.3 ? colour[c]! : next() < 0.2 ? Math.round(next()) : next())
        const rgba = Float32Array.from({ length: 4 * pixels }, (_, i) =>
          i % 4 === 3 ? Math.min(1, Math.max(0, 1.4 * next() - 0.2)) : near(i % 4)
        )
        const plate = Float32Array.from(
          { length: 4 * pixels },
          (_, i) => (i % 4 === channel ? 0.7 : 0.15) + 0.1 * (next() - 0.5)
        )
        const how = {
          low: share / 2,
          high: share === 1 ? 0.2 : 0.9,
          across: 0.3 + 3 * next(),
          spill: share,
          channel,
          lean: [1, 0.5, 1 / 3, 0][seed & 3]!
        }
        const both = (run: (kernels: Kernels, values: Float32Array) => void): [Float32Array, Float32Array] =>
          [wasm, plain].map(kernels => {
            const values = rgba.slice()
            run(kernels, values)
            return values
          }) as [Float32Array, Float32Array]
        for (const run of [
          (kernels: Kernels, values: Float32Array) => kernels.takeOut(values, colour),
          (kernels: Kernels, values: Float32Array) => kernels.takeBackground(values, colour, 1 - share / 2),
          ...(share === 1 ? [] : [(kernels: Kernels, values: Float32Array) => kernels.chromaKey(values, plate, how)])
        ]) {
          const [a, b] = both(run).map(seen) as [Float32Array, Float32Array]
          for (let i = 0; i < a.length; i++)
            if (!(Math.abs(a[i]! - b[i]!) < 1e-5)) expect(a[i], `sample ${i}`).toBeCloseTo(b[i]!, 5)
        }
        const [a, b] = both((kernels, values) => kernels.dither8(values, seed))
        expect(firstDifference(a, b)).toBeNull()
      }
    ),
    { numRuns: 600 }
  )
  // where low and high meet, alpha is on or off
  const ramp = Float32Array.from(
    { length: 400 },
    (_, i) => [0.1 + (i - (i % 4)) / 500, 0.9 - (i - (i % 4)) / 500, 0.2, 1][i % 4]!
  )
  const green = Float32Array.from({ length: 400 }, (_, i) => [0.1, 0.9, 0.2, 0][i % 4]!)
  for (const kernels of [wasm, plain]) {
    const cut = ramp.slice()
    kernels.chromaKey(cut, green, { low: 0.4, high: 0.4, across: 1, spill: 0, channel: 1, lean: 1 })
    const alphas = cut.filter((_, i) => i % 4 === 3)
    expect(new Set(alphas)).toEqual(new Set([0, 1]))
    expect([...alphas].sort()).toEqual([...alphas])
  }
})

test('turning agrees with its twin wherever it is seen', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 30 }),
      fc.integer({ min: 1, max: 30 }),
      fc.integer({ min: 1, max: 40 }),
      fc.double({ min: -3.2, max: 3.2, noNaN: true }),
      fc.integer({ min: 1, max: 2 ** 30 }),
      (width, height, side, angle, seed) => {
        const next = random(seed)
        const rgba = Float32Array.from({ length: 4 * width * height }, () => (next() < 0.4 ? 0 : next()))
        const way = { u: 20 * (next() - 0.5), v: 20 * (next() - 0.5), du: Math.cos(angle), dv: Math.sin(angle) }
        const [a, b] = [wasm, plain].map(kernels =>
          kernels.turn(rgba, { width, height }, { width: side, height: side + 3 }, way)
        ) as [Float32Array, Float32Array]
        for (let i = 0; i < a.length; i++) {
          const [alpha, other] = [a[i - (i % 4) + 3]!, b[i - (i % 4) + 3]!]
          const apart = i % 4 === 3 ? Math.abs(alpha - other) : Math.abs(a[i]! * alpha - b[i]! * other)
          if (!(apart < 1e-5)) expect(a[i], `sample ${i}`).toBe(b[i])
        }
      }
    ),
    { numRuns: 300 }
  )
})

const rows = fc
  .record({
    stride: fc.integer({ min: 1, max: 70 }),
    height: fc.integer({ min: 1, max: 9 }),
    pixelBytes: fc.constantFrom(1, 2, 3, 4, 6, 8),
    seed: fc.integer()
  })
  .chain(shape =>
    fc
      .uint8Array({ minLength: shape.stride * shape.height, maxLength: shape.stride * shape.height })
      .map(bytes => ({ ...shape, bytes }))
  )

test('strips of TIFF are those of the twin, with alpha and without, packed by LZW to the same bytes', () => {
  fc.assert(
    fc.property(
      fc.record({
        width: fc.integer({ min: 1, max: 70 }),
        height: fc.integer({ min: 1, max: 9 }),
        seed: fc.integer({ min: 1, max: 1 << 20 }),
        wide: fc.boolean(),
        channels: fc.constantFrom(3 as const, 4 as const),
        predicted: fc.boolean()
      }),
      ({ width, height, seed, wide, channels, predicted }) => {
        const { samples } = noise({ width, height, depth: wide ? 16 : 8, seed })
        for (const pack of ['none', 'lzw'] as const) {
          const how = { width, channels, predicted, pack }
          const given = samples as Uint8Array | Uint16Array
          expect(wasm.strip(given, how)).toEqual(plain.strip(given, how))
        }
      }
    ),
    { numRuns: 150 }
  )
})

test('PNG filters agree with their twins and undo each other', () => {
  fc.assert(
    fc.property(rows, ({ stride, height, pixelBytes, bytes }) => {
      const filtered = wasm.pngFilter(bytes, stride, height, pixelBytes)
      expect(filtered).toEqual(plain.pngFilter(bytes, stride, height, pixelBytes))
      expect(wasm.pngUnfilter(filtered, stride, height, pixelBytes)).toEqual(bytes)
      expect(plain.pngUnfilter(filtered, stride, height, pixelBytes)).toEqual(bytes)
    }),
    { numRuns: 300 }
  )
})

const pictures = fc.record({
  width: fc.integer({ min: 1, max: 40 }),
  height: fc.integer({ min: 1, max: 9 }),
  seed: fc.integer({ min: 1, max: 1e6 }),
  runs: fc.constantFrom(0, 0.5, 0.98),
  depth: fc.constantFrom(8 as const, 16 as const),
  channels: fc.constantFrom(3 as const, 4 as const)
})

test('pictures pack to streams that inflate to the same filtered rows, and unpack to the same samples', () => {
  fc.assert(
    fc.property(pictures, ({ width, height, seed, runs, depth, channels }) => {
      const samples = noise({ width, height, depth, seed, runs }).samples as Uint8Array | Uint16Array
      const [ours, twin] = [
        inflateSync(wasm.pngPack(samples, width, height, channels)),
        inflateSync(plain.pngPack(samples, width, height, channels))
      ]
      expect(Buffer.compare(ours, twin)).toBe(0)
      expect(wasm.pngUnpack(ours, width, height, channels, depth)).toEqual(
        plain.pngUnpack(twin, width, height, channels, depth)
      )
    }),
    { numRuns: 300 }
  )
})

/** Bytes of every character: runs, repeats at any distance, text-like, noise; up to several blocks long. */
function stuff(seed: number, length: number): Uint8Array {
  const next = random(seed)
  const bytes = new Uint8Array(length)
  for (let at = 0; at < length;) {
    const kind = next()
    const take = Math.min(length - at, 1 + Math.floor(next() ** 3 * 3000))
    if (kind < 0.25) bytes.fill(next() * 256, at, at + take)
    else if (kind < 0.6 && at > 0) {
      const from = Math.max(0, at - 1 - Math.floor(next() * 40000))
      for (let i = 0; i < take; i++) bytes[at + i] = bytes[from + i]!
    } else {
      const range = kind < 0.8 ? 256 : 12
      for (let i = 0; i < take; i++) bytes[at + i] = next() * range
    }
    at += take
  }
  return bytes
}

test('any bytes pack to a zlib stream that zlib itself inflates to the same bytes', () => {
  for (const length of [0, 1, 2, 3, 4, 7, 8, 9, 15, 16, 17, 258, 259, 5552, 5553, 65535, 65536, 65537, 70000, 400000]) {
    for (let seed = 1; seed <= 4; seed++) {
      const bytes = stuff(seed * 977 + length, length)
      expect(Buffer.compare(inflateSync(wasm.zlib(bytes)), bytes)).toBe(0)
    }
  }
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 1e9 }), fc.integer({ min: 0, max: 30000 }), (seed, length) => {
      const bytes = stuff(seed, length)
      expect(Buffer.compare(inflateSync(wasm.zlib(bytes)), bytes)).toBe(0)
    }),
    { numRuns: 300 }
  )
  expect(wasm.zlib(new Uint8Array(1e6)).length).toBeLessThan(2500)
  const noise = Uint8Array.from({ length: 1e5 }, (_, i) => (Math.imul(i ^ (i >>> 7), 2654435761) >>> 13) & 255)
  expect(wasm.zlib(noise).length).toBeLessThan(1.02e5)
})

test('checksums agree with their twin, in one piece or in two', () => {
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 100 }), fc.nat(100), (bytes, cut) => {
      expect(wasm.crc32(bytes)).toBe(plain.crc32(bytes))
      expect(wasm.crc32(bytes.subarray(cut), wasm.crc32(bytes.subarray(0, cut)))).toBe(plain.crc32(bytes))
    })
  )
  expect(wasm.crc32(new TextEncoder().encode('123456789'))).toBe(0xcbf43926)
})

test('unfiltering takes every filter type and refuses others', () => {
  fc.assert(
    fc.property(
      rows,
      fc.array(fc.integer({ min: 0, max: 4 }), { minLength: 9, maxLength: 9 }),
      ({ stride, height, pixelBytes, bytes }, types) => {
        const filtered = new Uint8Array((stride + 1) * height)
        for (let y = 0; y < height; y++) {
          filtered[y * (stride + 1)] = types[y]!
          filtered.set(bytes.subarray(y * stride, (y + 1) * stride), y * (stride + 1) + 1)
        }
        expect(wasm.pngUnfilter(filtered, stride, height, pixelBytes)).toEqual(
          plain.pngUnfilter(filtered, stride, height, pixelBytes)
        )
        filtered[(height - 1) * (stride + 1)] = 5
        expect(wasm.pngUnfilter(filtered, stride, height, pixelBytes)).toBeNull()
        expect(plain.pngUnfilter(filtered, stride, height, pixelBytes)).toBeNull()
      }
    )
  )
})
