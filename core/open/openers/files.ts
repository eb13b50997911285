/** Files: a film, the pictures of a sequence, a drawing, a model, or a scene that shows no other source. */
import type { FilesSpec } from '../../source/source'
import { interpret } from '../interpret'
import { openStored } from '../stored'
import type { Opener } from './opener'

export const files: Opener<FilesSpec> = async (spec, { host }) => interpret(await openStored(spec, host, 'open'), spec)
