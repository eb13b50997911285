/** What must stay or go whatever a key finds: shapes drawn in the picture, moving as they are drawn again. */
import { coverage, shapeAt, type ShapeAt } from '../base/settings/shape'
import type { Picture } from './picture'
import type { Surroundings } from './step'

export const heldFields = {
  stays: {
    type: 'shape',
    label: 'Always stays',
    help:
      'What lies in the shape is solid, in its own colour, whatever the key finds. Drawn at another ' +
      'frame, it moves.',
    default: [] as ShapeAt[]
  },
  goes: {
    type: 'shape',
    label: 'Always goes',
    help: 'What lies in the shape is clear: stands, marks, the edge of the screen.',
    default: [] as ShapeAt[]
  },
  softly: { type: 'number', label: 'Shapes’ edge', min: 1, max: 200, step: 1, unit: 'px', default: 4 }
} as const

export interface Held {
  readonly stays: ShapeAt[]
  readonly goes: ShapeAt[]
  readonly softly: number
}

/** Whether shapes say that anything always stays or goes. */
export const isHeld = ({ stays, goes }: Held): boolean => stays.length > 0 || goes.length > 0

/** The keyed picture, in place, with what stays as it was in `before` and what goes clear. Both straight. */
export function withHeld(
  before: Float32Array,
  { width, height, rgba }: Picture,
  { stays, goes, softly }: Held,
  { index }: Pick<Surroundings, 'index'>
): void {
  const planes = [stays, goes].map(keys => {
    const shape = shapeAt(keys, index + 1)
    return shape ? coverage(shape, width, height, softly) : null
  })
  const [kept, gone] = planes as [Float32Array | null, Float32Array | null]
  for (let p = 0, i = 0; i < rgba.length; p++, i += 4) {
    const stay = kept ? kept[p]! : 0
    if (stay > 0) {
      const [own, keyed] = [before[i + 3]! * stay, rgba[i + 3]! * (1 - stay)]
      const alpha = own + keyed
      if (alpha > 0) for (let c = 0; c < 3; c++) rgba[i + c] = (before[i + c]! * own + rgba[i + c]! * keyed) / alpha
      rgba[i + 3] = alpha
    }
    if (gone) rgba[i + 3]! *= 1 - gone[p]!
  }
}
