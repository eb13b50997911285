/**
 * High dynamic range brought to sRGB: PQ (SMPTE ST 2084) and HLG (ITU-R BT.2100), with the reference white of ITU-R
 * BT.2408.
 */

/** Nits of reference white, which becomes sRGB's white before highlights are drawn in. */
const WHITE = 203
/** From here on highlights are drawn in towards white, so that what lies beyond it is not all one. */
const KNEE = 0.75

const [M1, M2] = [2610 / 16384, (2523 / 4096) * 128]
const [C1, C2, C3] = [3424 / 4096, (2413 / 4096) * 32, (2392 / 4096) * 32]

/** Light of a PQ code from 0 to 1, as a share of reference white. */
export function pqLight(code: number): number {
  const p = Math.max(0, code) ** (1 / M2)
  return ((Math.max(0, p - C1) / (C2 - C3 * p)) ** (1 / M1) * 10_000) / WHITE
}

const A = 0.17883277
const B = 1 - 4 * A
const C = 0.5 - A * Math.log(4 * A)

/** Light of the scene of an HLG code from 0 to 1, from 0 to 1. */
export const hlgScene = (code: number): number =>
  code <= 0.5 ? (code * code) / 3 : (Math.exp((code - C) / A) + B) / 12

/**
 * By how much the light of a scene of this luminance grows on a display of 1,000 nits, as a share of reference white.
 */
export const hlgGain = (luminance: number): number => (luminance > 0 ? luminance ** 0.2 * (1000 / WHITE) : 0)

/** A value of light beyond the knee, drawn in: the slope goes on at the knee, and white is never quite reached. */
export const drawnIn = (light: number): number =>
  light <= KNEE ? light : KNEE + (1 - KNEE) * (1 - Math.exp(-(light - KNEE) / (1 - KNEE)))
