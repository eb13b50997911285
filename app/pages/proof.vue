<script setup lang="ts">
/** Proof: the verdict first; then the wipe and figures, the stations, the outlets side by side, and the hand-over. */
import DropSign from '~/components/shell/DropSign.vue'
import EmptyPlace from '~/components/shell/EmptyPlace.vue'
import HandOver from '~/components/proof/HandOver.vue'
import LedgerSteps from '~/components/proof/LedgerSteps.vue'
import OutletTable from '~/components/proof/OutletTable.vue'
import OutsideDialog from '~/components/proof/OutsideDialog.vue'
import ReadingPair from '~/components/proof/ReadingPair.vue'
import StationHall from '~/components/proof/StationHall.vue'
import { verdictOf } from '~/components/proof/verdict-words'
import { sayBytes } from '~/composables/say'
import { useDelivery } from '~/composables/useDelivery'
import { download } from '~/composables/useDownload'
import { computed, nextTick, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useExhibit } from '~/composables/useExhibit'
import { useChecks } from '~/stores/checks'
import { useDesk } from '~/stores/desk'
import { useHandOver } from '~/stores/handover'
import { sentenceOf } from '~~/core/base/errors'
import { formatById } from '~~/core/open/registry'
import { splitCell } from '~~/core/job/job'

const route = useRoute()
const router = useRouter()
const checks = useChecks()
const delivery = useDelivery()
const handOver = useHandOver()
const desk = useDesk()

const text = (value: unknown): string | null => (typeof value === 'string' ? value : null)
const { pours, outside, exhibit, opened, failure } = useExhibit(() => text(route.query.result))
const TABS = [
  { id: 'reference', name: 'Reading by reading' },
  { id: 'stations', name: 'Stations' },
  { id: 'outlets', name: 'Outlets side by side' },
  { id: 'hand-over', name: 'Hand-over' }
] as const
type Tab = (typeof TABS)[number]['id']
const tab = computed<Tab>(() => TABS.find(t => t.id === route.query.view)?.id ?? 'reference')
const tabs = computed(() => TABS.filter(t => t.id !== 'outlets' || exhibit.value?.result))
const adding = ref(false)
const index = ref(0)

async function go(query: { result?: string; view?: string }): Promise<void> {
  await router.replace({ path: '/proof', query: { ...route.query, ...query } })
}

const report = computed(() => exhibit.value?.report ?? null)
const alone = computed(() => (report.value ? null : (exhibit.value?.alone ?? null)))

watch(
  () => exhibit.value?.id,
  () => (index.value = Math.max(0, (report.value?.worstFrame ?? 1) - 1)),
  { immediate: true }
)
const verdict = computed(() => verdictOf(report.value, alone.value))

function saveReport(): void {
  const now = exhibit.value
  if (now)
    download(
      `${now.fileName.replace(/\.[^.]*$/, '')}_proof.json`,
      new Blob([JSON.stringify(report.value ?? alone.value, null, 2)], { type: 'application/json' })
    )
}

async function saveAs(command: 'proof.pdf' | 'proof.html' | 'note.html' | 'json'): Promise<void> {
  const result = exhibit.value?.result
  if (command === 'json' || !result) return saveReport()
  try {
    const blob = await handOver.paper(result, command)
    if (blob) download(`${result.fileName.replace(/\.[^.]*$/, '')}_${command}`, blob)
  } catch (error) {
    desk.message = `Not written: ${sentenceOf(error)}`
  }
}

async function forget(): Promise<void> {
  const id = exhibit.value?.check?.id
  if (id) await checks.forget(id)
}

const tabList = ref<HTMLElement | null>(null)

/** Arrows go from view to view, as tabs are used by keys. */
async function turnTab(by: number): Promise<void> {
  const all = tabs.value
  const at = all.findIndex(({ id }) => id === tab.value)
  await go({ view: all[(at + by + all.length) % all.length]!.id })
  await nextTick()
  tabList.value?.querySelector<HTMLElement>('[aria-selected=true]')?.focus()
}
</script>

<template>
  <main class="proof">
    <header class="place-head">
      <el-select
        v-if="exhibit"
        :model-value="exhibit.id"
        class="chooser"
        aria-label="Pour"
        @update:model-value="(id: string) => go({ result: id })"
      >
        <el-option-group v-if="pours.length" label="Poured here">
          <el-option v-for="r in pours" :key="r.id" :value="r.id" :label="r.name" />
        </el-option-group>
        <el-option-group v-if="outside.length" label="From outside">
          <el-option v-for="c in outside" :key="c.id" :value="c.id" :label="c.name" />
        </el-option-group>
      </el-select>
      <h1 :class="{ 'visually-hidden': exhibit }">{{ exhibit ? `Proof: ${exhibit.name}` : 'Proof' }}</h1>
      <span v-if="exhibit" class="mono soft file"
        >{{ exhibit.fileName }} · {{ sayBytes(exhibit.bytes) }} · {{ formatById(exhibit.format).tag }}</span
      >
      <span class="spring" />
      <el-button @click="adding = true">Prove a file…</el-button>
      <template v-if="exhibit">
        <el-button v-if="exhibit.check" @click="forget">Remove</el-button>
        <el-dropdown trigger="click" @command="saveAs">
          <el-button :loading="!!handOver.running">Save report…</el-button>
          <template #dropdown>
            <el-dropdown-menu>
              <template v-if="exhibit.result">
                <el-dropdown-item command="proof.pdf">PDF, for the client</el-dropdown-item>
                <el-dropdown-item command="proof.html">Page, to print</el-dropdown-item>
                <el-dropdown-item command="note.html">Note for the receiver</el-dropdown-item>
              </template>
              <el-dropdown-item command="json">Data (JSON)</el-dropdown-item>
            </el-dropdown-menu>
          </template>
        </el-dropdown>
        <el-button v-if="exhibit.result" type="primary" @click="delivery.download(exhibit.result)"
          >Download file</el-button
        >
      </template>
    </header>
    <div v-if="exhibit && verdict" class="body">
      <section
        class="verdict"
        :class="verdict.kind"
        data-verdict
        :data-kind="report ? verdict.kind : `alone-${alone!.agrees}`"
      >
        <DropSign :state="verdict.sign" :size="36" />
        <div>
          <h2>{{ verdict.title }}</h2>
          <p>{{ verdict.sentence }}</p>
          <p v-if="exhibit.stale" class="ochre">
            The source or the outlet has changed since; this is the proof of the file as it was poured.
          </p>
          <p v-if="exhibit.check && report" class="soft">
            From outside, held against {{ exhibit.check.against!.name }}. {{ exhibit.alone!.sentence }}
          </p>
        </div>
      </section>
      <LedgerSteps v-if="report?.ledger.length" :lines="report.ledger" />
      <nav ref="tabList" class="tabs" role="tablist" aria-label="Views of the proof">
        <button
          v-for="t in tabs"
          :key="t.id"
          class="plain tab"
          role="tab"
          :aria-selected="tab === t.id"
          :tabindex="tab === t.id ? 0 : -1"
          :class="{ on: tab === t.id }"
          @click="go({ view: t.id })"
          @keydown.left.prevent.stop="turnTab(-1)"
          @keydown.right.prevent.stop="turnTab(1)"
        >
          {{ t.name }}
        </button>
      </nav>
      <p v-if="failure" class="bad" role="alert">{{ failure }}</p>
      <ReadingPair v-if="tab === 'reference'" v-model:index="index" :exhibit="exhibit" :opened="opened" />
      <StationHall v-else-if="tab === 'stations' && opened" v-model:index="index" :exhibit="exhibit" :opened="opened" />
      <OutletTable
        v-else-if="tab === 'outlets' && exhibit.result"
        :source-id="splitCell(exhibit.result.cell).sourceId"
        :chosen="exhibit.id"
        @open="go({ result: $event })"
      />
      <HandOver v-else-if="tab === 'hand-over'" :first="exhibit.result?.id ?? null" />
    </div>
    <HandOver v-else-if="tab === 'hand-over'" class="body" :first="null" />
    <EmptyPlace v-else title="Nothing proven yet">
      <p>
        Every pour is read back and held against its source: each pixel of each frame. Pour a cell of the board first,
        or prove a file that somebody sent.
      </p>
      <template #acts>
        <el-button type="primary" @click="router.push('/')">Go to the board</el-button>
        <el-button @click="adding = true">Prove a file…</el-button>
        <el-button @click="go({ view: 'hand-over' })">Check a received folder</el-button>
      </template>
    </EmptyPlace>
    <OutsideDialog v-model="adding" @proven="go({ result: $event, view: 'reference' })" />
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
  flex: none;
}

.file {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.body {
  flex: 1;
  min-height: 0;
  padding: 10px 14px 12px;
  display: flex;
  flex-direction: column;
  gap: 10px;
}

.verdict {
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 8px 16px;
  background: var(--raised);
  border: 1px solid var(--line);
  border-left: 4px solid var(--verdigris);
  border-radius: var(--radius);
  flex: none;
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

.tabs {
  display: flex;
  gap: 22px;
  border-bottom: 1px solid var(--line);
  flex: none;
}

.tab {
  padding: 2px 0 6px;
  color: var(--soft);
  border-bottom: 2px solid transparent;
  margin-bottom: -1px;
}

.tab.on {
  color: var(--ink);
  font-weight: 500;
  border-bottom-color: var(--copper);
}

.ochre {
  color: var(--ochre);
}

.bad {
  color: var(--brick);
}
</style>
