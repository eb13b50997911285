/** Frames that are parts laid on a canvas: how APNG, WebP and GIF animations are put together. */
import { allocateSamples, type AlphaMode, type Depth, type Frame, type Samples } from '../../../frame/frame'

export interface CanvasPart {
  x: number
  y: number
  width: number
  height: number
  /** What becomes of the part's place before the next frame. */
  dispose: 'leave' | 'clear' | 'previous'
  /** Whether the part replaces what is there or is laid over it. */
  blend: 'source' | 'over'
}

/** A part's own pixels, straight. */
export type DecodePart = (index: number) => Promise<Samples>

/** Over in straight alpha (PNG third edition, 11.3.6.2, APNG_BLEND_OP_OVER; WebP container, "alpha-blending"). */
function layOver(canvas: Samples, at: number, from: Samples, i: number, full: number): void {
  const a = from[i + 3]!
  if (a === full) for (let c = 0; c < 4; c++) canvas[at + c] = from[i + c]!
  else if (a > 0) {
    const under = (canvas[at + 3]! * (full - a)) / full
    const alpha = a + under
    for (let c = 0; c < 3; c++) canvas[at + c] = Math.floor((from[i + c]! * a + canvas[at + c]! * under) / alpha + 0.5)
    canvas[at + 3] = Math.floor(alpha + 0.5)
  }
}

/**
 * Plays parts onto a canvas that begins clear, forward from the last frame that wipes it whole; any frame may be asked
 * for.
 */
export class PartPlayer {
  private canvas: Samples | null = null
  private next = 0

  private readonly width: number
  private readonly height: number
  private readonly depth: Depth
  private readonly alpha: AlphaMode

  /** A canvas of this size, depth and alpha. */
  constructor(
    { width, height, depth, alpha }: { width: number; height: number; depth: Depth; alpha: AlphaMode },
    private readonly parts: readonly CanvasPart[],
    private readonly decode: DecodePart
  ) {
    this.width = width
    this.height = height
    this.depth = depth
    this.alpha = alpha
  }

  private covers(part: CanvasPart): boolean {
    return part.width === this.width && part.height === this.height
  }

  /** Whether decoding may begin with a frame: it replaces the whole canvas. */
  private standsAlone(index: number): boolean {
    const part = this.parts[index]!
    return index === 0 || (this.covers(part) && part.blend === 'source')
  }

  async frame(index: number, signal?: AbortSignal): Promise<Frame> {
    const { width, height, depth } = this
    if (this.standsAlone(index) || !this.canvas || index < this.next) {
      let start = index
      while (!this.standsAlone(start)) start--
      // what was played already serves, if it lies between
      if (!this.canvas || index < this.next || start > this.next) {
        this.canvas = null
        this.next = start
      }
    }
    let shown: Samples | null = null
    while (this.next <= index) {
      signal?.throwIfAborted()
      const part = this.parts[this.next]!
      const picture = await this.decode(this.next)
      const before = this.canvas ?? (this.covers(part) ? null : allocateSamples(width, height, depth))
      // what was there before is needed again only where the part's place goes back to it
      const under = before && part.dispose === 'previous' ? before.slice() : before
      shown = under ? this.lay(under, picture, part) : picture
      this.canvas = this.disposed(before, shown, part)
      this.next++
    }
    // who receives a frame may hand its memory on: it is kept only as a copy, and only where a later frame builds on it
    const kept = this.next < this.parts.length && !this.standsAlone(this.next)
    if (!kept) this.canvas = null
    else if (this.canvas === shown) this.canvas = shown!.slice()
    return { width, height, depth, samples: shown!, alpha: this.alpha, transfer: 'srgb' }
  }

  private lay(canvas: Samples, picture: Samples, part: CanvasPart): Samples {
    const full = this.depth === 16 ? 65535 : 255
    for (let y = 0; y < part.height; y++) {
      const at = 4 * ((part.y + y) * this.width + part.x)
      const from = 4 * y * part.width
      if (part.blend === 'source') canvas.set(picture.subarray(from, from + 4 * part.width), at)
      else for (let i = 0; i < 4 * part.width; i += 4) layOver(canvas, at + i, picture, from + i, full)
    }
    return canvas
  }

  /** The canvas the next frame begins with. */
  private disposed(before: Samples | null, shown: Samples, part: CanvasPart): Samples {
    if (part.dispose === 'leave') return shown
    if (part.dispose === 'previous' && before) return before
    // clear, and "previous" on the first frame, which counts as clear
    const canvas = shown.slice()
    for (let y = 0; y < part.height; y++) {
      const at = 4 * ((part.y + y) * this.width + part.x)
      canvas.fill(0, at, at + 4 * part.width)
    }
    return canvas
  }
}
