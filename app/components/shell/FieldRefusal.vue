<script setup lang="ts">
/** Says in its field why an edit was not kept. `at` is the field's place in the job, parts joined by a slash. */
import { computed } from 'vue'
import { useJob } from '~/stores/job'

const { at } = defineProps<{ at: string }>()
const jobs = useJob()
const sentence = computed(() => {
  const { refusal } = jobs
  const path = refusal?.path.join('/') ?? ''
  return refusal && (path === at || path.startsWith(`${at}/`)) ? refusal.sentence : null
})
</script>

<template>
  <small v-if="sentence" class="refusal" role="alert">{{ sentence }}</small>
</template>

<style scoped>
.refusal.refusal {
  color: var(--brick);
}
</style>
