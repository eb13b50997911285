<script setup lang="ts">
/** The outline of the clip's sound under its ribbon, frame below frame. */
import { useStrip } from '~/composables/useStrip'
import { watch } from 'vue'

const { peaks, frames, index, dim } = defineProps<{
  peaks: Float32Array
  frames: number
  index: number
  dim: boolean
}>()

const { holder, canvas, width, height, begin, token } = useStrip()

function draw(): void {
  const context = begin()
  if (!context) return
  const [w, middle] = [width.value, height.value / 2]
  context.fillStyle = token('--line')
  context.fillRect(0, middle - 0.5, w, 1)
  context.fillStyle = token('--verdigris-fill')
  const columns = peaks.length / 2
  for (let x = 0; x < w; x++) {
    // what falls on one pixel is its lowest and highest together
    let [low, high] = [0, 0]
    const end = Math.max(Math.floor((x * columns) / w) + 1, Math.floor(((x + 1) * columns) / w))
    for (let c = Math.floor((x * columns) / w); c < end && c < columns; c++) {
      low = Math.min(low, peaks[2 * c]!)
      high = Math.max(high, peaks[2 * c + 1]!)
    }
    if (high > low) context.fillRect(x, middle - high * middle, 1, Math.max(1, (high - low) * middle))
  }
  context.fillStyle = token('--ink')
  context.fillRect(Math.round(((index + 0.5) * w) / frames) - 1, 0, 2, height.value)
}

watch([() => peaks, () => frames, () => index, () => dim, width, height], draw, { immediate: true, flush: 'post' })
</script>

<template>
  <div ref="holder" class="sound" role="img" aria-label="Outline of the sound">
    <canvas ref="canvas" />
  </div>
</template>

<style scoped>
.sound {
  height: 26px;
  position: relative;
  border-top: 1px solid var(--line);
}

canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
</style>
