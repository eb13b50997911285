/** Frames asked for at once are made one after another, for decoders that build each frame on the one before. */
import { unreadable } from '../base/errors'
import type { Frame } from '../frame/frame'
import type { Source } from './source'

export interface Turns {
  frame(index: number, signal?: AbortSignal): Promise<Frame>
  /** Resolves when nothing is under way. */
  settled(): Promise<void>
}

/** Work done one piece after another, in the order it was asked for; what fails does not stop what comes after. */
export function oneByOne(): { run<T>(work: () => Promise<T>): Promise<T>; settled(): Promise<void> } {
  let busy: Promise<unknown> = Promise.resolve()
  return {
    run(work) {
      const turn = busy.then(work)
      busy = turn.catch(() => undefined)
      return turn
    },
    async settled() {
      await busy
    }
  }
}

/**
 * Hands `show` one index at a time, in the order asked; an index beyond `count` is refused with an error that names
 * `file`.
 */
export function inTurn(
  file: string,
  count: number,
  show: (index: number, signal?: AbortSignal) => Promise<Frame>
): Turns {
  const { run, settled } = oneByOne()
  return {
    frame: (index, signal) =>
      run(async () => {
        if (!(index >= 0 && index < count)) throw unreadable(file, `frame ${index + 1}`, `there are ${count} frames`)
        return show(index, signal)
      }),
    settled
  }
}

/** The stored picture behind a frame as it is shown; what lies beyond the end lies beyond that of the stored ones. */
export const shownAt = (shown: readonly number[] | null, index: number, stored: number): number =>
  shown ? (shown[index] ?? stored) : index

/** The frames of a source whose pictures may be held, shown again or left out, and those pictures one by one. */
export function asShown(turns: Turns, shown: readonly number[] | null, stored: number): Pick<Source, 'frame' | 'each'> {
  return {
    frame: (index, signal) => turns.frame(shownAt(shown, index, stored), signal),
    ...(shown ? { each: turns.frame } : {})
  }
}
