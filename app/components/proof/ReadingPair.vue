<script setup lang="ts">
/** What was delivered beside what was due, under a wipe, with the figures of each frame and the findings. */
import AloneFigures from '~/components/proof/AloneFigures.vue'
import FindingList from '~/components/shell/FindingList.vue'
import FrameViewer, { type ViewerClip } from '~/components/viewer/FrameViewer.vue'
import ProofFigures from '~/components/proof/ProofFigures.vue'
import type { Exhibit, OpenedExhibit } from '~/composables/useExhibit'
import { computed, ref, shallowRef, watch } from 'vue'
import { useWorkshop } from '~/stores/workshop'
import { isAbort, sentenceOf } from '~~/core/base/errors'
import { measureSeam, type Seam } from '~~/core/judge/proof/seam'
import { specKey } from '~~/core/source/identity'

const { exhibit, opened } = defineProps<{ exhibit: Exhibit; opened: OpenedExhibit | null }>()
const index = defineModel<number>('index', { required: true })
const workshop = useWorkshop()
const viewer = ref<InstanceType<typeof FrameViewer> | null>(null)
const seam = shallowRef<Seam | null>(null)
/** Why the seam could not be measured. */
const seamless = ref<string | null>(null)
const report = computed(() => exhibit.report)
const alone = computed(() => (report.value ? null : exhibit.alone))

watch(
  () => opened,
  async (now, _before, onCleanup) => {
    seam.value = seamless.value = null
    if (!now) return
    const stop = new AbortController()
    onCleanup(() => stop.abort())
    try {
      seam.value = await measureSeam(now.spec, now.facts.frames, now.facts.rate, {
        pool: workshop.pool,
        signal: stop.signal
      })
    } catch (error) {
      if (!isAbort(error)) seamless.value = sentenceOf(error)
    }
  },
  { immediate: true }
)

const referenceClip = computed<ViewerClip | null>(() => {
  const now = exhibit
  const [spec, frames] = [now.reference, now.frames]
  if (!spec || !frames) return null
  return {
    key: `reference ${specKey(spec)} ${now.id}`,
    name: 'reference',
    picture: (i, view, signal) => workshop.pool.run('view', [spec, frames[i]!, view], { signal, priority: 'now' }),
    codes: (i, signal) => workshop.pool.run('frame', [spec, frames[i]!], { signal, priority: 'now' })
  }
})
const deliveredClip = computed<ViewerClip | null>(() => {
  const spec = opened?.spec
  if (!spec) return null
  return {
    key: `delivered ${spec.id}`,
    name: 'delivered',
    picture: (i, view, signal) => workshop.pool.run('view', [spec, i, view], { signal, priority: 'now' }),
    codes: (i, signal) => workshop.pool.run('frame', [spec, i], { signal, priority: 'now' })
  }
})
const comparable = computed(
  () => !!referenceClip.value && !!opened && report.value?.readings.find(r => r.id === 'size')?.state !== 'bad'
)
const heat = computed(() => {
  const now = exhibit
  const [spec, ref, form, frames] = [opened?.spec, now.reference, now.form, now.frames]
  if (!spec || !ref || !form || !frames || !comparable.value) return null
  return (i: number, signal: AbortSignal) =>
    workshop.pool.run(
      'difference',
      [{ reference: ref, referenceIndex: frames[i]!, delivered: spec, deliveredIndex: i, form }],
      { signal, priority: 'now' }
    )
})
const frameCount = computed(() =>
  Math.max(1, Math.min(opened?.facts.frames ?? 1, comparable.value ? exhibit.frames!.length : Infinity))
)

const findings = computed(() => report.value?.findings ?? alone.value?.findings ?? [])
</script>

<template>
  <div class="reading">
    <div class="pair">
      <FrameViewer
        v-if="opened"
        ref="viewer"
        v-model:index="index"
        class="wipe"
        :clip="comparable ? referenceClip : deliveredClip"
        :other="comparable ? deliveredClip : null"
        :heat="heat"
        :width="opened.facts.width"
        :height="opened.facts.height"
        :frames="frameCount"
        :rate="opened.facts.rate"
      >
        <template #tools>
          <span class="mono soft count">{{ index + 1 }}/{{ frameCount }}</span>
          <el-button
            v-if="frameCount > 1"
            size="small"
            :disabled="!opened.facts.rate"
            :title="opened.facts.rate ? 'Play or stop (space)' : 'No rate is known'"
            @click="viewer?.play()"
            >{{ viewer?.playing ? 'Stop' : 'Play' }}</el-button
          >
          <el-button
            v-if="frameCount > 2"
            size="small"
            :disabled="!opened.facts.rate"
            title="Play the end and the beginning over and over (S)"
            :aria-pressed="viewer?.seam"
            @click="viewer?.playSeam()"
            >Seam</el-button
          >
        </template>
      </FrameViewer>
      <ProofFigures
        v-if="report"
        class="framed"
        :report="report"
        :index="index"
        :seam="seam"
        :seamless="seamless"
        @go="index = $event"
      />
      <AloneFigures v-else-if="alone" :key="exhibit.id" class="framed" :report="alone" />
    </div>
    <FindingList
      v-if="findings.length"
      class="findings scroll"
      :findings="findings.map(f => ({ ...f, mend: undefined }))"
      frames
      @frame="index = $event"
    />
  </div>
</template>

<style scoped>
.reading {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
  gap: 10px;
}

.reading .el-button + .el-button {
  margin-left: 0;
}

.pair {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  grid-template-rows: minmax(0, 1fr);
  gap: 12px;
  flex: 1;
  min-height: 0;
}

.wipe,
.framed {
  border: 1px solid var(--line);
  border-radius: var(--radius);
  overflow: hidden;
}

.framed {
  overflow: auto;
  grid-column: 2;
}

.count {
  white-space: nowrap;
}

.findings {
  padding: 10px 14px;
  background: var(--raised);
  border: 1px solid var(--line);
  border-radius: var(--radius);
  max-height: 130px;
  flex: none;
}
</style>
