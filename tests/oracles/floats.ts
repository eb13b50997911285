/** The plain twins of the kernels between codes and floats. */

// One loop for each pair of types: a loop that meets several kinds of array runs several times slower.

export function floats8(input: Uint8Array, output: Float32Array = new Float32Array(input.length)): Float32Array {
  for (let i = 0; i < input.length; i++) output[i] = input[i]! / 255
  return output
}

export function floats16(input: Uint16Array, output: Float32Array = new Float32Array(input.length)): Float32Array {
  for (let i = 0; i < input.length; i++) output[i] = input[i]! / 65535
  return output
}

export function codes8(input: Float32Array, output: Uint8Array = new Uint8Array(input.length)): Uint8Array {
  for (let i = 0; i < input.length; i++) {
    const value = input[i]!
    output[i] = value >= 1 ? 255 : value > 0 ? (value * 255 + 0.5) | 0 : 0
  }
  return output
}

export function codes16(input: Float32Array, output: Uint16Array = new Uint16Array(input.length)): Uint16Array {
  for (let i = 0; i < input.length; i++) {
    const value = input[i]!
    output[i] = value >= 1 ? 65535 : value > 0 ? (value * 65535 + 0.5) | 0 : 0
  }
  return output
}
