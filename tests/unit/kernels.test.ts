import fc from 'fast-check'
import { beforeAll, expect, test } from 'vitest'
import type { Kernels } from '../../core/kernels/kernels'
import { plainKernels as plain } from '../../core/kernels/plain'
import { testHost } from './support'

let wasm: Kernels
beforeAll(async () => void (wasm = (await testHost()).kernels))

const codes8 = fc.uint8Array({ minLength: 0, maxLength: 400 }).map(a => a.subarray(0, a.length & ~3))
const codes16 = fc.uint16Array({ minLength: 0, maxLength: 400 }).map(a => a.subarray(0, a.length & ~3))
const matte = (max: number) => fc.tuple(...([0, 1, 2].map(() => fc.integer({ min: 0, max })) as [fc.Arbitrary<number>, fc.Arbitrary<number>, fc.Arbitrary<number>]))

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
        for (let c = 0; c < 3; c++) if (a > 0) expect(Math.abs(back[i + c]! - s[i + c]!)).toBeLessThanOrEqual(65535 / (2 * a) + 0.5)
      }
    })
  )
})

const rows = fc.record({ stride: fc.integer({ min: 1, max: 70 }), height: fc.integer({ min: 1, max: 9 }), pixelBytes: fc.constantFrom(1, 2, 3, 4, 6, 8), seed: fc.integer() }).chain(shape => fc.uint8Array({ minLength: shape.stride * shape.height, maxLength: shape.stride * shape.height }).map(bytes => ({ ...shape, bytes })))

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

test('unfiltering takes every filter type and refuses others', () => {
  fc.assert(
    fc.property(rows, fc.array(fc.integer({ min: 0, max: 4 }), { minLength: 9, maxLength: 9 }), ({ stride, height, pixelBytes, bytes }, types) => {
      const filtered = new Uint8Array((stride + 1) * height)
      for (let y = 0; y < height; y++) {
        filtered[y * (stride + 1)] = types[y]!
        filtered.set(bytes.subarray(y * stride, (y + 1) * stride), y * (stride + 1) + 1)
      }
      expect(wasm.pngUnfilter(filtered, stride, height, pixelBytes)).toEqual(plain.pngUnfilter(filtered, stride, height, pixelBytes))
      filtered[(height - 1) * (stride + 1)] = 5
      expect(wasm.pngUnfilter(filtered, stride, height, pixelBytes)).toBeNull()
      expect(plain.pngUnfilter(filtered, stride, height, pixelBytes)).toBeNull()
    })
  )
})
