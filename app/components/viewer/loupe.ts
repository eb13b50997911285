/** The loupe: stored codes under the pointer, of both clips where there are two. */
import { ref, type Ref } from 'vue'
import { sentenceOf } from '~~/core/base/errors'
import type { Frame } from '~~/core/frame/frame'
import { sayPixel } from '~~/core/judge/view/loupe'
import type { ViewerClip } from './FrameViewer.vue'

interface Looked {
  /** One clip or two; none while there is nothing to see. */
  clips(): readonly ViewerClip[]
  index(): number
  /** Whether nothing is to be read now. */
  silent(): boolean
}

/** `readCodes` brings `reading` up to date; it is empty where the pointer is not over the picture. */
export function useLoupe(
  pointer: Ref<{ x: number; y: number } | null>,
  looked: Looked
): { reading: Ref<string>; readCodes(): Promise<void> } {
  const reading = ref('')
  let held: { key: string; frames: Frame[] } | null = null

  async function readCodes(): Promise<void> {
    const [at, clips, index] = [pointer.value, looked.clips(), looked.index()]
    if (!at || clips.length === 0 || looked.silent()) {
      reading.value = ''
      return
    }
    const key = [...clips.map(clip => clip.key), index].join('|')
    try {
      if (held?.key !== key) {
        held = { key, frames: [] }
        const { signal } = new AbortController()
        const frames = await Promise.all(clips.map(clip => clip.codes(index, signal)))
        if (held?.key !== key) return
        held = { key, frames }
      }
    } catch (error) {
      reading.value = sentenceOf(error)
      return
    }
    // the frames may still be on their way for an earlier move
    if (held.frames.length === 0) return
    reading.value =
      `x ${at.x} y ${at.y} · ` +
      `${held.frames.map(frame => sayPixel(frame, at.x, at.y, clips.length > 1)).join('  |  ')}`
  }

  return { reading, readCodes }
}
