/** Groups: other elements taken together, which name the group in `inside`; drawn once, or several times. */
import { z } from 'zod'
import { combined, placing, scaleOf, type Affine } from '../../../raster/line'
import { isEmpty, joined } from '../../../raster/coverage'
import { boxAt, NOTHING, united } from '../../extent'
import type { Extent } from '../../ink'
import { clearLayer, over, type Layer } from '../../layer'
import { lacking, length, seconds, share } from '../../values'
import { numberEntry, switchEntry, type Owner } from '../entry'
import { elementKind, type ElementDrawing } from '../kind'
import { lookOwner } from '../owner'

/** Copies of copies that are drawn at most, in all. */
export const MOST_COPIES = 1000

/** How much larger than itself a group is drawn at most. */
const LARGEST = 1e6

/** What lies in a group again and again: each copy stands from the one before as the first does from the group. */
const Repeat = z.object({
  count: lacking(z.number().int().min(1).max(200), 5),
  x: lacking(length, 0),
  y: lacking(length, 0),
  rotation: lacking(z.number().min(-360).max(360), 0),
  scale: lacking(z.number().min(0.01).max(10), 1),
  /** How solid each is, as a share of the one before. */
  opacity: lacking(share, 1),
  /** How much later each is what it is. */
  later: lacking(seconds, 0)
})
type Repeat = z.infer<typeof Repeat>

const schema = z.object({ kind: z.literal('group'), repeat: Repeat.optional() })
type GroupLook = z.infer<typeof schema>

/** Where each copy lies in the group, the first as it is. */
function stepsOf({ x, y, scale, rotation }: Repeat, count: number): Affine[] {
  const step = placing(x, y, scale, rotation)
  const steps: Affine[] = []
  let at = placing(0, 0, 1, 0)
  for (let n = 0; n < count && scaleOf(at) < LARGEST; n++, at = combined(at, step)) steps.push(at)
  return steps
}

/** All copies laid together, the first in front. */
function repeated(repeat: Repeat, steps: readonly Affine[], { members }: ElementDrawing): Layer | null {
  const copies: { layer: Layer; opacity: number }[] = []
  for (const [n, by] of steps.entries()) {
    const opacity = repeat.opacity ** n
    const layer = opacity > 0 ? members({ n, by, later: n * repeat.later }) : null
    if (layer) copies.unshift({ layer, opacity })
  }
  const bounds = copies.reduce((sum, { layer }) => joined(sum, layer), { left: 0, top: 0, right: 0, bottom: 0 })
  if (isEmpty(bounds)) return null
  const whole = clearLayer(bounds)
  for (const copy of copies) over(whole, copy.layer, copy.opacity)
  return whole
}

export const group = elementKind({
  schema,
  name: 'Group',
  help: 'Elements that move, turn, fade and cast a shadow as one; drawn once, or again and again, each copy later.',
  begins: { from: 'size', fresh: (): GroupLook => ({ kind: 'group' }) },
  comes: 'fade',
  moves: [],
  holds: true,
  copies: ({ repeat }) => repeat,
  entries(look) {
    const owner = lookOwner(look)
    const { repeat } = look
    const on = switchEntry(owner, 'Drawn again', repeat !== undefined, (now, ticked) => {
      if (ticked) now.repeat = { count: 5, x: 40, y: 0, rotation: 0, scale: 1, opacity: 1, later: 0 }
      else delete now.repeat
    })
    if (!repeat) return [on]
    const its: Owner<GroupLook, Repeat> = { ...owner, name: 'repeat', now: repeat, at: now => now.repeat ?? null }
    const { shape } = Repeat
    return [
      on,
      numberEntry(its, 'How often', ['count', shape.count], { step: 1 }),
      numberEntry(its, 'Each across by', ['x', shape.x]),
      numberEntry(its, 'Each down by', ['y', shape.y]),
      numberEntry(its, 'Each turned by, °', ['rotation', shape.rotation]),
      numberEntry(its, 'Each larger, ×', ['scale', shape.scale], { step: 0.05 }),
      numberEntry(its, 'Each as solid, ×', ['opacity', shape.opacity], { step: 0.05 }),
      numberEntry(its, 'Each later, s', ['later', shape.later], { step: 0.05 })
    ]
  },
  lay({ repeat }, { members, name, outer }) {
    if (!repeat) return { box: members, missing: [], draw: drawing => drawing.members() }
    const steps = stepsOf(repeat, Math.min(repeat.count, Math.max(1, Math.floor(MOST_COPIES / outer))))
    const sentence =
      `“${name}” is drawn ${steps.length} times and not ${repeat.count}: copies of copies are ${MOST_COPIES} at most, ` +
      'and none is a million times as large.'
    return {
      box: steps.map(at => boxAt(members, at)).reduce<Extent>(united, NOTHING),
      missing: [],
      told: steps.length < repeat.count ? [{ id: 'copies-fewer', severity: 'warning', sentence }] : [],
      draw: drawing => repeated(repeat, steps, drawing)
    }
  }
})
