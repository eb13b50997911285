<script setup lang="ts">
/** The bench: one source looked at closely. */
import AlphaChart from '~/components/shell/AlphaChart.vue'
import AlphaRibbon from '~/components/bench/AlphaRibbon.vue'
import EmptyPlace from '~/components/shell/EmptyPlace.vue'
import FindingList from '~/components/shell/FindingList.vue'
import FrameAt from '~/components/shell/FrameAt.vue'
import FrameViewer from '~/components/viewer/FrameViewer.vue'
import ModePanel from '~/components/bench/ModePanel.vue'
import SoundStrip from '~/components/bench/SoundStrip.vue'
import SpanDialog from '~/components/bench/SpanDialog.vue'
import StepList from '~/components/bench/StepList.vue'
import TakenAs from '~/components/bench/TakenAs.vue'
import UndoButtons from '~/components/shell/UndoButtons.vue'
import { sayCoverage, sayFrames } from '~/composables/say'
import { useMends } from '~/composables/useMends'
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
import { ElMessageBox } from 'element-plus'
import { isAbort, sentenceOf } from '~~/core/base/errors'
import { preparedFacts, sourceFrames, type Step } from '~~/core/prepare/preparation'
import { rateFraction } from '~~/core/base/rate'
import { specKey } from '~~/core/source/identity'

const route = useRoute()
const router = useRouter()
const jobs = useJob()
const sources = useSources()
const workshop = useWorkshop()
const desk = useDesk()
const { mend, takeBack } = useMends()
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
const state = computed(() => (id.value ? sources.states.get(id.value) : undefined))
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

const standing = computed(() => (source.value ? sources.standingOf(source.value) : []))

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
const frameLevels = ref<number[] | null>(null)
watch(
  [foundIndex, () => raw.value && specKey(raw.value), () => viewer.value?.playing],
  async (_now, _before, onCleanup) => {
    const spec = raw.value
    if (!spec || viewer.value?.playing) return
    const stop = new AbortController()
    onCleanup(() => stop.abort())
    try {
      frameLevels.value = await workshop.pool.run('alphaLevels', [spec, foundIndex.value], { signal: stop.signal })
    } catch (error) {
      // the viewer beside it says why a frame cannot be read
      if (!isAbort(error)) frameLevels.value = null
    }
  },
  { immediate: true }
)
const alphaSets = computed(() => [
  { label: 'all frames', bins: examination.value?.histogram ?? [], colour: 'line-strong' },
  ...(frameLevels.value
    ? [{ label: `frame ${foundIndex.value + 1}`, bins: frameLevels.value, colour: 'verdigris-fill' }]
    : [])
])

const listing = ref(false)

async function mark(end: 'from' | 'to'): Promise<void> {
  if (!source.value || !facts.value) return
  const [{ id: of }, { frames }, at] = [source.value, facts.value, index.value + 1]
  await jobs.edit('Mark the range', draft => {
    // two keys may follow each other faster than an edit is stored, so the other end is the one that stands there now
    const now = draft.sources[of]!.marks ?? { from: 1, to: frames }
    const marks = end === 'from' ? { from: at, to: Math.max(at, now.to) } : { from: Math.min(at, now.from), to: at }
    draft.sources[of]!.marks = marks.from === 1 && marks.to === frames ? null : marks
  })
}

async function clearMarks(): Promise<void> {
  const of = source.value?.id
  if (of) await jobs.edit('Clear the range', draft => void (draft.sources[of]!.marks = null))
}

/** The marked range, under a name, as a source of its own. */
async function keepSpan(): Promise<void> {
  const [of, marks] = [source.value, source.value?.marks]
  if (!of || !marks) return
  const answer = await ElMessageBox.prompt(
    `Name of frames ${marks.from} to ${marks.to}, such as “hover”`,
    'Keep as a span',
    {
      inputPattern: /^\s*\S.{0,59}$/,
      inputErrorMessage: 'A name of up to 60 characters is needed.',
      confirmButtonText: 'Keep',
      cancelButtonText: 'Cancel'
    }
  ).catch(() => null)
  if (!answer || !('value' in answer)) return
  try {
    await sources.keepSpans(of, [{ name: answer.value.trim(), ...marks }])
    desk.message = `${of.name} ${answer.value.trim()} is a source of its own now; its row stands on the board.`
  } catch (error) {
    desk.message = `Not kept: ${sentenceOf(error)}`
  }
}

const coverage = computed(() => (examination.value ? sayCoverage(examination.value.alpha.evidence) : ''))

async function decideHold(hold: boolean): Promise<void> {
  const of = source.value?.id
  if (of)
    await jobs.edit(
      hold ? 'Hold the picture before a gap' : 'Close gaps',
      draft => void (draft.sources[of]!.interpretation.holdGaps = hold)
    )
}

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
      <aside class="side scroll" aria-label="Readings">
        <p v-if="tools.wrong.value" class="bad" role="alert">{{ tools.wrong.value }}</p>
        <p v-if="state?.state === 'failed'" class="bad" role="alert">{{ state.sentence }}</p>
        <p v-if="state?.state === 'locked'" class="bad">
          {{ state.sentence }} <button class="link" @click="sources.unlock(source.id)">Allow reading</button>
        </p>
        <template v-if="examination">
          <div>
            <div class="place-line">
              <h2>{{ prepares ? 'Alpha as found' : 'Alpha, all frames' }}</h2>
              <span class="spring" /><span class="mono soft"
                >{{ examination.levels.toLocaleString('en') }} {{ examination.levels === 1 ? 'level' : 'levels' }}</span
              >
            </div>
            <AlphaChart :sets="alphaSets" caption="" :height="104" />
            <p class="mono soft small">{{ coverage }}</p>
          </div>
        </template>
        <p v-else class="soft">{{ sources.looking.get(source.id) ?? 0 }} of {{ sayFrames(found.frames) }} looked at.</p>
        <ModePanel :source="source" figures />
        <section v-if="examination">
          <h2>Findings</h2>
          <FindingList
            v-if="standing.length"
            class="list"
            frames
            :standing="standing"
            @mend="(finding, chosen) => mend(source!.id, finding, chosen)"
            @take-back="takeBack(source.id, $event)"
            @frame="showFrame"
          />
          <p v-else class="soft">Nothing amiss.</p>
          <button v-if="source.interpretation.holdGaps" class="link" @click="decideHold(false)">
            Close gaps instead of holding
          </button>
        </section>
        <TakenAs :source="source" />
      </aside>
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

.side {
  width: 276px;
  flex: none;
  padding: 12px 13px;
  background: var(--panel);
  border-left: 1px solid var(--line);
  display: flex;
  flex-direction: column;
  gap: 16px;
}

.list {
  margin-top: 8px;
}

.bad {
  padding: 8px 10px;
  background: var(--brick-wash);
  color: var(--brick);
  border-radius: 3px;
}
</style>
