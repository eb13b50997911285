/**
 * Cells in line. A page does them one after another, each over all its workers; other machines would stand behind the
 * same port.
 */

export interface Queue<Item> {
  /** Puts at the end what does not wait already and is not in hand. Returns what was put. */
  add(items: readonly Item[]): Item[]
  /** Takes out what waits, and stops what is in hand. Returns what was waiting. */
  cancel(which?: (item: Item) => boolean): Item[]
  /** Finishes what is in hand and takes nothing more until `resume`. What is added meanwhile waits. */
  pause(): void
  resume(): void
  readonly current: Item | null
}

export interface Queued<Item> {
  /** Two items of one key are the same. */
  keyOf(item: Item): string
  /** Does one; stops soon after `signal` fires. Its end, good or bad, is its own to tell. */
  run(item: Item, signal: AbortSignal): Promise<void>
  /** Called when another is taken in hand, and with null when nothing is left. */
  onTurn?(item: Item | null): void
}

/** A queue that runs one item at a time, in the order they came; an item that waits already is not taken twice. */
export function serialQueue<Item>({ keyOf, run, onTurn }: Queued<Item>): Queue<Item> {
  const waiting: Item[] = []
  let current: Item | null = null
  let stop = new AbortController()
  let running = false
  let paused = false

  async function turn(): Promise<void> {
    if (running) return
    running = true
    try {
      while (!paused && waiting.length > 0) {
        const next = waiting.shift()!
        current = next
        stop = new AbortController()
        onTurn?.(next)
        await run(next, stop.signal)
      }
    } finally {
      current = null
      running = false
      onTurn?.(null)
    }
  }

  return {
    add(items) {
      const known = new Set([...waiting, ...(current === null ? [] : [current])].map(keyOf))
      const fresh = items.filter(item => !known.has(keyOf(item)) && known.add(keyOf(item)))
      waiting.push(...fresh)
      // what was put is told before the first of it begins
      if (fresh.length) queueMicrotask(() => void turn())
      return fresh
    },
    cancel(which = () => true) {
      const out = waiting.filter(which)
      const gone = new Set(out)
      waiting.splice(0, waiting.length, ...waiting.filter(item => !gone.has(item)))
      if (current !== null && which(current)) stop.abort()
      return out
    },
    pause() {
      paused = true
    },
    resume() {
      paused = false
      queueMicrotask(() => void turn())
    },
    get current() {
      return current
    }
  }
}
