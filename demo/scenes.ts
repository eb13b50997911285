/** The animations of the Fernbrook demo, frame by frame. All are 640x360 and made here. */
import type { Frame } from '../core/frame/frame'
import { both, box, Canvas, ellipse, stroke } from './canvas'
import { lettering } from './letters'

const WIDTH = 640
const HEIGHT = 360

const WING = [132, 82, 52] as const
const HIND = [198, 154, 103] as const
const SPOT = [240, 217, 176] as const
const BODY = [62, 39, 23] as const
const STRAP = [23, 92, 78] as const
const PAPER = [246, 243, 234] as const
const LEAF = [74, 124, 52] as const
const POLLEN = [226, 178, 66] as const

/** Slow in, slow out. */
function ease(t: number): number {
  const x = Math.max(0, Math.min(1, t))
  return x * x * (3 - 2 * x)
}

/** One beat of the wings over `t` in 0..1; the frame at 1 is the frame at 0. */
export function moth(t: number): Frame {
  const canvas = new Canvas(WIDTH, HEIGHT)
  const beat = 0.72 + 0.28 * Math.cos(2 * Math.PI * t)
  const [x, y] = [320, 186 + 9 * Math.sin(2 * Math.PI * t)]
  for (const side of [-1, 1]) {
    canvas.fill(ellipse(x + side * 58 * beat, y + 52, 62 * beat, 36, side * 0.5), HIND)
    canvas.fill(ellipse(x + side * 96 * beat, y - 30, 104 * beat, 56, side * -0.28), WING)
    canvas.fill(ellipse(x + side * 92 * beat, y - 34, 17 * beat, 17), SPOT)
    canvas.fill(ellipse(x + side * 92 * beat, y - 34, 7 * beat, 7), BODY)
    canvas.fill(
      stroke(
        [
          [x + side * 4, y - 60],
          [x + side * 18, y - 92],
          [x + side * 40, y - 106]
        ],
        2.2
      ),
      BODY
    )
  }
  canvas.fill(ellipse(x, y, 13, 66), BODY)
  return canvas.frame(16)
}

/** The name strap: a bar at 60 % with solid lettering, coming in from the left, standing, and leaving. */
function strapCanvas(t: number): Canvas {
  const canvas = new Canvas(WIDTH, HEIGHT)
  const shown = ease(t / 0.25) * (1 - ease((t - 0.8) / 0.2))
  if (shown <= 0) return canvas
  const right = 40 + 470 * shown
  const window = box(40, 240, right, 316, 6)
  canvas.fill(window, STRAP, 0.6)
  canvas.fill(both(box(40, 240, 48, 316, 3), window), POLLEN)
  canvas.fill(both(lettering('FERNBROOK', 66, 256, 22, 3.4), window), PAPER)
  canvas.fill(both(lettering('LUNA MOTH HOUSE', 66, 290, 13, 2), window), PAPER)
  return canvas
}

export function strap(t: number): Frame {
  return strapCanvas(t).frame(8)
}

/** The same strap, rendered with its page colour left on. */
export function strapOnPage(t: number): Frame {
  const canvas = strapCanvas(t)
  canvas.underlay([233, 228, 214])
  return canvas.frame(8)
}

/** An arrow that draws itself over a vine. */
export function growth(t: number): Frame {
  const canvas = new Canvas(WIDTH, HEIGHT)
  const points: [number, number][] = []
  for (let i = 0; i <= 40; i++) {
    const u = (i / 40) * ease(t)
    points.push([80 + 470 * u, 270 - 190 * u * u - 34 * Math.sin(u * 9)])
  }
  canvas.fill(stroke(points, 9), LEAF)
  for (let n = 1; n < 7; n++) {
    const u = n / 7
    const open = ease((t - u) * 5)
    if (open <= 0) continue
    const [x, y] = [80 + 470 * u, 270 - 190 * u * u - 34 * Math.sin(u * 9)]
    canvas.fill(ellipse(x + 8 * open, y - 20 * open, 9 * open + 1, 22 * open + 1, n % 2 ? 0.5 : -0.7), LEAF, 0.9)
  }
  const [tip, before] = [points.at(-1)!, points.at(-3)!]
  const angle = Math.atan2(tip[1] - before[1], tip[0] - before[0])
  const barb = (turn: number): [number, number] => [
    tip[0] - 26 * Math.cos(angle + turn),
    tip[1] - 26 * Math.sin(angle + turn)
  ]
  if (t > 0.05) canvas.fill(stroke([barb(0.6), tip, barb(-0.6)], 8), LEAF)
  return canvas.frame(8)
}

const CLAY = [176, 98, 62] as const
const RIM = [196, 118, 78] as const
const SOIL = [58, 42, 34] as const
const STEM = [150, 158, 62] as const

/** A seedling growing out of its pot; below zero there is nothing at all. */
function potCanvas(t: number): Canvas {
  const canvas = new Canvas(WIDTH, HEIGHT)
  if (t < 0) return canvas
  const tall = 40 + 110 * ease(t)
  const sway = 6 * Math.sin(t * 9)
  const top: [number, number] = [320 + sway, 236 - tall]
  canvas.fill(stroke([[320, 240], [318 + sway / 3, 236 - tall / 2], top], 5), STEM)
  for (const side of [-1, 1]) {
    const open = ease(t * 1.4 - 0.2)
    if (open > 0)
      canvas.fill(ellipse(top[0] + side * 20 * open, top[1] - 4, 22 * open + 1, 9 * open + 1, side * -0.45), STEM)
  }
  canvas.fill(box(270, 246, 370, 330, 10), CLAY)
  canvas.fill(box(276, 240, 364, 252, 4), SOIL)
  canvas.fill(box(262, 250, 378, 268, 4), RIM)
  return canvas
}

export function pot(t: number): Frame {
  return potCanvas(t).frame(8)
}

/** The pot before a green screen whose light falls off to one side and below. Below zero only the screen is there. */
export function potOnScreen(t: number): Frame {
  const canvas = potCanvas(t)
  canvas.underlayBy((x, y) => {
    const light = 1 - 0.26 * ((x - 240) / 640) ** 2 * 4 - 0.16 * (y / 360)
    return [46 * light, 168 * light, 74 * light]
  })
  return canvas.frame(8)
}

/** The pot's soft shadow as it fell on white paper. */
export function potShadow(t: number): Frame {
  const canvas = new Canvas(WIDTH, HEIGHT)
  const reach = 60 + 40 * ease(t)
  canvas.fill(ellipse(340, 330, 70 + reach, 20), [30, 30, 34], 0.55, 26)
  canvas.underlay([255, 255, 255])
  return canvas.frame(8)
}

/** Pollen drifting as light on black: it has no alpha, and is meant to be added. */
export function pollen(t: number): Frame {
  const canvas = new Canvas(WIDTH, HEIGHT)
  for (let n = 0; n < 26; n++) {
    const [a, b] = [Math.sin(n * 12.9898) * 43758.5453, Math.sin(n * 78.233) * 12543.123]
    const [u, v] = [a - Math.floor(a), b - Math.floor(b)]
    const x = 40 + 560 * u + 18 * Math.sin(2 * Math.PI * (t + u))
    const y = 30 + 300 * ((v + t) % 1)
    canvas.fill(ellipse(x, y, 3 + 4 * u, 3 + 4 * u), POLLEN, 0.8, 12)
  }
  canvas.underlay([0, 0, 0])
  return canvas.frame(8)
}
