/** A source with steps done to its frames. */
import { prepared as steps } from '../../prepare/preparation'
import type { PreparedSpec } from '../../source/source'
import { lentAll, type Opener } from './opener'

export const prepared: Opener<PreparedSpec> = async (spec, opening) => {
  const base = await opening.lend(spec.of)
  return steps(base, spec.steps, await lentAll(spec.others, opening), opening.host.kernels)
}
