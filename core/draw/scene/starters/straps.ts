/** Straps: names in the lower part of the picture. */
import type { HexColour } from '../../../base/colour'
import { lettered } from '../elements/lettering'
import type { Look } from '../elements/kinds'
import { figure } from '../elements/shape'
import { emptyScene, newElement } from '../fresh'
import type { Element } from '../scene'
import { colourOf, move, strapFields, type Starter } from './parts'

export const straps: readonly Starter[] = [
  {
    id: 'name-strap',
    name: 'Name strap',
    help: 'A translucent bar with a name and a line below it, for the lower left.',
    fields: strapFields,
    seconds: 4,
    make(fields, sized) {
      const { width, height } = sized
      const u = Math.min(height / 1080, width / 1920)
      const [x, y] = [130 * u, height - 280 * u]
      const wide = Math.min(width - 2 * x, 980 * u)
      const at = (id: string, name: string, look: Look): Element => ({
        ...newElement(id, name, look, sized),
        pin: 'bottom left'
      })
      const strap = {
        ...at(
          'bar',
          'Bar',
          figure('rectangle', wide, 170 * u, {
            corner: 10 * u,
            fill: colourOf(fields.bar, '#175c4e'),
            fillOpacity: 0.6
          })
        ),
        x: x + wide / 2,
        y: y + 85 * u
      }
      const edge = {
        ...at('edge', 'Edge', figure('rectangle', 14 * u, 170 * u, { fill: colourOf(fields.accent, '#e2b242') })),
        x: x + 7 * u,
        y: y + 85 * u
      }
      const name = {
        ...at(
          'name',
          'Name',
          lettered(fields.name ?? '', 74 * u, { field: 'name', colour: colourOf(fields.ink, '#f6f3ea') })
        ),
        x: x + 48 * u,
        y: y + 84 * u
      }
      const line = {
        ...at(
          'line',
          'Second line',
          lettered(fields.line ?? '', 40 * u, { field: 'line', face: 'sans', colour: colourOf(fields.ink, '#f6f3ea') })
        ),
        x: x + 48 * u,
        y: y + 138 * u
      }
      // lettering goes as its bar does, and never stands beside it
      const away = move('wipe', 0.5, { side: 'right' })
      return {
        ...emptyScene('name strap', sized),
        elements: [
          { ...line, after: 'bar', delay: 0.15, entrance: move('fade', 0.4), exit: away },
          { ...name, after: 'bar', entrance: move('letters', 0.7, { ease: 'slow out' }), exit: away },
          { ...edge, entrance: move('wipe', 0.35, { side: 'top' }), exit: away },
          { ...strap, delay: 0.1, entrance: move('wipe', 0.6), exit: away }
        ]
      }
    }
  },
  {
    id: 'fitting-strap',
    name: 'Strap that fits',
    help: 'Two bars, each as wide as its words; what is too long for the picture shrinks. For names from a table.',
    fields: strapFields,
    seconds: 4,
    make(fields, sized) {
      const { width, height } = sized
      const u = Math.min(height / 1080, width / 1920)
      const x = 150 * u
      const words = (id: 'name' | 'line', name: string, size: number, colour: HexColour): Element => {
        const box = { width: Math.max(1, width - 2 * x), lines: 1, least: 0.4, clip: false }
        const face = id === 'name' ? 'sans-half-bold' : 'sans'
        const look = lettered(fields[id] ?? '', size * u, { field: id, face, colour, box })
        return { ...newElement(id, name, look, sized), pin: 'bottom left', x }
      }
      const behind = (id: string, name: string, lettering: string, fill: HexColour): Element => {
        const follows = { lettering, beyond: 28 * u }
        const look = figure('rectangle', 400 * u, (lettering === 'name' ? 104 : 66) * u, { fill, follows })
        return { ...newElement(id, name, look, sized), pin: 'bottom left', x }
      }
      const [ground, light] = [colourOf(fields.bar, '#175c4e'), colourOf(fields.accent, '#e2b242')]
      const name = { ...words('name', 'Name', 68, colourOf(fields.ink, '#f6f3ea')), y: height - 232 * u }
      const line = { ...words('line', 'Second line', 38, ground), y: height - 148 * u }
      const large = { ...behind('name-bar', 'Bar of the name', 'name', ground), y: height - 254 * u }
      const small = { ...behind('line-bar', 'Bar of the line', 'line', light), y: height - 161 * u }
      large.look = { ...large.look, fillOpacity: 0.8 } as Look
      const away = move('wipe', 0.4, { side: 'right' })
      return {
        ...emptyScene('strap that fits', sized),
        elements: [
          { ...line, after: 'line-bar', entrance: move('fade', 0.3), exit: away },
          { ...name, after: 'name-bar', entrance: move('fade', 0.4), exit: away },
          { ...small, delay: 0.35, entrance: move('wipe', 0.4), exit: away },
          { ...large, entrance: move('wipe', 0.5), exit: away }
        ]
      }
    }
  }
]
