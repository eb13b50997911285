/** Which elements of a scene are drawn, in which order they are spoken of, and where most of them is to be seen. */
import { kindOf } from './elements/kinds'
import type { Element, Scene } from './scene'
import { lastsOf, presenceOf, timesOf } from './timing'

/**
 * Elements that are drawn, the backmost first; what is shown alone brings the groups it lies in, what lies in it, and
 * what cuts any of them.
 */
export function drawn({ elements }: Scene): Element[] {
  const shown = elements.filter(element => !element.hidden)
  const alone = shown.filter(element => element.alone)
  if (alone.length === 0) return shown.reverse()
  const byId = new Map(shown.map(element => [element.id, element]))
  const line = (element: Element): Element[] => {
    const holder = element.inside === undefined ? undefined : byId.get(element.inside)
    return holder ? [element, ...line(holder)] : [element]
  }
  const holders = new Set(alone.flatMap(line))
  const brought = new Set(shown.filter(element => holders.has(element) || line(element).some(each => each.alone)))
  // what is added on the way is gone through as well
  for (const { matte } of brought) {
    const cuts = matte && byId.get(matte.by)
    if (cuts) for (const each of shown) if (line(each).includes(cuts)) brought.add(each)
  }
  return shown.filter(element => brought.has(element)).reverse()
}

/** Elements in the order they are spoken of: what is in a group follows it. `depth` counts the groups around each. */
export function inOrderOf(elements: readonly Element[]): { element: Element; depth: number }[] {
  const within = (group: string | undefined, depth: number): { element: Element; depth: number }[] =>
    elements
      .filter(element => element.inside === group)
      .flatMap(element => [{ element, depth }, ...(kindOf(element.look).holds ? within(element.id, depth + 1) : [])])
  return within(undefined, 0)
}

/** The frame, from 0, in the midst of a clip of which nothing is known: many begin and end with nothing. */
export const midstOf = (frames: number): number => Math.floor(frames * 0.45)

/** Frames that are looked at for the fullest one. */
const LOOKED_AT = 120

/** The frame, from 0, in which most of the scene is there: the first where several are alike. */
export function fullestFrame(scene: Scene): number {
  const elements = drawn(scene).filter(({ look }) => !kindOf(look).holds)
  const times = timesOf(scene)
  const lasts = lastsOf(scene)
  let [best, most] = [0, 0]
  const step = Math.max(1, scene.frames / LOOKED_AT)
  for (let at = 0; at < scene.frames; at += step) {
    const index = Math.floor(at)
    const seconds = (index * lasts) / scene.frames
    const there = elements.reduce((sum, element) => sum + presenceOf(element, times.get(element.id)!, seconds), 0)
    if (there > most + 1e-6) [best, most] = [index, there]
  }
  return best
}
