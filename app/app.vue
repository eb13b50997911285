<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { useChecks } from '~/stores/checks'
import { useDesk } from '~/stores/desk'
import { useJob } from '~/stores/job'
import { usePours } from '~/stores/pours'
import { useSources } from '~/stores/sources'
import { beginDemo } from '~/demo-job'
import { sentenceOf } from '~~/core/errors'

const jobs = useJob()
const desk = useDesk()
const pours = usePours()
const sources = useSources()
const checks = useChecks()
const failed = ref<string | null>(null)

onMounted(async () => {
  try {
    const fresh = await jobs.open()
    await pours.open()
    checks.open()
    if (fresh) await beginDemo()
  } catch (error) {
    failed.value = `The job could not be opened from this browser's store: ${sentenceOf(error)}`
  }
})

useKeys({
  '?': () => (desk.keysShown = true),
  'Shift+?': () => (desk.keysShown = true),
  '$mod+z': () => void undo(),
  '$mod+Shift+z': () => void redo(),
  '$mod+Shift+Z': () => void redo(),
  d: () => (desk.theme = desk.theme === 'dim' ? 'light' : 'dim')
})

async function undo(): Promise<void> {
  desk.message = await jobs.undo()
}

async function redo(): Promise<void> {
  desk.message = await jobs.redo()
}
</script>

<template>
  <DropAnywhere @given="sources.bringIn">
    <div class="house">
      <PlaceRail />
      <div class="place">
        <p v-if="failed" class="failed" role="alert">{{ failed }}</p>
        <NuxtPage v-else-if="jobs.ready" />
        <p v-else class="opening soft">Opening the job …</p>
        <FootStrip />
      </div>
    </div>
    <KeysDialog v-model="desk.keysShown" />
    <RateDialog />
  </DropAnywhere>
</template>

<style scoped>
.house {
  display: flex;
  height: 100vh;
}

.place {
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
}

.place > :nth-child(1) {
  flex: 1;
  min-height: 0;
}

.opening,
.failed {
  padding: 24px;
}

.failed {
  color: var(--brick);
}
</style>
