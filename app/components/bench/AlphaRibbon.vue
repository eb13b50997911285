<script setup lang="ts">
/**
 * The alpha ribbon: a thin column a frame, clear / partial / solid, with findings and the marked range; also the
 * scrubber.
 */
import { useStrip } from '~/composables/useStrip'
import { watch } from 'vue'
import type { Marks } from '~~/core/job/marks'
import type { Finding } from '~~/core/source/source'

const { ribbon, frames, findings, marks, dim } = defineProps<{
  ribbon: readonly { clear: number; partial: number; solid: number }[] | null
  frames: number
  findings: readonly Finding[]
  marks: Marks | null
  dim: boolean
}>()
const index = defineModel<number>('index', { required: true })

const { holder, canvas, width, height, begin, token } = useStrip()

function draw(): void {
  const context = begin()
  if (!context) return
  const [w, h] = [width.value, height.value]
  const bars = h - 6
  const step = w / frames
  const gap = step > 5 ? 1 : 0
  for (let i = 0; i < frames; i++) {
    const x = i * step
    context.fillStyle = token('--line')
    context.fillRect(x, 0, Math.max(1, step - gap), bars)
    const column = ribbon?.[i]
    if (!column) continue
    const solid = column.solid * bars
    // a rim of partial pixels is thin; it is never drawn thinner than can be seen
    const partial = column.partial > 0 ? Math.max(1.5, column.partial * bars) : 0
    context.fillStyle = token('--copper-fill')
    context.fillRect(x, bars - solid - partial, Math.max(1, step - gap), partial)
    context.fillStyle = token('--soft')
    context.fillRect(x, bars - solid, Math.max(1, step - gap), solid)
  }
  for (const finding of findings) {
    context.fillStyle = token(
      finding.severity === 'fault' ? '--brick' : finding.severity === 'warning' ? '--ochre-fill' : '--verdigris-fill'
    )
    for (const frame of finding.frames) context.fillRect((frame - 1) * step, h - 5, Math.max(2, step - gap), 5)
  }
  if (marks) {
    context.fillStyle = 'rgb(127 127 127 / 55%)'
    context.fillRect(0, 0, (marks.from - 1) * step, bars)
    context.fillRect(marks.to * step, 0, w - marks.to * step, bars)
    context.fillStyle = token('--copper')
    context.fillRect((marks.from - 1) * step, 0, 2, bars)
    context.fillRect(marks.to * step - 2, 0, 2, bars)
  }
  context.fillStyle = token('--ink')
  context.fillRect(Math.round((index.value + 0.5) * step) - 1, 0, 2, h)
}

watch([() => ribbon, () => findings, () => marks, () => frames, () => dim, index, width, height], draw, {
  immediate: true,
  flush: 'post'
})

function scrub(event: PointerEvent): void {
  if (event.buttons !== 1) return
  const area = holder.value!.getBoundingClientRect()
  index.value = Math.max(0, Math.min(frames - 1, Math.floor(((event.clientX - area.left) / area.width) * frames)))
}

function press(event: PointerEvent): void {
  holder.value!.setPointerCapture(event.pointerId)
  scrub(event)
}
</script>

<template>
  <div
    ref="holder"
    class="ribbon"
    role="slider"
    aria-label="Frame"
    :aria-valuemin="1"
    :aria-valuemax="frames"
    :aria-valuenow="index + 1"
    @pointerdown="press"
    @pointermove="scrub"
  >
    <canvas ref="canvas" />
  </div>
</template>

<style scoped>
.ribbon {
  height: 62px;
  position: relative;
  cursor: col-resize;
  touch-action: none;
}

canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
</style>
