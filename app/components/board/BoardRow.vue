<script setup lang="ts">
/**
 * A row of the board: the head of its source, and a cell for each column in sight. Drawn again only for its own sake.
 */
import { useDesk } from '~/stores/desk'
import { cellKey, type JobSource } from '~~/core/job/job'
import type { Outlet } from '~~/core/outlet/outlet'

const { source, columns, tab } = defineProps<{
  source: JobSource
  at: number
  columns: readonly { outlet: Outlet; c: number }[]
  /** The column whose cell the tab key comes to; -1 for none of this row. */
  tab: number
}>()
defineEmits<{ bench: [sourceId: string] }>()

const desk = useDesk()

function isChosen(outletId: string): boolean {
  const now = desk.choice
  return now?.kind === 'cell'
    ? now.sourceId === source.id && now.outletId === outletId
    : now?.kind === 'source'
      ? now.id === source.id
      : now?.kind === 'outlet' && now.id === outletId
}

const choose = (outletId: string): void => {
  desk.choice = { kind: 'cell', sourceId: source.id, outletId }
}
const pick = (outletId: string): void => desk.togglePick(cellKey(source.id, outletId))
</script>

<template>
  <div class="row" role="row" :aria-rowindex="at + 2">
    <div class="source" role="rowheader">
      <SourceHead
        :source="source"
        :chosen="desk.choice?.kind === 'source' && desk.choice.id === source.id"
        @choose="desk.choice = { kind: 'source', id: source.id }"
        @open="$emit('bench', source.id)"
      />
    </div>
    <PourCell
      v-for="{ outlet, c } in columns"
      :key="outlet.id"
      :style="{ gridColumn: c + 2 }"
      :aria-colindex="c + 2"
      :source-id="source.id"
      :outlet-id="outlet.id"
      :chosen="isChosen(outlet.id)"
      :picked="desk.picked.has(cellKey(source.id, outlet.id))"
      :tab="c === tab"
      @choose="choose"
      @pick="pick"
    />
  </div>
</template>

<style scoped>
.row {
  display: contents;
}

.row > * {
  border-right: 1px solid var(--line);
  border-bottom: 1px solid var(--line);
  height: var(--row);
  overflow: hidden;
}

.source {
  grid-column: 1;
  position: sticky;
  left: 0;
  z-index: 1;
}
</style>
