/** The name that a delivery gets where something of its name may stand already. */
import { impossible } from '../../base/errors'
import { freeName } from '../../job/outlet/names'
import type { ExistingPolicy } from '../../job/outlet/settings'

export interface NameWanted {
  policy: ExistingPolicy
  wanted: string
  has(name: string): Promise<boolean> | boolean
  /** What is said where the outlet stops rather than replace. */
  refusal: string
}

/**
 * The wanted name, or the first free one after it where both are kept. Rejects with the refusal where the policy is to
 * stop.
 */
export async function nameUnder({ policy, wanted, has, refusal }: NameWanted): Promise<string> {
  if (policy === 'replace' || !(await has(wanted))) return wanted
  if (policy === 'stop') throw impossible(refusal)
  const taken = new Set([wanted])
  for (;;) {
    const name = freeName(wanted, other => taken.has(other))
    if (!(await has(name))) return name
    taken.add(name)
  }
}
