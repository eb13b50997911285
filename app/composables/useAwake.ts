/**
 * Keeps the screen, and with it the machine, awake while something long runs; where the browser can, and as long as the
 * page is seen.
 */
import { useEventListener } from '@vueuse/core'
import { watch } from 'vue'

export function useAwake(busy: () => boolean): void {
  let held: WakeLockSentinel | null = null
  // one after the other: what is asked for while the browser answers is settled when it has
  let settled = Promise.resolve()

  async function settle(): Promise<void> {
    if (!('wakeLock' in navigator)) return
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
    }
  }
  const again = (): void => {
    settled = settled.then(settle)
  }

  watch(busy, again, { immediate: true })
  useEventListener(document, 'visibilitychange', again)
}
