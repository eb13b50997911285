<script setup lang="ts">
/** Four small frames of a source over checker. */
import { computed, ref, watch } from 'vue'
import { useWorkshop } from '~/stores/workshop'
import { isAbort } from '~~/core/errors'
import { specKey } from '~~/core/work/context'
import type { SourceSpec } from '~~/core/source/source'

const {
  spec,
  frames,
  width = 57,
  height = 34,
  count = 4
} = defineProps<{ spec: SourceSpec | null; frames: number; width?: number; height?: number; count?: number }>()

const workshop = useWorkshop()
const canvases = ref<HTMLCanvasElement[]>([])
const indices = computed(() => {
  const shown = Math.min(count, frames)
  // from a little after the start, since many animations begin with nothing
  return Array.from({ length: shown }, (_, i) => Math.floor(((i + 0.7) * frames) / (shown + 0.4)))
})

watch(
  [() => spec && specKey(spec), indices, canvases],
  async (_now, _before, onCleanup) => {
    if (!spec) return
    const stop = new AbortController()
    onCleanup(() => stop.abort())
    for (const [n, index] of indices.value.entries()) {
      try {
        const ratio = window.devicePixelRatio
        const picture = await workshop.pool.run(
          'thumb',
          [spec, Math.min(index, frames - 1), Math.ceil(Math.max(width, height) * ratio * 1.5)],
          { signal: stop.signal }
        )
        const bitmap = await createImageBitmap(new ImageData(picture.pixels, picture.width, picture.height))
        const context = canvases.value[n]?.getContext('2d')
        if (!context) continue
        const scale = Math.min(context.canvas.width / bitmap.width, context.canvas.height / bitmap.height)
        const [w, h] = [bitmap.width * scale, bitmap.height * scale]
        context.clearRect(0, 0, context.canvas.width, context.canvas.height)
        context.imageSmoothingQuality = 'high'
        context.drawImage(bitmap, (context.canvas.width - w) / 2, (context.canvas.height - h) / 2, w, h)
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
  <div class="strip" :class="{ one: indices.length === 1 }" aria-hidden="true">
    <canvas
      v-for="index in indices"
      :key="index"
      ref="canvases"
      class="checker"
      :width="width * 2"
      :height="height * 2"
      :style="{ width: `${width}px`, height: `${height}px` }"
    />
  </div>
</template>

<style scoped>
.strip {
  display: grid;
  grid-template-columns: repeat(2, auto);
  gap: 2px;
  flex: none;
}

.strip.one {
  grid-template-columns: auto;
}

canvas {
  display: block;
}
</style>
