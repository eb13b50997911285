<script setup lang="ts">
/** The menu of what can be done with the thing under the pointer. */
import { useActs, type Act } from '~/composables/useActs'
import { useEventListener } from '@vueuse/core'
import { computed, nextTick, ref, watch } from 'vue'

const { shown, close } = useActs()
const list = ref<HTMLElement | null>(null)
const place = ref({ left: 0, top: 0 })
const MARGIN = 6

const buttons = (): HTMLButtonElement[] => [...(list.value?.querySelectorAll<HTMLButtonElement>('button') ?? [])]
const can = computed(() => shown.value?.acts.some(act => !act.off) ?? false)

watch(shown, async now => {
  if (!now) return
  place.value = { left: now.x, top: now.y }
  await nextTick()
  const box = list.value?.getBoundingClientRect()
  if (box)
    place.value = {
      left: Math.max(MARGIN, Math.min(now.x, window.innerWidth - box.width - MARGIN)),
      top: Math.max(MARGIN, Math.min(now.y, window.innerHeight - box.height - MARGIN))
    }
  if (can.value)
    buttons()
      .find(button => !button.disabled)
      ?.focus({ preventScroll: true })
  else list.value?.focus({ preventScroll: true })
})

function go(by: number): void {
  const open = buttons().filter(button => !button.disabled)
  const at = open.indexOf(document.activeElement as HTMLButtonElement)
  open[(at + by + open.length) % open.length]?.focus()
}

/** Every key is the menu's while it is open, wherever something else has taken the focus to meanwhile. */
function key(event: KeyboardEvent): void {
  if (!shown.value) return
  const inside = list.value?.contains(document.activeElement) ?? false
  event.stopPropagation()
  if (inside && (event.key === 'Enter' || event.key === ' ')) return
  event.preventDefault()
  if (event.key === 'Escape' || event.key === 'Tab') close()
  else if (event.key === 'ArrowUp') go(-1)
  else if (event.key === 'ArrowDown' || !inside) go(1)
}
useEventListener(window, 'keydown', key, { capture: true })

function run(act: Act): void {
  close()
  void act.run()
}
</script>

<template>
  <Teleport to="body">
    <div v-if="shown" class="veil" @pointerdown.self="close" @contextmenu.prevent="close">
      <ul
        ref="list"
        class="acts"
        role="menu"
        aria-label="What can be done with it"
        tabindex="-1"
        :style="{ left: `${place.left}px`, top: `${place.top}px` }"
      >
        <li v-for="act in shown.acts" :key="act.label" role="none" :class="{ apart: act.apart }">
          <button class="plain" role="menuitem" tabindex="-1" :disabled="act.off" @click="run(act)">
            <span>{{ act.label }}</span>
            <kbd v-if="act.key">{{ act.key }}</kbd>
          </button>
        </li>
      </ul>
    </div>
  </Teleport>
</template>

<style scoped>
.veil {
  position: fixed;
  inset: 0;
  z-index: 3000;
}

.acts {
  position: absolute;
  min-width: 190px;
  max-width: 360px;
  margin: 0;
  padding: 4px;
  list-style: none;
  background: var(--raised);
  border: 1px solid var(--line-strong);
  border-radius: var(--radius);
  box-shadow: 0 6px 22px rgb(0 0 0 / 22%);
}

.apart {
  margin-top: 4px;
  padding-top: 4px;
  border-top: 1px solid var(--line);
}

button {
  display: flex;
  justify-content: space-between;
  gap: 22px;
  width: 100%;
  padding: 5px 9px;
  text-align: left;
  border-radius: 3px;
}

button:focus-visible,
button:hover:not(:disabled) {
  background: var(--copper-wash);
  outline-offset: -2px;
}

button:disabled {
  color: var(--soft);
  opacity: 0.6;
}
</style>
