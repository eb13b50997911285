<script setup lang="ts">
/**
 * The points of a path over its picture: moved, bent by their handles, put in with a double click on the line, made
 * round or pointed with one on a point, taken out with Delete. With `fresh` the path is drawn anew, click by click.
 */
import { isTyping } from '~/composables/useKeys'
import { computed, onBeforeUnmount, onMounted, ref, shallowRef } from 'vue'
import type { Spot, Stand } from '~~/core/draw/scene/hands'
import type { PathLook } from '~~/core/draw/scene/elements/path/look'
import { pathLine } from '~~/core/draw/scene/elements/path/outline'
import {
  bendPoint,
  movePoint,
  nearestOn,
  putPoint,
  takePoint,
  turnPoint
} from '~~/core/draw/scene/elements/path/points'
import { combined, inverse, placed } from '~~/core/draw/raster/line'

type Points = PathLook['points']

const { look, stand, box, width, fresh } = defineProps<{
  /** The path as it is, or as it would be while a hand moves a point. */
  look: PathLook
  stand: Stand
  /** The frame on the stage, in CSS pixels. */
  box: { x: number; y: number; width: number; height: number }
  /** Of the frame, in its own pixels. */
  width: number
  fresh: boolean
}>()
const emit = defineEmits<{
  attempt: [change: ((look: PathLook) => void) | null]
  keep: [label: string, change: (look: PathLook) => void]
  /** Drawing anew has ended, kept or given up. */
  end: []
}>()

const layer = ref<SVGSVGElement | null>(null)
const perPixel = computed(() => width / Math.max(1, box.width))
/** From the path's coordinates onto the stage. */
const onStage = computed(() =>
  combined({ a: 1 / perPixel.value, b: 0, c: 0, d: 1 / perPixel.value, e: box.x, f: box.y }, stand.at)
)
const shownAt = (x: number, y: number): Spot => {
  const [u, v] = placed(Float64Array.from([x, y]), onStage.value)
  return [u!, v!]
}
function placeOf(event: MouseEvent): Spot {
  const area = layer.value!.getBoundingClientRect()
  const at = Float64Array.from([event.clientX - area.left, event.clientY - area.top])
  const [x, y] = placed(at, inverse(onStage.value))
  return [Math.round(x! * 100) / 100, Math.round(y! * 100) / 100]
}

/** Points drawn anew so far, and where the next would be. */
const drawn = shallowRef<Points>([])
const beside = ref<Spot | null>(null)
const points = computed<Points>(() => (fresh ? drawn.value : look.points))
const picked = ref<number | null>(null)

const lineOf = (of: Points, closed: boolean): string => {
  if (of.length < 2) return ''
  const line = placed(pathLine(of, closed), onStage.value)
  const steps: string[] = []
  for (let i = 0; i < line.length; i += 2) steps.push(`${line[i]!.toFixed(1)} ${line[i + 1]!.toFixed(1)}`)
  return `M${steps.join('L')}`
}
const line = computed(() => lineOf(points.value, !fresh && look.closed))
const shown = computed(() =>
  points.value.map((point, n) => {
    const at = shownAt(point.x, point.y)
    const handle = (of: readonly [number, number] | null): Spot | null =>
      of && shownAt(point.x + of[0], point.y + of[1])
    return { n, at, before: handle(point.before), after: handle(point.after) }
  })
)
const ahead = computed(() => {
  const [last, to] = [shown.value.at(-1), beside.value]
  return fresh && last && to ? { from: last.at, to: shownAt(...to) } : null
})

type Held = { n: number; which: 'point' | 'before' | 'after'; from: Spot; last: ((look: PathLook) => void) | null }
let held: Held | null = null

function grab(event: PointerEvent, n: number, which: Held['which']): void {
  if (event.button !== 0) return
  event.stopPropagation()
  if (fresh) {
    // on the first again: closed
    if (n === 0 && drawn.value.length > 2) finish(true)
    return
  }
  picked.value = n
  held = { n, which, from: placeOf(event), last: null }
  layer.value!.setPointerCapture(event.pointerId)
  layer.value!.focus({ preventScroll: true })
}

function down(event: PointerEvent): void {
  if (!fresh || event.button !== 0) return
  event.stopPropagation()
  layer.value!.focus({ preventScroll: true })
  layer.value!.setPointerCapture(event.pointerId)
  const [x, y] = placeOf(event)
  drawn.value = [...drawn.value, { x, y, before: null, after: null }]
  held = { n: drawn.value.length - 1, which: 'after', from: [x, y], last: null }
}

function move(event: PointerEvent): void {
  const at = placeOf(event)
  beside.value = at
  if (!held) return
  event.stopPropagation()
  const { n, which, from } = held
  const way: Spot = [at[0] - from[0], at[1] - from[1]]
  if (fresh) {
    // a hand that draws on from a point bends the line there
    if (Math.hypot(...way) < 4 * perPixel.value) return
    const bent = { ...look, points: drawn.value.map(each => ({ ...each })) }
    bendPoint(bent, n, 'after', way)
    drawn.value = bent.points
    return
  }
  if (!held.last && Math.hypot(...way) < 2 * perPixel.value) return
  const apart = event.altKey
  held.last = now => {
    if (which === 'point') movePoint(now, n, way)
    else bendPoint(now, n, which, [at[0] - now.points[n]!.x, at[1] - now.points[n]!.y], apart)
  }
  emit('attempt', held.last)
}

function up(): void {
  const done = held
  held = null
  if (done?.last) emit('keep', done.which === 'point' ? 'Move a point' : 'Bend a path', done.last)
}

function putIn(event: MouseEvent): void {
  const at = placeOf(event)
  emit('keep', 'Put in a point', now => {
    picked.value = putPoint(now, nearestOn(now, at))
  })
}

function finish(closed: boolean): void {
  const made = drawn.value.map(point => ({ ...point }))
  drawn.value = []
  held = null
  if (made.length > 1)
    emit('keep', 'Draw the path', now => {
      now.points = made
      now.closed = closed
    })
  emit('end')
}

const ARROWS: Record<string, Spot> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }

function key(event: KeyboardEvent): void {
  if (isTyping(event.target) || event.ctrlKey || event.metaKey) return
  if (fresh) {
    if (event.key === 'Enter') finish(false)
    else if (event.key === 'Escape') {
      drawn.value = []
      emit('end')
    } else if (event.key === 'Backspace') drawn.value = drawn.value.slice(0, -1)
    else return
  } else if (event.key === 'Escape' && held) {
    held = null
    emit('attempt', null)
  } else if (ARROWS[event.key] && picked.value !== null && layer.value?.contains(event.target as Node)) {
    const [n, by] = [picked.value, event.shiftKey ? 10 : 1]
    const [x, y] = ARROWS[event.key]!
    const [u, v] = placed(Float64Array.from([x * by, y * by]), inverse({ ...stand.at, e: 0, f: 0 }))
    emit('keep', 'Move a point', now => movePoint(now, n, [u!, v!]))
  } else if (['Delete', 'Backspace'].includes(event.key) && picked.value !== null) {
    const n = picked.value
    picked.value = null
    emit('keep', 'Take out a point', now => void takePoint(now, n))
  } else return
  event.preventDefault()
  event.stopImmediatePropagation()
}
onMounted(() => {
  window.addEventListener('keydown', key, true)
  if (fresh) layer.value?.focus({ preventScroll: true })
})
onBeforeUnmount(() => window.removeEventListener('keydown', key, true))
</script>

<template>
  <svg
    ref="layer"
    class="points"
    :class="{ fresh }"
    tabindex="-1"
    aria-label="Points of the path"
    :data-own-keys="picked === null ? undefined : ''"
    @pointerdown="down"
    @pointermove="move"
    @pointerup="up"
    @pointercancel="up"
    @dblclick="fresh && finish(false)"
  >
    <path class="line" :d="line" />
    <path v-if="!fresh" class="reach" :d="line" @pointerdown.stop @mousedown.prevent @dblclick.stop="putIn" />
    <line v-if="ahead" class="ahead" :x1="ahead.from[0]" :y1="ahead.from[1]" :x2="ahead.to[0]" :y2="ahead.to[1]" />
    <g v-for="each in shown" :key="each.n">
      <template v-for="which in ['before', 'after'] as const" :key="which">
        <template v-if="each[which]">
          <line class="arm" :x1="each.at[0]" :y1="each.at[1]" :x2="each[which][0]" :y2="each[which][1]" />
          <circle
            class="bend"
            :cx="each[which][0]"
            :cy="each[which][1]"
            r="4"
            @pointerdown="grab($event, each.n, which)"
          />
        </template>
      </template>
      <circle
        class="point"
        :class="{ picked: picked === each.n }"
        :cx="each.at[0]"
        :cy="each.at[1]"
        r="5"
        :data-point="each.n + 1"
        @pointerdown="grab($event, each.n, 'point')"
        @dblclick.stop="!fresh && emit('keep', 'Make a point round or pointed', now => turnPoint(now, each.n))"
      />
    </g>
  </svg>
  <p class="stage-hint">
    {{
      fresh
        ? 'Click point by point, drag on to bend. Enter ends it, a click on the first closes it, Escape gives up.'
        : 'Drag points and handles. Double-click the line for one more, a point to round it; Delete takes it out.'
    }}
  </p>
</template>

<style scoped>
.points {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  touch-action: none;
  pointer-events: none;
  outline: none;
}

.points.fresh {
  pointer-events: all;
  cursor: crosshair;
}

.line,
.ahead,
.arm {
  fill: none;
  stroke: #fff;
  stroke-width: 1;
  filter: drop-shadow(0 0 1px #000);
}

.ahead {
  stroke-dasharray: 4 3;
}

.reach {
  fill: none;
  stroke: transparent;
  stroke-width: 12;
  pointer-events: stroke;
  cursor: copy;
}

.point,
.bend {
  fill: #fff;
  stroke: #7a3a14;
  pointer-events: all;
  cursor: move;
}

.bend {
  fill: #f2d9c4;
}

.point.picked {
  fill: #d67b45;
}
</style>
