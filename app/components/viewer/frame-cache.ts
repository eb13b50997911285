/** Decoded pictures of a viewer, kept within a budget; the least recently used go first. */
import type { ViewPixels } from '~~/core/judge/view/pixels'
import { isAbort } from '~~/core/base/errors'

/** Bytes of pictures kept ready for playing. */
const BUDGET = 256 << 20

export class FrameCache {
  private readonly kept = new Map<string, ImageBitmap>()
  private readonly coming = new Map<string, Promise<ImageBitmap | null>>()
  private bytes = 0
  private generation = 0
  private stop = new AbortController()

  get(key: string): ImageBitmap | null {
    const bitmap = this.kept.get(key)
    if (!bitmap) return null
    this.kept.delete(key)
    this.kept.set(key, bitmap)
    return bitmap
  }

  /**
   * The picture under `key`, made by `make` unless it is here or on its way. Null when the cache was cleared meanwhile.
   */
  load(key: string, make: (signal: AbortSignal) => Promise<ViewPixels>): Promise<ImageBitmap | null> {
    const here = this.get(key)
    if (here) return Promise.resolve(here)
    const waiting = this.coming.get(key)
    if (waiting) return waiting
    const { generation } = this
    const promise = make(this.stop.signal)
      .then(picture => createImageBitmap(new ImageData(picture.pixels, picture.width, picture.height)))
      .then(bitmap => {
        if (generation !== this.generation) {
          bitmap.close()
          return null
        }
        this.keep(key, bitmap)
        return bitmap
      })
      .catch((error: unknown) => {
        if (isAbort(error)) return null
        throw error
      })
      .finally(() => {
        if (generation === this.generation) this.coming.delete(key)
      })
    this.coming.set(key, promise)
    return promise
  }

  private keep(key: string, bitmap: ImageBitmap): void {
    this.kept.set(key, bitmap)
    this.bytes += bitmap.width * bitmap.height * 4
    for (const [old, other] of this.kept) {
      if (this.bytes <= BUDGET || old === key) break
      this.kept.delete(old)
      this.bytes -= other.width * other.height * 4
      other.close()
    }
  }

  clear(): void {
    this.generation++
    this.stop.abort()
    this.stop = new AbortController()
    for (const bitmap of this.kept.values()) bitmap.close()
    this.kept.clear()
    this.coming.clear()
    this.bytes = 0
  }
}
