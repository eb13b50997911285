<script setup lang="ts">
/** Pour's sign: outline, filling level, full, full with a tick, cracked, dashed. Never told apart by colour alone. */
import { computed, useId } from 'vue'

const {
  state,
  level = 0,
  size = 24
} = defineProps<{
  state: 'empty' | 'waiting' | 'filling' | 'full' | 'proven' | 'lossy' | 'broken' | 'impossible'
  level?: number
  size?: number
}>()

const id = useId()
const OUTLINE = 'M12 1.8C9 7 5 10.6 5 15.2a7 7 0 0 0 14 0C19 10.6 15 7 12 1.8Z'
const NAMES = {
  empty: 'Not poured',
  waiting: 'Waiting',
  filling: 'Pouring',
  full: 'Poured',
  proven: 'Proven',
  lossy: 'Visible loss',
  broken: 'Broken',
  impossible: 'Not possible'
} as const
const top = computed(() => 22.2 - 20.4 * Math.max(0, Math.min(1, level)))
</script>

<template>
  <svg
    :width="size"
    :height="size"
    viewBox="0 0 24 24"
    role="img"
    :aria-label="NAMES[state]"
    class="drop"
    :class="`is-${state}`"
  >
    <template v-if="state === 'filling'">
      <clipPath :id="`${id}-level`"><rect x="0" :y="top" width="24" height="24" /></clipPath>
      <path class="fill" :d="OUTLINE" :clip-path="`url(#${id}-level)`" />
    </template>
    <path class="outline" :d="OUTLINE" />
    <circle v-if="state === 'waiting'" class="dot" cx="12" cy="15" r="2.2" />
    <path v-if="state === 'proven'" class="mark" d="m8.4 14.8 2.6 2.6 4.8-5.2" />
    <path v-if="state === 'lossy'" class="mark" d="M12 10.5v5m0 2.4v.4" />
    <path v-if="state === 'broken'" class="mark" d="m12.5 3.5-2.2 6 3.6 2.6-3 3.4 2 5.2" />
  </svg>
</template>

<style scoped>
.drop {
  flex: none;
}

.outline {
  fill: none;
  stroke: var(--line-strong);
  stroke-width: 1.6;
}

.is-filling .outline,
.is-waiting .outline {
  stroke: var(--copper);
}

.fill {
  fill: var(--copper-fill);
}

.dot {
  fill: var(--copper);
}

.is-full .outline {
  fill: var(--copper-fill);
  stroke: var(--copper);
}

.is-proven .outline {
  fill: var(--verdigris);
  stroke: var(--verdigris);
}

.is-lossy .outline {
  fill: var(--ochre);
  stroke: var(--ochre);
}

.is-broken .outline {
  fill: var(--brick);
  stroke: var(--brick);
}

.mark {
  fill: none;
  stroke: var(--raised);
  stroke-width: 2.1;
  stroke-linecap: round;
  stroke-linejoin: round;
}

.is-broken .mark {
  stroke-width: 1.5;
}

.is-impossible .outline {
  stroke-dasharray: 2.4 2.4;
}
</style>
