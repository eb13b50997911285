<script setup lang="ts">
/**
 * The corner of the board: rows found by name, cells picked by what became of them, and files of many saved at once.
 */
import SourcesDialog from '~/components/board/SourcesDialog.vue'
import { computedEach } from '~/composables/computedEach'
import { canChooseFolder, useDelivery } from '~/composables/useDelivery'
import { computed, ref } from 'vue'
import { useDesk } from '~/stores/desk'
import { useJob } from '~/stores/job'
import { usePours } from '~/stores/pours'
import { GROUPINGS, useRows, type Grouping } from '~/stores/rows'
import { cellKey } from '~~/core/job/job'

const jobs = useJob()
const desk = useDesk()
const pours = usePours()
const board = useRows()
const { save, saveZip } = useDelivery()

/** Cells of the rows that are shown. */
const cells = (): string[] => board.shown.flatMap(({ id }) => pours.cellsOf(id))

/** What a cell may have become, and how that is told. */
const KINDS: readonly { id: string; name: string; is(cell: string): boolean }[] = [
  { id: 'missing', name: 'What was not poured yet', is: cell => !pours.latest.has(cell) },
  {
    id: 'stale',
    name: 'What is out of date',
    is: cell => {
      const result = pours.latest.get(cell)
      return !!result && pours.outOfDate(result)
    }
  },
  {
    id: 'failed',
    name: 'What failed, is broken or not proven',
    is: cell =>
      ['failed', 'unproven'].includes(pours.work.get(cell)?.state ?? '') ||
      pours.latest.get(cell)?.report?.verdict === 'broken'
  },
  { id: 'all', name: 'All of these rows', is: () => true }
]

const listed = ref(false)
const hidden = computed(() => jobs.sources.length - board.shown.length)

const resultsOf = computedEach(sourceId =>
  jobs.outlets
    .flatMap(({ id }) => pours.latest.get(cellKey(sourceId, id)) ?? [])
    .filter(result => !pours.outOfDate(result) && !pours.gone.has(result.id))
)
/** What can be saved: of what is picked, else of the rows shown, all that is poured and up to date. */
const results = computed(() =>
  board.shown.flatMap(({ id }) => resultsOf(id)).filter(({ cell }) => desk.picked.size === 0 || desk.picked.has(cell))
)
const what = computed(() => (results.value.length === 1 ? 'one delivery' : `${results.value.length} deliveries`))

function arrange(id: Grouping | 'width'): void {
  if (id === 'width') desk.narrow = !desk.narrow
  else board.grouping = id
}

function pick(id: string): void {
  if (id === 'zip') return void saveZip(results.value)
  if (id === 'folder') return void save(results.value)
  const kind = KINDS.find(each => each.id === id)
  const found = kind ? cells().filter(cell => kind.is(cell)) : []
  desk.picked = new Set(found)
  if (kind && found.length === 0) desk.message = `${kind.name}: there is none.`
}
</script>

<template>
  <div class="inside">
    <input
      v-model="board.sought"
      class="find"
      type="search"
      placeholder="Find a source"
      aria-label="Find a source"
      @keydown.stop
      @keydown.esc="board.sought = ''"
    />
    <div class="line">
      <span v-if="hidden" class="soft" role="status"
        >{{ board.shown.length }} of {{ jobs.sources.length }} sources</span
      >
      <button v-else class="link small" title="Order, rename and remove many at once" @click="listed = true">
        Sources…
      </button>
      <span class="spring" />
      <el-dropdown trigger="click" @command="arrange">
        <button class="link small" title="How rows are grouped, and how wide columns are">Arrange…</button>
        <template #dropdown>
          <el-dropdown-menu>
            <el-dropdown-item v-for="{ id, name } in GROUPINGS" :key="id" :command="id">
              {{ name }}<span v-if="board.grouping === id" class="soft">&nbsp;· now</span>
            </el-dropdown-item>
            <el-dropdown-item command="width" divided>
              {{ desk.narrow ? 'Wider columns' : 'Narrower columns' }}
            </el-dropdown-item>
          </el-dropdown-menu>
        </template>
      </el-dropdown>
      <el-dropdown trigger="click" @command="pick">
        <button class="link small">{{ desk.picked.size ? `${desk.picked.size} picked…` : 'Pick, save…' }}</button>
        <template #dropdown>
          <el-dropdown-menu>
            <el-dropdown-item v-for="kind in KINDS" :key="kind.id" :command="kind.id">{{ kind.name }}</el-dropdown-item>
            <el-dropdown-item command="none" :disabled="!desk.picked.size">Nothing</el-dropdown-item>
            <el-dropdown-item command="zip" divided :disabled="!results.length">
              {{ results.length ? `Save ${what} as one ZIP` : 'Nothing is poured to be saved' }}
            </el-dropdown-item>
            <el-dropdown-item v-if="canChooseFolder() && results.length" command="folder">
              Save {{ what }} in a folder…
            </el-dropdown-item>
          </el-dropdown-menu>
        </template>
      </el-dropdown>
    </div>
    <SourcesDialog v-if="listed" v-model="listed" />
  </div>
</template>

<style scoped>
.inside {
  display: flex;
  flex-direction: column;
  justify-content: flex-end;
  gap: 8px;
  width: 100%;
}

.find {
  width: 100%;
  padding: 4px 8px;
  border: 1px solid var(--line-strong);
  border-radius: 3px;
  background: var(--raised);
  color: inherit;
  font: inherit;
}

.line {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: 10px;
}
</style>
