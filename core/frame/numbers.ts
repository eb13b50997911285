/** Float samples that are no numbers, have no end, or are an alpha that there cannot be; and how they are mended. */
import type { Frame } from './frame'

export interface BrokenValues {
  /** Pixels with a value that is no number or has no end, and the first of them. */
  broken: number
  first: { x: number; y: number } | null
  /** Pixels whose alpha lies below 0 or above 1, and how far it goes. */
  beyond: number
  least: number
  most: number
}

/** Alpha may lie so far beyond by rounding to half floats. */
const ROUNDING = 1e-3

/** What is wrong with the values of a frame; null where nothing is, as in all frames of whole codes. */
export function brokenValues({ samples, width, alpha }: Frame): BrokenValues | null {
  if (!(samples instanceof Float32Array)) return null
  const found: BrokenValues = { broken: 0, first: null, beyond: 0, least: 0, most: 1 }
  for (let i = 0; i < samples.length; i += 4) {
    const a = samples[i + 3]!
    // a sum is a number only if all of it is; what overflows is looked at again
    if (!Number.isFinite(samples[i]! + samples[i + 1]! + samples[i + 2]! + a) && isBroken(samples, i)) {
      found.broken++
      found.first ??= { x: (i >> 2) % width, y: Math.floor((i >> 2) / width) }
    } else if (alpha.mode !== 'none' && (a < -ROUNDING || a > 1 + ROUNDING)) {
      found.beyond++
      found.least = Math.min(found.least, a)
      found.most = Math.max(found.most, a)
    }
  }
  return found.broken || found.beyond ? found : null
}

function isBroken(samples: Float32Array, i: number): boolean {
  for (let c = 0; c < 4; c++) if (!Number.isFinite(samples[i + c]!)) return true
  return false
}

/** So far around a broken value numbers are sought. */
const REACH = 4

/** The mean of the numbers nearest to a value, in the smallest square around it that has any; 0 where none has. */
function fromAround({ samples, width, height }: Frame, x: number, y: number, c: number): number {
  for (let reach = 1; reach <= REACH; reach++) {
    let [sum, count] = [0, 0]
    for (let v = Math.max(0, y - reach); v <= Math.min(height - 1, y + reach); v++)
      for (let u = Math.max(0, x - reach); u <= Math.min(width - 1, x + reach); u++) {
        const value = samples[4 * (v * width + u) + c]!
        if (!Number.isFinite(value)) continue
        sum += value
        count++
      }
    if (count) return sum / count
  }
  return 0
}

/**
 * The frame with a number in place of each broken value, from those around it or 0, and with alpha held to 0 to 1 where
 * `holds`; the frame itself where nothing is broken.
 */
export function mendedValues(frame: Frame, { around, holds }: { around: boolean; holds: boolean }): Frame {
  const found = brokenValues(frame)
  if (!found || (!found.broken && !holds)) return frame
  const samples = (frame.samples as Float32Array).slice()
  for (let i = 0; i < samples.length; i += 4) {
    if (isBroken(samples, i)) {
      const [x, y] = [(i >> 2) % frame.width, Math.floor((i >> 2) / frame.width)]
      for (let c = 0; c < 4; c++)
        if (!Number.isFinite(frame.samples[i + c]!)) samples[i + c] = around ? fromAround(frame, x, y, c) : 0
    }
    if (holds) samples[i + 3] = Math.min(1, Math.max(0, samples[i + 3]!))
  }
  return { ...frame, samples }
}
