<script setup lang="ts">
/** Spans of a source from a list: typed, pasted or read from a file, and seen before they are kept. */
import { chooseFiles } from '~/composables/useIntake'
import { computed, ref, watch } from 'vue'
import { useDesk } from '~/stores/desk'
import { useSources } from '~/stores/sources'
import { sentenceOf } from '~~/core/base/errors'
import type { JobSource } from '~~/core/job/job'
import { readSpanList } from '~~/core/job/span-list'
import { secondsOf } from '~~/core/base/rate'
import type { SourceFacts } from '~~/core/source/source'

const open = defineModel<boolean>({ required: true })
const { source, facts } = defineProps<{ source: JobSource; facts: SourceFacts }>()
const sources = useSources()
const desk = useDesk()
/** What the file names itself is there to begin with. */
const named = (): string =>
  (facts.marked ?? []).map(({ name, from, to }) => `${name.replaceAll(',', ' ')}, ${from}, ${to}`).join('\n')
const text = ref(named())
watch(open, shown => void (shown && !text.value.trim() && (text.value = named())))
const failure = ref<string | null>(null)

const list = computed(() =>
  text.value.trim()
    ? readSpanList(text.value, { frames: facts.frames, rate: facts.rate, start: facts.timecode ?? null })
    : null
)
const example = computed(
  () =>
    `open, 1, ${Math.max(1, Math.floor(facts.frames / 3))}\nhover, ${Math.floor(facts.frames / 3) + 1}\nleave, ${Math.floor((2 * facts.frames) / 3) + 1}`
)

async function fromFile(): Promise<void> {
  failure.value = null
  try {
    const [given] = await chooseFiles()
    if (!given) return
    if (given.file.size > 1 << 20) failure.value = `${given.path} is too large for a list of spans.`
    else text.value = await given.file.text()
  } catch (error) {
    failure.value = sentenceOf(error)
  }
}

async function keep(): Promise<void> {
  const spans = list.value?.spans ?? []
  if (!spans.length) return
  try {
    await sources.keepSpans(source, spans)
    desk.message = `${spans.length === 1 ? 'A span' : `${spans.length} spans`} of ${source.name} kept, each a row on the board.`
    text.value = ''
    open.value = false
  } catch (error) {
    failure.value = sentenceOf(error)
  }
}
</script>

<template>
  <el-dialog v-model="open" title="Spans from a list" width="640px" align-center>
    <div class="stack">
      <p class="soft">
        A line for each span: its name, then its first and last frame, as numbers from 1 or as time code. A line with
        one frame only is a marker: its span runs on to the next marker. Cues of WebVTT are read as well.
      </p>
      <el-input
        v-model="text"
        type="textarea"
        :rows="7"
        class="mono"
        aria-label="List of spans"
        :placeholder="example"
        spellcheck="false"
      />
      <p class="line">
        <el-button size="small" @click="fromFile">Read a file…</el-button>
        <span class="soft"
          >{{ source.name }}: frames 1 to {{ facts.frames }}{{ facts.timecode ? `, from ${facts.timecode}` : '' }}</span
        >
      </p>
      <div v-if="list" class="found scroll" role="status">
        <table v-if="list.spans.length">
          <thead>
            <tr>
              <th>Span</th>
              <th class="number">First</th>
              <th class="number">Last</th>
              <th class="number">Frames</th>
              <th v-if="facts.rate" class="number">Seconds</th>
            </tr>
          </thead>
          <tbody class="mono">
            <tr v-for="span in list.spans" :key="span.name">
              <td>{{ span.name }}</td>
              <td class="number">{{ span.from }}</td>
              <td class="number">{{ span.to }}</td>
              <td class="number">{{ span.to - span.from + 1 }}</td>
              <td v-if="facts.rate" class="number">{{ secondsOf(span.to - span.from + 1, facts.rate).toFixed(2) }}</td>
            </tr>
          </tbody>
        </table>
        <p v-for="problem in list.problems" :key="problem" class="bad">{{ problem }}</p>
      </div>
      <p v-if="failure" class="bad" role="alert">{{ failure }}</p>
    </div>
    <template #footer>
      <el-button type="primary" :disabled="!list?.spans.length" @click="keep">{{
        list?.spans.length ? (list.spans.length === 1 ? 'Keep 1 span' : `Keep ${list.spans.length} spans`) : 'Keep'
      }}</el-button>
    </template>
  </el-dialog>
</template>

<style scoped>
.line {
  display: flex;
  align-items: center;
  gap: 10px;
}

.found {
  max-height: 240px;
}

table {
  width: 100%;
  border-collapse: collapse;
}

th {
  text-align: left;
  font-weight: 500;
  color: var(--soft);
}

th,
td {
  padding: 2px 8px 2px 0;
  border-bottom: 1px solid var(--line);
}

.number {
  text-align: right;
}

.bad {
  color: var(--brick);
}
</style>
