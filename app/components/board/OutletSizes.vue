<script setup lang="ts">
/**
 * What each outlet would make of a source: its size, between what it lies, and what is lost, from frames really
 * tried.
 */
import { sayBytes, sayEstimate, sayFrames, sayQuality } from '~/composables/say'
import { computed } from 'vue'
import { useJob } from '~/stores/job'
import { usePours } from '~/stores/pours'
import { cellKey } from '~~/core/job/job'

const { sourceId } = defineProps<{ sourceId: string }>()
const jobs = useJob()
const pours = usePours()

const rows = computed(() =>
  jobs.outlets.flatMap(outlet => {
    const cell = cellKey(sourceId, outlet.id)
    if (!pours.canPour(cell)) return []
    const estimate = pours.estimateOf(cell)
    const result = pours.latest.get(cell)
    const poured = result && !pours.outOfDate(result) ? result.bytes : null
    return [{ id: outlet.id, name: outlet.name, estimate, poured }]
  })
)
/** The largest of all: as long as a bar can be. */
const most = computed(() =>
  Math.max(1, ...rows.value.map(({ estimate, poured }) => Math.max(estimate?.most ?? 0, poured ?? 0)))
)
const percent = (bytes: number): string => `${(100 * bytes) / most.value}%`
</script>

<template>
  <section v-if="rows.length" aria-label="Size and quality by outlet">
    <h2>Size and quality</h2>
    <ul>
      <li v-for="{ id, name, estimate, poured } in rows" :key="id">
        <span class="name">{{ name }}</span>
        <span class="mono size">{{
          poured !== null ? sayBytes(poured) : estimate ? sayEstimate(estimate) : 'to come'
        }}</span>
        <span class="track" aria-hidden="true">
          <i v-if="poured !== null" class="poured" :style="{ width: percent(poured) }" />
          <template v-else-if="estimate">
            <i :style="{ width: percent(estimate.least) }" />
            <b :style="{ left: percent(estimate.least), width: percent(estimate.most - estimate.least) }" />
          </template>
        </span>
        <span
          v-if="poured === null && estimate?.quality"
          class="soft small"
          :class="estimate.quality.verdict"
          :title="`Of ${sayFrames(estimate.quality.frames)}: ${estimate.quality.sentence}`"
          >{{ sayQuality(estimate.quality) }}</span
        >
      </li>
    </ul>
    <p class="soft small">
      Green bars are sizes of what was poured. The others are estimates: nine times out of ten the size lies within the
      pale part. Quality is measured on up to five frames that were really poured and proven.
    </p>
  </section>
</template>

<style scoped>
ul {
  display: flex;
  flex-direction: column;
  gap: 8px;
  margin: 6px 0;
}

li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 2px 8px;
}

.name {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.track,
li > .small {
  grid-column: 1 / -1;
}

.track {
  position: relative;
  height: 8px;
  border-radius: 2px;
  background: var(--line);
  overflow: hidden;
}

.track i,
.track b {
  position: absolute;
  inset: 0 auto 0 0;
  background: var(--copper-fill);
}

.track .poured {
  background: var(--verdigris-fill);
}

.track b {
  background: var(--copper-fill);
  opacity: 0.45;
}

.small {
  font-size: 12px;
}

.visible-loss {
  color: var(--ochre);
}

.broken {
  color: var(--brick);
}
</style>
