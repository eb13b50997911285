<script setup lang="ts">
/** The cells of a row of the board, one for each column in sight. Drawn again only for its own sake. */
import PourCell from '~/components/board/PourCell.vue'
import type { BoardColumn } from '~/composables/useBoardGeometry'
import { useDesk } from '~/stores/desk'
import { cellKey, type JobSource } from '~~/core/job/job'

const { source, columns, width, tab } = defineProps<{
  source: JobSource
  columns: readonly BoardColumn[]
  /** Of a column, in pixels. */
  width: number
  /** The column whose cell the tab key comes to; -1 for none of this row. */
  tab: number
}>()

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
  <div class="row" role="row">
    <PourCell
      v-for="{ outlet, c, left } in columns"
      :key="outlet.id"
      :style="{ left: `${left}px`, width: `${width}px` }"
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
/* a layer of its own: what another row comes to show is then painted without this one */
.row {
  position: absolute;
  left: var(--side);
  height: var(--row);
  contain: strict;
  will-change: transform;
}

.row > * {
  position: absolute;
  top: 0;
  height: 100%;
  border-right: 1px solid var(--line);
  border-bottom: 1px solid var(--line);
  overflow: hidden;
}
</style>
