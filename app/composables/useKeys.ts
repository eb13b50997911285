/** Keyboard bindings that live with a component, and stay silent while somebody types or a dialog is open. */
import { tinykeys } from 'tinykeys'
import { onBeforeUnmount, onMounted } from 'vue'

/** True where a key means a letter, not a command. */
export function isTyping(target: EventTarget | null): boolean {
  if (!(target instanceof HTMLElement)) return false
  return (
    target.isContentEditable ||
    ['INPUT', 'TEXTAREA', 'SELECT'].includes(target.tagName) ||
    target.closest('[role="dialog"], .el-select-dropdown') !== null
  )
}

/** A focused button keeps space and Enter for itself. */
function ownKey(event: KeyboardEvent): boolean {
  return (
    (event.key === ' ' || event.key === 'Enter') &&
    event.target instanceof HTMLElement &&
    ['BUTTON', 'A', 'SUMMARY'].includes(event.target.tagName)
  )
}

export function useKeys(bindings: Record<string, (event: KeyboardEvent) => void>): void {
  let release: (() => void) | null = null
  const guarded = Object.fromEntries(
    Object.entries(bindings).map(([keys, act]) => [
      keys,
      (event: KeyboardEvent) => {
        if (
          isTyping(event.target) ||
          ownKey(event) ||
          document.querySelector('.el-overlay:not([style*="display: none"])')
        )
          return
        event.preventDefault()
        act(event)
      }
    ])
  )
  onMounted(() => (release = tinykeys(window, guarded)))
  onBeforeUnmount(() => release?.())
}
