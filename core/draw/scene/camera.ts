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

/** What of an element means nothing for a camera. */
const MEANINGLESS = ['shadow', 'glow', 'matte', 'blend', 'colours', 'wide', 'tall', 'about', 'columns'] as const

/** What is to be said of cameras that nothing is looked through, and of what does nothing for want of one. */
export function idleCameras(scene: Pick<Scene, 'elements'>): LaidFinding[] {
  const used = cameraOf(scene)
  return scene.elements.flatMap((element): LaidFinding[] => {
    const { name, id, inside, look, hidden, depth, tracks } = element
    const said = name || id
    const tell = (sentence: string): LaidFinding[] => [{ id: 'camera-idle', severity: 'warning', sentence }]
    if (kindOf(look).unseen) {
      if (hidden) return []
      if (inside !== undefined) return tell(`The camera “${said}” lies in a group, and does nothing.`)
      if (element !== used)
        return tell(`The scene is looked at through another camera than “${said}”, which does nothing.`)
      const idle = MEANINGLESS.filter(key => element[key] !== undefined && element[key] !== null)
      return idle.length ? tell(`A camera has no ${idle.join(', no ')}: those of “${said}” do nothing.`) : []
    }
    if (!depth && !tracks.some(({ of }) => of === 'depth')) return []
    // values over time of what lies in a group are told as such
    if (inside !== undefined)
      return depth ? tell(`“${said}” lies in a group, as deep as that; its own depth does nothing.`) : []
    return used ? [] : tell(`“${said}” has a depth, and the scene no camera: it does nothing.`)
  })
}

/** The camera as it is at a time; null where there is none then. */
export function lookingThrough(camera: Element | null, times: ReadonlyMap<string, Times>, at: number): Moment | null {
  return camera && momentOf(camera, times.get(camera.id)!, at)
}

/**
 * From where an element at a depth would lie into where it is seen, in pixels of a picture of this size; null where it
 * lies beside or behind the camera, whose values at that moment are given.
 */
export function seenThrough(
  values: Moment['values'],
  depth: number,
  { width, height }: Pick<Scene, 'width' | 'height'>
): Affine | null {
  const far = 1 + depth - values.depth
  if (far < NEAREST) return null
  const scale = values.scale / far
  return combined(placing(width / 2, height / 2, scale, -values.rotation), placing(-values.x, -values.y, 1, 0))
}
