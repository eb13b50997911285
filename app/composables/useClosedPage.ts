/** The closed-off page in an iframe: asks it to play a file, and gets back what it drew. */
import type { HalvesHow } from '~~/core/run/handover/halves-page'
import type { Rate } from '~~/core/base/rate'

/** A file as the browser itself plays it: how many frames, how often, how long. */
export interface Playing {
  frames: number
  /** Plays; Infinity for ever. */
  plays: number
  /** Length of the whole, in microseconds; 0 when it is not told. */
  microseconds: number
  width: number
  height: number
}

export interface ClosedPage {
  open(file: Blob, type: string, how: { rate: Rate | null; halves: HalvesHow | null }): Promise<Playing>
  /** Lets the file play in sight, as any page would. */
  show(file: Blob, type: string, halves: HalvesHow | null): Promise<void>
  /** RGBA of a frame as drawn over a colour. */
  draw(index: number, backdrop: string): Promise<Uint8ClampedArray>
  /** The colour behind the file that plays in sight. */
  back(backdrop: string): Promise<void>
  close(): void
}

/** Talks to the page that `frame` has loaded. Answers reject with the page's own sentence. */
export function closedPage(frame: HTMLIFrameElement): ClosedPage {
  const { port1, port2 } = new MessageChannel()
  const waiting = new Map<number, { resolve(result: unknown): void; reject(error: Error): void }>()
  let last = 0
  port1.onmessage = ({ data }: MessageEvent<{ id: number; result?: unknown; failure?: string }>) => {
    const asked = waiting.get(data.id)
    waiting.delete(data.id)
    if (data.failure === undefined) asked?.resolve(data.result)
    else asked?.reject(new Error(data.failure))
  }
  // the page has an origin of its own that no address names
  frame.contentWindow!.postMessage('play', '*', [port2])
  const ask = (what: unknown, transfer: Transferable[] = []): Promise<unknown> =>
    new Promise((resolve, reject) => {
      waiting.set(++last, { resolve, reject })
      port1.postMessage({ id: last, ask: what }, transfer)
    })
  return {
    async open(file, type, { rate, halves }) {
      const bytes = await file.arrayBuffer()
      return (await ask({ open: { bytes, type, rate: rate && [...rate], halves } }, [bytes])) as Playing
    },
    async show(file, type, halves) {
      const bytes = await file.arrayBuffer()
      await ask({ show: { bytes, type, halves } }, [bytes])
    },
    draw: async (index, backdrop) => (await ask({ draw: index, backdrop })) as Uint8ClampedArray,
    back: async backdrop => void (await ask({ backdrop })),
    close() {
      port1.close()
      const gone = new DOMException('The page was closed.', 'AbortError')
      for (const { reject } of waiting.values()) reject(gone)
    }
  }
}
