<script setup lang="ts">
/** The job as a matrix: sources down, outlets across. Arrow keys go from cell to cell. */
import BoardCorner from '~/components/board/BoardCorner.vue'
import BoardRow from '~/components/board/BoardRow.vue'
import SourceHead from '~/components/board/SourceHead.vue'
import { useActs } from '~/composables/useActs'
import { useBoardActs } from '~/composables/useBoardActs'
import { useBoardGeometry } from '~/composables/useBoardGeometry'
import { computed, nextTick, ref } from 'vue'
import { HEAD, HEADING, ROW } from '~/composables/useBoardGeometry'
import { useDesk } from '~/stores/desk'
import { useJob } from '~/stores/job'
import { usePours } from '~/stores/pours'
import { useRows } from '~/stores/rows'
import { cellKey, splitCell, type JobSource } from '~~/core/job/job'
import { tagLine, type Outlet } from '~~/core/job/outlet/outlet'

const jobs = useJob()
const desk = useDesk()
const pours = usePours()
const board = useRows()
const emit = defineEmits<{ bench: [sourceId: string] }>()
const matrix = ref<HTMLElement | null>(null)
const at = computed(() => {
  const now = desk.choice
  const row = now?.kind === 'cell' ? board.shown.findIndex(({ id }) => id === now.sourceId) : 0
  const column = now?.kind === 'cell' ? jobs.job.outletOrder.indexOf(now.outletId) : 0
  return { row: Math.max(0, row), column: Math.max(0, column) }
})

/** The tag line in no more lines than the head has room for. */
function linesOf(outlet: Outlet): string[] {
  const [codec = '', depth = '', ...rest] = tagLine(outlet).split(' · ')
  return [codec, depth, rest.join(' · ')]
}

const { follow, rows, headings, whole, widths, columns, reveal } = useBoardGeometry(matrix)

/** Picks what can be poured of these sources, or leaves all of it out where all of it is picked. */
function pickAll(sources: readonly JobSource[]): void {
  const cells = sources.flatMap(({ id }) => pours.cellsOf(id))
  const next = new Set(desk.picked)
  const all = cells.every(cell => next.has(cell))
  for (const cell of cells)
    if (all) next.delete(cell)
    else next.add(cell)
  desk.picked = next
}

const menus = useBoardActs()
const acts = useActs()

/** The menu of a cell, wherever within it the click fell. */
function cellMenu(event: MouseEvent): void {
  const cell =
    event.target instanceof HTMLElement ? event.target.closest<HTMLElement>('[data-cell]')?.dataset.cell : null
  if (!cell) return
  desk.choice = { kind: 'cell', ...splitCell(cell) }
  acts.open(event, menus.ofCell(cell))
}

function sourceMenu(event: MouseEvent, source: JobSource): void {
  desk.choice = { kind: 'source', id: source.id }
  acts.open(event, menus.ofSource(source))
}

function outletMenu(event: MouseEvent, outlet: Outlet): void {
  desk.choice = { kind: 'outlet', id: outlet.id }
  acts.open(event, menus.ofOutlet(outlet))
}

const bench = (sourceId: string): void => emit('bench', sourceId)
const headOf = (source: JobSource): string => `board-head-${source.id}`

async function go(rows: number, columns: number): Promise<void> {
  const row = Math.max(0, Math.min(board.shown.length - 1, at.value.row + rows))
  const column = Math.max(0, Math.min(jobs.outlets.length - 1, at.value.column + columns))
  const [source, outlet] = [board.shown[row], jobs.outlets[column]]
  if (!source || !outlet) return
  desk.choice = { kind: 'cell', sourceId: source.id, outletId: outlet.id }
  reveal(row, column)
  await nextTick()
  // what came into sight is drawn with the next frame
  if (!matrix.value?.querySelector(`[data-cell="${cellKey(source.id, outlet.id)}"]`))
    await new Promise(resolve => requestAnimationFrame(() => requestAnimationFrame(resolve)))
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
  const target = event.target instanceof HTMLElement ? event.target : null
  const cell = target?.closest<HTMLElement>('[data-cell]')?.dataset.cell
  const head = target?.closest<HTMLElement>('[data-source]')?.dataset.source
  const source = cell ? splitCell(cell).sourceId : head
  if (move) void go(...move)
  // coming by with the Tab key chooses nothing: what the inspector shows can then be reached
  else if (event.key === 'Enter' && cell && target?.dataset.cell) desk.choice = { kind: 'cell', ...splitCell(cell) }
  else if (event.key === ' ' && cell && target?.dataset.cell) desk.togglePick(cell)
  else if ((event.key === 'b' || event.key === 'B') && source) emit('bench', source)
  else return
  event.preventDefault()
  event.stopPropagation()
}
</script>

<template>
  <div
    ref="matrix"
    class="matrix scroll"
    :class="{ narrow: desk.narrow }"
    role="grid"
    :aria-rowcount="board.shown.length + 1"
    :aria-colcount="jobs.outlets.length + 1"
    aria-label="Board: sources down, outlets across"
    :style="{ '--row': `${ROW}px`, '--head': `${HEAD}px`, '--side': `${widths.head}px`, '--heading': `${HEADING}px` }"
    @keydown="key"
    @contextmenu="cellMenu"
    @scroll.passive="follow"
  >
    <div class="top" role="row" aria-rowindex="1" :style="{ width: `${whole.width}px` }">
      <div class="corner" role="columnheader"><BoardCorner /></div>
      <div
        v-for="{ outlet, c, left } in columns"
        :key="outlet.id"
        class="outlet"
        role="columnheader"
        :aria-colindex="c + 2"
        :style="{ left: `${widths.head + left}px`, width: `${widths.column}px` }"
        :class="{ chosen: desk.choice?.kind === 'outlet' && desk.choice.id === outlet.id }"
        @contextmenu="outletMenu($event, outlet)"
      >
        <button
          class="plain"
          :title="`${outlet.name}: show in the inspector`"
          @click="desk.choice = { kind: 'outlet', id: outlet.id }"
        >
          <strong>{{ outlet.name }}</strong>
          <span v-for="line in linesOf(outlet)" :key="line" class="mono soft">{{ line }}</span>
        </button>
      </div>
    </div>
    <div class="body" role="presentation" :style="{ width: `${whole.width}px`, height: `${whole.height}px` }">
      <!-- each head is owned by its own row; here they lie together, so that one layer stays as the rest scrolls -->
      <div class="sources" role="row">
        <div
          v-for="{ source, top, place } in rows"
          :id="headOf(source)"
          :key="place"
          class="source"
          role="rowheader"
          :data-source="source.id"
          aria-colindex="1"
          :style="{ top: `${top}px` }"
          @contextmenu="sourceMenu($event, source)"
        >
          <SourceHead
            :source="source"
            :chosen="desk.choice?.kind === 'source' && desk.choice.id === source.id"
            @choose="desk.choice = { kind: 'source', id: source.id }"
            @open="bench(source.id)"
          />
        </div>
      </div>
      <BoardRow
        v-for="{ source, at: n, top, place } in rows"
        :key="place"
        :aria-owns="headOf(source)"
        :aria-rowindex="n + 2"
        :style="{ top: `${top}px`, width: `${whole.width - widths.head}px` }"
        :source="source"
        :columns="columns"
        :width="widths.column"
        :tab="n === at.row ? at.column : -1"
      />
      <div
        v-for="{ heading, folded, sources, top } in headings"
        :key="heading"
        class="heading"
        role="row"
        :style="{ top: `${top}px` }"
      >
        <div role="rowheader" :aria-colspan="jobs.outlets.length + 1">
          <button
            class="plain"
            :aria-expanded="!folded"
            :title="folded ? 'Show these sources' : 'Fold these sources away'"
            @click="board.toggleFold(heading)"
          >
            <span class="turn" :class="{ folded }" aria-hidden="true" />
            <strong>{{ heading }}</strong>
            <span class="soft mono">{{ sources.length }}</span>
          </button>
          <button class="link small" @click="pickAll(sources)">Pick these</button>
        </div>
      </div>
    </div>
  </div>
</template>

<style scoped>
.matrix {
  height: 100%;
}

.top {
  position: sticky;
  top: 0;
  z-index: 2;
  height: var(--head);
}

.body {
  position: relative;
}

/* all heads of rows in one box, which stays while columns scroll */
.sources {
  position: sticky;
  left: 0;
  z-index: 1;
  width: var(--side);
  height: 100%;
  contain: strict;
}

.source,
.corner,
.outlet {
  border-right: 1px solid var(--line);
  border-bottom: 1px solid var(--line);
  overflow: hidden;
}

.source {
  position: absolute;
  left: 0;
  width: 100%;
  height: var(--row);
  contain: strict;
  will-change: transform;
}

.heading {
  position: absolute;
  left: 0;
  width: 100%;
  z-index: 1;
  height: var(--heading);
  border-bottom: 1px solid var(--line);
  background: var(--ground);
}

.heading > div {
  position: sticky;
  left: 0;
  display: flex;
  align-items: center;
  gap: 14px;
  width: max-content;
  height: 100%;
  padding: 0 12px;
}

.heading button.plain {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 4px;
}

.turn {
  border: 4px solid transparent;
  border-top: 6px solid var(--soft);
  margin-top: 5px;
}

.turn.folded {
  margin: 0 2px 0 2px;
  rotate: -90deg;
}

.corner,
.outlet {
  height: 100%;
  background: var(--panel);
}

.corner {
  position: sticky;
  left: 0;
  z-index: 1;
  width: var(--side);
  display: flex;
  align-items: flex-end;
  padding: 10px 12px;
}

.outlet {
  position: absolute;
  top: 0;
}

.outlet button {
  display: flex;
  flex-direction: column;
  gap: 1px;
  width: 100%;
  height: 100%;
  padding: 9px 12px;
}

.narrow :deep(.drop) {
  display: none;
}

.narrow :deep(.cell) {
  padding: 10px 6px 8px 8px;
}

.narrow .outlet button {
  padding: 9px 8px;
}

.narrow .outlet button > * {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.narrow :deep(.source .strip) {
  display: none;
}

.outlet.chosen {
  box-shadow: inset 0 3px 0 var(--copper);
}
</style>
