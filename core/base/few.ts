/** Work that must not all run at once. */

export interface Few {
  /**
   * Runs `work` once fewer than the most are running, in the order it was asked for; ends as it does. Work that is
   * `urgent` when a place becomes free goes before what waits longer.
   */
  turn<T>(work: () => Promise<T>, urgent?: () => boolean): Promise<T>
  /** Begins what waits and is urgent by now, even beyond the most: somebody looks at it. */
  hurry(): void
}

interface Waiting {
  begin(): void
  urgent: () => boolean
}

const never = (): boolean => false

/** Lets at most so many run at once. */
export function fewAtATime(most: number): Few {
  const waiting: Waiting[] = []
  let running = 0
  function takeOut(which: (each: Waiting) => boolean): Waiting | undefined {
    const at = waiting.findIndex(which)
    return at < 0 ? undefined : waiting.splice(at, 1)[0]
  }
  function begin(each: Waiting): void {
    running++
    each.begin()
  }
  return {
    async turn(work, urgent = never) {
      if (running < most || urgent()) running++
      else await new Promise<void>(resolve => waiting.push({ begin: resolve, urgent }))
      try {
        return await work()
      } finally {
        running--
        const next = running < most ? (takeOut(each => each.urgent()) ?? waiting.shift()) : undefined
        if (next) begin(next)
      }
    },
    hurry() {
      for (let next = takeOut(each => each.urgent()); next; next = takeOut(each => each.urgent())) begin(next)
    }
  }
}
