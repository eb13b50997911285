// All memory behind the few static bytes is one scratch area: the caller lays its input and output there and copies the
// output away before the next call. There is no allocator, so nothing can leak.

/** Makes at least `bytes` of scratch room and returns where it begins, or 0 if memory cannot grow that far. */
export function reserve(bytes: usize): usize {
  const start = (__heap_base + 63) & ~63
  const pages = <i32>((start + bytes + 0xffff) >>> 16)
  const missing = pages - memory.size()
  if (missing > 0 && memory.grow(missing) < 0) return 0
  return start
}
