/** Putting elements into groups and taking them out again, so that they stay where they are. */
import { kindOf } from './elements/kinds'
import { combined, inverse, placing, scaleOf, type Affine } from '../raster/line'
import type { Element, Scene } from './scene'
import { atRest } from './standing'

/** Where a group's coordinates lie in the picture, as they are without movement; those of the picture for none. */
function placeOf(scene: Scene, group: string | undefined): Affine {
  const found = scene.elements.find(({ id }) => id === group)
  if (!found) return placing(0, 0, 1, 0)
  return combined(placeOf(scene, found.inside), atRest(found))
}

/** Ids of the groups that an element lies in, the nearest first. */
export function holdersOf(scene: Pick<Scene, 'elements'>, id: string): string[] {
  const up = scene.elements.find(each => each.id === id)?.inside
  return up === undefined ? [] : [up, ...holdersOf(scene, up)]
}

/** Groups that an element may go into: all but itself and those within it. */
export function groupsFor(scene: Scene, id: string): Element[] {
  return scene.elements.filter(
    element => kindOf(element.look).holds && ![element.id, ...holdersOf(scene, element.id)].includes(id)
  )
}

/**
 * Moves an element by a way of the picture, whatever it lies in; its keys go along. `within` is where that lies in the
 * picture, else where it rests. Changes the scene.
 */
export function shift(scene: Scene, id: string, [dx, dy]: readonly [number, number], within?: Affine): void {
  const element = scene.elements.find(other => other.id === id)
  if (!element) return
  const back = inverse(within ?? placeOf(scene, element.inside))
  const way = { x: back.a * dx + back.c * dy, y: back.b * dx + back.d * dy }
  for (const axis of ['x', 'y'] as const) {
    const by = Math.round(way[axis] * 100) / 100
    element[axis] += by
    for (const track of element.tracks) if (track.of === axis) for (const key of track.keys) key.value += by
  }
}

/**
 * Puts an element into a group, or with none into the picture, where it then lies as it did; so it does at every time
 * where neither it nor a group moves by keys, or is stretched and turned: then its middle does; and where a camera sees
 * the group at another depth than it. Changes the scene.
 */
export function moveInto(scene: Scene, id: string, group: string | undefined): void {
  const element = scene.elements.find(other => other.id === id)
  if (!element || element.inside === group) return
  if (group !== undefined && !groupsFor(scene, id).some(other => other.id === group)) return
  const own = placing(element.x, element.y, element.scale, element.rotation)
  const now = combined(inverse(placeOf(scene, group)), combined(placeOf(scene, element.inside), own))
  const scale = scaleOf(now)
  const rotation = (Math.atan2(now.b, now.a) * 180) / Math.PI
  const change: Record<string, (value: number) => number> = {
    x: value => value + now.e - own.e,
    y: value => value + now.f - own.f,
    scale: value => (element.scale > 0 ? (value * scale) / element.scale : value),
    rotation: value => value + rotation - element.rotation
  }
  for (const track of element.tracks)
    if (track.of in change) for (const key of track.keys) key.value = change[track.of]!(key.value)
  Object.assign(element, { x: now.e, y: now.f, scale, rotation })
  if (group === undefined) delete element.inside
  else element.inside = group
}

/** Takes a group away and leaves what is in it where it lies; any other element goes as it is. Changes the scene. */
export function remove(scene: Scene, id: string): void {
  const element = scene.elements.find(other => other.id === id)
  if (!element) return
  for (const other of scene.elements) if (other.inside === id) moveInto(scene, other.id, element.inside)
  scene.elements = scene.elements.filter(other => other.id !== id)
  for (const other of scene.elements) {
    if (other.after === id) other.after = null
    if (other.matte?.by === id) delete other.matte
    if (other.rides?.path === id) delete other.rides
  }
}

/** Changes places with the neighbour before (-1) or behind (1) it in the same group. Changes the scene. */
export function reorder(scene: Scene, id: string, by: 1 | -1): void {
  const element = scene.elements.find(other => other.id === id)
  if (!element) return
  const beside = scene.elements.filter(other => other.inside === element.inside)
  const other = beside[beside.indexOf(element) + by]
  if (!other) return
  const [one, two] = [scene.elements.indexOf(element), scene.elements.indexOf(other)]
  scene.elements[one] = other
  scene.elements[two] = element
}
