<script setup lang="ts">
/** A chart drawn by Chart.js in the colours of the theme. `make` is called again when the theme or the data changes. */
import {
  BarController,
  BarElement,
  CategoryScale,
  Chart,
  Legend,
  LinearScale,
  LineController,
  LineElement,
  LogarithmicScale,
  PointElement,
  Tooltip,
  type ChartConfiguration
} from 'chart.js'
import { onBeforeUnmount, ref, watch } from 'vue'
import { useDesk } from '~/stores/desk'

Chart.register(
  BarController,
  BarElement,
  CategoryScale,
  Legend,
  LinearScale,
  LineController,
  LineElement,
  LogarithmicScale,
  PointElement,
  Tooltip
)

/** Colours of the theme by their names in tokens.css, without the dashes. */
export type Palette = (name: string) => string

const {
  make,
  label,
  height = 120
} = defineProps<{ make: (colour: Palette) => ChartConfiguration; label: string; height?: number }>()
const emit = defineEmits<{ pick: [index: number] }>()
const canvas = ref<HTMLCanvasElement | null>(null)
const desk = useDesk()
let chart: Chart | null = null

watch(
  [() => make, () => desk.theme, canvas],
  () => {
    chart?.destroy()
    chart = null
    if (!canvas.value) return
    const style = getComputedStyle(document.documentElement)
    const colour: Palette = name => style.getPropertyValue(`--${name}`).trim()
    const config = make(colour)
    Chart.defaults.font.family = style.getPropertyValue('--sans').trim()
    Chart.defaults.font.size = 12
    Chart.defaults.color = colour('soft')
    Chart.defaults.borderColor = colour('line')
    chart = new Chart(canvas.value, {
      ...config,
      options: {
        animation: false,
        maintainAspectRatio: false,
        responsive: true,
        onClick: (_, hits) => void (hits[0] && emit('pick', hits[0].index)),
        ...config.options
      }
    })
  },
  { immediate: true, flush: 'post' }
)
onBeforeUnmount(() => chart?.destroy())
</script>

<template>
  <div class="box" :style="{ height: `${height}px` }">
    <canvas ref="canvas" role="img" :aria-label="label" />
  </div>
</template>

<style scoped>
.box {
  position: relative;
  width: 100%;
}
</style>
