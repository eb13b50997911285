/**
 * A scene in another size: what is pinned keeps its distance from its corner, everything grows or shrinks with the
 * height.
 */
import { kindOf } from './elements/kinds'
import type { Element, Scene } from './scene'

/** How a scene goes into a size of another shape: all of it to be seen, or all of the size to be filled. */
export type Fit = 'fit' | 'fill'

function scaled(element: Element, by: number): Pick<Element, 'scale' | 'tracks'> {
  // how near a camera looks stays as it is: what it looks at grows
  if (kindOf(element.look).unseen) return element
  return {
    scale: element.scale * by,
    tracks: element.tracks.map(track =>
      track.of === 'scale' ? { ...track, keys: track.keys.map(key => ({ ...key, value: key.value * by })) } : track
    )
  }
}

/** The scene laid into a picture of another size in pixels; the scene that is given stays. */
export function relaid(scene: Scene, width: number, height: number, fit: Fit = 'fit'): Scene {
  const [across, down] = [width / scene.width, height / scene.height]
  const by = fit === 'fit' ? Math.min(across, down) : Math.max(across, down)
  const place = (pin: Element['pin'], axis: 'x' | 'y', value: number): number => {
    const [was, is] = axis === 'x' ? [scene.width, width] : [scene.height, height]
    const [near, far] = axis === 'x' ? ['left', 'right'] : ['top', 'bottom']
    if (pin.includes(near!)) return value * by
    if (pin.includes(far!)) return is - (was - value) * by
    return is / 2 + (value - was / 2) * by
  }
  return {
    ...scene,
    width,
    height,
    elements: scene.elements.map(element => {
      // what lies in a group goes along with it
      if (element.inside !== undefined) return element
      const { scale, tracks } = scaled(element, by)
      return {
        ...element,
        scale,
        x: place(element.pin, 'x', element.x),
        y: place(element.pin, 'y', element.y),
        tracks: tracks.map(track =>
          track.of === 'x' || track.of === 'y'
            ? {
                ...track,
                keys: track.keys.map(key => ({ ...key, value: place(element.pin, track.of as 'x' | 'y', key.value) }))
              }
            : track
        )
      }
    })
  }
}
