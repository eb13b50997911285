/** Pictures that a scene carries along, from any file that a source could be. */
import { useWorkshop } from '~/stores/workshop'
import { unreadable } from '~~/core/base/errors'
import type { FileRef } from '~~/core/base/files/file'
import { carriedFrom, type CarriedFrame } from '~~/core/judge/view/carried-frame'
import { takeInBy } from '~~/core/run/intake/intake'
import { lookingThrough } from '~~/core/run/intake/through-pool'

export function useCarried() {
  const { pool } = useWorkshop()

  /** The picture in a file, and what is to be said of it. Rejects with one clear error. */
  async function pictureIn(file: File): Promise<CarriedFrame> {
    const ref: FileRef = { kind: 'blob', path: file.name, size: file.size, blob: file }
    const { found, findings } = await takeInBy(lookingThrough(pool), [ref])
    const [first, ...others] = found
    if (!first) throw findings[0] ? new Error(findings[0].sentence) : unreadable(file.name, null, 'it holds no picture')
    const { facts, spec } = first
    const { picture, said } = await carriedFrom({ facts, spec: { ...spec, id: crypto.randomUUID() } }, pool)
    if (others.length) said.push(`${file.name} holds ${found.length} sources; ${facts.name} is taken.`)
    return { picture, said }
  }

  return { pictureIn }
}
