/** Sources that are kept open for whoever works on them, and leased frames of theirs. */
import type { Frame } from '../frame/frame'
import { coded } from '../frame/transfer'
import type { Host } from '../frame/host'
import { leasing, type Lease } from '../frame/kernels/lease'
import type { FilesSpec, Source, SourceSpec } from './source'

/** What a worker has at hand while it works: its host, and sources that are opened once and closed by their keeper. */
export interface SourcesAtHand {
  readonly host: Host
  source(spec: SourceSpec): Promise<Source>
  /** A source for others to build on: to be read, and never closed by them. */
  lent(spec: SourceSpec): Promise<Source>
  /** The same files read by the proof's decoder. */
  proofSource(spec: FilesSpec): Promise<Source>
}

/** Leases of one piece of work: of frames of a source, of those that a proof reads, and of what is made of them. */
export interface Frames {
  of(spec: SourceSpec, index: number): Promise<Lease<Frame>>
  forProof(spec: FilesSpec, index: number): Promise<Lease<Frame>>
  /** The frame as a screen takes it: sRGB-coded. */
  seen(spec: SourceSpec, index: number): Promise<Lease<Frame>>
  made(frame: Frame): Lease<Frame>
}

/** Does some work on leased frames; what it makes must not share their samples, but by a lease that is kept. */
export function onFrames<T>(context: SourcesAtHand, work: (frames: Frames) => Promise<T> | T): Promise<T> {
  const { kernels } = context.host
  return leasing(kernels, lease => {
    const of = async (spec: SourceSpec, index: number): Promise<Lease<Frame>> =>
      lease(await (await context.source(spec)).frame(index))
    return work({
      of,
      forProof: async (spec, index) => lease(await (await context.proofSource(spec)).frame(index)),
      seen: async (spec, index) => lease(coded((await of(spec, index)).frame, kernels)),
      made: frame => lease(frame)
    })
  })
}
