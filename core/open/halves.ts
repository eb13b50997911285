/** Whether films without alpha carry it as a half of their picture: colour beside grey that looks like alpha. */
import { fullCode, type Frame } from '../frame/frame'
import { holdsStacked, LIES, mostOf, type AlphaHalf } from '../frame/stacked'
import type { Finding, Source } from '../source/source'

/** Parts of full by which channels of a grey may differ after coding, and by which those of a colour do. */
const GREY = 10 / 255
const COLOURED = 28 / 255
/** Shares of a half's pixels: most that may be no grey; least that are clear, are seen, and have a colour. */
const NO_GREY = 0.002
const SOME = 0.005
const COLOURS = 0.02
/** Every so many pixels across and down are asked. */
const STEP = 3

interface Seen {
  coloured: number
  noGrey: number
  dark: number
  bright: number
}

function seenIn(frame: Frame, at: { x: number; y: number }, size: { width: number; height: number }): Seen {
  const full = fullCode(frame.depth)
  const seen = { coloured: 0, noGrey: 0, dark: 0, bright: 0 }
  let all = 0
  for (let y = 0; y < size.height; y += STEP)
    for (let x = 0; x < size.width; x += STEP) {
      const i = 4 * ((at.y + y) * frame.width + at.x + x)
      const [r, g, b] = [frame.samples[i]! / full, frame.samples[i + 1]! / full, frame.samples[i + 2]! / full]
      const apart = Math.max(r, g, b) - Math.min(r, g, b)
      all++
      if (apart > GREY) seen.noGrey++
      if (apart > COLOURED) seen.coloured++
      if (g < 0.1) seen.dark++
      if (g > 0.5) seen.bright++
    }
  return {
    coloured: seen.coloured / all,
    noGrey: seen.noGrey / all,
    dark: seen.dark / all,
    bright: seen.bright / all
  }
}

/** The half of a picture that looks like alpha: grey throughout, dark here and bright there, beside one of colours. */
export function alphaHalfOf(frame: Frame): AlphaHalf | null {
  for (const half of ['below', 'right', 'above', 'left'] as const) {
    const size = mostOf(half, frame)
    if (!holdsStacked(size, frame)) continue
    const far = half === 'below' || half === 'above' ? { x: 0, y: size.height } : { x: size.width, y: 0 }
    const near = { x: 0, y: 0 }
    const isFar = half === 'below' || half === 'right'
    const grey = seenIn(frame, isFar ? far : near, size)
    const colour = seenIn(frame, isFar ? near : far, size)
    if (grey.noGrey <= NO_GREY && grey.dark >= SOME && grey.bright >= SOME && colour.coloured >= COLOURS) return half
  }
  return null
}

/** What is to be told of a film without alpha, its first frame and one in its midst asked; null where nothing is. */
export async function halvesFinding(source: Source): Promise<Finding | null> {
  const { frames } = source.facts
  for (const index of new Set([0, frames >> 1])) {
    const half = alphaHalfOf(await source.frame(index))
    if (half)
      return {
        id: 'halves',
        severity: 'warning',
        frames: [index + 1],
        sentence:
          `The half ${LIES[half]} the other is grey throughout, dark here and bright there, as alpha is that lies ` +
          'beside its colour in one picture; the film itself does not say so.',
        causes: `If it is alpha, say under “Taken as” where it lies, or on the command line --halves ${half}.`
      }
  }
  return null
}
