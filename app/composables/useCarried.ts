/** Pictures that a scene carries along, from any file that a source could be. */
import { useWorkshop } from '~/stores/workshop'
import { unreadable } from '~~/core/base/errors'
import type { FileRef } from '~~/core/base/files/file'
import type { CarriedPicture } from '~~/core/draw/scene/tables'
import { takeInBy } from '~~/core/run/intake/intake'
import { lookingThrough } from '~~/core/run/intake/through-pool'

export interface Taken extends CarriedPicture {
  /** Which frame of a film it is, and of how many; null for a still. */
  frame: { index: number; of: number } | null
}

/** A film is taken where most of it is likely to be there: many begin and end with nothing. */
const MIDST = 0.45

export function useCarried() {
  const { pool } = useWorkshop()

  /** The picture in a file, or the frame in the midst of a film. Rejects with one clear error. */
  async function pictureIn(file: File): Promise<Taken> {
    const ref: FileRef = { kind: 'blob', path: file.name, size: file.size, blob: file }
    const { found, findings } = await takeInBy(lookingThrough(pool), [ref])
    const first = found[0]
    if (!first) throw findings[0] ? new Error(findings[0].sentence) : unreadable(file.name, null, 'it holds no picture')
    const { frames } = first.facts
    const index = frames > 1 ? Math.floor(frames * MIDST) : 0
    const made = await pool.run('carriedFrame', [{ ...first.spec, id: `carried ${crypto.randomUUID()}` }, index])
    return { ...made, frame: frames > 1 ? { index, of: frames } : null }
  }

  return { pictureIn }
}
