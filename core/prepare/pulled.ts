/** What steps that pull alpha share. */
import type { Field } from '../base/settings/field'
import type { Picture } from './picture'
import { scaled } from './scale'
import { finer, type Shaped, type Surroundings } from './step'

/** Pulled alpha lives at more levels than colour of 8 bits has. */
export const pulled = (facts: Shaped): Partial<Shaped> => ({
  ...finer(facts),
  claim: { mode: 'straight', matte: null, says: 'alpha pulled in preparation' }
})

/** A field of a share in per cent, 0 to 100. */
export const percent = (label: string, value: number, help?: string): Extract<Field, { type: 'number' }> => ({
  type: 'number',
  label,
  min: 0,
  max: 100,
  step: 1,
  unit: '%',
  default: value,
  ...(help ? { help } : {})
})

/** Another source's picture brought to the size of the one at hand. */
export const fitted = (other: Picture, { width, height, kernels }: Surroundings): Picture =>
  scaled(other, width, height, 'lanczos', kernels)
