/** Shapes: rectangles, ellipses, polygons and stars. */
import { Painter } from '../../ink'
import { alike, choiceEntry, numberEntry } from '../entry'
import { elementKind } from '../kind'
import { boxOfLines, fillEntries, FIRST_FILL, inkOutline, lookOwner, repainted } from '../painted'
import { schema, type ShapeLook } from './look'
import { figureLine } from './outline'

/** A solid shape of this size. */
export const figure = (
  form: ShapeLook['form'],
  width: number,
  height: number,
  more: Partial<ShapeLook> = {}
): ShapeLook => ({
  kind: 'shape',
  form,
  width,
  height,
  corner: 0,
  points: 5,
  inner: 0.5,
  fill: FIRST_FILL,
  fillOpacity: 1,
  stroke: null,
  ...more
})

const CALLED = { rectangle: 'Rectangle', ellipse: 'Ellipse', polygon: 'Polygon', star: 'Star' } as const

export const shape = elementKind({
  schema,
  name: 'Shape',
  help: 'A rectangle, ellipse, polygon or star, filled and outlined.',
  begins: {
    from: 'size',
    fresh: ({ height }) =>
      figure('rectangle', Math.round((480 * height) / 1080), Math.round((200 * height) / 1080), { fillOpacity: 0.6 })
  },
  comes: 'fade',
  moves: ['trace'],
  called: ({ form }) => CALLED[form],
  paint: ({ fill, stroke }) => fill ?? stroke?.colour ?? null,
  entries(look) {
    const owner = lookOwner(look)
    const { form, width, height, corner, points, inner, fillOpacity } = schema.shape
    const pointed = look.form === 'polygon' || look.form === 'star'
    return [
      choiceEntry(owner, 'Form', ['form', alike(form.options)]),
      numberEntry(owner, 'Width', ['width', width]),
      numberEntry(owner, 'Height', ['height', height]),
      ...(look.form === 'rectangle' ? [numberEntry(owner, 'Corners', ['corner', corner])] : []),
      ...(pointed ? [numberEntry(owner, 'Points', ['points', points], { step: 1 })] : []),
      ...(look.form === 'star' ? [numberEntry(owner, 'Inner', ['inner', inner], { step: 0.05 })] : []),
      ...fillEntries(look, fillOpacity)
    ]
  },
  lay(look) {
    const line = figureLine(look)
    return {
      box: boxOfLines([line], look.stroke?.width ?? 0),
      missing: [],
      draw(drawing) {
        const painter = new Painter(drawing)
        const paints = repainted(look, drawing.moment.tint, 'fill')
        inkOutline(painter, { ...look, ...paints, line, closed: true })
        return painter.done()
      }
    }
  }
})
