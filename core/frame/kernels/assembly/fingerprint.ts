// Four lanes that each mix every fourth word; see core/frame/kernels/fingerprint.ts, which also begins and ends them.

/** Mixes `blocks` blocks of 16 bytes at `from` into the four u32 lanes at `lanes`. */
export function mixBlocks(from: usize, blocks: i32, lanes: usize): void {
  const c1 = i32x4.splat(0xcc9e2d51)
  const c2 = i32x4.splat(0x1b873593)
  const add = i32x4.splat(0xe6546b64)
  let h = v128.load(lanes)
  for (let i = 0; i < blocks; i++) {
    let k = i32x4.mul(v128.load(from), c1)
    k = i32x4.mul(v128.or(i32x4.shl(k, 15), i32x4.shr_u(k, 17)), c2)
    h = v128.xor(h, k)
    h = v128.or(i32x4.shl(h, 13), i32x4.shr_u(h, 19))
    h = i32x4.add(i32x4.add(h, i32x4.shl(h, 2)), add)
    from += 16
  }
  v128.store(lanes, h)
}
