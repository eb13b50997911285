<script lang="ts">
let checker: [string, string] | null = null
/** The two greys of the checker, the same in both themes: asked once, since asking lays out the page. */
function checkerOf(element: Element): [string, string] {
  const style = checker ? null : getComputedStyle(element)
  checker ??= [style!.getPropertyValue('--checker-a'), style!.getPropertyValue('--checker-b')]
  return checker
}
</script>

<script setup lang="ts">
/** Four small frames of a source over checker, drawn once it stands: what only scrolls by is a plain patch. */
import { until } from '@vueuse/core'
import { computed, nextTick, ref, watch } from 'vue'
import { keepLook, keptLook } from '~/db/looks'
import { useRows } from '~/stores/rows'
import { useWorkshop } from '~/stores/workshop'
import { isAbort } from '~~/core/base/errors'
import { specKey } from '~~/core/source/identity'
import type { SourceSpec } from '~~/core/source/source'

const {
  spec,
  frames,
  width = 57,
  height = 34,
  count = 4
} = defineProps<{ spec: SourceSpec | null; frames: number; width?: number; height?: number; count?: number }>()

const workshop = useWorkshop()
const board = useRows()
const canvas = ref<HTMLCanvasElement | null>(null)
const stands = ref(false)
const indices = computed(() => {
  const shown = Math.min(count, frames)
  // from a little after the start, since many animations begin with nothing
  return Array.from({ length: shown }, (_, i) => Math.floor(((i + 0.7) * frames) / (shown + 0.4)))
})
const across = computed(() => Math.min(2, indices.value.length))
const down = computed(() => Math.ceil(indices.value.length / 2))
const GAP = 2
/** Pixels of the canvas for one of the page. */
const FINE = 2
const SQUARE = 6
const whole = computed(() => ({
  width: across.value * (width + GAP) - GAP,
  height: down.value * (height + GAP) - GAP
}))

/** The checker where picture `n` stands; the gaps between stay open. One canvas is one layer to the browser. */
function clearPlace(context: CanvasRenderingContext2D, n: number): { x: number; y: number } {
  const [x, y] = [FINE * (n % 2) * (width + GAP), FINE * Math.floor(n / 2) * (height + GAP)]
  const side = FINE * SQUARE
  const [light, dark] = checkerOf(context.canvas)
  context.fillStyle = light
  context.fillRect(x, y, FINE * width, FINE * height)
  context.fillStyle = dark
  for (let v = 0; v < FINE * height; v += side)
    for (let u = (v / side) % 2 ? 0 : side; u < FINE * width; u += 2 * side)
      context.fillRect(x + u, y + v, Math.min(side, FINE * width - u), Math.min(side, FINE * height - v))
  return { x, y }
}

watch(
  [() => spec && specKey(spec), indices],
  async (_now, _before, onCleanup) => {
    const stop = new AbortController()
    onCleanup(() => stop.abort())
    stands.value = false
    // what only scrolls by is not worth a worker's time, nor the browser's: it takes up every canvas in every frame
    await until(() => board.moves).toBe(false)
    if (stop.signal.aborted) return
    stands.value = true
    await nextTick()
    const context = canvas.value?.getContext('2d')
    if (!context) return
    for (const n of indices.value.keys()) clearPlace(context, n)
    if (!spec) return
    for (const [n, index] of indices.value.entries()) {
      try {
        const ratio = window.devicePixelRatio
        const [frame, side] = [Math.min(index, frames - 1), Math.ceil(Math.max(width, height) * ratio * 1.5)]
        const of = `${specKey(spec)} ${frame} ${side}`
        const kept = await keptLook<{ pixels: Uint8ClampedArray<ArrayBuffer>; width: number; height: number }>(
          'thumb',
          of
        )
        const picture = kept ?? (await workshop.pool.run('thumb', [spec, frame, side], { signal: stop.signal }))
        if (!kept) void keepLook('thumb', of, { ...picture })
        if (stop.signal.aborted) return
        const bitmap = await createImageBitmap(new ImageData(picture.pixels, picture.width, picture.height))
        const place = clearPlace(context, n)
        const scale = Math.min((FINE * width) / bitmap.width, (FINE * height) / bitmap.height)
        const [w, h] = [bitmap.width * scale, bitmap.height * scale]
        context.imageSmoothingQuality = 'high'
        context.drawImage(bitmap, place.x + (FINE * width - w) / 2, place.y + (FINE * height - h) / 2, w, h)
        bitmap.close()
      } catch (error) {
        // a frame that cannot be shown stays checker; the source itself says why when it is examined
        if (isAbort(error)) return
      }
    }
  },
  { immediate: true, flush: 'post' }
)
</script>

<template>
  <span class="strip" aria-hidden="true" :style="{ width: `${whole.width}px`, height: `${whole.height}px` }">
    <canvas v-if="stands" ref="canvas" :width="FINE * whole.width" :height="FINE * whole.height" />
  </span>
</template>

<style scoped>
.strip {
  display: block;
  flex: none;
  background: var(--checker-a);
}

canvas {
  display: block;
  width: 100%;
  height: 100%;
}
</style>
