/**
 * Patches of known colour and the labels they may come under, with what each label means: maths written apart from the
 * core, from the standards themselves.
 */
import type { ColourTags } from '../../core/frame/colour-tags'
import { STRAIGHT, type Frame } from '../../core/frame/frame'

/** Side of a patch in pixels, and patches in a row. */
export const BLOCK = 8
export const COLUMNS = 8

/** Straight colour of 0 to 1, and alpha. */
export const patches: readonly (readonly [number, number, number, number])[] = [
  ...Array.from({ length: 16 }, (_, n) => [n / 15, n / 15, n / 15, 1] as const),
  ...(
    [
      [1, 0, 0],
      [0, 1, 0],
      [0, 0, 1],
      [0, 1, 1],
      [1, 0, 1],
      [1, 1, 0]
    ] as const
  ).map(([r, g, b]) => [0.75 * r + 0.1, 0.75 * g + 0.1, 0.75 * b + 0.1, 1] as const),
  [0.78, 0.58, 0.48, 1],
  [0.36, 0.24, 0.2, 1],
  [0.02, 0.01, 0.015, 1],
  [0.004, 0.004, 0.006, 1],
  [0.95, 0.4, 0.1, 0.5],
  [0.2, 0.6, 0.9, 0.5],
  [0.5, 0.5, 0.5, 0.25],
  [0.9, 0.9, 0.2, 0.75],
  [1, 1, 1, 0.5],
  [0, 0, 0, 0]
]

const ROWS = Math.ceil(patches.length / COLUMNS)
export const [WIDTH, HEIGHT] = [COLUMNS * BLOCK, ROWS * BLOCK]

/** The patches of a row of eight each, blocks of one colour, as floats. */
export function patched(colours: readonly (readonly number[])[] = patches): Float32Array {
  const samples = new Float32Array(4 * WIDTH * HEIGHT)
  for (let p = 0; p < WIDTH * HEIGHT; p++) {
    const n = Math.floor(Math.floor(p / WIDTH) / BLOCK) * COLUMNS + Math.floor((p % WIDTH) / BLOCK)
    samples.set(colours[n] ?? [0, 0, 0, 0], 4 * p)
  }
  return samples
}

/** Patches as straight codes of 16 bits. */
export const codedPatches: Frame = {
  width: WIDTH,
  height: HEIGHT,
  depth: 16,
  samples: Uint16Array.from(patched(), v => Math.round(v * 65535)),
  alpha: STRAIGHT,
  transfer: 'srgb'
}

/** Where the middle of a patch lies. */
export const middleOf = (n: number): [x: number, y: number] => [
  (n % COLUMNS) * BLOCK + 4,
  Math.floor(n / COLUMNS) * BLOCK + 4
]

/** The colour in the middle of a patch. */
export const at = (rgba: ArrayLike<number>, n: number): number[] => {
  const [x, y] = middleOf(n)
  const i = 4 * (y * WIDTH + x)
  return [0, 1, 2, 3].map(c => rgba[i + c]!)
}

// IEC 61966-2-1
export const srgb = (v: number): number => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4)
export const srgbCode = (v: number): number => (v <= 0.0031308 ? 12.92 * v : 1.055 * v ** (1 / 2.4) - 0.055)
// SMPTE ST 2084, as multiples of 203 cd/m2
export const pq = (v: number): number => {
  const p = v ** (32 / 2523)
  return (10000 / 203) * (Math.max(0, p - 0.8359375) / (18.8515625 - 18.6875 * p)) ** (8192 / 1305)
}
// ITU-R BT.2100, table 5, on a display of 1,000 cd/m2
export const hlg = (rgb: readonly number[]): number[] => {
  const scene = rgb.map(v => (v <= 0.5 ? v ** 2 / 3 : (Math.exp((v - 0.55991073) / 0.17883277) + 0.28466892) / 12))
  const luminance = 0.2627 * scene[0]! + 0.678 * scene[1]! + 0.0593 * scene[2]!
  return scene.map(v => (1000 / 203) * luminance ** 0.2 * v)
}

type Primaries = readonly (readonly [number, number])[]
const BT709: Primaries = [
  [0.64, 0.33],
  [0.3, 0.6],
  [0.15, 0.06]
]
const P3: Primaries = [
  [0.68, 0.32],
  [0.265, 0.69],
  [0.15, 0.06]
]
const BT2020: Primaries = [
  [0.708, 0.292],
  [0.17, 0.797],
  [0.131, 0.046]
]

function solved(columns: readonly (readonly number[])[], sum: readonly number[]): number[] {
  const det = (m: readonly (readonly number[])[]): number =>
    m[0]![0]! * (m[1]![1]! * m[2]![2]! - m[1]![2]! * m[2]![1]!) -
    m[1]![0]! * (m[0]![1]! * m[2]![2]! - m[0]![2]! * m[2]![1]!) +
    m[2]![0]! * (m[0]![1]! * m[1]![2]! - m[0]![2]! * m[1]![1]!)
  return columns.map((_, c) => det(columns.map((column, n) => (n === c ? sum : column))) / det(columns))
}

const WHITE = [0.3127 / 0.329, 1, (1 - 0.3127 - 0.329) / 0.329]

/** XYZ of full red, green and blue that make the white of D65 together. */
function columnsOf(places: Primaries): number[][] {
  const columns = places.map(([x, y]) => [x / y, 1, (1 - x - y) / y])
  const amounts = solved(columns, WHITE)
  return columns.map((column, c) => column.map(v => v * amounts[c]!))
}

/** Light under some primaries as light of BT.709's. */
export function to709(places: Primaries, light: readonly number[]): number[] {
  const columns = columnsOf(places)
  return solved(
    columnsOf(BT709),
    [0, 1, 2].map(n => columns.reduce((sum, column, c) => sum + column[n]! * light[c]!, 0))
  )
}

export interface Label {
  name: string
  tags: ColourTags | null
  places: Primaries
  light: (rgb: readonly number[]) => number[]
  /** What the step is told that the colour is. */
  step: string | null
}

export const LABELS: readonly Label[] = [
  { name: 'sRGB', tags: null, places: BT709, light: rgb => rgb.map(srgb), step: null },
  { name: 'Display P3', tags: [12, 13, 0], places: P3, light: rgb => rgb.map(srgb), step: 'p3' },
  { name: 'BT.2020', tags: [9, 14, 0], places: BT2020, light: rgb => rgb.map(srgb), step: 'bt2020' },
  { name: 'PQ', tags: [9, 16, 0], places: BT2020, light: rgb => rgb.map(pq), step: 'bt2020-pq' },
  { name: 'HLG', tags: [9, 18, 0], places: BT2020, light: hlg, step: 'bt2020-hlg' },
  { name: 'gamma 2.2', tags: [1, 4, 0], places: BT709, light: rgb => rgb.map(v => v ** 2.2), step: null },
  { name: 'linear BT.2020', tags: [9, 8, 0], places: BT2020, light: rgb => [...rgb], step: null }
]
