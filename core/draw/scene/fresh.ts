/** How scenes and elements begin, before anything is changed in them. */
import type { Rate } from '../../base/rate'
import type { Element, Look, Move, Scene } from './scene'

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

export const still = (): Move => ({ kind: 'none', seconds: 0.5, ease: 'soft', side: 'left' })

export const lettering = (text: string, size: number, more: Partial<Extract<Look, { kind: 'text' }>> = {}): Look => ({
  kind: 'text',
  text,
  field: null,
  face: 'sans-half-bold',
  size,
  colour: '#f6f3ea',
  tracking: 0,
  leading: 1.2,
  align: 'left',
  ...more
})

export const figure = (
  form: Extract<Look, { kind: 'shape' }>['form'],
  width: number,
  height: number,
  more: Partial<Extract<Look, { kind: 'shape' }>> = {}
): Look => ({
  kind: 'shape',
  form,
  width,
  height,
  corner: 0,
  points: 5,
  inner: 0.5,
  fill: '#175c4e',
  fillOpacity: 1,
  stroke: null,
  ...more
})

export interface Sized {
  width: number
  height: number
  rate: Rate
  seconds: number
}

export const emptyScene = (name: string, { width, height, rate, seconds }: Sized): Scene => ({
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
