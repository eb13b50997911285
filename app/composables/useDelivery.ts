/** Handing results out: downloads, and folders the user chose. */
import { useDesk } from '~/stores/desk'
import { usePours } from '~/stores/pours'
import { resultBlob, type StoredResult } from '~/db/database'
import { isAbort, sentenceOf } from '~~/core/errors'

type WithPicker = Window & { showDirectoryPicker?(options: { id: string; mode: 'readwrite' }): Promise<FileSystemDirectoryHandle> }

export const canChooseFolder = (): boolean => 'showDirectoryPicker' in window

export async function chooseTargetFolder(): Promise<FileSystemDirectoryHandle | null> {
  try {
    return (await (window as WithPicker).showDirectoryPicker?.({ id: 'pour-out', mode: 'readwrite' })) ?? null
  } catch (error) {
    if (isAbort(error)) return null
    throw error
  }
}

export function useDelivery(): { download(result: StoredResult): Promise<void>; save(results: readonly StoredResult[]): Promise<void> } {
  const desk = useDesk()
  const pours = usePours()
  return {
    async download(result) {
      const url = URL.createObjectURL(await resultBlob(result))
      const link = document.createElement('a')
      link.href = url
      link.download = result.fileName
      link.click()
      // the browser has begun to read by then; the address must outlive the click
      setTimeout(() => URL.revokeObjectURL(url), 60_000)
    },
    async save(results) {
      try {
        const folder = await chooseTargetFolder()
        if (!folder) return
        const names: string[] = []
        for (const result of results) names.push(await pours.saveTo(folder, result))
        desk.message = `Saved ${names.length === 1 ? names[0] : `${names.length} files`} in ${folder.name}.`
      } catch (error) {
        desk.message = `Not saved: ${sentenceOf(error)}`
      }
    }
  }
}
