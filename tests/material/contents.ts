/**
 * Kinds of content that technicians really have, each at three moments, made by code. All are premultiplied floats:
 * what a renderer would have before it is asked how to store it.
 */
import { box, ellipse, stroke, type Canvas } from '../../demo/canvas'
import { lettering } from '../../demo/letters'
import {
  blurred,
  clouds,
  drawn,
  faded,
  hash,
  HEIGHT,
  lit,
  mean,
  over,
  shaded,
  shadowed,
  tinted,
  WIDTH,
  type Plate
} from './paint'

export interface Content {
  name: string
  /** The picture at `t` in 0 to 1. */
  at(t: number): Plate
  /** Colour lies outside alpha: only premultiplied storage can say it. */
  light?: true
}

const [CREAM, INK, MOSS, CLAY, SKY] = [
  [246, 243, 234],
  [24, 26, 30],
  [38, 96, 70],
  [196, 98, 62],
  [96, 150, 210]
] as const
const WHITE = [255, 255, 255] as const
const BLACK = [0, 0, 0] as const

const words = (c: Canvas, t: number, colour: readonly [number, number, number]): void => {
  c.fill(lettering('FERNBROOK', 40 + 20 * t, 60, 26, 4.2), colour)
  c.fill(lettering('LUNA MOTH HOUSE', 42 + 20 * t, 108, 15, 2.4), colour)
}

const strap = (t: number): Plate =>
  drawn(c => {
    c.fill(box(20, 90, 200 + 80 * t, 150, 6), MOSS, 0.6)
    c.fill(box(20, 90, 28, 150, 3), CLAY)
    c.fill(lettering('FERNBROOK', 42, 102, 20, 3.2), CREAM)
    c.fill(lettering('LUNA MOTH', 42, 130, 12, 2), CREAM)
  })

const hairs = (t: number): Plate =>
  drawn(c => {
    c.fill(ellipse(160, 150, 60, 70), [104, 70, 46])
    for (let n = 0; n < 60; n++) {
      const angle = -Math.PI * (0.1 + (0.8 * n) / 60)
      const [r, bend] = [70 + 40 * hash(n, 1, 3), 12 * Math.sin(n + 3 * t)]
      const points = [0, 0.5, 1].map(
        k =>
          [
            160 + (58 + k * r * 0.5) * Math.cos(angle) + bend * k * k,
            150 + (66 + k * r * 0.5) * Math.sin(angle)
          ] as const
      )
      const shade = 0.8 + 0.5 * hash(n, 2, 3)
      c.fill(stroke(points, 0.5 + hash(n, 3, 3)), [104 * shade, 70 * shade, 46 * shade], 0.85)
    }
  })

const disc = (t: number): Plate =>
  drawn(c => {
    c.fill(ellipse(60 + 190 * t, 90, 30, 30), CLAY)
    c.fill(ellipse(60 + 190 * t, 78, 10, 8), CREAM)
  })

const confetti = (t: number): Plate =>
  drawn(c => {
    for (let n = 0; n < 90; n++) {
      const [x, y] = [WIDTH * hash(n, 1, 9), (HEIGHT * (hash(n, 2, 9) + t)) % HEIGHT]
      const colour = [255 * hash(n, 3, 9), 255 * hash(n, 4, 9), 255 * hash(n, 5, 9)] as const
      c.fill(ellipse(x, y, 4 + 9 * hash(n, 6, 9), 3 + 4 * hash(n, 7, 9), 6 * hash(n, 8, 9)), colour, 0.75)
    }
  })

const glass = (t: number): Plate =>
  drawn(c => {
    c.fill(ellipse(160, 90, 80, 70), [150, 196, 190], 0.25, 2)
    c.fill(ellipse(160, 90, 80, 70), [60, 96, 92], 0.2, 30)
    c.fill(ellipse(130 + 10 * t, 60, 22, 12, -0.5), WHITE, 0.85, 10)
    c.fill(ellipse(196, 126, 8, 4, 0.4), WHITE, 0.6, 5)
  })

/** How bright a spot's glow is at a distance. */
const bell = (x: number, y: number, cx: number, cy: number, radius: number): number =>
  Math.exp(-(((x - cx) / radius) ** 2 + ((y - cy) / radius) ** 2))

const smoke = (t: number, low: readonly number[], high: readonly number[], seed: number): Plate =>
  shaded((x, y) => {
    const dense = clouds(x, y + 60 * t, seed) * bell(x, y, 160, 90, 90)
    const shade = clouds(x + 40, y + 50 * t, seed + 5)
    const mix = (c: number): number => (low[c]! + (high[c]! - low[c]!) * shade) / 255
    return [mix(0), mix(1), mix(2), Math.max(0, Math.min(1, 1.9 * dense - 0.15))]
  })

const photo = (x: number, y: number, t: number): [number, number, number] => [
  0.2 + 0.7 * clouds(x + 30 * t, y, 1),
  0.15 + 0.7 * clouds(x, y + 20 * t, 2),
  0.1 + 0.7 * clouds(x, y, 3)
]

const logo = (colour: readonly [number, number, number]) => (t: number) =>
  drawn(c => {
    c.fill(ellipse(90 + 10 * t, 90, 46, 46), colour)
    c.fill(lettering('MOTH', 160 + 10 * t, 70, 34, 6), colour)
  })

const keyed = (t: number): Plate => {
  const shape = blurred(
    drawn(c => {
      c.fill(ellipse(150 + 12 * t, 100, 60, 70), WHITE)
      for (let n = 0; n < 24; n++)
        c.fill(
          stroke(
            [
              [150, 60],
              [90 + 6 * n, 8 + 14 * hash(n, 1, 5)]
            ],
            1.6
          ),
          WHITE,
          0.7
        )
    }),
    1
  )
  const pixels = shape.pixels.slice()
  for (let i = 0; i < pixels.length; i += 4) {
    const [x, y] = [(i / 4) % WIDTH, Math.floor(i / 4 / WIDTH)]
    let a = pixels[i + 3]!
    if (a > 0 && a < 1) a = Math.max(0, Math.min(1, a + 0.05 * (hash(x, y, 1 + Math.round(9 * t)) - 0.5)))
    const grain = 0.03 * (hash(x, y, 7 + Math.round(9 * t)) - 0.5)
    const shade = 0.7 + 0.5 * clouds(x, y, 11)
    const spill = 0.12 * (1 - a)
    pixels.set([a * (0.62 * shade + grain), a * (0.44 * shade + spill + grain), a * (0.34 * shade + grain), a], i)
  }
  return { ...shape, pixels }
}

const windows = (t: number): Plate => {
  const back = drawn(c => {
    c.fill(box(10, 10, 220, 150, 8), [242, 242, 244])
    c.fill(box(10, 10, 220, 26, 4), [206, 208, 212])
    for (let n = 0; n < 9; n++) c.fill(box(24, 38 + 11 * n, 90 + 90 * hash(n, 1, 2), 42 + 11 * n), [70, 76, 88])
    c.fill(box(140, 50, 206, 120, 2), SKY)
  })
  const panel = drawn(c => {
    c.fill(box(120 + 30 * t, 60, 300, 168, 10), [30, 34, 44], 0.72)
    c.fill(lettering('POLLEN', 150 + 30 * t, 84, 18, 2.6), WHITE)
    c.fill(box(150 + 30 * t, 120, 270, 132, 6), SKY, 0.8)
  })
  return over(panel, back)
}

const fire = (t: number): Plate =>
  shaded((x, y) => {
    const rise = clouds(x, y + 120 * t, 21)
    const body = bell(x, y, 160, 140, 70) * (0.4 + 1.2 * rise)
    const a = Math.max(0, Math.min(1, 2.2 * body - 0.3))
    const heat = Math.min(1, 1.6 * body)
    return [Math.min(1, 0.5 + heat), Math.min(1, 0.1 + 0.9 * heat * heat), 0.6 * heat ** 4, a]
  })

/** Every kind of the matrix, in the order it is printed. */
export const contents: readonly Content[] = [
  { name: 'strap with lettering', at: strap },
  {
    name: 'lettering with a dark shadow',
    at: t =>
      shadowed(
        drawn(c => words(c, t, CREAM)),
        { colour: [0, 0, 0], radius: 3, opacity: 0.7 }
      )
  },
  {
    name: 'lettering with a light shadow',
    at: t =>
      shadowed(
        drawn(c => words(c, t, INK)),
        { colour: [1, 1, 1], radius: 3, opacity: 0.8 }
      )
  },
  {
    name: 'outlined lettering',
    at: t =>
      drawn(c => {
        c.fill(lettering('FERNBROOK', 40 + 20 * t, 60, 30, 8), INK)
        c.fill(lettering('FERNBROOK', 40 + 20 * t, 60, 30, 3.4), [240, 190, 60])
      })
  },
  { name: 'subject with a soft shadow', at: t => shadowed(disc(t), { colour: [0, 0, 0], radius: 7, opacity: 0.55 }) },
  {
    name: 'ramp bar, one colour',
    at: t =>
      shaded((x, y) => [0.24, 0.5, 0.66, y > 60 && y < 130 ? Math.max(0, Math.min(1, (x - 20 - 20 * t) / 260)) : 0])
  },
  {
    name: 'ramp bar, two colours',
    at: t =>
      shaded((x, y) => {
        const u = Math.max(0, Math.min(1, (x - 20 - 20 * t) / 260))
        return [0.8 - 0.5 * u, 0.3 + 0.4 * u, 0.25 + 0.5 * u, y > 60 && y < 130 ? u : 0]
      })
  },
  {
    name: 'lower third: ramp, lettering, shadow',
    at: t =>
      over(
        shadowed(
          drawn(c => words(c, t, WHITE)),
          { colour: [0, 0, 0], radius: 2, opacity: 0.6 }
        ),
        shaded((_, y) => [0.06, 0.08, 0.12, Math.max(0, Math.min(0.8, (y - 40) / 140))])
      )
  },
  { name: 'grey smoke', at: t => smoke(t, [120, 120, 122], [210, 210, 212], 4) },
  { name: 'dark smoke', at: t => smoke(t, [40, 34, 30], [86, 74, 66], 14) },
  { name: 'fire', at: fire },
  { name: 'fade of a whole picture', at: t => shaded((x, y) => [...photo(x, y, 0), 0.15 + 0.8 * t]) },
  { name: 'fade of a card', at: t => faded(strap(0.8), 0.2 + 0.8 * t) },
  { name: 'hair', at: hairs },
  { name: 'motion blur', at: t => mean([0, 1, 2, 3, 4, 5, 6, 7].map(n => disc(t + 0.012 * n))) },
  { name: 'confetti over each other', at: confetti },
  { name: 'glass with a highlight', at: glass },
  {
    name: 'glow as normal alpha',
    at: t => shaded((x, y) => [1, 0.8, 0.42, Math.min(1, 1.1 * bell(x, y, 120 + 60 * t, 90, 46))])
  },
  {
    name: 'added light',
    light: true,
    at: t =>
      lit(
        logo(MOSS)(t),
        shaded((x, y) => [1, 0.8, 0.5, 0.7 * bell(x, y, 110 + 60 * t, 70, 40)])
      )
  },
  { name: 'white logo', at: logo(WHITE) },
  { name: 'black logo', at: logo(BLACK) },
  {
    name: 'translucent video',
    at: t =>
      shaded((x, y) => [
        ...photo(x, y, t),
        0.7 * Math.min(1, Math.max(0, Math.min(x - 8, 312 - x, y - 8, 172 - y) / 20))
      ])
  },
  {
    name: 'one-pixel lines',
    at: t =>
      drawn(c => {
        for (let n = 0; n < 14; n++)
          c.fill(
            stroke(
              [
                [10, 10 + 12 * n],
                [310, 16 + 11 * n + 8 * t]
              ],
              1
            ),
            n % 2 ? SKY : CREAM
          )
      })
  },
  {
    name: 'tiny lettering, 12 px',
    at: t =>
      drawn(c => {
        for (let n = 0; n < 7; n++)
          c.fill(lettering('LUNA MOTH HOUSE', 20 + 10 * t, 20 + 20 * n, 12, 1.3), n % 2 ? [220, 60, 50] : SKY)
      })
  },
  {
    name: 'edges 30 px wide',
    at: t =>
      blurred(
        drawn(c => {
          c.fill(box(60 + 20 * t, 40, 170, 140, 10), CLAY)
          c.fill(ellipse(220, 90, 40, 40), SKY)
        }),
        9
      )
  },
  {
    name: 'rounded translucent cards over each other',
    at: t =>
      drawn(c => {
        c.fill(box(30, 30, 190, 130, 16), SKY, 0.5)
        c.fill(box(90 + 20 * t, 60, 250, 150, 16), CLAY, 0.5)
        c.fill(box(140, 20, 290, 100, 16), MOSS, 0.4)
      })
  },
  { name: 'screen recording with a translucent panel', at: windows },
  { name: 'keyed footage with spill and noise', at: keyed },
  {
    name: 'vignette',
    at: () => shaded((x, y) => [0.03, 0.02, 0.05, Math.max(0, 0.9 - 1.1 * bell(x, y, 160, 90, 130))])
  },
  {
    name: 'flare of thin light',
    at: t =>
      shaded((x, y) => {
        const streak = Math.exp(-(((y - 90) / 3) ** 2)) * bell(x, 90, 160 + 30 * t, 90, 110)
        return [0.72, 0.86, 1, Math.min(1, 0.55 * streak + 0.8 * bell(x, y, 160 + 30 * t, 90, 16))]
      })
  },
  {
    name: 'arrow with leaves',
    at: t =>
      drawn(c => {
        const points = Array.from({ length: 20 }, (_, n): [number, number] => {
          const u = (n / 19) * (0.3 + 0.7 * t)
          return [30 + 250 * u, 150 - 110 * u * u - 12 * Math.sin(9 * u)]
        })
        c.fill(stroke(points, 6), MOSS)
        for (let n = 3; n < 20; n += 4)
          c.fill(ellipse(points[n]![0] + 5, points[n]![1] - 10, 6, 13, n % 8 ? 0.5 : -0.6), [110, 160, 70], 0.9)
      })
  },
  { name: 'whole title fading with its shadow', at: t => faded(tintedTitle(), 0.1 + 0.8 * t) },
  {
    name: 'drifting specks of dust',
    at: t =>
      drawn(c => {
        for (let n = 0; n < 150; n++)
          c.fill(
            ellipse(WIDTH * hash(n, 1, 4), (HEIGHT * (hash(n, 2, 4) + t * 0.3)) % HEIGHT, 1 + 2 * hash(n, 3, 4), 1.5),
            [230, 214, 180],
            0.3 + 0.6 * hash(n, 4, 4),
            2.5
          )
      })
  }
]

function tintedTitle(): Plate {
  const title = drawn(c => words(c, 0.5, WHITE))
  return shadowed(tinted(title, [0.95, 0.8, 0.45]), { colour: [0.05, 0.02, 0], radius: 4, opacity: 0.6 })
}
