/**
 * Copy, cut, paste, duplicate and delete by key, for what a place has at hand. Copies are text on the clipboard, so
 * they go to another tab, a file or a message as well.
 */
import { isTyping, useKeys } from '~/composables/useKeys'
import { onBeforeUnmount, onMounted } from 'vue'
import { useDesk } from '~/stores/desk'
import { sentenceOf } from '~~/core/base/errors'

export interface Copies {
  /** What is chosen, as text; null where nothing is. */
  copy(): string | null
  /** Takes what was copied; throws a sentence where it is something else. */
  paste(text: string): unknown
  duplicate(): unknown
  remove(): unknown
}

export interface CopyActs {
  copy(): Promise<void>
  paste(): Promise<void>
}

export function useCopies(copies: Copies): CopyActs {
  const desk = useDesk()

  /** Whether the event is about what the place has at hand, and not about letters. */
  function isMeant(event: Event): boolean {
    if (isTyping(event.target) || document.querySelector('.el-overlay:not([style*="display: none"])')) return false
    return event.type === 'paste' || (document.getSelection()?.isCollapsed ?? true)
  }

  async function take(text: string): Promise<void> {
    try {
      await copies.paste(text)
    } catch (error) {
      desk.message = sentenceOf(error)
    }
  }

  function copied(event: ClipboardEvent): void {
    const text = isMeant(event) ? copies.copy() : null
    if (text === null) return
    event.clipboardData?.setData('text/plain', text)
    event.preventDefault()
    if (event.type === 'cut') void copies.remove()
  }

  function pasted(event: ClipboardEvent): void {
    const text = isMeant(event) ? event.clipboardData?.getData('text') : ''
    if (!text) return
    event.preventDefault()
    void take(text)
  }

  onMounted(() => {
    document.addEventListener('copy', copied)
    document.addEventListener('cut', copied)
    document.addEventListener('paste', pasted)
  })
  onBeforeUnmount(() => {
    document.removeEventListener('copy', copied)
    document.removeEventListener('cut', copied)
    document.removeEventListener('paste', pasted)
  })
  useKeys({ '$mod+d': () => void copies.duplicate(), Delete: () => void copies.remove() })

  return {
    async copy() {
      const text = copies.copy()
      if (text === null) return
      try {
        await navigator.clipboard.writeText(text)
        desk.message = 'Copied.'
      } catch {
        desk.message = 'The browser does not let Pour write to the clipboard. Press Ctrl C instead.'
      }
    },
    async paste() {
      let text: string
      try {
        text = await navigator.clipboard.readText()
      } catch {
        desk.message = 'The browser does not let Pour read the clipboard. Press Ctrl V here instead.'
        return
      }
      if (text) await take(text)
      else desk.message = 'Nothing is on the clipboard.'
    }
  }
}
