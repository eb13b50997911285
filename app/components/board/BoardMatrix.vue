<script setup lang="ts">
/** The job as a matrix: sources down, outlets across. Arrow keys go from cell to cell. */
import { useElementSize, useScroll } from '@vueuse/core'
import { computed, nextTick, ref } from 'vue'
import { useDesk } from '~/stores/desk'
import { useJob } from '~/stores/job'
import { cellKey } from '~~/core/job/job'
import { tagLine, type Outlet } from '~~/core/outlet/outlet'

const jobs = useJob()
const desk = useDesk()
const emit = defineEmits<{ bench: [sourceId: string] }>()
const matrix = ref<HTMLElement | null>(null)
const at = computed(() => {
  const now = desk.choice
  const row = now?.kind === 'cell' ? desk.rows.findIndex(({ id }) => id === now.sourceId) : 0
  const column = now?.kind === 'cell' ? jobs.job.outletOrder.indexOf(now.outletId) : 0
  return { row: Math.max(0, row), column: Math.max(0, column) }
})

/** The tag line in no more lines than the head has room for. */
function linesOf(outlet: Outlet): string[] {
  const [codec = '', depth = '', ...rest] = tagLine(outlet).split(' · ')
  return [codec, depth, rest.join(' · ')]
}

/** Every row is of this height, so that those out of sight need not be there to hold their place. */
const ROW = 95
const HEAD = 93
/** Rows drawn beyond each edge of what is seen. */
const BEYOND = 4
const { width, height } = useElementSize(matrix)
const { x: aside, y: scrolled } = useScroll(matrix)
const shown = computed(() => {
  const first = Math.max(0, Math.floor((scrolled.value - HEAD) / ROW) - BEYOND)
  const last = Math.min(desk.rows.length, Math.ceil((scrolled.value + height.value) / ROW) + BEYOND)
  return { first, last: Math.max(last, Math.min(desk.rows.length, 2 * BEYOND)) }
})
/** A row that scrolls out of sight lends what it is drawn with to the one that comes in: so nothing is built anew. */
const rows = computed(() => {
  const slots = Math.ceil(height.value / ROW) + 2 * BEYOND + 2
  return desk.rows
    .slice(shown.value.first, shown.value.last)
    .map((source, n) => ({ source, r: shown.value.first + n, slot: (shown.value.first + n) % slots }))
})

/** Up to so many columns are all drawn; of more those in sight, and so many beside. */
const ALL_COLUMNS = 12
const BESIDE = 2
/** Widths of the head of a row, and of a column at least and at most. */
const WIDTHS = { wide: [304, 158, 220], narrow: [232, 104, 130] } as const
const widths = computed(() => {
  const [head, least, most] = desk.narrow ? WIDTHS.narrow : WIDTHS.wide
  const each = Math.floor((width.value - head) / Math.max(1, jobs.outlets.length))
  return { head, column: Math.max(least, Math.min(most, each)) }
})
const columns = computed(() => {
  const all = jobs.outlets.map((outlet, c) => ({ outlet, c }))
  if (all.length <= ALL_COLUMNS) return all
  const { head, column } = widths.value
  const first = Math.max(0, Math.floor(aside.value / column) - BESIDE)
  return all.slice(first, Math.ceil((aside.value + width.value - head) / column) + BESIDE)
})

/** Brings a row into sight, below the head of the columns, and a column, beside the heads of the rows. */
function reveal(row: number, c: number): void {
  const box = matrix.value
  if (!box) return
  const { head, column } = widths.value
  const left = c * column
  if (left < box.scrollLeft) box.scrollLeft = left
  else if (left + column + head > box.scrollLeft + box.clientWidth)
    box.scrollLeft = left + column + head - box.clientWidth
  const top = row * ROW
  if (top < box.scrollTop) box.scrollTop = top
  else if (top + ROW + HEAD > box.scrollTop + box.clientHeight) box.scrollTop = top + ROW + HEAD - box.clientHeight
}

async function go(rows: number, columns: number): Promise<void> {
  const row = Math.max(0, Math.min(desk.rows.length - 1, at.value.row + rows))
  const column = Math.max(0, Math.min(jobs.outlets.length - 1, at.value.column + columns))
  const [source, outlet] = [desk.rows[row], jobs.outlets[column]]
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
    :class="{ narrow: desk.narrow }"
    role="grid"
    :aria-rowcount="desk.rows.length + 1"
    :aria-colcount="jobs.outlets.length + 1"
    aria-label="Board: sources down, outlets across"
    :style="{
      gridTemplateColumns: `${widths.head}px repeat(${jobs.outlets.length}, ${widths.column}px)`,
      '--row': `${ROW}px`,
      '--head': `${HEAD}px`
    }"
    @keydown="key"
  >
    <div class="row" role="row">
      <div class="corner" role="columnheader"><BoardCorner /></div>
      <div
        v-for="{ outlet, c } in columns"
        :key="outlet.id"
        class="outlet"
        role="columnheader"
        :aria-colindex="c + 2"
        :style="{ gridColumn: c + 2 }"
        :class="{ chosen: desk.choice?.kind === 'outlet' && desk.choice.id === outlet.id }"
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
    <div v-if="shown.first" class="space" :style="{ height: `${shown.first * ROW}px` }" />
    <div v-for="{ source, r, slot } in rows" :key="slot" class="row" role="row" :aria-rowindex="r + 2">
      <div class="source" role="rowheader">
        <SourceHead
          :source="source"
          :chosen="desk.choice?.kind === 'source' && desk.choice.id === source.id"
          @choose="desk.choice = { kind: 'source', id: source.id }"
          @open="emit('bench', source.id)"
        />
      </div>
      <PourCell
        v-for="{ outlet, c } in columns"
        :key="outlet.id"
        :style="{ gridColumn: c + 2 }"
        :aria-colindex="c + 2"
        :source-id="source.id"
        :outlet-id="outlet.id"
        :chosen="isChosen(source.id, outlet.id)"
        :picked="desk.picked.has(cellKey(source.id, outlet.id))"
        :tab="r === at.row && c === at.column"
        @choose="desk.choice = { kind: 'cell', sourceId: source.id, outletId: outlet.id }"
        @pick="desk.togglePick(cellKey(source.id, outlet.id))"
      />
    </div>
    <div
      v-if="shown.last < desk.rows.length"
      class="space"
      :style="{ height: `${(desk.rows.length - shown.last) * ROW}px` }"
    />
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
  height: var(--row);
  overflow: hidden;
}

.space {
  grid-column: 1 / -1;
}

.corner,
.outlet {
  position: sticky;
  top: 0;
  z-index: 2;
  background: var(--panel);
  height: var(--head) !important;
}

.corner {
  grid-column: 1;
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

.narrow .source :deep(.strip) {
  display: none;
}

.outlet.chosen {
  box-shadow: inset 0 3px 0 var(--copper);
}

.source {
  grid-column: 1;
  position: sticky;
  left: 0;
  z-index: 1;
}
</style>
