<script setup lang="ts">
/** The control of one field, by its type. Hands over a value that the field takes, once it is done with. */
import BoxField from '~/components/form/BoxField.vue'
import ShapeField from '~/components/form/ShapeField.vue'
import TextLine from '~/components/shell/TextLine.vue'
import { vHeld } from '~/composables/held'
import { computed } from 'vue'
import type { Box } from '~~/core/base/settings/box'
import type { Field } from '~~/core/base/settings/field'
import type { ShapeAt } from '~~/core/base/settings/shape'

const { field, value, slider } = defineProps<{
  field: Field
  value: unknown
  /** Whether numbers can be slid along. */
  slider: boolean
  others: readonly { id: string; name: string }[]
}>()
const emit = defineEmits<{ live: [value: unknown]; set: [value: unknown] }>()
defineSlots<{ tools?(): unknown }>()

const box = computed(() => (field.type === 'box' ? (value as Box | null) : null))
const shapes = computed(() => (field.type === 'shape' ? (value as ShapeAt[]) : []))
const textOf = (event: Event): string => (event.target as HTMLInputElement).value

/** A number within its bounds; the field shows what is taken, whatever was typed, and what stood where that is none. */
function setNumber(event: Event): void {
  if (field.type !== 'number') return
  const typed = textOf(event).trim() === '' ? NaN : Number(textOf(event))
  const held = Number.isFinite(typed) ? Math.min(field.max, Math.max(field.min, typed)) : Number(value)
  ;(event.target as HTMLInputElement).value = String(held)
  if (Number.isFinite(typed)) emit('set', held)
}

/** Sliders reach as far as anybody slides; what lies beyond is typed. */
const reach = (of: Field & { type: 'number' }): number =>
  Math.min(of.max, Math.max(of.default * 8 + 100, Number(value)))
</script>

<template>
  <template v-if="field.type === 'number'">
    <input
      v-if="slider && !field.typed"
      type="range"
      :aria-label="field.label"
      :min="field.min"
      :max="reach(field)"
      :step="field.step"
      :value="value"
      @input="event => emit('live', Number(textOf(event)))"
      @change="event => emit('set', Number(textOf(event)))"
    />
    <span class="typed"
      ><input
        class="number mono"
        type="number"
        :class="{ alone: !slider || field.typed }"
        :aria-label="slider && !field.typed ? `${field.label}, number` : field.label"
        :min="field.min"
        :max="field.max"
        :step="field.step"
        v-held="Number(value)"
        @change="setNumber"
      /><span v-if="slider || field.unit" class="unit soft">{{ field.unit }}</span></span
    >
  </template>
  <el-radio-group
    v-else-if="field.type === 'choice' && field.row"
    :model-value="String(value)"
    :aria-label="field.label"
    @update:model-value="chosen => emit('set', String(chosen))"
  >
    <el-radio-button v-for="choice in field.choices" :key="choice.value" :value="choice.value">{{
      choice.label
    }}</el-radio-button>
  </el-radio-group>
  <el-select
    v-else-if="field.type === 'choice'"
    :empty-values="[null, undefined]"
    :model-value="String(value)"
    size="small"
    :aria-label="field.label"
    @update:model-value="(chosen: string) => emit('set', chosen)"
  >
    <el-option v-for="choice in field.choices" :key="choice.value" :value="choice.value" :label="choice.label" />
  </el-select>
  <el-switch
    v-else-if="field.type === 'switch'"
    :model-value="Boolean(value)"
    size="small"
    :aria-label="field.label"
    @change="on => emit('set', Boolean(on))"
  />
  <template v-else-if="field.type === 'colour'">
    <span class="colour"
      ><input
        type="color"
        :aria-label="field.label"
        :value="value"
        @input="event => emit('live', textOf(event))"
        @change="event => emit('set', textOf(event))"
      /><span class="mono">{{ value }}</span></span
    >
    <slot name="tools" />
  </template>
  <el-select
    v-else-if="field.type === 'source'"
    :model-value="String(value)"
    size="small"
    :aria-label="field.label"
    placeholder="choose"
    @update:model-value="(chosen: string) => emit('set', chosen)"
  >
    <el-option v-for="other in others" :key="other.id" :value="other.id" :label="other.name" />
  </el-select>
  <TextLine
    v-else-if="field.type === 'rate' || field.type === 'text'"
    size="small"
    class="line mono"
    :value="String(value)"
    :aria-label="field.label"
    :placeholder="field.type === 'text' ? field.example : undefined"
    :clearable="field.type === 'text'"
    @set="(text: string) => emit('set', text.trim())"
  />
  <textarea
    v-else-if="field.type === 'words' && field.lines"
    rows="2"
    :maxlength="field.most"
    :aria-label="field.label"
    v-held="String(value)"
    @change="event => emit('set', textOf(event))"
  />
  <input
    v-else-if="field.type === 'words'"
    type="text"
    :maxlength="field.most"
    :placeholder="field.example"
    :aria-label="field.label"
    v-held="String(value)"
    @change="event => emit('set', textOf(event))"
  />
  <template v-else-if="field.type === 'box'">
    <slot name="tools" />
    <BoxField :box="box" @set="now => emit('set', now)" />
  </template>
  <template v-else>
    <slot name="tools" />
    <ShapeField :shapes="shapes" @set="now => emit('set', now)" />
  </template>
</template>

<style scoped>
.el-select,
.el-input {
  flex: 1;
  min-width: 0;
  width: 100%;
}

.line {
  max-width: 220px;
}

input[type='range'] {
  flex: 1;
  min-width: 0;
  accent-color: var(--copper);
}

.typed {
  display: flex;
  align-items: baseline;
  gap: 6px;
}

.number {
  width: 52px;
}

.number.alone {
  width: 76px;
}

.unit {
  min-width: 16px;
}

.number,
input[type='text'],
textarea {
  font: inherit;
  background: var(--raised);
  color: var(--ink);
  border: 1px solid var(--line-strong);
  border-radius: 3px;
  padding: 1px 3px;
}

.number {
  font-family: var(--mono);
}

input[type='text'],
textarea {
  width: 100%;
  padding: 3px 5px;
}

.colour {
  display: flex;
  align-items: center;
  gap: 6px;
}

input[type='color'] {
  width: 30px;
  height: 22px;
  padding: 0;
  border: 1px solid var(--line-strong);
}

/* in a wide form as its other fields are */
.lines .number,
.lines input[type='text'] {
  min-height: 28px;
  padding: 1px 10px;
  border-color: var(--el-border-color);
}

.lines .number.alone {
  width: 104px;
}

/* in a grid everything is as wide as its cell, and the colour says itself */
.grid .number.alone,
.grid .typed,
.grid input[type='color'] {
  width: 100%;
}

.grid .colour .mono {
  display: none;
}

.grid .colour {
  width: 100%;
}

.grid .number,
.grid input[type='color'] {
  min-height: 24px;
}
</style>
