<script setup lang="ts">
/** What a source reads as: alpha over the clip and in the frame shown, its mode, findings, and what it is taken as. */
import AlphaChart from '~/components/shell/AlphaChart.vue'
import FindingList from '~/components/shell/FindingList.vue'
import ModePanel from '~/components/bench/ModePanel.vue'
import TakenAs from '~/components/bench/TakenAs.vue'
import { sayCoverage, sayFrames } from '~/composables/say'
import { useMends } from '~/composables/useMends'
import { computed, ref, watch } from 'vue'
import { useJob } from '~/stores/job'
import { useSources } from '~/stores/sources'
import { useWorkshop } from '~/stores/workshop'
import { isAbort } from '~~/core/base/errors'
import type { JobSource } from '~~/core/job/job'
import { specKey } from '~~/core/source/identity'

const { source, frame, prepares, playing, wrong } = defineProps<{
  source: JobSource
  /** The frame as it was found that stands in the viewer, from 0. */
  frame: number
  prepares: boolean
  playing: boolean
  /** Why a tool of a step found nothing; null where none did. */
  wrong: string | null
}>()
const emit = defineEmits<{ frame: [at: number] }>()
const jobs = useJob()
const sources = useSources()
const workshop = useWorkshop()
const { mend, takeBack } = useMends()
const examination = computed(() => sources.examinations.get(source.id) ?? null)
const state = computed(() => sources.states.get(source.id))
const standing = computed(() => sources.standingOf(source))
const raw = computed(() => sources.specOf(source, { raw: true }))

const frameLevels = ref<number[] | null>(null)
watch(
  [() => frame, () => raw.value && specKey(raw.value), () => playing],
  async (_now, _before, onCleanup) => {
    const spec = raw.value
    if (!spec || playing) return
    const stop = new AbortController()
    onCleanup(() => stop.abort())
    try {
      frameLevels.value = await workshop.pool.run('alphaLevels', [spec, frame], { signal: stop.signal })
    } catch (error) {
      // the viewer beside it says why a frame cannot be read
      if (!isAbort(error)) frameLevels.value = null
    }
  },
  { immediate: true }
)
const alphaSets = computed(() => [
  { label: 'all frames', bins: examination.value?.histogram ?? [], colour: 'line-strong' },
  ...(frameLevels.value ? [{ label: `frame ${frame + 1}`, bins: frameLevels.value, colour: 'verdigris-fill' }] : [])
])

const coverage = computed(() => (examination.value ? sayCoverage(examination.value.alpha.evidence) : ''))

async function decideHold(hold: boolean): Promise<void> {
  const { id } = source
  await jobs.edit(
    hold ? 'Hold the picture before a gap' : 'Close gaps',
    draft => void (draft.sources[id]!.interpretation.holdGaps = hold)
  )
}
</script>

<template>
  <aside class="place-side scroll" aria-label="Readings">
    <p v-if="wrong" class="bad" role="alert">{{ wrong }}</p>
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
    <p v-else class="soft">
      {{ sources.looking.get(source.id) ?? 0 }} of {{ sayFrames(sources.foundFactsOf(source).frames) }} looked at.
    </p>
    <ModePanel :source="source" figures />
    <section v-if="examination">
      <h2>Findings</h2>
      <FindingList
        v-if="standing.length"
        class="list"
        frames
        :standing="standing"
        @mend="(finding, chosen) => mend(source.id, finding, chosen)"
        @take-back="takeBack(source.id, $event)"
        @frame="at => emit('frame', at)"
      />
      <p v-else class="soft">Nothing amiss.</p>
      <button v-if="source.interpretation.holdGaps" class="link" @click="decideHold(false)">
        Close gaps instead of holding
      </button>
    </section>
    <TakenAs :source="source" />
  </aside>
</template>

<style scoped>
.small {
  font-size: 12px;
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
