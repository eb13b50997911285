/** A fill and its key put together again: colour from the one, alpha from the brightness of the other. */
import { unreadable } from '../errors'
import { STRAIGHT, type Frame, type Samples } from '../frame/frame'
import { rateFraction, sameRate } from '../rate'
import type { Finding, Source } from './source'

/** Luma weights of BT.709 in ten-thousandths; a key is grey, so they matter only where it is not. */
const [RED, GREEN, BLUE] = [2126, 7152, 722] as const

function joined(fill: Samples, key: Samples): Samples {
  const samples = fill.slice()
  const float = key instanceof Float32Array
  for (let i = 0; i < samples.length; i += 4) {
    const [r, g, b] = [key[i]!, key[i + 1]!, key[i + 2]!]
    // a grey is kept as it is, whatever the weights would round it to
    samples[i + 3] =
      r === g && g === b
        ? g
        : float
          ? (RED * r + GREEN * g + BLUE * b) / 10000
          : Math.round((RED * r + GREEN * g + BLUE * b) / 10000)
  }
  return samples
}

/**
 * One source of two. Its frames are straight until an interpretation says otherwise; it is as long as the shorter, and a difference
 * in length or rate is a finding. Rejects when the two are not of one size and depth; closes both then.
 */
export async function paired(fill: Source, key: Source): Promise<Source> {
  const [a, b] = [fill.facts, key.facts]
  const close = async (): Promise<void> => void (await Promise.all([fill.close(), key.close()]))
  if (a.width !== b.width || a.height !== b.height || a.bitDepth !== b.bitDepth) {
    await close()
    throw unreadable(
      b.name,
      null,
      `the key is ${b.width}x${b.height} at ${b.bitDepth} bits, its fill ${a.width}x${a.height} at ${a.bitDepth}; they do not belong together`
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
      const [colour, matte] = await Promise.all([fill.frame(index, signal), key.frame(index, signal)])
      return { ...colour, alpha: STRAIGHT, samples: joined(colour.samples, matte.samples) }
    },
    close
  }
}
