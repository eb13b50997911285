/** Frames asked for at once are made one after another, for decoders that build each frame on the one before. */
import { unreadable } from '../errors'
import type { Frame } from '../frame/frame'

export interface Turns {
  frame(index: number, signal?: AbortSignal): Promise<Frame>
  /** Resolves when nothing is under way. */
  settled(): Promise<void>
}

/** Hands `show` one index at a time, in the order asked; an index beyond `count` is refused with an error that names `file`. */
export function inTurn(file: string, count: number, show: (index: number, signal?: AbortSignal) => Promise<Frame>): Turns {
  let busy: Promise<unknown> = Promise.resolve()
  return {
    frame(index, signal) {
      const turn = busy.then(() => {
        if (!(index >= 0 && index < count)) throw unreadable(file, `frame ${index + 1}`, `there are ${count} frames`)
        return show(index, signal)
      })
      busy = turn.catch(() => undefined)
      return turn
    },
    async settled() {
      await busy
    }
  }
}
