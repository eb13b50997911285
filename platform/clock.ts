/** The clock of whoever runs this, page or process. */
import type { Clock } from '../core/run/delivery/watch'

export const wallClock: Clock = {
  now: () => Date.now(),
  wait: (ms, signal) =>
    new Promise((resolve, reject) => {
      if (signal.aborted) return reject(signal.reason as Error)
      const stop = (): void => {
        clearTimeout(timer)
        reject(signal.reason as Error)
      }
      const timer = setTimeout(() => {
        signal.removeEventListener('abort', stop)
        resolve()
      }, ms)
      signal.addEventListener('abort', stop, { once: true })
    })
}
