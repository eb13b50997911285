/**
 * Frames on lease: who has a lease may read its frame until the lease ends, and only an ended lease gives memory back.
 * Fresh memory of a frame's size is slow to come by, so what ends is used again for the next frame.
 */
interface Sampled {
  readonly samples: Uint8Array | Uint16Array | Float32Array
}

/** Where memory comes back to: the kernels, which know a lease and are not known by it. */
interface Returns {
  takeBack(ended: Ended): void
}

/** Leases that run on each buffer: a conversion with nothing to do hands out the frame that it was given. */
const running = new WeakMap<ArrayBufferLike, number>()

/** A frame whose samples belong to the holder of the lease alone. */
export class Lease<F extends Sampled> {
  private held: F | null

  constructor(
    frame: F,
    private readonly kernels: Returns
  ) {
    this.held = frame
    const { buffer } = frame.samples
    running.set(buffer, (running.get(buffer) ?? 0) + 1)
  }

  /** The frame. Throws once the lease has ended. */
  get frame(): F {
    if (!this.held) throw new TypeError('a frame was used after its lease had ended')
    return this.held
  }

  /** Ends the lease and hands its frame on for good: its memory comes back to nobody. */
  keep(): F {
    const { frame } = this
    // whatever other leases run on the same samples, none of them is the last
    running.set(frame.samples.buffer, Infinity)
    this.held = null
    return frame
  }

  /**
   * Ends the lease. The last one on a buffer gives the buffer back: from then on nobody can read it. A second end does
   * nothing.
   */
  end(): void {
    if (!this.held) return
    const { samples } = this.held
    this.held = null
    const left = running.get(samples.buffer)! - 1
    running.set(samples.buffer, left)
    if (left === 0) this.kernels.takeBack(new Ended(samples))
  }
}

/** Samples that no lease runs on any more; nobody but a lease makes one. */
class Ended {
  // a member of its own keeps anything else from being taken for it
  readonly #samples: Sampled['samples']

  constructor(samples: Sampled['samples']) {
    this.#samples = samples
  }

  /** Their buffer, moved out of everybody's reach; null where it is shared with more than these samples. */
  buffer(): ArrayBuffer | null {
    const { buffer, byteLength } = this.#samples
    if (!(buffer instanceof ArrayBuffer) || byteLength !== buffer.byteLength || byteLength === 0) return null
    return structuredClone(buffer, { transfer: [buffer] })
  }
}

export type { Ended }

/** Does some work on frames that are leased meanwhile, and ends their leases however it ends. */
export async function leasing<T>(
  kernels: Returns,
  work: (lease: <F extends Sampled>(frame: F) => Lease<F>) => Promise<T> | T
): Promise<T> {
  const leases: Lease<Sampled>[] = []
  try {
    return await work(frame => {
      const lease = new Lease(frame, kernels)
      leases.push(lease)
      return lease
    })
  } finally {
    for (const lease of leases) lease.end()
  }
}
