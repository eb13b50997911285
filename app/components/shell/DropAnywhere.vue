<script setup lang="ts">
/** Takes files dropped anywhere on the page. */
import { droppedFiles } from '~/composables/useIntake'
import { ref } from 'vue'
import type { Given } from '~/db/files'

const emit = defineEmits<{ given: [files: Given[]] }>()
const over = ref(false)

function carriesFiles(event: DragEvent): boolean {
  return event.dataTransfer?.types.includes('Files') ?? false
}

function enter(event: DragEvent): void {
  if (!carriesFiles(event)) return
  event.preventDefault()
  over.value = true
}

async function drop(event: DragEvent): Promise<void> {
  over.value = false
  if (!event.dataTransfer || !carriesFiles(event)) return
  event.preventDefault()
  emit('given', await droppedFiles(event.dataTransfer))
}
</script>

<template>
  <div @dragenter="enter" @dragover="enter" @dragleave.self="over = false" @drop="drop">
    <slot />
    <div v-if="over" class="veil" @dragleave="over = false">
      <p>Let go to bring in</p>
    </div>
  </div>
</template>

<style scoped>
.veil {
  position: fixed;
  inset: 0;
  z-index: 3000;
  display: grid;
  place-items: center;
  background: color-mix(in srgb, var(--ground) 82%, transparent);
  border: 3px dashed var(--copper);
  font-size: 20px;
  font-weight: 600;
  color: var(--copper);
}

.veil p {
  pointer-events: none;
}
</style>
