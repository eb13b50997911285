/** The plain twins of the kernels between codes and floats. */

// One loop for each pair of types: a loop that meets several kinds of array runs several times slower.

export function floats8(input: Uint8Array): Float32Array {
  const output = new Float32Array(input.length)
  for (let i = 0; i < input.length; i++) output[i] = input[i]! / 255
  return output
}

export function floats16(input: Uint16Array): Float32Array {
  const output = new Float32Array(input.length)
  for (let i = 0; i < input.length; i++) output[i] = input[i]! / 65535
  return output
}

export function codes8(input: Float32Array): Uint8Array {
  const output = new Uint8Array(input.length)
  for (let i = 0; i < input.length; i++) {
    const value = input[i]!
    output[i] = value >= 1 ? 255 : value > 0 ? (value * 255 + 0.5) | 0 : 0
  }
  return output
}

export function codes16(input: Float32Array): Uint16Array {
  const output = new Uint16Array(input.length)
  for (let i = 0; i < input.length; i++) {
    const value = input[i]!
    output[i] = value >= 1 ? 65535 : value > 0 ? (value * 65535 + 0.5) | 0 : 0
  }
  return output
}
