/** 16-bit floats (IEEE 754 binary16, as OpenEXR's HALF). */

const bits = new Uint32Array(1)
const float = new Float32Array(bits.buffer)

/** The half nearest to `value`, ties to even; too large becomes infinity. */
export function toHalf(value: number): number {
  float[0] = value
  const f = bits[0]!
  const sign = (f >>> 16) & 0x8000
  const magnitude = f & 0x7fffffff
  if (magnitude >= 0x7f800000) return sign | 0x7c00 | (magnitude > 0x7f800000 ? 0x200 : 0)
  if (magnitude >= 0x477ff000) return sign | 0x7c00
  if (magnitude >= 0x38800000) {
    const rebased = magnitude - 0x38000000
    return sign | ((rebased + 0xfff + ((rebased >>> 13) & 1)) >>> 13)
  }
  // below the smallest normal: the value in units of the smallest half, rounded to even
  const units = Math.abs(value) * 2 ** 24
  const floor = Math.floor(units)
  const rest = units - floor
  return sign | (rest > 0.5 || (rest === 0.5 && floor & 1) ? floor + 1 : floor)
}

const HALVES = new Float32Array(65536)
for (let h = 0; h < 65536; h++) {
  const exponent = (h >> 10) & 31
  const fraction = h & 1023
  const magnitude =
    exponent === 31
      ? fraction
        ? NaN
        : Infinity
      : exponent === 0
        ? fraction * 2 ** -24
        : (1 + fraction / 1024) * 2 ** (exponent - 15)
  HALVES[h] = h & 0x8000 ? -magnitude : magnitude
}

/** The number that 16 bits of IEEE 754 binary16 stand for. */
export function fromHalf(half: number): number {
  return HALVES[half]!
}

/** Every value rounded to the nearest half. */
export function roundToHalf(values: Float32Array): Float32Array {
  return values.map(value => HALVES[toHalf(value)]!)
}
