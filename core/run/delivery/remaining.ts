/** How long a round of pours will take yet, told from how long what is done of it took. */

/** What a cell comes to in work: pixels to be poured, and the share of that which it takes to prove them. */
export interface Workload {
  pixels: number
  proving: number
}

/** Proving takes about as long as pouring; where frames were read back as they were poured, a tenth of it. */
export function workloadOf(clip: { frames: number; width: number; height: number }, readBack: boolean): Workload {
  return { pixels: clip.frames * clip.width * clip.height, proving: readBack ? 0.1 : 1 }
}

/** All work of a cell. */
export const wholeWork = ({ pixels, proving }: Workload): number => pixels * (1 + proving)

/** The work done of a cell that is in hand, `share` of its frames poured or, after that, proven. */
export const workDone = ({ pixels, proving }: Workload, state: 'pouring' | 'proving', share: number): number =>
  state === 'pouring' ? pixels * share : pixels * (1 + proving * share)

export interface Round {
  /** Work of all its cells, and what is done of it. */
  effort: number
  done: number
  /** What had been done when the clock was started, after a pause for one. */
  before: number
  /** Seconds since then. */
  seconds: number
}

/** Less is known after so short a time than would be said. */
const TOO_SOON = 1

/** Seconds the rest will take if it goes on as it went; null while too little is done for a word. */
export function secondsToEnd({ effort, done, before, seconds }: Round): number | null {
  if (seconds < TOO_SOON || done <= before) return null
  return (seconds * Math.max(0, effort - done)) / (done - before)
}
