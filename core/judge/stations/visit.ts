/** A visit: a delivered file at one station, in a scene. */
import { isWide } from '../../frame/colour-tags'
import { spaceOfTags, toSrgb, type Space } from '../../prepare/gamut'
import { toFrame, toPicture } from '../../prepare/picture'
import { coded } from '../../frame/transfer'
import { readAs } from '../../frame/alpha'
import type { AlphaMode, Frame } from '../../frame/frame'
import type { Kernels } from '../../frame/kernels/kernels'
import { seamOf, seamPairs, type SeamStep } from '../../frame/seam'
import { distance, MOVES, signatureOf, type Signature } from '../proof/displacement'
import { framesPerSecond } from '../../base/rate'
import type { SourceFacts } from '../../source/source'
import { paint } from './paint'
import type { StationScene } from './scene'
import { pictureError, type PictureError } from './show'
import { taking, type Guest, type Judgement, type Station } from './station'

export interface Visit extends Judgement {
  width: number
  height: number
  /** Opaque RGBA, 8 bits: the picture on the station's screen. */
  pixels: Uint8ClampedArray<ArrayBuffer>
  error: PictureError
  /** How far the file, as it is meant, is off the source itself, where that is at hand. */
  source: PictureError | null
}

/**
 * A file that, read as it is meant, is off the source by this much, over this share of the picture, does not show what
 * was brought in.
 */
const LACKS = { max: 20, share: 0.01 }

/**
 * A judgement of the file, once the source is looked at as well: a file that is shown as it is need not be the source.
 */
export function againstSource(judged: Judgement, off: PictureError | null): Judgement {
  if (!off || judged.standing === 'wrong' || off.max < LACKS.max || off.share < LACKS.share) return judged
  return {
    ...judged,
    standing: 'wrong',
    sentence:
      `The file is not the source, however it is taken: ${Math.round(off.share * 100)} % of the ` +
      `picture differs, by up to ${Math.round(off.codes)} codes of 255.`
  }
}

/** Which frame the station shows at the moment at which `index` is due; the last stays once it has ended. */
export function frameShown(station: Station, guest: Guest, index: number): number {
  const pace = station.pace?.(guest) ?? { kind: 'as-said' }
  if (pace.kind === 'still') return 0
  const { rate, frames } = guest.facts
  if (pace.kind === 'as-said' || !rate) return index
  return Math.min(frames - 1, Math.floor((index / framesPerSecond(rate)) * pace.framesPerSecond + 1e-9))
}

/** Steps between frames that a seam is judged by; more would cost more than the picture. */
const SEAM_STEPS = 8

const seams = new WeakMap<SourceFacts, Promise<SeamStep>>()

/** The seam of a file, measured once for as long as it is open. */
function seamSeen(facts: SourceFacts, frame: (index: number) => Promise<Frame>, kernels: Kernels): Promise<SeamStep> {
  const known = seams.get(facts)
  if (known) return known
  const measured = (async () => {
    const pairs = seamPairs(facts.frames, SEAM_STEPS)
    const signatures = new Map<number, Signature>()
    for (const index of [...new Set(pairs.flat())].sort((a, b) => a - b))
      signatures.set(index, signatureOf(await frame(index), kernels))
    const [step = 0, ...steps] = pairs.map(([a, b]) => distance(signatures.get(a)!, signatures.get(b)!))
    return seamOf(step, steps, MOVES)
  })()
  seams.set(facts, measured)
  measured.catch(() => seams.delete(facts))
  return measured
}

/**
 * The space that a file's label means for codes of a frame; null for sRGB's own, 'unknown' for one that is not drawn.
 */
function labelled({ tags }: SourceFacts, { transfer }: Frame): Space | 'unknown' | null {
  if (!tags || !isWide(tags)) return null
  // light has been coded as sRGB is by then, and only its primaries are left
  const [primaries, curve] = [tags[0], transfer === 'linear' ? 13 : tags[1]]
  if (!isWide([primaries, curve, 0])) return null
  return spaceOfTags([primaries, curve, 0]) ?? 'unknown'
}

/** A frame with its colours brought to sRGB: straight, of 16 bits. */
function inSrgb(frame: Frame, space: Space, kernels: Kernels): Frame {
  const picture = toPicture(frame, kernels)
  toSrgb(space)(picture.rgba, 0)
  return toFrame(picture, 16, kernels)
}

/** A delivery at a station. */
export interface Visiting {
  station: Station
  facts: SourceFacts
  /** The mode its sender means. */
  due: AlphaMode
  /** The frame that is looked at, counted from 0. */
  index: number
  scene: StationScene
  /** The stored frames as the file claims them. */
  frame: (index: number) => Promise<Frame>
  /** The source's own frame at that moment. */
  source?: Frame | null
}

/**
 * Paints and judges. The truth is the frame due at that
 * moment read in the mode its sender means, laid with premultiplied filtering in the same scene at the same size. With
 * the source's own frame at hand, what the file lacks of it is told as well.
 */
export async function visit(
  { station, facts, due, index, scene, frame, source = null }: Visiting,
  kernels: Kernels
): Promise<Visit> {
  const guest: Guest = { facts, due }
  const shown = frameShown(station, guest, index)
  const asked = station.takes(guest)
  const given = await frame(shown)
  const space = asked.colour ? labelled(facts, given) : null
  // colours are brought to sRGB on straight ones, and the picture is straight from then on
  const brought = (found: Frame): Frame =>
    typeof space === 'string' && space !== 'unknown' ? inSrgb(readAs(found, due), space, kernels) : found
  const stored = coded(given, kernels)
  const { width, height } = stored
  const meant = brought(shown === index ? stored : coded(await frame(index), kernels))
  const mode = meant === stored || asked.colour === undefined ? due : meant.alpha
  const takes = asked.colour === 'by-label' && meant.alpha.mode === 'straight' ? { ...asked, alpha: mode } : asked
  const truth = paint(
    readAs(meant, mode),
    taking(mode, takes.drawn === undefined ? {} : { drawn: takes.drawn }),
    scene,
    kernels
  )
  const pixels = paint(takes.colour === 'by-label' ? meant : stored, takes, scene, kernels)
  const error = pictureError(pixels, truth, width, kernels)
  const second = station.mistaken?.(guest)
  const mistaken = second ? pictureError(paint(stored, second, scene, kernels), truth, width, kernels) : null
  const judged = station.judge(guest, {
    error,
    mistaken,
    seam: station.seam ? await seamSeen(facts, frame, kernels) : null,
    label: asked.colour ? (space === 'unknown' ? 'unknown' : 'drawn') : null
  })
  // what was brought to sRGB is another colour than the source's codes, as it should be
  const held = space === null ? source : null
  const whole = held && held.width === width && held.height === height ? coded(held, kernels) : null
  const off = whole
    ? pictureError(
        truth,
        paint(whole, taking(whole.alpha, takes.drawn === undefined ? {} : { drawn: takes.drawn }), scene, kernels),
        width,
        kernels
      )
    : null
  return { width, height, pixels, error, source: off, ...againstSource(judged, off) }
}
