/** Filters of one channel. */

function boxRow(from: Float32Array, to: Float32Array, width: number, height: number, radius: number): void {
  const share = 1 / (2 * radius + 1)
  for (let y = 0; y < height; y++) {
    const row = y * width
    const at = (x: number): number => from[row + Math.max(0, Math.min(width - 1, x))]!
    let sum = 0
    for (let x = -radius; x <= radius; x++) sum += at(x)
    for (let x = 0; x < width; x++) {
      to[row + x] = sum * share
      sum += at(x + radius + 1) - at(x - radius)
    }
  }
}

function turned(from: Float32Array, width: number, height: number): Float32Array {
  const to = new Float32Array(from.length)
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) to[x * height + y] = from[y * width + x]!
  return to
}

/** Softens by about `radius` pixels: three boxes along each axis, mixed with the next narrower ones for what lies between. */
export function soften(plane: Float32Array, width: number, height: number, radius: number): Float32Array {
  const pass = (input: Float32Array, r: number): Float32Array => {
    if (r === 0) return input
    let a: Float32Array = input.slice()
    let b = new Float32Array(input.length)
    for (const [w, h] of [[width, height], [height, width]] as const) {
      for (let n = 0; n < 3; n++) {
        boxRow(a, b, w, h, r)
        ;[a, b] = [b, a as Float32Array<ArrayBuffer>]
      }
      a = turned(a, w, h)
    }
    return a
  }
  const low = Math.floor(radius)
  const share = radius - low
  const narrow = pass(plane, low)
  if (share === 0) return narrow
  const wide = pass(plane, low + 1)
  return narrow.map((value, i) => value + (wide[i]! - value) * share)
}

/** The largest value within a disc of whole `radius` around each pixel. */
function largest(plane: Float32Array, width: number, height: number, radius: number): Float32Array {
  if (radius === 0) return plane
  const result = plane.slice()
  const reaches = new Map<number, Float32Array>()
  for (let dy = -radius; dy <= radius; dy++) {
    const reach = Math.floor(Math.sqrt(radius * radius - dy * dy + 0.25 * radius))
    let row = reaches.get(reach)
    if (!row) {
      row = plane.slice()
      for (let y = 0; y < height; y++) {
        for (let x = 0; x < width; x++) {
          let most = 0
          for (let u = Math.max(0, x - reach); u <= Math.min(width - 1, x + reach); u++) most = Math.max(most, plane[y * width + u]!)
          row[y * width + x] = most
        }
      }
      reaches.set(reach, row)
    }
    for (let y = Math.max(0, -dy); y < Math.min(height, height - dy); y++) {
      for (let x = 0; x < width; x++) {
        const value = row[(y + dy) * width + x]!
        if (value > result[y * width + x]!) result[y * width + x] = value
      }
    }
  }
  return result
}

/** Grown by `by` pixels, or shrunk where it is negative; parts of a pixel lie between the two whole ones. */
export function grow(plane: Float32Array, width: number, height: number, by: number): Float32Array {
  const shrinks = by < 0
  const [input, size] = [shrinks ? plane.map(v => 1 - v) : plane, Math.abs(by)]
  const low = Math.floor(size)
  const near = largest(input, width, height, low)
  const far = size > low ? largest(input, width, height, low + 1) : near
  return near.map((value, i) => {
    const mixed = value + (far[i]! - value) * (size - low)
    return shrinks ? 1 - mixed : mixed
  })
}

/** Groups of touching pixels (eight neighbours) that pass `test`; `visit` is handed each group's places. */
export function islands(length: number, width: number, test: (place: number) => boolean, visit: (places: Int32Array) => void): void {
  const seen = new Uint8Array(length)
  const queue = new Int32Array(length)
  const height = length / width
  for (let start = 0; start < length; start++) {
    if (seen[start] || !test(start)) continue
    let [from, to] = [0, 0]
    queue[to++] = start
    seen[start] = 1
    while (from < to) {
      const place = queue[from++]!
      const [x, y] = [place % width, Math.floor(place / width)]
      for (let v = Math.max(0, y - 1); v <= Math.min(height - 1, y + 1); v++) {
        for (let u = Math.max(0, x - 1); u <= Math.min(width - 1, x + 1); u++) {
          const next = v * width + u
          if (seen[next] || !test(next)) continue
          seen[next] = 1
          queue[to++] = next
        }
      }
    }
    visit(queue.slice(0, to))
  }
}
