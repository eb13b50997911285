/** The one list of what opens a source, by the kind of its description. */
import type { SourceSpec } from '../../source/source'
import { files } from './files'
import type { Opener } from './opener'
import { prepared } from './prepared'
import { scene } from './scene'

export const OPENERS: { readonly [K in SourceSpec['kind']]: Opener<Extract<SourceSpec, { kind: K }>> } = {
  files,
  prepared,
  scene
}
