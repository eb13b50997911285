/** The matrix of `docs/alpha-matrix.md`: every content in every storage, depth and coding, asked which mode it is. */
import { hexToCodes } from '../../core/base/colour'
import { examine } from '../../core/judge/examine/examination'
import { lookAt } from '../../core/judge/examine/look'
import { modeAdvised, type AlphaAnswer } from '../../core/judge/examine/mode'
import { STRAIGHT, type AlphaMode, type Frame } from '../../core/frame/frame'
import type { Host } from '../../core/frame/host'
import type { AlphaClaim, SourceFacts } from '../../core/source/source'
import { codings } from './codings'
import { contents, type Content } from './contents'
import { storages, stored } from './storages'

/** Pictures that differ by no more than so many codes of 255, at all but one pixel in five hundred, are one picture. */
const SAME = 2
const OUTLIERS = 1 / 500

export interface Outcome {
  content: string
  storage: string
  depth: 8 | 16
  coding: string
  /** Whether any other reading shows another picture. */
  decidable: boolean
  answer: AlphaAnswer
  /** The answer shows the true picture; for an unknown mode, whether it may stay unknown. */
  right: boolean
  decided: boolean
  /**
   * What the same samples are taken for in a file that is straight by its standard, and whether that is the true
   * picture.
   */
  taken: AlphaMode
  takenRight: boolean
}

const UNKNOWN: AlphaClaim = { mode: 'unknown', matte: null, says: 'nothing' }
const STANDARD: AlphaClaim = { mode: 'straight', matte: null, says: 'PNG is straight by its standard' }

function factsOf(frames: readonly Frame[], claim: AlphaClaim): SourceFacts {
  const [{ width, height, depth }] = frames as [Frame]
  return {
    name: 'material',
    format: 'tiff-sequence',
    kind: 'TIFF',
    width,
    height,
    frames: frames.length,
    rate: [24, 1],
    rateFrom: 'file',
    bitDepth: depth,
    claim,
    colour: null,
    pixelAspect: [1, 1],
    plays: null,
    bytes: 1,
    findings: []
  }
}

/** What is seen over black, 0 to 255, of samples read in a mode, channel by channel. */
function seenAs(mode: AlphaMode): (code: number, a: number, c: number) => number {
  if (mode.mode !== 'premultiplied') return (code, a) => a * code
  const matte = hexToCodes(mode.matte)
  return (code, a, c) => Math.max(0, Math.min(a * 255, code - (1 - a) * matte[c]!))
}

/**
 * Whether two readings of the same samples show the same picture, over black and so over anything: alpha is the same.
 */
export function sameSeen(frames: readonly Frame[], one: AlphaMode, other: AlphaMode): boolean {
  const [first, second] = [seenAs(one), seenAs(other)]
  let pixels = 0
  for (const { samples } of frames) for (let i = 3; i < samples.length; i += 4) if (samples[i]! > 0) pixels++
  let off = 0
  for (const { samples, depth } of frames) {
    const full = depth === 8 ? 255 : 65535
    for (let i = 0; i < samples.length; i += 4) {
      const a = samples[i + 3]! / full
      if (a === 0 || a === 1) continue
      for (let c = 0; c < 3; c++) {
        const code = (samples[i + c]! / full) * 255
        if (Math.abs(first(code, a, c) - second(code, a, c)) <= SAME) continue
        if (++off > OUTLIERS * pixels) return false
        break
      }
    }
  }
  return true
}

/** The readings that somebody may try: straight, black, white, and the colour that clear pixels show. */
export function readings(clearColour: string | null): AlphaMode[] {
  const mattes = new Set(['#000000', '#ffffff', ...(clearColour ? [clearColour] : [])])
  return [STRAIGHT, ...[...mattes].map((matte): AlphaMode => ({ mode: 'premultiplied', matte }))]
}

const asMode = (answer: AlphaAnswer): AlphaMode | null =>
  answer.mode === 'premultiplied'
    ? { mode: 'premultiplied', matte: answer.matte! }
    : answer.mode === 'straight'
      ? STRAIGHT
      : null

export function outcomeOf(
  frames: readonly Frame[],
  truth: AlphaMode,
  host: Host
): Omit<Outcome, 'content' | 'storage' | 'depth' | 'coding'> {
  const looks = frames.map((frame, i) => ({ frame: i + 1, look: lookAt(frame, host.kernels) }))
  const { alpha: answer } = examine(looks, factsOf(frames, UNKNOWN))
  const claimed = examine(looks, factsOf(frames, STANDARD)).alpha
  const taken = modeAdvised(claimed, STANDARD)
  const others = readings(answer.evidence.clearColour).filter(other => JSON.stringify(other) !== JSON.stringify(truth))
  const decidable = !others.some(other => sameSeen(frames, truth, other))
  const mode = asMode(answer)
  const right = mode ? sameSeen(frames, truth, mode) : !decidable
  return {
    decidable,
    answer,
    right,
    decided: mode !== null && answer.confidence > 0.6,
    taken,
    takenRight: sameSeen(frames, truth, taken)
  }
}

/** Every case of a content. Light outside alpha is stored premultiplied on black only: nothing else can hold it. */
export async function runContent(content: Content, host: Host): Promise<Outcome[]> {
  const outcomes: Outcome[] = []
  const plates = [0.25, 0.5, 0.75].map(t => content.at(t))
  for (const storage of storages) {
    if (content.light && storage.name !== 'premultiplied on black') continue
    for (const depth of [8, 16] as const) {
      const frames = plates.map(plate => stored(plate, storage, depth))
      for (const coding of codings) {
        if (!coding.depths.includes(depth)) continue
        const coded = await coding.through(frames, host, storage.mode)
        const names = { content: content.name, storage: storage.name, depth, coding: coding.name }
        outcomes.push({ ...names, ...outcomeOf(coded, storage.mode, host) })
      }
    }
  }
  return outcomes
}

export { contents }
