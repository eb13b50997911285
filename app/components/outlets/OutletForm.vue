<script setup lang="ts">
/**
 * One outlet's form. Every choice stands in the format table; what a format cannot do is not offered, and the reason is
 * said.
 */
import FieldForm, { type FormField } from '~/components/form/FieldForm.vue'
import FieldRefusal from '~/components/shell/FieldRefusal.vue'
import OutletNames from '~/components/outlets/OutletNames.vue'
import OutletSteps from '~/components/outlets/OutletSteps.vue'
import TextLine from '~/components/shell/TextLine.vue'
import { computed } from 'vue'
import { useJob } from '~/stores/job'
import { useSources } from '~/stores/sources'
import type { FormatId } from '~~/core/open/rows'
import { carriageById, carriages } from '~~/core/media/carriage/carriages'
import { sayStranger } from '~~/core/media/formats/document'
import { formatById, writtenFormats } from '~~/core/open/registry'
import type { AlphaMode } from '~~/core/frame/frame'
import { assess } from '~~/core/run/delivery/assess'
import { settingsInOrder } from '~~/core/job/outlet/settings'
import { counts } from '~~/core/base/settings/field'
import { formatRate, type Rate } from '~~/core/base/rate'
import { NAME_FIELDS } from '~~/core/job/outlet/names'
import { labelRisk, risksOf } from '~~/core/judge/examine/risks'
import { keepsCodes } from '~~/core/source/source'
import { changesPixels, preparedFacts } from '~~/core/prepare/preparation'
import { alphaFor, outletProblems, sayCarries, withFormat, type Outlet } from '~~/core/job/outlet/outlet'

const { outlet } = defineProps<{ outlet: Outlet }>()
const emit = defineEmits<{ change: [outlet: Outlet]; remove: [] }>()
const jobs = useJob()
const sources = useSources()
const format = computed(() => formatById(outlet.format))
/** What the format has to be set. */
const options = computed<FormField[]>(() =>
  Object.entries(format.value.options).flatMap(([key, field]) =>
    counts(field, outlet.options) ? [{ key, field, value: outlet.options[key] ?? field.default }] : []
  )
)
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

const MODES = [
  { mode: 'straight', name: 'Straight' },
  { mode: 'premultiplied', name: 'Premultiplied' },
  { mode: 'none', name: 'No alpha' }
] as const
/** A fill may be multiplied or not in any format: its file has no alpha to contradict. */
const offered = computed(() =>
  MODES.filter(m => (outlet.parts === 'fill-key' ? m.mode !== 'none' : format.value.alpha[m.mode].can))
)

/** The one matte colour that the format's word for premultiplied means; a fill's file says nothing of it. */
const onlyMatte = computed(() => {
  const { premultiplied } = format.value.alpha
  return outlet.parts === 'colour-alpha' && premultiplied.can ? (premultiplied.matte ?? null) : null
})

function setParts(parts: Outlet['parts']): void {
  // what the format cannot say of the whole is no choice for it
  const alpha: AlphaMode =
    parts === 'fill-key'
      ? outlet.alpha.mode === 'none'
        ? { mode: 'straight' }
        : outlet.alpha
      : (alphaFor(format.value, outlet.alpha) ?? { mode: 'straight' })
  set({ parts, alpha })
}

const refused = computed(() =>
  MODES.flatMap(m => {
    const capability = format.value.alpha[m.mode]
    return capability.can ? [] : [{ name: m.name, because: capability.because }]
  })
)
const declares = computed(() => {
  const capability = format.value.alpha[outlet.alpha.mode]
  return capability.can ? capability.declares : ''
})
const matteUndeclared = computed(
  () => outlet.alpha.mode === 'premultiplied' && !format.value.declaredMattes.includes(outlet.alpha.matte)
)

function setMode(mode: string): void {
  set({ alpha: mode === 'premultiplied' ? { mode, matte: '#000000' } : ({ mode } as AlphaMode) })
}

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
  <form class="form scroll" @submit.prevent>
    <ul v-if="problems.length" class="problems">
      <li v-for="problem in problems" :key="problem">{{ problem }}</li>
    </ul>
    <ul v-if="risks.length" class="risks" aria-label="What it costs the sources at hand">
      <li v-for="risk in risks" :key="risk.id">{{ risk.sentence }}</li>
    </ul>

    <section>
      <h2>What is delivered</h2>
      <label class="field"
        ><span>Name</span
        ><TextLine
          :value="outlet.name"
          maxlength="80"
          :fits="text => text.trim() !== ''"
          @set="name => set({ name: name.trim() })"
      /></label>
      <label class="field">
        <span>Format</span>
        <el-select
          :model-value="outlet.format"
          aria-label="Format"
          @update:model-value="(next: FormatId) => emit('change', withFormat(outlet, formatById(next)))"
        >
          <el-option v-for="f in writtenFormats" :key="f.id" :value="f.id" :label="f.name" />
        </el-select>
        <small>Carries {{ sayCarries(outlet) }}. {{ format.lossless ? 'Exact.' : 'Lossy in colour.' }}</small>
      </label>
      <div class="field">
        <span>Depth</span>
        <el-radio-group
          :model-value="outlet.depth"
          aria-label="Depth"
          @update:model-value="depth => set({ depth: depth as Outlet['depth'] })"
        >
          <el-radio-button v-for="d in format.depths" :key="d.depth" :value="d.depth"
            >{{ d.colourBits }} bit + {{ d.alphaBits }} alpha</el-radio-button
          >
        </el-radio-group>
      </div>
      <div class="field">
        <span>Carries</span>
        <el-radio-group
          :model-value="outlet.parts"
          aria-label="Carries"
          @update:model-value="parts => setParts(String(parts) as Outlet['parts'])"
        >
          <el-radio-button v-for="carriage in carriages" :key="carriage.id" :value="carriage.id">{{
            carriage.name
          }}</el-radio-button>
        </el-radio-group>
        <small>{{ carriageById(outlet.parts).help }}</small>
      </div>
      <div v-if="outlet.parts === 'colour-only'" class="field">
        <span>Laid on</span>
        <div class="inline">
          <el-button
            size="small"
            :type="outlet.backing === '#000000' ? 'primary' : 'default'"
            @click="set({ backing: '#000000' })"
            >black</el-button
          >
          <el-button
            size="small"
            :type="outlet.backing === '#ffffff' ? 'primary' : 'default'"
            @click="set({ backing: '#ffffff' })"
            >white</el-button
          >
          <input
            type="color"
            :value="outlet.backing"
            aria-label="Backing colour"
            @change="set({ backing: ($event.target as HTMLInputElement).value })"
          />
          <span class="mono">{{ outlet.backing }}</span>
        </div>
      </div>
      <div v-if="outlet.parts === 'colour-alpha' || outlet.parts === 'fill-key'" class="field">
        <span>{{ outlet.parts === 'fill-key' ? 'Fill' : 'Alpha' }}</span>
        <div class="inline">
          <el-radio-group
            :model-value="outlet.alpha.mode"
            aria-label="Alpha mode"
            @update:model-value="mode => setMode(String(mode))"
          >
            <el-radio-button v-for="m in offered" :key="m.mode" :value="m.mode">{{ m.name }}</el-radio-button>
          </el-radio-group>
          <template v-if="outlet.alpha.mode === 'premultiplied'">
            <span class="soft">on</span>
            <el-button
              size="small"
              :type="outlet.alpha.matte === '#000000' ? 'primary' : 'default'"
              @click="set({ alpha: { mode: 'premultiplied', matte: '#000000' } })"
              >black</el-button
            >
            <el-button
              v-if="!onlyMatte"
              size="small"
              :type="outlet.alpha.matte === '#ffffff' ? 'primary' : 'default'"
              @click="set({ alpha: { mode: 'premultiplied', matte: '#ffffff' } })"
              >white</el-button
            >
            <input
              v-if="!onlyMatte"
              type="color"
              :value="outlet.alpha.matte"
              aria-label="Matte colour"
              @change="set({ alpha: { mode: 'premultiplied', matte: ($event.target as HTMLInputElement).value } })"
            />
            <span class="mono">{{ outlet.alpha.matte }}</span>
          </template>
        </div>
        <small v-if="outlet.parts === 'fill-key'"
          >{{
            outlet.alpha.mode === 'straight'
              ? 'The fill keeps its full colour under soft edges; the receiver multiplies it by the key.'
              : 'The fill is multiplied by its key already; the receiver only adds it.'
          }}
          Nothing in the files says which: tell the receiver.</small
        >
        <small v-else>In the file: {{ declares }}.</small>
        <small v-if="matteUndeclared && outlet.parts === 'colour-alpha'" class="ochre"
          >This format can declare only {{ format.declaredMattes.join(' and ') }}. The receiver must be told of
          {{ outlet.alpha.mode === 'premultiplied' ? outlet.alpha.matte : '' }}.</small
        >
        <small v-for="r in outlet.parts === 'colour-alpha' ? refused : []" :key="r.name"
          >Not offered: {{ r.name.toLowerCase() }}. {{ r.because.charAt(0).toUpperCase() + r.because.slice(1) }}</small
        >
      </div>
      <FieldForm
        layout="lines"
        :fields="options"
        @set="(key, value) => set({ options: { ...outlet.options, [key]: value as string } })"
      />
    </section>

    <section>
      <h2>Which frames</h2>
      <div class="field">
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
      <p class="field">
        <span>Fields</span><small class="mono">{{ fields }}</small>
      </p>
      <p v-if="example" class="field">
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

section {
  max-width: 760px;
  padding-bottom: 14px;
  margin-bottom: 14px;
  border-bottom: 1px solid var(--line);
}

section:last-child {
  border: 0;
}

h2 {
  margin-bottom: 10px;
}

.field {
  display: grid;
  grid-template-columns: 118px 1fr;
  align-items: center;
  gap: 3px 12px;
  margin-bottom: 9px;
}

.field > span:first-child {
  color: var(--soft);
}

.field small {
  grid-column: 2;
  font-size: 12px;
  color: var(--soft);
}

.field small.ochre {
  color: var(--ochre);
}

.inline {
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: 8px;
}

.inline .el-button {
  margin: 0;
}

.inline .el-input-number {
  width: 104px;
}

input[type='color'] {
  width: 32px;
  height: 24px;
  padding: 0;
  border: 1px solid var(--line-strong);
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
