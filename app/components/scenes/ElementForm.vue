<script setup lang="ts">
/** Style and movement of an element: what it looks like, where it lies, what lies under it, and values over time. */
import FormPart from '~/components/scenes/FormPart.vue'
import ValuesOverTime from '~/components/scenes/ValuesOverTime.vue'
import { computed } from 'vue'
import { elementParts, type Part } from './elementParts'
import type { Element, Scene } from '~~/core/draw/scene/scene'

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

const holders = computed<Part>(() => ({
  id: 'element inside',
  label: 'In the group',
  kind: 'choice',
  value: element.inside ?? '',
  choices: [{ value: '', label: 'none' }, ...groups.map(({ id, name }) => ({ value: id, label: name }))],
  undo: 'Change the group',
  set: () => undefined
}))

const parts = computed(() =>
  elementParts(
    element,
    (scene.faces ?? []).map(({ id, name }) => ({ value: id, label: name }))
  )
)
</script>

<template>
  <fieldset class="form" :disabled="element.locked">
    <FormPart
      v-for="part in parts"
      :key="part.id"
      :part="part"
      @set="value => emit('edit', part.undo, now => part.set(now, value))"
    />
    <FormPart
      v-if="groups.length || element.inside"
      :part="holders"
      @set="value => emit('into', String(value) || undefined)"
    />
    <ValuesOverTime
      class="wide"
      :element="element"
      :seconds="seconds"
      @edit="(label, change) => emit('edit', label, change)"
    />
  </fieldset>
</template>

<style scoped>
.form {
  border: 0;
  border-top: 1px solid var(--line);
  padding: 8px 0 0;
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 6px 10px;
}

.wide {
  grid-column: 1 / -1;
}
</style>
