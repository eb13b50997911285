/** What opens one kind of source description. A further kind is a file here, a line in `openers.ts` and its type. */
import type { Host } from '../../frame/host'
import type { Source, SourceSpec } from '../../source/source'

/** What an opener has at hand. */
export interface Opening {
  host: Host
  /**
   * A source that this one is made of. What is lent is given back by `givenBack`, or by whoever asked for this source
   * when opening it rejects.
   */
  lend(other: SourceSpec): Promise<Source>
  /** Lets go of all that was lent; called once, when the source that it was lent to is closed. */
  givenBack(): Promise<void>
}

/** A description's frames and facts, under the interpretation it was given. Rejects when they cannot be had. */
export type Opener<S extends SourceSpec> = (spec: S, opening: Opening) => Promise<Source>

/** Every source of a description by the id it has there. */
export async function lentAll(
  others: Readonly<Record<string, SourceSpec>>,
  { lend }: Opening
): Promise<Map<string, Source>> {
  const lent = new Map<string, Source>()
  for (const [id, other] of Object.entries(others)) lent.set(id, await lend(other))
  return lent
}
