<script setup lang="ts">
/** Style and movement of an element: what it looks like, where it lies, what lies under it, and values over time. */
import FieldForm, { type FormField } from '~/components/form/FieldForm.vue'
import ValuesOverTime from '~/components/scenes/ValuesOverTime.vue'
import { computed } from 'vue'
import { elementEntries } from '~~/core/draw/scene/elements/form'
import { offersOf, type Element, type Scene } from '~~/core/draw/scene/scene'

const { element, scene, groups, seconds } = defineProps<{
  element: Element
  scene: Scene
  /** Those it may go into. */
  groups: readonly Element[]
  seconds: number
}>()
const emit = defineEmits<{
  edit: [label: string, change: (element: Element) => void]
  into: [group: string | undefined]
}>()

const HOLDER = 'element inside'
const holder = computed<FormField[]>(() =>
  groups.length || element.inside
    ? [
        {
          key: HOLDER,
          field: {
            type: 'choice',
            label: 'In the group',
            choices: [{ value: '', label: 'none' }, ...groups.map(({ id, name }) => ({ value: id, label: name }))],
            default: ''
          },
          value: element.inside ?? ''
        }
      ]
    : []
)
const entries = computed(() => elementEntries(element, offersOf(scene, element)))

function set(key: string, value: unknown): void {
  if (key === HOLDER) return emit('into', String(value) || undefined)
  const entry = entries.value.find(each => each.key === key)
  if (entry) emit('edit', entry.undo, now => entry.set(now, value))
}
</script>

<template>
  <fieldset class="form" :disabled="element.locked" :inert="element.locked">
    <FieldForm layout="grid" :fields="[...entries, ...holder]" @set="set">
      <ValuesOverTime
        class="wide"
        :element="element"
        :seconds="seconds"
        @edit="(label, change) => emit('edit', label, change)"
      />
    </FieldForm>
  </fieldset>
</template>

<style scoped>
.form {
  border: 0;
  border-top: 1px solid var(--line);
  padding: 8px 0 0;
}

.wide {
  grid-column: 1 / -1;
}
</style>
