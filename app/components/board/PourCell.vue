<script setup lang="ts">
/** One cell of the board: droplet, state, size or reason. */
import DropSign from '~/components/shell/DropSign.vue'
import { useCell } from '~/composables/useCell'
import { onBeforeUnmount, watch, watchEffect } from 'vue'
import { usePours } from '~/stores/pours'
import { useRows } from '~/stores/rows'
import { useSources } from '~/stores/sources'

const { sourceId, outletId } = defineProps<{
  sourceId: string
  outletId: string
  chosen: boolean
  picked: boolean
  tab: boolean
}>()
defineEmits<{ choose: [outletId: string]; pick: [outletId: string] }>()

const pours = usePours()
const board = useRows()
const sources = useSources()
const face = useCell(
  () => sourceId,
  () => outletId
)

// a cell that only scrolls by is not estimated
watchEffect(() => {
  if (!board.moves && face.value.can && !face.value.result) void pours.estimate(face.value.cell)
})
watch(
  () => face.value.cell,
  (_now, before) => pours.leaveEstimate(before)
)
onBeforeUnmount(() => pours.leaveEstimate(face.value.cell))
</script>

<template>
  <div
    class="cell"
    role="gridcell"
    :class="[face.tone, face.sign, { chosen, picked }]"
    :tabindex="tab ? 0 : -1"
    :aria-selected="picked"
    :data-cell="face.cell"
    :data-state="face.title"
    @click="$emit('choose', outletId)"
  >
    <DropSign :state="face.sign" :level="face.level" :size="26" />
    <div class="text">
      <button
        v-if="face.asksRate && face.problems.length === 1 && !face.work"
        class="link ask"
        tabindex="-1"
        @click.stop="sources.asking = [sourceId]"
      >
        {{ face.title }}
      </button>
      <strong v-else>{{ face.title }}</strong>
      <span
        class="detail"
        :class="{ mono: face.sign !== 'broken' && face.sign !== 'impossible' }"
        :title="face.hint ?? face.detail"
        >{{ face.detail }}</span
      >
      <span v-if="face.demanded" class="detail demanded" title="Not as the receiver asks">not as asked</span>
      <span v-if="face.sign === 'filling'" class="bar"><i :style="{ width: `${face.level * 100}%` }" /></span>
    </div>
    <button
      v-if="face.can"
      class="plain pick"
      :aria-label="picked ? 'Leave out of the next pour' : 'Pick for the next pour'"
      :aria-pressed="picked"
      tabindex="-1"
      @click.stop="$emit('pick', outletId)"
    >
      <span />
    </button>
  </div>
</template>

<style scoped>
.cell {
  display: flex;
  gap: 10px;
  padding: 16px 12px 12px 14px;
  background: var(--raised);
  cursor: default;
}

.cell:focus-visible {
  outline-offset: -2px;
}

.cell.chosen {
  box-shadow: inset 0 0 0 2px var(--copper);
  background: var(--copper-wash);
}

.cell.impossible {
  background: repeating-linear-gradient(135deg, var(--raised) 0 7px, var(--panel) 7px 14px);
}

.text {
  min-width: 0;
  flex: 1;
  display: flex;
  flex-direction: column;
}

.text strong {
  font-weight: 500;
}

.detail {
  color: var(--soft);
  display: -webkit-box;
  -webkit-line-clamp: 2;
  -webkit-box-orient: vertical;
  overflow: hidden;
  font-size: 12px;
}

.ask {
  align-self: flex-start;
}

.copper strong {
  color: var(--copper);
}

.verdigris strong {
  color: var(--verdigris);
}

.ochre strong {
  color: var(--ochre);
}

.brick strong {
  color: var(--brick);
}

.soft strong {
  color: var(--soft);
  font-weight: 400;
}

.bar {
  margin-top: 6px;
  height: 5px;
  border-radius: 3px;
  background: var(--line);
  overflow: hidden;
}

.bar i {
  display: block;
  height: 100%;
  background: var(--copper-fill);
}

.pick {
  position: absolute;
  right: 8px;
  bottom: 8px;
  padding: 4px;
}

.pick span {
  display: block;
  width: 14px;
  height: 14px;
  border: 1px solid var(--line-strong);
  border-radius: 3px;
  background: var(--raised);
  opacity: 0.55;
}

.cell:hover .pick span,
.picked .pick span {
  opacity: 1;
}

.picked .pick span {
  background: var(--copper);
  border-color: var(--copper);
  mask: none;
  box-shadow: inset 0 0 0 3px var(--raised);
}

.cell .text .demanded {
  color: var(--ochre);
}
</style>
