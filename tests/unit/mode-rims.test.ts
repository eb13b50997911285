/**
 * Guesses from the rims of clear areas, where nothing else speaks: at their bounds, and never against a file's word.
 */
import { describe, expect, test } from 'vitest'
import { judgeMode, modeAdvised, sayTaken, type AlphaAnswer, type Weighed } from '../../core/judge/examine/mode'
import { noTriples } from '../../core/frame/kernels/terms'
import type { AlphaClaim } from '../../core/source/source'

const SILENT: AlphaClaim = { mode: 'unknown', matte: null, says: 'nothing' }
const says = (mode: 'straight' | 'premultiplied'): AlphaClaim => ({ mode, matte: null, says: 'a flag' })

/** A clip whose edges and fades say nothing, with clear pixels of one colour. */
function clip(more: Partial<Weighed['triples']>, { clearColour = '#6b8f71' as Weighed['clearColour'] } = {}): Weighed {
  return {
    hasChannel: true,
    clear: 5000,
    partial: 1000,
    solid: 2000,
    clearColour,
    clearPicture: false,
    triples: { ...noTriples(), clear: 5000, deep: 100, asked: 1000, matte: [0x6b, 0x8f, 0x71], ...more }
  }
}

const of = (weighed: Weighed, claim = SILENT): AlphaAnswer => judgeMode(weighed, claim)

describe('rims', () => {
  test.each([
    ['twelve that join', { joined: 12 }, 'premultiplied'],
    ['eleven that join', { joined: 11 }, 'unknown'],
    ['one torn of fifty', { joined: 49, torn: 0 }, 'premultiplied'],
    ['two torn of fifty', { joined: 48, torn: 2 }, 'unknown'],
    ['more torn than three of ten joined', { joined: 40, torn: 13 }, 'straight'],
    ['three of ten', { joined: 40, torn: 12 }, 'unknown'],
    ['eleven torn, none joined', { torn: 11 }, 'unknown'],
    ['joined, with partial pixels of the clear colour', { joined: 60, alike: 801 }, 'straight'],
    ['joined, with nearly as many', { joined: 60, alike: 800 }, 'premultiplied'],
    ['joined, with colours that alpha does not allow', { joined: 60, above: 6 }, 'unknown']
  ] as const)('%s: %o is %s', (_, triples, mode) => {
    const answer = of(clip(triples))
    expect(answer.mode).toBe(mode)
    // a guess decides nothing by itself, and says what it is
    expect(answer.confidence).toBeLessThanOrEqual(0.6)
    if (mode !== 'unknown') {
      expect(answer.evidence.sentence).toMatch(/it is a guess\.$/)
      expect(answer.evidence.decidedBy).toBe('clear')
      expect(modeAdvised(answer, SILENT)).toEqual({ mode: 'straight' })
    }
  })

  test("black and white under partial pixels of the same are anybody's", () => {
    for (const [clearColour, matte] of [
      ['#000000', [0, 0, 0]],
      ['#ffffff', [255, 255, 255]]
    ] as const)
      expect(of(clip({ joined: 60, alike: 900, matte: [...matte] }, { clearColour })).mode).toBe('unknown')
  })

  test('a guess is no reason to doubt what a file says, and strengthens it where they agree', () => {
    const joined = clip({ joined: 60 })
    const against = of(joined, says('straight'))
    expect(against).toMatchObject({ mode: 'straight', confidence: 0.6, evidence: { decidedBy: 'file' } })
    expect(sayTaken(against, says('straight'))).toBeNull()
    const agreed = of(joined, says('premultiplied'))
    expect(agreed.mode).toBe('premultiplied')
    expect(agreed.confidence).toBeGreaterThan(0.6)
    expect(agreed.confidence).toBeLessThan(0.95)
  })
})
