<script setup lang="ts">
/** The figures of a proof against a reference: readings, errors over time, alpha before and after, the seam. */
import AlphaChart from '~/components/shell/AlphaChart.vue'
import ErrorChart from '~/components/proof/ErrorChart.vue'
import { computed } from 'vue'
import type { ProofReport } from '~~/core/judge/proof/report'
import type { Seam } from '~~/core/judge/proof/seam'

const { report } = defineProps<{ report: ProofReport; index: number; seam: Seam | null; seamless: string | null }>()
const emit = defineEmits<{ go: [index: number] }>()
const readings = computed(() => report.readings.filter(r => r.id !== 'digest'))
</script>

<template>
  <section class="figure-sheet scroll" tabindex="0" aria-label="Figures">
    <table>
      <thead>
        <tr>
          <th><span class="visually-hidden">Reading</span></th>
          <th>asked</th>
          <th>found</th>
          <th class="error">error</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in readings" :key="r.id" :class="r.state" :data-reading="r.id">
          <th scope="row">{{ r.name }}</th>
          <td class="mono">{{ r.asked }}</td>
          <td class="mono">{{ r.found }}</td>
          <td class="mono error">{{ r.error }}</td>
        </tr>
      </tbody>
    </table>
    <p v-if="seam" :class="['seam', seam.kind]"><span class="soft">Loop:</span> {{ seam.sentence }}</p>
    <p v-else-if="seamless" class="soft">Loop: its seam could not be measured. {{ seamless }}</p>
    <ErrorChart v-if="report.frames.length > 1" :frames="report.frames" :index="index" @go="emit('go', $event)" />
    <AlphaChart
      v-if="report.histogram"
      :sets="[
        { label: 'due', bins: report.histogram.due, colour: 'soft' },
        { label: 'delivered', bins: report.histogram.found, colour: 'verdigris-fill' }
      ]"
      caption="Pixels by alpha over the whole clip, of 255"
    />
    <p class="soft small">
      Faithful means: alpha within {{ report.thresholds.alphaCodes }} code at {{ report.depth }} bits, mean colour
      difference under {{ report.thresholds.colourMean }}, and 99.9 % of pixels under
      {{ report.thresholds.colourHigh }}. A code is one step of the depth, 1 of 255 at 8 bits; differences of colour are
      CIEDE2000, where 1 is about what an eye can just tell. Colour is compared over black, white, grey, the opposite
      hue and a picture.
      <button v-if="report.worstFrame" class="link" @click="emit('go', report.worstFrame - 1)">
        Go to the worst frame, {{ report.worstFrame }}
      </button>
    </p>
    <p v-if="report.sha256" class="mono soft digest">SHA-256 {{ report.sha256 }}</p>
  </section>
</template>

<style scoped>
table {
  border-collapse: collapse;
  width: 100%;
}

th,
td {
  text-align: left;
  padding: 2px 10px 2px 0;
  vertical-align: top;
  font-weight: 400;
}

thead th {
  color: var(--soft);
}

th.error,
td.error {
  text-align: right;
  padding-right: 0;
}

tr.good .error {
  color: var(--verdigris);
}

tr.warning .error {
  color: var(--ochre);
}

tr.bad .error {
  color: var(--brick);
  font-weight: 500;
}

.small {
  font-size: 12px;
}

.seam.repeats,
.seam.jumps {
  color: var(--ochre);
}

.digest {
  overflow-wrap: anywhere;
}
</style>
