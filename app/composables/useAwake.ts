/** Keeps the screen, and with it the machine, awake while something long runs; where the browser can, and as long as the page is seen. */
import { useEventListener } from '@vueuse/core'
import { watch } from 'vue'

export function useAwake(busy: () => boolean): void {
  let held: WakeLockSentinel | null = null
  let asking = false

  async function settle(): Promise<void> {
    if (asking || !('wakeLock' in navigator)) return
    asking = true
    try {
      if (busy() && document.visibilityState === 'visible' && (!held || held.released))
        held = await navigator.wakeLock.request('screen')
      else if (!busy() && held) {
        await held.release()
        held = null
      }
    } catch {
      // a browser may refuse, on little battery say: pouring goes on as long as the machine does
      held = null
    } finally {
      asking = false
    }
  }

  watch(busy, () => void settle(), { immediate: true })
  useEventListener(document, 'visibilitychange', () => void settle())
}
