<script setup lang="ts">
/** The rail: the places, and at its foot the keys and the theme. */
import DropSign from '~/components/shell/DropSign.vue'
import { Grid3x3, ListOrdered, MonitorPlay, Route, ShieldCheck } from 'lucide-vue-next'
import { computed } from 'vue'
import { useDesk } from '~/stores/desk'
import { usePours } from '~/stores/pours'

const desk = useDesk()
const pours = usePours()
const PLACES = [
  { to: '/', name: 'Board', icon: Grid3x3 },
  { to: '/scenes', name: 'Scenes', icon: ListOrdered },
  { to: '/bench', name: 'Bench', icon: MonitorPlay },
  { to: '/outlets', name: 'Outlets', icon: Route },
  { to: '/proof', name: 'Proof', icon: ShieldCheck }
]
const progress = computed(() => {
  const now = pours.current ? pours.work.get(pours.current) : null
  return now && 'done' in now ? now.done / now.total : 0
})
</script>

<template>
  <nav class="rail" aria-label="Places">
    <DropSign class="sign" :state="pours.current ? 'filling' : 'full'" :level="progress" :size="32" />
    <NuxtLink
      v-for="place in PLACES"
      :key="place.to"
      :to="place.to"
      class="stop"
      active-class=""
      exact-active-class="here"
    >
      <component :is="place.icon" :size="18" :stroke-width="1.6" aria-hidden="true" />
      {{ place.name }}
    </NuxtLink>
    <span class="spring" />
    <button class="foot plain" title="What Pour is, and what it is built on" @click="desk.aboutShown = true">
      About
    </button>
    <button class="foot plain" title="List of keys (?)" @click="desk.keysShown = true">Keys <kbd>?</kbd></button>
    <button
      class="foot plain"
      title="Light or dim theme (D)"
      @click="desk.theme = desk.theme === 'dim' ? 'light' : 'dim'"
    >
      {{ desk.theme === 'dim' ? 'Light' : 'Dim' }} <kbd>D</kbd>
    </button>
  </nav>
</template>

<style scoped>
.rail {
  width: 64px;
  flex: none;
  display: flex;
  flex-direction: column;
  align-items: center;
  gap: 4px;
  padding: 10px 0 12px;
  background: var(--panel);
  border-right: 1px solid var(--line);
}

.sign {
  margin-bottom: 12px;
}

.stop {
  width: 52px;
  padding: 7px 0 5px;
  display: flex;
  flex-direction: column;
  align-items: center;
  gap: 3px;
  border: 1px solid transparent;
  border-radius: var(--radius);
  font-size: 12px;
  text-decoration: none;
  color: var(--soft);
}

.stop:hover {
  color: var(--ink);
  background: var(--ground);
}

.stop.here {
  background: var(--raised);
  border-color: var(--line);
  color: var(--copper);
  font-weight: 600;
}

.foot {
  font-size: 12px;
  color: var(--soft);
  padding: 4px;
}

.foot:hover {
  color: var(--ink);
}
</style>
