/** Elements of a scene as text, and as they go into the same scene again or into another. */
import { z } from 'zod'
import { sentenceOf } from '../../base/errors'
import { sayIssue } from '../../base/say-issue'
import { kindOf } from './elements/kinds'
import { FACES } from '../type/faces'
import { Element, facesOf, type Scene } from './scene'

/** Elements on their way from one scene to another: each with what lies in it. */
export const ElementsText = z.object({
  pour: z.literal('elements'),
  version: z.literal(1),
  elements: z.array(Element).min(1).max(200)
})

/** An element and what lies in it, in the scene's own order. */
function withMembers(scene: Scene, id: string): Element[] {
  const within = new Set([id])
  for (let before = 0; before !== within.size;) {
    before = within.size
    for (const { id: each, inside } of scene.elements) if (inside !== undefined && within.has(inside)) within.add(each)
  }
  return scene.elements.filter(each => within.has(each.id))
}

/** An element, with what lies in it, as JSON. Throws where the scene has none of that id. */
export function elementsText(scene: Scene, id: string): string {
  const elements = withMembers(scene, id)
  if (!elements.length) throw new Error(`the scene has no element "${id}"`)
  return `${JSON.stringify(ElementsText.parse({ pour: 'elements', version: 1, elements }), null, 2)}\n`
}

/** Reads elements back; throws a plain Error with one sentence where the text is none. */
export function readElements(text: string): Element[] {
  let value: unknown
  try {
    value = JSON.parse(text)
  } catch (error) {
    throw new Error(`These are no elements of a scene: it is not JSON (${sentenceOf(error)}).`, { cause: error })
  }
  const read = ElementsText.safeParse(value)
  if (!read.success)
    throw new Error(`These are no elements of a scene. ${sayIssue(read.error.issues[0]!, undefined, value)}`)
  return read.data.elements
}

/** An id that no element of the scene has yet. */
export function freshId({ elements }: Pick<Scene, 'elements'>, from: string): string {
  const ids = new Set(elements.map(({ id }) => id))
  for (let n = 1; ; n++) {
    const id = n === 1 ? from : `${from}-${n}`
    if (!ids.has(id)) return id
  }
}

/** A place near `x`, `y` at which no element of the picture itself stands, so that none hides another. */
export function freePlace(scene: Scene, x: number, y: number): { x: number; y: number } {
  const step = Math.max(1, Math.round(scene.height / 18))
  const stands = (px: number, py: number): boolean =>
    scene.elements.some(
      each => each.inside === undefined && Math.abs(each.x - px) < step / 2 && Math.abs(each.y - py) < step / 2
    )
  // downwards to the right; at the edge of the picture it begins again a little further right
  for (let n = 0; n < 200; n++) {
    const rows = Math.max(1, Math.floor((scene.height - y) / step))
    const at = { x: x + step * ((n % rows) + Math.floor(n / rows)), y: y + step * (n % rows) }
    if (!stands(at.x, at.y)) return at
  }
  return { x, y }
}

export interface Pasted {
  /** The outermost of what came. */
  ids: string[]
  /** What could not come along as it was. */
  changed: string[]
}

/**
 * Puts copies of elements into a scene, in front of `before` where that is given, else in front of all. They get ids of
 * their own, and lie a little apart from what stands where they did; type faces that this scene does not have are
 * replaced, and said. Changes the scene.
 */
export function paste(scene: Scene, elements: readonly Element[], before?: string): Pasted {
  const ids = new Map<string, string>()
  const taken = { elements: [...scene.elements] }
  for (const element of elements) {
    const id = freshId(taken, element.look.kind)
    ids.set(element.id, id)
    taken.elements.push({ ...element, id })
  }
  const faces = new Set([...FACES, ...(scene.faces ?? [])].map(face => face.id as string))
  const [plain] = FACES
  const missing = new Set<string>()
  const outermost: string[] = []
  const there = new Set(scene.elements.map(({ id }) => id))
  const known = (id: string | null | undefined): string | undefined =>
    id === null || id === undefined ? undefined : (ids.get(id) ?? (there.has(id) ? id : undefined))
  const copies = elements.map(element => {
    const copy: Element = { ...structuredClone(element), id: ids.get(element.id)!, after: known(element.after) ?? null }
    const inside = known(element.inside)
    if (inside === undefined) delete copy.inside
    else copy.inside = inside
    if (element.inside === undefined || !ids.has(element.inside)) outermost.push(copy.id)
    const { look, matte, rides } = copy
    if (matte) matte.by = known(matte.by) ?? matte.by
    if (rides) rides.path = known(rides.path) ?? rides.path
    for (const face of facesOf(look)) if (!faces.has(face)) missing.add(face)
    kindOf(look).goesBy?.(look, id => known(id) ?? id)
    for (const lettered of kindOf(look).lettered?.(look) ?? []) if (!faces.has(lettered.face)) lettered.face = plain.id
    return copy
  })
  for (const copy of copies) {
    if (!outermost.includes(copy.id) || copy.inside !== undefined) continue
    const at = freePlace(scene, copy.x, copy.y)
    const [dx, dy] = [at.x - copy.x, at.y - copy.y]
    copy.x += dx
    copy.y += dy
    for (const track of copy.tracks)
      if (track.of === 'x' || track.of === 'y') for (const key of track.keys) key.value += track.of === 'x' ? dx : dy
  }
  const at = before === undefined ? -1 : scene.elements.findIndex(({ id }) => id === before)
  scene.elements.splice(Math.max(0, at), 0, ...copies)
  return {
    ids: outermost,
    changed: missing.size
      ? [`${[...missing].join(', ')} is no type face of this scene: ${plain.label} letters it now.`]
      : []
  }
}
