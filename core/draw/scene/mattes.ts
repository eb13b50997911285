/** Mattes: elements that are seen only where another is, or is not. */
import type { Kernels } from '../../frame/kernels/kernels'
import { soften } from '../../frame/soften'
import { grown, within } from '../raster/coverage'
import type { LaidFinding } from './elements/kind'
import { reachOf, type Layer } from './layer'
import type { Element } from './scene'
import type { Matte } from './values'

/** What cuts each element, by the id of the element that is cut; and what is to be said of those nothing can cut. */
export interface Mattes {
  by: ReadonlyMap<string, Element>
  told: LaidFinding[]
}

/** Finds what cuts what among elements that are drawn. */
export function mattesOf(elements: readonly Element[]): Mattes {
  const byId = new Map(elements.map(element => [element.id, element]))
  const beside = ({ matte, inside }: Element): Element | undefined => {
    const found = matte && byId.get(matte.by)
    return found?.inside === inside ? found : undefined
  }
  const by = new Map<string, Element>()
  const told: LaidFinding[] = []
  for (const element of elements) {
    if (!element.matte) continue
    const cuts = beside(element)
    const chain = new Set<Element>()
    for (let at = cuts; at && !chain.has(at); at = beside(at)) chain.add(at)
    if (cuts && !chain.has(element)) {
      by.set(element.id, cuts)
      continue
    }
    const why = cuts
      ? 'is to be cut by itself, by way of others'
      : 'is to be cut by an element that is not shown beside it'
    const sentence = `“${element.name || element.id}” ${why}, and is drawn whole.`
    told.push({ id: 'matte-nothing', severity: 'warning', sentence })
  }
  return { by, told }
}

/** Weights of brightness (Rec. ITU-R BT.709-6, item 3.2). */
const [RED, GREEN, BLUE] = [0.2126, 0.7152, 0.0722] as const

/** A layer that cuts another, as solid as it is. */
interface Cutting extends Pick<Matte, 'takes'> {
  /** Null where nothing of it is to be seen. */
  layer: Layer | null
  opacity: number
  /** Softness of its edge in pixels. */
  soft: number
}

/** Keeps of a layer what a matte says, in place; false where that is nothing. */
export function cutBy(cut: Layer, { layer, opacity, takes, soft }: Cutting, kernels: Kernels): boolean {
  const leaves = takes === 'where it is not' || takes === 'where it is dark'
  if (!layer) return leaves
  const bright = takes === 'where it is bright' || takes === 'where it is dark'
  const around = grown(cut, reachOf(soft))
  const [w, h] = [around.right - around.left, around.bottom - around.top]
  let plane: Float32Array = new Float32Array(w * h)
  const shared = within(around, layer)
  const row = layer.right - layer.left
  for (let y = shared.top; y < shared.bottom; y++)
    for (let x = shared.left; x < shared.right; x++) {
      const i = 4 * ((y - layer.top) * row + x - layer.left)
      const { pixels: p } = layer
      const cover = bright ? RED * p[i]! + GREEN * p[i + 1]! + BLUE * p[i + 2]! : p[i + 3]!
      plane[(y - around.top) * w + x - around.left] = Math.min(1, cover * opacity)
    }
  if (soft > 0) plane = soften(plane, w, h, soft / 2, kernels)
  let i = 0
  for (let y = cut.top; y < cut.bottom; y++)
    for (let x = cut.left; x < cut.right; x++, i += 4) {
      const cover = plane[(y - around.top) * w + x - around.left]!
      const share = leaves ? 1 - cover : cover
      for (let c = 0; c < 4; c++) cut.pixels[i + c]! *= share
    }
  return true
}
