<script setup lang="ts">
/** Settings under which one cell stays within a size, found by encoding samples; taken as an outlet of its own. */
import { sayBytes } from '~/composables/say'
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import { useJob } from '~/stores/job'
import { useSources } from '~/stores/sources'
import { useWorkshop } from '~/stores/workshop'
import { withinBudget, type WithinBudget } from '~~/core/run/delivery/budget'
import { isAbort, sentenceOf } from '~~/core/base/errors'
import { withOwnSteps } from '~~/core/job/outlet/own-steps'
import { estimateSize } from '~~/core/run/pour/estimate-size'

const open = defineModel<boolean>({ required: true })
const { sourceId, outletId } = defineProps<{ sourceId: string; outletId: string }>()
const jobs = useJob()
const sources = useSources()
const workshop = useWorkshop()
const kilobytes = ref(300)
const found = ref<WithinBudget | null>(null)
const failure = ref<string | null>(null)
const tried = ref(0)
let stop: AbortController | null = null
const running = ref(false)
const source = computed(() => jobs.job.sources[sourceId])
const outlet = computed(() => jobs.job.outlets[outletId])

const end = (): void => stop?.abort()
watch([open, kilobytes, () => outletId, () => sourceId], () => {
  end()
  found.value = null
  failure.value = null
})
onBeforeUnmount(end)

async function find(): Promise<void> {
  const [from, through] = [source.value, outlet.value]
  const spec = from && sources.specOf(from)
  if (!from || !through || !spec) return
  end()
  const own = (stop = new AbortController())
  running.value = true
  found.value = null
  failure.value = null
  tried.value = 0
  try {
    const host = await workshop.host()
    const result = await withinBudget(
      {
        facts: sources.factsOf(from),
        outlet: through,
        marks: from.marks,
        limit: kilobytes.value * 1000,
        ...(from.span ? { span: from.span } : {})
      },
      async plan => {
        own.signal.throwIfAborted()
        tried.value++
        const source = withOwnSteps(spec, plan.steps)
        return (await estimateSize({ source, plan, host, pool: workshop.pool, signal: own.signal })).bytes
      }
    )
    if (own.signal.aborted) return
    if (result) found.value = result
    else failure.value = 'This cell cannot be poured as it is; mend what it names first.'
  } catch (error) {
    if (!isAbort(error)) failure.value = sentenceOf(error)
  } finally {
    if (stop === own) running.value = false
  }
}

const said = computed(() => {
  const { value } = found
  if (!value) return null
  const about = `about ${sayBytes(value.bytes)}`
  if (value.met && value.gaveUp.length === 0) return `It stays within ${kilobytes.value} kB as it is: ${about}.`
  const told = value.gaveUp.join(', ')
  return value.met
    ? `Within ${kilobytes.value} kB, ${about}: ${told}.`
    : `${kilobytes.value} kB cannot be had in this format. The nearest is ${about}${told ? `: ${told}` : ''}.`
})

async function take(): Promise<void> {
  const { value } = found
  if (!value || !outlet.value) return
  // what cannot be had is not promised by a name
  const name = value.met ? `${outlet.value.name} under ${kilobytes.value} kB` : `${outlet.value.name}, smaller`
  await jobs.addOutlet({ ...value.outlet, name: name.slice(0, 76) }, 'Add outlet')
  open.value = false
}
</script>

<template>
  <el-dialog v-model="open" title="Within a size" width="460px" align-center>
    <p v-if="source && outlet" class="soft">
      {{ source.name }} through {{ outlet.name }}. Samples are really encoded: quality gives way first, as far as colour
      bears it, then the picture’s size. Alpha stays as exact as the format keeps it.
    </p>
    <div class="line">
      <span>At most</span>
      <el-input-number v-model="kilobytes" :min="1" :max="4_000_000" :step="50" aria-label="At most, kB" />
      <span>kB</span>
      <el-button type="primary" :loading="running" @click="find">Find settings</el-button>
    </div>
    <p v-if="running" class="soft" role="status">{{ tried }} {{ tried === 1 ? 'setting' : 'settings' }} tried.</p>
    <p v-if="said" class="said" :class="{ ochre: found && !found.met }" role="status">{{ said }}</p>
    <p v-if="failure" class="bad" role="alert">{{ failure }}</p>
    <template #footer>
      <el-button v-if="found && found.gaveUp.length" type="primary" @click="take">Add as an outlet</el-button>
    </template>
  </el-dialog>
</template>

<style scoped>
.line {
  display: flex;
  align-items: center;
  gap: 8px;
  margin: 12px 0;
}

.ochre {
  color: var(--ochre);
}

.bad {
  color: var(--brick);
}
</style>
