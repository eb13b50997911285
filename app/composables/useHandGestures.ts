/**
 * What a drag over a scene's picture comes to: an attempt at moving, sizing or turning, the lines it snaps to, and
 * where elements stand meanwhile.
 */
import { ref, shallowRef, watch } from 'vue'
import {
  gripAt,
  linesFor,
  moveBy,
  size,
  snapBox,
  snapSpot,
  turn,
  type Grip,
  type Snap,
  type Spot,
  type Stand,
  type Stands
} from '~~/core/draw/scene/hands'
import { NOTHING, united } from '~~/core/draw/scene/extent'
import type { Scene } from '~~/core/draw/scene/scene'

/** What is done: with several elements, or with one. */
export type Gesture =
  | { kind: 'move'; ids: readonly string[] }
  | { kind: 'size'; id: string; grip: Grip }
  | { kind: 'turn'; id: string; about: Spot }

type Change = (scene: Scene) => void

interface Around {
  scene: () => Scene
  stands: () => Stands
  /** Pixels of the picture in one of the screen's. */
  perPixel: () => number
  attempt: (change: Change | null) => void
  keep: (label: string, change: Change) => void
}

/** How near a line is snapped to, and how far a hand goes before it moves anything, in CSS pixels. */
const SNAPS = 6
const STILL = 2
/** Steps that turning with Shift goes by, and how near to upright it snaps, in degrees. */
const STEP = 15
const UPRIGHT = 2

const NO_LINES: Pick<Snap, 'x' | 'y'> = { x: null, y: null }

const rounded = ([x, y]: Spot): Spot => [Math.round(x * 100) / 100, Math.round(y * 100) / 100]
const figure = (value: number): string => String(Math.round(value * 10) / 10)
/** Degrees as from -180 to 180. */
const upTo180 = (degrees: number): number => ((((degrees + 180) % 360) + 360) % 360) - 180

export function useHandGestures({ scene, stands, perPixel, attempt, keep }: Around) {
  let held: { gesture: Gesture; from: Spot; start: Stands; moved: boolean } | null = null
  /** What would become of it, and its words. */
  let last: { label: string; change: Change } | null = null
  /** Where elements stand while the hand moves them. */
  const going = shallowRef<Stands | null>(null)
  const guides = shallowRef(NO_LINES)
  /** What it comes to, in a few words. */
  const said = ref('')
  // what was kept stands there once the scene is laid out anew
  watch(stands, () => {
    if (!held) going.value = null
  })

  function begin(gesture: Gesture, from: Spot): void {
    held = { gesture, from, start: stands(), moved: false }
    last = null
  }

  function attempted(label: string, change: (scene: Scene) => (readonly [string, Stand])[]): void {
    last = { label, change: now => void change(now) }
    attempt(now => {
      const after = change(now)
      going.value = { ...stands(), ...Object.fromEntries(after) }
    })
  }

  function moveTo(ids: readonly string[], start: Stands, way: Spot, { reach, shift }: How): void {
    const there = ids.filter(id => start[id])
    if (!there.length) return
    let [dx, dy] = [Math.round(way[0]), Math.round(way[1])]
    // with Shift only across or only down
    const [across, down] = [!shift || Math.abs(dx) > Math.abs(dy), !shift || Math.abs(dx) <= Math.abs(dy)]
    ;[dx, dy] = [across ? dx : 0, down ? dy : 0]
    const [l, t, r, b] = there.map(id => start[id]!.box).reduce(united, NOTHING)
    const { by: snapped, ...lines } = snapBox([l + dx, t + dy, r + dx, b + dy], linesFor(scene(), start, there), reach)
    const by = rounded([dx + (across ? snapped[0] : 0), dy + (down ? snapped[1] : 0)])
    guides.value = { x: across ? lines.x : null, y: down ? lines.y : null }
    said.value = `${figure(by[0])}, ${figure(by[1])}`
    attempted('Move', now => there.map(id => [id, moveBy(now, id, start[id]!, by)] as const))
  }

  function sizeTo({ id, grip }: { id: string; grip: Grip }, start: Stands, way: Spot, { reach, shift }: How): void {
    const stand = start[id]!
    const from = gripAt(stand, grip)
    const snap = snapSpot([from[0] + way[0], from[1] + way[1]], linesFor(scene(), start, [id]), reach)
    // a turned element's edges lie on no line, and a corner that keeps its shape goes where that takes it
    const upright = Math.abs(stand.at.b) + Math.abs(stand.at.c) < 1e-9
    const snaps = upright && (grip.across === 0 || grip.down === 0 || shift)
    const by: Spot = snaps ? [way[0] + snap.by[0], way[1] + snap.by[1]] : way
    guides.value = { x: snaps && grip.across ? snap.x : null, y: snaps && grip.down ? snap.y : null }
    attempted('Size', now => {
      const next = size(now, id, stand, { grip, by, free: shift })
      said.value = `${figure(next.box[2] - next.box[0])} × ${figure(next.box[3] - next.box[1])}`
      return [[id, next] as const]
    })
  }

  function turnTo({ id, about }: { id: string; about: Spot }, start: Stands, at: Spot, { shift }: How): void {
    const stand = start[id]!
    const degrees = (Math.atan2(at[1] - about[1], at[0] - about[0]) * 180) / Math.PI + 90
    const before = (Math.atan2(stand.at.b, stand.at.a) * 180) / Math.PI
    const quarter = Math.round(degrees / 90) * 90
    const near = Math.abs(degrees - quarter) < UPRIGHT ? quarter : Math.round(degrees * 10) / 10
    const wanted = shift ? Math.round(degrees / STEP) * STEP : near
    said.value = `${figure(upTo180(wanted))}°`
    attempted('Turn', now => [[id, turn(now, id, stand, upTo180(wanted - before))] as const])
  }

  /** Whether a hand is at it; what it comes to at a place of the picture is tried then. */
  function move(at: Spot, { altKey, shiftKey }: Pick<PointerEvent, 'altKey' | 'shiftKey'>): boolean {
    if (!held) return false
    const way: Spot = [at[0] - held.from[0], at[1] - held.from[1]]
    if (!held.moved && Math.hypot(...way) < STILL * perPixel()) return true
    held.moved = true
    const { gesture, start } = held
    // Alt snaps to nothing
    const how: How = { reach: altKey ? 0 : SNAPS * perPixel(), shift: shiftKey }
    if (gesture.kind === 'move') moveTo(gesture.ids, start, way, how)
    else if (gesture.kind === 'size') sizeTo(gesture, start, way, how)
    else turnTo(gesture, start, at, how)
    return true
  }

  function letGo(): void {
    held = last = null
    guides.value = NO_LINES
    said.value = ''
  }

  /** Keeps what was tried; says whether a hand was there and moved nothing: a click. */
  function up(): boolean {
    const [done, clicked] = [last, held !== null && !held.moved]
    letGo()
    if (done) keep(done.label, done.change)
    return clicked
  }

  /** Gives up what is going on, and says whether anything was. */
  function giveUp(): boolean {
    const was = held !== null
    letGo()
    going.value = null
    if (was) attempt(null)
    return was
  }

  return { begin, move, up, giveUp, going, guides, said }
}

interface How {
  /** How near a line is snapped to, in pixels of the picture. */
  reach: number
  shift: boolean
}
