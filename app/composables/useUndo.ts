/** Undo and redo of the job, said in the line of messages; one way for the keys and for the buttons. */
import { useDesk } from '~/stores/desk'
import { useJob } from '~/stores/job'

export function useUndo(): { undo: () => Promise<void>; redo: () => Promise<void> } {
  const jobs = useJob()
  const desk = useDesk()
  return {
    undo: async () => {
      desk.message = await jobs.undo()
    },
    redo: async () => {
      desk.message = await jobs.redo()
    }
  }
}
