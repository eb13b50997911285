<script setup lang="ts">
/** What the receiver of this job demands: written down here, or from their file. */
import { fileOpen } from 'browser-fs-access'
import { computed, reactive, ref, watch } from 'vue'
import { download } from '~/composables/useDownload'
import { useJob } from '~/stores/job'
import { isAbort, sentenceOf } from '~~/core/base/errors'
import type { FormatId } from '~~/core/open/rows'
import { writtenFormats } from '~~/core/open/registry'
import { safeName } from '~~/core/job/outlet/names'
import { emptyReceiver, readReceiver, writeReceiver, type Receiver } from '~~/core/job/outlet/receiver'
import { readTyped, typedBytes, type TypedDemands } from '~~/core/job/outlet/typed-demands'
import { formatRate } from '~~/core/base/rate'

const open = defineModel<boolean>({ required: true })
const jobs = useJob()
const draft = ref<Receiver>(emptyReceiver('Receiver'))
/** Numbers as they are typed: what is half typed is not yet a number, and no other field follows it. */
const typed = reactive<TypedDemands>({ width: '', height: '', rate: '', seconds: '', bytes: '' })
const failure = ref<string | null>(null)
watch(open, shown => {
  if (shown) take(jobs.job.receiver ?? emptyReceiver('Receiver'))
})

function take(given: Receiver): void {
  draft.value = JSON.parse(JSON.stringify(given)) as Receiver
  Object.assign(typed, {
    width: String(given.size?.width ?? ''),
    height: String(given.size?.height ?? ''),
    rate: given.rate ? formatRate(given.rate) : '',
    seconds: String(given.longestSeconds ?? ''),
    bytes: typedBytes(given.largestBytes)
  } satisfies TypedDemands)
  failure.value = null
}

/** The demands as they would be kept; a sentence where they cannot be. */
const checked = computed<Receiver | string>(() => {
  const read = readTyped(typed)
  if (typeof read === 'string') return read
  try {
    return readReceiver(JSON.stringify({ ...draft.value, ...read }))
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
          ><el-input v-model="typed.width" inputmode="numeric" aria-label="Width asked for" />
          ×
          <el-input v-model="typed.height" inputmode="numeric" aria-label="Height asked for" /></span
      ></label>
      <label><span>Rate, f/s</span><el-input v-model="typed.rate" aria-label="Rate asked for" /></label>
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
        ><el-input v-model="typed.seconds" placeholder="2.5 or 1:30" aria-label="Longest, seconds"
      /></label>
      <label
        ><span>Size of the file, at most</span
        ><el-input v-model="typed.bytes" placeholder="5 MB" aria-label="Largest, bytes"
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

.bad {
  margin-top: 10px;
  color: var(--brick);
}
</style>
