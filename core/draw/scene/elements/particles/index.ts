/** Particles: smoke, sparks, pollen, snow; many of one form, each with a course of its own. */
import { type HexColour } from '../../../../base/colour'
import { areaOf } from '../../../raster/area'
import { boundsOf, isEmpty, within, type Bounds, type Coverage } from '../../../raster/coverage'
import { combined, ellipseLine, placed, placing, scaleOf, type Line } from '../../../raster/line'
import { clearLayer, FIRST, paint } from '../../layer'
import { isTint, type Tint } from '../../tint'
import { alike, choiceEntry, colourEntry, numberEntry, switchEntry } from '../entry'
import { elementKind } from '../kind'
import { lookOwner } from '../owner'
import { gone, mostAlive, particlesAt, type Particle } from './emit'
import { MOST_ALIVE, schema, type ParticlesLook } from './look'

/** Corners of a star about its middle, 1 across. */
function starLine(): Line {
  const out: number[] = []
  for (let n = 0; n < 8; n++) {
    const [far, at] = [n % 2 ? 0.12 : 0.5, (n * Math.PI) / 4]
    out.push(far * Math.sin(at), -far * Math.cos(at))
  }
  return Float64Array.from(out)
}

/** Outlines of what has an edge, 1 across. */
const FORMS = {
  square: Float64Array.from([-0.5, -0.5, 0.5, -0.5, 0.5, 0.5, -0.5, 0.5]),
  star: starLine(),
  streak: Float64Array.from([-0.5, 0, 0, -0.06, 0.5, 0, 0, 0.06])
} as const

/** Across in pixels, below which what is soft is drawn no smaller but fainter. */
const LEAST_SOFT = 3

/** A spot without an edge: as solid as said in its middle, and less and less so towards its rim. */
function softSpot([x, y]: readonly [number, number], across: number, clip: Bounds): Coverage | null {
  const drawn = Math.max(across, LEAST_SOFT)
  const r = drawn / 2
  const bounds = within(boundsOf([Float64Array.from([x - r, y - r, x + r, y + r])]), clip)
  if (isEmpty(bounds)) return null
  const width = bounds.right - bounds.left
  const values = new Float32Array(width * (bounds.bottom - bounds.top))
  const faint = (across / drawn) ** 2
  let i = 0
  for (let v = bounds.top; v < bounds.bottom; v++)
    for (let u = bounds.left; u < bounds.right; u++, i++) {
      const near = 1 - ((u + 0.5 - x) ** 2 + (v + 0.5 - y) ** 2) / (r * r)
      if (near > 0) values[i] = faint * near * near
    }
  return { ...bounds, values }
}

/** The colour of a particle on its way through its life. */
const tintOf = ({ colour, colourEnd }: ParticlesLook, age: number): Tint | HexColour =>
  colour === colourEnd ? colour : { from: colour, to: colourEnd, angle: 0, share: age }

/** Degrees between ways that are looked at for how far particles come. */
const LOOKED = 15

/** Where they may come to: what slides them in, and what a box shows. */
function reachOf(look: ParticlesLook): readonly [number, number, number, number] {
  const life = look.life * (1 + look.differ)
  const far = gone(look.speed * (1 + look.differ), look.drag, life)
  const falls = (look.gravity * life * life) / 2
  const around = look.turbulence + (Math.max(look.size, look.sizeEnd) * (1 + look.differ)) / 2
  const steps = Math.max(1, Math.ceil((2 * look.fan) / LOOKED))
  const ways = Array.from({ length: steps + 1 }, (_, n) => look.way - look.fan + (2 * look.fan * n) / steps)
  const xs = [0, ...ways.map(way => far * Math.cos((way * Math.PI) / 180))]
  const ys = [0, ...ways.map(way => far * Math.sin((way * Math.PI) / 180))]
  const [x, y] = [look.width / 2 + around, look.height / 2 + around]
  return [
    Math.min(...xs) - x,
    Math.min(...ys) - y + Math.min(0, falls),
    Math.max(...xs) + x,
    Math.max(...ys) + y + Math.max(0, falls)
  ]
}

export const particles = elementKind({
  schema,
  name: 'Particles',
  help: 'Smoke, sparks, pollen, snow: many of one form that come, go their way and vanish; the same on every machine.',
  begins: {
    from: 'size',
    fresh: ({ height }): ParticlesLook => {
      const unit = height / 1080
      const of = (pixels: number): number => Math.max(1, Math.round(pixels * unit))
      return {
        kind: 'particles',
        ...{ seed: 1, form: 'soft', rate: 40, life: 2, differ: 0.3 },
        ...{ width: of(300), height: 0, way: -90, fan: 25, speed: of(120), drag: 0.3, gravity: 0 },
        ...{ turbulence: of(40), size: of(10), sizeEnd: of(30), colour: '#f2d98a', colourEnd: '#e2b242' },
        ...{ fadeIn: 0.1, fadeOut: 0.5, spin: 0, before: true, every: 0 }
      }
    }
  },
  comes: 'none',
  moves: [],
  runs: () => true,
  paint: ({ colour }) => colour,
  entries(look) {
    const owner = lookOwner(look)
    const { shape } = schema
    const turns = look.form === 'square' || look.form === 'star'
    return [
      choiceEntry(owner, 'Form', ['form', alike(shape.form.options)]),
      numberEntry(owner, 'Each second', ['rate', shape.rate]),
      numberEntry(owner, 'Lives, s', ['life', shape.life], { step: 0.1 }),
      numberEntry(owner, 'They differ by', ['differ', shape.differ], { step: 0.05 }),
      numberEntry(owner, 'From a box, wide', ['width', shape.width]),
      numberEntry(owner, 'And high', ['height', shape.height]),
      numberEntry(owner, 'Way, °', ['way', shape.way], { help: 'Clockwise from the right: -90 is up' }),
      numberEntry(owner, 'Fan, °', ['fan', shape.fan], { help: 'To both sides of the way; 180 is all around' }),
      numberEntry(owner, 'Speed, px/s', ['speed', shape.speed]),
      numberEntry(owner, 'Drag', ['drag', shape.drag], { step: 0.1, help: 'How fast the speed is lost' }),
      numberEntry(owner, 'Falls, px/s²', ['gravity', shape.gravity]),
      numberEntry(owner, 'Blown about, px', ['turbulence', shape.turbulence]),
      numberEntry(owner, 'Their size', ['size', shape.size]),
      numberEntry(owner, 'Size in the end', ['sizeEnd', shape.sizeEnd]),
      ...(turns ? [numberEntry(owner, 'Spin, °/s', ['spin', shape.spin])] : []),
      colourEntry(owner, 'Colour', look.colour, (now, hex) => void (now.colour = hex)),
      colourEntry(owner, 'Colour in the end', look.colourEnd, (now, hex) => void (now.colourEnd = hex)),
      numberEntry(owner, 'Comes in', ['fadeIn', shape.fadeIn], { step: 0.05, help: 'A share of its life' }),
      numberEntry(owner, 'Fades out', ['fadeOut', shape.fadeOut], { step: 0.05, help: 'A share of its life' }),
      switchEntry(owner, 'Already there', look.before, (now, on) => void (now.before = on)),
      numberEntry(owner, 'Begins again, s', ['every', shape.every], {
        help: 'Without a seam after so many seconds; 0 for never'
      }),
      numberEntry(owner, 'Seed', ['seed', shape.seed], { step: 1 })
    ]
  },
  lay(look, { name }) {
    const most = mostAlive(look)
    const rate = look.rate * Math.min(1, MOST_ALIVE / most)
    const seen = { ...look, rate }
    const sentence =
      `“${name}” would have up to ${most} particles at once: ${MOST_ALIVE} are drawn at most, ` +
      `so that ${Math.round(rate)} come each second and not ${Math.round(look.rate)}.`
    return {
      box: reachOf(look),
      missing: [],
      told: most > MOST_ALIVE ? [{ id: 'particles-fewer', severity: 'warning', sentence }] : [],
      draw(drawing) {
        const { at, clip, since, moment } = drawing
        const scale = scaleOf(at)
        const shown = particlesAt(seen, since).filter(({ opacity, size }) => opacity > 0 && size > 0)
        // each is laid down as it is drawn: thousands of them would not all be held
        const places = placed(Float64Array.from(shown.flatMap(({ x, y }) => [x, y])), at)
        // what is stretched reaches as far as it is stretched the most
        const largest = Math.max(Math.hypot(at.a, at.b), Math.hypot(at.c, at.d))
        const reach = (Math.max(LEAST_SOFT, ...shown.map(({ size }) => size * largest)) * Math.SQRT2) / 2 + 1
        const bounds = within(boundsOf([places], reach), clip)
        if (isEmpty(bounds)) return null
        const layer = clearLayer(bounds)
        const coverage = (particle: Particle): Coverage | null => {
          // a dot is followed as large as it will be, and stretched from there
          const spot = combined(at, placing(particle.x, particle.y, 1 / largest, 0))
          if (look.form === 'soft') return softSpot([spot.e, spot.f], particle.size * scale, bounds)
          const r = (particle.size * largest) / 2
          if (look.form === 'dot') return areaOf([placed(ellipseLine(r, r), spot)], bounds)
          const stands = combined(at, placing(particle.x, particle.y, particle.size, particle.turned))
          return areaOf([placed(FORMS[look.form], stands)], bounds)
        }
        for (const particle of shown) {
          const covered = coverage(particle)
          const colour = moment.tint ?? tintOf(look, particle.age)
          const along = isTint(colour) ? { ...FIRST, begins: colour.share } : FIRST
          if (covered) paint(layer, covered, { paint: colour, opacity: particle.opacity, along })
        }
        return layer
      }
    }
  }
})
