<script setup lang="ts">
/** The inspector for one cell: what will be poured, what was, what to do next. */
import BudgetDialog from '~/components/board/BudgetDialog.vue'
import CellDemands from '~/components/board/CellDemands.vue'
import FilmStrip from '~/components/board/FilmStrip.vue'
import { sayBytes, sayEstimate, sayFrames, sayQuality } from '~/composables/say'
import { useCell } from '~/composables/useCell'
import { canChooseFolder, useDelivery } from '~/composables/useDelivery'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useJob } from '~/stores/job'
import { usePours } from '~/stores/pours'
import { useSources } from '~/stores/sources'
import { formatById } from '~~/core/open/registry'
import { alphaBitsOf, colourBitsOf, sayCarries, sayParts, storedMode } from '~~/core/job/outlet/outlet'
import { rateFraction } from '~~/core/base/rate'
import { carriageById } from '~~/core/media/carriage/carriages'

const { sourceId, outletId } = defineProps<{ sourceId: string; outletId: string }>()
const jobs = useJob()
const pours = usePours()
const sources = useSources()
const router = useRouter()
const delivery = useDelivery()
const budgeting = ref(false)
const face = useCell(
  () => sourceId,
  () => outletId
)
const source = computed(() => jobs.job.sources[sourceId])
const outlet = computed(() => jobs.job.outlets[outletId])
const format = computed(() => outlet.value && formatById(outlet.value.format))
const failed = computed(() => {
  const { work, result } = face.value
  if (work?.state === 'failed') return work.sentence
  if (work?.state === 'unproven') return `Not proven: ${work.sentence}`
  return (result && pours.gone.get(result.id)) ?? null
})
/** Being poured, proven, or in line for it. */
const busy = computed(() => !!face.value.work && !['failed', 'unproven'].includes(face.value.work.state))
const whole = computed(() => !!face.value.result && !pours.gone.has(face.value.result.id))
const plan = computed(() => pours.planOf(face.value.cell).plan)
const estimate = computed(() => pours.estimateOf(face.value.cell))
const triedWords = (frames: number): string => `tried on ${sayFrames(frames)}`
/** How far the size that was told before lay from what came, once it has come. */
const missed = computed(() => {
  const { result } = face.value
  if (!result || result.bytes === 0 || estimate.value === undefined) return ''
  const off = Math.round((100 * (estimate.value.bytes - result.bytes)) / result.bytes)
  return `${off === 0 ? 'as' : `${Math.abs(off)} % ${off > 0 ? 'less' : 'more'} than`} estimated`
})
const range = computed(() => {
  const frames = plan.value?.frames
  if (!frames || !source.value) return ''
  if (plan.value?.steps?.length) return `${frames.length} frames, once the outlet’s steps are done`
  const all = sources.factsOf(source.value).frames
  return frames.length === all ? `all ${all} frames` : `${frames[0]! + 1} to ${frames.at(-1)! + 1} of ${all}`
})
const declares = computed(() => {
  if (!format.value || !outlet.value) return ''
  const { apart, half } = carriageById(outlet.value.parts)
  if (apart) return half ? 'the hand-over note, and in WebM and Matroska the name of the track' : 'file names and the hand-over note'
  const capability = format.value.alpha[storedMode(outlet.value)]
  return capability.can ? capability.declares : ''
})
const matteNote = computed(() => {
  const alpha = outlet.value?.alpha
  if (!format.value || alpha?.mode !== 'premultiplied' || format.value.declaredMattes.includes(alpha.matte)) return null
  return `No file of this format can say that its matte colour is ${alpha.matte}. The receiver must be told.`
})
const policy = computed(() => {
  const former = face.value.result
  if (!former || !outlet.value) return null
  return {
    replace: `${former.fileName} is there already and will be replaced.`,
    'keep-both': `${former.fileName} is there already; both are kept.`,
    stop: `${former.fileName} is there already, and this outlet stops rather than replace it.`
  }[outlet.value.existing]
})
</script>

<template>
  <div v-if="source && outlet && format" class="stack">
    <h2>{{ source.name }} → {{ outlet.name }}</h2>
    <p class="soft">Carries {{ sayCarries(outlet) }}.</p>
    <div class="picture checker">
      <FilmStrip
        :spec="sources.specOf(source)"
        :frames="sources.factsOf(source).frames"
        :width="236"
        :height="133"
        :count="1"
      />
    </div>

    <p v-if="failed" class="note brick" role="alert">{{ failed }}</p>
    <p v-else-if="face.result?.report && !face.stale" class="note" :class="face.tone">
      {{ face.result.report.sentence }}
    </p>
    <p v-else-if="face.stale" class="note ochre">
      The source or the outlet has changed since this was poured. Pour it again to bring the file up to date.
    </p>
    <ul v-if="face.problems.length" class="note problems">
      <li v-for="problem in face.problems" :key="problem">{{ problem }}</li>
    </ul>

    <CellDemands :cell="face.cell" />

    <dl v-if="plan" class="fact-list">
      <dt>File</dt>
      <dd class="mono">{{ face.result && !face.stale ? face.result.fileName : plan.fileName }}</dd>
      <dt>Format</dt>
      <dd>{{ format.name }}</dd>
      <dt>Depth</dt>
      <dd v-if="outlet">{{ colourBitsOf(format, outlet) }} bit colour, {{ alphaBitsOf(format, outlet) }} bit alpha</dd>
      <dt>Alpha mode</dt>
      <dd>{{ sayParts(outlet) }}</dd>
      <dt>In the file</dt>
      <dd>{{ declares }}</dd>
      <template v-if="format.layout">
        <dt>Layout</dt>
        <dd>{{ format.layout(plan.deliverable) }}</dd>
      </template>
      <dt>Rate</dt>
      <dd>
        {{ plan.deliverable.rate ? `${rateFraction(plan.deliverable.rate)} f/s` : 'not known'
        }}<template v-if="format.delivers === 'pictures'">, in the note only</template>
      </dd>
      <dt>Range</dt>
      <dd>{{ range }}</dd>
      <dt>Size</dt>
      <dd class="mono">
        {{
          face.result && !face.stale
            ? sayBytes(face.result.bytes)
            : estimate === undefined
              ? 'not known yet'
              : sayEstimate(estimate)
        }}<small v-if="missed && !face.stale" class="soft missed">{{ missed }}</small>
      </dd>
      <template v-if="(!face.result || face.stale) && estimate?.quality">
        <dt>Quality</dt>
        <dd>
          {{ sayQuality(estimate.quality) }}<small class="soft missed">{{ triedWords(estimate.quality.frames) }}</small>
        </dd>
      </template>
      <template v-if="face.result?.folder">
        <dt>Saved in</dt>
        <dd class="mono">{{ face.result.folder }}</dd>
      </template>
    </dl>
    <p v-if="matteNote" class="note ochre">{{ matteNote }}</p>
    <p v-if="policy && face.stale" class="soft small">{{ policy }}</p>

    <div class="acts">
      <el-button v-if="face.asksRate" size="small" type="primary" @click="sources.asking = [sourceId]"
        >Give its rate…</el-button
      >
      <el-button
        size="small"
        v-if="failed && face.work?.state !== 'unproven'"
        type="primary"
        @click="pours.start([face.cell])"
        >Try again</el-button
      >
      <el-button
        size="small"
        v-else-if="plan && (!face.result || face.stale) && !face.work"
        type="primary"
        @click="pours.start([face.cell])"
        >Pour this cell</el-button
      >
      <el-button size="small" v-if="busy" @click="pours.cancel(face.cell)">Cancel</el-button>
      <template v-if="face.result && !busy && whole">
        <el-button size="small" @click="delivery.download(face.result)">Download</el-button>
        <el-button size="small" v-if="canChooseFolder()" @click="delivery.save([face.result])"
          >Save to folder…</el-button
        >
        <el-button size="small" v-if="face.result.report" @click="router.push(`/proof?result=${face.result.id}`)"
          >See proof</el-button
        >
        <el-button size="small" v-else @click="pours.proveAgain(face.result)">Prove it</el-button>
      </template>
      <el-button size="small" v-if="plan && face.result && !face.stale && !busy" @click="pours.start([face.cell])"
        >Pour again</el-button
      >
      <el-button size="small" @click="router.push(`/outlets?id=${outlet.id}`)">Open outlet</el-button>
      <el-button v-if="plan && !busy" size="small" @click="budgeting = true">Within a size…</el-button>
      <el-button size="small" v-if="face.result && !busy" text @click="pours.forget(face.result.id)"
        >Remove result</el-button
      >
    </div>
    <BudgetDialog v-model="budgeting" :source-id="sourceId" :outlet-id="outletId" />
  </div>
</template>

<style scoped>
.missed {
  display: block;
}

.picture {
  display: grid;
  place-items: center;
  border: 1px solid var(--line);
}

dt {
  color: var(--soft);
}

dd {
  overflow-wrap: anywhere;
}

.note {
  padding: 8px 10px;
  border-radius: 3px;
  background: var(--verdigris-wash);
  color: var(--verdigris);
}

.note.ochre {
  background: var(--ochre-wash);
  color: var(--ochre);
}

.note.brick,
.problems {
  background: var(--brick-wash);
  color: var(--brick);
}

.note.soft,
.note.copper {
  background: var(--ground);
  color: var(--ink);
}

.small {
  font-size: 12px;
}

.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}

.acts .el-button {
  margin: 0;
}
</style>
