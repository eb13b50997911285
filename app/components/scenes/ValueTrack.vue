<script setup lang="ts">
/**
 * One thing of an element that changes over time: at which second which value, and the course from each to the next.
 */
import CourseCurve from '~/components/scenes/CourseCurve.vue'
import { vHeld } from '~/composables/held'
import { heldTo } from '~~/core/draw/scene/elements/entry'
import { Key } from '~~/core/draw/scene/values'

type Timed = Pick<Key, 'at' | 'ease' | 'holds'>

/** `what` one of its values is called in the words beside it. */
const { title, keys, what } = defineProps<{ title: string; keys: readonly Timed[]; what: 'value' | 'colour' }>()
const emit = defineEmits<{
  change: [key: number, set: (key: Timed) => void]
  add: []
  remove: [key: number]
  removeAll: []
}>()
defineSlots<{ default(props: { at: number; label: string }): unknown }>()

function setCourse(key: Timed, ease: Key['ease']): void {
  key.ease = ease
  delete key.holds
}

/** A time held to what the scene takes, which the field then shows. */
function setTime(event: Event, key: number): void {
  const field = event.target as HTMLInputElement
  const held = heldTo(Key.shape.at, Number(field.value))
  field.value = String(held)
  emit('change', key, now => void (now.at = held))
}
</script>

<template>
  <div class="track">
    <strong>{{ title }}</strong>
    <span v-for="(key, k) in keys" :key="k" class="key">
      <input
        type="number"
        step="0.05"
        min="0"
        :aria-label="`${title}, time ${k + 1}`"
        v-held="key.at"
        @change="e => setTime(e, k)"
      />
      s
      <slot :at="k" :label="`${title}, value ${k + 1}`" />
      <CourseCurve
        :label="`${title}, course ${k + 1}`"
        :ease="key.ease"
        :holds="!!key.holds"
        @set="ease => emit('change', k, now => setCourse(now, ease))"
        @hold="emit('change', k, now => void (now.holds = true))"
      />
      <button
        v-if="keys.length > 1"
        type="button"
        class="link"
        :aria-label="`Remove ${what} ${k + 1}`"
        @click="emit('remove', k)"
      >
        ×
      </button>
    </span>
    <span>
      <button type="button" class="link" @click="emit('add')">Add a {{ what }}</button>
      ·
      <button type="button" class="link" @click="emit('removeAll')">Remove all</button>
    </span>
  </div>
</template>

<style scoped>
.track {
  display: flex;
  flex-direction: column;
  gap: 4px;
}

.key {
  display: grid;
  grid-template-columns: 58px auto 72px 1fr auto;
  gap: 5px;
  align-items: center;
}
</style>
