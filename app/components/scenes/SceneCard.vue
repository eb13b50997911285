<script setup lang="ts">
/**
 * One element of a running order: a sentence whose parts are edited where they stand, and how strongly it is there over
 * time.
 */
import InlinePart from '~/components/scenes/InlinePart.vue'
import MovePart from '~/components/scenes/MovePart.vue'
import SceneThumb from '~/components/scenes/SceneThumb.vue'
import { computed, nextTick, ref, watch } from 'vue'
import { calledOf, secondsIn } from './words'
import { useJob } from '~/stores/job'
import { useSources } from '~/stores/sources'
import { kindOf, type Look } from '~~/core/draw/scene/elements/kinds'
import { facesOf, type Element, type Scene } from '~~/core/draw/scene/scene'
import { mattesOf } from '~~/core/draw/scene/mattes'
import { drawn, midstOf } from '~~/core/draw/scene/order'
import { shownBy } from '~~/core/job/resolve'
import { lastsOf, presenceOf, timesOf } from '~~/core/draw/scene/timing'

const { scene, element, index, open, chosen } = defineProps<{
  scene: Scene
  element: Element
  index: number
  open: boolean
  /** Chosen in the picture, by itself or beside others. */
  chosen: boolean
}>()
const emit = defineEmits<{
  edit: [label: string, change: (element: Element) => void]
  /** Its words as they are typed; null once they are kept or given up. */
  typing: [words: string | null]
  open: []
  move: [by: 1 | -1]
  remove: []
}>()

const jobs = useJob()
const sources = useSources()

/** What lies in it, groups in groups as well. */
const within = (id: string): Element[] =>
  scene.elements.filter(other => other.inside === id).flatMap(other => [other, ...within(other.id)])

/** From what picture on a clip is shown by itself: many begin with nothing. */
function inMidst(look: Look): Look {
  const other = look.kind === 'clip' ? shownBy(jobs.job.sources, look) : null
  return other && look.kind === 'clip' ? { ...look, from: midstOf(sources.factsOf(other).frames) } : look
}

/** What goes on by itself is shown from its midst, all else from its beginning. */
const runs = computed(() => kindOf(element.look).runs?.(element.look) ?? false)
const midst = computed(() => (runs.value ? Math.floor(scene.frames / 2) : 0))

/** Those that it cuts, in words. */
const cuts = computed(() =>
  [...mattesOf(drawn(scene)).by]
    .filter(([, by]) => by.id === element.id)
    .map(([cut]) => `“${scene.elements.find(({ id }) => id === cut)!.name || cut}”`)
    .join(', ')
)

/** The element by itself, still: what it looks like. One out of a group lies in the middle. */
const alone = computed<Scene>(() => ({
  ...scene,
  frames: midst.value + 1,
  backdrop: null,
  blur: { moments: 1, open: 0 },
  // a font file is long: it goes along only where it letters
  faces: scene.faces?.filter(({ id }) =>
    [element, ...within(element.id)].some(({ look }) => facesOf(look).includes(id))
  ),
  elements: [
    ...within(element.id),
    {
      ...element,
      look: inMidst(element.look),
      ...(element.inside === undefined ? {} : { inside: undefined, x: scene.width / 2, y: scene.height / 2 }),
      hidden: false,
      alone: false,
      opacity: 1,
      after: null,
      delay: 0,
      hold: null,
      entrance: { ...element.entrance, kind: 'none' },
      exit: { ...element.exit, kind: 'none' },
      tracks: [],
      colours: undefined,
      blend: undefined,
      matte: undefined
    }
  ]
}))

const SAMPLES = 80
/** How much of it is there over time, as the outline of a small chart. */
const presence = computed(() => {
  const times = timesOf(scene).get(element.id)!
  const lasts = lastsOf(scene)
  const points = Array.from({ length: SAMPLES + 1 }, (_, n) => {
    const share = presenceOf(element, times, Math.min(lasts - 1e-6, (n / SAMPLES) * lasts))
    return `${((100 * n) / SAMPLES).toFixed(2)},${(10 - 10 * share).toFixed(2)}`
  })
  return `0,10 ${points.join(' ')} 100,10`
})
const head = computed(() => (100 * index) / Math.max(1, scene.frames - 1))

/** Words that are changed where they stand. */
const words = computed(() => kindOf(element.look).words?.of(element.look) ?? null)
const others = computed(() => [
  { value: '', label: 'after the start' },
  ...scene.elements
    .filter(other => other.id !== element.id)
    .map(({ id, name }) => ({ value: id, label: `after ${name}` }))
])
const card = ref<HTMLElement | null>(null)
watch(
  () => open,
  async now => {
    await nextTick()
    if (now) card.value?.scrollIntoView({ block: 'nearest' })
  }
)

/** From when to when it is there, in a few figures. */
const times = computed(() => {
  const { start, end } = timesOf(scene).get(element.id)!
  const seconds = (at: number): string => `${Math.round(at * 100) / 100}`
  return `${seconds(start)} s to ${end >= lastsOf(scene) ? 'end' : `${seconds(end)} s`}`
})
const standing = computed(() =>
  [element.hidden && 'hidden', element.locked && 'locked', element.alone && 'only this'].filter(Boolean).join(', ')
)

function edit(label: string, change: (element: Element) => void): void {
  emit('edit', label, change)
}
</script>

<template>
  <li ref="card" class="card" :class="{ open, chosen, hidden: element.hidden }">
    <button
      v-if="!open"
      class="plain fold"
      :aria-label="`Open ${element.name}`"
      aria-expanded="false"
      @click="emit('open')"
    >
      <SceneThumb :scene="alone" :index="midst" :width="48" :height="27" near />
      <span class="what"
        ><strong>{{ calledOf(element) }}</strong>
        {{ words === null ? element.name : words.replaceAll('\n', ' / ') }}</span
      >
      <span class="mono soft when">{{ standing || (cuts ? `cuts ${cuts}` : times) }}</span>
    </button>
    <div v-else class="top">
      <button class="plain" :aria-label="`Open ${element.name}`" :aria-expanded="open" @click="emit('open')">
        <SceneThumb :scene="alone" :index="midst" :width="64" :height="36" near />
      </button>
      <p class="sentence" :inert="element.locked">
        <strong>{{ calledOf(element) }}</strong>
        <InlinePart
          v-if="words !== null"
          label="Text"
          :value="words.replaceAll('\n', ' / ')"
          @typing="text => emit('typing', text?.replaceAll(' / ', '\n') ?? null)"
          @set="
            text => edit('Change the text', ({ look }) => kindOf(look).words?.set(look, text.replaceAll(' / ', '\n')))
          "
        />
        <span v-else class="soft">{{ element.name }}</span>
        <MovePart
          :element="element"
          which="entrance"
          @change="change => edit('Change how it comes', now => change(now.entrance))"
        />,
        <InlinePart
          label="Seconds later"
          unit=" s "
          :value="element.delay"
          @set="text => edit('Change when it comes', now => void (now.delay = secondsIn(text)))"
        />
        <InlinePart
          label="Begins after"
          :value="element.after ?? ''"
          :choices="others"
          @set="id => edit('Change when it comes', now => void (now.after = id || null))"
        />; stays
        <InlinePart
          label="How long it stays"
          :value="element.hold === null ? 'end' : 'time'"
          :choices="[
            { value: 'end', label: 'to the end' },
            { value: 'time', label: 'for' }
          ]"
          @set="kind => edit('Change how long it stays', now => void (now.hold = kind === 'end' ? null : 2))"
        />
        <InlinePart
          v-if="element.hold !== null"
          label="Seconds it stays"
          unit=" s"
          :value="element.hold"
          @set="text => edit('Change how long it stays', now => void (now.hold = secondsIn(text)))"
        />,
        <MovePart
          :element="element"
          which="exit"
          @change="change => edit('Change how it goes', now => change(now.exit))"
        />{{ cuts ? `; is not seen itself, and cuts ${cuts}.` : '.' }}
      </p>
    </div>
    <svg class="presence" viewBox="0 0 100 10" preserveAspectRatio="none" aria-hidden="true">
      <polygon :points="presence" />
      <line :x1="head" :x2="head" y1="0" y2="10" vector-effect="non-scaling-stroke" />
    </svg>
    <div v-if="open" class="acts">
      <button
        class="link small"
        :aria-pressed="!element.hidden"
        @click="edit(element.hidden ? 'Show' : 'Hide', now => void (now.hidden = !now.hidden))"
      >
        {{ element.hidden ? 'Show' : 'Hide' }}
      </button>
      <button
        class="link small"
        :class="{ on: element.alone }"
        :aria-pressed="element.alone"
        @click="edit('Show alone', now => void (now.alone = !now.alone))"
      >
        {{ element.alone ? 'With the others' : 'Only this' }}
      </button>
      <button
        class="link small"
        :aria-pressed="element.locked"
        @click="edit('Lock', now => void (now.locked = !now.locked))"
      >
        {{ element.locked ? 'Unlock' : 'Lock' }}
      </button>
      <span class="spring" />
      <button
        class="link small"
        title="In front of the one above"
        :aria-label="`Move ${element.name} to the front`"
        @click="emit('move', -1)"
      >
        ▲
      </button>
      <button
        class="link small"
        title="Behind the one below"
        :aria-label="`Move ${element.name} to the back`"
        @click="emit('move', 1)"
      >
        ▼
      </button>
      <button class="link small" @click="emit('open')">Close</button>
      <button class="link small" :aria-label="`Remove ${element.name}`" @click="emit('remove')">Remove</button>
    </div>
    <slot v-if="open" />
  </li>
</template>

<style scoped>
.card {
  background: var(--raised);
  border: 1px solid var(--line);
  border-radius: var(--radius);
  padding: 8px 10px;
  display: flex;
  flex-direction: column;
  gap: 6px;
  list-style: none;
}

.card.open,
.card.chosen {
  border-color: var(--copper-fill);
}

.card:not(.open) {
  padding: 4px 8px;
  gap: 3px;
}

.card:not(.open) .presence {
  height: 4px;
}

.fold {
  display: flex;
  gap: 8px;
  align-items: center;
  width: 100%;
  text-align: left;
}

.what {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.when {
  flex: none;
  max-width: 50%;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  font-size: 11px;
}

.card.hidden :is(.sentence, .what),
.card.hidden canvas {
  opacity: 0.5;
}

.top {
  display: flex;
  gap: 10px;
  align-items: flex-start;
}

.sentence > strong,
.sentence > .soft {
  margin-right: 4px;
}

.sentence {
  flex: 1;
  min-width: 0;
  line-height: 1.65;
}

.presence {
  width: 100%;
  height: 12px;
  background: var(--ground);
}

.presence polygon {
  fill: var(--copper-fill);
}

.presence line {
  stroke: var(--ink);
  stroke-width: 1;
}

.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 9px;
  align-items: center;
}

.small {
  font-size: 12px;
  white-space: nowrap;
}

.on {
  font-weight: 600;
}
</style>
