<script setup lang="ts">
/**
 * Pixels by alpha over the whole clip. Heights are by their square root and scaled to the partial pixels, so that thin edges
 * show beside full fields, which stand at both ends and are cut off at the top.
 */
import { computed } from 'vue'

const { histogram } = defineProps<{ histogram: readonly number[] }>()

const path = computed(() => {
  const most = Math.max(...histogram.slice(1, 255), 1)
  const points = histogram.map((count, i) => `${i},${(64 - 60 * Math.min(1, Math.sqrt(count / most))).toFixed(1)}`)
  return `M0,64 L${points.join(' L')} L255,64 Z`
})
const shares = computed(() => {
  const total = histogram.reduce((sum, count) => sum + count, 0) || 1
  return histogram.map(count => count / total)
})
</script>

<template>
  <svg viewBox="0 0 255 64" preserveAspectRatio="none" role="img" :aria-label="`Alpha histogram: ${Math.round((shares[0] ?? 0) * 100)} % in the lowest bin, ${Math.round((shares[255] ?? 0) * 100)} % in the highest`">
    <path :d="path" />
  </svg>
</template>

<style scoped>
svg {
  width: 100%;
  height: 70px;
  display: block;
  background: var(--raised);
  border: 1px solid var(--line);
  border-radius: 3px;
}

path {
  fill: var(--verdigris-fill);
}
</style>
