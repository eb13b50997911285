<script setup lang="ts">
/** The inspector for an outlet: its recipe in words, and what can be done with it. */
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import { useJob } from '~/stores/job'
import { sayStranger } from '~~/core/media/formats/document'
import { formatById } from '~~/core/open/registry'
import { sayCarries, sayKept, tagLine } from '~~/core/job/outlet/outlet'

const { id } = defineProps<{ id: string }>()
const jobs = useJob()
const router = useRouter()
const outlet = computed(() => jobs.job.outlets[id])
const format = computed(() => outlet.value && formatById(outlet.value.format))
</script>

<template>
  <div v-if="outlet && format" class="stack">
    <h2>{{ outlet.name }}</h2>
    <p class="mono soft">{{ tagLine(outlet) }}</p>
    <p>
      Carries {{ sayCarries(outlet) }}.
      {{ sayKept(format, outlet) }}
    </p>
    <p class="soft">
      Read back for proof by {{ format.proofReader.name
      }}{{ format.proofReader.independent ? ', which shares no code with the writer.' : '.' }} Seen by a stranger:
      {{ sayStranger(format) }}.
    </p>
    <el-button size="small" class="open" @click="router.push(`/outlets?id=${id}`)">Open outlet</el-button>
  </div>
</template>

<style scoped>
.open {
  align-self: start;
}
</style>
