/**
 * Where poured bytes go. A writer appends; only bytes of the first MiB may be patched afterwards, so that a sink can
 * hand everything later on at once. Every call resolves when the sink is ready for more: that is the back-pressure.
 */
import { makeZip } from 'client-zip'

export interface ByteSink {
  append(bytes: Uint8Array): Promise<void>
  /** Overwrites bytes written before; `at + bytes.length` is at most `PATCHABLE`. */
  patch(at: number, bytes: Uint8Array): Promise<void>
  close(): Promise<void>
  /** Gives up: removes what was written, as far as the place allows. */
  abort(): Promise<void>
}

export const PATCHABLE = 1 << 20

/** A place for many files: a ZIP, or a folder. */
export interface FilesSink {
  add(name: string, bytes: Uint8Array): Promise<void>
  close(): Promise<void>
  abort(): Promise<void>
}

interface Waiting {
  name: string
  input: Uint8Array<ArrayBuffer>
}

/** Files into one stored ZIP (pictures are compressed already), written as they come. `date` stamps every entry. */
export function zipSink(sink: ByteSink, date: Date): FilesSink {
  let offer: ((entry: Waiting | null) => void) | null = null
  let queued: { entry: Waiting | null; taken: () => void } | null = null
  let failure: unknown = null

  async function* entries(): AsyncGenerator<{ name: string; input: Uint8Array<ArrayBuffer>; lastModified: Date }> {
    for (;;) {
      const entry = await new Promise<Waiting | null>(resolve => {
        if (queued) {
          const { entry, taken } = queued
          queued = null
          resolve(entry)
          taken()
        } else offer = resolve
      })
      if (!entry) return
      yield { ...entry, lastModified: date }
    }
  }

  const pump = (async () => {
    const stream = makeZip(entries())
    const reader = stream.getReader()
    for (;;) {
      const { done, value } = await reader.read()
      if (done) return
      await sink.append(value)
    }
  })().catch((error: unknown) => {
    failure = error
    queued?.taken()
  })

  function put(entry: Waiting | null): Promise<void> {
    if (failure) return Promise.reject(failure as Error)
    if (offer) {
      const take = offer
      offer = null
      take(entry)
      return Promise.resolve()
    }
    return new Promise((resolve, reject) => {
      queued = { entry, taken: () => (failure ? reject(failure as Error) : resolve()) }
    })
  }

  return {
    add: (name, bytes) => put({ name, input: bytes as Uint8Array<ArrayBuffer> }),
    async close() {
      await put(null)
      await pump
      if (failure) throw failure as Error
      await sink.close()
    },
    async abort() {
      await sink.abort()
    }
  }
}

/** Keeps everything in memory: for tests and for small samples. */
export function memorySink(): ByteSink & { bytes(): Uint8Array<ArrayBuffer> } {
  let held = new Uint8Array(1 << 16)
  let length = 0
  return {
    append(bytes) {
      if (length + bytes.length > held.length) {
        const larger = new Uint8Array(Math.max(held.length * 2, length + bytes.length))
        larger.set(held.subarray(0, length))
        held = larger
      }
      held.set(bytes, length)
      length += bytes.length
      return Promise.resolve()
    },
    patch(at, bytes) {
      held.set(bytes, at)
      return Promise.resolve()
    },
    close: () => Promise.resolve(),
    abort: () => Promise.resolve(),
    bytes: () => held.slice(0, length)
  }
}
