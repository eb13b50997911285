/** Which picture of a sequence stands at each frame, where numbers are missing and pictures cannot be read. */
import type { FilesSpec } from '../source/source'

/** Frames that a sequence may come to by holding its gaps: eleven hours at 25 a second. */
export const MOST_HELD = 1_000_000

/** How many frames pictures of such numbers come to when their gaps are held; null where that is beyond all sense. */
export function framesHeld(numbers: readonly number[]): number | null {
  const length = numbers.at(-1)! - numbers[0]! + 1
  return length >= numbers.length && length <= MOST_HELD ? length : null
}

/**
 * How many frames a sequence shows, and the picture that stands at each: gaps in the numbering are closed, or filled by
 * holding the picture before.
 */
export function frameOrder({
  files,
  numbers,
  interpretation
}: Pick<FilesSpec, 'files' | 'numbers' | 'interpretation'>): {
  length: number
  at(index: number): number
} {
  if (!numbers?.length) return { length: files.length, at: index => index }
  const { damaged, holdGaps } = interpretation
  // a picture that was decided about stands nowhere, whether its file is among the others or not
  const lost = damaged?.as ? new Set(damaged.numbers) : null
  const whole = lost && numbers.some(number => lost.has(number))
  const own = whole ? numbers.flatMap((number, i) => (lost.has(number) ? [] : [i])) : null
  const readable: readonly number[] = own ? own.map(i => numbers[i]!) : numbers
  if (readable.length === 0) return { length: files.length, at: index => index }
  // its place stays, where it is held
  const shown =
    damaged?.as === 'hold' ? [...new Set([...readable, ...damaged.numbers])].sort((a, b) => a - b) : readable
  const filled = holdGaps ? framesHeld(shown) : null
  if (filled === null && shown === numbers) return { length: files.length, at: index => index }
  return {
    length: filled ?? shown.length,
    at(index) {
      // the last picture whose number is not beyond the frame's; the first where none stands before it
      const wanted = filled === null ? shown[index]! : shown[0]! + index
      let [low, high] = [0, readable.length - 1]
      while (low < high) {
        const middle = Math.ceil((low + high) / 2)
        if (readable[middle]! <= wanted) low = middle
        else high = middle - 1
      }
      return own ? own[low]! : low
    }
  }
}

/** Numbers of the pictures that stand at these frames, counted from 1; each once, in the order of their names. */
export function picturesAt(
  spec: Pick<FilesSpec, 'files' | 'numbers' | 'interpretation'>,
  frames: readonly number[]
): number[] {
  const order = frameOrder(spec)
  return [...new Set(frames.flatMap(frame => spec.numbers?.[order.at(frame - 1)] ?? []))].sort((a, b) => a - b)
}
