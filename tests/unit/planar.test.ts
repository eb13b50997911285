/** Planes of 8 bits: kernels against their twins, code lengths, and films that are written in them. */
import fc from 'fast-check'
import { expect, test } from 'vitest'
import { OPAQUE } from '../../core/frame/frame'
import type { PlanarWay } from '../../core/frame/kernels/coded'
import { huffmanTable } from '../../core/media/codecs/planar/huffman'
import { ABSENT, ascending, codeLengths, codesOf } from '../../core/media/codecs/planar/lengths'
import { openSource } from '../../core/open/open'
import { specAsFound } from '../../core/open/stored'
import { plainKernels } from '../oracles/kernels'
import { bytesFile, firstDifference, noise, testHost, writeFilm } from './support'

const host = await testHost()
const { kernels } = host

const WAYS: PlanarWay[] = [
  { start: 128, lines: false, words: true },
  { start: 0, lines: true, words: false }
]

test('pictures split, differ and join as their twins do', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 70 }),
      fc.integer({ min: 1, max: 40 }),
      fc.nat(1000),
      fc.boolean(),
      fc.constantFrom(...WAYS),
      (width, height, seed, alpha, way) => {
        const { samples } = noise({ width, height, depth: 8, seed, runs: (seed % 10) / 10 })
        const tops = height > 3 ? [0, Math.floor(height / 3), Math.floor((2 * height) / 3)] : [0]
        const size = { width, height }
        const found = kernels.planarSplit(samples as Uint8Array, size, { alpha, tops, way })
        expect(found).toEqual(plainKernels.planarSplit(samples as Uint8Array, size, { alpha, tops, way }))
        const planes = found.map(({ values }) => values)
        expect(kernels.planarJoin(planes, way)).toEqual(plainKernels.planarJoin(planes, way))
      }
    ),
    { numRuns: 60 }
  )
})

test('lengths fill the space of codes, are as short as any, and their codes come back', () => {
  fc.assert(
    fc.property(
      fc.array(fc.nat(255), { minLength: 2, maxLength: 600 }),
      fc.nat(3),
      fc.constantFrom(...WAYS),
      (given, power, way) => {
        const values = Uint8Array.from(given, value => Math.floor(value / 4 ** power))
        const counts = new Uint32Array(256)
        for (const value of values) counts[value]!++
        const lengths = codeLengths(counts)
        const used = [...lengths].filter(length => length !== ABSENT)
        if (used.length === 1) {
          expect(used).toEqual([0])
          return
        }
        expect(used.reduce((sum, length) => sum + 2 ** -length, 0)).toBe(1)
        const bits = values.reduce((sum, value) => sum + lengths[value]!, 0)
        const entropy = [...counts].reduce((sum, n) => (n ? sum - n * Math.log2(n / values.length) : sum), 0)
        expect(bits).toBeGreaterThanOrEqual(entropy - 1e-6)
        expect(bits).toBeLessThanOrEqual(entropy + values.length)
        const codes = codesOf(ascending(lengths))
        const bytes = kernels.planarCode(values, codes, way)
        expect(bytes).toEqual(plainKernels.planarCode(values, codes, way))
        const table = huffmanTable(ascending(lengths))!
        const how = { count: values.length, width: 7, median: false, way }
        expect(kernels.planarDecode(bytes, table, how)).toEqual(values)
        expect(kernels.planarDecode(bytes, table, { ...how, median: true })).toEqual(
          plainKernels.planarDecode(bytes, table, { ...how, median: true })
        )
        // words that end before the values do
        const cut = bytes.subarray(0, Math.max(0, bytes.length - 4))
        if (bits > 8 * cut.length) expect(kernels.planarDecode(cut, table, how)).toBeNull()
      }
    ),
    { numRuns: 120 }
  )
})

test('values of which some are very rare have codes of 24 bits at most', () => {
  const counts = new Uint32Array(256)
  let [a, b] = [1, 1]
  for (let value = 0; value < 40; value++) {
    counts[value] = a
    ;[a, b] = [b, a + b]
  }
  const lengths = codeLengths(counts)
  expect(Math.max(...[...lengths].filter(length => length !== ABSENT))).toBeLessThanOrEqual(24)
  expect(huffmanTable(ascending(lengths))).not.toBeNull()
})

test.each(['avi-utvideo', 'avi-magicyuv'] as const)('%s: noise, one colour, and no alpha come back', async format => {
  for (const [n, frame] of [
    noise({ width: 65, height: 70, depth: 8, seed: 3 }),
    noise({ width: 1, height: 1, depth: 8, seed: 4 }),
    { ...noise({ width: 33, height: 65, depth: 8, seed: 5 }), samples: new Uint8Array(4 * 33 * 65).fill(77) },
    noise({ width: 64, height: 64, depth: 8, seed: 6, alpha: OPAQUE })
  ].entries()) {
    const bytes = await writeFilm(format, [frame, frame])
    const source = await openSource(specAsFound(`${format} ${n}`, 'u', format, [bytesFile('u.avi', bytes)]), host)
    expect(firstDifference((await source.frame(1)).samples, frame.samples)).toBeNull()
    await source.close()
  }
})
