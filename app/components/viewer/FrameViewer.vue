<script setup lang="ts">
/**
 * The viewer of every place: one clip, or two under a wipe, over a named backdrop, in a chosen view, at any zoom.
 * It asks its owner for pictures and codes; it decides nothing about them.
 */
import ToolLayer, { type Point, type Tool } from '~/components/viewer/ToolLayer.vue'
import { useKeys } from '~/composables/useKeys'
import { useOwnBackdrop } from '~/composables/useOwnBackdrop'
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import { isAbort, sentenceOf } from '~~/core/base/errors'
import type { Frame } from '~~/core/frame/frame'
import { framesPerSecond, type Rate } from '~~/core/base/rate'
import { VIEW_NAMES, VIEWS, type View, type ViewPixels } from '~~/core/judge/view/pixels'
import BackdropBar from './BackdropBar.vue'
import { BACKDROPS, drawBackdrop, type Backdrop, type Behind } from './backdrops'
import { FrameCache } from './frame-cache'
import { useLoupe } from './loupe'
import { usePlayback } from './playback'
import { drawSafeAreas } from './safe-areas'
import { useStage } from './stage'

export interface ViewerClip {
  /** Changes when the pictures do. */
  key: string
  name: string
  picture(index: number, view: View, signal: AbortSignal): Promise<ViewPixels>
  codes(index: number, signal: AbortSignal): Promise<Frame>
  /** A quicker picture of fewer pixels that is shown while it plays; the exact one comes with the pause. */
  preview?(index: number, view: View, signal: AbortSignal): Promise<ViewPixels>
  /** Its pictures are of half its size, while a hand changes it: no codes are read from it. */
  tried?: boolean
}

const {
  clip,
  other = null,
  heat = null,
  heatName = 'Difference',
  heatKeyed = '',
  heatKey = '',
  tool = null,
  width,
  height,
  frames,
  rate
} = defineProps<{
  clip: ViewerClip | null
  /** Shown right of the wipe. */
  other?: ViewerClip | null
  /** A view of the owner's own, such as the difference of the two, and its name. */
  heat?: ((index: number, signal: AbortSignal) => Promise<ViewPixels>) | null
  heatName?: string
  /** What its colours mean, in a few words. */
  heatKeyed?: string
  /** What the heat pictures depend on besides the clip. */
  heatKey?: string
  /** What is being picked or drawn in the picture. */
  tool?: Tool | null
  width: number
  height: number
  frames: number
  rate: Rate | null
}>()

const index = defineModel<number>('index', { default: 0 })
const emit = defineEmits<{
  mark: [end: 'from' | 'to']
  pick: [at: Point]
  draw: [points: Point[], done: boolean]
  'tool-end': []
  /** The present frame stands there, or why it cannot. */
  shown: []
}>()

const frame = ref<HTMLElement | null>(null)
const canvas = ref<HTMLCanvasElement | null>(null)
const backdrop = ref<Backdrop>('checker')
const colour = ref('#b8417a')
const view = ref<View | 'heat'>('over')
const wipe = ref(0.5)
const failure = ref<string | null>(null)
const pointer = ref<{ x: number; y: number } | null>(null)
const cache = new FrameCache()
const own = useOwnBackdrop()
const behind = new FrameCache()
const safe = ref(false)

const { size, zoom, pan, scale, percent, boxShown, box, nextZoom, wheel, pixelAt } = useStage(frame, () => ({
  width,
  height,
  around: tool?.kind === 'handle' && tool.sized
}))
const backdropName = computed(() =>
  backdrop.value === 'colour'
    ? colour.value
    : (backdrop.value === 'own' && own.clip.value?.name) || BACKDROPS.find(b => b.id === backdrop.value)!.name
)
const caption = computed(() => {
  if (view.value === 'heat') return { view: heatName, over: '' }
  return { view: VIEW_NAMES[view.value], over: view.value === 'over' ? backdropName.value : '' }
})
const said = computed(() => {
  const { view, over } = caption.value
  return `${clip?.name ?? ''}, frame ${index.value + 1}, ${view}${over ? ` over ${over}` : ''}`
})
const views = computed<(View | 'heat')[]>(() => (heat ? [...VIEWS, 'heat'] : [...VIEWS]))

/** Frames on either side of the seam that are played when only the seam is. */
const AROUND = 10
const seam = ref(false)
const order = computed(() => {
  if (!seam.value || frames < 3) return null
  const around = Math.min(AROUND, Math.floor(frames / 2))
  return [
    ...Array.from({ length: around }, (_, i) => frames - around + i),
    ...Array.from({ length: around }, (_, i) => i)
  ]
})

const { playing, looping, skipped, play, step } = usePlayback(index, {
  frames: () => frames,
  order: () => order.value,
  rate: () => (clip ? rate : null),
  ready: i =>
    !!clip &&
    !!cache.get(keyOf(clip, i)) &&
    (!isOwn() || !!behind.get(ownKey(i))) &&
    (!other || view.value === 'heat' || !!cache.get(keyOf(other, i))),
  fetch(i) {
    if (clip) void load(clip, i).catch(() => undefined)
    void loadBehind(i).catch(() => undefined)
    if (other && view.value !== 'heat') void load(other, i).catch(() => undefined)
  }
})

const { reading, readCodes } = useLoupe(pointer, {
  clips: () => (clip ? [clip, ...(other ? [other] : [])] : []),
  index: () => index.value,
  silent: () => playing.value || clip?.tried === true
})
const isPreview = (of: ViewerClip): boolean => playing.value && view.value !== 'heat' && !!of.preview

function keyOf(of: ViewerClip, i: number): string {
  const seen = view.value === 'heat' ? `${heatName} ${heatKey}` : view.value
  return `${of.key}|${seen}|${isPreview(of) ? 'preview' : ''}|${i}`
}

function load(of: ViewerClip, i: number): Promise<ImageBitmap | null> {
  const now = view.value
  if (now === 'heat') return cache.load(keyOf(of, i), signal => heat!(i, signal))
  const make = isPreview(of) ? of.preview! : of.picture
  return cache.load(keyOf(of, i), signal => make(i, now, signal))
}

function secondsAt(i: number): number {
  return rate ? i / framesPerSecond(rate) : 0
}

function ownKey(i: number): string {
  return `${own.clip.value?.key}|${own.frameAt(secondsAt(i))}`
}

function isOwn(): boolean {
  return backdrop.value === 'own' && !!own.clip.value
}

/** The frame of the job's own backdrop that stands behind frame `i`. */
async function loadBehind(i: number): Promise<unknown> {
  const of = own.clip.value
  return isOwn() && of ? behind.load(ownKey(i), signal => of.picture(own.frameAt(secondsAt(i)), 'over', signal)) : null
}
const behindNow = (): Behind => ({
  backdrop: backdrop.value,
  colour: colour.value,
  time: secondsAt(index.value),
  own: isOwn() ? behind.get(ownKey(index.value)) : null
})

/** Everything the present frame needs; then it is drawn. */
async function show(): Promise<void> {
  if (!clip) return
  const i = index.value
  try {
    await Promise.all([load(clip, i), loadBehind(i), ...(other && view.value !== 'heat' ? [load(other, i)] : [])])
    failure.value = null
  } catch (error) {
    if (!isAbort(error)) failure.value = sentenceOf(error)
  }
  if (i === index.value) draw()
  emit('shown')
}

function draw(): void {
  const context = canvas.value?.getContext('2d')
  if (!context || !clip || !size.width.value) return
  const ratio = window.devicePixelRatio
  const [w, h] = [Math.round(size.width.value * ratio), Math.round(size.height.value * ratio)]
  if (context.canvas.width !== w || context.canvas.height !== h) Object.assign(context.canvas, { width: w, height: h })
  const here = cache.get(keyOf(clip, index.value))
  if (!here && !failure.value) return // the frame before stays until this one is ready
  context.clearRect(0, 0, w, h)
  const at = box()
  drawBackdrop(context, at, behindNow())
  context.imageSmoothingEnabled = scale.value < 2
  context.imageSmoothingQuality = 'high'
  if (here) context.drawImage(here, at.x, at.y, at.width, at.height)
  const second = other && view.value !== 'heat' ? cache.get(keyOf(other, index.value)) : null
  if (other && view.value !== 'heat') {
    const edge = at.x + at.width * wipe.value
    context.save()
    context.beginPath()
    context.rect(edge, at.y, at.x + at.width - edge, at.height)
    context.clip()
    drawBackdrop(context, at, behindNow())
    if (second) context.drawImage(second, at.x, at.y, at.width, at.height)
    context.restore()
    context.fillStyle = '#ffffff'
    context.fillRect(Math.round(edge) - 1, at.y, 2, at.height)
  }
  if (safe.value) drawSafeAreas(context, at)
}

watch([() => clip?.key, () => other?.key], () => {
  cache.clear()
  void show()
  void readCodes()
})
watch([index, view, size.width, size.height], () => void show(), { immediate: true })
watch([colour, scale, pan, wipe, safe], draw)
watch([backdrop, () => own.clip.value?.key], () => void show())

watch(index, () => void readCodes())
watch(playing, now => {
  if (!now && clip?.preview) void show()
})

function nextView(): void {
  view.value = views.value[(views.value.indexOf(view.value) + 1) % views.value.length]!
}

let drag: { kind: 'wipe' | 'pan'; x: number; y: number } | null = null

function leave(): void {
  pointer.value = null
  reading.value = ''
}

function down(event: PointerEvent): void {
  frame.value!.setPointerCapture(event.pointerId)
  const at = box()
  const area = frame.value!.getBoundingClientRect()
  const edge = at.x / window.devicePixelRatio + (at.width / window.devicePixelRatio) * wipe.value
  drag = {
    kind: other && Math.abs(event.clientX - area.left - edge) < 14 ? 'wipe' : 'pan',
    x: event.clientX,
    y: event.clientY
  }
}

function move(event: PointerEvent): void {
  if (drag?.kind === 'wipe') {
    const at = box()
    const area = frame.value!.getBoundingClientRect()
    wipe.value = Math.max(0, Math.min(1, ((event.clientX - area.left) * window.devicePixelRatio - at.x) / at.width))
  } else if (drag && zoom.value !== 'fit') {
    pan.value = { x: pan.value.x + event.clientX - drag.x, y: pan.value.y + event.clientY - drag.y }
    drag = { ...drag, x: event.clientX, y: event.clientY }
  }
  pointer.value = pixelAt(event)
  void readCodes()
}

onBeforeUnmount(() => [cache, behind].forEach(each => each.clear()))

useKeys({
  Space: play,
  ArrowLeft: () => step(-1),
  ArrowRight: () => step(1),
  'Shift+ArrowLeft': () => step(-10),
  'Shift+ArrowRight': () => step(10),
  Home: () => step(-frames),
  End: () => step(frames),
  i: () => emit('mark', 'from'),
  o: () => emit('mark', 'to'),
  v: nextView,
  z: nextZoom,
  l: () => (looping.value = !looping.value),
  s: playSeam,
  g: () => (safe.value = !safe.value),
  ...Object.fromEntries(BACKDROPS.map((b, n) => [String(n + 1), () => (backdrop.value = b.id)]))
})

/** Plays the end and the beginning over and over; again, to stop. */
function playSeam(): void {
  seam.value = !seam.value
  if (playing.value) play()
  if (seam.value && frames > 2) {
    index.value = order.value![0]!
    play()
  }
}

defineExpose({ play, playSeam, seam, step, playing, looping, skipped })
</script>

<template>
  <section class="viewer">
    <header>
      <BackdropBar v-model:backdrop="backdrop" v-model:colour="colour" :own="own" />
      <span class="soft gap word">View</span>
      <el-select v-model="view" size="small" class="views" aria-label="View">
        <el-option v-for="v in views" :key="v" :value="v" :label="v === 'heat' ? heatName : VIEW_NAMES[v]" />
      </el-select>
      <kbd class="soft">V</kbd>
      <span class="spring" />
      <slot name="tools" />
      <button
        class="plain safe"
        :class="{ on: safe }"
        title="Safe areas: action within 93 %, titles within 90 % (G)"
        aria-label="Safe areas"
        :aria-pressed="safe"
        @click="safe = !safe"
      />
      <button class="plain mono soft zoom" title="Zoom (Z)" @click="nextZoom">{{ percent }}</button>
    </header>
    <div
      ref="frame"
      class="stage"
      :class="{ wiping: other }"
      @wheel.prevent="wheel"
      @pointerdown="down"
      @pointermove="move"
      @pointerup="drag = null"
      @pointerleave="leave"
    >
      <canvas ref="canvas" role="img" :aria-label="said" />
      <ToolLayer
        v-if="tool"
        :key="tool.kind"
        :tool="tool"
        :box="boxShown"
        :width="width"
        :height="height"
        @pick="emit('pick', $event)"
        @draw="(points, done) => emit('draw', points, done)"
        @end="emit('tool-end')"
      />
      <slot name="over" :box="boxShown" />
      <p class="corner caption">
        {{ caption.view.replace(/ over backdrop$/, '')
        }}<template v-if="caption.over">
          over <strong>{{ caption.over }}</strong></template
        ><template v-if="view === 'heat' && heatKeyed">: {{ heatKeyed }}</template
        ><template v-if="clip && isPreview(clip)">, at half size while it plays</template
        ><template v-else-if="clip?.tried">, at half size while it changes</template>
      </p>
      <p v-if="other && view !== 'heat'" class="corner side left">{{ clip?.name }}</p>
      <p v-if="other && view !== 'heat'" class="corner side right">{{ other.name }}</p>
      <p v-if="reading" class="corner loupe mono">{{ reading }}</p>
      <p v-if="failure" class="failure" role="alert">{{ failure }}</p>
    </div>
  </section>
</template>

<style scoped>
.viewer {
  display: flex;
  flex-direction: column;
  min-width: 0;
  min-height: 0;
}

/* where there is no room for one line of tools there are two */
header {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 6px;
  min-height: 38px;
  padding: 3px 10px;
  background: var(--panel);
  border-bottom: 1px solid var(--line);
  flex: none;
}

.gap {
  margin-left: 10px;
}

.zoom {
  white-space: nowrap;
}

header :deep(.el-radio-group) {
  flex-wrap: nowrap;
}

header {
  container: tools / inline-size;
}

@container tools (width < 760px) {
  .word {
    display: none;
  }
}

.safe {
  width: 26px;
  height: 18px;
  flex: none;
  border: 1px solid var(--line-strong);
  border-radius: 2px;
  box-shadow:
    inset 0 0 0 3px var(--panel),
    inset 0 0 0 4px var(--line-strong);
}

.safe.on {
  border-color: var(--copper);
  box-shadow:
    inset 0 0 0 3px var(--panel),
    inset 0 0 0 4px var(--copper);
}

.views {
  flex: 1 1 96px;
  max-width: 168px;
}

.stage {
  position: relative;
  flex: 1;
  min-height: 0;
  background: var(--stage);
  overflow: hidden;
  touch-action: none;
}

.stage.wiping {
  cursor: ew-resize;
}

canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}

.corner {
  position: absolute;
  background: #f6f6f6;
  color: #1d1d1d;
  padding: 2px 8px;
  border-radius: 2px;
  font-size: 12px;
  pointer-events: none;
}

.caption {
  left: 10px;
  top: 10px;
}

.loupe {
  right: 10px;
  bottom: 10px;
}

.side {
  bottom: 10px;
  font-family: var(--mono);
}

.side.left {
  left: 10px;
}

.side.right {
  right: 10px;
}

.loupe ~ .side.right,
.side.right:has(~ .loupe) {
  bottom: 36px;
}

.failure {
  position: absolute;
  inset: auto 20% 40%;
  padding: 10px 14px;
  background: var(--brick-wash);
  color: var(--brick);
  border-radius: 3px;
}
</style>
