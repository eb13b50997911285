/** A canvas as wide as its holder, drawn in the tokens of the theme: what the ribbons under the viewer share. */
import { useElementSize } from '@vueuse/core'
import { ref, type Ref } from 'vue'

export interface Strip {
  holder: Ref<HTMLElement | null>
  canvas: Ref<HTMLCanvasElement | null>
  width: Ref<number>
  height: Ref<number>
  /** The canvas emptied and fitted to its holder, in pixels of the page; null while it has no size. */
  begin(): CanvasRenderingContext2D | null
  /** A colour of the theme. */
  token(name: string): string
}

export function useStrip(): Strip {
  const holder = ref<HTMLElement | null>(null)
  const canvas = ref<HTMLCanvasElement | null>(null)
  const { width, height } = useElementSize(holder)
  return {
    holder,
    canvas,
    width,
    height,
    begin() {
      const context = canvas.value?.getContext('2d')
      if (!context || !width.value) return null
      const ratio = window.devicePixelRatio
      Object.assign(context.canvas, {
        width: Math.round(width.value * ratio),
        height: Math.round(height.value * ratio)
      })
      context.scale(ratio, ratio)
      return context
    },
    token: name => getComputedStyle(document.documentElement).getPropertyValue(name).trim()
  }
}
