/** What can be done with the thing under the pointer, shown as a menu where it was asked for. */
import { isTyping } from '~/composables/useKeys'
import { shallowRef, type ShallowRef } from 'vue'

export interface Act {
  label: string
  /** The key that does the same. */
  key?: string
  /** Cannot be done now. */
  off?: boolean
  /** Begins a part of its own. */
  apart?: boolean
  run: () => unknown
}

export interface ActsShown {
  x: number
  y: number
  acts: readonly Act[]
  /** Where the focus goes back to. */
  from: HTMLElement | null
}

const shown = shallowRef<ActsShown | null>(null)

export function useActs(): {
  shown: ShallowRef<ActsShown | null>
  /** Shows acts at the pointer, or at what has the focus where the keyboard asked. */
  open(event: MouseEvent, acts: readonly Act[]): void
  close(): void
} {
  return {
    shown,
    open(event, acts) {
      // within a field the browser's own menu is what people need
      if (isTyping(event.target) || acts.length === 0) return
      event.preventDefault()
      event.stopPropagation()
      const from = document.activeElement instanceof HTMLElement ? document.activeElement : null
      let [x, y] = [event.clientX, event.clientY]
      if (x === 0 && y === 0 && event.target instanceof HTMLElement) {
        const box = event.target.getBoundingClientRect()
        ;[x, y] = [box.left + 12, box.top + 12]
      }
      shown.value = { x, y, acts, from }
    },
    close() {
      const from = shown.value?.from
      shown.value = null
      from?.focus({ preventScroll: true })
    }
  }
}
