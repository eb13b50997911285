/** What a pour asks of a frame: that it is made, coded, and read back while it is at hand. */
import { storedFrame } from '../../media/carriage/stored'
import { impossible } from '../../base/errors'
import { lookAt, lookAtStored, type AlphaLook } from '../../judge/examine/look'
import { sameForm, type Form } from '../../media/formats/form'
import type { Deliverable } from '../../media/formats/deliverable'
import { formatById } from '../../open/registry'
import type { Frame } from '../../frame/frame'
import type { Host } from '../../frame/host'
import { brokenValues } from '../../frame/numbers'
import { coded } from '../../frame/transfer'
import { compareFrames } from '../../judge/proof/compare'
import type { ReadBack } from '../../judge/proof/tasks'
import { taken } from '../../open/interpret'
import type { SourceSpec } from '../../source/source'
import type { WorkContext } from '../../open/context'
import { onFrames } from '../../source/at-hand'
import type { TasksOf } from '../../base/pool'
import { specKey } from '../../source/identity'
import type { PassingRequest } from './passing'

export interface EncodeRequest {
  source: SourceSpec
  index: number
  /** Source frame of the delivered frame before, for formats that code what changed since. */
  before: number | null
  format: string
  deliverable: Deliverable
  /** Whether, and how, the encoded frame is to be read back and compared with what it should be. */
  readBack?: { form: Form; look: boolean } | null
  /** What is to be looked at of the source on the way. */
  passing?: PassingRequest | null
}

export interface Encoded {
  bytes: Uint8Array
  /** Fingerprint of the frame that went into the encoder. */
  print: string
  /**
   * Null where it was not asked for, and where the frame could not be read: the proof, which reads the file, will say
   * why.
   */
  readBack: ReadBack | null
  /** What was looked at on the way; null where nothing was asked for, or that frame cannot be read. */
  look: AlphaLook | null
}

/** A frame that passes, looked at as it is stored. */
const lookInPassing = (frame: Frame, { alpha }: PassingRequest, { kernels }: Host): AlphaLook =>
  lookAtStored(frame.alpha.mode === 'none' ? frame : { ...frame, alpha }, kernels)

/** The frame beneath what is done to it, looked at: it is decoded here, and lies at hand for what is built on it. */
async function lookBeneath(context: WorkContext, passing: PassingRequest): Promise<AlphaLook | null> {
  try {
    return lookInPassing(await (await context.lent(passing.of)).frame(passing.index), passing, context.host)
  } catch {
    // whoever looks at all frames asks for this one again, and tells why
    return null
  }
}

/** The encoded frame read back, against the one that is due of `given`. */
async function readBackOf(
  context: WorkContext,
  { format, deliverable, readBack }: EncodeRequest,
  bytes: Uint8Array,
  given: Frame,
  picture: Frame
): Promise<ReadBack | null> {
  const row = formatById(format)
  if (!readBack || !row.readBack) return null
  const { kernels } = context.host
  const { form, look } = readBack
  try {
    return await onFrames(context, async frames => {
      const { frame: found } = frames.made(
        taken(await (await context.frameReader(row, deliverable)).frame(bytes), form.alpha)
      )
      const { frame: expected } = frames.made(sameForm(form, deliverable) ? picture : storedFrame(given, form, kernels))
      const compared = {
        comparison: compareFrames(expected, found, kernels),
        look: look ? lookAt(coded(found, kernels), kernels) : null
      }
      return { print: kernels.fingerprint(bytes), compared }
    })
  } catch {
    // the proof reads the same bytes from the file, and says what is wrong with them
    return null
  }
}

/** Values that are no numbers cannot be whole codes: what they would become nobody asked for. */
function refuseBroken(frame: Frame, { depth }: Deliverable, index: number): void {
  if (depth === 32) return
  const first = brokenValues(frame)?.first
  if (first)
    throw impossible(
      `frame ${index + 1} has a value at ${first.x}, ${first.y} that is no number or has no end, and ${depth} ` +
        'bits cannot hold it; the step Mend broken values puts another in its place'
    )
}

function encode(context: WorkContext, request: EncodeRequest): Promise<Encoded> {
  const { source, index, before, format, deliverable, passing } = request
  const { kernels } = context.host
  const direct = passing?.index === index && specKey(passing.of) === specKey(source)
  return onFrames(context, async frames => {
    const stored = async (n: number): Promise<{ given: Frame; picture: Frame }> => {
      const { frame: given } = await frames.of(source, n)
      refuseBroken(given, deliverable, n)
      return { given, picture: frames.made(storedFrame(given, deliverable, kernels)).frame }
    }
    // the earlier frame first: decoders that go forward then need not begin again
    const earlier = before === null ? null : await stored(before)
    // what lies beneath is decoded for the look, and then at hand for what is made of it
    const beneath = passing && !direct ? await lookBeneath(context, passing) : null
    const { given, picture } = await stored(index)
    const look = passing && direct ? lookInPassing(given, passing, context.host) : beneath
    const bytes = await formatById(format).encode(context.host, picture, deliverable, earlier?.picture ?? null)
    const print = kernels.fingerprint(picture.samples)
    const readBack = await readBackOf(context, request, bytes, given, picture)
    // what travels must own its whole buffer, or all that shares it would travel too; and what is leased goes nowhere
    const shared =
      bytes.byteLength < bytes.buffer.byteLength ||
      [given, picture, earlier?.given, earlier?.picture].some(frame => frame?.samples.buffer === bytes.buffer)
    return { bytes: shared ? bytes.slice() : bytes, print, readBack, look }
  })
}

function survey(
  context: WorkContext,
  { source, index, format, deliverable }: Pick<EncodeRequest, 'source' | 'index' | 'format' | 'deliverable'>
): Promise<Uint8Array> {
  return onFrames(context, async frames => {
    const { frame: given } = await frames.of(source, index)
    const picture = frames.made(storedFrame(given, deliverable, context.host.kernels))
    return formatById(format).survey!.look(picture.frame)
  })
}

export const pourTasks = { encode, survey }

export type PourTasks = TasksOf<typeof pourTasks>
