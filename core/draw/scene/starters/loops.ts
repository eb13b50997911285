/** Starters that run without a seam: a ticker, names in turn, a sparkle. */
import { figure } from '../elements/shape'
import { lettered } from '../elements/lettering'
import type { ParticlesLook } from '../elements/particles/look'
import { emptyScene, newElement } from '../fresh'
import type { Element } from '../scene'
import { accent, bar, colourOf, ink, move, type Starter } from './parts'

/** Whether a letter may be as wide as it is high: those of East Asia and all beyond. */
const isWide = (letter: string): boolean => letter.codePointAt(0)! >= 0x1100

/** Pixels that words are surely no wider than. */
const widest = (words: string, size: number): number =>
  [...words].reduce((sum, letter) => sum + (isWide(letter) ? 1.1 : 0.8) * size, 0)

/** The largest a scene of 1920 by 1080 can be drawn at in another size. */
const unitOf = ({ width, height }: { width: number; height: number }): number => Math.min(height / 1080, width / 1920)

const ticker: Starter = {
  id: 'ticker',
  name: 'Ticker',
  help: 'One line of news that passes once over a bar; it begins and ends with the bar empty, and so repeats.',
  fields: [
    {
      id: 'text',
      label: 'Line',
      kind: 'text',
      default: 'Night opening on Thursday until eleven  ·  The agave flowers for the first time in thirty years'
    },
    bar,
    ink
  ],
  seconds: 14,
  make(fields, sized) {
    const { width, height, seconds } = sized
    const u = unitOf(sized)
    const size = 44 * u
    const line = lettered(fields.text ?? '', size, {
      face: 'sans',
      field: 'text',
      colour: colourOf(fields.ink, '#f6f3ea')
    })
    const y = height - 96 * u
    const place = { x: width / 2, y, pin: 'bottom left' as const }
    return {
      ...emptyScene('ticker', sized),
      elements: [
        {
          ...newElement('text', 'Line', line, sized),
          ...{ ...place, x: width, y: y + size * 0.36 },
          tracks: [
            {
              of: 'x' as const,
              keys: [
                { at: 0, value: width, ease: 'linear' as const },
                { at: seconds, value: -widest(fields.text ?? '', size), ease: 'linear' as const }
              ]
            }
          ]
        },
        {
          ...newElement('bar', 'Bar', figure('rectangle', width, 84 * u, { fillOpacity: 0.75 }), sized),
          ...place,
          look: figure('rectangle', width, 84 * u, { fill: colourOf(fields.bar, '#175c4e'), fillOpacity: 0.75 })
        }
      ]
    }
  }
}

const NAMES = ['one', 'two', 'three'] as const

const sponsors: Starter = {
  id: 'sponsor-loop',
  name: 'Names in turn',
  help: 'Three names on one plate, one after the other, over and over without a seam.',
  fields: [
    { id: 'above', label: 'Above them', kind: 'text', default: 'With thanks to' },
    { id: 'one', label: 'First', kind: 'text', default: 'Fernbrook Seed Library' },
    { id: 'two', label: 'Second', kind: 'text', default: 'Northgate Kilns' },
    { id: 'three', label: 'Third', kind: 'text', default: 'The Lantern Makers' },
    bar,
    ink,
    accent
  ],
  seconds: 9,
  make(fields, sized) {
    const { width, height, seconds } = sized
    const u = unitOf(sized)
    const each = seconds / NAMES.length
    const fades = Math.min(0.5, each / 4)
    const place = { x: width - 340 * u, y: height - 170 * u, pin: 'bottom right' as const }
    const words = { align: 'centre' as const, colour: colourOf(fields.ink, '#f6f3ea') }
    const names = NAMES.map((id, n): Element => {
      const box = { width: 480 * u, lines: 1, least: 0.4, clip: false }
      return {
        ...newElement(id, `Name ${n + 1}`, lettered(fields[id] ?? '', 42 * u, { ...words, field: id, box }), sized),
        ...{ ...place, y: place.y + 42 * u },
        delay: n * each,
        entrance: move('fade', fades),
        hold: each - 2 * fades,
        exit: move('fade', fades)
      }
    })
    const plate = { fill: colourOf(fields.bar, '#175c4e'), fillOpacity: 0.8, corner: 12 * u }
    return {
      ...emptyScene('names in turn', sized),
      elements: [
        ...names,
        {
          ...newElement(
            'above',
            'Above them',
            lettered(fields.above ?? '', 26 * u, {
              ...words,
              face: 'sans',
              colour: colourOf(fields.accent, '#e2b242')
            }),
            sized
          ),
          ...{ ...place, y: place.y - 22 * u }
        },
        { ...newElement('plate', 'Plate', figure('rectangle', 540 * u, 150 * u, plate), sized), ...place }
      ]
    }
  }
}

/** Stars that twinkle within a box, over and over. */
const twinkles = (u: number, seconds: number, colour: string): ParticlesLook => ({
  ...{ kind: 'particles', seed: 7, form: 'star', rate: 14, life: Math.min(1.4, seconds), differ: 0.4 },
  ...{ width: 900 * u, height: 620 * u, way: -90, fan: 60, speed: 26 * u, drag: 0.4, gravity: 0 },
  ...{ turbulence: 12 * u, size: 30 * u, sizeEnd: 90 * u, colour: '#ffffff', colourEnd: colour },
  ...{ fadeIn: 0.3, fadeOut: 0.6, spin: 40, before: true, every: seconds }
})

const sparkle: Starter = {
  id: 'sparkle',
  name: 'Sparkle',
  help: 'Stars that twinkle about a light that comes and goes, without a seam; to lay over a mark or a word.',
  fields: [accent],
  seconds: 3,
  make(fields, sized) {
    const { width, height, seconds } = sized
    const u = unitOf(sized)
    const colour = colourOf(fields.accent, '#e2b242')
    const middle = { x: width / 2, y: height / 2 }
    const key = (at: number, value: number): { at: number; value: number; ease: 'soft' } => ({
      at,
      value,
      ease: 'soft'
    })
    return {
      ...emptyScene('sparkle', sized),
      elements: [
        { ...newElement('stars', 'Stars', twinkles(u, seconds, colour), sized), ...middle },
        {
          ...newElement(
            'light',
            'Light',
            figure('star', 420 * u, 420 * u, { points: 4, inner: 0.12, fill: '#ffffff' }),
            sized
          ),
          ...middle,
          glow: { soft: 120 * u, colour, opacity: 0.9 },
          tracks: [
            { of: 'scale' as const, keys: [key(0, 0.5), key(seconds / 2, 1.1), key(seconds, 0.5)] },
            { of: 'opacity' as const, keys: [key(0, 0.5), key(seconds / 2, 1), key(seconds, 0.5)] },
            { of: 'rotation' as const, keys: [{ ...key(0, 0), ease: 'linear' }, key(seconds, 90)] }
          ]
        }
      ]
    }
  }
}

export const loops: readonly Starter[] = [ticker, sponsors, sparkle]
