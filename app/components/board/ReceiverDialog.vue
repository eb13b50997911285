<script setup lang="ts">
/** What the receiver of this job demands: written down here, or from their file. */
import { fileOpen } from 'browser-fs-access'
import { computed, ref, watch } from 'vue'
import { download } from '~/composables/useDownload'
import { useJob } from '~/stores/job'
import { isAbort, sentenceOf } from '~~/core/errors'
import type { FormatId } from '~~/core/formats/format'
import { writtenFormats } from '~~/core/formats/registry'
import { safeName } from '~~/core/outlet/names'
import { emptyReceiver, readReceiver, writeReceiver, type Receiver } from '~~/core/outlet/receiver'
import { formatRate, parseRate } from '~~/core/rate'

const open = defineModel<boolean>({ required: true })
const jobs = useJob()
const draft = ref<Receiver>(emptyReceiver('Receiver'))
const rate = ref('')
const failure = ref<string | null>(null)
watch(open, shown => {
  if (shown) take(jobs.job.receiver ?? emptyReceiver('Receiver'))
})

function take(given: Receiver): void {
  draft.value = JSON.parse(JSON.stringify(given)) as Receiver
  rate.value = given.rate ? formatRate(given.rate) : ''
  failure.value = null
}

const whole = (text: string): number | null => {
  const value = Number(text)
  return text.trim() && Number.isFinite(value) && value > 0 ? value : null
}

function setSide(side: 'width' | 'height', text: string): void {
  const value = whole(text)
  const { size } = draft.value
  if (value === null) draft.value.size = null
  else draft.value.size = { width: size?.width ?? value, height: size?.height ?? value, [side]: Math.round(value) }
}

/** The demands as they would be kept; a sentence where they cannot be. */
const checked = computed<Receiver | string>(() => {
  const parsed = rate.value.trim() ? parseRate(rate.value) : null
  if (rate.value.trim() && !parsed) return 'Give the rate as 25, 23.976 or 24000/1001.'
  try {
    return readReceiver(JSON.stringify({ ...draft.value, rate: parsed }))
  } catch (error) {
    return sentenceOf(error)
  }
})

async function keep(): Promise<void> {
  const { value } = checked
  if (typeof value === 'string') {
    failure.value = value
    return
  }
  await jobs.edit('Set the receiver’s demands', job => {
    job.receiver = value
    job.waived = {}
  })
  open.value = false
}

async function remove(): Promise<void> {
  await jobs.edit('Remove the receiver’s demands', job => {
    job.receiver = null
    job.waived = {}
  })
  open.value = false
}

async function fromFile(): Promise<void> {
  try {
    const file = await fileOpen({ description: 'Demands of a receiver', extensions: ['.json'], id: 'receiver' })
    take(readReceiver(await file.text()))
  } catch (error) {
    if (!isAbort(error)) failure.value = sentenceOf(error)
  }
}

function save(): void {
  const { value } = checked
  if (typeof value === 'string') failure.value = value
  else download(`${safeName(value.name)}.json`, new Blob([writeReceiver(value)], { type: 'application/json' }))
}
</script>

<template>
  <el-dialog v-model="open" title="What the receiver demands" width="600px" top="6vh">
    <p class="soft">
      Every cell is checked against it before anything is poured, and the hand-over waits until all is met or waived.
      What is left empty is not asked for.
    </p>
    <div class="fields">
      <label><span>Receiver</span><el-input v-model="draft.name" maxlength="80" aria-label="Receiver" /></label>
      <label
        ><span>Size</span
        ><span class="pair"
          ><el-input
            :model-value="String(draft.size?.width ?? '')"
            aria-label="Width asked for"
            @update:model-value="(text: string) => setSide('width', text)" />
          ×
          <el-input
            :model-value="String(draft.size?.height ?? '')"
            aria-label="Height asked for"
            @update:model-value="(text: string) => setSide('height', text)" /></span
      ></label>
      <label><span>Rate, f/s</span><el-input v-model="rate" aria-label="Rate asked for" /></label>
      <label
        ><span>Formats</span
        ><el-select
          :model-value="draft.formats"
          multiple
          collapse-tags
          collapse-tags-tooltip
          placeholder="any"
          aria-label="Formats taken"
          @update:model-value="(formats: FormatId[]) => (draft.formats = formats)"
          ><el-option v-for="f in writtenFormats" :key="f.id" :value="f.id" :label="f.name" /></el-select
      ></label>
      <label
        ><span>Alpha</span
        ><el-select v-model="draft.alpha" clearable placeholder="any" aria-label="Alpha asked for"
          ><el-option value="straight" label="Straight" /><el-option
            value="premultiplied"
            label="Premultiplied" /><el-option value="none" label="No alpha" /></el-select
      ></label>
      <label
        ><span>Bits, at least</span
        ><el-select v-model="draft.depth" clearable placeholder="any" aria-label="Bits asked for"
          ><el-option v-for="bits in [8, 16, 32]" :key="bits" :value="bits" :label="String(bits)" /></el-select
      ></label>
      <label
        ><span>Seconds, at most</span
        ><el-input
          :model-value="String(draft.longestSeconds ?? '')"
          aria-label="Longest, seconds"
          @update:model-value="(text: string) => (draft.longestSeconds = whole(text))"
      /></label>
      <label
        ><span>Bytes, at most</span
        ><el-input
          :model-value="String(draft.largestBytes ?? '')"
          aria-label="Largest, bytes"
          @update:model-value="
            (text: string) => (draft.largestBytes = whole(text) === null ? null : Math.round(whole(text)!))
          "
      /></label>
      <label
        ><span>Names begin with</span
        ><el-input
          :model-value="draft.namesBegin ?? ''"
          aria-label="Names begin with"
          @update:model-value="(text: string) => (draft.namesBegin = text || null)"
      /></label>
      <label
        ><span>Sound</span
        ><el-select v-model="draft.sound" clearable placeholder="either" aria-label="Sound asked for"
          ><el-option value="none" label="None" /><el-option value="needed" label="Needed" /></el-select
      ></label>
    </div>
    <p v-if="failure" class="bad" role="alert">{{ failure }}</p>
    <template #footer>
      <div class="foot">
        <el-button @click="fromFile">Open a file…</el-button>
        <el-button @click="save">Save as a file</el-button>
        <span class="spring" />
        <el-button v-if="jobs.job.receiver" @click="remove">Demand nothing</el-button>
        <el-button type="primary" @click="keep">Keep</el-button>
      </div>
    </template>
  </el-dialog>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px 18px;
  margin-top: 12px;
}

.fields label > span:first-child {
  display: block;
  margin-bottom: 3px;
  color: var(--soft);
}

.pair {
  display: flex;
  align-items: center;
  gap: 6px;
}

.foot {
  display: flex;
  gap: 8px;
}

.foot .el-button {
  margin: 0;
}

.spring {
  flex: 1;
}

.bad {
  margin-top: 10px;
  color: var(--brick);
}
</style>
