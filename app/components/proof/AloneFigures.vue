<script setup lang="ts">
/** The figures of a file judged by itself: what it says, what its pixels say. */
import AlphaChart from '~/components/shell/AlphaChart.vue'
import type { AloneReport } from '~~/core/judge/proof/alone'

const { report } = defineProps<{ report: AloneReport }>()
const e = report.answer.evidence
const count = (value: number): string => value.toLocaleString('en')
</script>

<template>
  <section class="figure-sheet scroll" tabindex="0" aria-label="Figures">
    <table>
      <tbody>
        <tr v-for="fact in report.facts" :key="fact.name">
          <th scope="row">{{ fact.name }}</th>
          <td class="mono">{{ fact.value }}</td>
        </tr>
        <tr>
          <th scope="row">Alpha, by pixels</th>
          <td class="mono">
            {{ report.answer.mode === 'unknown' ? 'cannot tell' : report.answer.mode
            }}{{ report.answer.matte ? ` on ${report.answer.matte}` : '' }},
            {{ Math.round(report.answer.confidence * 100) }} % sure
          </td>
        </tr>
        <tr>
          <th scope="row">Pixels</th>
          <td class="mono">
            {{ count(e.clearPixels) }} clear, {{ count(e.partialPixels) }} partial, {{ count(e.solidPixels) }} solid
          </td>
        </tr>
        <tr>
          <th scope="row">Edges</th>
          <td class="mono">
            {{ count(e.votesStraight) }} mixed as straight, {{ count(e.votesPremultiplied) }} as premultiplied
          </td>
        </tr>
      </tbody>
    </table>
    <p class="soft">{{ e.sentence }}</p>
    <AlphaChart
      :sets="[{ label: 'in the file', bins: report.histogram, colour: 'verdigris-fill' }]"
      caption="Pixels by alpha over the whole clip, of 255"
    />
    <p class="mono soft digest">SHA-256 {{ report.sha256 }}</p>
  </section>
</template>

<style scoped>
table {
  border-collapse: collapse;
}

th,
td {
  text-align: left;
  padding: 2px 14px 2px 0;
  vertical-align: top;
  font-weight: 400;
}

th {
  color: var(--soft);
  white-space: nowrap;
}

.digest {
  overflow-wrap: anywhere;
}
</style>
