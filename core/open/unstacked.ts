/** A film whose pictures are two halves, colour and alpha, as one source of what they make. */
import { unreadable } from '../base/errors'
import { holdsStacked, sayStacked, unstack, type Halves } from '../frame/stacked'
import type { Source } from '../source/source'

/**
 * Its frames are straight until an interpretation says otherwise. Rejects, and closes what it was given, where its
 * halves are too small for the frame that it is to hold.
 */
export async function unstacked(stored: Source, stacked: Halves): Promise<Source> {
  const { each: _each, ...facts } = stored.facts
  if (!holdsStacked(stacked, facts)) {
    await stored.close()
    throw unreadable(
      facts.name,
      null,
      `its picture of ${facts.width}x${facts.height} has no halves that hold ${stacked.width}x${stacked.height}`
    )
  }
  const { width, height } = stacked
  return {
    facts: {
      ...facts,
      stacked,
      width,
      height,
      kind: `${facts.kind}, alpha ${stacked.alpha}`,
      claim: { mode: 'unknown', matte: null, says: `${sayStacked(stacked)}: nothing says how colour stands to it` },
      findings: facts.findings.filter(({ id }) => id !== 'no-alpha-codec')
    },
    frame: async (index, signal) => unstack(await stored.frame(index, signal), stacked),
    close: () => stored.close()
  }
}
