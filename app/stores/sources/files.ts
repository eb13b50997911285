/** Files of the job's sources: sought in the browser, asked for where that needs leave, and at hand for workers. */
import { shallowReactive } from 'vue'
import { database } from '~/db/database'
import { fromStored, NeedsPermission } from '~/db/files'
import { fewAtATime } from '~~/core/base/few'
import { sentenceOf } from '~~/core/base/errors'
import type { FileRef } from '~~/core/base/files/file'
import { sceneFile } from '~~/core/draw/scene/as-file'
import type { JobSource } from '~~/core/job/job'

export type SourceState =
  | { state: 'opening' }
  | { state: 'locked'; handles: FileSystemFileHandle[]; sentence: string }
  | { state: 'failed'; sentence: string }
  | { state: 'ready'; files: FileRef[]; format: string; numbers: number[] | null }

/** Sources whose files are sought at once. */
const OPENED_AT_ONCE = 4

/** The state of each source's files, by its id; `sourceOf` gives a source of the job. */
export function useSourceFiles(sourceOf: (id: string) => JobSource | undefined) {
  const states = shallowReactive(new Map<string, SourceState>())
  const opening = fewAtATime(OPENED_AT_ONCE)

  /** Seeks the files of a source, again where that was done before. */
  async function openFiles(id: string): Promise<void> {
    states.set(id, { state: 'opening' })
    await opening.turn(() => openNow(id))
  }

  async function openNow(id: string): Promise<void> {
    const scene = sourceOf(id)?.scene
    if (scene) {
      states.set(id, { state: 'ready', files: [sceneFile(scene).file], format: 'scene', numbers: null })
      return
    }
    try {
      const stored = await database.sources.get(id)
      if (!stored) throw new Error('This source is no longer in the browser. Remove it and bring it in again.')
      states.set(id, {
        state: 'ready',
        files: await fromStored(stored),
        format: stored.format,
        numbers: stored.numbers
      })
    } catch (error) {
      if (error instanceof NeedsPermission)
        states.set(id, { state: 'locked', handles: error.handles, sentence: error.message })
      else states.set(id, { state: 'failed', sentence: sentenceOf(error) })
    }
  }

  /** Asks the browser's leave for the files of a source, and opens them. */
  async function unlock(id: string): Promise<void> {
    const state = states.get(id)
    if (state?.state !== 'locked') return
    for (const handle of state.handles)
      await (
        handle as FileSystemFileHandle & { requestPermission?(o: { mode: 'read' }): Promise<string> }
      ).requestPermission?.({ mode: 'read' })
    await openFiles(id)
  }

  return { states, openFiles, unlock }
}
