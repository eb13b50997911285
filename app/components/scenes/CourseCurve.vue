<script setup lang="ts">
/**
 * The course of a movement: its name where it stands, and its curve, whose two handles are moved by hand or by keys.
 */
import { computed, ref } from 'vue'
import { eased, handlesOf, type Handles } from '~~/core/draw/scene/ease'
import { EASES, type Ease } from '~~/core/draw/scene/values'

/** `holds` where it may stay as it is until the next key, and whether it does. */
const { label, ease, holds = undefined } = defineProps<{ label: string; ease: Ease; holds?: boolean }>()
const emit = defineEmits<{ set: [ease: Ease]; hold: [] }>()

const called = (course: Ease): string =>
  course === 'linear' ? 'evenly' : typeof course === 'string' ? course : 'own curve'

/** What is drawn: a unit of the curve in pixels, and how far it may go beyond. */
const UNIT = 150
const BEYOND = 0.6
const [LOW, HIGH] = [-BEYOND, 1 + BEYOND]
const HEIGHT = UNIT * (HIGH - LOW)
const x = (share: number): number => UNIT * share
const y = (share: number): number => UNIT * (HIGH - share)

/** While a handle is dragged its curve is shown, and becomes an edit when it is let go. */
const held = ref<[number, number, number, number] | null>(null)
const handles = computed<Handles>(() => held.value ?? handlesOf(ease))
const course = computed<Ease>(() => (held.value ? held.value : ease))
const lineOf = (of: Ease, across: number, down: number, from: (share: number) => number): string =>
  Array.from(
    { length: 41 },
    (_, n) => `${((n / 40) * across).toFixed(1)},${(from(eased(of, n / 40)) * down).toFixed(1)}`
  ).join(' ')
const line = computed(() => lineOf(course.value, UNIT, 1, y))
const STAYS = 'stays until the next'
const name = computed(() => (holds ? STAYS : called(ease)))
const small = computed(() =>
  holds ? '0,12 22,12 22,0' : lineOf(ease, 22, 12, share => Math.min(1.3, Math.max(-0.3, 1 - share)))
)

const place = ref<SVGSVGElement | null>(null)
let dragged = 0

function to(which: 0 | 1, across: number, up: number): [number, number, number, number] {
  const next = [...handles.value] as [number, number, number, number]
  next[2 * which] = Math.round(Math.min(1, Math.max(0, across)) * 100) / 100
  next[2 * which + 1] = Math.round(Math.min(HIGH, Math.max(LOW, up)) * 100) / 100
  return next
}
function take(event: PointerEvent, which: 0 | 1): void {
  dragged = which
  held.value = [...handles.value] as [number, number, number, number]
  ;(event.target as Element).setPointerCapture(event.pointerId)
}
function drag(event: PointerEvent): void {
  const box = place.value?.getBoundingClientRect()
  if (!held.value || !box) return
  held.value = to(dragged as 0 | 1, (event.clientX - box.left) / UNIT, HIGH - (event.clientY - box.top) / UNIT)
}
function drop(): void {
  if (held.value) emit('set', held.value)
  held.value = null
}

const STEPS: Record<string, readonly [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1]
}
function nudge(event: KeyboardEvent, which: 0 | 1): void {
  const way = STEPS[event.key]
  if (!way) return
  event.preventDefault()
  event.stopPropagation()
  const by = event.shiftKey ? 0.1 : 0.01
  const [across, up] = [handles.value[2 * which]!, handles.value[2 * which + 1]!]
  emit('set', to(which, across + way[0] * by, up + way[1] * by))
}
</script>

<template>
  <el-popover :width="UNIT + 42" trigger="click" placement="right">
    <template #reference>
      <button type="button" class="course" :aria-label="`${label}: ${name}`">
        <svg width="22" height="12" viewBox="0 -4 22 20" aria-hidden="true"><polyline :points="small" /></svg>{{ name }}
      </button>
    </template>
    <div class="sheet">
      <div class="names" role="group" :aria-label="label">
        <button
          v-for="each in EASES"
          :key="each"
          type="button"
          class="link"
          :class="{ on: each === ease && !holds }"
          :aria-pressed="each === ease && !holds"
          @click="emit('set', each)"
        >
          {{ called(each) }}
        </button>
        <button
          v-if="holds !== undefined"
          type="button"
          class="link"
          :class="{ on: holds }"
          :aria-pressed="holds"
          @click="emit('hold')"
        >
          {{ STAYS }}
        </button>
      </div>
      <svg
        v-if="!holds"
        ref="place"
        class="curve"
        :width="UNIT"
        :height="HEIGHT"
        @pointermove="drag"
        @pointerup="drop"
        @pointercancel="drop"
      >
        <rect x="0" :y="y(1)" :width="UNIT" :height="UNIT" />
        <line :x1="x(0)" :y1="y(0)" :x2="x(handles[0])" :y2="y(handles[1])" />
        <line :x1="x(1)" :y1="y(1)" :x2="x(handles[2])" :y2="y(handles[3])" />
        <polyline :points="line" />
        <circle
          v-for="which in [0, 1] as const"
          :key="which"
          r="6"
          tabindex="0"
          role="slider"
          :aria-label="`${which === 0 ? 'First' : 'Second'} handle`"
          :aria-valuenow="handles[2 * which + 1]"
          :aria-valuetext="`${handles[2 * which]} across, ${handles[2 * which + 1]} up`"
          :cx="x(handles[2 * which]!)"
          :cy="y(handles[2 * which + 1]!)"
          @pointerdown.prevent="take($event, which)"
          @keydown="nudge($event, which)"
        />
      </svg>
      <p v-if="!holds" class="mono soft">{{ handles.join(' ') }}</p>
    </div>
  </el-popover>
</template>

<style scoped>
.course {
  font: inherit;
  color: var(--copper);
  background: none;
  border: 0;
  border-bottom: 1px dashed var(--copper-fill);
  padding: 0 1px;
  margin: 0 1px;
  cursor: pointer;
  white-space: nowrap;
  text-align: left;
}

.course:hover {
  background: var(--copper-wash);
}

.course svg {
  margin-right: 4px;
  vertical-align: -1px;
}

polyline {
  fill: none;
  stroke: var(--copper-fill);
  stroke-width: 2;
}

.sheet {
  display: flex;
  flex-direction: column;
  gap: 8px;
  align-items: center;
}

.names {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
}

.on {
  font-weight: 600;
}

.curve {
  background: var(--ground);
  border-radius: var(--radius);
  overflow: visible;
  touch-action: none;
}

.curve rect {
  fill: var(--raised);
  stroke: var(--line);
}

.curve line {
  stroke: var(--soft);
  stroke-width: 1;
}

.curve circle {
  fill: var(--raised);
  stroke: var(--copper);
  stroke-width: 2;
  cursor: grab;
}

.curve circle:focus-visible {
  outline: none;
  fill: var(--copper-fill);
}
</style>
