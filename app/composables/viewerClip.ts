/** What the viewer shows of a source that workers open. */
import type { ViewerClip } from '~/components/viewer/FrameViewer.vue'
import { useWorkshop } from '~/stores/workshop'
import type { SourceSpec } from '~~/core/source/source'
import { specKey } from '~~/core/source/identity'

/** `at` gives the source's frame for each frame of the clip, where that is another. */
export function viewerClip(spec: SourceSpec, name: string, at: (index: number) => number = index => index): ViewerClip {
  const { pool } = useWorkshop()
  return {
    key: specKey(spec),
    name,
    picture: (i, view, signal) => pool.run('view', [spec, at(i), view], { signal, priority: 'now' }),
    codes: (i, signal) => pool.run('frame', [spec, at(i)], { signal, priority: 'now' })
  }
}
