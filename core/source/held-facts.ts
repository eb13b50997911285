/** What readers say of a file, held to what can be stored and worked with: a header may claim anything. */
import { overBudget } from '../base/files/budget'
import { nearestRate, Rate } from '../base/rate'
import type { Finding, SourceFacts } from './source'

/** Pixels more than this many times as wide as high, or the other way, are a damaged field and no shape. */
const MOST_ASPECT = 100

/** A pixel's width and height as two positive numbers; square where that is not what is given. */
export function heldAspect(given: unknown): [number, number] {
  if (!Array.isArray(given) || given.length !== 2) return [1, 1]
  const [width, height] = given as unknown[]
  const shape = Number(width) / Number(height)
  return Number(width) > 0 && Number(height) > 0 && shape <= MOST_ASPECT && shape >= 1 / MOST_ASPECT
    ? [Number(width), Number(height)]
    : [1, 1]
}

/**
 * The facts with a rate of two whole numbers under 2^32, or none, and a pixel shape that is one. What was changed is
 * told as a finding, for the picture may look otherwise than its file says. Throws when the whole is more than a file
 * of its size can hold, or than memory can.
 */
export function heldFacts(facts: SourceFacts): SourceFacts {
  const { width, height, bitDepth: depth, frames, bytes } = facts
  const refused = overBudget({ width, height, depth, frames, bytes }, facts.name)
  if (refused) throw refused
  const findings: Finding[] = []
  const told = (id: string, sentence: string): void =>
    void findings.push({ id, severity: 'note', frames: [], sentence })
  const pixelAspect = heldAspect(facts.pixelAspect)
  if (pixelAspect[0] !== facts.pixelAspect[0] || pixelAspect[1] !== facts.pixelAspect[1])
    told(
      'pixel-shape-damaged',
      `The file says that its pixels are ${facts.pixelAspect.join(':')}, which is not a shape; they are taken as square.`
    )
  let { rate, rateFrom } = facts
  if (rate && !Rate.safeParse(rate).success) {
    rate = nearestRate(rate)
    if (!rate) {
      told(
        'rate-damaged',
        `The file says that it plays at ${facts.rate!.join('/')} frames a second, which is not a rate.`
      )
      rateFrom = 'unknown'
    }
  }
  if (rate === facts.rate && findings.length === 0) return facts
  return { ...facts, rate, rateFrom, pixelAspect, findings: [...facts.findings, ...findings] }
}
