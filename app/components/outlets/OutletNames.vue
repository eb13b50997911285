<script setup lang="ts">
/**
 * What every source's delivery through an outlet will be called; names that more than one delivery of the job has are
 * told.
 */
import { computed, ref } from 'vue'
import { useJob } from '~/stores/job'
import { useSources } from '~/stores/sources'
import { cellKey, splitCell } from '~~/core/job/job'
import { clashesOf } from '~~/core/job/outlet/clashes'
import type { Outlet } from '~~/core/job/outlet/outlet'
import { deliveryName } from '~~/core/job/outlet/plan'
import { preparedFacts } from '~~/core/prepare/preparation'

const { outlet } = defineProps<{ outlet: Outlet }>()
const jobs = useJob()
const sources = useSources()
const open = ref(false)
/** More would only be scrolled past. */
const MOST = 500

const named = computed(() =>
  jobs.sources.flatMap(source => {
    const facts = sources.factsOf(source)
    return jobs.outlets.map(other => ({
      cell: cellKey(source.id, other.id),
      fileName: deliveryName(preparedFacts(facts, other.steps), other, source.span)
    }))
  })
)
const mine = computed(() => named.value.filter(({ cell }) => splitCell(cell).outletId === outlet.id))
/** Of the names of this outlet those that another delivery has as well, and how many have it. */
const shared = computed(() => {
  const found = new Map<string, number>()
  for (const list of clashesOf(named.value).values()) for (const { cell } of list) found.set(cell, list.length)
  return found
})
const clashing = computed(() => mine.value.filter(({ cell }) => shared.value.has(cell)))
</script>

<template>
  <div v-if="mine.length" class="names">
    <p v-if="clashing.length" class="ochre" role="status">
      {{ clashing.length === 1 ? 'One name is' : `${clashing.length} names are` }} also given to another delivery of
      this job, such as {{ clashing[0]!.fileName }}. Saved in one folder, one would replace the other or get another
      name.
    </p>
    <button type="button" class="link small" :aria-expanded="open" @click="open = !open">
      {{ open ? 'Fewer names' : `Names of all ${mine.length} sources` }}
    </button>
    <ol v-if="open" class="mono scroll">
      <li v-for="each in mine.slice(0, MOST)" :key="each.cell" :class="{ ochre: shared.has(each.cell) }">
        {{ each.fileName }}
      </li>
    </ol>
  </div>
</template>

<style scoped>
.names {
  display: flex;
  flex-direction: column;
  gap: 6px;
  align-items: flex-start;
  padding-left: 130px;
  margin-bottom: 10px;
  max-width: 760px;
}

.small {
  font-size: 12px;
}

.ochre {
  color: var(--ochre);
}

ol {
  margin: 0;
  padding: 6px 10px;
  width: 100%;
  max-height: 220px;
  list-style: none;
  border: 1px solid var(--line);
  border-radius: var(--radius);
}
</style>
