/** The switch of lossy codecs that carries colour into clear pixels of straight pictures. */
import type { Field } from '../../base/settings/field'

export const FILL_EDGES: Field = {
  label: 'Fill clear edges',
  help:
    'Carries edge colour into the clear pixels of a straight picture, so that coding leaves no dark ' +
    'rim. Alpha is not touched by it.',
  type: 'switch',
  fillsEdges: true,
  default: true
}
