/**
 * Looking at a scene from somewhere: each element that lies in no group is moved, turned and scaled as a whole, by how
 * deep it lies. Depth 0 is the plane of the picture, 1 lies twice as far. Elements stay flat and upright to the camera,
 * so that all they are drawn by stays exact; their order is the running order's, not that of their depths.
 */
import { combined, placing, type Affine } from '../raster/line'
import type { LaidFinding } from './elements/kind'
import { kindOf } from './elements/kinds'
import type { Element, Scene } from './scene'
import { momentOf, type Moment, type Times } from './timing'

/** Nearer to the camera than this share of the distance to the picture's plane, nothing is seen. */
const NEAREST = 0.02

/** The camera that a scene is looked through: the first that lies in no group and is not hidden. */
export function cameraOf({ elements }: Pick<Scene, 'elements'>): Element | null {
  return elements.find(({ look, inside, hidden }) => kindOf(look).unseen && inside === undefined && !hidden) ?? null
}

/** What is to be said of cameras that nothing is looked through. */
export function idleCameras(scene: Pick<Scene, 'elements'>): LaidFinding[] {
  const used = cameraOf(scene)
  return scene.elements
    .filter(element => kindOf(element.look).unseen && element !== used && !element.hidden)
    .map(({ name, id, inside }) => ({
      id: 'camera-idle',
      severity: 'warning',
      sentence:
        inside === undefined
          ? `The scene is looked at through another camera than “${name || id}”, which does nothing.`
          : `The camera “${name || id}” lies in a group, and does nothing.`
    }))
}

/** The camera as it is at a time; null where there is none then. */
export function lookingThrough(camera: Element | null, times: ReadonlyMap<string, Times>, at: number): Moment | null {
  return camera && momentOf(camera, times.get(camera.id)!, at)
}

/**
 * From where an element would lie into where it is seen, in pixels of a picture of this size; null where it lies beside
 * or behind the camera. Its depth is that of the moment.
 */
export function seenThrough(
  { values }: Moment,
  depth: number,
  { width, height }: Pick<Scene, 'width' | 'height'>
): Affine | null {
  const far = 1 + depth - values.depth
  if (far < NEAREST) return null
  const scale = values.scale / far
  return combined(placing(width / 2, height / 2, scale, -values.rotation), placing(-values.x, -values.y, 1, 0))
}
