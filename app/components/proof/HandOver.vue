<script setup lang="ts">
/** Hand-over: which pours go, what lies beside them, and the check of a folder that arrived. */
import CellDemands from '~/components/board/CellDemands.vue'
import DropSign from '~/components/shell/DropSign.vue'
import { sayBytes } from '~/composables/say'
import { download } from '~/composables/useDownload'
import { chooseFiles, chooseFolder } from '~/composables/useIntake'
import { useReceiver } from '~/composables/useReceiver'
import { fileOpen } from 'browser-fs-access'
import { ElMessageBox } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { chooseTargetFolder, canChooseFolder } from '~/composables/useDelivery'
import { useDesk } from '~/stores/desk'
import { useHandOver } from '~/stores/handover'
import { useJob } from '~/stores/job'
import { usePours } from '~/stores/pours'
import { isAbort, sentenceOf } from '~~/core/base/errors'
import { formatById } from '~~/core/open/registry'
import { fallbackOrder, markupAdvice, pageMarkup } from '~~/core/run/handover/markup'
import { printOf, publicHalf } from '~~/core/run/handover/seal'
import { splitCell } from '~~/core/job/job'
import { safeName } from '~~/core/job/outlet/names'

const { first } = defineProps<{ first: string | null }>()
const jobs = useJob()
const pours = usePours()
const desk = useDesk()
const handOver = useHandOver()
const failure = ref<string | null>(null)

const all = computed(() =>
  [...pours.latest.values()].filter(r => r.report && jobs.job.sources[splitCell(r.cell).sourceId])
)
const wanted = ref<Set<string>>(new Set())
watch(
  () => first,
  id => {
    if (id && wanted.value.size === 0) wanted.value = new Set([id])
  },
  { immediate: true }
)
const chosen = computed(() => all.value.filter(r => wanted.value.has(r.id)))
const broken = computed(() => chosen.value.filter(r => r.report!.verdict === 'broken'))
const stale = computed(() => chosen.value.filter(r => pours.outOfDate(r)))
const receiver = useReceiver()
/** Chosen pours that do not meet what the receiver demands, and for which it was not waived. */
const unfit = computed(() => chosen.value.filter(r => receiver.demands(r.cell).open.length > 0))
const ready = computed(() => chosen.value.length > 0 && unfit.value.length === 0 && !handOver.running)
const WORDS = {
  identical: 'Identical',
  faithful: 'Faithful',
  'visible-loss': 'Visible loss',
  broken: 'Broken'
} as const

function toggle(id: string): void {
  const next = new Set(wanted.value)
  if (!next.delete(id)) next.add(id)
  wanted.value = next
}

async function attempt(work: () => Promise<void>): Promise<void> {
  failure.value = null
  try {
    await work()
  } catch (error) {
    if (!isAbort(error)) failure.value = sentenceOf(error)
  }
}

const zip = (): Promise<void> =>
  attempt(async () => {
    const blob = await handOver.zipped(chosen.value)
    if (blob) download(`${jobs.job.name} hand-over.zip`, blob)
  })

const folder = (): Promise<void> =>
  attempt(async () => {
    const into = await chooseTargetFolder()
    const name = into && (await handOver.saved(into, chosen.value))
    if (name) desk.message = `Saved in ${into.name}/${name}.`
  })

const checkFolder = (): Promise<void> => attempt(async () => handOver.check(await chooseFolder()))
const checkFiles = (): Promise<void> => attempt(async () => handOver.check(await chooseFiles()))

/** The house's key: made here, or opened from its file. */
const makeKey = (): Promise<void> =>
  attempt(async () => {
    const asked = await ElMessageBox.prompt('Whose signature it is, as receivers read it.', 'Make a key', {
      confirmButtonText: 'Make it',
      cancelButtonText: 'Cancel',
      inputPattern: /\S/,
      inputErrorMessage: 'A key has a name.'
    }).catch(() => null)
    if (!asked) return
    await handOver.newKey(asked.value.trim())
    desk.message = 'The key is kept in this browser. Save it as a file too: a browser can be cleared.'
  })
const openKey = (): Promise<void> =>
  attempt(async () => {
    await handOver.openKey(await fileOpen({ description: 'A key', extensions: ['.key', '.json'], id: 'key' }))
  })
const forgetKey = (): Promise<void> =>
  attempt(async () => {
    const sure = await ElMessageBox.confirm(
      'Without its file nobody can sign with this key again. Save the key first.',
      `Forget the key of “${handOver.key?.name ?? ''}”?`,
      { confirmButtonText: 'Forget it', cancelButtonText: 'Keep it', confirmButtonClass: 'el-button--danger' }
    ).then(
      () => true,
      () => false
    )
    if (sure) await handOver.keepKey(null)
  })
function saveKey(whole: boolean): void {
  const { key } = handOver
  if (!key) return
  const text = `${JSON.stringify(whole ? key : publicHalf(key), null, 1)}\n`
  download(`${safeName(key.name)}${whole ? '.key' : '.public.json'}`, new Blob([text]))
}

const CONDITIONS = {
  untouched: 'proven',
  'same-pictures': 'full',
  surplus: 'broken',
  changed: 'broken',
  missing: 'broken'
} as const
/** Web files of the chosen pours, of the source that has most of them. */
const web = computed(() => {
  const sources = Map.groupBy(
    fallbackOrder(
      chosen.value
        .filter(r => !r.plan.deliverable.joined)
        .map(r => ({
          format: r.plan.outlet.format,
          path: r.fileName,
          width: r.plan.deliverable.width,
          height: r.plan.deliverable.height,
          name: jobs.job.sources[splitCell(r.cell).sourceId]?.name ?? ''
        }))
    ),
    f => f.name
  )
  return [...sources.values()].sort((a, b) => b.length - a.length)[0] ?? []
})
const markup = computed(() => pageMarkup(web.value))

async function copyMarkup(): Promise<void> {
  await attempt(async () => {
    await navigator.clipboard.writeText(markup.value ?? '')
    desk.message = 'The markup is copied.'
  })
}
</script>

<template>
  <div class="over scroll">
    <section class="give">
      <h2>What goes</h2>
      <p v-if="!all.length" class="soft">Nothing is poured and proven yet.</p>
      <ul class="list scroll">
        <li v-for="r in all" :key="r.id">
          <label
            ><input type="checkbox" :checked="wanted.has(r.id)" @change="toggle(r.id)" />
            <span class="name">{{ r.fileName }}</span>
            <span class="mono soft">{{ formatById(r.plan.outlet.format).tag }} · {{ sayBytes(r.bytes) }}</span>
            <span :class="r.report!.verdict">{{ WORDS[r.report!.verdict] }}</span></label
          >
        </li>
      </ul>
      <p class="line">
        <button class="link" :disabled="!all.length" @click="wanted = new Set(all.map(r => r.id))">All</button>
        <button class="link" :disabled="!wanted.size" @click="wanted = new Set()">None</button>
        <span class="soft">{{ chosen.length }} of {{ all.length }} chosen</span>
        <span class="spring" />
        <el-button type="primary" :disabled="!ready" @click="zip">Save as ZIP</el-button>
        <el-button v-if="canChooseFolder()" :disabled="!ready" @click="folder">Save in a folder…</el-button>
      </p>
      <div v-if="unfit.length" class="visible-loss" role="status">
        <p>Held back: {{ receiver.name.value }} asks for something else. Meet it, or waive it by name.</p>
        <CellDemands v-for="r in unfit" :key="r.id" :cell="r.cell" />
      </div>
      <p v-if="broken.length" class="broken">
        {{ broken.length === 1 ? `${broken[0]!.fileName} is broken` : `${broken.length} of them are broken` }}. The
        papers will say so.
      </p>
      <p v-if="stale.length" class="visible-loss">
        {{ stale.length === 1 ? `${stale[0]!.fileName} is` : `${stale.length} of them are` }} out of date: source or
        outlet have changed since.
      </p>
      <p v-if="handOver.running" class="line" role="status">
        <el-progress
          class="bar"
          :percentage="handOver.running.total ? Math.round((100 * handOver.running.done) / handOver.running.total) : 0"
          :show-text="false"
        />
        <span class="soft">{{ handOver.running.what }}</span>
        <el-button size="small" @click="handOver.cancel">Stop</el-button>
      </p>
      <p v-if="failure" class="broken" role="alert">{{ failure }}</p>
      <h2>Signature</h2>
      <p v-if="!handOver.key" class="line">
        <span class="soft">Unsigned. A receiver who knows your key can tell that nothing has changed.</span>
        <span class="spring" />
        <el-button size="small" @click="makeKey">Make a key…</el-button>
        <el-button size="small" @click="openKey">Open a key…</el-button>
      </p>
      <p v-else class="line">
        <label><input v-model="handOver.signs" type="checkbox" /> Sign as “{{ handOver.key.name }}”</label>
        <span class="mono soft">{{ printOf(handOver.key.public) }}</span>
        <span class="spring" />
        <el-button size="small" @click="saveKey(false)">Save the public half</el-button>
        <el-button size="small" @click="saveKey(true)">Save the key</el-button>
        <el-button size="small" @click="forgetKey">Forget it</el-button>
      </p>
      <h2>What lies beside the files</h2>
      <dl>
        <dt class="mono">note.txt, note.html</dt>
        <dd>For the receiver: what each file is, how to bring it in, what wrong looks like, with pictures.</dd>
        <dt class="mono">proof.html, proof.pdf</dt>
        <dd>For the client: verdict, readings and stations of each delivery, every word explained, ready to print.</dd>
        <dt class="mono">checksums.sha256</dt>
        <dd>A checksum for every file, papers and manifest included.</dd>
        <dt class="mono">hand-over.json</dt>
        <dd>The manifest: facts, checksums and a fingerprint of every frame, by which a folder is checked.</dd>
        <template v-if="handOver.key && handOver.signs">
          <dt class="mono">signature.json</dt>
          <dd>The signature of “{{ handOver.key.name }}” on the checksums.</dd>
        </template>
      </dl>
    </section>
    <section class="side">
      <h2>Has anything changed?</h2>
      <p class="soft">
        Give the folder or ZIP that arrived. The checksum of every file is computed and every frame is read; checksums,
        manifest, papers and signature must agree.
      </p>
      <p class="line">
        <el-button :disabled="!!handOver.running" @click="checkFolder">Check a folder…</el-button>
        <el-button :disabled="!!handOver.running" @click="checkFiles">Check a ZIP…</el-button>
      </p>
      <div
        v-if="handOver.checked"
        class="checked"
        :class="handOver.checked.condition"
        data-checked
        :data-condition="handOver.checked.condition"
      >
        <p class="line">
          <DropSign :state="CONDITIONS[handOver.checked.condition]" :size="26" />
          <strong>{{ handOver.checked.sentence }}</strong>
        </p>
        <p class="soft">{{ handOver.checked.job }}, handed over on {{ handOver.checked.made.slice(0, 10) }}</p>
        <ul>
          <li v-for="d in handOver.checked.deliveries" :key="d.name">
            <span class="mono">{{ d.name }}</span>: {{ d.sentence }}
          </li>
          <li v-for="sentence in handOver.checked.findings" :key="sentence">{{ sentence }}</li>
          <li v-if="handOver.checked.strangers.length">
            Not handed over: {{ handOver.checked.strangers.slice(0, 5).join(', ')
            }}{{ handOver.checked.strangers.length > 5 ? ` and ${handOver.checked.strangers.length - 5} more` : '' }}
          </li>
        </ul>
      </div>
      <template v-if="markup">
        <h2>For a web page</h2>
        <pre class="mono">{{ markup }}</pre>
        <p class="line"><el-button size="small" @click="copyMarkup">Copy the markup</el-button></p>
        <p v-for="line in markupAdvice(web)" :key="line" class="soft">{{ line }}</p>
      </template>
    </section>
  </div>
</template>

<style scoped>
.over {
  display: grid;
  grid-template-columns: minmax(0, 1.3fr) minmax(0, 1fr);
  gap: 14px;
  flex: 1;
  min-height: 0;
  align-content: start;
}

section {
  background: var(--raised);
  border: 1px solid var(--line);
  border-radius: var(--radius);
  padding: 12px 16px;
  display: flex;
  flex-direction: column;
  gap: 9px;
}

.list {
  max-height: 230px;
  border: 1px solid var(--line);
  border-radius: var(--radius);
}

.list li {
  padding: 4px 10px;
}

.list li:nth-child(even) {
  background: var(--panel);
}

.list label {
  display: grid;
  grid-template-columns: 18px minmax(0, 1.1fr) minmax(0, 1.3fr) 84px;
  gap: 6px;
  align-items: center;
}

.list label > * {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

input[type='checkbox'] {
  accent-color: var(--copper);
}

.line {
  display: flex;
  align-items: center;
  gap: 8px;
}

.line .el-button + .el-button {
  margin-left: 0;
}

.spring,
.bar {
  flex: 1;
}

dl {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: 4px 14px;
}

pre {
  margin: 0;
  padding: 8px 10px;
  background: var(--panel);
  border: 1px solid var(--line);
  overflow: auto;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}

.checked {
  border-left: 3px solid var(--verdigris-fill);
  padding: 4px 0 4px 12px;
}

.checked.changed,
.checked.surplus,
.checked.missing {
  border-left-color: var(--brick-fill);
}

.checked ul {
  margin-top: 6px;
}

.identical,
.faithful {
  color: var(--verdigris);
}

.visible-loss {
  color: var(--ochre);
}

.broken {
  color: var(--brick);
}
</style>
