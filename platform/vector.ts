/** Vector animations through a library's player, on surfaces of 32-bit floats; the same in a browser and on Node. */
import type { CanvasKit } from 'canvaskit-wasm'
import type { VectorPlayer } from '../core/frame/host'

/** A player over the library, which `load` brings when it is first needed. */
export function vectorPlayer(load: () => Promise<CanvasKit>): VectorPlayer {
  let loading: Promise<CanvasKit> | null = null
  const library = (): Promise<CanvasKit> => {
    loading ??= load().catch((error: unknown) => {
      loading = null
      throw error
    })
    return loading
  }
  return {
    async open(text, { width, height }) {
      const kit = await library()
      const animation = kit.MakeManagedAnimation(text)
      if (!animation) throw new Error('the player finds no animation in it')
      const memory = kit.Malloc(Float32Array, 4 * width * height)
      const surface = kit.MakeRasterDirectSurface(
        {
          width,
          height,
          colorType: kit.ColorType.RGBA_F32,
          alphaType: kit.AlphaType.Premul,
          colorSpace: kit.ColorSpace.SRGB
        },
        memory,
        16 * width
      )
      if (!surface) {
        kit.Free(memory)
        animation.delete()
        throw new Error('there is no room for its picture')
      }
      const shown = surface
      const canvas = shown.getCanvas()
      const picture = kit.LTRBRect(0, 0, width, height)
      let open = true
      return {
        frame(number) {
          try {
            return drawn(number)
          } catch (error) {
            // a library that gave up is of no more use to anybody; the next animation begins with a fresh one
            loading = null
            open = false
            throw new Error('the player gave up on it: it asks for more than there is', { cause: error })
          }
        },
        close() {
          if (!open) return
          open = false
          shown.delete()
          animation.delete()
          kit.Free(memory)
        }
      }
      function drawn(number: number): Float32Array {
        canvas.clear(kit.TRANSPARENT)
        animation.seekFrame(number)
        animation.render(canvas, picture)
        shown.flush()
        return memory.toTypedArray() as Float32Array
      }
    }
  }
}
