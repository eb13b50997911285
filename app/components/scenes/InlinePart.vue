<script setup lang="ts">
/** A part of a sentence that is edited where it stands: a choice, a number or some words. */
import { vHeld } from '~/composables/held'

defineProps<{
  label: string
  value: string | number
  choices?: readonly { value: string; label: string }[]
  unit?: string
  most?: number
  disabled?: boolean
}>()
/** `typing` says words as they come; null once they are as they were, or kept. */
const emit = defineEmits<{ set: [value: string]; typing: [value: string | null] }>()
const valueIn = (event: Event): string => (event.target as HTMLInputElement).value
const done = (event: Event): void => emit('set', valueIn(event))
</script>

<template>
  <select v-if="choices" class="part" :aria-label="label" :value="value" :disabled="disabled" @change="done">
    <option v-for="choice in choices" :key="choice.value" :value="choice.value">{{ choice.label }}</option>
  </select>
  <span v-else-if="unit !== undefined" class="nowrap"
    ><input
      class="part number mono"
      type="number"
      min="0"
      :max="most ?? 3600"
      step="0.05"
      :aria-label="label"
      v-held="value"
      :disabled="disabled"
      @change="done"
    />{{ unit }}</span
  >
  <input
    v-else
    class="part text"
    maxlength="2000"
    :aria-label="label"
    v-held="value"
    :disabled="disabled"
    @input="emit('typing', valueIn($event))"
    @change="done"
    @blur="emit('typing', null)"
    @keydown.enter="($event.target as HTMLInputElement).blur()"
  />
</template>

<style scoped>
.part {
  appearance: none;
  font: inherit;
  color: var(--copper);
  background: none;
  border: 0;
  border-bottom: 1px dashed var(--copper-fill);
  border-radius: 0;
  padding: 0 1px;
  margin: 0 1px;
  field-sizing: content;
  max-width: 100%;
}

.part:hover:not(:disabled) {
  background: var(--copper-wash);
}

.part:disabled {
  color: var(--soft);
  border-bottom-color: var(--line);
}

.part option {
  color: var(--ink);
  background: var(--raised);
}

.number {
  min-width: 1.5ch;
  font-size: inherit;
}

.number::-webkit-inner-spin-button {
  appearance: none;
}

.text {
  min-width: 4ch;
  font-weight: 600;
}

.nowrap {
  white-space: nowrap;
}
</style>
