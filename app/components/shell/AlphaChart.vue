<script setup lang="ts">
/** Pixels by alpha, of one clip or two side by side: a bar for a level that was lost or came in stands alone. */
import ChartBox from '~/components/shell/ChartBox.vue'
import type { ChartConfiguration } from 'chart.js'
import { computed } from 'vue'
import type { Palette } from '~/components/shell/ChartBox.vue'

const {
  sets,
  caption,
  height = 120
} = defineProps<{
  sets: readonly { label: string; bins: readonly number[]; colour: string }[]
  caption: string
  height?: number
}>()

/** 256 bins are more than the bars there is room for; both ends stay by themselves. */
const GROUPS = 32
function grouped(bins: readonly number[]): number[] {
  const total = bins.reduce((a, b) => a + b, 0) || 1
  const groups = Array.from({ length: GROUPS }, (_, g) =>
    bins.slice(g === 0 ? 1 : g * 8, g === GROUPS - 1 ? 255 : g * 8 + 8).reduce((a, b) => a + b, 0)
  )
  return [bins[0]!, ...groups, bins[255]!].map(count => (100 * count) / total)
}
const make = computed(() => {
  const bars = sets.map(set => ({ ...set, bins: grouped(set.bins) }))
  return (colour: Palette): ChartConfiguration => ({
    type: 'bar',
    data: {
      labels: [
        'clear',
        ...Array.from({ length: GROUPS }, (_, g) => `${g === 0 ? 1 : g * 8} to ${g === GROUPS - 1 ? 254 : g * 8 + 7}`),
        'solid'
      ],
      datasets: bars.map(b => ({
        label: b.label,
        data: b.bins,
        backgroundColor: colour(b.colour),
        categoryPercentage: 0.95,
        barPercentage: 0.95,
        minBarLength: 1
      }))
    },
    options: {
      interaction: { mode: 'index', intersect: false },
      plugins: {
        legend: {
          display: bars.length > 1,
          position: 'top',
          align: 'start',
          labels: { boxWidth: 10, boxHeight: 10, padding: 8 }
        },
        tooltip: {
          callbacks: {
            label: item =>
              `${item.dataset.label}: ${Number(item.raw) < 0.01 && Number(item.raw) > 0 ? 'under 0.01' : Math.round(Number(item.raw) * 100) / 100} % of pixels`
          }
        }
      },
      scales: {
        x: { grid: { display: false }, ticks: { maxTicksLimit: 6, maxRotation: 0 } },
        y: {
          type: 'logarithmic',
          min: 0.001,
          max: 100,
          ticks: {
            maxTicksLimit: 4,
            callback: value => ([0.001, 0.1, 10, 100].includes(Number(value)) ? `${value} %` : '')
          }
        }
      }
    }
  })
})
</script>

<template>
  <figure>
    <figcaption class="soft">{{ caption }}</figcaption>
    <ChartBox
      :make="make"
      :height="height"
      :label="`Share of pixels at each alpha: ${sets.map(s => s.label).join(', ')}`"
    />
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
}
</style>
