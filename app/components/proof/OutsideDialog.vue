<script setup lang="ts">
/** Bringing a file from outside to the proof: the file, and the source it is held against, or none. */
import { chooseFiles, chooseFolder } from '~/composables/useIntake'
import { ref } from 'vue'
import { useChecks } from '~/stores/checks'
import { useJob } from '~/stores/job'
import { sentenceOf } from '~~/core/base/errors'
import type { Given } from '~/db/files'

const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{ proven: [id: string] }>()
const checks = useChecks()
const jobs = useJob()
const given = ref<Given[]>([])
const against = ref('')
const failure = ref<string | null>(null)

async function choose(from: () => Promise<Given[]>): Promise<void> {
  failure.value = null
  try {
    const chosen = await from()
    if (chosen.length) given.value = chosen
  } catch (error) {
    failure.value = sentenceOf(error)
  }
}

async function prove(): Promise<void> {
  failure.value = null
  try {
    const id = await checks.add(given.value, against.value || null)
    if (!id) return
    given.value = []
    open.value = false
    emit('proven', id)
  } catch (error) {
    failure.value = sentenceOf(error)
  }
}
</script>

<template>
  <el-dialog v-model="open" title="Prove a file from outside" width="520px" align-center>
    <div class="stack">
      <p class="soft">
        The file is read on this machine and is not sent anywhere. With a source, every frame is compared with it;
        without one, Pour tells what the file says of its alpha and whether its pixels agree.
      </p>
      <p class="line">
        <el-button @click="choose(chooseFiles)">Choose files…</el-button>
        <el-button @click="choose(chooseFolder)">Choose a folder…</el-button>
      </p>
      <p v-if="given.length" class="mono">
        {{ given.length === 1 ? given[0]!.path : `${given.length} files, from ${given[0]!.path}` }}
      </p>
      <label for="against">Held against</label>
      <el-select id="against" v-model="against" aria-label="Held against" :empty-values="[null, undefined]">
        <el-option value="" label="Nothing, by itself" />
        <el-option v-for="s in jobs.sources" :key="s.id" :value="s.id" :label="s.name" />
      </el-select>
      <p v-if="checks.running" role="status" class="line">
        <el-progress
          class="bar"
          :percentage="checks.running.total ? Math.round((100 * checks.running.done) / checks.running.total) : 0"
          :show-text="false"
        />
        <span class="soft">{{ checks.running.done }} of {{ checks.running.total }} frames</span>
        <el-button size="small" @click="checks.cancel">Stop</el-button>
      </p>
      <p v-if="failure" class="bad" role="alert">{{ failure }}</p>
    </div>
    <template #footer>
      <el-button type="primary" :disabled="!given.length || !!checks.running" @click="prove">Prove</el-button>
    </template>
  </el-dialog>
</template>

<style scoped>
.line {
  display: flex;
  align-items: center;
  gap: 8px;
}

.line .el-button + .el-button {
  margin-left: 0;
}

.bar {
  flex: 1;
}

.bad {
  color: var(--brick);
}
</style>
