/** What a delivery holds, as the plan of a pour has it. */
import type { Rate } from '../../base/rate'
import type { OptionValues } from '../../base/settings/field'
import type { ColourTags } from '../../frame/colour-tags'
import type { LightLevels } from '../../source/light-levels'
import type { SoundForm } from '../../source/sound'
import type { FieldOrder } from '../../source/source'
import type { Form } from './form'

/** What a delivered file holds, frame for frame; made by the plan of a pour. */
export interface Deliverable extends Form {
  width: number
  height: number
  /** The size that its pictures come to once they are together, where that is another than their own. */
  joined?: { readonly width: number; readonly height: number }
  frames: number
  rate: Rate | null
  pixelAspect: readonly [number, number]
  fields: FieldOrder
  /**
   * Colour tags that its codes came with, where they are not those of sRGB; they go along, or the ledger says that they
   * do not.
   */
  tags?: ColourTags | null
  /** Mastering display and light levels that go with them. */
  levels?: LightLevels | null
  /** Sound that goes with it, its first track; null where there is none, or none is wanted. */
  sound: SoundForm | null
  /** Further tracks of it. */
  moreSounds?: readonly SoundForm[]
  options: OptionValues
  /** File name of each picture, for formats that deliver pictures; of a folder that of its main file. */
  names: readonly string[]
  /** What it shows: the source's name. Of folders alone. */
  subject?: string
  /** Stretches of it that have a name, in frames of the delivery from 1; absent where there are none. */
  actions?: readonly { readonly name: string; readonly from: number; readonly to: number }[]
  /** What the format's survey of the clip found. */
  survey?: Uint8Array
}
