<script setup lang="ts">
/**
 * A line of text that is handed over when it is done with: on Enter, or when the field is left. Text that `fits`
 * refuses goes back to what stands; whoever has more to say of it takes it and says it.
 */
import { ref, watch } from 'vue'

defineOptions({ inheritAttrs: false })
const { value, fits = () => true } = defineProps<{ value: string; fits?: (text: string) => boolean }>()
const emit = defineEmits<{ set: [text: string] }>()
const draft = ref(value)
watch(
  () => value,
  now => (draft.value = now)
)

function done(text: string): void {
  if (fits(text)) emit('set', text)
  else draft.value = value
}
</script>

<template>
  <el-input v-model="draft" v-bind="$attrs" @change="done" />
</template>
