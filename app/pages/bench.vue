<script setup lang="ts">
/** The bench: one source looked at closely. */
import AlphaRibbon from '~/components/bench/AlphaRibbon.vue'
import BenchReadings from '~/components/bench/BenchReadings.vue'
import EmptyPlace from '~/components/shell/EmptyPlace.vue'
import FrameAt from '~/components/shell/FrameAt.vue'
import ModelHands from '~/components/bench/ModelHands.vue'
import FrameViewer from '~/components/viewer/FrameViewer.vue'
import SoundStrip from '~/components/bench/SoundStrip.vue'
import SpanDialog from '~/components/bench/SpanDialog.vue'
import StepList from '~/components/bench/StepList.vue'
import UndoButtons from '~/components/shell/UndoButtons.vue'
import { sayFrames } from '~/composables/say'
import { useMarks } from '~/composables/useMarks'
import { usePreparedRibbon } from '~/composables/usePreparedRibbon'
import { useSoundPeaks } from '~/composables/useSoundPeaks'
import { useStepTools } from '~/composables/useStepTools'
import { viewerClip } from '~/composables/viewerClip'
import { computed, onBeforeUnmount, ref, shallowRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { ViewerClip } from '~/components/viewer/FrameViewer.vue'
import { useDesk } from '~/stores/desk'
import { useJob } from '~/stores/job'
import { useSources } from '~/stores/sources'
import { useWorkshop } from '~/stores/workshop'
import { preparedFacts, sourceFrames, type Step } from '~~/core/prepare/preparation'
import { rateFraction } from '~~/core/base/rate'

const route = useRoute()
const router = useRouter()
const jobs = useJob()
const sources = useSources()
const workshop = useWorkshop()
const desk = useDesk()
const viewer = ref<InstanceType<typeof FrameViewer> | null>(null)

/** What was chosen on the board lies here where nothing else is asked for. */
const chosenSource = computed(() => {
  const now = desk.choice
  const of = now?.kind === 'cell' ? now.sourceId : now?.kind === 'source' ? now.id : null
  return of && jobs.job.sources[of] ? of : null
})
const id = computed(() =>
  typeof route.query.source === 'string' && jobs.job.sources[route.query.source]
    ? route.query.source
    : (chosenSource.value ?? jobs.job.sourceOrder[0] ?? null)
)
const source = computed(() => (id.value ? (jobs.job.sources[id.value] ?? null) : null))
const found = computed(() => source.value && sources.foundFactsOf(source.value))
/** Steps while one of them is being dragged; what is stored otherwise. */
const live = shallowRef<Step[] | null>(null)
const steps = computed(() => live.value ?? source.value?.steps ?? [])
const index = ref(0)
const tools = useStepTools(source, steps, index)
const prepares = computed(() => steps.value.some(step => step.on))
const shows = ref<'found' | 'prepared' | 'both'>('prepared')
const after = computed(() => found.value && preparedFacts(found.value, steps.value))
const comparable = computed(
  () =>
    found.value &&
    after.value &&
    found.value.width === after.value.width &&
    found.value.height === after.value.height &&
    found.value.frames === after.value.frames
)
/** Facts of what the viewer shows. */
const facts = computed(() => {
  if (tools.step.value) return found.value && preparedFacts(found.value, tools.upTo.value)
  return shows.value === 'found' ? found.value : after.value
})
const examination = computed(() => (id.value ? (sources.examinations.get(id.value) ?? null) : null))
watch(id, () => {
  index.value = 0
  live.value = null
})
watch(id, now => (desk.onBench = now), { immediate: true })
onBeforeUnmount(() => (desk.onBench = null))
watch(
  () => facts.value?.frames,
  frames => {
    if (frames && index.value >= frames) index.value = frames - 1
  }
)

function clipOf(of: readonly Step[], name: string): ViewerClip | null {
  const spec = source.value && sources.specOf(source.value, { steps: of })
  return spec && viewerClip(spec, name)
}

const clip = computed(() => {
  if (tools.step.value) return clipOf(tools.upTo.value, 'where the step works')
  return clipOf(
    shows.value === 'prepared' || !prepares.value ? steps.value : [],
    shows.value === 'both' ? 'as found' : (source.value?.name ?? '')
  )
})
const other = computed(() =>
  shows.value === 'both' && prepares.value && comparable.value && !tools.step.value
    ? clipOf(steps.value, 'prepared')
    : null
)

/** Ribbon and findings of the frames found, as they come in the order shown. */
const order = computed(() =>
  found.value && facts.value !== found.value ? sourceFrames(found.value, steps.value) : null
)
const ribbon = computed(() => {
  const of = examination.value?.ribbon
  return of ? (order.value ? order.value.map(i => of[i]!) : of) : null
})
const findingsShown = computed(() => {
  const of = examination.value?.findings ?? []
  if (!order.value) return of
  return of.map(finding => ({
    ...finding,
    frames: order.value!.flatMap((i, n) => (finding.frames.includes(i + 1) ? [n + 1] : []))
  }))
})

/** What the steps make of the whole clip, while they are what is looked at. */
const preparedSpec = computed(() =>
  source.value && prepares.value && shows.value !== 'found' && !live.value && !tools.step.value
    ? sources.specOf(source.value)
    : null
)
const preparedRibbon = usePreparedRibbon(
  preparedSpec,
  () => after.value?.frames ?? 0,
  () => viewer.value?.playing ?? false
)
const soundOf = computed(() => (source.value ? sources.specOf(source.value) : null))
const peaks = useSoundPeaks(soundOf, () => facts.value ?? null)

/** The frame as it was found that stands where the viewer is. */
const foundIndex = computed(() => (order.value ? (order.value[index.value] ?? 0) : index.value))
const raw = computed(() => source.value && sources.specOf(source.value, { raw: true }))
const decided = computed(() => {
  const spec = raw.value
  return spec && examination.value && examination.value.alpha.mode !== 'none'
    ? (i: number, signal: AbortSignal) =>
        workshop.pool.run('deciding', [spec, order.value ? (order.value[i] ?? 0) : i], { signal, priority: 'now' })
    : null
})
/** The step that is open among the steps. */
const chosen = ref<string | null>(null)
watch(chosen, tools.end)
/** Where the key that is open among the steps is unsure, in place of what decided the mode. */
const keying = computed(() => {
  const step = steps.value.find(s => s.id === chosen.value && s.on && s.kind === 'chroma-key')
  const spec = source.value && step && step.settings.edges === 'beside' ? sources.specOf(source.value) : null
  if (!spec || !step) return null
  return async (i: number, signal: AbortSignal) => {
    const pixels = await workshop.pool.run('unsure', [spec, i, step.id], { signal, priority: 'now' })
    if (!pixels) throw new Error('This key cannot say where it is unsure.')
    return pixels
  }
})
const listing = ref(false)

const { mark, clearMarks, keepSpan } = useMarks(source, () => facts.value?.frames ?? 0, index)

/** Shows a frame of the clip as it was found. */
function showFrame(at: number): void {
  const shown = order.value ? order.value.indexOf(at) : at
  if (shown < 0) shows.value = 'found'
  index.value = shown < 0 ? at : shown
}

function open(other: string): void {
  void router.replace(`/bench?source=${other}`)
}
</script>

<template>
  <main class="bench">
    <header class="place-head">
      <el-select v-if="source" :model-value="id" class="chooser" aria-label="Source" @update:model-value="open">
        <el-option v-for="s in jobs.sources" :key="s.id" :value="s.id" :label="s.name" />
      </el-select>
      <h1 :class="{ 'visually-hidden': source }">{{ source ? `Bench: ${source.name}` : 'Bench' }}</h1>
      <span v-if="facts" class="mono soft"
        >{{ facts.width }}×{{ facts.height
        }}<template v-if="facts.rate"> · {{ rateFraction(facts.rate) }} f/s</template> · {{ sayFrames(facts.frames) }} ·
        {{ facts.kind }}, {{ facts.bitDepth }} bit</span
      >
      <span class="spring" />
      <UndoButtons />
      <el-button v-if="source && found && found.frames > 1" @click="listing = true">Spans from a list…</el-button>
      <el-button @click="router.push('/')">Back to board</el-button>
    </header>
    <SpanDialog v-if="source && after" v-model="listing" :source="source" :facts="after" />
    <div v-if="source && facts && found" class="place-body">
      <StepList
        v-model:chosen="chosen"
        :source="source"
        :busy="tools.busy.value"
        @live="live = $event"
        @tool="tools.take"
        @find="tools.find"
      />
      <div class="place-middle">
        <FrameViewer
          ref="viewer"
          v-model:index="index"
          class="place-view"
          :clip="clip"
          :other="other"
          :tool="tools.tool.value"
          :heat="keying ?? decided"
          :heat-key="keying ? JSON.stringify(steps) : ''"
          :heat-keyed="keying ? 'grey is alpha, copper where it had to guess' : ''"
          :heat-name="keying ? 'Where the key is unsure' : 'What decided the mode'"
          :width="facts.width"
          :height="facts.height"
          :frames="facts.frames"
          :rate="facts.rate"
          @mark="mark"
          @pick="tools.pick"
          @draw="tools.draw"
          @tool-end="tools.end"
        >
          <template #over><ModelHands :source="source" /></template>
          <template v-if="prepares" #tools>
            <el-radio-group v-model="shows" size="small" aria-label="Shown">
              <el-radio-button value="found">Found</el-radio-button>
              <el-radio-button value="prepared">Prepared</el-radio-button>
              <el-radio-button value="both" :disabled="!comparable" title="Both under a wipe">Wipe</el-radio-button>
            </el-radio-group>
          </template>
        </FrameViewer>
        <section class="place-under">
          <div class="place-line">
            <h2>Alpha ribbon{{ preparedRibbon ? ', prepared' : prepares ? ', as found' : '' }}</h2>
            <span class="legend soft"
              ><i class="clear" />clear <i class="partial" />partial <i class="solid" />solid in each frame</span
            >
            <span class="spring" />
            <FrameAt v-model:index="index" :frames="facts.frames" :rate="facts.rate" :start="facts.timecode ?? null" />
          </div>
          <AlphaRibbon
            v-model:index="index"
            :ribbon="preparedRibbon ?? ribbon"
            :frames="facts.frames"
            :findings="findingsShown"
            :marks="source.marks"
            :dim="desk.theme === 'dim'"
          />
          <SoundStrip v-if="peaks" :peaks="peaks" :frames="facts.frames" :index="index" :dim="desk.theme === 'dim'" />
          <div class="place-line">
            <button class="plain mono soft" title="Mark where the range begins (I)" @click="mark('from')">
              <kbd>I</kbd> {{ source.marks?.from ?? 1 }}
            </button>
            <span class="spring" />
            <el-button size="small" title="One frame back (←)" aria-label="One frame back" @click="viewer?.step(-1)"
              >◀</el-button
            >
            <el-button
              size="small"
              :disabled="!facts.rate || facts.frames < 2"
              :title="facts.rate ? 'Play or stop (space)' : 'Give the rate first'"
              class="play"
              @click="viewer?.play()"
              >{{ viewer?.playing ? 'Stop' : 'Play' }}</el-button
            >
            <el-button size="small" title="One frame on (→)" aria-label="One frame on" @click="viewer?.step(1)"
              >▶</el-button
            >
            <span class="mono soft"
              >{{ facts.rate ? `${rateFraction(facts.rate)} f/s` : 'no rate' }}, {{ viewer?.looping ? 'loop' : 'once'
              }}<template v-if="viewer?.skipped"> · {{ viewer.skipped }} skipped</template></span
            >
            <span class="spring" />
            <button v-if="source.marks" class="link small" @click="keepSpan">Keep as a span…</button>
            <button v-if="source.marks" class="link small" @click="clearMarks">Clear range</button>
            <button class="plain mono soft" title="Mark where the range ends (O)" @click="mark('to')">
              {{ source.marks?.to ?? facts.frames }} <kbd>O</kbd>
            </button>
          </div>
        </section>
      </div>
      <BenchReadings
        :source="source"
        :frame="foundIndex"
        :prepares="prepares"
        :playing="viewer?.playing ?? false"
        :wrong="tools.wrong.value"
        @frame="showFrame"
      />
    </div>
    <EmptyPlace v-else title="No source to look at">
      <p>
        The bench shows one source: its alpha in every frame, which mode it is and why, and what a preparation makes of
        it. Bring one in on the board, or drop files anywhere.
      </p>
      <template #acts><el-button type="primary" @click="router.push('/')">Go to the board</el-button></template>
    </EmptyPlace>
  </main>
</template>

<style scoped>
.bench {
  display: flex;
  flex-direction: column;
  min-height: 0;
}

.chooser {
  width: 220px;
}

.legend {
  display: flex;
  align-items: center;
  gap: 5px;
}

.legend i {
  width: 10px;
  height: 10px;
  display: inline-block;
  margin-left: 5px;
  background: var(--line);
}

.legend .partial {
  background: var(--copper-fill);
}

.legend .solid {
  background: var(--soft);
}

.play {
  width: 64px;
}

.small {
  font-size: 12px;
}
</style>
