/** What a worker has at hand while it works: its host, and the sources it keeps open. */
import type { FrameReader } from '../media/formats/traits/writing'
import type { Deliverable } from '../media/formats/deliverable'
import type { Format } from '../media/formats/format'
import type { Frame } from '../frame/frame'
import type { Host } from '../frame/host'
import { openForProof } from './stored'
import { openSource } from './open'
import type { SourcesAtHand } from '../source/at-hand'
import { specKey } from '../source/identity'
import type { FilesSpec, Source, SourceSpec } from '../source/source'

const lastFrames = new WeakMap<Source, { index: number; frame: Promise<Frame> }>()

/**
 * An open source lent to one that builds on it: closed by its owner alone, and with the frame that was decoded last at
 * hand, so that a preparation that changes need not wait for it. Whoever takes that frame must not hand it on.
 */
function remembering(source: Source): Source {
  return {
    facts: source.facts,
    close: () => Promise.resolve(),
    frame(index, signal) {
      const last = lastFrames.get(source)
      if (last?.index === index) return last.frame
      const frame = source.frame(index, signal)
      lastFrames.set(source, { index, frame })
      frame.catch(() => lastFrames.delete(source))
      return frame
    }
  }
}

/** Sources a worker keeps open at once. */
const MOST_OPEN = 8

export class WorkContext implements SourcesAtHand {
  private readonly open = new Map<string, Promise<Source>>()

  constructor(readonly host: Host) {}

  private reader: { key: string; made: Promise<FrameReader> } | null = null

  /** The reader of frames encoded for a deliverable; one is kept open. */
  frameReader(format: Format, deliverable: Deliverable): Promise<FrameReader> {
    const { width, height, options } = deliverable
    const key = JSON.stringify([format.id, width, height, options, deliverable.alpha])
    if (this.reader?.key === key) return this.reader.made
    // one that is still in use ends its frame first
    void this.reader?.made.then(reader => reader.close()).catch(() => undefined)
    const made = format.readBack!(deliverable, this.host)
    this.reader = { key, made }
    made.catch(() => (this.reader = null))
    return made
  }

  private async keep(key: string, start: () => Promise<Source>): Promise<Source> {
    let source = this.open.get(key)
    if (source) this.open.delete(key)
    else {
      source = start()
      source.catch(() => this.open.delete(key))
    }
    this.open.set(key, source)
    if (this.open.size > MOST_OPEN) {
      const [oldest, waiting] = this.open.entries().next().value!
      this.open.delete(oldest)
      // closing waits for whoever still reads from it only through the reader's own error, so leave it to them
      void waiting.then(s => s.close()).catch(() => undefined)
    }
    return source
  }

  /** Puts an open source among those used last. */
  private touch(spec: SourceSpec): void {
    const key = specKey(spec)
    const open = this.open.get(key)
    if (!open) return
    this.open.delete(key)
    this.open.set(key, open)
  }

  source(spec: SourceSpec): Promise<Source> {
    // what others build on must not be closed before them
    if (spec.kind !== 'files') [spec.of, ...Object.values(spec.others)].forEach(beneath => this.touch(beneath))
    return this.keep(specKey(spec), () => openSource(spec, this.host, beneath => this.lent(beneath)))
  }

  /** A source for others to build on: to be read, and never closed by them. */
  async lent(spec: SourceSpec): Promise<Source> {
    return remembering(await this.source(spec))
  }

  proofSource(spec: FilesSpec): Promise<Source> {
    return this.keep(`proof ${specKey(spec)}`, () => openForProof(spec, this.host))
  }
}
