import fc from 'fast-check'
import { expect, test } from 'vitest'
import { readAs, withAlphaMode } from '../../core/frame/alpha'
import { withDepth } from '../../core/frame/depth'
import { allocateSamples, OPAQUE, STRAIGHT, type AlphaMode } from '../../core/frame/frame'
import { anyNoise, noise, testHost } from './support'

const BLACK: AlphaMode = { mode: 'premultiplied', matte: '#000000' }
const { kernels } = await testHost()

test('8 to 16 to 8 bits loses nothing, and 16 to 8 rounds to nearest', () => {
  fc.assert(
    fc.property(
      anyNoise(8),
      frame => void expect(withDepth(withDepth(frame, 16, kernels), 8, kernels).samples).toEqual(frame.samples)
    )
  )
  const wide = noise({ width: 64, height: 64, depth: 16, runs: 0 })
  const narrow = withDepth(wide, 8, kernels)
  wide.samples.forEach((code, i) => expect(narrow.samples[i]).toBe(Math.round(code / 257)))
})

test('16 bits to float and back loses nothing; float beyond 0 to 1 is clamped on its way to codes', () => {
  fc.assert(
    fc.property(
      anyNoise(16),
      frame => void expect(withDepth(withDepth(frame, 32, kernels), 16, kernels).samples).toEqual(frame.samples)
    )
  )
  const wild = {
    ...noise({ width: 2, height: 1, depth: 32 }),
    samples: new Float32Array([-1, 0.5, 2, NaN, 0, 1, Infinity, 1])
  }
  expect([...withDepth(wild, 8, kernels).samples]).toEqual([0, 128, 255, 0, 0, 255, 255, 255])
})

test('a path that changes nothing hands out the frame itself', () => {
  const frame = noise({ width: 3, height: 3, depth: 16 })
  expect(withDepth(frame, 16, kernels)).toBe(frame)
  expect(withAlphaMode(frame, STRAIGHT, kernels)).toBe(frame)
  expect(withAlphaMode(withAlphaMode(frame, BLACK, kernels), BLACK, kernels).samples).not.toEqual(frame.samples)
})

test('premultiplied on any matte un-mattes to the straight colour, exactly where alpha is full', () => {
  fc.assert(
    fc.property(anyNoise(16), fc.constantFrom('#ffffff', '#3fae4b', '#000000'), (frame, matte) => {
      const on: AlphaMode = { mode: 'premultiplied', matte }
      const back = withAlphaMode(withAlphaMode(frame, on, kernels), STRAIGHT, kernels)
      for (let i = 0; i < frame.samples.length; i += 4) {
        const a = frame.samples[i + 3]!
        expect(back.samples[i + 3]).toBe(a)
        for (let c = 0; c < 3; c++) {
          if (a === 65535) expect(back.samples[i + c]).toBe(frame.samples[i + c])
          else if (a > 0)
            expect(Math.abs(back.samples[i + c]! - frame.samples[i + c]!)).toBeLessThanOrEqual(65535 / (2 * a) + 0.5)
          else expect(back.samples[i + c]).toBe(0)
        }
      }
    })
  )
})

test('float premultiplies and un-premultiplies like the integers', () => {
  const frame = noise({ width: 20, height: 20, depth: 16, runs: 0 })
  const wide = withDepth(withAlphaMode(withDepth(frame, 32, kernels), BLACK, kernels), 16, kernels)
  const codes = withAlphaMode(frame, BLACK, kernels)
  wide.samples.forEach((code, i) => expect(Math.abs(code - codes.samples[i]!)).toBeLessThanOrEqual(1))
})

test('reading as without alpha keeps the stored colour and makes all solid; the frame given is left alone', () => {
  const frame = noise({ width: 4, height: 4, depth: 8 })
  const before = frame.samples.slice()
  const solid = readAs(frame, OPAQUE)
  for (let i = 0; i < solid.samples.length; i += 4) {
    expect(solid.samples[i + 3]).toBe(255)
    expect(solid.samples[i]).toBe(frame.samples[i])
  }
  expect(frame.samples).toEqual(before)
})

test('a picture too large is refused before memory is taken', () => {
  expect(() => allocateSamples(1 << 20, 1 << 20, 8)).toThrow(/larger than/)
  expect(() => allocateSamples(0, 5, 8)).toThrow(/larger than/)
})
