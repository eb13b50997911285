<script setup lang="ts">
/** One row of a table as the scene it makes, at its fullest frame; drawn once it is in sight. */
import SceneThumb from '~/components/scenes/SceneThumb.vue'
import { useElementVisibility } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { fullestFrame } from '~~/core/draw/scene/order'
import type { Scene } from '~~/core/draw/scene/scene'

const { scene, told } = defineProps<{ scene: Scene; told: readonly string[] }>()

const WIDTH = 196
const cell = ref<HTMLElement | null>(null)
const seen = useElementVisibility(cell)
const met = ref(false)
watch(seen, now => now && (met.value = true), { immediate: true })
const height = computed(() => Math.max(20, Math.min(196, Math.round((WIDTH * scene.height) / scene.width))))
const index = computed(() => fullestFrame(scene))
</script>

<template>
  <li ref="cell" :class="{ troubled: told.length }">
    <SceneThumb v-if="met" :scene="scene" :index="index" :width="WIDTH" :height="height" />
    <div v-else :style="{ height: `${height}px` }" />
    <strong>{{ scene.name }}</strong>
    <small v-for="sentence in told" :key="sentence">{{ sentence }}</small>
  </li>
</template>

<style scoped>
li {
  display: flex;
  flex-direction: column;
  gap: 2px;
  min-width: 0;
}

strong {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

small {
  color: var(--ochre);
  overflow-wrap: anywhere;
}
</style>
