/** A Matroska writer's output into a byte sink, so that a long film is not gathered in memory. */
import { StreamTarget } from 'mediabunny'
import { concatenate } from '../../files/bytes'
import { PATCHABLE, type ByteSink } from '../../files/sinks'

/**
 * A target that appends to `sink`. The writer goes back to give each cluster its length when the cluster ends, and to the head of the
 * film at its end: so a cluster is held back until it has its length, and what comes later is patched in the head.
 */
export function targetInto(sink: ByteSink): StreamTarget {
  let held: Uint8Array[] = []
  let flushed = 0
  let length = 0
  async function flush(): Promise<void> {
    const bytes = concatenate(held)
    held = []
    flushed = length
    if (bytes.length) await sink.append(bytes)
  }
  return new StreamTarget(
    new WritableStream({
      async write({ data, position }) {
        if (position === length) {
          // the writer may use its memory again
          held.push(data.slice())
          length += data.length
        } else if (position >= flushed && position + data.length <= length) {
          const bytes = concatenate(held)
          bytes.set(data, position - flushed)
          held = [bytes]
          await flush()
        } else if (position + data.length <= Math.min(flushed, PATCHABLE)) await sink.patch(position, data.slice())
        else throw new RangeError(`bytes ${position} to ${position + data.length} of a film cannot be written any more`)
      },
      close: flush
    })
  )
}
