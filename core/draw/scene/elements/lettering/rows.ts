/** Lettering in a box: where its lines are broken (Unicode Standard Annex 14), and how far it shrinks to fit. */
import LineBreaker from 'linebreak'
import type { SetLetter, SetLine } from '../../../type/set'
import type { LetteringBox } from './look'

/** Letters of one line, the last excluded, by their places in the lettering. */
export interface Row {
  from: number
  to: number
}

/** A line as it was entered: its letters, and what each takes at full size, in pixels. */
export interface LineEntered {
  letters: readonly SetLetter[]
  from: number
  /** With what is added after it; of a letter that is drawn as one with those before, nothing. */
  advances: readonly number[]
  /** What is added after each, or after those that it is drawn as one with. */
  spacings: readonly number[]
}

/** A line whose first letter is that of this place in the lettering, as it was set. */
export function lineEntered(from: number, letters: readonly SetLetter[], { clusters }: SetLine): LineEntered {
  const [advances, spacings] = [letters.map(() => 0), letters.map(() => 0)]
  for (const each of clusters) {
    advances[each.from] = each.advance + each.spacing
    spacings.fill(each.spacing, each.from, each.to)
  }
  return { letters, from, advances, spacings }
}

/** Places at which a line may be broken, by letters; its end is the last of them. */
function breaksOf(letters: readonly SetLetter[]): number[] {
  const text = letters.map(({ character }) => character).join('')
  // by the place in UTF-16, how many letters stand before it
  const before = new Map<number, number>()
  let place = 0
  for (const [n, { character }] of letters.entries()) {
    before.set(place, n)
    place += character.length
  }
  before.set(place, letters.length)
  const breaker = new LineBreaker(text)
  const places: number[] = []
  for (let next = breaker.nextBreak(); next; next = breaker.nextBreak()) {
    const n = before.get(next.position)
    if (n !== undefined) places.push(n)
  }
  if (places.at(-1) !== letters.length) places.push(letters.length)
  return places
}

/**
 * What a piece takes without the white space and the spacing at its end, which of a line that runs to the left is its
 * first letter.
 */
function inkOf({ letters, advances, spacings }: LineEntered, from: number, to: number): number {
  let end = to
  while (end > from && !letters[end - 1]!.character.trim()) end--
  let sum = 0
  for (let n = from; n < end; n++) sum += advances[n]!
  return end > from ? sum - Math.min(spacings[from]!, spacings[end - 1]!) : 0
}

/**
 * Breaks lines so that each takes `width` at most where that is possible; also what the widest takes, and which is the
 * last with anything in it.
 */
function broken(
  lines: readonly LineEntered[],
  places: readonly number[][],
  width: number
): { rows: Row[]; widest: number; last: number } {
  const rows: Row[] = []
  let [widest, last] = [0, 0]
  for (const [l, line] of lines.entries()) {
    let [from, to] = [0, 0]
    const end = (): void => {
      rows.push({ from: line.from + from, to: line.from + to })
      const ink = inkOf(line, from, to)
      widest = Math.max(widest, ink)
      if (ink > 0) last = rows.length
      from = to
    }
    for (const place of places[l]!) {
      if (to > from && inkOf(line, from, place) > width) end()
      to = place
    }
    end()
  }
  return { rows, widest, last }
}

/** How lettering lies in its box. */
export interface Fitted {
  rows: Row[]
  /** The share of its size that it is set at. */
  share: number
  fits: boolean
}

/** Halvings in the search for a share: to less than a millionth. */
const STEPS = 20

/** Sets lines into a box: broken, and shrunk no further than the box allows and no further than it must. */
export function fitted(lines: readonly LineEntered[], { width, lines: most, least }: LetteringBox): Fitted {
  // one line is never broken: what is too long for it sticks out at its side
  const places = lines.map(({ letters }) => (most === 1 ? [letters.length] : breaksOf(letters)))
  const at = (share: number): Fitted => {
    const { rows, widest, last } = broken(lines, places, width / share)
    return { rows, share, fits: last <= most && widest * share <= width + 1e-6 }
  }
  const whole = at(1)
  if (whole.fits || least >= 1) return whole
  let found = at(least)
  if (!found.fits) return found
  let [low, high] = [least, 1]
  for (let step = 0; step < STEPS; step++) {
    const middle = at((low + high) / 2)
    if (middle.fits) {
      found = middle
      low = middle.share
    } else high = middle.share
  }
  return found
}
