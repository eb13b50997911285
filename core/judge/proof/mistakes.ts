/** Known mistakes that explain what was found, and how each is said. */
import { type Explanation, type FrameComparison } from './compare'

export const MISTAKES: Record<Explanation['mistake'], { id: string; sentence: string } | null> = {
  none: null,
  'premultiplied-black': {
    id: 'wrong-mode',
    sentence: 'The delivered colour is premultiplied on black where it should be straight: soft edges will look dark.'
  },
  'premultiplied-white': {
    id: 'wrong-mode',
    sentence: 'The delivered colour is premultiplied on white where it should not be: soft edges will look light.'
  },
  'premultiplied-other': {
    id: 'wrong-mode',
    sentence: 'The delivered colour is premultiplied on the wrong colour: soft edges will carry it.'
  },
  unpremultiplied: {
    id: 'wrong-mode',
    sentence: 'The delivered colour is straight where it should be premultiplied: soft edges will look light and hard.'
  },
  'premultiplied-twice': {
    id: 'premultiplied-twice',
    sentence: 'The delivered colour was multiplied by alpha twice: soft edges turn dark.'
  },
  inverted: {
    id: 'alpha-inverted',
    sentence: 'Alpha is inverted: what should be clear is solid and the other way round.'
  },
  'limited-range': {
    id: 'limited-range-alpha',
    sentence:
      'Alpha was stored in limited range (16 to 235): clear areas turn hazy and solid ones let the backdrop through.'
  },
  solid: { id: 'alpha-solid', sentence: 'Alpha is solid in every pixel: the transparency is gone.' }
}

/** The mistake that explains the damage, if one explains nearly all of it. */
export function likelyMistake(comparisons: readonly FrameComparison[]): Explanation['mistake'] | null {
  if (!comparisons.some(c => c.explanations.length > 0)) return null
  const misses = new Map<Explanation['mistake'], number>()
  for (const { explanations } of comparisons)
    for (const { mistake, miss } of explanations) misses.set(mistake, (misses.get(mistake) ?? 0) + miss)
  const as = misses.get('none') ?? 0
  if (as === 0) return null
  const [best, miss] = [...misses].sort((a, b) => a[1] - b[1])[0]!
  return best !== 'none' && miss < as * 0.2 ? best : null
}
