<script setup lang="ts">
/**
 * Fields of a form, whoever's they are: steps, outlets and elements draw theirs with it. Dragging shows at once
 * (`live`); letting go, Enter or leaving a field is one edit (`set`).
 */
import FieldControl from '~/components/form/FieldControl.vue'
import type { Field } from '~~/core/base/settings/field'

export interface FormField {
  key: string
  field: Field
  value: unknown
}

const {
  fields,
  layout = 'rows',
  others = []
} = defineProps<{
  fields: readonly FormField[]
  /** Rows with sliders; lines of a wide form with their help beneath; or a grid of small fields, help on pointing. */
  layout?: 'rows' | 'lines' | 'grid'
  /** Sources that a field may name. */
  others?: readonly { id: string; name: string }[]
}>()
const emit = defineEmits<{ live: [key: string, value: unknown]; set: [key: string, value: unknown] }>()
/**
 * `tools` are what a field can be set with beside its own control: in the picture, or by looking at it. `below` is what
 * is to be said of it.
 */
defineSlots<{ tools?(props: FormField): unknown; below?(props: FormField): unknown; default?(): unknown }>()

/** The words of a switch turn it, as the switch does. */
function turn({ key, field, value }: FormField): void {
  if (field.type === 'switch') emit('set', key, value !== true)
}

const wide = (field: Field): boolean =>
  field.type === 'box' || field.type === 'shape' || (field.type === 'words' && !!field.lines)
</script>

<template>
  <div :class="['fields', layout]">
    <div
      v-for="each in fields"
      :key="each.key"
      :class="['field', each.field.type, { wide: wide(each.field) }]"
      :title="layout === 'grid' ? each.field.help : undefined"
    >
      <span class="label" :title="each.field.help" @click="turn(each)">{{ each.field.label }}</span>
      <FieldControl
        :field="each.field"
        :value="each.value"
        :slider="layout === 'rows'"
        :others="others"
        @live="value => emit('live', each.key, value)"
        @set="value => emit('set', each.key, value)"
        ><template #tools><slot name="tools" v-bind="each" /></template
      ></FieldControl>
      <small v-if="each.field.help && layout !== 'grid'" class="soft">{{ each.field.help }}</small>
      <slot name="below" v-bind="each" />
    </div>
    <slot />
  </div>
</template>

<style scoped>
.rows {
  display: flex;
  flex-direction: column;
  gap: 7px;
}

.rows .field {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 6px;
}

.label {
  color: var(--soft);
  line-height: 1.2;
}

.switch .label {
  cursor: pointer;
}

.rows .label {
  width: 76px;
}

.rows .wide .label,
.rows small {
  width: 100%;
}

.rows small {
  font-size: 11.5px;
  line-height: 1.25;
}

.lines .field {
  display: grid;
  grid-template-columns: 118px 1fr;
  align-items: center;
  justify-items: start;
  gap: 3px 12px;
  margin-bottom: 9px;
}

.lines small {
  grid-column: 2;
  font-size: 12px;
}

.grid {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 6px 10px;
  font-size: 12px;
}

.grid .field {
  display: flex;
  flex-direction: column;
  gap: 2px;
  min-width: 0;
}

.grid .wide {
  grid-column: 1 / -1;
}

.grid .switch {
  flex-direction: row-reverse;
  align-items: center;
  align-self: end;
  justify-content: flex-end;
  gap: 6px;
  min-height: 25px;
}

.grid .switch .label {
  color: var(--ink);
}
</style>
