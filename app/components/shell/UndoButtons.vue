<script setup lang="ts">
/** Undo and redo of the job, by hand; the keys do the same. */
import { useUndo } from '~/composables/useUndo'
import { computed } from 'vue'
import { useJob } from '~/stores/job'

const jobs = useJob()
const { undo, redo } = useUndo()
const undoLabel = computed(() => jobs.undoStack.at(-1)?.label)
const redoLabel = computed(() => jobs.redoStack.at(-1)?.label)
</script>

<template>
  <span class="undo">
    <el-button
      :disabled="!undoLabel"
      :title="undoLabel ? `Undo: ${undoLabel} (Ctrl Z)` : 'Nothing to undo'"
      @click="undo"
      >Undo</el-button
    >
    <el-button
      :disabled="!redoLabel"
      :title="redoLabel ? `Redo: ${redoLabel} (Ctrl Shift Z)` : 'Nothing to redo'"
      @click="redo"
      >Redo</el-button
    >
  </span>
</template>

<style scoped>
.undo {
  display: inline-flex;
  gap: 8px;
}

.undo .el-button + .el-button {
  margin-left: 0;
}
</style>
