<script setup lang="ts">
/**
 * Asks how fast sequences play that carry no rate: once for all that came in together, each with a rate of its own
 * where it differs.
 */
import { sayFrames } from '~/composables/say'
import { computed, ref, watch } from 'vue'
import { useJob } from '~/stores/job'
import { useSources } from '~/stores/sources'
import { parseRate, rateFraction, secondsOf } from '~~/core/base/rate'

const jobs = useJob()
const sources = useSources()
const asked = computed(() =>
  sources.asking.flatMap(id => {
    const source = jobs.job.sources[id]
    return source ? [{ source, facts: sources.foundFactsOf(source) }] : []
  })
)
/** The rate of all, and of those that have their own. */
const entry = ref('')
const own = ref<Record<string, string>>({})
const COMMON = ['12', '23.976', '24', '25', '29.97', '30', '50', '59.94', '60']

watch(
  () => sources.asking,
  () => {
    own.value = {}
    const [only, ...others] = asked.value
    entry.value = only?.facts.rate && others.length === 0 ? rateFraction(only.facts.rate) : ''
  },
  { immediate: true }
)

const textOf = (id: string): string => (own.value[id]?.trim() ? own.value[id] : entry.value)
const given = computed(() =>
  asked.value.flatMap(({ source }) => {
    const rate = parseRate(textOf(source.id))
    return rate ? [{ id: source.id, rate }] : []
  })
)
const wrong = computed(() => asked.value.some(({ source }) => textOf(source.id) && !parseRate(textOf(source.id))))
const first = computed(() => asked.value[0] ?? null)
const rate = computed(() => parseRate(entry.value))

const field = ref<{ focus(): void } | null>(null)

/** The dialog begins in its first field, unless somebody already types in another while it opens. */
function begin(): void {
  const now = document.activeElement
  if (!(now instanceof HTMLInputElement && now.closest('[role=dialog]'))) field.value?.focus()
}

function close(): void {
  sources.asking = []
}

/** What came by a drop has nothing to go back to: the board's own place is next. */
function settle(): void {
  if (document.activeElement && document.activeElement !== document.body) return
  document.querySelector<HTMLElement>('[data-cell][tabindex="0"], main button')?.focus()
}

async function give(): Promise<void> {
  if (wrong.value || given.value.length === 0) return
  const rates = given.value
  await jobs.edit(rates.length === 1 ? 'Give the rate' : `Give ${rates.length} rates`, draft => {
    for (const { id, rate: value } of rates) {
      const target = draft.sources[id]
      if (target) Object.assign(target.interpretation, { rate: value, rateFrom: 'asked' })
    }
  })
  close()
}
</script>

<template>
  <el-dialog
    :model-value="first !== null"
    :title="
      asked.length > 1 ? `How fast do these ${asked.length} play?` : `How fast does ${first?.source.name ?? ''} play?`
    "
    width="480px"
    align-center
    @opened="begin"
    @close="close"
    @closed="settle"
  >
    <p class="soft">
      {{
        asked.length === 1 && first?.facts.rate
          ? `It is taken to play at ${rateFraction(first.facts.rate)} f/s (from the ${first.facts.rateFrom}).`
          : 'Numbered pictures carry no rate, and no note or name says it. Films cannot be poured without.'
      }}
    </p>
    <form @submit.prevent="give">
      <el-input
        ref="field"
        v-model="entry"
        :aria-label="asked.length > 1 ? 'Frames per second, the same for all' : 'Frames per second'"
        placeholder="12, 23.976 or 24000/1001"
        class="entry"
      >
        <template #append>{{ asked.length > 1 ? 'frames per second, for all' : 'frames per second' }}</template>
      </el-input>
      <div class="common">
        <el-button v-for="value in COMMON" :key="value" size="small" @click="entry = value">{{ value }}</el-button>
      </div>
      <ul v-if="asked.length > 1" class="each scroll">
        <li v-for="{ source, facts } in asked" :key="source.id">
          <span class="name" :title="source.name">{{ source.name }}</span>
          <span class="mono soft">{{
            parseRate(textOf(source.id))
              ? `${Math.round(secondsOf(facts.frames, parseRate(textOf(source.id))!) * 100) / 100} s`
              : sayFrames(facts.frames)
          }}</span>
          <el-input
            v-model="own[source.id]"
            size="small"
            class="mono"
            :placeholder="entry || 'as above'"
            :aria-label="`Frames per second of ${source.name}, where it differs`"
          />
        </li>
      </ul>
      <p v-else-if="rate && first" class="mono">
        {{ rateFraction(rate) }} f/s · {{ sayFrames(first.facts.frames) }}
        {{ first.facts.frames === 1 ? 'lasts' : 'last' }}
        {{ Math.round(secondsOf(first.facts.frames, rate) * 100) / 100 }} s
      </p>
      <!-- with several fields a form takes Enter only where it has a button -->
      <button type="submit" class="visually-hidden" tabindex="-1" aria-hidden="true">Take</button>
      <p v-if="wrong" class="wrong">Write a number or a fraction, such as 25 or 24000/1001.</p>
    </form>
    <template #footer>
      <el-button @click="close">Not now</el-button>
      <el-button type="primary" :disabled="wrong || given.length === 0" @click="give">{{
        asked.length > 1 ? `Take ${given.length} of ${asked.length}` : 'Take this rate'
      }}</el-button>
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

.each {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 260px;
  overflow: auto;
}

.each li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 84px 120px;
  align-items: center;
  gap: 8px;
  padding: 3px 0;
  border-top: 1px solid var(--line);
}

.name {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.wrong {
  color: var(--brick);
}
</style>
