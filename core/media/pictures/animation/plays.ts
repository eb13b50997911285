/** How often an animation plays: the setting that every moving picture has. */
import type { Field } from '../../../base/settings/field'

export const PLAYS: Field = {
  label: 'Plays',
  help: 'How often it plays; 0 is for ever.',
  type: 'number',
  whole: true,
  min: 0,
  max: 65535,
  default: 0
}
