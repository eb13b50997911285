/** What a proof asks of a delivered frame, and of the source's that is due in its place. */
import { storedFrame } from '../../media/carriage/stored'
import { PourError, unreachable } from '../../base/errors'
import { lookAt, type AlphaLook } from '../examine/look'
import { digestOf } from '../../source/digest'
import type { FileRef } from '../../base/files/file'
import type { Form } from '../../media/formats/form'
import { withDepth } from '../../frame/depth'
import { sameAlphaMode, type Frame } from '../../frame/frame'
import { coded } from '../../frame/transfer'
import type { Kernels } from '../../frame/kernels/kernels'
import type { Lease } from '../../frame/kernels/lease'
import type { SourceSpec, FilesSpec } from '../../source/source'
import type { WorkContext } from '../../open/context'
import { onFrames, type Frames } from '../../source/at-hand'
import type { TasksOf } from '../../base/pool'
import { compareFrames, type FrameComparison } from './compare'
import { shiftOf, signatureOf, type Shift, type Signature } from './displacement'

/** A delivered frame, and the source's that is due in its place. */
export interface FramePair {
  reference: SourceSpec
  referenceIndex: number
  delivered: FilesSpec
  deliveredIndex: number
  /** Mode and depth the delivered frame should have; the reference is brought to them. */
  form: Form
}

export interface CompareRequest extends FramePair {
  /** Whether to look at the delivered frame by itself as well. */
  look: boolean
  /**
   * Fingerprint of the frame due, where one was taken when it was poured: a delivered frame that has it needs no
   * reference.
   */
  print: string | null
}

/** The comparison, and what the delivered frame shows by itself. */
export interface Compared {
  comparison: FrameComparison
  look: AlphaLook | null
}

/**
 * An encoded frame as it was read back while the frame it was made of was at hand: a fingerprint of its bytes, and what
 * was found.
 */
export interface ReadBack {
  print: string
  compared: Compared
}

/** Whether the frame has, sample for sample, the form and the fingerprint it had when it was poured. */
function isAsPoured(found: Frame, form: Form, print: string, kernels: Kernels): boolean {
  return (
    found.depth === form.depth &&
    found.transfer === form.transfer &&
    sameAlphaMode(found.alpha, form.alpha) &&
    kernels.fingerprint(found.samples) === print
  )
}

/** A frame of what a delivery is held against: when it cannot be read, that says nothing of the delivery. */
async function referenceFrame(frames: Frames, reference: SourceSpec, index: number): Promise<Lease<Frame>> {
  try {
    return await frames.of(reference, index)
  } catch (error) {
    throw error instanceof PourError && error.kind === 'unreadable'
      ? unreachable(`the source cannot be read: ${error.message}`)
      : error
  }
}

/** A delivered frame as it was found, and as it is due. */
export async function foundAndDue(
  { reference, referenceIndex, delivered, deliveredIndex, form }: FramePair,
  frames: Frames,
  kernels: Kernels
): Promise<{ found: Frame; due: Frame }> {
  const { frame: given } = await frames.of(reference, referenceIndex)
  const { frame: due } = frames.made(storedFrame(given, form, kernels))
  return { due, found: (await frames.forProof(delivered, deliveredIndex)).frame }
}

export const proofTasks = {
  compare: (context: WorkContext, request: CompareRequest): Promise<Compared> =>
    onFrames(context, async frames => {
      const { kernels } = context.host
      const { form, print } = request
      const { frame: found } = await frames.forProof(request.delivered, request.deliveredIndex)
      // a frame with the fingerprint of the one due is the one due: reading the source again could tell no more
      const given =
        print !== null && isAsPoured(found, form, print, kernels)
          ? null
          : await referenceFrame(frames, request.reference, request.referenceIndex)
      const due = given ? frames.made(storedFrame(given.frame, form, kernels)).frame : found
      return {
        comparison: compareFrames(due, found, kernels),
        look: request.look ? lookAt(coded(found, kernels), kernels) : null
      }
    }),

  /** Fingerprint of the bytes that a delivered frame is coded in; null for formats that do not give them. */
  async encodedPrint(context: WorkContext, delivered: FilesSpec, index: number): Promise<string | null> {
    const source = await context.proofSource(delivered)
    return source.encoded ? context.host.kernels.fingerprint(await source.encoded(index)) : null
  },

  digest: (context: WorkContext, files: readonly FileRef[]): Promise<string> => digestOf(files, context.host),

  /** Fingerprint of the frame as read back, in 16-bit codes. */
  fingerprint: (context: WorkContext, delivered: FilesSpec, index: number): Promise<string> =>
    onFrames(context, async frames => {
      const { kernels } = context.host
      const deep = frames.made(withDepth((await frames.forProof(delivered, index)).frame, 16, kernels))
      return kernels.fingerprint(deep.frame.samples)
    }),

  /** Where the frame due, and the frame found, lie among others; see `displacement.ts`. */
  dueSignature: (context: WorkContext, reference: SourceSpec, index: number, form: Form): Promise<Signature> =>
    onFrames(context, async frames => {
      const { kernels } = context.host
      const due = frames.made(storedFrame((await frames.of(reference, index)).frame, form, kernels))
      return signatureOf(due.frame, kernels)
    }),

  foundSignature: (context: WorkContext, delivered: FilesSpec, index: number): Promise<Signature> =>
    onFrames(context, async frames =>
      signatureOf((await frames.forProof(delivered, index)).frame, context.host.kernels)
    ),

  shift: (context: WorkContext, request: FramePair): Promise<Shift> =>
    onFrames(context, async frames => {
      const { due, found } = await foundAndDue(request, frames, context.host.kernels)
      return shiftOf(due, found, context.host.kernels)
    })
}

export type ProofTasks = TasksOf<typeof proofTasks>
