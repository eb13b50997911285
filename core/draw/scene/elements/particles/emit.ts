/**
 * Particles at a time, each from its number alone: what comes out is the same in every worker, and wherever in a clip
 * one begins to look.
 */
import type { ParticlesLook } from './look'

/** One particle as it is at a time, from the element's place. */
export interface Particle {
  x: number
  y: number
  /** Across. */
  size: number
  /** Degrees clockwise. */
  turned: number
  opacity: number
  /** How much of its life is over, 0 to 1. */
  age: number
}

/** Whole numbers mixed so that neighbours have nothing in common; from 0 up to 1, without it. */
function chanceOf(seed: number, n: number, salt: number): number {
  let h = (Math.imul(seed, 0x9e3779b1) ^ Math.imul(n, 0x85ebca6b) ^ Math.imul(salt + 1, 0xc2b2ae35)) >>> 0
  h = Math.imul(h ^ (h >>> 16), 0x7feb352d) >>> 0
  h = Math.imul(h ^ (h >>> 15), 0x846ca68b) >>> 0
  return ((h ^ (h >>> 16)) >>> 0) / 2 ** 32
}

const TURN = 2 * Math.PI
/** How often what blows particles about turns, a second: three that never meet. */
const BREATHS = [0.37, 0.83, 1.61] as const

/** How far one is blown about at an age in seconds, -1 to 1; nothing as it comes. */
function blown(chance: (salt: number) => number, salt: number, seconds: number): number {
  return BREATHS.reduce((sum, breath, k) => {
    const phase = TURN * chance(salt + k)
    return sum + (Math.sin(phase + TURN * breath * seconds) - Math.sin(phase)) / (2 * BREATHS.length)
  }, 0)
}

/** Pixels gone after so many seconds at a speed that drag takes from. */
export const gone = (speed: number, drag: number, seconds: number): number =>
  drag > 0 ? (speed * (1 - Math.exp(-drag * seconds))) / drag : speed * seconds

/** One particle, so many seconds after it came; null when its life is over. */
function particleOf(look: ParticlesLook, n: number, seconds: number): Particle | null {
  const chance = (salt: number): number => chanceOf(look.seed, n, salt)
  const differing = (salt: number): number => 1 + look.differ * (2 * chance(salt) - 1)
  const life = look.life * differing(0)
  const age = seconds / life
  if (!(seconds >= 0 && age < 1)) return null
  const way = ((look.way + look.fan * (2 * chance(1) - 1)) * Math.PI) / 180
  const far = gone(look.speed * differing(2), look.drag, seconds)
  const sway = look.turbulence
  const comes = look.fadeIn > 0 ? Math.min(1, age / look.fadeIn) : 1
  const goes = look.fadeOut > 0 ? Math.min(1, (1 - age) / look.fadeOut) : 1
  // a streak lies along its way, which falling bends
  const slowed = look.speed * differing(2) * Math.exp(-look.drag * seconds)
  const heading = Math.atan2(slowed * Math.sin(way) + look.gravity * seconds, slowed * Math.cos(way))
  const turned = look.form === 'streak' ? (heading * 180) / Math.PI : 360 * chance(5)
  return {
    x: (chance(3) - 0.5) * look.width + far * Math.cos(way) + sway * blown(chance, 10, seconds),
    y:
      (chance(4) - 0.5) * look.height +
      far * Math.sin(way) +
      (look.gravity * seconds * seconds) / 2 +
      sway * blown(chance, 20, seconds),
    size: (look.size + (look.sizeEnd - look.size) * age) * differing(6),
    turned: turned + (look.form === 'streak' ? 0 : look.spin * seconds * (chance(7) < 0.5 ? -1 : 1)),
    opacity: comes * goes,
    age
  }
}

/** Particles that are there so many seconds after their element came, the oldest first, and so behind. */
export function particlesAt(look: ParticlesLook, since: number): Particle[] {
  const { rate, life, differ, every, before } = look
  const longest = life * (1 + differ)
  // in a round of its own, each comes again at the same place of the next
  const round = every > 0 ? Math.max(1, Math.round(rate * every)) : null
  const each = round === null ? 1 / rate : every / round
  const last = Math.floor(since / each)
  const first = Math.max(before ? -Infinity : 0, Math.ceil((since - longest) / each))
  const found: Particle[] = []
  for (let n = first; n <= last; n++) {
    const number = round === null ? n : ((n % round) + round) % round
    const particle = particleOf(look, number, since - n * each)
    if (particle) found.push(particle)
  }
  return found
}

/** The most that may be there at once. */
export const mostAlive = ({ rate, life, differ }: Pick<ParticlesLook, 'rate' | 'life' | 'differ'>): number =>
  Math.ceil(rate * life * (1 + differ))
