/** Saving everything of the browser's store that can be read, by one click. */
import { ref, type Ref } from 'vue'
import { rescueFile } from '~/db/rescue'
import { sayStore } from '~/db/words'
import { download } from './useDownload'

export function useRescue(): { saving: Ref<boolean>; failed: Ref<string | null>; save(): Promise<void> } {
  const saving = ref(false)
  const failed = ref<string | null>(null)
  return {
    saving,
    failed,
    async save() {
      saving.value = true
      failed.value = null
      try {
        download('pour-rescue.zip', await rescueFile())
      } catch (error) {
        failed.value = sayStore(error)
      } finally {
        saving.value = false
      }
    }
  }
}
