<script setup lang="ts">
/** A rectangle in pixels, by numbers; nothing where it is the whole picture. */
import { vHeld } from '~/composables/held'
import type { Box } from '~~/core/base/settings/box'

const { box } = defineProps<{ box: Box | null }>()
const emit = defineEmits<{ set: [box: Box] }>()
const SIDES = ['x', 'y', 'width', 'height'] as const

function set(side: keyof Box, event: Event): void {
  const value = Math.round(Number((event.target as HTMLInputElement).value))
  if (box) emit('set', { ...box, [side]: value })
}
</script>

<template>
  <div v-if="box" class="numbers mono">
    <label v-for="side in SIDES" :key="side"
      ><span class="soft">{{ side }}</span
      ><input type="number" v-held="box[side]" :aria-label="side" @change="event => set(side, event)"
    /></label>
  </div>
</template>
