// Rows of a TIFF strip: RGBA with alpha left out where it is not wanted, each sample as its difference from the pixel
// before.

/** `wide` 1 for u16 samples. `from` may be `to` with 4 channels; rows are done from their ends. */
export function stripRows(from: usize, to: usize, width: i32, rows: i32, channels: i32, wide: i32, predicted: i32): void {
  const count = width * rows
  const each: usize = wide ? 2 : 1
  if (channels == 3) {
    for (let p = 0; p < count; p++)
      for (let c = 0; c < 3; c++) {
        const a = from + ((<usize>(4 * p + c)) << (each - 1))
        const b = to + ((<usize>(3 * p + c)) << (each - 1))
        if (wide) store<u16>(b, load<u16>(a))
        else store<u8>(b, load<u8>(a))
      }
  } else if (from != to) memory.copy(to, from, (<usize>(4 * count)) << (each - 1))
  if (!predicted) return
  const pixel = <usize>channels << (each - 1)
  const line = <usize>width * pixel
  for (let y = 0; y < rows; y++) {
    const start = to + <usize>y * line
    let at = start + line
    // sixteen bytes at a time, from the end, as long as a whole pixel lies before them
    while (at >= start + pixel + 16) {
      at -= 16
      const here = v128.load(at)
      const before = v128.load(at - pixel)
      v128.store(at, wide ? i16x8.sub(here, before) : i8x16.sub(here, before))
    }
    while (at > start + pixel) {
      at -= each
      if (wide) store<u16>(at, load<u16>(at) - load<u16>(at - pixel))
      else store<u8>(at, load<u8>(at) - load<u8>(at - pixel))
    }
  }
}
