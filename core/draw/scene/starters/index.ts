/** Scenes to begin with: a form of a few fields makes a whole scene, which is then edited like any other. */
import { emptyScene, newElement } from '../fresh'
import { figure } from '../elements/shape'
import { lettered } from '../elements/lettering'
import { MOTH_SECONDS, mothScene } from '../moth'
import type { HexColour } from '../../../base/colour'
import { accent, colourOf, ink, move, type Starter } from './parts'
import { loops } from './loops'
import { straps } from './straps'

export type { Starter, StarterField } from './parts'

export const starters: readonly Starter[] = [
  ...straps,
  ...loops,
  {
    id: 'growth-arrow',
    name: 'Growth arrow',
    help: 'A line that draws itself upwards, with an arrow head at its tip.',
    fields: [{ id: 'colour', label: 'Colour', kind: 'colour', default: '#4a7c34' }],
    seconds: 3,
    make(fields, sized) {
      const { width, height } = sized
      const colour = colourOf(fields.colour, '#4a7c34')
      const spot = (
        x: number,
        y: number,
        reach: number
      ): { x: number; y: number; before: [number, number]; after: [number, number] } => ({
        x: x * width,
        y: y * height,
        before: [-reach * width, 0],
        after: [reach * width, 0]
      })
      const arrow = newElement(
        'arrow',
        'Arrow',
        {
          kind: 'path',
          points: [
            { ...spot(-0.35, 0.3, 0.08), before: null },
            spot(-0.12, 0.08, 0.07),
            spot(0.1, 0.12, 0.06),
            { ...spot(0.33, -0.3, 0.1), after: null, before: [-0.1 * width, 0.16 * height] }
          ],
          closed: false,
          fill: null,
          stroke: { colour, width: height / 54 },
          rider: 'arrow',
          riderSize: height / 12
        },
        sized
      )
      return {
        ...emptyScene('growth arrow', sized),
        elements: [
          {
            ...arrow,
            entrance: move('trace', 0.7 * sized.seconds),
            shadow: { x: 0, y: height / 120, soft: height / 60, colour: '#000000', opacity: 0.35 }
          }
        ]
      }
    }
  },
  {
    id: 'corner-mark',
    name: 'Corner mark',
    help: 'A small mark that stays in the upper right corner.',
    fields: [
      { id: 'text', label: 'Mark', kind: 'text', default: 'FERNBROOK' },
      { id: 'colour', label: 'Colour', kind: 'colour', default: '#f6f3ea' }
    ],
    seconds: 5,
    make(fields, sized) {
      const { width, height } = sized
      const u = Math.min(height / 1080, width / 1920)
      const colour = colourOf(fields.colour, '#f6f3ea')
      const pinned = { pin: 'top right' as const, opacity: 0.8, entrance: move('fade', 0.5), exit: move('fade', 0.5) }
      return {
        ...emptyScene('corner mark', sized),
        elements: [
          {
            ...newElement(
              'text',
              'Lettering',
              lettered(fields.text ?? '', 34 * u, { align: 'right', tracking: 120, colour }),
              sized
            ),
            ...pinned,
            x: width - 70 * u,
            y: 96 * u
          },
          {
            ...newElement('line', 'Line', figure('rectangle', 250 * u, 4 * u, { fill: colour }), sized),
            ...pinned,
            x: width - 195 * u,
            y: 116 * u
          }
        ]
      }
    }
  },
  {
    id: 'opening-title',
    name: 'Opening title',
    help: 'Two lines in the middle, word by word, with a soft shadow.',
    fields: [
      { id: 'title', label: 'Title', kind: 'text', default: 'The Glasshouse at Night' },
      { id: 'line', label: 'Second line', kind: 'text', default: 'Fernbrook' },
      ink
    ],
    seconds: 5,
    make(fields, sized) {
      const { width, height } = sized
      const u = Math.min(height / 1080, width / 1920)
      const colour = colourOf(fields.ink, '#f6f3ea')
      const shadow = { x: 0, y: 6 * u, soft: 24 * u, colour: '#000000' as HexColour, opacity: 0.55 }
      return {
        ...emptyScene('opening title', sized),
        elements: [
          {
            ...newElement(
              'line',
              'Second line',
              lettered(fields.line ?? '', 46 * u, {
                align: 'centre',
                tracking: 300,
                field: 'line',
                face: 'sans',
                colour
              }),
              sized
            ),
            x: width / 2,
            y: height / 2 + 100 * u,
            shadow,
            after: 'title',
            entrance: move('fade', 0.8),
            exit: move('fade', 0.6)
          },
          {
            ...newElement(
              'title',
              'Title',
              lettered(fields.title ?? '', 120 * u, { align: 'centre', field: 'title', colour }),
              sized
            ),
            x: width / 2,
            y: height / 2 + 5 * u,
            shadow,
            delay: 0.2,
            entrance: move('words', 1.4, { ease: 'slow out' }),
            exit: move('fade', 0.6)
          }
        ]
      }
    }
  },
  {
    id: 'countdown',
    name: 'Countdown',
    help: 'Five, four, three, two, one, in a ring that closes each second.',
    fields: [ink, accent],
    seconds: 5,
    make(fields, sized) {
      const { width, height } = sized
      const u = Math.min(height / 1080, width / 1920)
      const each = sized.seconds / 5
      const middle = { x: width / 2, y: height / 2 }
      const digits = [5, 4, 3, 2, 1].map((digit, n) => ({
        ...newElement(
          `digit-${digit}`,
          String(digit),
          lettered(String(digit), 300 * u, {
            align: 'centre',
            face: 'sans-bold',
            colour: colourOf(fields.ink, '#f6f3ea')
          }),
          sized
        ),
        ...middle,
        y: height / 2 + 105 * u,
        delay: n * each,
        entrance: move('fade', 0.12 * each),
        hold: 0.7 * each,
        exit: move('fade', 0.18 * each)
      }))
      const ring = {
        ...newElement(
          'ring',
          'Ring',
          figure('ellipse', 520 * u, 520 * u, {
            fill: null,
            stroke: { colour: colourOf(fields.accent, '#e2b242'), width: 16 * u }
          }),
          sized
        ),
        ...middle,
        rotation: -90,
        tracks: [
          {
            of: 'trace' as const,
            keys: [0, 1, 2, 3, 4].flatMap(n => [
              { at: n * each, value: 0, ease: 'linear' as const },
              { at: (n + 1) * each - 0.001, value: 1, ease: 'linear' as const }
            ])
          }
        ]
      }
      return { ...emptyScene('countdown', sized), elements: [...digits, ring] }
    }
  },
  {
    id: 'loop',
    name: 'Loop',
    help: 'A star that turns without a seam.',
    fields: [accent],
    seconds: 2,
    make(fields, sized) {
      const { width, height } = sized
      const star = newElement(
        'star',
        'Star',
        figure('star', 0.6 * height, 0.6 * height, {
          points: 6,
          inner: 0.55,
          fill: colourOf(fields.accent, '#e2b242')
        }),
        sized
      )
      return {
        ...emptyScene('loop', sized),
        elements: [
          {
            ...star,
            x: width / 2,
            y: height / 2,
            tracks: [
              {
                of: 'rotation' as const,
                // a sixth of a turn, after which the star is the same
                keys: [
                  { at: 0, value: 0, ease: 'linear' as const },
                  { at: sized.seconds, value: 60, ease: 'linear' as const }
                ]
              }
            ]
          }
        ]
      }
    }
  },
  {
    id: 'moth',
    name: 'Moth with three actions',
    help: 'A character made of groups: it hovers, settles and takes off, each a span that can be poured by itself.',
    fields: [
      { id: 'wing', label: 'Wings', kind: 'colour', default: '#845234' },
      { id: 'hind', label: 'Hind wings', kind: 'colour', default: '#c69a67' },
      { id: 'body', label: 'Body', kind: 'colour', default: '#3e2717' }
    ],
    seconds: MOTH_SECONDS,
    make: (fields, sized) =>
      mothScene(
        {
          wing: colourOf(fields.wing, '#845234'),
          hind: colourOf(fields.hind, '#c69a67'),
          body: colourOf(fields.body, '#3e2717')
        },
        sized
      )
  }
]
