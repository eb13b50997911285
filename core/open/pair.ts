/** A fill and its key put together again: colour from the one, alpha from the brightness of the other. */
import { unreadable } from '../base/errors'
import type { Frame } from '../frame/frame'
import { fillAndKey } from '../media/carriage/carriages'
import { rateFraction, sameRate } from '../base/rate'
import type { Finding, Source } from '../source/source'

/**
 * One source of two. Its frames are straight until an interpretation says otherwise; it is as long as the shorter, and
 * a difference in length or rate is a finding. Rejects when the two are not of one size and depth; closes both then.
 */
export async function paired(fill: Source, key: Source): Promise<Source> {
  const [a, b] = [fill.facts, key.facts]
  const close = async (): Promise<void> => void (await Promise.all([fill.close(), key.close()]))
  if (a.width !== b.width || a.height !== b.height || a.bitDepth !== b.bitDepth) {
    await close()
    throw unreadable(
      b.name,
      null,
      `the key is ${b.width}x${b.height} at ${b.bitDepth} bits, its fill ${a.width}x${a.height} at ` +
        `${a.bitDepth}; they do not belong together`
    )
  }
  const findings: Finding[] = [...a.findings, ...b.findings]
  if (a.frames !== b.frames)
    findings.push({
      id: 'unequal-pair',
      severity: 'fault',
      frames: [],
      sentence: `The fill has ${a.frames} frames and its key ${b.frames}.`
    })
  if (a.rate && b.rate && !sameRate(a.rate, b.rate))
    findings.push({
      id: 'unequal-pair',
      severity: 'fault',
      frames: [],
      sentence: `The fill plays at ${rateFraction(a.rate)} frames per second and its key at ${rateFraction(b.rate)}.`
    })
  return {
    facts: {
      ...a,
      kind: `${a.kind}, fill and key`,
      frames: Math.min(a.frames, b.frames),
      bytes: a.bytes + b.bytes,
      claim: { mode: 'unknown', matte: null, says: 'a fill and its key, two deliveries' },
      findings
    },
    async frame(index, signal): Promise<Frame> {
      return fillAndKey.join(await Promise.all([fill.frame(index, signal), key.frame(index, signal)]))
    },
    close
  }
}
