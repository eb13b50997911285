<script setup lang="ts">
/**
 * The stations: one large picture in which the overlay is moved, resized and turned over a backdrop, and the gallery of
 * what every family of programs makes of the file in that same scene.
 */
import StationCard from '~/components/proof/StationCard.vue'
import { useKeys } from '~/composables/useKeys'
import { useOwnBackdrop } from '~/composables/useOwnBackdrop'
import { useStorage } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import type { Exhibit, OpenedExhibit } from '~/composables/useExhibit'
import { usePlayback } from '~/components/viewer/playback'
import { framesPerSecond } from '~~/core/base/rate'
import { isApart } from '~~/core/job/outlet/plan'
import { IN_PLACE, type Filter, type Placement, type StationScene, type StandIn } from '~~/core/judge/stations/scene'
import { stations } from '~~/core/judge/stations/stations'
import type { AlphaMode } from '~~/core/frame/frame'
import { fallbackOrder } from '~~/core/run/handover/markup'
import { splitCell } from '~~/core/job/job'
import type { FilesSpec } from '~~/core/source/source'
import { usePours } from '~/stores/pours'
import type { Visit } from '~~/core/judge/stations/visit'

const { exhibit, opened } = defineProps<{ exhibit: Exhibit; opened: OpenedExhibit }>()
const index = defineModel<number>('index', { required: true })
const pours = usePours()

/** A source of the job as backdrop, by its id. */
const OWN = 'source:'
const COLOURS = ['#4a7ba6', '#000000', '#ffffff', '#7a9a4a', '#c8407f']
/** A colour, a made-up view or a source of the job; there again the next time. */
const back = useStorage('pour-station-back', '#4a7ba6')
const place = ref<Placement>({ ...IN_PLACE })
const standIn = ref<StandIn>('none')
const filter = ref<Filter>('smooth')
const chosen = ref('reads-the-label')
const visits = shallowRef(new Map<string, Visit>())
const large = ref<HTMLCanvasElement | null>(null)

/** A picture file of the same source that a page would show where it cannot play the film. */
const fallback = shallowRef<{ name: string; spec: FilesSpec; due: AlphaMode } | null>(null)
watch(
  () => exhibit.id,
  async () => {
    fallback.value = null
    const { result } = exhibit
    if (!result || !exhibit.format.startsWith('webm')) return
    const { sourceId } = splitCell(result.cell)
    const [other] = fallbackOrder(
      [...pours.latest.values()]
        .filter(
          r =>
            r.report &&
            !isApart(r.plan) &&
            !r.plan.outlet.format.startsWith('webm') &&
            splitCell(r.cell).sourceId === sourceId
        )
        .map(r => ({ format: r.plan.outlet.format, result: r }))
    )
    if (other)
      fallback.value = {
        name: other.result.fileName,
        spec: await pours.deliveredAsKnown(other.result),
        due: other.result.plan.due.alpha
      }
  },
  { immediate: true }
)

/** The frame that the large picture shows; the clock waits for it. */
const settled = ref(-1)
const { playing, play, step } = usePlayback(index, {
  frames: () => opened.facts.frames,
  rate: () => opened.facts.rate,
  ready: () => settled.value === index.value,
  fetch: () => undefined
})
useKeys({
  Space: play,
  ArrowLeft: () => step(-1),
  ArrowRight: () => step(1),
  'Shift+ArrowLeft': () => step(-10),
  'Shift+ArrowRight': () => step(10),
  Home: () => step(-opened.facts.frames),
  End: () => step(opened.facts.frames)
})

/** The frame of the source that stands behind, at the moment that is shown. */
const own = useOwnBackdrop()
const behind = computed(() => {
  const spec = back.value.startsWith(OWN) ? own.spec.value : null
  if (!spec) return null
  const { rate } = opened.facts
  return { spec, index: own.frameAt(rate ? index.value / framesPerSecond(rate) : 0) }
})
// another job has other sources, and the viewer may have chosen one meanwhile
watch(
  own.id,
  id => {
    if (back.value.startsWith(OWN)) back.value = id ? OWN + id : '#4a7ba6'
  },
  { immediate: true }
)
function setBack(value: string): void {
  back.value = value
  // it is the job's, and the one that the viewer offers
  if (value.startsWith(OWN)) void own.choose(value.slice(OWN.length))
}

const HOW_TO_MOVE =
  'Drag or use the arrows to move the picture, plus and minus to size, < and > to turn it, 0 puts it back.'

const scene = computed<StationScene>(() => ({
  backdrop: back.value.startsWith('view')
    ? {
        kind: 'view',
        at: back.value === 'view-moving' && opened.facts.rate ? index.value / framesPerSecond(opened.facts.rate) : 0
      }
    : { kind: 'colour', colour: back.value.startsWith('#') ? back.value : '#000000' },
  place: { ...place.value },
  standIn: standIn.value,
  filter: filter.value
}))
const shown = computed(() => stations.find(s => s.id === chosen.value)!)
const visit = computed(() => visits.value.get(chosen.value) ?? null)
const moved = computed(() => JSON.stringify(place.value) !== JSON.stringify(IN_PLACE))

watch(
  () => opened.id,
  () => (visits.value = new Map())
)
watch(
  [visit, large],
  () => {
    const context = large.value?.getContext('2d')
    if (!context || !visit.value) return
    Object.assign(context.canvas, { width: visit.value.width, height: visit.value.height })
    context.putImageData(new ImageData(visit.value.pixels, visit.value.width, visit.value.height), 0, 0)
  },
  { flush: 'post' }
)

function keep(id: string, seen: Visit | null): void {
  if (seen) visits.value = new Map(visits.value).set(id, seen)
  if (id === chosen.value) settled.value = index.value
}

const bounded = (value: number, low: number, high: number): number => Math.max(low, Math.min(high, value))
function put(change: Partial<Placement>): void {
  const next = { ...place.value, ...change }
  place.value = {
    x: bounded(next.x, -1.5, 1.5),
    y: bounded(next.y, -1.5, 1.5),
    scale: bounded(next.scale, 0.05, 4),
    turn: ((next.turn + 540) % 360) - 180
  }
}

let drag: { x: number; y: number; from: Placement } | null = null
function down(event: PointerEvent): void {
  large.value!.setPointerCapture(event.pointerId)
  large.value!.focus()
  drag = { x: event.clientX, y: event.clientY, from: { ...place.value } }
}
function move(event: PointerEvent): void {
  if (!drag) return
  const area = large.value!.getBoundingClientRect()
  const scale = Math.min(area.width / opened.facts.width, area.height / opened.facts.height)
  put({
    x: drag.from.x + (event.clientX - drag.x) / (opened.facts.width * scale),
    y: drag.from.y + (event.clientY - drag.y) / (opened.facts.height * scale)
  })
}
function wheel(event: WheelEvent): void {
  if (event.shiftKey) put({ turn: place.value.turn + (event.deltaY + event.deltaX > 0 ? 2 : -2) })
  else put({ scale: place.value.scale * (event.deltaY < 0 ? 1.05 : 1 / 1.05) })
}
function key(event: KeyboardEvent): void {
  const by = event.shiftKey ? 10 : 1
  const acts: Record<string, () => void> = {
    ArrowLeft: () => put({ x: place.value.x - by / opened.facts.width }),
    ArrowRight: () => put({ x: place.value.x + by / opened.facts.width }),
    ArrowUp: () => put({ y: place.value.y - by / opened.facts.height }),
    ArrowDown: () => put({ y: place.value.y + by / opened.facts.height }),
    '+': () => put({ scale: place.value.scale * 1.05 }),
    '-': () => put({ scale: place.value.scale / 1.05 }),
    '<': () => put({ turn: place.value.turn - 1 }),
    '>': () => put({ turn: place.value.turn + 1 }),
    '0': () => (place.value = { ...IN_PLACE })
  }
  const act = acts[event.key]
  if (!act) return
  event.preventDefault()
  event.stopPropagation()
  act()
}
</script>

<template>
  <div class="hall">
    <section class="stage-side">
      <div class="line">
        <button
          v-for="c in COLOURS"
          :key="c"
          class="plain swatch"
          :class="{ on: back === c }"
          :style="{ background: c }"
          :aria-label="`Backdrop ${c}`"
          :aria-pressed="back === c"
          @click="back = c"
        />
        <input
          :value="back.startsWith('#') ? back : '#4a7ba6'"
          type="color"
          aria-label="Any backdrop colour"
          @change="back = ($event.target as HTMLInputElement).value"
        />
        <el-select :model-value="back" size="small" class="behind" aria-label="Backdrop" @update:model-value="setBack">
          <el-option v-if="back.startsWith('#')" :value="back" :label="back" />
          <el-option value="view" label="Picture" />
          <el-option value="view-moving" label="Moving picture" />
          <el-option v-for="s in own.choices.value" :key="s.id" :value="OWN + s.id" :label="s.name" />
        </el-select>
        <el-select v-model="standIn" size="small" class="pot" aria-label="Stand-in object">
          <el-option value="none" label="No object" />
          <el-option value="behind" label="Before a pot" />
          <el-option value="before" label="Behind a pot" />
        </el-select>
        <el-select v-model="filter" size="small" class="filter" aria-label="Filtering">
          <el-option value="smooth" label="Smooth" />
          <el-option value="nearest" label="Hard pixels" />
        </el-select>
      </div>
      <div class="large">
        <canvas
          ref="large"
          tabindex="0"
          role="img"
          :aria-label="`${shown.name}, frame ${index + 1}. ${HOW_TO_MOVE}`"
          @pointerdown="down"
          @pointermove="move"
          @pointerup="drag = null"
          @wheel.prevent="wheel"
          @keydown="key"
        />
        <p class="corner">{{ shown.name }} · frame {{ index + 1 }}</p>
      </div>
      <div class="line sliders">
        <label
          >Size
          <input
            type="range"
            min="5"
            max="300"
            :value="Math.round(place.scale * 100)"
            aria-label="Size in per cent"
            @input="put({ scale: Number(($event.target as HTMLInputElement).value) / 100 })"
          />
          <span class="mono">{{ Math.round(place.scale * 100) }} %</span></label
        >
        <label
          >Turn
          <input
            type="range"
            min="-180"
            max="180"
            :value="Math.round(place.turn)"
            aria-label="Turn in degrees"
            @input="put({ turn: Number(($event.target as HTMLInputElement).value) })"
          />
          <span class="mono">{{ Math.round(place.turn) }}°</span></label
        >
        <el-button size="small" :disabled="!moved" @click="place = { ...IN_PLACE }">Put back</el-button>
      </div>
      <div class="line">
        <el-button
          v-if="opened.facts.frames > 1"
          size="small"
          :disabled="!opened.facts.rate"
          :title="opened.facts.rate ? 'Play or stop (space)' : 'No rate is known'"
          @click="play"
          >{{ playing ? 'Stop' : 'Play' }}</el-button
        >
        <label class="frame"
          >Frame <input v-model.number="index" type="range" min="0" :max="opened.facts.frames - 1" aria-label="Frame" />
          <span class="mono">{{ index + 1 }} of {{ opened.facts.frames }}</span></label
        >
      </div>
      <p v-if="visit" class="verdict" :class="visit.standing" data-large>{{ visit.sentence }}</p>
      <p class="soft">
        {{ shown.explains }} A station stands in for programs of its kind; it imports the file as they do.
      </p>
      <p v-if="visit && visit.error.codes > 1" class="mono soft">
        off by {{ visit.error.codes }} codes at most, ΔE {{ Math.round(visit.error.max * 10) / 10 }}, in
        {{ Math.round(visit.error.share * 1000) / 10 }} % of the picture
      </p>
    </section>
    <section class="gallery scroll" aria-label="Stations">
      <StationCard
        v-for="station in stations"
        :key="station.id"
        :station="station"
        :exhibit="exhibit"
        :opened="opened"
        :index="index"
        :scene="scene"
        :behind="behind"
        :fallback="station.id === 'no-codec' ? fallback : null"
        :chosen="chosen === station.id"
        :playing="playing"
        @choose="chosen = station.id"
        @shown="keep(station.id, $event)"
      />
    </section>
  </div>
</template>

<style scoped>
.hall {
  display: grid;
  grid-template-columns: 470px minmax(0, 1fr);
  gap: 14px;
  min-height: 0;
  flex: 1;
}

.stage-side {
  display: flex;
  flex-direction: column;
  gap: 8px;
  min-height: 0;
  overflow: auto;
  padding: 4px 4px 0;
}

.line {
  display: flex;
  align-items: center;
  gap: 7px;
}

.line label {
  display: flex;
  align-items: center;
  gap: 6px;
}

.sliders input {
  width: 96px;
}

.frame,
.frame input {
  flex: 1;
}

input[type='range'] {
  accent-color: var(--copper);
}

.behind {
  width: 100px;
}

.pot {
  width: 116px;
}

.filter {
  width: 88px;
}

.swatch {
  width: 20px;
  height: 20px;
  flex: none;
  border: 1px solid var(--line-strong);
  border-radius: 3px;
}

.swatch.on {
  box-shadow:
    0 0 0 2px var(--ground),
    0 0 0 4px var(--copper);
}

input[type='color'] {
  width: 26px;
  height: 22px;
  padding: 0;
  border: 1px solid var(--line-strong);
  background: none;
}

.large {
  position: relative;
  background: var(--stage);
  border: 1px solid var(--line);
  border-radius: var(--radius);
  overflow: hidden;
  flex: none;
}

.large canvas {
  display: block;
  width: 100%;
  max-height: 300px;
  object-fit: contain;
  cursor: move;
  touch-action: none;
}

.corner {
  position: absolute;
  left: 8px;
  top: 8px;
  background: #f6f6f6;
  color: #1d1d1d;
  padding: 2px 8px;
  border-radius: 2px;
  font-size: 12px;
  pointer-events: none;
}

.verdict {
  font-weight: 500;
}

.verdict.right {
  color: var(--verdigris);
}

.verdict.setting {
  color: var(--copper);
}

.verdict.wrong {
  color: var(--brick);
}

.gallery {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(205px, 1fr));
  gap: 10px;
  align-content: start;
  grid-auto-rows: max-content;
  padding-right: 4px;
}
</style>
