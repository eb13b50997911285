<script setup lang="ts">
/**
 * Elements of a scene under the hand, over its picture: chosen by a click, moved, sized by grips, turned by a knob,
 * with lines where they snap; by keys too. What is going on is emitted as an attempt, and kept once it ends.
 */
import { isTyping } from '~/composables/useKeys'
import { useHandGestures, type Gesture } from '~/composables/useHandGestures'
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import {
  elementAt,
  gripAt,
  GRIPS,
  middleOf,
  moveBy,
  outermost,
  size,
  type Grip,
  type Spot,
  type Stand,
  type Stands
} from '~~/core/draw/scene/hands'
import { kindOf } from '~~/core/draw/scene/elements/kinds'
import { holdersOf } from '~~/core/draw/scene/groups'
import type { Element, Scene } from '~~/core/draw/scene/scene'

const {
  scene,
  stands,
  chosen,
  box,
  quiet = false
} = defineProps<{
  scene: Scene
  stands: Stands
  chosen: readonly string[]
  /** The frame on the stage, in CSS pixels. */
  box: { x: number; y: number; width: number; height: number }
  /** Something over it says what hands do. */
  quiet?: boolean
}>()
const emit = defineEmits<{
  choose: [id: string | null, more: boolean]
  attempt: [change: ((scene: Scene) => void) | null]
  keep: [label: string, change: (scene: Scene) => void]
}>()

/** How far off an edge is still taken, in CSS pixels. */
const REACH = 8
/** How far above its upper edge the knob stands that turns an element. */
const KNOB = 22

const focused = ref(false)
const layer = ref<SVGSVGElement | null>(null)
const perPixel = computed(() => scene.width / Math.max(1, box.width))
const toStage = ([x, y]: Spot): Spot => [box.x + x / perPixel.value, box.y + y / perPixel.value]
function placeOf(event: PointerEvent): Spot {
  const area = layer.value!.getBoundingClientRect()
  return [(event.clientX - area.left - box.x) * perPixel.value, (event.clientY - area.top - box.y) * perPixel.value]
}

const elementOf = (id: string): Element => scene.elements.find(each => each.id === id)!
/** Whether it stands on a path beside it, wherever it is put. */
const onPath = (id: string): boolean => {
  const { rides, look } = elementOf(id)
  return rides !== undefined || (look.kind === 'text' && look.onto !== undefined)
}
const movable = computed(() =>
  outermost(scene, chosen).filter(id => stands[id] && !elementOf(id).locked && !onPath(id))
)
/** The one that is sized and turned. */
const only = computed(() => (movable.value.length === 1 ? movable.value[0]! : null))

const { begin, move, up, giveUp, going, guides, said } = useHandGestures({
  scene: () => scene,
  stands: () => stands,
  perPixel: () => perPixel.value,
  attempt: change => emit('attempt', change),
  keep: (label, change) => emit('keep', label, change)
})
const standing = computed(() => going.value ?? stands)

function grab(event: PointerEvent, gesture: Gesture): void {
  if (event.button !== 0) return
  begin(gesture, placeOf(event))
  layer.value!.setPointerCapture(event.pointerId)
  layer.value!.focus({ preventScroll: true })
}

/** What a click without a move chooses. */
let pressed: string | null = null

function down(event: PointerEvent): void {
  if (event.button !== 0) return
  const found = elementAt(scene, stands, placeOf(event), {
    reach: REACH * perPixel.value,
    entered: chosen[0] ?? null
  })
  if (!found) {
    if (chosen.length) emit('choose', null, false)
    return
  }
  event.stopPropagation()
  // what is chosen is moved as it is; a click that moves nothing chooses the one within it
  const within = [found, ...holdersOf(scene, found)].some(id => movable.value.includes(id))
  const more = event.shiftKey
  if (more || !within) emit('choose', found, more)
  pressed = within && !more ? found : null
  grab(event, { kind: 'move', ids: within || more ? movable.value : [found].filter(id => !onPath(id)) })
}

function moving(event: PointerEvent): void {
  if (move(placeOf(event), event)) event.stopPropagation()
}

function released(): void {
  if (up() && pressed && !chosen.includes(pressed)) emit('choose', pressed, false)
}

const ARROWS: Record<string, Spot> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }
const OWN_KEYS = '[role=slider], [role=tab], [role=radio], [role=menuitem], [role=option], .el-popper, [data-own-keys]'

/** Arrows move what is chosen by a pixel, with Shift by ten; Alt with them sizes it; Escape gives up, or lets go. */
function key(event: KeyboardEvent): void {
  const { target } = event
  if (isTyping(target) || event.ctrlKey || event.metaKey) return
  if ((target instanceof HTMLElement || target instanceof SVGElement) && target.closest(OWN_KEYS)) return
  if (document.querySelector('.el-overlay:not([style*="display: none"])')) return
  const arrow = ARROWS[event.key]
  if (event.key === 'Escape') {
    if (!giveUp()) {
      if (!chosen.length) return
      emit('choose', null, false)
    }
  } else if (arrow && movable.value.length) {
    const times = event.shiftKey ? 10 : 1
    const by: Spot = [arrow[0] * times, arrow[1] * times]
    const [ids, start] = [movable.value, stands]
    if (!event.altKey) emit('keep', 'Move', now => ids.forEach(id => moveBy(now, id, start[id]!, by)))
    else if (only.value) {
      const [id, grip] = [only.value, { across: arrow[0] ? 1 : 0, down: arrow[1] ? 1 : 0 } as const]
      emit('keep', 'Size', now => void size(now, id, start[id]!, { grip, by }))
    }
  } else return
  event.preventDefault()
  event.stopPropagation()
}
onMounted(() => window.addEventListener('keydown', key, true))
onBeforeUnmount(() => window.removeEventListener('keydown', key, true))

const CORNERS: readonly Grip[] = [GRIPS[0]!, GRIPS[2]!, GRIPS[7]!, GRIPS[5]!]
const outlineOf = (stand: Stand): string =>
  CORNERS.map(grip =>
    toStage(gripAt(stand, grip))
      .map(v => v.toFixed(1))
      .join(',')
  ).join(' ')
const outlines = computed(() =>
  chosen.flatMap(id => (standing.value[id] ? [{ id, points: outlineOf(standing.value[id]) }] : []))
)
/** Least way between corners that have a grip between them, in CSS pixels. */
const ROOM = 30
const TOP: Grip = { across: 0, down: -1 }
/** Grips of the one that is sized, and the knob that turns it. */
const grips = computed(() => {
  const id = only.value
  const stand = id ? standing.value[id] : null
  if (!id || !stand || !(Math.abs(stand.at.a * stand.at.d - stand.at.b * stand.at.c) > 1e-9)) return null
  const all = GRIPS.map(grip => ({ grip, at: toStage(gripAt(stand, grip)) }))
  const [nearCorner, beside, below] = [all[0]!.at, all[2]!.at, all[5]!.at]
  const apart = (one: Spot, other: Spot): boolean => Math.hypot(one[0] - other[0], one[1] - other[1]) >= ROOM
  // between corners that lie close there is no room for another
  const at = all.filter(
    ({ grip }) => (grip.across !== 0 || apart(nearCorner, beside)) && (grip.down !== 0 || apart(nearCorner, below))
  )
  const top = toStage(gripAt(stand, TOP))
  const [x, y] = toStage(middleOf(stand))
  const far = Math.hypot(top[0] - x, top[1] - y)
  const out: Spot = far > 0 ? [(top[0] - x) / far, (top[1] - y) / far] : [0, -1]
  return { id, at, top, knob: [top[0] + out[0] * KNOB, top[1] + out[1] * KNOB] as const, stand }
})
const CURSORS = ['ns-resize', 'nwse-resize', 'ew-resize', 'nesw-resize']
/** The cursor along a grip's way, turned with the element. */
function cursorOf({ at }: { at: Spot }): string {
  const [x, y] = toStage(middleOf(grips.value!.stand))
  const turned = Math.round((Math.atan2(at[1] - y, at[0] - x) * 180) / Math.PI / 45)
  return CURSORS[(((turned + 2) % 4) + 4) % 4]!
}
const kindName = (id: string): string => {
  const element = elementOf(id)
  return element.name || kindOf(element.look).name
}
const help = computed(() => {
  if (!chosen.length) return 'Click an element to move, size and turn it'
  if (!movable.value.length && chosen.some(onPath)) return 'It stands on a path: move that, or how far along it is.'
  if (!movable.value.length) return 'It is locked, or not there at this time.'
  if (movable.value.length > 1) return 'Drag them. Arrows move them by a pixel, with Shift by ten. Shift-click adds.'
  return 'Drag it, a grip, or the knob. Arrows move it by a pixel, with Shift by ten, and size it with Alt.'
})
</script>

<template>
  <svg
    ref="layer"
    class="hands"
    tabindex="0"
    role="application"
    :aria-label="help"
    data-tool
    @pointerdown="down"
    @pointermove="moving"
    @pointerup="released"
    @pointercancel="giveUp"
    @focus="focused = true"
    @blur="focused = false"
  >
    <polygon v-for="each in outlines" :key="each.id" class="outline" :points="each.points" />
    <line
      v-if="guides.x !== null"
      class="guide"
      :x1="toStage([guides.x, 0])[0]"
      :x2="toStage([guides.x, 0])[0]"
      :y1="box.y"
      :y2="box.y + box.height"
    />
    <line
      v-if="guides.y !== null"
      class="guide"
      :x1="box.x"
      :x2="box.x + box.width"
      :y1="toStage([0, guides.y])[1]"
      :y2="toStage([0, guides.y])[1]"
    />
    <g v-if="grips">
      <line class="stem" :x1="grips.top[0]" :y1="grips.top[1]" :x2="grips.knob[0]" :y2="grips.knob[1]" />
      <circle
        class="knob"
        :cx="grips.knob[0]"
        :cy="grips.knob[1]"
        r="5"
        :aria-label="`Turn ${kindName(grips.id)}`"
        @pointerdown.stop="grab($event, { kind: 'turn', id: grips.id, about: middleOf(grips.stand) })"
      />
      <rect
        v-for="each in grips.at"
        :key="`${each.grip.across} ${each.grip.down}`"
        class="grip"
        :style="{ cursor: cursorOf(each) }"
        :x="each.at[0] - 4"
        :y="each.at[1] - 4"
        width="8"
        height="8"
        :data-grip="`${each.grip.across} ${each.grip.down}`"
        @pointerdown.stop="grab($event, { kind: 'size', id: grips.id, grip: each.grip })"
      />
    </g>
  </svg>
  <p v-if="(chosen.length || focused) && (said || !quiet)" class="stage-hint" :class="{ over: quiet }">
    <strong v-if="said" class="mono">{{ said }}</strong><template v-else>{{ help }}</template>
  </p>
</template>

<style scoped>
.hands {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  touch-action: none;
  outline: none;
}

.outline {
  fill: none;
  stroke: #fff;
  stroke-width: 1.5;
  filter: drop-shadow(0 0 1px #000);
}

.guide {
  stroke: #d67b45;
  stroke-width: 1;
  filter: drop-shadow(0 0 1px #fff);
}

.stem {
  stroke: #fff;
  stroke-width: 1.5;
  filter: drop-shadow(0 0 1px #000);
}

.grip,
.knob {
  fill: #fff;
  stroke: #7a3a14;
}

.knob {
  cursor: grab;
  fill: #d67b45;
}

.stage-hint.over {
  z-index: 1;
}
</style>
