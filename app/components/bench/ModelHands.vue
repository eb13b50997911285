<script setup lang="ts">
/** A model under the hand: dragged across it is seen from another side, dragged down from further above. */
import { useModelView } from '~/composables/useModelView'
import { computed, ref } from 'vue'
import type { JobSource } from '~~/core/job/job'
import type { ModelView } from '~~/core/draw/model/view'

const { source } = defineProps<{ source: JobSource }>()
const { isModel, asked, set } = useModelView(computed(() => source))
const view = computed(() => asked.value.view)
const on = ref(false)

/** Degrees for a CSS pixel. */
const STEP = 0.4
const held = ref<{ x: number; y: number; turned: number; tilted: number } | null>(null)
const turning = ref<Pick<ModelView, 'turned' | 'tilted'> | null>(null)
const now = computed(() => turning.value ?? view.value)

const around = (degrees: number): number => ((((Math.round(degrees) + 180) % 360) + 360) % 360) - 180
const above = (degrees: number): number => Math.min(89, Math.max(-89, Math.round(degrees)))

function down(event: PointerEvent): void {
  if (event.button !== 0) return
  event.stopPropagation()
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  held.value = { x: event.clientX, y: event.clientY, turned: view.value.turned, tilted: view.value.tilted }
}
function move({ clientX, clientY }: PointerEvent): void {
  const from = held.value
  if (!from) return
  turning.value = {
    turned: around(from.turned - (clientX - from.x) * STEP),
    tilted: above(from.tilted + (clientY - from.y) * STEP)
  }
}
function up(): void {
  const done = turning.value
  held.value = null
  // the figures stay until the picture is drawn from there
  if (done) void set({ ...done, own: false }).finally(() => (turning.value = null))
}
const ARROWS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1]
}
function key(event: KeyboardEvent): void {
  const arrow = ARROWS[event.key]
  if (!arrow) return
  event.preventDefault()
  event.stopPropagation()
  const by = event.shiftKey ? 15 : 1
  const { turned, tilted } = view.value
  void set({ turned: around(turned + arrow[0] * by), tilted: above(tilted + arrow[1] * by), own: false })
}
</script>

<template>
  <div
    v-if="isModel && on"
    class="around"
    tabindex="0"
    role="application"
    aria-label="Drag it around. Arrows turn it by a degree, with Shift by fifteen."
    @pointerdown="down"
    @pointermove="move"
    @pointerup="up"
    @pointercancel="up"
    @keydown="key"
  >
    <p class="mono">{{ now.turned }}° around, {{ now.tilted }}° above</p>
  </div>
  <el-button v-if="isModel" class="look" size="small" :aria-pressed="on" @pointerdown.stop @click="on = !on">{{
    on ? 'Done' : 'Look around it'
  }}</el-button>
</template>

<style scoped>
.around {
  position: absolute;
  inset: 0;
  cursor: grab;
  touch-action: none;
}

.around:active {
  cursor: grabbing;
}

/* the button lies over what is dragged */
.look {
  position: absolute;
  top: 8px;
  right: 8px;
}

p {
  position: absolute;
  left: 50%;
  top: 8px;
  transform: translateX(-50%);
  margin: 0;
  padding: 3px 10px;
  background: #1d1d1d;
  color: #f6f6f6;
  border-radius: 2px;
  font-size: 12px;
}
</style>
