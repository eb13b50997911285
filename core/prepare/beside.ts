/** Chroma key by the colour beside each edge; see `tests/oracles/beside.ts` for how. */
import type { Triple } from '../base/colour'
import type { BesideHow, Kernels, KeyedSamples, ScreenNoise, ScreenPlate } from '../frame/kernels/kernels'
import type { Values } from './values'
import { NO_NOISE, screenNoise } from './screen-noise'

export interface BesideSettings {
  screen: Triple
  /** Alpha below is clear, alpha above solid, 0 to 1. */
  clear: number
  solid: number
  /** 0 leaves the screen's light on the subject, 1 takes all of it. */
  spill: number
  /** What the screen's channel is held to: 1 is the larger of the other two, 0 the smaller, between is between. */
  lean: number
  /** Whether the screen's noise is measured, and what it makes of alpha told from alpha. */
  noise: boolean
}

/** Deviations of noise that hardly a pixel lies beyond. */
const FAR = 4.5
/** What alpha at an edge still strays by once it is a mean of several pixels, in deviations. */
const REST = 1.5

/** Noise that `clear` does not hold already; none where it does. */
function noiseBeyond(noise: ScreenNoise, clear: number): ScreenNoise {
  return FAR * Math.max(noise.away, noise.cross) > clear ? noise : NO_NOISE
}

function howOf(values: Values, plate: ScreenPlate, settings: BesideSettings, sure: boolean): BesideHow {
  const { screen, clear, solid, spill, lean } = settings
  const noise = settings.noise ? noiseBeyond(screenNoise(values, plate), clear) : NO_NOISE
  return {
    clear: Math.max(clear, REST * noise.away),
    solid: Math.min(solid, 1 - REST * noise.away),
    spill,
    lean,
    channel: screen.indexOf(Math.max(...screen)),
    noise,
    sure
  }
}

/** Keys straight values before a screen whose colour `plate` gives; floats in place. `sure` asks how sure that is. */
export function pullBeside(
  values: Values,
  plate: ScreenPlate,
  settings: BesideSettings,
  { kernels, sure }: { kernels: Kernels; sure: boolean }
): KeyedSamples {
  return kernels.keyBeside(values.samples, plate, values, howOf(values, plate, settings, sure))
}
