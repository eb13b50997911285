/**
 * What workers do, named and typed once for browser and Node. Each task is a plain function of a context (which keeps
 * sources open) and structured-cloneable arguments.
 */
import type { HexColour } from '../colour'
import { PourError, unreachable, wrongCall } from '../errors'
import type { Coverage } from '../examine/examination'
import { lookAt, type Look } from '../examine/look'
import { formatById } from '../formats/registry'
import { sameForm, type Form } from '../formats/form'
import type { Deliverable, Format, FrameReader } from '../formats/format'
import { sameAlphaMode, type AlphaMode, type Frame } from '../frame/frame'
import { withDepth } from '../frame/depth'
import { coded } from '../frame/transfer'
import type { Host } from '../host'
import { lookingAt } from '../intake/intake'
import type { Kernels } from '../kernels/kernels'
import { digestOf } from '../files/digest'
import type { FileRef } from '../files/file'
import { deliverFrame } from '../pour/deliver'
import { contentOf } from '../prepare/content'
import { stepKindById } from '../prepare/kinds'
import { screenFound } from '../prepare/kinds/pull'
import { toPicture } from '../prepare/picture'
import type { Box } from '../frame/box'
import { recipeFigures, stepFigures, stillSteps, type RecipeFigures, type StepFigures } from '../ledger/measure'
import { compareFrames, type FrameComparison } from '../proof/compare'
import { shiftOf, signatureOf, type Shift, type Signature } from '../proof/displacement'
import type { Scene } from '../stations/scene'
import { compose, pictureError, type PictureError } from '../stations/show'
import { stationById } from '../stations/stations'
import { visit, type Visit } from '../stations/visit'
import { peaksOf } from '../sound/peaks'
import type { SoundForm } from '../sound/sound'
import { soundTrackOf } from '../source/sounding'
import { openForProof, openSource, taken } from '../source/open'
import type { Source, SourceSpec } from '../source/source'
import { decidingPixels } from '../view/deciding'
import { surenessPixels } from '../view/sureness'
import { thumbnail } from '../view/thumb'
import { differencePixels, viewPixels, type View, type ViewPixels } from '../view/pixels'

export interface EncodeRequest {
  source: SourceSpec
  index: number
  /** Source frame of the delivered frame before, for formats that code what changed since. */
  before: number | null
  format: string
  deliverable: Deliverable
  /** Whether, and how, the encoded frame is to be read back and compared with what it should be. */
  readBack?: { form: Form; look: boolean } | null
}

/** An encoded frame as it was read back while the frame it was made of was at hand: a fingerprint of its bytes, and what was found. */
export interface ReadBack {
  print: string
  compared: Compared
}

export interface Encoded {
  bytes: Uint8Array
  /** Fingerprint of the frame that went into the encoder. */
  print: string
  /** Null where it was not asked for, and where the frame could not be read: the proof, which reads the file, will say why. */
  readBack: ReadBack | null
}

/** A delivered frame, and the source's that is due in its place. */
export interface FramePair {
  reference: SourceSpec
  referenceIndex: number
  delivered: SourceSpec
  deliveredIndex: number
  /** Mode and depth the delivered frame should have; the reference is brought to them. */
  form: Form
}

export interface CompareRequest extends FramePair {
  /** Whether to look at the delivered frame by itself as well. */
  look: boolean
  /** Fingerprint of the frame due, where one was taken when it was poured: a delivered frame that has it needs no reference. */
  print: string | null
}

/** The comparison, and what the delivered frame shows by itself. */
export interface Compared {
  comparison: FrameComparison
  look: Look | null
}

export interface StationRequest {
  station: string
  delivered: SourceSpec
  index: number
  /** The mode the sender means it to have. */
  due: AlphaMode
  scene: Scene
  /** The source as prepared, and its frame that belongs to this one. */
  reference?: { spec: SourceSpec; index: number } | null
}

export interface PictureRequest {
  delivered: SourceSpec
  index: number
  backdrop: HexColour
  /** The source as prepared, and its frame that belongs to this one. */
  reference?: { spec: SourceSpec; index: number } | null
}

/** Same key, same frames. */
export function specKey(spec: SourceSpec): string {
  const known = keys.get(spec)
  if (known !== undefined) return known
  const { preparation } = spec
  const others = Object.values(preparation?.others ?? {}).map(specKey)
  const key = JSON.stringify([spec.id, spec.interpretation, ...(preparation ? [preparation.steps, others] : [])])
  keys.set(spec, key)
  return key
}

const keys = new WeakMap<SourceSpec, string>()

const lastFrames = new WeakMap<Source, { index: number; frame: Promise<Frame> }>()

/**
 * An open source lent to one that builds on it: closed by its owner alone, and with the frame that was decoded last at hand, so that
 * a preparation that changes need not wait for it. Whoever takes that frame must not hand it on.
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

export class WorkContext {
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
    const { preparation, ...found } = spec
    // what a prepared source builds on must not be closed before it
    if (preparation) [found, ...Object.values(preparation.others)].forEach(beneath => this.touch(beneath))
    return this.keep(specKey(spec), () =>
      openSource(spec, this.host, async beneath => remembering(await this.source(beneath)))
    )
  }

  proofSource(spec: SourceSpec): Promise<Source> {
    return this.keep(`proof ${spec.id} ${JSON.stringify(spec.interpretation)}`, () => openForProof(spec, this.host))
  }
}

/** What bringing in asks of files, answered where the page does not wait for it. */
const intake = {
  unpackFile: (context: WorkContext, file: FileRef) => lookingAt(context.host).unpack(file),
  noteIn: (context: WorkContext, file: FileRef) => lookingAt(context.host).note(file),
  recogniseFile: (context: WorkContext, file: FileRef) => lookingAt(context.host).look(file),
  describe: (context: WorkContext, spec: Omit<SourceSpec, 'id'>) => lookingAt(context.host).describe(spec)
}

/** A frame for whoever asked: its samples are theirs, and may travel on or be given back. */
async function frame(context: WorkContext, spec: SourceSpec, index: number): Promise<Frame> {
  return (await context.source(spec)).frame(index)
}

/** The frame as a screen takes it: sRGB-coded. */
async function seen(context: WorkContext, spec: SourceSpec, index: number): Promise<Frame> {
  return coded(await frame(context, spec, index), context.host.kernels)
}

/** The stored samples, judged under no interpretation. */
async function look(context: WorkContext, spec: SourceSpec, index: number): Promise<Look> {
  return lookAt(await seen(context, spec, index), context.host.kernels)
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
    const found = taken(await (await context.frameReader(row, deliverable)).frame(bytes), form.alpha)
    const expected = sameForm(form, deliverable) ? picture : deliverFrame(given, form, kernels)
    const compared = {
      comparison: compareFrames(expected, found, kernels),
      look: look ? lookAt(coded(found, kernels), kernels) : null
    }
    kernels.spare(found.samples)
    return { print: kernels.fingerprint(bytes), compared }
  } catch {
    // the proof reads the same bytes from the file, and says what is wrong with them
    return null
  }
}

async function encode(context: WorkContext, request: EncodeRequest): Promise<Encoded> {
  const { source, index, before, format, deliverable } = request
  const { kernels } = context.host
  // the earlier frame first: decoders that go forward then need not begin again
  const earlier = before === null ? null : deliverFrame(await frame(context, source, before), deliverable, kernels)
  const given = await frame(context, source, index)
  const picture = deliverFrame(given, deliverable, kernels)
  const bytes = await formatById(format).encode(context.host, picture, deliverable, earlier)
  const print = kernels.fingerprint(picture.samples)
  const readBack = await readBackOf(context, request, bytes, given, picture)
  // the frames are done with, unless they travel on
  for (const { samples } of [picture, given])
    if (samples.buffer !== bytes.buffer && samples.buffer !== earlier?.samples.buffer) kernels.spare(samples)
  // what travels must own its whole buffer, or all that shares it would travel too
  return { bytes: bytes.byteLength === bytes.buffer.byteLength ? bytes : bytes.slice(), print, readBack }
}

async function survey(
  context: WorkContext,
  { source, index, format, deliverable }: Pick<EncodeRequest, 'source' | 'index' | 'format' | 'deliverable'>
): Promise<Uint8Array> {
  const picture = deliverFrame(await frame(context, source, index), deliverable, context.host.kernels)
  return formatById(format).survey!.look(picture)
}

/** The smallest rectangle that holds every pixel with any alpha; null for a clear frame. */
async function contentBox(context: WorkContext, spec: SourceSpec, index: number): Promise<Box | null> {
  return contentOf(await frame(context, spec, index))
}

/** The screen's colour, as a chroma key would be set to it. */
async function screenColour(context: WorkContext, spec: SourceSpec, index: number): Promise<HexColour> {
  return screenFound(toPicture(await frame(context, spec, index), context.host.kernels))
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
async function referenceFrame(context: WorkContext, reference: SourceSpec, index: number): Promise<Frame> {
  try {
    return await frame(context, reference, index)
  } catch (error) {
    throw error instanceof PourError && error.kind === 'unreadable'
      ? unreachable(`the source cannot be read: ${error.message}`)
      : error
  }
}

async function compare(context: WorkContext, request: CompareRequest): Promise<Compared> {
  const { kernels } = context.host
  const { form, print } = request
  const found = await (await context.proofSource(request.delivered)).frame(request.deliveredIndex)
  // a frame with the fingerprint of the one due is the one due: reading the source again could tell no more
  const given =
    print !== null && isAsPoured(found, form, print, kernels)
      ? null
      : await referenceFrame(context, request.reference, request.referenceIndex)
  const expected = given ? deliverFrame(given, form, kernels) : found
  const result = {
    comparison: compareFrames(expected, found, kernels),
    look: request.look ? lookAt(coded(found, kernels), kernels) : null
  }
  for (const { samples } of [found, expected, ...(given ? [given] : [])]) kernels.spare(samples)
  return result
}

/** Fingerprint of the bytes that a delivered frame is coded in; null for formats that do not give them. */
async function encodedPrint(context: WorkContext, delivered: SourceSpec, index: number): Promise<string | null> {
  const source = await context.proofSource(delivered)
  return source.encoded ? context.host.kernels.fingerprint(await source.encoded(index)) : null
}

/** What each still step makes of a frame of the source, in their order; see `ledger/measure.ts`. */
async function stepFiguresOf(context: WorkContext, spec: SourceSpec, index: number): Promise<StepFigures[]> {
  const { preparation, ...base } = spec
  const steps = stillSteps(preparation?.steps ?? [])
  const figures: StepFigures[] = []
  let before = await frame(context, base, index)
  for (const [n, step] of steps.entries()) {
    const after = await frame(
      context,
      { ...base, preparation: { ...preparation!, steps: steps.slice(0, n + 1) } },
      index
    )
    figures.push(stepFigures(before, after, stepKindById(step.kind).crops ?? false, context.host.kernels))
    before = after
  }
  return figures
}

async function recipeFiguresOf(
  context: WorkContext,
  spec: SourceSpec,
  index: number,
  form: Form
): Promise<RecipeFigures> {
  return recipeFigures(await frame(context, spec, index), form, context.host.kernels)
}

async function digest(context: WorkContext, files: readonly FileRef[]): Promise<string> {
  return digestOf(files, context.host)
}

/** Fingerprint of the frame as read back, in 16-bit codes. */
async function fingerprint(context: WorkContext, delivered: SourceSpec, index: number): Promise<string> {
  const { kernels } = context.host
  const found = await (await context.proofSource(delivered)).frame(index)
  return kernels.fingerprint(withDepth(found, 16, kernels).samples)
}

/** Where the frame due, and the frame found, lie among others; see `displacement.ts`. */
async function dueSignature(
  context: WorkContext,
  reference: SourceSpec,
  index: number,
  form: Form
): Promise<Signature> {
  return signatureOf(
    deliverFrame(await frame(context, reference, index), form, context.host.kernels),
    context.host.kernels
  )
}

async function foundSignature(context: WorkContext, delivered: SourceSpec, index: number): Promise<Signature> {
  return signatureOf(await (await context.proofSource(delivered)).frame(index), context.host.kernels)
}

async function shift(context: WorkContext, request: FramePair): Promise<Shift> {
  const expected = deliverFrame(
    await frame(context, request.reference, request.referenceIndex),
    request.form,
    context.host.kernels
  )
  return shiftOf(
    expected,
    await (await context.proofSource(request.delivered)).frame(request.deliveredIndex),
    context.host.kernels
  )
}

async function view(context: WorkContext, spec: SourceSpec, index: number, kind: View): Promise<ViewPixels> {
  return viewPixels(await seen(context, spec, index), kind, context.host.kernels)
}

/** Which pixels decided the mode, and how. */
async function deciding(context: WorkContext, spec: SourceSpec, index: number): Promise<ViewPixels> {
  return decidingPixels(await seen(context, spec, index), context.host.kernels)
}

/** Where a step of the preparation is unsure; null for one that cannot say. `index` is of the clip up to that step. */
async function unsure(
  context: WorkContext,
  spec: SourceSpec,
  index: number,
  stepId: string
): Promise<ViewPixels | null> {
  const found = await (await context.source(spec)).sureness?.(stepId, index)
  return found ? surenessPixels(found) : null
}

/** The outline of a source's sound; null where it has none any more. */
async function soundPeaks(
  context: WorkContext,
  spec: SourceSpec,
  form: SoundForm,
  how: { columns: number; length: number }
): Promise<Float32Array | null> {
  const found = await soundTrackOf(spec, context.host)
  if (!found) return null
  try {
    return await peaksOf(found.reader, found.track, form, how)
  } finally {
    await found.reader.close()
  }
}

/** Pixels of one frame by alpha, 256 bins. */
async function alphaLevels(context: WorkContext, spec: SourceSpec, index: number): Promise<number[]> {
  const { kernels } = context.host
  return [...kernels.look(withDepth(await seen(context, spec, index), 16, kernels).samples as Uint16Array).histogram]
}

/** Shares of clear, partial and solid pixels. */
async function coverage(context: WorkContext, spec: SourceSpec, index: number): Promise<Coverage> {
  const { kernels } = context.host
  const made = await frame(context, spec, index)
  const pixels = made.width * made.height
  const { clear, solid } = kernels.look(withDepth(made, 16, kernels).samples as Uint16Array)
  return { clear: clear / pixels, partial: (pixels - clear - solid) / pixels, solid: solid / pixels }
}

async function thumb(context: WorkContext, spec: SourceSpec, index: number, side: number): Promise<ViewPixels> {
  return thumbnail(await view(context, spec, index, 'over'), side)
}

async function difference(context: WorkContext, request: FramePair): Promise<ViewPixels> {
  const expected = deliverFrame(
    await frame(context, request.reference, request.referenceIndex),
    request.form,
    context.host.kernels
  )
  return differencePixels(
    expected,
    await (await context.proofSource(request.delivered)).frame(request.deliveredIndex),
    context.host.kernels
  )
}

/** The station reads the stored samples: how the file was meant is none of its knowledge. */
async function station(
  context: WorkContext,
  { station: id, delivered, index, due, scene, reference = null }: StationRequest
): Promise<Visit> {
  const known = stationById(id)
  if (!known) throw wrongCall(`there is no station called ${id}`)
  const source = await context.source({ ...delivered, interpretation: { ...delivered.interpretation, alpha: null } })
  const whole = reference ? await frame(context, reference.spec, reference.index) : null
  return visit(known, source.facts, due, index, scene, i => source.frame(i), context.host.kernels, whole)
}

/**
 * Judges a picture that somebody else drew of a frame over a backdrop, what a browser shows, read back: against the frame as delivered
 * and, where the source is at hand at the same size, how far that frame is off the source's own.
 */
async function judgePicture(
  context: WorkContext,
  shown: Uint8ClampedArray,
  { delivered, index, backdrop, reference = null }: PictureRequest
): Promise<{ shown: PictureError; source: PictureError | null }> {
  const { kernels } = context.host
  const delivery = await seen(context, delivered, index)
  const truth = compose(delivery, backdrop, kernels)
  const whole = reference ? await seen(context, reference.spec, reference.index) : null
  const same = whole && whole.width === delivery.width && whole.height === delivery.height
  return {
    shown: pictureError(shown, truth, delivery.width, kernels),
    source: same ? pictureError(truth, compose(whole, backdrop, kernels), delivery.width, kernels) : null
  }
}

export const tasks = {
  contentBox,
  screenColour,
  ...intake,
  frame,
  look,
  encode,
  survey,
  compare,
  encodedPrint,
  digest,
  stepFigures: stepFiguresOf,
  recipeFigures: recipeFiguresOf,
  fingerprint,
  dueSignature,
  foundSignature,
  shift,
  deciding,
  alphaLevels,
  soundPeaks,
  unsure,
  coverage,
  view,
  thumb,
  difference,
  station,
  judgePicture
}

export type Tasks = typeof tasks
export type TaskName = keyof Tasks
export type TaskArguments<N extends TaskName> = Tasks[N] extends (context: WorkContext, ...args: infer A) => unknown
  ? A
  : never
export type TaskResult<N extends TaskName> = Awaited<ReturnType<Tasks[N]>>

/** Buffers of a result that can be handed over instead of copied. */
export function transferables(result: unknown): ArrayBuffer[] {
  const buffers = new Set<ArrayBuffer>()
  const visit = (value: unknown): void => {
    if (ArrayBuffer.isView(value)) {
      if (value.buffer instanceof ArrayBuffer) buffers.add(value.buffer)
    } else if (value && typeof value === 'object' && !(value instanceof Blob))
      for (const part of Object.values(value)) visit(part)
  }
  if (
    ArrayBuffer.isView(result) ||
    (result && typeof result === 'object' && ('samples' in result || 'pixels' in result || 'bytes' in result))
  )
    visit(result)
  return [...buffers]
}
