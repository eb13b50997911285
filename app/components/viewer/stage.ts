/** Where the picture stands on the viewer's stage: zoom, place, and which pixel lies under the pointer. */
import { useElementSize, type UseElementSizeReturn } from '@vueuse/core'
import { computed, ref, type ComputedRef, type Ref } from 'vue'

interface Shown {
  width: number
  height: number
  /** Whether something around the picture is taken hold of, for which room is left. */
  around: boolean
}

interface Rectangle {
  x: number
  y: number
  width: number
  height: number
}

/**
 * Least space beside a picture that fits, both sides together, in CSS pixels; and the share of the stage it takes with
 * room around it.
 */
const BESIDE = 24
const WITH_ROOM = 0.6

export interface Stage {
  size: UseElementSizeReturn
  zoom: Ref<'fit' | number>
  pan: Ref<{ x: number; y: number }>
  /** CSS pixels for one of the picture. */
  scale: ComputedRef<number>
  percent: ComputedRef<string>
  /** The picture on the stage, in CSS pixels, for what lies over it. */
  boxShown: ComputedRef<Rectangle>
  /** The same in the screen's own pixels, on whole ones. */
  box(): Rectangle
  nextZoom(): void
  /** The pixel under the pointer stays under it. */
  wheel(event: WheelEvent): void
  pixelAt(event: PointerEvent): { x: number; y: number } | null
}

export function useStage(frame: Ref<HTMLElement | null>, shown: () => Shown): Stage {
  const size = useElementSize(frame)
  const zoom = ref<'fit' | number>('fit')
  const pan = ref({ x: 0, y: 0 })
  const fits = computed(() => {
    const { width, height, around } = shown()
    const share = around ? WITH_ROOM : 1
    return Math.min(((size.width.value - BESIDE) * share) / width, ((size.height.value - BESIDE) * share) / height, 8)
  })
  const scale = computed(() => (zoom.value === 'fit' ? Math.max(0.01, fits.value) : zoom.value))
  const percent = computed(() => `${zoom.value === 'fit' ? 'fit ' : ''}${Math.round(scale.value * 100)} %`)

  function placed(ratio: number): Rectangle {
    const { width, height } = shown()
    const [w, h] = [width * scale.value * ratio, height * scale.value * ratio]
    return {
      x: (size.width.value * ratio - w) / 2 + pan.value.x * ratio,
      y: (size.height.value * ratio - h) / 2 + pan.value.y * ratio,
      width: w,
      height: h
    }
  }

  const boxShown = computed(() => placed(1))
  const box = (): Rectangle => {
    const at = placed(window.devicePixelRatio)
    return { ...at, x: Math.round(at.x), y: Math.round(at.y) }
  }

  return {
    size,
    zoom,
    pan,
    scale,
    percent,
    boxShown,
    box,
    nextZoom() {
      const steps: ('fit' | number)[] = ['fit', 1, 2, 8]
      zoom.value = steps[(steps.indexOf(zoom.value) + 1) % steps.length] ?? 'fit'
      if (zoom.value === 'fit') pan.value = { x: 0, y: 0 }
    },
    wheel(event) {
      const before = scale.value
      const after = Math.max(0.05, Math.min(32, before * (event.deltaY < 0 ? 1.25 : 0.8)))
      const area = frame.value!.getBoundingClientRect()
      const [mx, my] = [event.clientX - area.left - area.width / 2, event.clientY - area.top - area.height / 2]
      pan.value = { x: mx - ((mx - pan.value.x) * after) / before, y: my - ((my - pan.value.y) * after) / before }
      zoom.value = after
    },
    pixelAt(event) {
      const { width, height } = shown()
      const area = frame.value!.getBoundingClientRect()
      const ratio = window.devicePixelRatio
      const at = box()
      const x = Math.floor(((event.clientX - area.left) * ratio - at.x) / (scale.value * ratio))
      const y = Math.floor(((event.clientY - area.top) * ratio - at.y) / (scale.value * ratio))
      return x >= 0 && y >= 0 && x < width && y < height ? { x, y } : null
    }
  }
}
