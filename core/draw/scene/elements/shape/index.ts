/** Shapes: rectangles, ellipses, polygons and stars. */
import { Painter } from '../../ink'
import { alike, besideEntry, boundsOf, choiceEntry, numberEntry, type FormEntry, type Owner } from '../entry'
import { placed, placing, type Line } from '../../../raster/line'
import { elementKind, type LaidFinding, type Laying, type Offers } from '../kind'
import { lookOwner } from '../owner'
import { fillEntries, FIRST_FILL, inkOutline, repainted } from '../painted'
import { boxOfLines, strokeAlong } from '../stroked'
import { Follows, schema, type ShapeLook } from './look'
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

/** Pixels beyond lettering of this size that a bar begins to follow with. */
const BEYOND = 30

/** The lettering whose width it takes. */
function followEntries(look: ShapeLook, { letterings }: Offers): FormEntry<ShapeLook>[] {
  const { follows } = look
  const owner = lookOwner(look)
  const by = besideEntry(
    owner,
    { label: 'As wide as', none: 'its own' },
    [follows?.lettering, letterings],
    (now, id) => {
      if (id === null) delete now.follows
      else now.follows = { beyond: BEYOND, ...now.follows, lettering: id }
    }
  )
  if (!follows) return by
  const its: Owner<ShapeLook, Follows> = {
    ...{ ...owner, name: 'follows', now: follows },
    at: now => now.follows ?? null
  }
  return [...by, numberEntry(its, 'And beyond it', ['beyond', Follows.shape.beyond])]
}

/** Its outline: as wide as it is, or as the lettering that it follows; and what is to be said of that. */
async function outlineOf(look: ShapeLook, laying: Laying): Promise<{ line: Line; told: LaidFinding[] }> {
  const { follows } = look
  if (!follows) return { line: figureLine(look), told: [] }
  const found = await laying.lettering(follows.lettering)
  if (!found) {
    const sentence = `“${laying.name}” is to be as wide as a lettering that does not lie beside it, and keeps its own width.`
    return { line: figureLine(look), told: [{ id: 'follows-nothing', severity: 'warning', sentence }] }
  }
  const [left, , right] = found
  const line = figureLine({ ...look, width: Math.max(0, right - left + 2 * follows.beyond) })
  return { line: placed(line, placing((left + right) / 2, 0, 1, 0)), told: [] }
}

const CALLED = { rectangle: 'Rectangle', ellipse: 'Ellipse', polygon: 'Polygon', star: 'Star' } as const

export const shape = elementKind({
  schema,
  name: 'Shape',
  help: 'A rectangle, ellipse, polygon or star, filled and outlined; a bar can be as wide as a lettering beside it.',
  begins: {
    from: 'size',
    fresh: ({ height }) =>
      figure('rectangle', Math.round((480 * height) / 1080), Math.round((200 * height) / 1080), { fillOpacity: 0.6 })
  },
  comes: 'fade',
  moves: ['trace'],
  called: ({ form }) => CALLED[form],
  paint: ({ fill, stroke }) => fill ?? stroke?.colour ?? null,
  resize(look, wider, taller) {
    const { width, height } = look
    const { max } = boundsOf(schema.shape.width)
    const held = (value: number): number => Math.min(max, Math.max(1, Math.round(value * 100) / 100))
    // the width of one that follows a lettering is the lettering's
    if (!look.follows) look.width = held(width + wider)
    look.height = held(height + taller)
    return [look.width - width, look.height - height]
  },
  goesBy({ follows }, to) {
    if (follows) follows.lettering = to(follows.lettering)
  },
  entries(look, offers) {
    const owner = lookOwner(look)
    const { form, width, height, corner, points, inner, fillOpacity } = schema.shape
    const pointed = look.form === 'polygon' || look.form === 'star'
    return [
      choiceEntry(owner, 'Form', ['form', alike(form.options)]),
      ...followEntries(look, offers),
      ...(look.follows ? [] : [numberEntry(owner, 'Width', ['width', width])]),
      numberEntry(owner, 'Height', ['height', height]),
      ...(look.form === 'rectangle' ? [numberEntry(owner, 'Corners', ['corner', corner])] : []),
      ...(pointed ? [numberEntry(owner, 'Points', ['points', points], { step: 1 })] : []),
      ...(look.form === 'star' ? [numberEntry(owner, 'Inner', ['inner', inner], { step: 0.05 })] : []),
      ...fillEntries(look, fillOpacity)
    ]
  },
  async lay(look, laying) {
    const { line, told } = await outlineOf(look, laying)
    const { stroke, ...along } = strokeAlong([line], look.stroke, laying.name)
    return {
      box: boxOfLines([line], look.stroke),
      missing: [],
      told: [...told, ...along.told],
      draw(drawing) {
        const painter = new Painter(drawing)
        const paints = repainted({ ...look, stroke }, drawing.moment.tint, 'fill')
        inkOutline(painter, { ...look, ...paints, line, closed: true })
        return painter.done()
      }
    }
  }
})
