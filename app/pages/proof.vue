<script setup lang="ts">
/** Proof: the verdict first, then figures, the wipe, and the stations. */
import { computed, ref, shallowRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { ViewerClip } from '~/components/viewer/FrameViewer.vue'
import { resultBlobs, type StoredResult } from '~/db/database'
import { useJob } from '~/stores/job'
import { usePours } from '~/stores/pours'
import { useSources } from '~/stores/sources'
import { useWorkshop } from '~/stores/workshop'
import { sentenceOf } from '~~/core/errors'
import { formatById } from '~~/core/formats/registry'
import { splitCell } from '~~/core/job/job'
import type { SourceFacts, SourceSpec } from '~~/core/source/source'
import { stations } from '~~/core/stations/stations'

const route = useRoute()
const router = useRouter()
const jobs = useJob()
const pours = usePours()
const sources = useSources()
const workshop = useWorkshop()
const delivery = useDelivery()

const proven = computed(() => pours.results.filter(r => r.report && jobs.job.sources[splitCell(r.cell).sourceId]))
const result = computed<StoredResult | null>(() => proven.value.find(r => r.id === route.query.result) ?? proven.value.at(-1) ?? null)
const source = computed(() => (result.value ? (jobs.job.sources[splitCell(result.value.cell).sourceId] ?? null) : null))
const report = computed(() => result.value?.report ?? null)
const stale = computed(() => result.value !== null && pours.outOfDate(result.value))
const index = ref(0)
const opened = shallowRef<{ id: string; spec: SourceSpec; file: Blob; facts: SourceFacts } | null>(null)
const failure = ref<string | null>(null)
const backdrop = ref('#4a7ba6')
const BACKDROP_CHOICES = ['#4a7ba6', '#000000', '#ffffff', '#7a9a4a', '#c8407f']

watch(
  () => result.value?.id,
  async () => {
    const now = result.value
    opened.value = null
    failure.value = null
    index.value = Math.max(0, (now?.report?.worstFrame ?? 1) - 1)
    if (!now) return
    try {
      const spec = await pours.deliveredSpec(now)
      const stored = await formatById(spec.format).open(spec.name, spec.files, await workshop.host())
      const { facts } = stored
      await stored.close()
      if (result.value?.id === now.id) opened.value = { id: now.id, spec, file: (await resultBlobs(now))[0]!.blob, facts }
    } catch (error) {
      failure.value = sentenceOf(error)
    }
  },
  { immediate: true }
)

const reference = computed(() => source.value && sources.specOf(source.value))
const form = computed(() => (result.value ? result.value.plan.deliverable : null))

const referenceClip = computed<ViewerClip | null>(() => {
  const spec = reference.value
  const frames = result.value?.plan.frames
  if (!spec || !frames) return null
  return {
    key: `reference ${spec.id} ${JSON.stringify(spec.interpretation)} ${result.value!.id}`,
    name: 'reference',
    picture: (i, view, signal) => workshop.pool.run('view', [spec, frames[i]!, view], { signal, priority: 'now' }),
    codes: (i, signal) => workshop.pool.run('frame', [spec, frames[i]!], { signal, priority: 'now' })
  }
})
const deliveredClip = computed<ViewerClip | null>(() => {
  const spec = opened.value?.spec
  if (!spec) return null
  return {
    key: `delivered ${spec.id}`,
    name: 'delivered',
    picture: (i, view, signal) => workshop.pool.run('view', [spec, i, view], { signal, priority: 'now' }),
    codes: (i, signal) => workshop.pool.run('frame', [spec, i], { signal, priority: 'now' })
  }
})
const heat = computed(() => {
  const [spec, ref, shape, frames] = [opened.value?.spec, reference.value, form.value, result.value?.plan.frames]
  if (!spec || !ref || !shape || !frames) return null
  return (i: number, signal: AbortSignal) => workshop.pool.run('difference', [{ reference: ref, referenceIndex: frames[i]!, delivered: spec, deliveredIndex: i, form: shape }], { signal, priority: 'now' })
})

const TITLES = { identical: 'Transparency survives: identical', faithful: 'Transparency survives: faithful', 'visible-loss': 'Transparency survives with visible loss', broken: 'Transparency is broken' } as const
const SIGNS = { identical: 'proven', faithful: 'proven', 'visible-loss': 'lossy', broken: 'broken' } as const
const shownReadings = computed(() => report.value?.readings.filter(r => r.id !== 'digest') ?? [])

function nameOf(r: StoredResult): string {
  const { sourceId, outletId } = splitCell(r.cell)
  return `${jobs.job.sources[sourceId]?.name ?? 'removed'} → ${jobs.job.outlets[outletId]?.name ?? r.plan.outlet.name}`
}

function saveReport(): void {
  if (!report.value || !result.value) return
  download(`${result.value.fileName.replace(/\.[^.]*$/, '')}_proof.json`, new Blob([JSON.stringify(report.value, null, 2)], { type: 'application/json' }))
}
</script>

<template>
  <main class="proof">
    <header class="place-head">
      <el-select v-if="result" :model-value="result.id" class="chooser" aria-label="Pour" @update:model-value="(id: string) => router.replace(`/proof?result=${id}`)">
        <el-option v-for="r in proven" :key="r.id" :value="r.id" :label="nameOf(r)" />
      </el-select>
      <h1 v-else>Proof</h1>
      <span v-if="result" class="mono soft file">{{ result.fileName }} · {{ sayBytes(result.bytes) }} · {{ formatById(result.plan.outlet.format).tag }}</span>
      <span class="spring" />
      <template v-if="result">
        <el-button @click="saveReport">Save report</el-button>
        <el-button type="primary" @click="delivery.download(result)">Download file</el-button>
      </template>
    </header>
    <div v-if="result && report && source" class="body scroll">
      <section class="verdict" :class="report.verdict" data-verdict :data-kind="report.verdict">
        <DropSign :state="SIGNS[report.verdict]" :size="40" />
        <div>
          <h2>{{ TITLES[report.verdict] }}</h2>
          <p>{{ report.sentence }}<template v-if="!report.reader.independent"> Read back by {{ report.reader.name }}.</template></p>
          <p v-if="stale" class="ochre">The source or the outlet has changed since; this is the proof of the file as it was poured.</p>
        </div>
      </section>
      <div class="pair">
        <FrameViewer v-model:index="index" class="wipe" :clip="referenceClip" :other="deliveredClip" :heat="heat" :width="result.plan.deliverable.width" :height="result.plan.deliverable.height" :frames="result.plan.frames.length" :rate="result.plan.deliverable.rate" />
        <section class="figures scroll">
          <table>
            <thead>
              <tr>
                <th><span class="visually-hidden">Reading</span></th>
                <th>asked</th>
                <th>found</th>
                <th class="error">error</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="r in shownReadings" :key="r.id" :class="r.state">
                <th scope="row">{{ r.name }}</th>
                <td class="mono">{{ r.asked }}</td>
                <td class="mono">{{ r.found }}</td>
                <td class="mono error">{{ r.error }}</td>
              </tr>
            </tbody>
          </table>
          <ErrorChart v-if="report.frames.length" :frames="report.frames" :index="index" @go="index = $event" />
          <p class="soft small">
            Faithful means: alpha within {{ report.thresholds.alphaCodes }} code at {{ report.depth }} bits, mean colour difference under {{ report.thresholds.colourMean }}, and 99.9 % of pixels under {{ report.thresholds.colourHigh }}. Colour is compared over black, white, grey, the opposite hue and a picture.
            <button v-if="report.worstFrame" class="link" @click="index = report.worstFrame - 1">Go to the worst frame, {{ report.worstFrame }}</button>
          </p>
          <p v-if="report.sha256" class="mono soft digest">SHA-256 {{ report.sha256 }}</p>
        </section>
      </div>
      <FindingList v-if="report.findings.length" class="findings" :findings="report.findings" />
      <section class="stations">
        <div class="line">
          <h2>Stations</h2>
          <span class="soft">how others will take this file, frame {{ index + 1 }}, over</span>
          <button v-for="c in BACKDROP_CHOICES" :key="c" class="plain swatch" :class="{ on: backdrop === c }" :style="{ background: c }" :aria-label="`Backdrop ${c}`" :aria-pressed="backdrop === c" @click="backdrop = c" />
          <input v-model.lazy="backdrop" type="color" aria-label="Any backdrop colour" />
          <span class="mono soft">{{ backdrop }}</span>
        </div>
        <p v-if="failure" class="bad" role="alert">{{ failure }}</p>
        <div v-else-if="opened" class="gallery">
          <StationCard v-for="station in stations" :key="station.id" :station="station" :delivered="opened.spec" :facts="opened.facts" :plan="result.plan" :file="opened.file" :index="index" :backdrop="backdrop" />
        </div>
      </section>
    </div>
    <div v-else class="empty">
      <DropSign state="empty" :size="64" />
      <h2>Nothing proven yet</h2>
      <p class="soft">Every pour is read back and proven. Pour a cell of the board first.</p>
      <el-button type="primary" @click="router.push('/')">Go to the board</el-button>
    </div>
  </main>
</template>

<style scoped>
.proof {
  display: flex;
  flex-direction: column;
  min-height: 0;
}

.proof .el-button + .el-button {
  margin-left: 0;
}

.chooser {
  width: 300px;
}

.file {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.body {
  flex: 1;
  min-height: 0;
  padding: 12px 14px 16px;
  display: flex;
  flex-direction: column;
  gap: 12px;
}

.verdict {
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 10px 16px;
  background: var(--raised);
  border: 1px solid var(--line);
  border-left: 4px solid var(--verdigris);
  border-radius: var(--radius);
}

.verdict.visible-loss {
  border-left-color: var(--ochre);
}

.verdict.broken {
  border-left-color: var(--brick);
}

.verdict h2 {
  font-size: 16px;
}

.pair {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 12px;
  height: 362px;
  flex: none;
}

.wipe,
.figures {
  border: 1px solid var(--line);
  border-radius: var(--radius);
  overflow: hidden;
}

.figures {
  background: var(--raised);
  padding: 10px 14px;
  overflow: auto;
  display: flex;
  flex-direction: column;
  gap: 8px;
}

table {
  border-collapse: collapse;
  width: 100%;
}

th,
td {
  text-align: left;
  padding: 2px 10px 2px 0;
  vertical-align: top;
  font-weight: 400;
}

thead th {
  color: var(--soft);
}

th.error,
td.error {
  text-align: right;
  padding-right: 0;
}

tr.good .error {
  color: var(--verdigris);
}

tr.warning .error {
  color: var(--ochre);
}

table tr.bad {
  color: inherit;
}

tr.bad .error {
  color: var(--brick);
  font-weight: 500;
}

.small {
  font-size: 12px;
}

.digest {
  overflow-wrap: anywhere;
}

.findings {
  padding: 10px 14px;
  background: var(--raised);
  border: 1px solid var(--line);
  border-radius: var(--radius);
}

.line {
  display: flex;
  align-items: center;
  gap: 7px;
  margin-bottom: 8px;
}

.swatch {
  width: 20px;
  height: 20px;
  border: 1px solid var(--line-strong);
  border-radius: 3px;
}

.swatch.on {
  box-shadow:
    0 0 0 2px var(--ground),
    0 0 0 4px var(--copper);
}

input[type='color'] {
  width: 28px;
  height: 22px;
  padding: 0;
  border: 1px solid var(--line-strong);
  background: none;
}

.gallery {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(228px, 1fr));
  gap: 12px;
}

.ochre {
  color: var(--ochre);
}

.bad {
  color: var(--brick);
}

.empty {
  flex: 1;
  display: flex;
  flex-direction: column;
  align-items: center;
  justify-content: center;
  gap: 10px;
}
</style>
