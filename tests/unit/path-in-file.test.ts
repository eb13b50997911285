/** The longest line of an SVG file as a path: its points, curves and transforms, and what is refused in words. */
import { expect, test } from 'vitest'
import { pathLine } from '../../core/draw/scene/elements/path/outline'
import { lengthOf } from '../../core/draw/raster/line'
import { pathInFile } from '../../core/draw/vector/path-in-file'

const svg = (inner: string, size = 'width="200" height="100"'): string =>
  `<svg xmlns="http://www.w3.org/2000/svg" ${size}>${inner}</svg>`
const spots = (text: string): number[][] => pathInFile(svg(text), 'drawing.svg').points.map(({ x, y }) => [x, y])

test('points lie about the middle of the line, in pixels of the drawing, through every transform', () => {
  expect(spots('<path d="M10 10 L70 10 L70 50"/>')).toEqual([
    [-30, -20],
    [30, -20],
    [30, 20]
  ])
  // relative, horizontal and vertical steps are the same line
  expect(spots('<path d="m10 10 h60 v40"/>')).toEqual(spots('<path d="M10 10 L70 10 L70 50"/>'))
  // scaled within, turned outside: 60 across becomes 120 down
  const turned = '<g transform="rotate(90)"><path transform="scale(2)" d="M10 10 L70 10"/></g>'
  expect(spots(turned)).toEqual([
    [0, -60],
    [0, 60]
  ])
  expect(spots('<polyline points="0,0 40,0 40,30"/>')).toHaveLength(3)
  expect(spots('<line x1="25%" y1="0" x2="75%" y2="0"/>')).toEqual([
    [-50, 0],
    [50, 0]
  ])
})

test('curves keep their handles: cubic, quadratic, and arcs as long as they are', () => {
  const cubic = pathInFile(svg('<path d="M0 0 C 30 0 60 40 90 40"/>'), 'a.svg')
  expect(cubic.points).toMatchObject([
    { before: null, after: [30, 0] },
    { before: [-30, 0], after: null }
  ])
  const [from, to] = pathInFile(svg('<path d="M0 0 Q 45 60 90 0"/>'), 'a.svg').points
  expect(from!.after).toEqual([30, 40])
  expect(to!.before).toEqual([-30, 40])
  // smooth joints reflect the handle before them
  const smooth = pathInFile(svg('<path d="M0 0 C 0 20 20 40 40 40 S 80 20 80 0"/>'), 'a.svg').points
  expect(smooth[1]).toMatchObject({ before: [-20, 0], after: [20, 0] })

  const ring = pathInFile(svg('<circle cx="50" cy="50" r="40"/>'), 'a.svg')
  expect(ring.closed).toBe(true)
  const line = pathLine(ring.points, true)
  expect(lengthOf(Float64Array.from([...line, line[0]!, line[1]!]))).toBeCloseTo(2 * Math.PI * 40, 0)
  for (let i = 0; i < line.length; i += 2) expect(Math.hypot(line[i]!, line[i + 1]!)).toBeCloseTo(40, 1)
})

test('the longest of several lines is taken; what is defined aside or not shown is none of them', () => {
  const several =
    '<defs><path d="M0 0 L900 0"/></defs><g display="none"><path d="M0 0 L800 0"/></g>' +
    '<path d="M0 0 L30 0 M0 10 L90 10"/><rect width="20" height="10"/>'
  expect(pathInFile(svg(several), 'a.svg')).toMatchObject({ of: 3, closed: false, points: [{ x: -45 }, { x: 45 }] })
  const closed = pathInFile(svg('<path d="M0 0 L30 0 L30 30 L0 0 Z"/>'), 'a.svg')
  expect(closed).toMatchObject({ closed: true })
  expect(closed.points).toHaveLength(3)
})

test('what is no drawing, draws no line or too long a one is refused in words', () => {
  expect(() => pathInFile(svg('<text>Fern</text>'), 'words.svg')).toThrow(/words\.svg.*draws no line/)
  expect(() => pathInFile('not a drawing', 'words.txt')).toThrow(/words\.txt/)
  const many = `M0 0${Array.from({ length: 500 }, (_, n) => `L${n} ${n % 2}`).join('')}`
  expect(() => pathInFile(svg(`<path d="${many}"/>`), 'long.svg')).toThrow(/has 501 points; a path takes 400/)
  expect(() => pathInFile(svg('<path d="M0 0 L nonsense"/>'), 'odd.svg')).toThrow(/odd\.svg.*draws no line/)
  expect(() => pathInFile(svg('<path d="M0 0 L1e308 0 L-1e308 1e308"/>'), 'far.svg')).toThrow(/far\.svg/)
})
