<script setup lang="ts">
/**
 * One outlet's form. Every choice stands in the format table; what a format cannot do is not offered, and the reason is
 * said.
 */
import FieldForm, { type FormField } from '~/components/form/FieldForm.vue'
import FieldRefusal from '~/components/shell/FieldRefusal.vue'
import OutletNames from '~/components/outlets/OutletNames.vue'
import OutletWhat from '~/components/outlets/OutletWhat.vue'
import OutletSteps from '~/components/outlets/OutletSteps.vue'
import { computed } from 'vue'
import { useJob } from '~/stores/job'
import { useSources } from '~/stores/sources'
import { sayStranger } from '~~/core/media/formats/document'
import { formatById } from '~~/core/open/registry'
import { assess } from '~~/core/run/delivery/assess'
import { settingsInOrder } from '~~/core/job/outlet/settings'
import { formatRate, type Rate } from '~~/core/base/rate'
import { NAME_FIELDS } from '~~/core/job/outlet/names'
import { labelRisk, risksOf } from '~~/core/judge/examine/risks'
import { keepsCodes } from '~~/core/source/source'
import { changesPixels, preparedFacts } from '~~/core/prepare/preparation'
import { outletProblems, type Outlet } from '~~/core/job/outlet/outlet'

const { outlet } = defineProps<{ outlet: Outlet }>()
const emit = defineEmits<{ change: [outlet: Outlet]; remove: [] }>()
const jobs = useJob()
const sources = useSources()
const format = computed(() => formatById(outlet.format))
const problems = computed(() => outletProblems(outlet))
/** Sources whose figures still hold: a preparation of their pixels makes others of them. */
const risks = computed(() => [
  ...risksOf(
    outlet,
    jobs.sources.flatMap(source => {
      const examination = sources.examinations.get(source.id)
      return examination && !changesPixels(source.steps) ? [{ name: source.name, examination }] : []
    })
  ),
  ...labelRisk(
    outlet,
    jobs.sources.map(source => {
      const { tags } = preparedFacts(sources.factsOf(source), outlet.steps)
      return { name: source.name, tags, codesKept: keepsCodes(source.interpretation, tags) }
    })
  )
])

function set(changes: Partial<Outlet>): void {
  emit('change', { ...outlet, ...changes })
}

/** Settings of outlets of any format that stand in a part of the form. */
const ownOf = (part: 'names' | 'sound'): FormField[] =>
  settingsInOrder.flatMap(([key, { form }]) =>
    form?.part === part && (form.only ?? format.value.delivers) === format.value.delivers
      ? [{ key, field: form.field, value: outlet[key] ?? form.field.default }]
      : []
  )
const setOwn = (key: string, value: unknown): void => set({ [key]: value })

const rangeKind = computed(() => (typeof outlet.range === 'object' ? 'frames' : outlet.range))

function setRange(kind: string): void {
  set({
    range:
      kind === 'frames'
        ? { from: 1, to: Math.max(1, ...jobs.sources.map(s => sources.factsOf(s).frames)) }
        : (kind as 'marked' | 'all')
  })
}

/** Names the first source would get. */
const example = computed(() => {
  // one whose rate is known says most
  const source = jobs.sources.find(each => sources.factsOf(each).rate) ?? jobs.sources[0]
  if (!source) return null
  const facts = sources.factsOf(source)
  const { plan: planned } = assess({
    facts: { ...facts, rate: facts.rate ?? [24, 1] },
    outlet,
    marks: source.marks,
    ...(source.span ? { span: source.span } : {})
  })
  const plan = planned()
  if (!plan) return null
  const { names, width, height, frames, rate } = plan.deliverable
  const say = (shown: { width: number; height: number; frames: number; rate: Rate | null }): string =>
    `${shown.width}×${shown.height}, ${shown.frames} frames${shown.rate ? ` at ${formatRate(shown.rate)}` : ''}`
  return {
    file: plan.fileName,
    first: names[0],
    last: names.at(-1),
    before: `${source.name}, ${say(facts)},`,
    after: say({ width, height, frames, rate })
  }
})
/** A refused number goes back to what stands: its field is drawn anew. */
const nth = computed(() => jobs.refusal?.nth ?? 0)
const fields = NAME_FIELDS.map(name => `{${name}}`).join(' ')

/** What becomes of sound here. */
const soundTaken = computed(() => {
  const { sound } = format.value
  if (outlet.sound === 'none') return 'Sound is left out on purpose; a proof does not count it as a loss.'
  if (!sound?.length) return 'This format is poured without sound; a proof says so where the source has any.'
  return sound.includes('aac')
    ? 'Uncompressed sound and AAC go along, cut to the frames delivered.'
    : 'Uncompressed sound goes along, cut to the frames delivered; AAC cannot.'
})
</script>

<template>
  <form class="form outlet-form scroll" @submit.prevent>
    <ul v-if="problems.length" class="problems">
      <li v-for="problem in problems" :key="problem">{{ problem }}</li>
    </ul>
    <ul v-if="risks.length" class="risks" aria-label="What it costs the sources at hand">
      <li v-for="risk in risks" :key="risk.id">{{ risk.sentence }}</li>
    </ul>

    <OutletWhat :outlet="outlet" @change="next => emit('change', next)" />

    <section>
      <h2>Which frames</h2>
      <div class="line-field">
        <span>Range</span>
        <div class="inline">
          <el-radio-group
            :model-value="rangeKind"
            aria-label="Range"
            @update:model-value="kind => setRange(String(kind))"
          >
            <el-radio-button value="marked">As marked on the source</el-radio-button>
            <el-radio-button value="all">All frames</el-radio-button>
            <el-radio-button value="frames">Frames</el-radio-button>
          </el-radio-group>
          <template v-if="typeof outlet.range === 'object'">
            <el-input-number
              :key="`from ${nth}`"
              :model-value="outlet.range.from"
              :min="1"
              controls-position="right"
              aria-label="First frame"
              @change="
                (from?: number) =>
                  typeof outlet.range === 'object' && set({ range: { ...outlet.range, from: from ?? 1 } })
              "
            />
            <span class="soft">to</span>
            <el-input-number
              :key="`to ${nth}`"
              :model-value="outlet.range.to"
              :min="1"
              controls-position="right"
              aria-label="Last frame"
              @change="
                (to?: number) => typeof outlet.range === 'object' && set({ range: { ...outlet.range, to: to ?? 1 } })
              "
            />
          </template>
        </div>
        <FieldRefusal :at="`outlets/${outlet.id}/range`" />
      </div>
    </section>

    <section>
      <h2>Size, rate and more</h2>
      <OutletSteps :steps="outlet.steps" @set="steps => set({ steps })" />
      <FieldRefusal :at="`outlets/${outlet.id}/steps`" />
      <p v-if="example && outlet.steps.length" class="soft becomes">
        {{ example.before }} becomes <span class="mono">{{ example.after }}</span>.
      </p>
    </section>

    <section>
      <h2>Names</h2>
      <FieldForm :key="`names ${nth}`" layout="lines" :fields="ownOf('names')" @set="setOwn">
        <template #below="{ key }"><FieldRefusal :at="`outlets/${outlet.id}/${key}`" /></template>
      </FieldForm>
      <p class="line-field">
        <span>Fields</span><small class="mono">{{ fields }}</small>
      </p>
      <p v-if="example" class="line-field">
        <span>For example</span
        ><span class="mono example"
          >{{ example.file
          }}<template v-if="example.first"><br />{{ example.first }} … {{ example.last }}</template></span
        >
      </p>
      <OutletNames :outlet="outlet" />
    </section>

    <section v-if="format.delivers === 'film'">
      <h2>Sound</h2>
      <FieldForm layout="lines" :fields="ownOf('sound')" @set="setOwn" />
      <p class="soft">{{ soundTaken }}</p>
    </section>

    <section>
      <h2>Proof</h2>
      <p class="soft">
        Read back by {{ format.proofReader.name
        }}{{ format.proofReader.independent ? ', which shares no code with the writer.' : '.' }} Seen by a stranger:
        {{ sayStranger(format) }}.
      </p>
      <el-button text class="remove" @click="emit('remove')">Remove outlet</el-button>
    </section>
  </form>
</template>

<style scoped>
.form {
  flex: 1;
  min-width: 0;
  padding: 16px 24px 24px;
  background: var(--raised);
}

.becomes {
  margin-top: 8px;
}

.example {
  overflow-wrap: anywhere;
}

.problems {
  padding: 8px 12px;
  margin-bottom: 14px;
  background: var(--brick-wash);
  color: var(--brick);
  border-radius: 3px;
  max-width: 760px;
}

.risks {
  padding: 8px 12px 8px 28px;
  margin-bottom: 14px;
  background: var(--ochre-wash);
  color: var(--ochre);
  border-radius: 3px;
  max-width: 760px;
}

.remove {
  margin-top: 8px;
  padding-left: 0;
}
</style>
