/** The starter that is a character: a moth whose three actions are spans. */
import type { HexColour } from '../../base/colour'
import type { Element, Scene } from './scene'
import type { Look } from './elements/kinds'
import type { Track } from './values'
import { emptyScene, newElement, type SceneSize } from './fresh'
import { figure } from './elements/shape'

/** Seconds of the whole as it is written here; other lengths stretch it. */
export const MOTH_SECONDS = 6

type Side = -1 | 1
type Shape = readonly [x: number, y: number, across: number, down: number, degrees: number]

const FORE: Shape = [92, -30, 208, 112, -16]
const HIND: Shape = [54, 52, 124, 72, 29]
const SPOT: Shape = [88, -34, 34, 34, 0]
const PUPIL: Shape = [88, -34, 14, 14, 0]

export interface MothColours {
  wing: HexColour
  hind: HexColour
  body: HexColour
}

/** Values at seconds, with soft courses from each to the next. */
const track = (of: Track['of'], keys: readonly (readonly [at: number, value: number])[], by: number): Track => ({
  of,
  keys: keys.map(([at, value]) => ({ at: at * by, value, ease: 'soft' }))
})

/** The wings' turn: even beats while it hovers, slower ones and folded as it settles, quick ones as it takes off. */
function beats(): [at: number, turn: number][] {
  const [up, down] = [-17, 15]
  const keys: [number, number][] = []
  for (let n = 0; n <= 8; n++) keys.push([n * 0.25, n % 2 ? down : up])
  keys.push([2.4, down], [2.9, up / 2], [3.4, 32], [4.1, 32])
  for (let n = 0; n <= 12; n++) keys.push([4.3 + n * 0.13, n % 2 ? down : up])
  return keys
}

/** The moth in these colours, with a span for each of its actions. */
export function mothScene({ wing, hind, body }: MothColours, sized: SceneSize): Scene {
  const { width, height, seconds } = sized
  const u = height / 360
  const by = seconds / MOTH_SECONDS
  const inside = (id: string, name: string, group: string, look: Look): Element => ({
    ...newElement(id, name, look, sized),
    x: 0,
    y: 0,
    inside: group
  })
  const oval = (id: string, name: string, [group, side]: [string, Side], shape: Shape, fill: HexColour): Element => {
    const [x, y, across, down, degrees] = shape
    return {
      ...inside(id, name, group, figure('ellipse', across * u, down * u, { fill })),
      x: side * x * u,
      y: y * u,
      rotation: side * degrees
    }
  }
  const wings = ([-1, 1] as const).flatMap(side => {
    const called = side < 0 ? 'left' : 'right'
    const group = `${called}-wing`
    const pair: [string, Side] = [group, side]
    return [
      {
        ...inside(group, `Wings on the ${called}`, 'moth', { kind: 'group' }),
        tracks: [
          track(
            'rotation',
            beats().map(([at, turn]) => [at, side * turn]),
            by
          )
        ]
      },
      oval(`${called}-pupil`, 'Eye spot, inner', pair, PUPIL, body),
      oval(`${called}-spot`, 'Eye spot', pair, SPOT, '#f0d9b0'),
      oval(`${called}-fore`, 'Fore wing', pair, FORE, wing),
      oval(`${called}-hind`, 'Hind wing', pair, HIND, hind)
    ]
  })
  const feelers = ([-1, 1] as const).map(side => ({
    ...inside(`feeler${side < 0 ? '-left' : '-right'}`, 'Feeler', 'moth', {
      kind: 'path',
      points: [
        { x: side * 4 * u, y: -60 * u, before: null, after: [side * 6 * u, -22 * u] },
        { x: side * 40 * u, y: -106 * u, before: [side * -16 * u, 8 * u], after: null }
      ],
      closed: false,
      fill: null,
      stroke: { colour: body, width: 3 * u },
      rider: 'none',
      riderSize: 0
    })
  }))
  const moth: Element = {
    ...newElement('moth', 'Moth', { kind: 'group' }, sized),
    shadow: { x: 0, y: 7 * u, soft: 14 * u, colour: '#000000', opacity: 0.3 },
    tracks: [
      track(
        'y',
        [
          [0, 0.52],
          [0.5, 0.49],
          [1, 0.52],
          [1.5, 0.49],
          [2, 0.52],
          [3.4, 0.64],
          [4.3, 0.64],
          [6, -0.4]
        ].map(([at, share]) => [at!, share! * height]),
        by
      ),
      track(
        'x',
        [
          [4.3, 0.5],
          [6, 0.86]
        ].map(([at, share]) => [at!, share! * width]),
        by
      ),
      track(
        'rotation',
        [
          [4.3, 0],
          [5.2, 24]
        ],
        by
      )
    ]
  }
  const scene = emptyScene('moth', sized)
  const frameAt = (at: number): number => Math.max(1, Math.round((at / MOTH_SECONDS) * scene.frames))
  return {
    ...scene,
    elements: [
      moth,
      inside('body', 'Body', 'moth', figure('ellipse', 26 * u, 132 * u, { fill: body })),
      ...feelers,
      ...wings
    ],
    spans: [
      { name: 'hover', from: 1, to: frameAt(2) },
      { name: 'settle', from: frameAt(2) + 1, to: Math.max(frameAt(2) + 1, frameAt(4)) },
      { name: 'take off', from: Math.min(scene.frames, frameAt(4) + 1), to: scene.frames }
    ].filter(({ from, to }) => from <= to && to <= scene.frames)
  }
}
