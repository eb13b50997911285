// Memory behind the static bytes: first what is kept for good (tables), then one scratch area. The caller lays its
// input and output in the scratch area and copies the output away before the next call. There is no allocator, so
// nothing can leak.

let kept: usize = 0

// @ts-ignore: decorator
@inline
function grown(end: usize): bool {
  const pages = <i32>((end + 0xffff) >>> 16)
  const missing = pages - memory.size()
  return missing <= 0 || memory.grow(missing) >= 0
}

function start(): usize {
  return ((__heap_base + 63) & ~63) + kept
}

/**
 * Takes `bytes` for good and returns where they begin, or 0 if memory cannot grow that far. All `keep` come before any
 * `reserve`.
 */
export function keep(bytes: usize): usize {
  const at = start()
  if (!grown(at + bytes)) return 0
  kept += (bytes + 63) & ~63
  return at
}

/** Makes at least `bytes` of scratch room and returns where it begins, or 0 if memory cannot grow that far. */
export function reserve(bytes: usize): usize {
  const at = start()
  return grown(at + bytes) ? at : 0
}
