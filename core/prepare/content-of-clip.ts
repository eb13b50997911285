/** Where in a clip anything is to be seen. */
import type { Box } from '../base/settings/box'
import type { SourceSpec } from '../source/source'
import { inOrder, type Pool } from '../base/pool'
import { unionOf } from './content'
import type { PrepareTasks } from './tasks'

/** Where in any of the first `frames` frames anything is to be seen; null when all are clear. */
export async function contentOfClip(spec: SourceSpec, frames: number, pool: Pool<PrepareTasks>): Promise<Box | null> {
  const boxes: (Box | null)[] = []
  await inOrder(
    frames,
    pool.size * 2,
    i => pool.run('contentBox', [spec, i]),
    box => void boxes.push(box)
  )
  return unionOf(boxes)
}
