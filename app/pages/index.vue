<script setup lang="ts">
/** The board: the job as a matrix, an inspector beside it. */
import AddOutlet from '~/components/outlets/AddOutlet.vue'
import BoardMatrix from '~/components/board/BoardMatrix.vue'
import CellInspector from '~/components/board/CellInspector.vue'
import EmptyPlace from '~/components/shell/EmptyPlace.vue'
import FindingList from '~/components/shell/FindingList.vue'
import FirstOutlets from '~/components/board/FirstOutlets.vue'
import JobMenu from '~/components/board/JobMenu.vue'
import OutletInspector from '~/components/board/OutletInspector.vue'
import SourceInspector from '~/components/board/SourceInspector.vue'
import UndoButtons from '~/components/shell/UndoButtons.vue'
import { computedEach } from '~/composables/computedEach'
import { canChooseFolder, chooseTargetFolder } from '~/composables/useDelivery'
import { chooseFiles, chooseFolder } from '~/composables/useIntake'
import { useKeys } from '~/composables/useKeys'
import { computed, nextTick, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { openDemo } from '~/demo-job'
import { useDesk } from '~/stores/desk'
import { useJob } from '~/stores/job'
import { usePours } from '~/stores/pours'
import { useSources } from '~/stores/sources'
import { sentenceOf } from '~~/core/base/errors'
import { formatById } from '~~/core/open/registry'
import { newOutlet } from '~~/core/job/outlet/outlet'

const jobs = useJob()
const desk = useDesk()
const pours = usePours()
const sources = useSources()
const router = useRouter()
const naming = ref(false)
const nameField = ref<HTMLInputElement | null>(null)

/** Cells of a source that could be poured now. */
const canOf = computedEach(sourceId =>
  pours.cellsOf(sourceId).filter(cell => !['waiting', 'pouring', 'proving'].includes(pours.work.get(cell)?.state ?? ''))
)
/** Those of them that are not poured, or no longer up to date. */
const dueOf = computedEach(sourceId =>
  canOf(sourceId).filter(cell => {
    const result = pours.latest.get(cell)
    return !result || pours.outOfDate(result)
  })
)
/** What the button pours: the picked cells, else every cell that can be poured and is not up to date. */
const ready = computed(() =>
  desk.picked.size
    ? jobs.sources.flatMap(({ id }) => canOf(id).filter(cell => desk.picked.has(cell)))
    : jobs.sources.flatMap(({ id }) => dueOf(id))
)

function pourReady(folder: FileSystemDirectoryHandle | null = null): void {
  if (!ready.value.length) return
  pours.start(ready.value, folder)
  desk.picked = new Set()
}

async function pourInto(): Promise<void> {
  try {
    const folder = await chooseTargetFolder()
    if (folder) pourReady(folder)
  } catch (error) {
    desk.message = sentenceOf(error)
  }
}

async function bring(choose: () => Promise<Parameters<typeof sources.bringIn>[0]>): Promise<void> {
  try {
    await sources.bringIn(await choose())
  } catch (error) {
    desk.message = sentenceOf(error)
  }
}

function bringBy(what: 'files' | 'folder' | 'watch'): void {
  if (what === 'watch') desk.watchShown = true
  else void bring(what === 'files' ? chooseFiles : chooseFolder)
}

const opening = ref(false)

async function demo(): Promise<void> {
  opening.value = true
  try {
    await openDemo()
  } catch (error) {
    desk.message = sentenceOf(error)
  } finally {
    opening.value = false
  }
}

async function rename(): Promise<void> {
  naming.value = true
  await nextTick()
  nameField.value?.select()
}

async function named(value: string): Promise<void> {
  naming.value = false
  const name = value.trim().slice(0, 80)
  if (name && name !== jobs.job.name) await jobs.edit('Rename job', draft => void (draft.name = name))
}

// the inspector is never empty while there is something to show
watch(
  () => [desk.choice, jobs.sources[0]?.id, jobs.outlets[0]?.id] as const,
  ([choice, sourceId, outletId]) => {
    if (!choice && sourceId && outletId) desk.choice = { kind: 'cell', sourceId, outletId }
  },
  { immediate: true }
)

useKeys({ p: () => pourReady() })
</script>

<template>
  <main class="board">
    <header class="place-head">
      <input
        v-if="naming"
        ref="nameField"
        class="name"
        :value="jobs.job.name"
        aria-label="Name of the job"
        @blur="named(($event.target as HTMLInputElement).value)"
        @keydown.enter="($event.target as HTMLInputElement).blur()"
        @keydown.esc="naming = false"
      />
      <h1 v-else title="Rename with a double click" @dblclick="rename">{{ jobs.job.name }}</h1>
      <span class="soft"
        >{{ jobs.sources.length }} {{ jobs.sources.length === 1 ? 'source' : 'sources' }} · {{ jobs.outlets.length }}
        {{ jobs.outlets.length === 1 ? 'outlet' : 'outlets' }} · kept in this browser</span
      >
      <span class="spring" />
      <JobMenu />
      <UndoButtons />
      <AddOutlet
        v-if="jobs.outlets.length"
        @add="format => jobs.addOutlet(newOutlet('', formatById(format)), 'Add outlet')"
      />
      <el-dropdown trigger="click" @command="bringBy">
        <el-button>Bring in…</el-button>
        <template #dropdown>
          <el-dropdown-menu>
            <el-dropdown-item command="files">Choose files</el-dropdown-item>
            <el-dropdown-item command="folder">Choose a folder</el-dropdown-item>
            <el-dropdown-item v-if="canChooseFolder()" divided command="watch">Watch a folder…</el-dropdown-item>
          </el-dropdown-menu>
        </template>
      </el-dropdown>
      <el-button v-if="canChooseFolder() && ready.length" @click="pourInto">Pour into folder…</el-button>
      <el-button type="primary" :disabled="!ready.length" @click="pourReady()"
        ><template v-if="ready.length">Pour {{ ready.length }} {{ ready.length === 1 ? 'cell' : 'cells' }}</template
        ><template v-else>{{ pours.current ? 'Pouring' : 'Nothing to pour' }}</template>
        <kbd class="key">P</kbd></el-button
      >
    </header>

    <div v-if="sources.left.length" class="left" role="status">
      <FindingList :findings="sources.left" />
      <button class="link" @click="sources.left = []">Close</button>
    </div>
    <div v-if="pours.interrupted.length" class="left" role="status">
      <p>
        {{ pours.interrupted.length === 1 ? 'One pour was' : `${pours.interrupted.length} pours were` }} cut off when
        the page was closed.
      </p>
      <button class="link" @click="pours.start(pours.interrupted.map(run => run.cell))">Pour again</button>
      <button class="link" @click="pours.interrupted = []">Leave it</button>
    </div>

    <div class="place-body">
      <div v-if="jobs.sources.length" class="matrix" :class="{ heads: !jobs.outlets.length }">
        <BoardMatrix @bench="router.push(`/bench?source=${$event}`)" />
      </div>
      <FirstOutlets v-if="jobs.sources.length && !jobs.outlets.length" />
      <EmptyPlace v-if="!jobs.sources.length" title="Bring in an animation with transparency">
        <p>
          Pour makes the files that others need of it, reads each one back, and proves that what should be see-through
          still is.
        </p>
        <p>
          Drop numbered pictures, an animated picture, a film, a folder or a ZIP anywhere on this page; or make a scene,
          which Pour renders itself.
        </p>
        <template #acts>
          <el-button type="primary" @click="bring(chooseFiles)">Choose files</el-button>
          <el-button @click="router.push('/scenes')">Make a scene</el-button>
          <el-button :loading="opening" @click="demo">Open the demo</el-button>
        </template>
      </EmptyPlace>
      <aside v-if="jobs.sources.length" class="side scroll" aria-label="Inspector">
        <CellInspector
          v-if="desk.choice?.kind === 'cell'"
          :source-id="desk.choice.sourceId"
          :outlet-id="desk.choice.outletId"
        />
        <SourceInspector v-else-if="desk.choice?.kind === 'source'" :id="desk.choice.id" :key="desk.choice.id" />
        <OutletInspector v-else-if="desk.choice?.kind === 'outlet'" :id="desk.choice.id" />
        <p v-else class="soft">Choose a row, a column or a cell to see it here.</p>
      </aside>
    </div>
  </main>
</template>

<style scoped>
.board {
  display: flex;
  flex-direction: column;
  min-height: 0;
}

.board .el-button + .el-button {
  margin-left: 0;
}

.name {
  font: 600 15px var(--sans);
  color: var(--ink);
  background: var(--raised);
  border: 1px solid var(--copper);
  border-radius: var(--radius);
  padding: 2px 6px;
}

.key {
  margin-left: 6px;
}

.left {
  display: flex;
  align-items: start;
  gap: 16px;
  padding: 8px 14px;
  background: var(--ochre-wash);
  border-bottom: 1px solid var(--line);
  max-height: 130px;
  overflow: auto;
}

.matrix {
  flex: 1;
  min-width: 0;
}

/* without columns only the heads of the rows stand there */
.matrix.heads {
  flex: none;
  width: 305px;
}

.side {
  width: 264px;
  flex: none;
  padding: 14px 13px;
  background: var(--panel);
  border-left: 1px solid var(--line);
}
</style>
