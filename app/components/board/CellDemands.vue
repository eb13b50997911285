<script setup lang="ts">
/** What of the receiver's demands a cell would not meet: each with its mend, or waived by name. */
import { useReceiver } from '~/composables/useReceiver'
import { computed } from 'vue'
import { useJob } from '~/stores/job'
import type { Unmet } from '~~/core/job/outlet/receiver'

const { cell } = defineProps<{ cell: string }>()
const jobs = useJob()
const receiver = useReceiver()
const found = computed(() => receiver.demands(cell))

async function mend({ mend: change }: Unmet): Promise<void> {
  if (!change) return
  const { label, outlet } = change
  await jobs.edit(label, draft => void (draft.outlets[outlet.id] = outlet))
}
</script>

<template>
  <div v-if="found.open.length || found.waived.length" class="demands" aria-label="Not as the receiver asks">
    <ul>
      <li v-for="each in found.open" :key="each.id" class="note ochre">
        {{ each.sentence }}
        <span class="acts">
          <button v-if="each.mend" class="link small" @click="mend(each)">{{ each.mend.label }}</button>
          <button class="link small" @click="receiver.waive(cell, each.id)">Waive it</button>
        </span>
      </li>
      <li v-for="each in found.waived" :key="each.id" class="soft small">
        Waived: {{ each.sentence }}
        <button class="link small" @click="receiver.insist(cell, each.id)">insist</button>
      </li>
    </ul>
  </div>
</template>

<style scoped>
ul {
  padding: 0;
  margin: 0;
  list-style: none;
}

li {
  margin-bottom: 6px;
}

li.ochre {
  padding: 6px 10px;
  background: var(--ochre-wash);
  color: var(--ochre);
  border-radius: 3px;
}

.acts {
  display: flex;
  gap: 12px;
  margin-top: 2px;
}
</style>
