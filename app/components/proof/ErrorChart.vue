<script setup lang="ts">
/** Largest difference of alpha and colour in each frame. Click a frame to go there. */
import ChartBox from '~/components/shell/ChartBox.vue'
import type { ChartConfiguration } from 'chart.js'
import { computed } from 'vue'
import { THRESHOLDS } from '~~/core/judge/proof/thresholds'
import type { Palette } from '~/components/shell/ChartBox.vue'

const { frames, index } = defineProps<{
  frames: readonly { alpha: number; colour: number; edge: number }[]
  index: number
}>()
const emit = defineEmits<{ go: [index: number] }>()

const exact = computed(() => frames.every(f => f.alpha === 0 && f.colour === 0))
const make = computed(() => {
  const [data, here] = [frames, index]
  return (colour: Palette): ChartConfiguration => ({
    type: 'line',
    data: {
      labels: data.map((_, i) => String(i + 1)),
      datasets: [
        {
          label: 'colour, ΔE',
          data: data.map(f => f.colour),
          borderColor: colour('copper'),
          backgroundColor: colour('copper'),
          yAxisID: 'colour',
          borderWidth: 2,
          pointRadius: data.map((_, i) => (i === here ? 5 : 0)),
          pointStyle: 'circle'
        },
        {
          label: 'edges, ΔE',
          data: data.map(f => f.edge),
          borderColor: colour('ochre-fill'),
          backgroundColor: colour('ochre-fill'),
          yAxisID: 'colour',
          borderWidth: 1.5,
          borderDash: [2, 3],
          pointRadius: 0
        },
        {
          label: 'alpha, codes',
          data: data.map(f => f.alpha),
          borderColor: colour('verdigris'),
          backgroundColor: colour('verdigris'),
          yAxisID: 'alpha',
          borderWidth: 2,
          borderDash: [6, 3],
          pointRadius: data.map((_, i) => (i === here ? 5 : 0)),
          pointStyle: 'rect'
        }
      ]
    },
    options: {
      interaction: { mode: 'index', intersect: false },
      plugins: { legend: { position: 'top', align: 'start', labels: { boxWidth: 18, boxHeight: 1, padding: 8 } } },
      scales: {
        x: { grid: { display: false }, ticks: { maxTicksLimit: 8 } },
        colour: { position: 'left', min: 0, suggestedMax: THRESHOLDS.colourMean, ticks: { maxTicksLimit: 4 } },
        alpha: {
          position: 'right',
          min: 0,
          suggestedMax: THRESHOLDS.alphaCodes,
          grid: { display: false },
          ticks: { maxTicksLimit: 4 }
        }
      }
    }
  })
})
</script>

<template>
  <figure>
    <figcaption class="soft">
      Largest difference in each frame{{ exact ? ': none anywhere' : '' }}. Click to go there.
    </figcaption>
    <ChartBox
      :make="make"
      :height="130"
      label="Largest difference of colour, edges and alpha in each frame"
      @pick="emit('go', $event)"
    />
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
}
</style>
