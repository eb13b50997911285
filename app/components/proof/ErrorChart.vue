<script setup lang="ts">
/** Largest difference of alpha and colour in each frame. Click a frame to go there. */
import { computed } from 'vue'
import { THRESHOLDS } from '~~/core/proof/thresholds'

const { frames, index } = defineProps<{ frames: readonly { alpha: number; colour: number }[]; index: number }>()
const emit = defineEmits<{ go: [index: number] }>()

const W = 520
const H = 92
const LEFT = 34
const topColour = computed(() => Math.max(THRESHOLDS.colourMean, ...frames.map(f => f.colour)))
const topAlpha = computed(() => Math.max(THRESHOLDS.alphaCodes, ...frames.map(f => f.alpha)))
const x = (i: number): number => LEFT + ((i + 0.5) / frames.length) * (W - LEFT)
const line = (pick: (f: { alpha: number; colour: number }) => number, top: number): string => frames.map((f, i) => `${i ? 'L' : 'M'}${x(i).toFixed(1)},${(H - 14 - (pick(f) / top) * (H - 24)).toFixed(1)}`).join('')
const exact = computed(() => frames.every(f => f.alpha === 0 && f.colour === 0))

function go(event: MouseEvent): void {
  const area = (event.currentTarget as Element).getBoundingClientRect()
  const share = (((event.clientX - area.left) / area.width) * W - LEFT) / (W - LEFT)
  emit('go', Math.max(0, Math.min(frames.length - 1, Math.floor(share * frames.length))))
}
</script>

<template>
  <figure>
    <figcaption><i class="colour" /> colour, ΔE <i class="alpha" /> alpha, codes <span class="soft">largest difference in each frame{{ exact ? ': none anywhere' : '' }}</span></figcaption>
    <svg :viewBox="`0 0 ${W} ${H}`" role="img" aria-label="Largest difference in each frame" @click="go">
      <line v-for="share in [0, 0.5, 1]" :key="share" class="grid" :x1="LEFT" :x2="W" :y1="H - 14 - share * (H - 24)" :y2="H - 14 - share * (H - 24)" />
      <text :x="LEFT - 5" :y="14" text-anchor="end">{{ Math.round(topColour * 10) / 10 }}</text>
      <text :x="LEFT - 5" :y="H - 10" text-anchor="end">0</text>
      <path class="alpha" :d="line(f => f.alpha, topAlpha)" />
      <path class="colour" :d="line(f => f.colour, topColour)" />
      <line class="here" :x1="x(index)" :x2="x(index)" :y1="4" :y2="H - 12" />
      <text :x="x(0)" :y="H - 1">1</text>
      <text :x="W - 2" :y="H - 1" text-anchor="end">{{ frames.length }}</text>
    </svg>
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
}

figcaption i {
  display: inline-block;
  width: 8px;
  height: 8px;
  margin: 0 2px 0 6px;
}

figcaption i.colour {
  background: var(--copper);
  margin-left: 0;
}

figcaption i.alpha {
  background: var(--verdigris);
}

svg {
  width: 100%;
  display: block;
  cursor: pointer;
}

text {
  font: 11px var(--mono);
  fill: var(--soft);
}

.grid {
  stroke: var(--line);
}

path {
  fill: none;
  stroke-width: 2;
}

path.colour {
  stroke: var(--copper);
}

path.alpha {
  stroke: var(--verdigris);
  stroke-dasharray: 5 3;
}

.here {
  stroke: var(--ink);
}
</style>
