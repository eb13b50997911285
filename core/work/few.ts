/** Work that must not all run at once. */

export interface Few {
  /** Runs `work` once fewer than the most are running, in the order it was asked for; ends as it does. */
  turn<T>(work: () => Promise<T>): Promise<T>
}

/** Lets at most so many run at once. */
export function fewAtATime(most: number): Few {
  const waiting: (() => void)[] = []
  let running = 0
  return {
    async turn(work) {
      if (running < most) running++
      else await new Promise<void>(resolve => waiting.push(resolve))
      try {
        return await work()
      } finally {
        // the place goes on to whoever waits longest
        const next = waiting.shift()
        if (next) next()
        else running--
      }
    }
  }
}
