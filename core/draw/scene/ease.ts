/** The course of a movement from 0 to 1. */
import bezier from 'bezier-easing'
import type { Ease } from './values'

/** Handles of a cubic from 0, 0 to 1, 1. */
export type Handles = readonly [number, number, number, number]

const NAMED: Readonly<Record<Exclude<Ease, Handles>, Handles>> = {
  linear: [0, 0, 1, 1],
  soft: [0.42, 0, 0.58, 1],
  'slow in': [0.5, 0, 1, 1],
  'slow out': [0, 0, 0.3, 1],
  beyond: [0.3, 1.6, 0.6, 1]
}

/** The curve of a course, named or its own. */
export const handlesOf = (ease: Ease): Handles => (typeof ease === 'string' ? NAMED[ease] : ease)

const made = new Map<string, (t: number) => number>()

/** Where a movement of this course stands at `t`, held to 0 to 1; it may itself go beyond. */
export function eased(ease: Ease, t: number): number {
  const at = Math.min(1, Math.max(0, t))
  if (ease === 'linear') return at
  const handles = handlesOf(ease)
  const key = handles.join()
  let course = made.get(key)
  if (!course) made.set(key, (course = bezier(...handles)))
  return course(at)
}
