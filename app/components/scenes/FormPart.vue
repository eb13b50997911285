<script setup lang="ts">
/** One labelled field of a form: a number, words, a colour, a choice or a tick. Hands over its value when it is done with. */
const {
  label,
  kind = 'number',
  value,
  least,
  most,
  step,
  choices = [],
  hint
} = defineProps<{
  label: string
  kind?: 'number' | 'words' | 'lines' | 'colour' | 'choice' | 'tick'
  value: string | number | boolean
  least?: number
  most?: number
  step?: number | 'any'
  choices?: readonly (string | { value: string; label: string })[]
  hint?: string
}>()
const emit = defineEmits<{ number: [value: number]; words: [value: string]; tick: [value: boolean] }>()

function done(event: Event): void {
  const field = event.target as HTMLInputElement
  if (kind === 'tick') emit('tick', field.checked)
  else if (kind !== 'number') emit('words', field.value)
  else {
    const held = Math.min(most ?? Infinity, Math.max(least ?? -Infinity, Number(field.value) || 0))
    // what was typed beyond the ends shows as what is taken
    field.value = String(held)
    emit('number', held)
  }
}
const of = (choice: string | { value: string; label: string }): { value: string; label: string } =>
  typeof choice === 'string' ? { value: choice, label: choice } : choice
</script>

<template>
  <label :class="{ tick: kind === 'tick', wide: kind === 'lines' }" :title="hint">
    <template v-if="kind !== 'tick'">{{ label }}</template>
    <select v-if="kind === 'choice'" :value="value" @change="done">
      <option v-for="choice in choices" :key="of(choice).value" :value="of(choice).value">
        {{ of(choice).label }}
      </option>
    </select>
    <textarea v-else-if="kind === 'lines'" rows="2" maxlength="2000" :value="String(value)" @change="done" />
    <input v-else-if="kind === 'tick'" type="checkbox" :checked="value === true" @change="done" />
    <input
      v-else
      :type="kind === 'colour' ? 'color' : kind === 'words' ? 'text' : 'number'"
      :min="least"
      :max="most"
      :step="step"
      maxlength="80"
      :placeholder="hint && kind === 'words' ? hint : undefined"
      :value="value"
      @change="done"
    />
    <template v-if="kind === 'tick'">{{ label }}</template>
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
