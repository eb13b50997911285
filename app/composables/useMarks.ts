/** The marked range of a source: where it begins and ends, and the range as a source of its own. */
import { ElMessageBox } from 'element-plus'
import type { Ref } from 'vue'
import { useDesk } from '~/stores/desk'
import { useJob } from '~/stores/job'
import { useSources } from '~/stores/sources'
import { sentenceOf } from '~~/core/base/errors'
import type { JobSource } from '~~/core/job/job'

/** Marks of `source`, whose clip has `frames`, set at the frame `index`, from 0. Each is one edit of the job. */
export function useMarks(source: Readonly<Ref<JobSource | null>>, frames: () => number, index: Readonly<Ref<number>>) {
  const jobs = useJob()
  const sources = useSources()
  const desk = useDesk()

  /** Lets the range begin or end at the frame shown; the other end gives way. */
  async function mark(end: 'from' | 'to'): Promise<void> {
    if (!source.value || !frames()) return
    const [{ id: of }, length, at] = [source.value, frames(), index.value + 1]
    await jobs.edit('Mark the range', draft => {
      // two keys may follow each other faster than an edit is stored, so the other end is the one that stands there now
      const now = draft.sources[of]!.marks ?? { from: 1, to: length }
      const marks = end === 'from' ? { from: at, to: Math.max(at, now.to) } : { from: Math.min(at, now.from), to: at }
      draft.sources[of]!.marks = marks.from === 1 && marks.to === length ? null : marks
    })
  }

  /** Takes the whole clip again. */
  async function clearMarks(): Promise<void> {
    const of = source.value?.id
    if (of) await jobs.edit('Clear the range', draft => void (draft.sources[of]!.marks = null))
  }

  /** The marked range, under a name, as a source of its own. */
  async function keepSpan(): Promise<void> {
    const [of, marks] = [source.value, source.value?.marks]
    if (!of || !marks) return
    const answer = await ElMessageBox.prompt(
      `Name of frames ${marks.from} to ${marks.to}, such as “hover”`,
      'Keep as a span',
      {
        inputPattern: /^\s*\S.{0,59}$/,
        inputErrorMessage: 'A name of up to 60 characters is needed.',
        confirmButtonText: 'Keep',
        cancelButtonText: 'Cancel'
      }
    ).catch(() => null)
    if (!answer || !('value' in answer)) return
    try {
      await sources.keepSpans(of, [{ name: answer.value.trim(), ...marks }])
      desk.message = `${of.name} ${answer.value.trim()} is a source of its own now; its row stands on the board.`
    } catch (error) {
      desk.message = `Not kept: ${sentenceOf(error)}`
    }
  }

  return { mark, clearMarks, keepSpan }
}
