<script setup lang="ts">
/** The job as a matrix: sources down, outlets across. Arrow keys go from cell to cell. */
import { computed, nextTick, ref } from 'vue'
import { useDesk } from '~/stores/desk'
import { useJob } from '~/stores/job'
import { cellKey } from '~~/core/job/job'
import { tagLine } from '~~/core/outlet/outlet'

const jobs = useJob()
const desk = useDesk()
const emit = defineEmits<{ bench: [sourceId: string] }>()
const matrix = ref<HTMLElement | null>(null)
const at = computed(() => {
  const now = desk.choice
  const row = now?.kind === 'cell' ? jobs.job.sourceOrder.indexOf(now.sourceId) : 0
  const column = now?.kind === 'cell' ? jobs.job.outletOrder.indexOf(now.outletId) : 0
  return { row: Math.max(0, row), column: Math.max(0, column) }
})

async function go(rows: number, columns: number): Promise<void> {
  const row = Math.max(0, Math.min(jobs.sources.length - 1, at.value.row + rows))
  const column = Math.max(0, Math.min(jobs.outlets.length - 1, at.value.column + columns))
  const [source, outlet] = [jobs.sources[row], jobs.outlets[column]]
  if (!source || !outlet) return
  desk.choice = { kind: 'cell', sourceId: source.id, outletId: outlet.id }
  await nextTick()
  matrix.value?.querySelector<HTMLElement>(`[data-cell="${cellKey(source.id, outlet.id)}"]`)?.focus()
}

function key(event: KeyboardEvent): void {
  const moves: Record<string, [number, number]> = {
    ArrowUp: [-1, 0],
    ArrowDown: [1, 0],
    ArrowLeft: [0, -1],
    ArrowRight: [0, 1]
  }
  const move = moves[event.key]
  if (move) void go(...move)
  else if (event.key === ' ' && desk.choice?.kind === 'cell')
    desk.togglePick(cellKey(desk.choice.sourceId, desk.choice.outletId))
  else if ((event.key === 'b' || event.key === 'B') && desk.choice?.kind === 'cell') emit('bench', desk.choice.sourceId)
  else return
  event.preventDefault()
  event.stopPropagation()
}

function isChosen(sourceId: string, outletId: string): boolean {
  const now = desk.choice
  return now?.kind === 'cell'
    ? now.sourceId === sourceId && now.outletId === outletId
    : now?.kind === 'source'
      ? now.id === sourceId
      : now?.kind === 'outlet'
        ? now.id === outletId
        : false
}
</script>

<template>
  <div
    ref="matrix"
    class="matrix scroll"
    role="grid"
    aria-label="Board: sources down, outlets across"
    :style="{ gridTemplateColumns: `304px repeat(${jobs.outlets.length}, minmax(158px, 220px))` }"
    @keydown="key"
  >
    <div class="row" role="row">
      <div class="corner soft" role="columnheader">Source</div>
      <div
        v-for="outlet in jobs.outlets"
        :key="outlet.id"
        class="outlet"
        role="columnheader"
        :class="{ chosen: desk.choice?.kind === 'outlet' && desk.choice.id === outlet.id }"
      >
        <button
          class="plain"
          :title="`${outlet.name}: show in the inspector`"
          @click="desk.choice = { kind: 'outlet', id: outlet.id }"
        >
          <strong>{{ outlet.name }}</strong>
          <span v-for="line in tagLine(outlet).split(' · ')" :key="line" class="mono soft">{{ line }}</span>
        </button>
      </div>
    </div>
    <div v-for="(source, r) in jobs.sources" :key="source.id" class="row" role="row">
      <div class="source" role="rowheader">
        <SourceHead
          :source="source"
          :chosen="desk.choice?.kind === 'source' && desk.choice.id === source.id"
          @choose="desk.choice = { kind: 'source', id: source.id }"
          @open="emit('bench', source.id)"
        />
      </div>
      <PourCell
        v-for="(outlet, c) in jobs.outlets"
        :key="outlet.id"
        :source-id="source.id"
        :outlet-id="outlet.id"
        :chosen="isChosen(source.id, outlet.id)"
        :picked="desk.picked.has(cellKey(source.id, outlet.id))"
        :tab="r === at.row && c === at.column"
        @choose="desk.choice = { kind: 'cell', sourceId: source.id, outletId: outlet.id }"
        @pick="desk.togglePick(cellKey(source.id, outlet.id))"
      />
    </div>
  </div>
</template>

<style scoped>
.matrix {
  display: grid;
  grid-auto-rows: max-content;
  align-content: start;
  justify-content: start;
  height: 100%;
}

.row {
  display: contents;
}

.row > * {
  border-right: 1px solid var(--line);
  border-bottom: 1px solid var(--line);
  min-height: 94px;
}

.corner,
.outlet {
  position: sticky;
  top: 0;
  z-index: 2;
  background: var(--panel);
  min-height: 92px !important;
}

.corner {
  left: 0;
  z-index: 3;
  display: flex;
  align-items: flex-end;
  padding: 10px 12px;
}

.outlet button {
  display: flex;
  flex-direction: column;
  gap: 1px;
  width: 100%;
  height: 100%;
  padding: 9px 12px;
}

.outlet.chosen {
  box-shadow: inset 0 3px 0 var(--copper);
}

.source {
  position: sticky;
  left: 0;
  z-index: 1;
}
</style>
