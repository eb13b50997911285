<script setup lang="ts">
/**
 * One labelled field of a form: a number, words, a colour, a choice or a tick. Hands over its value when it is done
 * with.
 */
import { vHeld } from '~/composables/held'
import { computed } from 'vue'
import type { Part } from './elementParts'

const { part } = defineProps<{ part: Part }>()
const emit = defineEmits<{ set: [value: string | number | boolean] }>()

const kind = computed(() => part.kind)

function done(event: Event): void {
  const field = event.target as HTMLInputElement
  if (part.kind === 'tick') emit('set', field.checked)
  else if (part.kind !== 'number') emit('set', field.value)
  else {
    const { least = -Infinity, most = Infinity } = part
    const held = Math.min(most, Math.max(least, Number(field.value) || 0))
    // what was typed beyond the ends shows as what is taken
    field.value = String(held)
    emit('set', held)
  }
}
</script>

<template>
  <label :class="{ tick: kind === 'tick', wide: kind === 'lines' }" :title="part.hint">
    <template v-if="kind !== 'tick'">{{ part.label }}</template>
    <select v-if="kind === 'choice'" :value="part.value" @change="done">
      <option v-for="choice in part.choices" :key="choice.value" :value="choice.value">{{ choice.label }}</option>
    </select>
    <textarea v-else-if="kind === 'lines'" rows="2" maxlength="2000" v-held="String(part.value)" @change="done" />
    <input v-else-if="kind === 'tick'" type="checkbox" :checked="part.value === true" @change="done" />
    <input
      v-else
      :type="kind === 'colour' ? 'color' : kind === 'words' ? 'text' : 'number'"
      :min="part.least"
      :max="part.most"
      :step="part.step"
      maxlength="80"
      :placeholder="kind === 'words' ? part.hint : undefined"
      v-held="part.kind === 'tick' ? '' : String(part.value)"
      @change="done"
    />
    <template v-if="kind === 'tick'">{{ part.label }}</template>
  </label>
</template>

<style scoped>
label {
  display: flex;
  flex-direction: column;
  gap: 2px;
  font-size: 12px;
  color: var(--soft);
}

label.tick {
  flex-direction: row;
  align-items: center;
  align-self: end;
  gap: 5px;
  min-height: 25px;
  color: var(--ink);
}

.wide {
  grid-column: 1 / -1;
}

input:not([type='checkbox'], [type='color']),
select,
textarea {
  font: inherit;
  color: var(--ink);
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 3px;
  padding: 3px 5px;
  width: 100%;
}

input[type='color'] {
  width: 100%;
  height: 25px;
  padding: 0;
  border: 1px solid var(--line);
  background: none;
}
</style>
