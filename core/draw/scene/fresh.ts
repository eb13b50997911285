/** How scenes and elements begin, before anything is changed in them. */
import type { Rate } from '../../base/rate'
import type { Look } from './elements/kinds'
import type { Element, Scene } from './scene'
import { still } from './values'

/** How an element begins: still, in the middle, there from the first frame to the last. */
export function newElement(
  id: string,
  name: string,
  look: Look,
  { width, height }: { width: number; height: number }
): Element {
  return {
    id,
    name,
    hidden: false,
    alone: false,
    locked: false,
    x: width / 2,
    y: height / 2,
    scale: 1,
    rotation: 0,
    opacity: 1,
    pin: 'middle',
    after: null,
    delay: 0,
    entrance: still(),
    hold: null,
    exit: still(),
    tracks: [],
    shadow: null,
    glow: null,
    look
  }
}

export interface SceneSize {
  width: number
  height: number
  rate: Rate
  seconds: number
}

/** A scene without elements, of this size in pixels, rate and seconds. */
export const emptyScene = (name: string, { width, height, rate, seconds }: SceneSize): Scene => ({
  pour: 'scene',
  version: 1,
  name,
  width,
  height,
  rate,
  frames: Math.max(1, Math.round((seconds * rate[0]) / rate[1])),
  backdrop: null,
  blur: { moments: 1, open: 0.5 },
  elements: [],
  spans: []
})
