/**
 * A corpus of clips with their truth, made by code: kinds of the trade's material with colours, sizes, places and
 * opacities drawn at random, stored in every way, cropped, coded and with noise. Clip `n` is always the same.
 */
import { box, ellipse, stroke, type Canvas } from '../../demo/canvas'
import { lettering } from '../../demo/letters'
import type { AlphaMode, Frame } from '../../core/frame/frame'
import type { Host } from '../../core/frame/host'
import { codings } from './codings'
import { blurred, clouds, drawn, faded, hash, HEIGHT, mean, over, shaded, shadowed, WIDTH, type Plate } from './paint'
import { storages, stored } from './storages'

export interface Specimen {
  /** What it shows and what was done to it, in words. */
  name: string
  kind: string
  truth: AlphaMode
  frames: Frame[]
}

/** Numbers at random that belong to a clip. */
class Dice {
  private state: number

  constructor(seed: number) {
    this.state = (Math.imul(seed + 1, 0x9e3779b1) ^ 0x85ebca6b) | 1
    for (let i = 0; i < 8; i++) this.next()
  }

  next(): number {
    this.state ^= this.state << 13
    this.state ^= this.state >>> 17
    this.state ^= this.state << 5
    return (this.state >>> 0) / 2 ** 32
  }

  between(low: number, high: number): number {
    return low + (high - low) * this.next()
  }

  one<T>(of: readonly T[]): T {
    return of[Math.floor(this.next() * of.length)]!
  }

  /** A colour of the trade: white, black, near black, grey, saturated, pastel. */
  colour(): [number, number, number] {
    const kind = this.next()
    if (kind < 0.15) return [255, 255, 255]
    if (kind < 0.25) return [0, 0, 0]
    if (kind < 0.4) return [this.between(4, 40), this.between(4, 40), this.between(4, 40)]
    if (kind < 0.5) {
      const grey = this.between(60, 220)
      return [grey, grey, grey]
    }
    return [this.between(0, 255), this.between(0, 255), this.between(0, 255)]
  }
}

const ofOne = (colour: readonly number[]): [number, number, number] => [
  colour[0]! / 255,
  colour[1]! / 255,
  colour[2]! / 255
]

type Make = (dice: Dice) => (t: number) => Plate

const letters = (dice: Dice): ((c: Canvas, t: number) => void) => {
  const [size, weight, x, y] = [dice.between(12, 40), dice.between(1.4, 6), dice.between(10, 90), dice.between(20, 110)]
  const [colour, text] = [dice.colour(), dice.one(['FERNBROOK', 'LUNA MOTH', 'PALM HOUSE', 'POLLEN'])]
  return (c, t) => c.fill(lettering(text, x + 14 * t, y, size, weight), colour)
}

const shadowOf = (dice: Dice) => ({
  colour: dice.next() < 0.75 ? ([0, 0, 0] as [number, number, number]) : ofOne(dice.colour()),
  radius: dice.one([1, 2, 3, 4, 6, 9]),
  opacity: dice.between(0.3, 0.9)
})

/** A bar with a hard edge, translucent. */
const bar = (dice: Dice): ((c: Canvas, t: number) => void) => {
  const [top, height, left, width] = [
    dice.between(50, 110),
    dice.between(24, 60),
    dice.between(4, 50),
    dice.between(120, 260)
  ]
  const [colour, opacity, round] = [dice.colour(), dice.between(0.3, 0.95), dice.one([0, 0, 3, 8])]
  return (c, t) => c.fill(box(left, top, left + width * (0.7 + 0.3 * t), top + height, round), colour, opacity)
}

const KINDS: Readonly<Record<string, Make>> = {
  strap: dice => {
    const [under, words, small] = [bar(dice), letters(dice), letters(dice)]
    return t =>
      drawn(c => {
        under(c, t)
        words(c, t)
        small(c, t)
      })
  },
  'strap over a soft shadow': dice => {
    const [under, words, shadow] = [bar(dice), letters(dice), shadowOf(dice)]
    const wide = dice.one([4, 5, 6, 8, 11, 14])
    // the shadow lies beneath the bar, softer and wider than it, and shows through
    return t =>
      over(
        drawn(c => {
          under(c, t)
          if (wide > 8) words(c, t)
        }),
        shadowed(
          blurred(
            drawn(c => under(c, t)),
            wide
          ),
          { ...shadow, radius: wide }
        )
      )
  },
  'bar over a vignette': dice => {
    const [under, words] = [bar(dice), letters(dice)]
    const [dark, reach, x, y] = [
      ofOne(dice.next() < 0.6 ? [0, 0, 0] : dice.colour()),
      dice.between(50, 160),
      dice.between(60, 260),
      dice.between(40, 140)
    ]
    return t =>
      over(
        drawn(c => {
          under(c, t)
          words(c, t)
        }),
        shaded((px, py) => [...dark, Math.max(0, 0.8 - Math.hypot(px - x, py - y) / reach)])
      )
  },
  'lettering with a shadow': dice => {
    const [words, shadow] = [letters(dice), shadowOf(dice)]
    return t =>
      shadowed(
        drawn(c => words(c, t)),
        shadow
      )
  },
  ramp: dice => {
    const [from, to, two] = [ofOne(dice.colour()), ofOne(dice.colour()), dice.next() < 0.5]
    const [top, height, most] = [dice.between(0, 80), dice.between(40, 120), dice.between(0.5, 1)]
    return t =>
      shaded((x, y) => {
        const u = Math.max(0, Math.min(1, (x - 20 * t) / 280))
        const mix = (c: number): number => (two ? from[c]! + (to[c]! - from[c]!) * u : from[c]!)
        return [mix(0), mix(1), mix(2), y > top && y < top + height ? most * u : 0]
      })
  },
  'ramp with lettering': dice => {
    const [words, dark, top] = [letters(dice), ofOne(dice.colour()), dice.between(0, 60)]
    return t =>
      over(
        drawn(c => words(c, t)),
        shaded((_, y) => [...dark, Math.max(0, Math.min(0.85, (y - top) / 140))])
      )
  },
  smoke: dice => {
    const [low, high, seed] = [ofOne(dice.colour()), ofOne(dice.colour()), Math.floor(dice.between(1, 90))]
    const [x, y, reach] = [dice.between(90, 230), dice.between(50, 130), dice.between(50, 120)]
    return t =>
      shaded((px, py) => {
        const body = Math.exp(-(((px - x) / reach) ** 2 + ((py - y) / reach) ** 2))
        const shade = clouds(px + 40, py + 50 * t, seed + 5)
        const mix = (c: number): number => low[c]! + (high[c]! - low[c]!) * shade
        return [mix(0), mix(1), mix(2), Math.max(0, Math.min(1, 1.9 * clouds(px, py + 60 * t, seed) * body - 0.15))]
      })
  },
  'fade of a whole picture': dice => {
    const [seed, from, to] = [Math.floor(dice.between(1, 90)), dice.between(0.05, 0.4), dice.between(0.5, 1)]
    return t =>
      shaded((x, y) => [
        0.1 + 0.8 * clouds(x, y, seed),
        0.1 + 0.8 * clouds(x, y, seed + 1),
        0.1 + 0.8 * clouds(x, y, seed + 2),
        from + (to - from) * t
      ])
  },
  'fade of a card': dice => {
    const [under, words, from] = [bar(dice), letters(dice), dice.between(0.1, 0.5)]
    return t =>
      faded(
        drawn(c => {
          under(c, 0.5)
          words(c, 0.5)
        }),
        from + (1 - from) * t
      )
  },
  hair: dice => {
    const [colour, seed, many, x] = [
      dice.colour(),
      Math.floor(dice.between(1, 90)),
      dice.between(20, 70),
      dice.between(100, 220)
    ]
    return t =>
      drawn(c => {
        c.fill(ellipse(x, 150, 60, 70), colour)
        for (let n = 0; n < many; n++) {
          const angle = -Math.PI * (0.1 + (0.8 * n) / many)
          const r = 30 + 60 * hash(n, 1, seed)
          const at = (k: number): [number, number] => [
            x + (58 + k * r * 0.5) * Math.cos(angle) + 10 * Math.sin(n + 3 * t) * k * k,
            150 + (66 + k * r * 0.5) * Math.sin(angle)
          ]
          const shade = 0.7 + 0.5 * hash(n, 2, seed)
          c.fill(
            stroke([at(0), at(0.5), at(1)], 0.5 + hash(n, 3, seed)),
            [colour[0] * shade, colour[1] * shade, colour[2] * shade],
            0.85
          )
        }
      })
  },
  'motion blur': dice => {
    const [colour, spot, speed, size] = [dice.colour(), dice.colour(), dice.between(0.004, 0.03), dice.between(8, 40)]
    return t =>
      mean(
        [0, 1, 2, 3, 4, 5, 6, 7].map(n =>
          drawn(c => {
            const x = 60 + 190 * (t + speed * n)
            c.fill(ellipse(x, 90, size, size), colour)
            c.fill(ellipse(x, 82, size / 3, size / 4), spot)
          })
        )
      )
  },
  'pieces over each other': dice => {
    const [seed, many, opacity, soft] = [
      Math.floor(dice.between(1, 90)),
      dice.between(6, 90),
      dice.between(0.3, 1),
      dice.one([1, 1, 3, 8])
    ]
    const palette = [dice.colour(), dice.colour(), dice.colour(), dice.colour()]
    return t =>
      drawn(c => {
        for (let n = 0; n < many; n++)
          c.fill(
            ellipse(
              WIDTH * hash(n, 1, seed),
              (HEIGHT * (hash(n, 2, seed) + t * 0.3)) % HEIGHT,
              4 + 20 * hash(n, 6, seed),
              3 + 12 * hash(n, 7, seed),
              6 * hash(n, 8, seed)
            ),
            palette[n % 4]!,
            opacity,
            soft
          )
      })
  },
  'cards over each other': dice => {
    const cards = [0, 1, 2].map(() => ({
      colour: dice.colour(),
      x: dice.between(0, 150),
      y: dice.between(0, 80),
      opacity: dice.between(0.3, 0.9)
    }))
    return t =>
      drawn(c => {
        cards.forEach(({ colour, x, y, opacity }, n) =>
          c.fill(box(x + 12 * t * n, y, x + 150, y + 90, 14), colour, opacity)
        )
      })
  },
  logo: dice => {
    const [colour, words, size] = [dice.colour(), letters(dice), dice.between(20, 60)]
    return t =>
      drawn(c => {
        c.fill(ellipse(90 + 10 * t, 90, size, size), colour)
        words(c, t)
      })
  },
  'translucent video': dice => {
    const [seed, opacity, soft] = [Math.floor(dice.between(1, 90)), dice.between(0.3, 0.95), dice.between(4, 40)]
    return t =>
      shaded((x, y) => [
        0.1 + 0.8 * clouds(x + 30 * t, y, seed),
        0.1 + 0.8 * clouds(x, y + 20 * t, seed + 1),
        0.1 + 0.8 * clouds(x, y, seed + 2),
        opacity * Math.min(1, Math.max(0, Math.min(x - 8, 312 - x, y - 8, 172 - y) / soft))
      ])
  },
  'keyed footage': dice => {
    const [seed, spill, base] = [Math.floor(dice.between(1, 90)), dice.between(0, 0.2), ofOne(dice.colour())]
    return t => {
      const shape = blurred(
        drawn(c => c.fill(ellipse(150 + 12 * t, 100, 60, 70), [255, 255, 255])),
        1 + Math.round(10 * spill)
      )
      const pixels = shape.pixels.slice()
      for (let i = 0; i < pixels.length; i += 4) {
        const [x, y] = [(i / 4) % WIDTH, Math.floor(i / 4 / WIDTH)]
        let a = pixels[i + 3]!
        if (a > 0 && a < 1) a = Math.max(0, Math.min(1, a + 0.05 * (hash(x, y, seed + Math.round(9 * t)) - 0.5)))
        const shade = 0.6 + 0.5 * clouds(x, y, seed)
        const grain = 0.03 * (hash(x, y, seed + 7) - 0.5)
        const value = (c: number): number =>
          Math.max(0, Math.min(1, base[c]! * shade + grain + (c === 1 ? spill * (1 - a) : 0)))
        pixels.set([a * value(0), a * value(1), a * value(2), a], i)
      }
      return { ...shape, pixels }
    }
  },
  'thin lines': dice => {
    const [one, other, width, many] = [dice.colour(), dice.colour(), dice.between(0.6, 3), dice.between(4, 16)]
    return t =>
      drawn(c => {
        for (let n = 0; n < many; n++)
          c.fill(
            stroke(
              [
                [10, 10 + 12 * n],
                [310, 16 + 11 * n + 8 * t]
              ],
              width
            ),
            n % 2 ? one : other
          )
      })
  }
}

export const KIND_NAMES = Object.keys(KINDS)

function cropped(frame: Frame, [x, y, w, h]: readonly number[]): Frame {
  const samples = frame.samples.slice(0, 4 * w! * h!)
  for (let row = 0; row < h!; row++) {
    const at = 4 * ((y! + row) * frame.width + x!)
    samples.set(frame.samples.subarray(at, at + 4 * w!) as never, 4 * row * w!)
  }
  return { ...frame, width: w!, height: h!, samples }
}

/** The box of what is not clear in any frame. */
function extent(frames: readonly Frame[]): [number, number, number, number] {
  let [left, top, right, bottom] = [WIDTH, HEIGHT, 0, 0]
  for (const { samples } of frames)
    for (let y = 0; y < HEIGHT; y++)
      for (let x = 0; x < WIDTH; x++)
        if (samples[4 * (y * WIDTH + x) + 3]! > 0)
          [left, top, right, bottom] = [
            Math.min(left, x),
            Math.min(top, y),
            Math.max(right, x + 1),
            Math.max(bottom, y + 1)
          ]
  return right > left ? [left, top, right - left, bottom - top] : [0, 0, WIDTH, HEIGHT]
}

/** Where it is cut: not at all, close to what is seen, within it, or a corner of it. */
function cropOf(dice: Dice, frames: readonly Frame[]): [string, number[]] {
  const kind = dice.next()
  if (kind < 0.4) return ['whole', [0, 0, WIDTH, HEIGHT]]
  const [x, y, w, h] = extent(frames)
  if (kind < 0.6) return ['close', [x, y, w, h]]
  const share = dice.between(0.4, 0.9)
  const [cw, ch] = [Math.max(24, Math.round(w * share)), Math.max(24, Math.round(h * share))]
  const left = Math.min(WIDTH - Math.min(cw, WIDTH), x + Math.round(dice.next() * Math.max(0, w - cw)))
  const top = Math.min(HEIGHT - Math.min(ch, HEIGHT), y + Math.round(dice.next() * Math.max(0, h - ch)))
  return ['within', [left, top, Math.min(cw, WIDTH - left), Math.min(ch, HEIGHT - top)]]
}

/** Codes a little off, as grain and dither leave them. */
function noisy(frame: Frame, amount: number, seed: number): Frame {
  const full = frame.depth === 8 ? 255 : 65535
  const scale = (amount * full) / 255
  return {
    ...frame,
    samples: frame.samples.map((code, i) =>
      i % 4 === 3 ? code : Math.max(0, Math.min(full, Math.round(code + scale * 2 * (hash(i, seed, 3) - 0.5))))
    ) as Frame['samples']
  }
}

/** Clip `n` of the corpus; null where there is nothing to see in it. */
export async function specimen(n: number, host: Host): Promise<Specimen | null> {
  const dice = new Dice(n)
  const kind = KIND_NAMES[n % KIND_NAMES.length]!
  const at = KINDS[kind]!(dice)
  const storage = dice.one(storages)
  const depth = dice.next() < 0.6 ? 8 : 16
  const moments = dice.next() < 0.15 ? [0.5] : [0.2, 0.5, 0.8]
  const whole = moments.map(t => stored(at(t), storage, depth as 8 | 16))
  const [crop, where] = cropOf(dice, whole)
  let frames = whole.map(frame => cropped(frame, where))
  const coding = dice.next() < 0.7 ? codings[0]! : dice.one(codings.filter(({ depths }) => depths.includes(depth as 8)))
  frames = await coding.through(frames, host, storage.mode)
  const grain = dice.next() < 0.2 ? dice.between(0.5, 2.5) : 0
  if (grain) frames = frames.map((frame, i) => noisy(frame, grain, n + i))
  if (!frames.some(({ samples }) => samples.some((code, i) => i % 4 === 3 && code > 0))) return null
  return {
    name:
      `${n}: ${kind}, ${storage.name}, ${depth} bit, ${crop} ${where[2]}x${where[3]}, ` +
      `${coding.name}${grain ? `, noise of ${grain.toFixed(1)}` : ''}`,
    kind,
    truth: storage.mode,
    frames
  }
}
