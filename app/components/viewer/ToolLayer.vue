<script setup lang="ts">
/**
 * What is picked or drawn in the picture: a colour, a box, a shape. Lies over the viewer's stage; places are in pixels
 * of the frame. Mouse and keyboard: arrows move what is drawn by a pixel, with Shift by ten; Enter ends, Escape gives
 * up.
 */
import { isTyping } from '~/composables/useKeys'
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'

export type Point = [number, number]
export type Tool =
  | { kind: 'pick' }
  | { kind: 'box'; points: Point[] }
  | { kind: 'ellipse' | 'rectangle'; points: Point[] }
  /** Being drawn point by point, or closed: then its points are moved, added and taken away. */
  | { kind: 'polygon'; points: Point[]; closed: boolean }
  /** A box that is there already and may reach beyond the picture: to be moved, and sized where `sized`. */
  | { kind: 'handle'; points: Point[]; sized: boolean }

const { tool, box, width, height } = defineProps<{
  tool: Tool
  /** The frame on the stage, in CSS pixels. */
  box: { x: number; y: number; width: number; height: number }
  width: number
  height: number
}>()
const emit = defineEmits<{ pick: [at: Point]; draw: [points: Point[], done: boolean]; end: [] }>()

const layer = ref<SVGSVGElement | null>(null)
const drawing = ref<Point[] | null>(null)
const points = computed<Point[]>(() => drawing.value ?? ('points' in tool ? tool.points : []))
/** The point of a closed outline that was taken last. */
const picked = ref<number | null>(null)
let grabbed: { index: number | 'all'; from: Point; were: Point[] } | null = null

function place(event: PointerEvent | MouseEvent): Point {
  const area = layer.value!.getBoundingClientRect()
  const round = (v: number): number => Math.round(v * 10) / 10
  return [
    round(((event.clientX - area.left - box.x) / box.width) * width),
    round(((event.clientY - area.top - box.y) / box.height) * height)
  ]
}

function whole([x, y]: Point): Point {
  if (tool.kind === 'handle') return [Math.round(x), Math.round(y)]
  return tool.kind === 'box'
    ? [Math.max(0, Math.min(width, Math.round(x))), Math.max(0, Math.min(height, Math.round(y)))]
    : [x, y]
}

function down(event: PointerEvent): void {
  if (event.button !== 0) return
  layer.value!.focus()
  const at = place(event)
  if (tool.kind === 'pick') {
    emit('pick', [Math.floor(at[0]), Math.floor(at[1])])
    return
  }
  layer.value!.setPointerCapture(event.pointerId)
  const reach = (8 / box.width) * width
  const near = points.value.findIndex(p => Math.abs(p[0] - at[0]) < reach && Math.abs(p[1] - at[1]) < reach)
  if (tool.kind === 'polygon' && tool.closed) {
    if (near >= 0) grabbed = { index: near, from: at, were: points.value }
    else {
      const edge = edgeAt(at, reach)
      if (edge !== null) {
        const were = points.value.toSpliced(edge + 1, 0, at)
        drawing.value = were
        grabbed = { index: edge + 1, from: at, were }
      } else if (within(at)) grabbed = { index: 'all', from: at, were: points.value }
    }
    picked.value = grabbed && grabbed.index !== 'all' ? grabbed.index : null
    return
  }
  if (tool.kind === 'polygon') {
    if (near === 0 && points.value.length > 2) emit('draw', points.value, true)
    else if (near >= 0) grabbed = { index: near, from: at, were: points.value }
    else emit('draw', [...points.value, at], false)
    return
  }
  const sized = tool.kind !== 'handle' || tool.sized
  if (near >= 0 && sized) grabbed = { index: near, from: at, were: points.value }
  else if (points.value.length === 2 && inside(at)) grabbed = { index: 'all', from: at, were: points.value }
  else if (tool.kind !== 'handle') {
    drawing.value = [whole(at), whole(at)]
    grabbed = { index: 1, from: at, were: drawing.value }
  }
}

/** The edge of the closed outline that lies within reach, by its first point. */
function edgeAt([x, y]: Point, reach: number): number | null {
  let [found, least]: [number | null, number] = [null, reach]
  points.value.forEach(([ax, ay], i, all) => {
    const [bx, by] = all[(i + 1) % all.length]!
    const length = (bx - ax) ** 2 + (by - ay) ** 2
    const t = length ? Math.max(0, Math.min(1, ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / length)) : 0
    const off = Math.hypot(x - ax - t * (bx - ax), y - ay - t * (by - ay))
    if (off < least) [found, least] = [i, off]
  })
  return found
}

/** Whether a place lies within the closed outline, by the even-odd rule. */
function within([x, y]: Point): boolean {
  return points.value.reduce((odd, [ax, ay], i, all) => {
    const [bx, by] = all[(i + 1) % all.length]!
    return ay > y !== by > y && x < ((bx - ax) * (y - ay)) / (by - ay) + ax ? !odd : odd
  }, false)
}

function inside([x, y]: Point): boolean {
  const [[ax, ay], [bx, by]] = [points.value[0]!, points.value[1]!]
  return x > Math.min(ax, bx) && x < Math.max(ax, bx) && y > Math.min(ay, by) && y < Math.max(ay, by)
}

function move(event: PointerEvent): void {
  if (!grabbed) return
  const at = place(event)
  const by: Point = [at[0] - grabbed.from[0], at[1] - grabbed.from[1]]
  const { index, were } = grabbed
  drawing.value = were.map((p, i) => (index === 'all' || index === i ? whole([p[0] + by[0], p[1] + by[1]]) : p))
}

function up(): void {
  const drawn = drawing.value
  grabbed = null
  drawing.value = null
  if (!drawn) return
  const small =
    drawn.length === 2 && (Math.abs(drawn[0]![0] - drawn[1]![0]) < 1 || Math.abs(drawn[0]![1] - drawn[1]![1]) < 1)
  if (!small) emit('draw', drawn, tool.kind !== 'polygon' || tool.closed)
}

const OWN_KEYS = '[role=slider], [role=tab], [role=radio], [role=menuitem], [role=option], .el-popper'
const hasKeysOfItsOwn = (target: EventTarget | null): boolean =>
  target instanceof Element && target.closest(OWN_KEYS) !== null

/** Buttons are pressed by Enter. */
const isPressed = (target: EventTarget | null): boolean =>
  target instanceof Element && target.closest('button, a, summary') !== null

const ARROWS: Record<string, Point> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }

function key(event: KeyboardEvent): void {
  // fields, and what is moved by keys itself, keep them, whatever is being moved here
  if (isTyping(event.target) || hasKeysOfItsOwn(event.target)) return
  if (event.key === 'Enter' && isPressed(event.target)) return
  if (event.key === 'Escape') emit('end')
  else if (event.key === 'Enter') {
    if (tool.kind === 'polygon' && !tool.closed && points.value.length > 2) emit('draw', points.value, true)
    else emit('end')
  } else if (tool.kind === 'polygon' && tool.closed && ['Backspace', 'Delete'].includes(event.key)) {
    // an outline keeps three points
    if (picked.value !== null && points.value.length > 3) emit('draw', points.value.toSpliced(picked.value, 1), true)
    picked.value = null
  } else if (tool.kind === 'polygon' && tool.closed && event.key === 'Tab') {
    const [count, by] = [points.value.length, event.shiftKey ? -1 : 1]
    picked.value = picked.value === null ? 0 : (picked.value + by + count) % count
  } else if (event.key === 'Backspace' && tool.kind === 'polygon') emit('draw', points.value.slice(0, -1), false)
  else if (ARROWS[event.key] && points.value.length) {
    const [dx, dy] = ARROWS[event.key]!
    const by = event.shiftKey ? 10 : 1
    // Alt moves the second corner alone: the size
    const alone = event.altKey && (tool.kind !== 'handle' || tool.sized)
    const one = tool.kind === 'polygon' && tool.closed ? picked.value : null
    const stays = (i: number): boolean => (one === null ? alone && i === 0 : i !== one)
    emit(
      'draw',
      points.value.map((p, i) => (stays(i) ? p : whole([p[0] + dx * by, p[1] + dy * by]))),
      tool.kind !== 'polygon' || tool.closed
    )
  } else return
  event.preventDefault()
  event.stopPropagation()
}

onMounted(() => {
  if (!isTyping(document.activeElement)) layer.value?.focus()
  window.addEventListener('keydown', key, true)
})
onBeforeUnmount(() => window.removeEventListener('keydown', key, true))

const shown = computed(() =>
  points.value.map(([x, y]): Point => [box.x + (x / width) * box.width, box.y + (y / height) * box.height])
)
const extent = computed(() => {
  const [a, b] = [shown.value[0], shown.value[1]]
  return a && b
    ? { x: Math.min(a[0], b[0]), y: Math.min(a[1], b[1]), width: Math.abs(a[0] - b[0]), height: Math.abs(a[1] - b[1]) }
    : null
})
const HELP: Record<Exclude<Tool['kind'], 'handle'>, string> = {
  pick: 'Click the colour. Escape gives up.',
  box: 'Drag a box, its corners, or the box itself. Arrows move it, Alt arrows size it. Enter ends.',
  ellipse: 'Drag an ellipse. Arrows move it, Alt arrows size it. Enter ends.',
  rectangle: 'Drag a rectangle. Arrows move it, Alt arrows size it. Enter ends.',
  polygon: 'Click point by point; click the first again, or Enter, to close. Backspace takes one back.'
}
const help = computed(() => {
  if (tool.kind === 'polygon' && tool.closed)
    return 'Drag a point, an edge to add one, or the whole. Arrows move, Tab takes the next point, Delete removes it. Enter ends.'
  if (tool.kind !== 'handle') return HELP[tool.kind]
  return tool.sized
    ? 'Drag a corner of the frame, or the frame itself. Arrows move it, Alt arrows its lower right corner. Enter ends.'
    : 'Drag the picture to where it is to stand. Arrows move it by a pixel, with Shift by ten. Enter ends.'
})
</script>

<template>
  <svg
    ref="layer"
    class="tool"
    :class="tool.kind"
    tabindex="0"
    role="application"
    :aria-label="help"
    data-tool
    @pointerdown.stop="down"
    @pointermove.stop="move"
    @pointerup="up"
    @wheel.prevent
  >
    <g v-if="extent && tool.kind !== 'polygon' && tool.kind !== 'pick'">
      <ellipse
        v-if="tool.kind === 'ellipse'"
        :cx="extent.x + extent.width / 2"
        :cy="extent.y + extent.height / 2"
        :rx="extent.width / 2"
        :ry="extent.height / 2"
      />
      <rect v-else v-bind="extent" />
      <template v-if="tool.kind !== 'handle' || tool.sized">
        <rect v-for="(p, i) in shown" :key="i" class="handle" :x="p[0] - 4" :y="p[1] - 4" width="8" height="8" />
      </template>
    </g>
    <g v-if="tool.kind === 'polygon'">
      <polygon :points="shown.map(p => p.join(',')).join(' ')" />
      <rect
        v-for="(p, i) in shown"
        :key="i"
        class="handle"
        :class="{ picked: tool.closed && i === picked }"
        :x="p[0] - 4"
        :y="p[1] - 4"
        width="8"
        height="8"
      />
    </g>
  </svg>
  <p class="stage-hint low">{{ help }}</p>
</template>

<style scoped>
.tool {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  cursor: crosshair;
  touch-action: none;
  outline-offset: -2px;
}

ellipse,
rect,
polygon {
  fill: rgb(214 123 69 / 12%);
  stroke: #fff;
  stroke-width: 1.5;
  paint-order: stroke;
  filter: drop-shadow(0 0 1px #000);
}

.handle {
  fill: #fff;
  stroke: #7a3a14;
}

.handle.picked {
  fill: #d67b45;
}
</style>
