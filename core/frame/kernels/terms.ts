/**
 * Terms that the compiled kernels, those who call them and the twins that tests hold them to share: reaches, bounds of
 * sizes, and what is counted from.
 */
import type { Triple } from '../../base/colour'
import { BINS, type Differences, type Triples } from './kernels'

const FULL = 65535

/** How far from a partial pixel still counts as edge. */
export const EDGE_REACH = 2

/**
 * The picture backdrop is 1/2 + a wave along x times a wave along y: soft bands that cross, so that every region meets
 * another colour.
 */
export function waveX(x: number, channel: number): number {
  return 0.45 * Math.sin(x * 0.031 + channel * 2.1)
}

/** The other wave of the picture backdrop, along y. */
export function waveY(y: number, channel: number): number {
  return Math.cos(y * 0.043 - channel * 1.3)
}

/** Two frames of which nothing was compared yet. */
export const noDifferences = (): Differences => ({
  changed: 0,
  changedUnderClear: 0,
  alpha: {
    max: 0,
    sum: 0,
    squares: 0,
    changed: 0,
    clearLost: 0,
    solidLost: 0,
    clear: 0,
    solid: 0,
    foundLeast: FULL,
    foundMost: 0,
    dueLevels: new Uint32Array(256),
    foundLevels: new Uint32Array(256)
  },
  colour: { max: 0, sum: 0, visible: 0, bins: new Uint32Array(BINS + 1) },
  edge: { max: 0, sum: 0, pixels: 0 },
  fine: { due: 0, found: 0 }
})

/**
 * How far along a row a disc of `radius` reaches, `dy` rows from its middle: rounder than the exact circle of so few
 * pixels.
 */
export const discReach = (radius: number, dy: number): number =>
  Math.floor(Math.sqrt(radius * radius - dy * dy + 0.25 * radius))

/**
 * What makes alpha of the way a channel has gone from the background: of the way up to white, and of the way down to
 * black.
 */
export function waysFrom(background: Triple, solid: number): { up: Triple; down: Triple } {
  // a background at the very end leaves no way; what goes it all the same is solid
  const FAR = 1e30
  const by = (c: number): number => (c > 0 ? 1 / (c * solid) : FAR)
  return {
    up: background.map(c => by(1 - c)) as unknown as Triple,
    down: background.map(c => -by(c)) as unknown as Triple
  }
}

/** Bytes that packing `n` may take at most. */
export const lzwRoom = (n: number): number => Math.ceil(n * 1.5) + 16

/** Pixels that one word of Animation RLE can hold. */
export const MOST_LITERALS = 127

/** The largest size a frame can have, when no two neighbours are alike. */
export function rleBound(width: number, height: number): number {
  return 14 + height * (3 + Math.ceil(width / MOST_LITERALS) + width * 5)
}

/** From here on an area counts as nearly solid; what is meant to be translucent seldom is so slightly. */
export const NEARLY = Math.round(0.92 * FULL)

/** How far from other alpha a pixel must lie to be within an area. */
export const WITHIN = 3

/**
 * A change from line to line beyond this counts, and so many lines in a row must go to and fro, every other of them
 * alike by half of it.
 */
export const CHANGE = Math.floor(0.25 * FULL)
export const LINES = 6

/** Islands of at most this many pixels are specks; larger ones whose alpha stays below `FAINT_BELOW` are faint. */
export const SPECK = 4
export const FAINT_BELOW = Math.ceil(0.08 * FULL)

/**
 * Distances of the outer pixels of a triple from its middle one, beyond the nearest: for soft edges and ramps, taken on
 * a lattice.
 */
export const FAR = [4, 8, 16, 32, 64] as const

/** Nothing counted yet. */
export const noTriples = (): Triples => ({
  straight: 0,
  premultiplied: 0,
  twice: 0,
  rims: [0, 0],
  slopes: { matte: [0, 0], black: [0, 0], white: [0, 0] },
  intercepts: new Uint32Array(3 * 256),
  above: 0,
  below: 0,
  alike: 0,
  clear: 0,
  matte: [0, 0, 0],
  deep: 0,
  deepAbove: 0,
  deepBelow: 0,
  clearOff: 0,
  torn: 0,
  joined: 0,
  asked: 0
})

/** How much a hue aside from the screen's counts: a colour 70 degrees from it is none of it. */
export const ACROSS = 1 / Math.tan((70 * Math.PI) / 360)

/** Catmull-Rom's shares of four neighbours, `t` of the way from the second to the third. */
export const cubicShares = (t: number): [number, number, number, number] => [
  ((-0.5 * t + 1) * t - 0.5) * t,
  (1.5 * t - 2.5) * t * t + 1,
  ((-1.5 * t + 2) * t + 0.5) * t,
  (0.5 * t - 0.5) * t * t
]
