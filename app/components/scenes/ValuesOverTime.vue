<script setup lang="ts">
/** Values and colours of an element that change over time. */
import ValueTrack from '~/components/scenes/ValueTrack.vue'
import { vHeld } from '~/composables/held'
import { computed, ref, watchEffect } from 'vue'
import { actsOn } from '~~/core/draw/scene/acting'
import { heldTo } from '~~/core/draw/scene/elements/entry'
import { kindOf } from '~~/core/draw/scene/elements/kinds'
import type { Element } from '~~/core/draw/scene/scene'
import { Key, KEYED, type Keyed, type Paint } from '~~/core/draw/scene/values'

type Changing = Keyed | 'colour'

const { element, seconds } = defineProps<{ element: Element; seconds: number }>()
const emit = defineEmits<{ edit: [label: string, change: (element: Element) => void] }>()

const edit = (label: string, change: (element: Element) => void): void => emit('edit', label, change)

const WORDS: Record<Changing, string> = {
  x: 'Across',
  y: 'Down',
  scale: 'Scale',
  rotation: 'Turned',
  wide: 'Wider',
  tall: 'Taller',
  opacity: 'Opacity',
  trace: 'Drawn share',
  dashes: 'Dashes run on',
  along: 'Along its path',
  depth: 'Depth',
  seconds: 'Seconds of it',
  colour: 'Colour'
}

/** The colour that others over time would take the place of. */
const paintOf = ({ look }: Element): Paint | null => kindOf(look).paint?.(look) ?? null

const adding = ref<Changing>('x')
const free = computed<Changing[]>(() => [
  ...KEYED.filter(of => actsOn(element, of) && !element.tracks.some(track => track.of === of)),
  ...(paintOf(element) !== null && !element.colours ? (['colour'] as const) : [])
])
// what was added is offered no more
watchEffect(() => {
  if (!free.value.includes(adding.value)) adding.value = free.value[0] ?? 'x'
})

const rounded = (value: number): number => Math.round(value * 100) / 100
const words = (event: Event): string => (event.target as HTMLInputElement).value

/** The same from the first moment to the last, to be changed. */
const ends = <T extends object>(value: T): [T & Pick<Key, 'at' | 'ease'>, T & Pick<Key, 'at' | 'ease'>] => [
  { ...value, at: 0, ease: 'soft' },
  { ...value, at: rounded(seconds), ease: 'soft' }
]

function add(of: Changing): void {
  edit(of === 'colour' ? 'Add colours over time' : 'Add values over time', now => {
    const own = paintOf(now)
    if (of !== 'colour') {
      if (!now.tracks.some(track => track.of === of)) now.tracks.push({ of, keys: ends({ value: restOf(now, of) }) })
    } else if (own !== null) now.colours ??= ends({ colour: typeof own === 'string' ? own : own.from })
  })
}

/** What a value is where it does not change over time. */
function restOf(now: Element, of: Keyed): number {
  if (of === 'dashes' || of === 'along' || of === 'seconds') return 0
  if (of === 'depth') return now.depth ?? 0
  return of === 'trace' ? 1 : (now[of] ?? 1)
}

/** Adds another half a second after the last. */
function lengthen<T extends Pick<Key, 'at'>>(keys: T[]): void {
  const last = keys.at(-1)!
  keys.push({ ...last, at: heldTo(Key.shape.at, rounded(last.at + 0.5)) })
}

function setValue(event: Event, track: number, key: number): void {
  const held = heldTo(Key.shape.value, Number(words(event)))
  ;(event.target as HTMLInputElement).value = String(held)
  edit('Change a value', now => void (now.tracks[track]!.keys[key]!.value = held))
}
</script>

<template>
  <div class="tracks">
    <ValueTrack
      v-for="(track, t) in element.tracks"
      :key="track.of"
      :title="WORDS[track.of]"
      :keys="track.keys"
      what="value"
      @change="(k, set) => edit('Change a value', now => set(now.tracks[t]!.keys[k]!))"
      @add="edit('Add a value', now => lengthen(now.tracks[t]!.keys))"
      @remove="k => edit('Remove a value', now => void now.tracks[t]!.keys.splice(k, 1))"
      @remove-all="edit('Remove values over time', now => void now.tracks.splice(t, 1))"
    >
      <template #default="{ at, label }">
        <input
          type="number"
          step="any"
          :aria-label="label"
          v-held="track.keys[at]!.value"
          @change="e => setValue(e, t, at)"
        />
      </template>
    </ValueTrack>
    <ValueTrack
      v-if="element.colours"
      :title="WORDS.colour"
      :keys="element.colours"
      what="colour"
      @change="(k, set) => edit('Change a colour over time', now => set(now.colours![k]!))"
      @add="edit('Add a colour', now => lengthen(now.colours!))"
      @remove="k => edit('Remove a colour over time', now => void now.colours!.splice(k, 1))"
      @remove-all="edit('Remove colours over time', now => void (now.colours = undefined))"
    >
      <template #default="{ at, label }">
        <input
          type="color"
          :aria-label="label"
          :value="element.colours![at]!.colour"
          @change="e => edit('Change a colour over time', now => void (now.colours![at]!.colour = words(e)))"
        />
      </template>
    </ValueTrack>
    <span v-if="free.length">
      Values over time:
      <select v-model="adding" aria-label="Value that changes over time">
        <option v-for="of in free" :key="of" :value="of">{{ WORDS[of] }}</option>
      </select>
      <button type="button" class="link" @click="add(adding)">Add</button>
    </span>
  </div>
</template>

<style scoped>
.tracks {
  display: flex;
  flex-direction: column;
  gap: 4px;
  font-size: 12px;
}

.tracks :deep(input),
.tracks select {
  font: inherit;
  color: var(--ink);
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 3px;
  padding: 3px 5px;
}
</style>
