/** Pictures in floating point, premultiplied on black, for material that a painter of shapes alone cannot make. */
import { Canvas } from '../../demo/canvas'

/** RGBA of 0 to 1, premultiplied; light may exceed alpha where it is added. */
export interface Plate {
  width: number
  height: number
  pixels: Float32Array
}

export const WIDTH = 320
export const HEIGHT = 180

export function clearPlate(): Plate {
  return { width: WIDTH, height: HEIGHT, pixels: new Float32Array(WIDTH * HEIGHT * 4) }
}

/** What is drawn on a canvas, premultiplied. */
export function drawn(draw: (canvas: Canvas) => void): Plate {
  const canvas = new Canvas(WIDTH, HEIGHT)
  draw(canvas)
  const pixels = canvas.floats()
  for (let i = 0; i < pixels.length; i += 4) for (let c = 0; c < 3; c++) pixels[i + c]! *= pixels[i + 3]!
  return { width: WIDTH, height: HEIGHT, pixels }
}

/** A colour (0 to 1, straight) and alpha for each pixel. */
export function shaded(at: (x: number, y: number) => readonly [number, number, number, number]): Plate {
  const plate = clearPlate()
  for (let y = 0, i = 0; y < HEIGHT; y++) {
    for (let x = 0; x < WIDTH; x++, i += 4) {
      const [r, g, b, a] = at(x + 0.5, y + 0.5)
      plate.pixels.set([r * a, g * a, b * a, a], i)
    }
  }
  return plate
}

/** `top` laid over `below`. */
export function over(top: Plate, below: Plate): Plate {
  const pixels = new Float32Array(top.pixels.length)
  for (let i = 0; i < pixels.length; i += 4) {
    const rest = 1 - top.pixels[i + 3]!
    for (let c = 0; c < 4; c++) pixels[i + c] = top.pixels[i + c]! + rest * below.pixels[i + c]!
  }
  return { ...top, pixels }
}

/** The whole plate at an opacity. */
export function faded(plate: Plate, opacity: number): Plate {
  return { ...plate, pixels: plate.pixels.map(value => value * opacity) }
}

/** Several moments in one, as an open shutter sees them. */
export function mean(plates: readonly Plate[]): Plate {
  const pixels = new Float32Array(plates[0]!.pixels.length)
  for (const plate of plates) for (let i = 0; i < pixels.length; i++) pixels[i]! += plate.pixels[i]! / plates.length
  return { ...plates[0]!, pixels }
}

/** Colour that is added and no alpha: light. */
export function lit(plate: Plate, light: Plate): Plate {
  return { ...plate, pixels: plate.pixels.map((v, i) => (i % 4 === 3 ? v : Math.min(1, v + light.pixels[i]!))) }
}

/** Every pixel that something covers takes one colour. */
export function tinted(plate: Plate, [r, g, b]: readonly [number, number, number]): Plate {
  const pixels = plate.pixels.slice()
  for (let i = 0; i < pixels.length; i += 4) pixels.set([r * pixels[i + 3]!, g * pixels[i + 3]!, b * pixels[i + 3]!], i)
  return { ...plate, pixels }
}

function boxed({ width, height, pixels }: Plate, radius: number, along: 1 | 0): Plate {
  const result = new Float32Array(pixels.length)
  const [step, length, lines, next] = along ? [4, width, height, 4 * width] : [4 * width, height, width, 4]
  for (let line = 0; line < lines; line++) {
    for (let c = 0; c < 4; c++) {
      const start = line * next + c
      let sum = 0
      for (let n = -radius; n < length + radius; n++) {
        if (n + radius < length) sum += pixels[start + (n + radius) * step]!
        if (n - radius - 1 >= 0) sum -= pixels[start + (n - radius - 1) * step]!
        if (n >= 0 && n < length) result[start + n * step] = Math.max(0, sum) / (2 * radius + 1)
      }
    }
  }
  return { width, height, pixels: result }
}

/** Three boxes of a radius each way: near to a Gaussian; beyond the rim is nothing. */
export function blurred(plate: Plate, radius: number): Plate {
  let result = plate
  for (let n = 0; n < 3; n++) result = boxed(boxed(result, radius, 1), radius, 0)
  return result
}

/** `plate` moved by whole pixels; what comes in is clear. */
export function moved(plate: Plate, dx: number, dy: number): Plate {
  const pixels = new Float32Array(plate.pixels.length)
  for (let y = Math.max(0, dy); y < Math.min(HEIGHT, HEIGHT + dy); y++) {
    for (let x = Math.max(0, dx); x < Math.min(WIDTH, WIDTH + dx); x++) {
      const from = 4 * ((y - dy) * WIDTH + x - dx)
      pixels.set(plate.pixels.subarray(from, from + 4), 4 * (y * WIDTH + x))
    }
  }
  return { ...plate, pixels }
}

/** A soft shadow of what `plate` covers, under it. */
export function shadowed(
  plate: Plate,
  { colour, radius, opacity }: { colour: readonly [number, number, number]; radius: number; opacity: number }
): Plate {
  return over(plate, faded(blurred(moved(tinted(plate, colour), 4, 5), radius), opacity))
}

/** Smooth noise of 0 to 1 with detail at several sizes; the same for the same place and seed. */
export function clouds(x: number, y: number, seed: number): number {
  let sum = 0
  for (let octave = 0, share = 0.5, size = 48; octave < 4; octave++, share /= 2, size /= 2)
    sum += share * lattice(x / size, y / size, seed + 17 * octave)
  return sum / 0.9375
}

export function hash(x: number, y: number, seed: number): number {
  let h = Math.imul(x | 0, 374761393) + Math.imul(y | 0, 668265263) + Math.imul(seed | 0, 1274126177)
  h = Math.imul(h ^ (h >>> 13), 1103515245)
  return ((h ^ (h >>> 16)) >>> 0) / 2 ** 32
}

function lattice(x: number, y: number, seed: number): number {
  const [u, v] = [Math.floor(x), Math.floor(y)]
  const ease = (t: number): number => t * t * (3 - 2 * t)
  const [s, t] = [ease(x - u), ease(y - v)]
  const top = hash(u, v, seed) * (1 - s) + hash(u + 1, v, seed) * s
  const below = hash(u, v + 1, seed) * (1 - s) + hash(u + 1, v + 1, seed) * s
  return top * (1 - t) + below * t
}
