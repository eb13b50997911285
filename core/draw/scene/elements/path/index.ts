/** Paths: lines and curves through points, drawn along, with what rides at their head. */
import { Painter } from '../../ink'
import { ellipseLine, placed, placing, scaleOf } from '../../../raster/line'
import { areaOf } from '../../../raster/coverage'
import { alike, choiceEntry, numberEntry, switchEntry, type Owner } from '../entry'
import { elementKind } from '../kind'
import { boxOfLines, inkOutline, lookOwner, repainted, strokeEntries } from '../painted'
import { Point, schema, type PathLook } from './look'
import { arrowLine, pathLine } from './outline'

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
    return [
      ...strokeEntries(look, 'Colour'),
      choiceEntry(owner, 'Rider', ['rider', alike(rider.options)]),
      ...(look.rider === 'none' ? [] : [numberEntry(owner, 'Its size', ['riderSize', riderSize])]),
      switchEntry(owner, 'Closed', look.closed, (now, on) => void (now.closed = on)),
      ...points
    ]
  },
  lay(look) {
    const line = pathLine(look.points, look.closed)
    return {
      box: boxOfLines([line], look.stroke?.width ?? 0),
      missing: [],
      draw(drawing) {
        const painter = new Painter(drawing)
        const { fill, stroke } = repainted(look, drawing.moment.tint, 'stroke')
        const head = inkOutline(painter, { fill, stroke, fillOpacity: 1, line, closed: look.closed })
        if (head && stroke && look.rider !== 'none') {
          const across = look.riderSize * scaleOf(drawing.at)
          const rider = look.rider === 'arrow' ? arrowLine(across) : ellipseLine(across / 2, across / 2)
          const at = placing(head.x, head.y, 1, head.turned)
          painter.add(areaOf([placed(rider, at)], drawing.clip), stroke.colour)
        }
        return painter.done()
      }
    }
  }
})
