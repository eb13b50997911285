/** Handing results out: downloads, and folders the user chose. */
import { download } from './useDownload'
import { useDesk } from '~/stores/desk'
import { useHandOver } from '~/stores/handover'
import { useJob } from '~/stores/job'
import { resultBlobs, type StoredResult } from '~/db/database'
import { saveTo } from '~/db/depot'
import { isAbort, sentenceOf } from '~~/core/base/errors'
import { safeName } from '~~/core/job/outlet/names'

type WithPicker = Window & {
  showDirectoryPicker?(options: { id: string; mode: 'readwrite' }): Promise<FileSystemDirectoryHandle>
}

export const canChooseFolder = (): boolean => 'showDirectoryPicker' in window

export async function chooseTargetFolder(): Promise<FileSystemDirectoryHandle | null> {
  try {
    return (await (window as WithPicker).showDirectoryPicker?.({ id: 'pour-out', mode: 'readwrite' })) ?? null
  } catch (error) {
    if (isAbort(error)) return null
    throw error
  }
}

export function useDelivery(): {
  download(result: StoredResult): Promise<void>
  save(results: readonly StoredResult[]): Promise<void>
  /** All of them as one ZIP, handed to the browser's downloads. */
  saveZip(results: readonly StoredResult[]): Promise<void>
} {
  const desk = useDesk()
  const handOver = useHandOver()
  const jobs = useJob()
  return {
    async download(result) {
      try {
        for (const { name, blob } of await resultBlobs(result)) download(name, blob)
      } catch (error) {
        desk.message = `Not handed out: ${sentenceOf(error)}`
      }
    },
    async saveZip(results) {
      try {
        const zip = await handOver.deliveriesZipped(results)
        if (zip) download(`${safeName(jobs.job.name)}.zip`, zip)
      } catch (error) {
        desk.message = `Not saved: ${sentenceOf(error)}`
      }
    },
    async save(results) {
      try {
        const folder = await chooseTargetFolder()
        if (!folder) return
        const names: string[] = []
        for (const result of results) names.push(await saveTo(folder, result))
        desk.message = `Saved ${names.length === 1 ? names[0] : `${names.length} files`} in ${folder.name}.`
      } catch (error) {
        desk.message = `Not saved: ${sentenceOf(error)}`
      }
    }
  }
}
