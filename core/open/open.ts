/** Opening a source from its description, under the interpretation it was given. */
import type { Host } from '../frame/host'
import type { Source, SourceSpec } from '../source/source'
import type { Opener } from './openers/opener'
import { OPENERS } from './openers/openers'

/**
 * Opens the source; its frames carry the alpha mode the interpretation gives them, and are prepared as the description
 * says. What it is made of is opened by `beneath`, and closed with the source, or when opening it rejects.
 */
export async function openSource(
  spec: SourceSpec,
  host: Host,
  beneath = (other: SourceSpec): Promise<Source> => openSource(other, host)
): Promise<Source> {
  const lent: Source[] = []
  const givenBack = async (): Promise<void> => void (await Promise.all(lent.map(source => source.close())))
  const lend = async (other: SourceSpec): Promise<Source> => {
    const source = await beneath(other)
    lent.push(source)
    return source
  }
  try {
    return await (OPENERS[spec.kind] as Opener<SourceSpec>)(spec, { host, lend, givenBack })
  } catch (error) {
    await givenBack()
    throw error
  }
}
