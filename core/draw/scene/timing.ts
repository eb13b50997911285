/** When the elements of a scene come, stay and go, and what they are at a time. */
import { eased } from './ease'
import type { ElementBase } from './element'
import { tintAt, type Tint } from './tint'
import type { Keyed } from './values'

/** Times in seconds: there from `start`, whole at `whole`, going from `leave`, gone at `end`. */
export interface Times {
  start: number
  whole: number
  leave: number
  end: number
}

/** A scene, as far as times go. */
export interface Timed {
  frames: number
  rate: readonly [number, number]
  elements: readonly ElementBase[]
}

/** Seconds that a scene lasts. */
export const lastsOf = ({ frames, rate: [n, d] }: Pick<Timed, 'frames' | 'rate'>): number => (frames * d) / n

/** The times of all elements, by id. Elements that wait for each other in a circle begin at once. */
export function timesOf(scene: Timed): Map<string, Times> {
  const lasts = lastsOf(scene)
  const byId = new Map(scene.elements.map(element => [element.id, element]))
  const known = new Map<string, Times>()
  const timesOfOne = (element: ElementBase, waiting: ReadonlySet<string>): Times => {
    const found = known.get(element.id)
    if (found) return found
    const before = element.after === null || waiting.has(element.after) ? undefined : byId.get(element.after)
    const start = (before ? timesOfOne(before, new Set([...waiting, element.id])).whole : 0) + element.delay
    const whole = start + (element.entrance.kind === 'none' ? 0 : element.entrance.seconds)
    const leaves = element.exit.kind === 'none' ? 0 : element.exit.seconds
    const leave = element.hold === null ? Math.max(whole, lasts - leaves) : whole + element.hold
    const times = { start, whole, leave, end: element.hold === null && leaves === 0 ? Infinity : leave + leaves }
    known.set(element.id, times)
    return times
  }
  for (const element of scene.elements) timesOfOne(element, new Set())
  return known
}

/** What an element is at a time. */
export interface Moment {
  /** How far it has come in, and how far it is gone, 0 to 1, eased. */
  come: number
  gone: number
  values: Record<Keyed, number>
  /** The colour it has then, where it changes over time. */
  tint: Tint | null
}

/** A value of an element at a time: that of its keys, or the fallback where it has none. */
export function keyed(element: ElementBase, of: Keyed, fallback: number, at: number): number {
  const track = element.tracks.find(track => track.of === of)
  if (!track) return fallback
  const keys = [...track.keys].sort((a, b) => a.at - b.at)
  const next = keys.findIndex(key => key.at > at)
  if (next === 0) return keys[0]!.value
  if (next < 0) return keys.at(-1)!.value
  const [from, to] = [keys[next - 1]!, keys[next]!]
  if (from.holds) return from.value
  return from.value + (to.value - from.value) * eased(from.ease, (at - from.at) / (to.at - from.at))
}

/** Null while the element is not there. Times of keys count from the start of the scene. */
export function momentOf(element: ElementBase, { start, whole, leave, end }: Times, at: number): Moment | null {
  // what comes without a movement is there from its first moment on; what goes without one is gone with its last
  if (at < start || at >= end) return null
  const come = whole > start ? eased(element.entrance.ease, (at - start) / (whole - start)) : 1
  const gone = at > leave && end > leave ? eased(element.exit.ease, (at - leave) / (end - leave)) : 0
  return {
    come,
    gone,
    tint: tintAt(element.colours, at),
    values: {
      x: keyed(element, 'x', element.x, at),
      y: keyed(element, 'y', element.y, at),
      scale: keyed(element, 'scale', element.scale, at),
      rotation: keyed(element, 'rotation', element.rotation, at),
      wide: Math.max(0, keyed(element, 'wide', element.wide ?? 1, at)),
      tall: Math.max(0, keyed(element, 'tall', element.tall ?? 1, at)),
      opacity: Math.min(1, Math.max(0, keyed(element, 'opacity', element.opacity, at))),
      trace: Math.min(1, Math.max(0, keyed(element, 'trace', 1, at))),
      dashes: keyed(element, 'dashes', 0, at),
      along: Math.min(1, Math.max(0, keyed(element, 'along', 0, at))),
      depth: keyed(element, 'depth', element.depth ?? 0, at),
      seconds: keyed(element, 'seconds', 0, at)
    }
  }
}

/** How strongly an element is there at a time, from 0 to 1. */
export function presenceOf(element: ElementBase, times: Times, at: number): number {
  const moment = momentOf(element, times, at)
  if (!moment) return 0
  return Math.min(1, Math.max(0, moment.come * (1 - moment.gone))) * moment.values.opacity
}
