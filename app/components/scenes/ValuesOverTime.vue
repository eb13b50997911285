<script setup lang="ts">
/** Values of an element that change over time: at which second which value, and the course from each to the next. */
import { vHeld } from '~/composables/held'
import { computed, ref, watchEffect } from 'vue'
import { heldTo } from './elementParts'
import { ColourKey, Key, KEYED, type Element, type Keyed } from '~~/core/scene/scene'
import { tintedOf } from '~~/core/scene/tint'

type TrackKey = Element['tracks'][number]['keys'][number]

const { element, seconds } = defineProps<{ element: Element; seconds: number }>()
const emit = defineEmits<{ edit: [label: string, change: (element: Element) => void] }>()

const edit = (label: string, change: (element: Element) => void): void => emit('edit', label, change)

const KEYED_WORDS: Record<Keyed, string> = {
  x: 'Across',
  y: 'Down',
  scale: 'Scale',
  rotation: 'Turned',
  opacity: 'Opacity',
  trace: 'Drawn share'
}
const nameOf = (of: Keyed | 'colour'): string => (of === 'colour' ? 'Colour' : KEYED_WORDS[of])

const adding = ref<Keyed | 'colour'>('x')
const free = computed<(Keyed | 'colour')[]>(() => [
  ...KEYED.filter(of => !element.tracks.some(track => track.of === of)),
  ...(tintedOf(element.look) !== null && !element.colours ? (['colour'] as const) : [])
])
// what was added is offered no more
watchEffect(() => {
  if (!free.value.includes(adding.value)) adding.value = free.value[0] ?? 'x'
})

const rounded = (value: number): number => Math.round(value * 100) / 100
const words = (event: Event): string => (event.target as HTMLInputElement).value

function addColours(): void {
  edit('Add colours over time', now => {
    const own = tintedOf(now.look)
    if (now.colours || own === null) return
    const colour = typeof own === 'string' ? own : own.from
    now.colours = [
      { at: 0, colour, ease: 'soft' },
      { at: rounded(seconds), colour, ease: 'soft' }
    ]
  })
}

function addColour(): void {
  edit('Add a colour', now => {
    const last = now.colours!.at(-1)!
    now.colours!.push({ ...last, at: heldTo(ColourKey.shape.at, rounded(last.at + 0.5)) })
  })
}

const changeColour = (key: number, set: (key: ColourKey) => void): void =>
  edit('Change a colour over time', now => set(now.colours![key]!))

function setColourTime(event: Event, key: number): void {
  const held = heldTo(ColourKey.shape.at, Number(words(event)))
  ;(event.target as HTMLInputElement).value = String(held)
  changeColour(key, now => void (now.at = held))
}

function addTrack(): void {
  const of = adding.value
  if (of === 'colour') return addColours()
  edit('Add values over time', now => {
    if (now.tracks.some(track => track.of === of)) return
    const value = of === 'trace' ? 1 : now[of]
    now.tracks.push({
      of,
      keys: [
        { at: 0, value, ease: 'soft' },
        { at: rounded(seconds), value, ease: 'soft' }
      ]
    })
  })
}

function addKey(track: number): void {
  edit('Add a value', now => {
    const { keys } = now.tracks[track]!
    const last = keys.at(-1)!
    keys.push({ ...last, at: heldTo(Key.shape.at, rounded(last.at + 0.5)) })
  })
}

/** A key changed; a number as it is held to what the scene takes, which the field then shows. */
function change(track: number, key: number, set: (key: TrackKey) => void): void {
  edit('Change a value', now => set(now.tracks[track]!.keys[key]!))
}
function setNumber(event: Event, of: 'at' | 'value', track: number, key: number): void {
  const held = heldTo(Key.shape[of], Number(words(event)))
  ;(event.target as HTMLInputElement).value = String(held)
  change(track, key, now => void (now[of] = held))
}
</script>

<template>
  <div class="tracks">
    <div v-for="(track, t) in element.tracks" :key="track.of" class="track">
      <strong>{{ KEYED_WORDS[track.of] }}</strong>
      <span v-for="(key, k) in track.keys" :key="k" class="key">
        <input
          type="number"
          step="0.05"
          min="0"
          :aria-label="`${KEYED_WORDS[track.of]}, time ${k + 1}`"
          v-held="key.at"
          @change="e => setNumber(e, 'at', t, k)"
        />
        s
        <input
          type="number"
          step="any"
          :aria-label="`${KEYED_WORDS[track.of]}, value ${k + 1}`"
          v-held="key.value"
          @change="e => setNumber(e, 'value', t, k)"
        />
        <CourseCurve
          :label="`${KEYED_WORDS[track.of]}, course ${k + 1}`"
          :ease="key.ease"
          @set="ease => change(t, k, now => void (now.ease = ease))"
        />
        <button
          v-if="track.keys.length > 1"
          type="button"
          class="link"
          :aria-label="`Remove value ${k + 1}`"
          @click="edit('Remove a value', now => void now.tracks[t]!.keys.splice(k, 1))"
        >
          ×
        </button>
      </span>
      <span>
        <button type="button" class="link" @click="addKey(t)">Add a value</button>
        ·
        <button
          type="button"
          class="link"
          @click="edit('Remove values over time', now => void now.tracks.splice(t, 1))"
        >
          Remove all
        </button>
      </span>
    </div>
    <div v-if="element.colours" class="track">
      <strong>Colour</strong>
      <span v-for="(key, k) in element.colours" :key="k" class="key">
        <input
          type="number"
          step="0.05"
          min="0"
          :aria-label="`Colour, time ${k + 1}`"
          v-held="key.at"
          @change="e => setColourTime(e, k)"
        />
        s
        <input
          type="color"
          :aria-label="`Colour, value ${k + 1}`"
          :value="key.colour"
          @change="e => changeColour(k, now => void (now.colour = words(e)))"
        />
        <CourseCurve
          :label="`Colour, course ${k + 1}`"
          :ease="key.ease"
          @set="ease => changeColour(k, now => void (now.ease = ease))"
        />
        <button
          v-if="element.colours.length > 1"
          type="button"
          class="link"
          :aria-label="`Remove colour ${k + 1}`"
          @click="edit('Remove a colour over time', now => void now.colours!.splice(k, 1))"
        >
          ×
        </button>
      </span>
      <span>
        <button type="button" class="link" @click="addColour">Add a colour</button>
        ·
        <button
          type="button"
          class="link"
          @click="edit('Remove colours over time', now => void (now.colours = undefined))"
        >
          Remove all
        </button>
      </span>
    </div>
    <span v-if="free.length">
      Values over time:
      <select v-model="adding" aria-label="Value that changes over time">
        <option v-for="of in free" :key="of" :value="of">{{ nameOf(of) }}</option>
      </select>
      <button type="button" class="link" @click="addTrack">Add</button>
    </span>
  </div>
</template>

<style scoped>
.tracks,
.track {
  display: flex;
  flex-direction: column;
  gap: 4px;
  font-size: 12px;
}

.tracks input,
.tracks select {
  font: inherit;
  color: var(--ink);
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 3px;
  padding: 3px 5px;
}

.key {
  display: grid;
  grid-template-columns: 58px auto 72px 1fr auto;
  gap: 5px;
  align-items: center;
}
</style>
