/** Paths: lines and curves through points, drawn along, with what rides at their head. */
import { Painter } from '../../ink'
import { placed, placing, scaleOf, type Affine, type Head } from '../../../raster/line'
import { areaOf } from '../../../raster/area'
import { alike, choiceEntry, numberEntry, switchEntry, type Owner } from '../entry'
import { elementKind } from '../kind'
import { lookOwner } from '../owner'
import { inkOutline, repainted } from '../painted'
import { boxOfLines, strokeAlong, strokeEntries } from '../stroked'
import { Point, schema, type PathLook, type Tip } from './look'
import { pathLine, tipLine } from './outline'

/** Where a line's end lies in the picture, and which way it points there. */
function endAt({ x, y, turned }: Head, { a, b, c, d, e, f }: Affine): Affine {
  const way = (turned * Math.PI) / 180
  const [u, v] = [Math.cos(way), Math.sin(way)]
  const degrees = (Math.atan2(b * u + d * v, a * u + c * v) * 180) / Math.PI
  return placing(a * x + c * y + e, b * x + d * y + f, 1, degrees)
}

/** The first point of a line, and the way that leads out of it. */
function backOf(line: Float64Array): Head {
  const [x, y] = [line[0]!, line[1]!]
  let i = 2
  while (i < line.length - 2 && line[i] === x && line[i + 1] === y) i += 2
  return { x, y, turned: (Math.atan2(y - line[i + 1]!, x - line[i]!) * 180) / Math.PI }
}

export const path = elementKind({
  schema,
  name: 'Path',
  help: 'Lines and curves through points, drawn from end to end, with an arrow or a dot at their head.',
  begins: {
    from: 'size',
    fresh({ height }): PathLook {
      const unit = height / 1080
      return {
        kind: 'path',
        points: [
          { x: -300 * unit, y: 120 * unit, before: null, after: [200 * unit, 0] },
          { x: 300 * unit, y: -120 * unit, before: [-200 * unit, 0], after: null }
        ],
        closed: false,
        fill: null,
        stroke: { colour: '#4a7c34', width: Math.max(1, 16 * unit) },
        rider: 'arrow',
        riderSize: 80 * unit
      }
    }
  },
  comes: 'trace',
  moves: ['trace'],
  line({ points, closed }) {
    const line = pathLine(points, closed)
    return closed ? Float64Array.from([...line, line[0]!, line[1]!]) : line
  },
  paint: ({ fill, stroke }) => stroke?.colour ?? fill,
  entries(look) {
    const owner = lookOwner(look)
    const points = look.points.flatMap((point, n) => {
      const here: Owner<typeof look, Point> = {
        ...owner,
        name: `point ${n}`,
        now: point,
        at: changed => owner.at(changed)?.points[n] ?? null
      }
      return [
        numberEntry(here, `Point ${n + 1} across`, ['x', Point.shape.x]),
        numberEntry(here, `Point ${n + 1} down`, ['y', Point.shape.y])
      ]
    })
    const { rider, riderSize } = schema.shape
    const tips = alike(rider.options)
    const tipped = look.rider !== 'none' || (look.tail ?? 'none') !== 'none'
    const whole = { ...owner, now: { ...look, tail: look.tail ?? ('none' as const) } }
    return [
      ...strokeEntries(look, 'Colour', { ends: !look.closed }),
      choiceEntry(owner, 'At its head', ['rider', tips]),
      ...(look.closed ? [] : [choiceEntry(whole, 'Where it begins', ['tail', tips])]),
      ...(tipped ? [numberEntry(owner, 'Its size', ['riderSize', riderSize])] : []),
      switchEntry(owner, 'Closed', look.closed, (now, on) => void (now.closed = on)),
      ...points
    ]
  },
  lay(look, { name }) {
    const line = pathLine(look.points, look.closed)
    const { stroke: drawn, told } = strokeAlong([line], look.stroke, name)
    return {
      box: boxOfLines([line], look.stroke, look.closed),
      missing: [],
      told,
      draw(drawing) {
        const painter = new Painter(drawing)
        const { at, clip, moment } = drawing
        const { fill, stroke } = repainted({ ...look, stroke: drawn }, moment.tint, 'stroke')
        const head = inkOutline(painter, { fill, stroke, fillOpacity: 1, line, closed: look.closed })
        if (!head || !stroke) return painter.done()
        const tip = (kind: Tip, end: Head): void => {
          const across = look.riderSize * scaleOf(at)
          const rim = tipLine(kind, across)
          if (rim) painter.add(areaOf([placed(rim, endAt(end, at))], clip), stroke.colour)
        }
        if (!look.closed) tip(look.tail ?? 'none', backOf(line))
        tip(look.rider, head)
        return painter.done()
      }
    }
  }
})
