<script setup lang="ts">
/** Asks how fast sequences play that carry no rate. */
import { computed, ref, watch } from 'vue'
import { useJob } from '~/stores/job'
import { useSources } from '~/stores/sources'
import { parseRate, rateFraction, secondsOf } from '~~/core/rate'

const jobs = useJob()
const sources = useSources()
const id = computed(() => sources.asking[0] ?? null)
const source = computed(() => (id.value ? (jobs.job.sources[id.value] ?? null) : null))
const entry = ref('')
const COMMON = ['12', '23.976', '24', '25', '29.97', '30', '50', '59.94', '60']
const rate = computed(() => parseRate(entry.value))
const facts = computed(() => (source.value ? sources.foundFactsOf(source.value) : null))

watch(id, () => (entry.value = facts.value?.rate ? rateFraction(facts.value.rate) : ''), { immediate: true })

function next(): void {
  sources.asking = sources.asking.slice(1)
}

async function give(): Promise<void> {
  const [given, of] = [rate.value, id.value]
  if (!given || !of) return
  await jobs.edit('Give the rate', draft => {
    const target = draft.sources[of]
    if (target) Object.assign(target.interpretation, { rate: given, rateFrom: 'asked' })
  })
  next()
}
</script>

<template>
  <el-dialog
    :model-value="source !== null"
    :title="`How fast does ${source?.name ?? ''} play?`"
    width="460px"
    align-center
    @close="next"
  >
    <p class="soft">
      {{
        facts?.rate
          ? `It is taken to play at ${rateFraction(facts.rate)} frames per second (from the ${facts.rateFrom}).`
          : 'Numbered pictures carry no rate, and no note or name says it. Films cannot be poured without.'
      }}
    </p>
    <form @submit.prevent="give">
      <el-input
        v-model="entry"
        autofocus
        aria-label="Frames per second"
        placeholder="12, 23.976 or 24000/1001"
        class="entry"
      >
        <template #append>frames per second</template>
      </el-input>
      <div class="common">
        <el-button v-for="value in COMMON" :key="value" size="small" @click="entry = value">{{ value }}</el-button>
      </div>
      <p v-if="rate && facts" class="mono">
        {{ rateFraction(rate) }} f/s · {{ facts.frames }} frames last
        {{ Math.round(secondsOf(facts.frames, rate) * 100) / 100 }} s
      </p>
      <p v-else-if="entry" class="wrong">Write a number or a fraction, such as 25 or 24000/1001.</p>
    </form>
    <template #footer>
      <el-button @click="next">Not now</el-button>
      <el-button type="primary" :disabled="!rate" @click="give">Take this rate</el-button>
    </template>
  </el-dialog>
</template>

<style scoped>
.entry {
  margin: 12px 0 8px;
}

.common {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  margin-bottom: 10px;
}

.common .el-button {
  margin: 0;
}

.wrong {
  color: var(--brick);
}
</style>
