/** How OpenEXR packs scan lines: bytes sorted into halves and taken as differences, then run lengths or zlib. */

/** Even bytes first, then odd; each as the difference from the one before. */
export function predict(raw: Uint8Array): Uint8Array {
  const out = new Uint8Array(raw.length)
  const half = (raw.length + 1) >> 1
  for (let i = 0; i < raw.length; i++) out[(i & 1 ? half : 0) + (i >> 1)] = raw[i]!
  for (let i = out.length - 1; i > 0; i--) out[i] = (out[i]! - out[i - 1]! + 384) & 255
  return out
}

/** The bytes that were split in halves and turned to differences, as they were. */
export function unpredict(packed: Uint8Array): Uint8Array {
  const flat = packed.slice()
  for (let i = 1; i < flat.length; i++) flat[i] = (flat[i - 1]! + flat[i]! - 128) & 255
  const out = new Uint8Array(flat.length)
  const half = (flat.length + 1) >> 1
  for (let i = 0; i < out.length; i++) out[i] = flat[(i & 1 ? half : 0) + (i >> 1)]!
  return out
}

/**
 * Run lengths: a count of 0 to 127 repeats the next byte that often and once more, -n says that n bytes follow as they
 * are.
 */
export function packRuns(bytes: Uint8Array): Uint8Array {
  const out = new Uint8Array(bytes.length + (bytes.length >> 6) + 16)
  let at = 0
  let from = 0
  while (from < bytes.length) {
    let run = 1
    while (run < 128 && from + run < bytes.length && bytes[from + run] === bytes[from]) run++
    if (run >= 3) {
      out[at++] = run - 1
      out[at++] = bytes[from]!
      from += run
      continue
    }
    let end = from + run
    while (end < bytes.length && end - from < 127 && !(bytes[end] === bytes[end + 1] && bytes[end] === bytes[end + 2]))
      end++
    out[at++] = 256 - (end - from)
    out.set(bytes.subarray(from, end), at)
    at += end - from
    from = end
  }
  return out.slice(0, at)
}

/** Exactly `size` bytes, or null when the runs are damaged. */
export function unpackRuns(packed: Uint8Array, size: number): Uint8Array | null {
  const out = new Uint8Array(size)
  let at = 0
  for (let i = 0; i < packed.length;) {
    const count = (packed[i++]! << 24) >> 24
    if (count < 0) {
      const run = packed.subarray(i, i - count)
      if (run.length < -count || at - count > size) return null
      out.set(run, at)
      i -= count
      at -= count
    } else {
      if (i >= packed.length || at + count + 1 > size) return null
      out.fill(packed[i++]!, at, at + count + 1)
      at += count + 1
    }
  }
  return at === size ? out : null
}
